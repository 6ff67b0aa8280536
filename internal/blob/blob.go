// Package blob keeps bytes by their content: the key is the SHA-256 of what is
// stored, so the same file is kept once and nothing is ever overwritten. The
// files are in a folder.
package blob

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"os"
	"path/filepath"

	"gocloud.dev/blob"
	"gocloud.dev/blob/fileblob"
)

// Store is a content-addressed bucket. Safe for concurrent use.
type Store struct{ bucket *blob.Bucket }

// Open opens (and makes) a folder as a store.
func Open(dir string) (*Store, error) {
	dir, err := filepath.Abs(dir)
	if err != nil {
		return nil, err
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, err
	}
	b, err := fileblob.OpenBucket(dir, &fileblob.Options{NoTempDir: true, Metadata: fileblob.MetadataDontWrite})
	if err != nil {
		return nil, fmt.Errorf("blob folder %s: %w", dir, err)
	}
	return &Store{b}, nil
}

// Close lets go of the bucket.
func (s *Store) Close() error { return s.bucket.Close() }

func key(hash string) string { return hash[:2] + "/" + hash }

// Put stores data and returns its hash.
func (s *Store) Put(ctx context.Context, data []byte) (string, error) {
	sum := sha256.Sum256(data)
	hash := hex.EncodeToString(sum[:])
	ok, err := s.bucket.Exists(ctx, key(hash))
	if err != nil || ok {
		return hash, err
	}
	return hash, s.bucket.WriteAll(ctx, key(hash), data, nil)
}

// Get reads what was stored under a hash.
func (s *Store) Get(ctx context.Context, hash string) ([]byte, error) {
	if len(hash) != 64 {
		return nil, fmt.Errorf("hash %q: want 64 hex digits", hash)
	}
	return s.bucket.ReadAll(ctx, key(hash))
}
