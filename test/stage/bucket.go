package stage

import (
	"bufio"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"strconv"
	"strings"
	"sync"
	"time"
)

// Bucket is an object store in this process: what of the S3 protocol (REST API, PUT, GET,
// HEAD and DELETE of objects, signed by version 4) the application needs. It can be told
// to misbehave.
type Bucket struct {
	*httptest.Server
	mu      sync.Mutex
	objects map[string][]byte
	fault   func(w http.ResponseWriter, r *http.Request) bool
}

// BucketKey and BucketSecret are whom a bucket lets in.
const BucketKey, BucketSecret = "moss", "of the forest"

// NewBucket opens one, empty.
func NewBucket() *Bucket {
	b := &Bucket{objects: map[string][]byte{}}
	b.Server = httptest.NewServer(b)
	return b
}

// Address is where the application finds it.
func (b *Bucket) Address() string {
	return "s3://" + strings.TrimPrefix(b.URL, "http://") + "/files/of-ours?plain=1"
}

// Object is what was stored under a hash.
func (b *Bucket) Object(hash string) []byte {
	b.mu.Lock()
	defer b.mu.Unlock()
	return b.objects["/files/of-ours/"+hash[:2]+"/"+hash]
}

// Fault lets something answer in its place where it says that it did; nil ends that.
func (b *Bucket) Fault(f func(w http.ResponseWriter, r *http.Request) bool) {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.fault = f
}

func (b *Bucket) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	b.mu.Lock()
	fault := b.fault
	b.mu.Unlock()
	if fault != nil && fault(w, r) {
		return
	}
	if sign := r.Header.Get("Authorization"); !strings.HasPrefix(sign, "AWS4-HMAC-SHA256 Credential="+BucketKey+"/") || !strings.Contains(sign, "Signature=") {
		http.Error(w, `<Error><Code>AccessDenied</Code></Error>`, http.StatusForbidden)
		return
	}
	body, err := content(r)
	if err != nil {
		http.Error(w, err.Error(), http.StatusBadRequest)
		return
	}
	b.mu.Lock()
	defer b.mu.Unlock()
	data, there := b.objects[r.URL.Path]
	switch {
	case r.Method == http.MethodPut:
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
