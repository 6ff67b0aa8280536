package web_test

import (
	"net/http"
	"testing"
	"time"

	"aspenridge/test/stage"
)

// A database that says nothing any more counts as away: pages say so instead of
// waiting for ever, and come again once it is back.
func TestASilentDatabaseIsAway(t *testing.T) {
	t.Parallel() // it waits, most of the time
	s := open(t, stage.Options{Far: true})
	p := join(t, s, "a@one.example")
	kit := p.newKit("House")
	s.Proxy.Set(stage.Silent)
	start := time.Now()
	if r, _ := p.get("/kits/" + kit); r.StatusCode != http.StatusServiceUnavailable || r.Header.Get("Refresh") == "" {
		t.Errorf("answered %s", r.Status)
	}
	t.Log("answered after", time.Since(start))
	s.Proxy.Set(stage.Refused)
	s.Proxy.Set(stage.Fair)
	for n := 0; ; n++ {
		r, _ := p.get("/kits/" + kit)
		if r.StatusCode == http.StatusOK {
			return
		}
		if n > 30 {
			t.Fatalf("still %s", r.Status)
		}
	}
}
