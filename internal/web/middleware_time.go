package web

import (
	"context"
	"net/http"
	"time"
)

// answerTime is how long an answer may take that draws no files: a database that
// says nothing any more is taken for one that is away.
const answerTime = 20 * time.Second

// inTime gives up on an answer that takes too long.
func inTime(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		ctx, cancel := context.WithTimeout(r.Context(), answerTime)
		defer cancel()
		next.ServeHTTP(w, r.WithContext(ctx))
	})
}
