package web_test

import (
	"bytes"
	"encoding/json"
	"net/http"
	"net/url"
	"strings"
	"sync"
	"testing"

	"github.com/google/uuid"

	"aspenridge/internal/app"
	"aspenridge/test/stage"
)

// lines is a log that several may write.
type lines struct {
	mu sync.Mutex
	b  bytes.Buffer
}

func (l *lines) Write(p []byte) (int, error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.b.Write(p)
}

func (l *lines) String() string {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.b.String()
}

// TestBeforeAndAfterWithoutAVerdict: a piece somebody spoke of is seen as it was then, once it has
// changed, by who came by the link as well.
func TestBeforeAndAfterWithoutAVerdict(t *testing.T) {
	_, p, brief := withBrief(t)
	r, out := p.json(brief+"/proof/links", map[string]any{"for": "Anna"})
	p.must(r, out)
	at, err := url.Parse(out["address"].(string))
	if err != nil {
		t.Fatal(err)
	}
	anna := &person{t: t, client: newClient(t), base: p.base}
	way := strings.TrimSuffix(at.Path, "/")
	type piece struct{ Key, Large, Then string }
	pieces := func() map[string]piece {
		t.Helper()
		_, body := anna.get(way + "/state")
		var st struct{ Pieces []piece }
		if err := json.Unmarshal([]byte(body), &st); err != nil {
			t.Fatalf("%v: %.200s", err, body)
		}
		list := map[string]piece{}
		for _, one := range st.Pieces {
			list[one.Key] = one
		}
		return list
	}
	r, out = anna.json(way+"/say", map[string]any{"id": uuid.New(), "piece": "feed-square", "words": "Is it loud?", "name": "Anna"})
	anna.must(r, out)
	if then := pieces()["feed-square"].Then; then != "" {
		t.Errorf("a piece that did not change was otherwise before: %v", then)
	}
	r, out = p.json(brief+"/sync", map[string]any{"write": map[string]any{"field": "headline", "text": "Still water"}})
	p.must(r, out)
	now := pieces()
	one := now["feed-square"]
	if one.Then == "" || now["story"].Then != "" {
		t.Fatalf("before: %q, and of one nobody spoke of %q", one.Then, now["story"].Then)
	}
	seen := func(path string) string {
		t.Helper()
		r, body := anna.get(path)
		if r.StatusCode != http.StatusOK || r.Header.Get("Content-Type") != "image/webp" {
			t.Fatalf("%s: %s %s", path, r.Status, r.Header.Get("Content-Type"))
		}
		return body
	}
	if seen(one.Then) == seen(one.Large) {
		t.Error("it looks as it did before it was changed")
	}
	if r, _ := anna.get(way + "/then/" + strings.Repeat("0", 64)); r.StatusCode != http.StatusNotFound {
		t.Errorf("a picture nobody spoke of: %s", r.Status)
	}
}

// TestALinkWithAPassword: nothing of a set is shown, said or decided by a link before its
// password is said; its secret is in no log and in no address that is followed from it.
func TestALinkWithAPassword(t *testing.T) {
	var log lines
	s := open(t, stage.Options{Log: &log})
	p := join(t, s, "a@one.example")
	kit, err := s.App.Kits.NewKit(t.Context(), p.member, "Otter")
	if err != nil {
		t.Fatal(err)
	}
	id, err := s.App.Briefs.NewBrief(t.Context(), p.member, kit)
	if err != nil {
		t.Fatal(err)
	}
	r, out := p.json("/briefs/"+id.String()+"/proof/links", map[string]any{"for": "Anna <b>Quist</b>", "password": "otter pond", "days": 7})
	p.must(r, out)
	at, err := url.Parse(out["address"].(string))
	if err != nil || !strings.Contains(out["html"].(string), "Anna &lt;b&gt;Quist") {
		t.Fatalf("%v, %v", out, err)
	}
	anna := &person{t: t, client: newClient(t), base: p.base}
	way := strings.TrimSuffix(at.Path, "/")
	key := "feed-square"
	for _, path := range []string{"/state", "/pieces/small/" + key, "/events"} {
		if r, body := anna.send("GET", way+path, "", nil, "Accept", "application/json"); r.StatusCode != http.StatusForbidden {
			t.Errorf("%s before the password: %s %.100s", path, r.Status, body)
		}
	}
	for path, body := range map[string]any{
		"/say": map[string]any{"piece": key, "words": "x", "name": "A"}, "/decide": map[string]any{"verdict": "approved", "name": "A"}, "/settle": map[string]any{"thread": uuid.New(), "name": "A"},
	} {
		if r, out := anna.json(way+path, body); r.StatusCode != http.StatusForbidden {
			t.Errorf("%s before the password: %s %v", path, r.Status, out)
		}
	}
	r, page := anna.get(way + "/")
	if r.StatusCode != http.StatusOK || strings.Contains(page, "data-piece") || r.Header.Get("Referrer-Policy") != "no-referrer" {
		t.Errorf("%s, %q: %.300s", r.Status, r.Header.Get("Referrer-Policy"), page)
	}
	if r, _ := anna.form(way+"/unlock", url.Values{"password": {"otter lake"}}); !strings.HasSuffix(r.Header.Get("Location"), "?wrong") {
		t.Errorf("another password leads to %q", r.Header.Get("Location"))
	}
	if r, _ := anna.form(way+"/unlock", url.Values{"password": {"otter pond"}}); r.StatusCode != http.StatusSeeOther || strings.HasSuffix(r.Header.Get("Location"), "?wrong") {
		t.Errorf("the password: %s to %q", r.Status, r.Header.Get("Location"))
	}
	if _, page = anna.get(way + "/"); !strings.Contains(page, `data-piece="`+key+`"`) || strings.Contains(page, "data-new-link") {
		t.Errorf("the set is not shown, or links are: %.300s", page)
	}
	r, out = anna.json(way+"/say", map[string]any{"piece": key, "words": "<img src=x onerror=alert(1)>", "name": "Anna", "spot": []float64{0.5, 0.5}})
	anna.must(r, out)
	if r, body := anna.get(way + "/pieces/small/" + key); r.StatusCode != http.StatusOK || r.Header.Get("Content-Type") != "image/webp" || len(body) < 100 {
		t.Errorf("its picture: %s %s", r.Status, r.Header.Get("Content-Type"))
	}
	// a guest is nobody anywhere else
	for _, path := range []string{"/desk", "/briefs/" + id.String() + "/mat", "/briefs/" + id.String() + "/proof/", "/kits/" + kit.String()} {
		if r, _ := anna.get(path); r.StatusCode != http.StatusSeeOther || r.Header.Get("Location") != "/sign-in" {
			t.Errorf("%s as a guest: %s", path, r.Status)
		}
	}
	if r, out := anna.json("/briefs/"+id.String()+"/proof/links", map[string]any{"for": "me"}); r.StatusCode != http.StatusUnauthorized {
		t.Errorf("a guest makes a link: %s %v", r.Status, out)
	}
	// somebody else's workspace
	other := join(t, s, "b@two.example")
	for _, path := range []string{"/state", "/pieces/small/" + key} {
		if r, _ := other.get("/briefs/" + id.String() + "/proof" + path); r.StatusCode != http.StatusNotFound {
			t.Errorf("%s for somebody else: %s", path, r.Status)
		}
	}
	if r, _ := anna.get("/see/AAAAAAAAAAAAAAAAAAAAAAAAAA/"); r.StatusCode != http.StatusNotFound {
		t.Errorf("another link: %s", r.Status)
	}
	links, err := s.App.Proofs.Links(t.Context(), p.member, id)
	if err != nil {
		t.Fatal(err)
	}
	r, out = p.json("/briefs/"+id.String()+"/proof/links/end", map[string]any{"link": links[0].ID})
	p.must(r, out)
	if r, _ := anna.get(way + "/"); r.StatusCode != http.StatusNotFound {
		t.Errorf("an ended link: %s", r.Status)
	}
	if secret := strings.TrimPrefix(way, "/see/"); len(secret) < 22 || strings.Contains(log.String(), secret) || !strings.Contains(log.String(), "/see/…") {
		t.Error("the secret of a link is in the log, or nothing was logged")
	}
	room, err := s.App.Proofs.Room(t.Context(), p.member, id, 0)
	if err != nil || len(room.Comments) != 1 || room.Waiting() != (app.Waiting{Pieces: len(room.Pieces), Open: 1}) {
		t.Errorf("%+v, %v", room, err)
	}
}
