package web

import (
	"io"
	"net/http"
	"time"
)

// The times a client has to send the body of a request. Nobody keeps a
// connection open by sending one byte at a time.
const (
	smallBody = 15 * time.Second
	// uploadRate is the least speed, in bytes a second, a file may come in at.
	uploadRate = 50_000
)

// within gives the client a time to send the body in, and d at least. A body
// that says its size has longer, by its size.
func within(d time.Duration, rate int64) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			if r.ContentLength == 0 {
				next.ServeHTTP(w, r)
				return
			}
			d := d
			if rate > 0 && r.ContentLength > 0 {
				d += time.Duration(r.ContentLength/rate) * time.Second
			}
			rc := http.NewResponseController(w)
			_ = rc.SetReadDeadline(time.Now().Add(d))
			r.Body = &timedBody{r.Body, rc}
			next.ServeHTTP(w, r)
		})
	}
}

// timedBody lifts the deadline once the body is read: what comes after it may
// take as long as it takes, and hears when the client leaves.
type timedBody struct {
	io.ReadCloser
	rc *http.ResponseController
}

func (b *timedBody) Read(p []byte) (int, error) {
	n, err := b.ReadCloser.Read(p)
	if err == io.EOF {
		_ = b.rc.SetReadDeadline(time.Time{})
	}
	return n, err
}
