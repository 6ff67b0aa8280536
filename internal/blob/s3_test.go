package blob_test

import (
	"bufio"
	"bytes"
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"aspenridge/internal/blob"
)

// bucket is an object store in this process: what of the S3 protocol (REST API, PUT, GET,
// HEAD and DELETE of objects, signed by version 4) the store needs. It can be told to
// misbehave.
type bucket struct {
	*httptest.Server
	mu      sync.Mutex
	objects map[string][]byte
	asked   int
	fault   func(w http.ResponseWriter, r *http.Request) bool // answers instead
}

func newBucket(t *testing.T) *bucket {
	b := &bucket{objects: map[string][]byte{}}
	b.Server = httptest.NewServer(b)
	t.Cleanup(b.Close)
	return b
}

func (b *bucket) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.asked++
	if b.fault != nil && b.fault(w, r) {
		return
	}
	if sign := r.Header.Get("Authorization"); !strings.HasPrefix(sign, "AWS4-HMAC-SHA256 Credential=moss/") || !strings.Contains(sign, "Signature=") {
		http.Error(w, `<Error><Code>AccessDenied</Code></Error>`, http.StatusForbidden)
		return
	}
	data, there := b.objects[r.URL.Path]
	switch {
	case r.Method == http.MethodPut:
		body, err := content(r)
		if err != nil {
			http.Error(w, err.Error(), http.StatusBadRequest)
			return
		}
		b.objects[r.URL.Path] = body
		w.Header().Set("ETag", `"0"`)
	case r.Method == http.MethodDelete:
		delete(b.objects, r.URL.Path)
		w.WriteHeader(http.StatusNoContent)
	case !there:
		w.Header().Set("Content-Type", "application/xml")
		w.WriteHeader(http.StatusNotFound)
		fmt.Fprint(w, `<Error><Code>NoSuchKey</Code></Error>`)
	default:
		w.Header().Set("Content-Length", strconv.Itoa(len(data)))
		w.Header().Set("Last-Modified", time.Unix(0, 0).UTC().Format(http.TimeFormat))
		w.Header().Set("ETag", `"0"`)
		if r.Method == http.MethodGet {
			_, _ = w.Write(data)
		}
	}
}

// content is what a request carries; over plain HTTP in signed chunks: their length in
// hex digits, their signature, their bytes.
func content(r *http.Request) ([]byte, error) {
	if !strings.HasPrefix(r.Header.Get("X-Amz-Content-Sha256"), "STREAMING-") {
		return io.ReadAll(r.Body)
	}
	in, out := bufio.NewReader(r.Body), []byte{}
	for {
		head, err := in.ReadString('\n')
		if err != nil {
			return nil, err
		}
		size, _, _ := strings.Cut(head, ";")
		n, err := strconv.ParseInt(size, 16, 64)
		if err != nil || n == 0 {
			return out, err
		}
		chunk := make([]byte, n+2)
		if _, err := io.ReadFull(in, chunk); err != nil {
			return nil, err
		}
		out = append(out, chunk[:n]...)
	}
}

func (b *bucket) open(t *testing.T, secret string) *blob.Store {
	t.Helper()
	s, err := blob.Open("s3://"+strings.TrimPrefix(b.URL, "http://")+"/files/of-ours?plain=1", secret, "of the forest")
	if err != nil {
		t.Fatal(err)
	}
	return s
}

func TestFilesInAnObjectStore(t *testing.T) {
	b := newBucket(t)
	s := b.open(t, "moss")
	large := make([]byte, 3<<20)
	_, _ = rand.Read(large)
	for _, data := range [][]byte{[]byte("moss"), {}, large} {
		hash, err := s.Put(t.Context(), data)
		if err != nil {
			t.Fatal(err)
		}
		if !bytes.Equal(b.objects["/files/of-ours/"+hash[:2]+"/"+hash], data) {
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
	if _, err := b.open(t, "lichen").Put(t.Context(), []byte("x")); err == nil || errors.Is(err, blob.ErrAway) {
		t.Errorf("with the wrong key: %v", err)
	}
}

func TestAnObjectStoreThatMisbehaves(t *testing.T) {
	b := newBucket(t)
	s := b.open(t, "moss")
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
		b.fault = c.fault
		if err := get(t.Context()); !errors.Is(err, c.want) {
			t.Errorf("%s: %v", name, err)
		}
	}
	// it says nothing: whoever asks goes away when they like
	b.fault = func(_ http.ResponseWriter, r *http.Request) bool { <-r.Context().Done(); return true }
	ctx, cancel := context.WithTimeout(t.Context(), 50*time.Millisecond)
	defer cancel()
	if err := get(ctx); err == nil {
		t.Error("a store that says nothing gave a file")
	}
	// one bad moment is passed over
	b.mu.Lock()
	n := 0
	b.fault = func(w http.ResponseWriter, _ *http.Request) bool {
		n++
		if n == 1 {
			w.WriteHeader(http.StatusServiceUnavailable)
		}
		return n == 1
	}
	b.mu.Unlock()
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
