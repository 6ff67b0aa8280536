// Package blob keeps bytes by their content: the key is the SHA-256 of what is
// stored, so the same file is kept once and nothing is ever overwritten. They are in
// a folder, or in a bucket of an object store that speaks S3; what comes back is
// checked against its key, whatever the store says of it.
package blob

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"hash"
	"io"
	"net/url"
	"strings"
	"time"
)

// Why bytes cannot be had or kept.
var (
	ErrMissing = errors.New("the file is not there")
	ErrDamaged = errors.New("the file is not what was stored")
	ErrAway    = errors.New("where files are kept does not answer") // ask again later
)

// bucket is where bytes lie, by key. What is put is there wholly or not at all.
type bucket interface {
	free() (float64, error) // share of its room, 0-1
	put(ctx context.Context, key string, body io.ReadSeeker, size int64) error
	open(ctx context.Context, key string) (io.ReadCloser, error) // ErrMissing
	has(ctx context.Context, key string) (bool, error)
	remove(ctx context.Context, key string) error // one that is not there too
}

// Store is a content-addressed bucket. Safe for concurrent use.
type Store struct{ bucket bucket }

// Open opens a store by its address: a folder, as a path or as file:///path, which is
// made; or s3://host:port/bucket/prefix. An s3 address takes ?region= and ?plain=1
// (without TLS), its credentials are key and secret.
func Open(address, key, secret string) (*Store, error) {
	u, err := url.Parse(address)
	switch {
	case err == nil && u.Scheme == "s3":
		b, err := openS3(u, key, secret)
		return &Store{b}, err
	case err == nil && u.Scheme == "file":
		if u.Host != "" {
			return nil, fmt.Errorf("files at %q: want file:///path, with three strokes", address)
		}
		address = u.Path
	case strings.Contains(address, "://"):
		return nil, fmt.Errorf("files at %q: want a folder, file:///path or s3://host/bucket", address)
	}
	b, err := openFolder(address)
	return &Store{b}, err
}

func key(hash string) string { return hash[:2] + "/" + hash }

// Put stores data and returns its hash.
func (s *Store) Put(ctx context.Context, data []byte) (string, error) {
	return s.PutFrom(ctx, bytes.NewReader(data))
}

// PutFrom stores what a reader holds from its beginning, without holding it in memory,
// and returns its hash.
func (s *Store) PutFrom(ctx context.Context, body io.ReadSeeker) (string, error) {
	if _, err := body.Seek(0, io.SeekStart); err != nil {
		return "", err
	}
	sum := sha256.New()
	size, err := io.Copy(sum, body)
	if err != nil {
		return "", err
	}
	hash := hex.EncodeToString(sum.Sum(nil))
	if ok, err := s.bucket.has(ctx, key(hash)); err != nil || ok {
		return hash, err
	}
	if _, err := body.Seek(0, io.SeekStart); err != nil {
		return "", err
	}
	return hash, s.bucket.put(ctx, key(hash), body, size)
}

// Get reads what was stored under a hash.
func (s *Store) Get(ctx context.Context, hash string) ([]byte, error) {
	r, err := s.Reader(ctx, hash)
	if err != nil {
		return nil, err
	}
	defer r.Close()
	return io.ReadAll(r)
}

// Reader reads what was stored under a hash bit by bit; where it turns out to be
// something else, the end of it is ErrDamaged instead of io.EOF.
func (s *Store) Reader(ctx context.Context, hash string) (io.ReadCloser, error) {
	if raw, err := hex.DecodeString(hash); err != nil || len(raw) != sha256.Size {
		return nil, fmt.Errorf("hash %q: want 64 hex digits", hash)
	}
	r, err := s.bucket.open(ctx, key(hash))
	if err != nil {
		return nil, err
	}
	return &checked{r, sha256.New(), hash}, nil
}

// Open opens what was stored under a hash, to be read anywhere in it; what is read is not
// held against the hash.
func (s *Store) Open(ctx context.Context, hash string) (io.ReadSeekCloser, error) {
	if raw, err := hex.DecodeString(hash); err != nil || len(raw) != sha256.Size {
		return nil, fmt.Errorf("hash %q: want 64 hex digits", hash)
	}
	r, err := s.bucket.open(ctx, key(hash))
	if err != nil {
		return nil, err
	}
	if seeks, ok := r.(io.ReadSeekCloser); ok {
		return seeks, nil
	}
	_ = r.Close()
	return nil, errors.New("what is stored cannot be read from the middle")
}

// Remove forgets what was stored under a hash.
func (s *Store) Remove(ctx context.Context, hash string) error {
	if len(hash) != 2*sha256.Size {
		return nil
	}
	return s.bucket.remove(ctx, key(hash))
}

// Sweep removes what began to arrive before a time and never did, as when a server was
// ended in the middle. An object store keeps nothing of that.
func (s *Store) Sweep(before time.Time) error {
	if f, ok := s.bucket.(folder); ok {
		return f.sweep(before)
	}
	return nil
}

// Free is how much room there is still, as a share (0-1) of all.
func (s *Store) Free() (float64, error) { return s.bucket.free() }

type checked struct {
	io.ReadCloser
	sum  hash.Hash
	want string
}

func (c *checked) Read(p []byte) (int, error) {
	n, err := c.ReadCloser.Read(p)
	c.sum.Write(p[:n])
	switch {
	case errors.Is(err, io.EOF) && hex.EncodeToString(c.sum.Sum(nil)) != c.want, errors.Is(err, io.ErrUnexpectedEOF):
		err = fmt.Errorf("%w: %.8s", ErrDamaged, c.want)
	}
	return n, err
}
