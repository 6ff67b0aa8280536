package web

import (
	"net/http"
	"net/http/httptest"
	"testing"

	"aspenridge/internal/app"
	"aspenridge/internal/gate"
)

// TestWhoReadsSlowlyHoldsNobodyUp: a request that has begun to write lets the next one
// compute, one that has not does not.
func TestWhoReadsSlowlyHoldsNobodyUp(t *testing.T) {
	s := &Server{app: &app.App{Composing: gate.New(1, 0)}}
	slow, first, second := make(chan struct{}), make(chan struct{}), make(chan struct{})
	h := s.byTurns(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/quick" {
			close(second)
			return
		}
		first <- struct{}{} // it is in
		<-first
		_, _ = w.Write([]byte("the first of it"))
		<-slow
	}))
	go h.ServeHTTP(httptest.NewRecorder(), httptest.NewRequest("GET", "/slow", nil))
	<-first
	go h.ServeHTTP(httptest.NewRecorder(), httptest.NewRequest("GET", "/quick", nil))
	for s.app.Composing.Waiting() == 0 { // the other one is not in yet
		select {
		case <-second:
			t.Fatal("two are in where there is room for one")
		default:
		}
	}
	first <- struct{}{} // it writes, and goes on
	<-second
	close(slow)
}
