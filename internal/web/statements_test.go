package web_test

import (
	"bytes"
	"fmt"
	"image/color"
	"net/http"
	"strings"
	"sync"
	"testing"

	"aspenridge/internal/app"
	"aspenridge/internal/store"
	"aspenridge/test/stage"
)

// counted is a server whose requests remember what they asked the database.
type counted struct {
	mu    sync.Mutex
	trace map[string]*store.Trace // by method and path, of the last request
	all   map[string]bool         // every statement there was, nil for nobody wants to know
}

func (c *counted) wrap(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		ctx, trace := store.WithTrace(r.Context())
		c.mu.Lock()
		c.trace[r.Method+" "+r.URL.Path] = trace
		c.mu.Unlock()
		next.ServeHTTP(w, r.WithContext(ctx))
		c.mu.Lock()
		defer c.mu.Unlock()
		for _, statement := range trace.Statements() {
			if c.all != nil {
				c.all[statement] = true
			}
		}
	})
}

// statements are those of the last request of a method and path.
func (c *counted) statements(t *testing.T, request string) []string {
	t.Helper()
	c.mu.Lock()
	defer c.mu.Unlock()
	trace := c.trace[request]
	if trace == nil {
		t.Fatalf("there was no %s", request)
	}
	return trace.Statements()
}

// TestStatements: a key on the Mat and a page of a list ask the database little, however
// much there is.
func TestStatements(t *testing.T) {
	c := &counted{trace: map[string]*store.Trace{}}
	s := open(t, stage.Options{Wrap: c.wrap})
	p := join(t, s, "few@x.example")
	kit := p.newKit("Larkmoor")
	for range 14 {
		p.newKit("Another")
	}
	var brief string
	for range 30 {
		brief = p.newBrief(kit)
	}
	for round := range 2 { // the first one fills what is kept in memory
		p.get("/briefs/" + brief + "/mat")
		for i, key := range []string{"Q", "Qu", "Qui"} {
			r, body := p.changed(fmt.Sprint(round, "key", i), "/briefs/"+brief+"/sync", map[string]any{"client": "c1", "base": app.Latest, "have": map[string]any{}, "write": map[string]any{"card": "", "field": "headline", "reach": "set", "text": key}})
			p.must(r, body)
			if body["undo"] != true {
				t.Errorf("after a key nothing can be taken back: %v", body["undo"])
			}
		}
		p.get("/desk")
		p.get("/kits")
		p.get("/kits/" + kit)
	}
	// a kit that was changed is read anew, and asks once for all of its pictures
	for i := range 9 {
		p.must(p.upload("/kits/"+kit+"/pictures", fmt.Sprintf("%d.png", i), bytes.NewReader(squarePNG(t, 40, 40, color.NRGBA{uint8(20 * i), 60, 90, 255}))))
	}
	p.get("/kits/" + kit)
	for request, most := range map[string]int{"POST /briefs/" + brief + "/sync": 6, "GET /briefs/" + brief + "/mat": 6, "GET /desk": 6, "GET /kits": 6, "GET /kits/" + kit: 12} {
		if list := c.statements(t, request); len(list) > most {
			t.Errorf("%s sends %d statements:\n%s", request, len(list), strings.Join(list, "\n"))
		}
	}
}

// TestOneChangeOfASetAtATime: a request of the Mat says one change by its name; two of them, and one
// that is not what the page sends, are refused and change nothing.
func TestOneChangeOfASetAtATime(t *testing.T) {
	s := open(t, stage.Options{})
	p := join(t, s, "one@x.example")
	brief := p.newBrief(p.newKit("Larkmoor"))
	seq := func() int64 { return p.set(s, brief).Doc.Seq }
	before := seq()
	for name, body := range map[string]map[string]any{
		"two changes":      {"write": map[string]any{"field": "headline", "reach": "set", "text": "Quiet"}, "liftAll": "set"},
		"a hand of text":   {"hand": "left"},
		"places as a word": {"places": "feed-square"},
	} {
		body["client"], body["base"] = "c1", app.Latest
		if r, _ := p.json("/briefs/"+brief+"/sync", body); r.StatusCode != http.StatusUnprocessableEntity {
			t.Errorf("%s: %s", name, r.Status)
		}
	}
	if now := seq(); now != before {
		t.Errorf("the brief was at %d and is at %d", before, now)
	}
	// what is empty is no change
	p.must(p.json("/briefs/"+brief+"/sync", map[string]any{"client": "c1", "base": app.Latest, "intoKit": "", "keep": false, "revert": "", "hand": nil, "write": map[string]any{"field": "headline", "reach": "set", "text": "Quiet"}}))
}
