package web_test

import (
	"fmt"
	"net/http"
	"sync"
	"testing"

	"github.com/jackc/pgx/v5"

	"aspenridge/test/stage"
)

// TestALockKeepsNobodyElseWaiting: while many changes of one kit and its brief wait for a lock that is
// held as long as somebody likes, pages and changes of another workspace are answered.
func TestALockKeepsNobodyElseWaiting(t *testing.T) {
	s := open(t, stage.Options{})
	p, other := join(t, s, "a@one.example"), join(t, s, "b@two.example")
	kit := p.newKit("Otter")
	brief := p.newBrief(kit)
	theirs := other.newKit("Heron")
	page := other.newBrief(theirs)

	conn, err := pgx.Connect(t.Context(), s.Store.Pool.Config().ConnString())
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = conn.Close(t.Context()) }()
	tx, err := conn.Begin(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	if _, err := tx.Exec(t.Context(), `select from documents where id = any($1) for update`, []string{kit, brief}); err != nil {
		t.Fatal(err)
	}
	var waiting sync.WaitGroup
	answers := make(chan string, 40)
	for i := range 20 {
		for at, body := range map[string]map[string]any{
			"/kits/" + kit + "/edit":     {"action": "set", "path": "/$extensions/aspenridge/tagline", "value": fmt.Sprint("word ", i)},
			"/briefs/" + brief + "/edit": {"path": "/cards/0/headline", "value": fmt.Sprint("word ", i)},
		} {
			waiting.Go(func() {
				r, _ := p.json(at, body)
				answers <- r.Status
			})
		}
	}
	for { // until as many wait as ever will: one for each
		var n int
		if err := s.Store.Pool.QueryRow(t.Context(), `select count(*) from pg_stat_activity where wait_event_type = 'Lock' and datname = current_database()`).Scan(&n); err != nil {
			t.Fatal(err)
		}
		if n > 2 {
			t.Fatalf("%d connections wait for one lock each, want one for the kit and one for the brief", n)
		}
		if n == 2 {
			break
		}
	}
	for range 10 {
		for _, path := range []string{"/desk", "/briefs/" + page + "/start", "/kits/" + theirs} {
			if r, _ := other.get(path); r.StatusCode != http.StatusOK {
				t.Errorf("%s: %s", path, r.Status)
			}
		}
		other.must(other.json("/briefs/"+page+"/edit", map[string]any{"path": "/cards/0/headline", "value": "Slow water"}))
	}
	if len(answers) > 0 {
		t.Errorf("a change was answered (%s) though it is locked", <-answers)
	}
	if err := tx.Rollback(t.Context()); err != nil {
		t.Fatal(err)
	}
	waiting.Wait()
	close(answers)
	for status := range answers {
		if status != "200 OK" {
			t.Errorf("once the lock is gone: %s", status)
		}
	}
}
