package blob_test

import (
	"bytes"
	"errors"
	"io/fs"
	"iter"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"aspenridge/internal/blob"
)

func TestContentIsItsOwnKey(t *testing.T) {
	dir := t.TempDir()
	b, err := blob.Open(dir, "", "")
	if err != nil {
		t.Fatal(err)
	}
	one, err := b.Put(t.Context(), []byte("moss"))
	if err != nil {
		t.Fatal(err)
	}
	// SHA-256 of "moss", by sha256sum of GNU coreutils
	if one != "9e135ab954828446379a956e7e12eb7254a482059c765a4e055b617ffe624057" {
		t.Errorf("hash %s", one)
	}
	if again, err := b.Put(t.Context(), []byte("moss")); err != nil || again != one {
		t.Errorf("the same again: %s %v", again, err)
	}
	if b, err = blob.Open(dir, "", ""); err != nil {
		t.Fatal(err)
	}
	if data, err := b.Get(t.Context(), one); err != nil || !bytes.Equal(data, []byte("moss")) {
		t.Errorf("after opening again: %q %v", data, err)
	}
	for _, hash := range []string{"", "../../etc/passwd", one[:63] + "x"} {
		if _, err := b.Get(t.Context(), hash); err == nil {
			t.Errorf("%q was found", hash)
		}
	}
}

// A disk that is full takes no file, keeps no part of one, and takes it once there is
// room.
func TestTheDiskIsFull(t *testing.T) {
	dir := t.TempDir()
	if err := syscall.Mount("none", dir, "tmpfs", 0, "size=256k"); err != nil {
		t.Skip("only root can make a disk that is full: ", err)
	}
	t.Cleanup(func() { _ = syscall.Unmount(dir, 0) })
	b, err := blob.Open(dir, "", "")
	if err != nil {
		t.Fatal(err)
	}
	first, err := b.Put(t.Context(), bytes.Repeat([]byte("moss"), 40_000))
	if err != nil {
		t.Fatal(err)
	}
	fern := bytes.Repeat([]byte("fern"), 40_000)
	if _, err := b.Put(t.Context(), fern); !errors.Is(err, syscall.ENOSPC) {
		t.Errorf("on a full disk: %v", err)
	}
	for path, err := range files(dir) {
		if err != nil || !strings.HasSuffix(path, first) {
			t.Errorf("left on the full disk: %s %v", path, err)
		}
	}
	if err := b.Remove(t.Context(), first); err != nil {
		t.Fatal(err)
	}
	hash, err := b.Put(t.Context(), fern)
	if err != nil {
		t.Fatal(err)
	}
	if data, err := b.Get(t.Context(), hash); err != nil || !bytes.Equal(data, fern) {
		t.Errorf("once there is room: %d bytes, %v", len(data), err)
	}
}

// files are the paths of all files under a folder.
func files(dir string) iter.Seq2[string, error] {
	return func(yield func(string, error) bool) {
		_ = filepath.WalkDir(dir, func(path string, e fs.DirEntry, err error) error {
			if (err != nil || e.Type().IsRegular()) && !yield(path, err) {
				return fs.SkipAll
			}
			return nil
		})
	}
}

func TestWhatNeverArrivedIsSwept(t *testing.T) {
	dir := t.TempDir()
	b, err := blob.Open(dir, "", "")
	if err != nil {
		t.Fatal(err)
	}
	kept, err := b.Put(t.Context(), []byte("moss"))
	if err != nil {
		t.Fatal(err)
	}
	half := filepath.Join(dir, "arriving", "123") // as a server leaves it that was killed
	if err := os.WriteFile(half, []byte("mo"), 0o600); err != nil {
		t.Fatal(err)
	}
	if err := b.Sweep(time.Now().Add(-time.Hour)); err != nil {
		t.Fatal(err)
	}
	if _, err := os.Stat(half); err != nil {
		t.Errorf("what is still arriving is gone: %v", err)
	}
	if err := b.Sweep(time.Now().Add(time.Hour)); err != nil {
		t.Fatal(err)
	}
	if _, err := os.Stat(half); !errors.Is(err, fs.ErrNotExist) {
		t.Errorf("what never arrived is still there: %v", err)
	}
	if _, err := b.Get(t.Context(), kept); err != nil {
		t.Errorf("a file was swept with it: %v", err)
	}
}
