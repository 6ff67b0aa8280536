package blob

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"syscall"
	"time"
)

// folder keeps files in a folder: first in a corner of it, then, when they are on the
// disk, renamed in one step.
type folder string

// arriving is the corner of files that are not all there yet.
const arriving = "arriving"

func openFolder(dir string) (folder, error) {
	dir, err := filepath.Abs(dir)
	if err == nil {
		err = os.MkdirAll(filepath.Join(dir, arriving), 0o700)
	}
	if err != nil {
		return "", fmt.Errorf("folder of files: %w", err)
	}
	return folder(dir), nil
}

func (f folder) path(key string) string { return filepath.Join(string(f), filepath.FromSlash(key)) }

func (f folder) put(_ context.Context, key string, body io.ReadSeeker, _ int64) (err error) {
	path := f.path(key)
	if err := os.MkdirAll(filepath.Dir(path), 0o700); err != nil {
		return err
	}
	tmp, err := os.CreateTemp(filepath.Join(string(f), arriving), "")
	if err != nil {
		return err
	}
	_, err = io.Copy(tmp, body)
	if err == nil {
		err = tmp.Sync()
	}
	if cerr := tmp.Close(); err == nil {
		err = cerr
	}
	if err == nil {
		err = os.Rename(tmp.Name(), path)
	}
	if err != nil {
		_ = os.Remove(tmp.Name())
	}
	return err
}

func (f folder) open(_ context.Context, key string) (io.ReadCloser, error) {
	r, err := os.Open(f.path(key))
	if errors.Is(err, fs.ErrNotExist) {
		return nil, ErrMissing
	}
	return r, err
}

func (f folder) has(_ context.Context, key string) (bool, error) {
	_, err := os.Stat(f.path(key))
	if errors.Is(err, fs.ErrNotExist) {
		return false, nil
	}
	return err == nil, err
}

func (f folder) remove(_ context.Context, key string) error {
	if err := os.Remove(f.path(key)); !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	return nil
}

// free is the share of the disk the folder is on.
func (f folder) free() (float64, error) {
	var disk syscall.Statfs_t
	if err := syscall.Statfs(string(f), &disk); err != nil || disk.Blocks == 0 {
		return 1, err
	}
	return float64(disk.Bavail) / float64(disk.Blocks), nil
}

func (f folder) sweep(before time.Time) error {
	list, err := os.ReadDir(filepath.Join(string(f), arriving))
	for _, e := range list {
		info, ierr := e.Info()
		if ierr == nil && info.ModTime().Before(before) {
			ierr = os.Remove(filepath.Join(string(f), arriving, e.Name()))
		}
		if !errors.Is(ierr, fs.ErrNotExist) { // gone meanwhile: it has arrived
			err = errors.Join(err, ierr)
		}
	}
	return err
}
