package blob

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/url"
	"path"
	"strings"
	"time"

	"github.com/minio/minio-go/v7"
	"github.com/minio/minio-go/v7/pkg/credentials"
)

// objects keeps files in a bucket of an object store.
type objects struct {
	client *minio.Client
	bucket string
	prefix string
}

// silence is how long an object store may say nothing.
const silence = 10 * time.Second

func openS3(u *url.URL, key, secret string) (objects, error) {
	bucket, prefix, _ := strings.Cut(strings.Trim(u.Path, "/"), "/")
	if u.Host == "" || bucket == "" {
		return objects{}, fmt.Errorf("files at %q: want s3://host:port/bucket", u.Redacted())
	}
	if key == "" || secret == "" {
		return objects{}, errors.New("files in an object store want a key and a secret (ASPENRIDGE_FILES_KEY, ASPENRIDGE_FILES_SECRET)")
	}
	q := u.Query()
	region := q.Get("region")
	if region == "" {
		region = "us-east-1" // what the protocol takes for one that is not named
	}
	client, err := minio.New(u.Host, &minio.Options{
		Creds: credentials.NewStaticV4(key, secret, ""), Secure: q.Get("plain") == "", Region: region, BucketLookup: minio.BucketLookupPath, MaxRetries: 3,
		Transport: &http.Transport{
			DialContext: (&net.Dialer{Timeout: 3 * time.Second}).DialContext, TLSHandshakeTimeout: 5 * time.Second,
			ResponseHeaderTimeout: silence, MaxIdleConnsPerHost: 16, IdleConnTimeout: time.Minute,
		},
	})
	return objects{client, bucket, prefix}, err
}

func (o objects) name(key string) string { return path.Join(o.prefix, key) }

func (o objects) put(ctx context.Context, key string, body io.ReadSeeker, size int64) error {
	_, err := o.client.PutObject(ctx, o.bucket, o.name(key), body, size, minio.PutObjectOptions{ContentType: "application/octet-stream"})
	return o.explain(err)
}

func (o objects) open(ctx context.Context, key string) (io.ReadCloser, error) {
	core := minio.Core{Client: o.client}
	r, _, _, err := core.GetObject(ctx, o.bucket, o.name(key), minio.GetObjectOptions{})
	if err != nil {
		return nil, o.explain(err)
	}
	return explained{r, o}, nil
}

func (o objects) has(ctx context.Context, key string) (bool, error) {
	_, err := o.client.StatObject(ctx, o.bucket, o.name(key), minio.StatObjectOptions{})
	if err = o.explain(err); errors.Is(err, ErrMissing) {
		return false, nil
	}
	return err == nil, err
}

func (o objects) remove(ctx context.Context, key string) error {
	if err := o.explain(o.client.RemoveObject(ctx, o.bucket, o.name(key), minio.RemoveObjectOptions{})); !errors.Is(err, ErrMissing) {
		return err
	}
	return nil
}

// explain tells what is not there from what cannot be reached.
// free: an object store says nothing of its room.
func (objects) free() (float64, error) { return 1, nil }

func (o objects) explain(err error) error {
	if err == nil || errors.Is(err, context.Canceled) {
		return err
	}
	said := minio.ToErrorResponse(err)
	switch {
	case said.StatusCode == http.StatusNotFound && said.Code != "NoSuchBucket":
		return ErrMissing
	case said.StatusCode >= http.StatusBadRequest && said.StatusCode < http.StatusInternalServerError && said.StatusCode != http.StatusTooManyRequests:
		return fmt.Errorf("the object store refuses: %w", err)
	}
	return fmt.Errorf("%w: %w", ErrAway, err)
}

// explained says of a body that breaks off that the store is away.
type explained struct {
	io.ReadCloser
	o objects
}

func (e explained) Read(p []byte) (int, error) {
	n, err := e.ReadCloser.Read(p)
	if err != nil && !errors.Is(err, io.EOF) && !errors.Is(err, io.ErrUnexpectedEOF) {
		err = e.o.explain(err)
	}
	return n, err
}
