package blob_test

import (
	"bytes"
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"net/http"
	"sync/atomic"
	"testing"
	"time"

	"aspenridge/internal/blob"
	"aspenridge/test/stage"
)

func open(t *testing.T, b *stage.Bucket, key string) *blob.Store {
	t.Helper()
	s, err := blob.Open(b.Address(), key, stage.BucketSecret)
	if err != nil {
		t.Fatal(err)
	}
	return s
}

func TestFilesInAnObjectStore(t *testing.T) {
	b := stage.NewBucket()
	t.Cleanup(b.Close)
	s := open(t, b, stage.BucketKey)
	large := make([]byte, 3<<20)
	_, _ = rand.Read(large)
	for _, data := range [][]byte{[]byte("moss"), {}, large} {
		hash, err := s.Put(t.Context(), data)
		if err != nil {
			t.Fatal(err)
		}
		if !bytes.Equal(b.Object(hash), data) {
			t.Errorf("%d bytes arrive as something else", len(data))
		}
		if again, err := s.Put(t.Context(), data); err != nil || again != hash {
			t.Errorf("the same again: %s %v", again, err)
		}
		if got, err := s.Get(t.Context(), hash); err != nil || !bytes.Equal(got, data) {
			t.Errorf("%d bytes come back as %d: %v", len(data), len(got), err)
		}
		if err := s.Remove(t.Context(), hash); err != nil {
			t.Error(err)
		}
		if _, err := s.Get(t.Context(), hash); !errors.Is(err, blob.ErrMissing) {
			t.Errorf("removed: %v", err)
		}
		if err := s.Remove(t.Context(), hash); err != nil {
			t.Errorf("removed twice: %v", err)
		}
	}
	if _, err := open(t, b, "lichen").Put(t.Context(), []byte("x")); err == nil || errors.Is(err, blob.ErrAway) {
		t.Errorf("with the wrong key: %v", err)
	}
}

func TestAnObjectStoreThatMisbehaves(t *testing.T) {
	b := stage.NewBucket()
	t.Cleanup(b.Close)
	s := open(t, b, stage.BucketKey)
	hash, err := s.Put(t.Context(), []byte("a file of some length"))
	if err != nil {
		t.Fatal(err)
	}
	get := func(ctx context.Context) error { _, err := s.Get(ctx, hash); return err }
	for name, c := range map[string]struct {
		fault func(w http.ResponseWriter, r *http.Request) bool
		want  error
	}{
		"it is down": {func(w http.ResponseWriter, _ *http.Request) bool {
			w.WriteHeader(http.StatusServiceUnavailable)
			return true
		}, blob.ErrAway},
		"it hangs up": {func(http.ResponseWriter, *http.Request) bool {
			panic(http.ErrAbortHandler)
		}, blob.ErrAway},
		"it sends another file": {func(w http.ResponseWriter, r *http.Request) bool {
			w.Header().Set("Last-Modified", time.Unix(0, 0).UTC().Format(http.TimeFormat))
			fmt.Fprint(w, "another file entirely")
			return true
		}, blob.ErrDamaged},
		"it promises more than it sends": {func(w http.ResponseWriter, r *http.Request) bool {
			w.Header().Set("Last-Modified", time.Unix(0, 0).UTC().Format(http.TimeFormat))
			w.Header().Set("Content-Length", "400")
			fmt.Fprint(w, "a file of some length")
			return true
		}, blob.ErrDamaged},
		"it sends less than there is": {func(w http.ResponseWriter, r *http.Request) bool {
			w.Header().Set("Last-Modified", time.Unix(0, 0).UTC().Format(http.TimeFormat))
			fmt.Fprint(w, "a file")
			return true
		}, blob.ErrDamaged},
	} {
		b.Fault(c.fault)
		if err := get(t.Context()); !errors.Is(err, c.want) {
			t.Errorf("%s: %v", name, err)
		}
	}
	// it says nothing: whoever asks goes away when they like
	b.Fault(func(_ http.ResponseWriter, r *http.Request) bool { <-r.Context().Done(); return true })
	ctx, cancel := context.WithTimeout(t.Context(), 50*time.Millisecond)
	defer cancel()
	if err := get(ctx); err == nil {
		t.Error("a store that says nothing gave a file")
	}
	// one bad moment is passed over
	var n atomic.Int64
	b.Fault(func(w http.ResponseWriter, _ *http.Request) bool {
		first := n.Add(1) == 1
		if first {
			w.WriteHeader(http.StatusServiceUnavailable)
		}
		return first
	})
	if err := get(t.Context()); err != nil {
		t.Errorf("after one refusal: %v", err)
	}
}

func TestAddresses(t *testing.T) {
	dir := t.TempDir()
	for _, address := range []string{dir + "/a", "file://" + dir + "/a"} {
		s, err := blob.Open(address, "", "")
		if err != nil {
			t.Fatal(err)
		}
		if _, err := s.Put(t.Context(), []byte("moss")); err != nil {
			t.Errorf("%s: %v", address, err)
		}
	}
	for _, address := range []string{"file://var/files", "s3://", "s3://host", "http://host/bucket", "s3://host/bucket"} {
		if _, err := blob.Open(address, "", ""); err == nil {
			t.Errorf("%s was opened", address)
		}
	}
}
