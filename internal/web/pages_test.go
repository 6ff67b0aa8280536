package web_test

import (
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"github.com/google/uuid"

	"aspenridge/internal/app"
	"aspenridge/internal/core/edit"
)

// kitOf is the address of a brief's kit.
func kitOf(t *testing.T, p *person, brief string) string {
	t.Helper()
	_, page := p.get(brief + "/start")
	m := regexp.MustCompile(`data-kit="([^"]+)"`).FindStringSubmatch(page)
	if m == nil {
		t.Fatal("the page names no kit")
	}
	return "/kits/" + m[1]
}

// TestFinishedPiecesShowBeforeAndAfter: after the kit's lead colour changed, the
// page of a brief and that of its kit show each finished piece as it is and as it
// would be; bringing one forward takes it off both.
func TestFinishedPiecesShowBeforeAndAfter(t *testing.T) {
	s, p, brief := withBrief(t)
	kit := kitOf(t, p, brief)
	if r, answer := p.json(brief+"/finish?piece="+keyOf(t, s, p, brief, "story")+"&piece="+keyOf(t, s, p, brief, "feed-square"), map[string]any{}); r.StatusCode != http.StatusOK {
		t.Fatal(answer)
	}
	rows := func(path string) int {
		t.Helper()
		r, page := p.get(path + "/forward")
		if r.StatusCode != http.StatusOK {
			t.Fatal(path, r.Status)
		}
		return strings.Count(page, "/finished/")
	}
	if n := rows(brief) + rows(kit); n != 0 {
		t.Errorf("%d rows before anything changed", n)
	}
	if _, err := s.App.Documents.Edit(t.Context(), p.member, mustID(t, strings.TrimPrefix(kit, "/kits/")), app.Change{Base: app.Latest, Op: edit.Op{Path: "/color/main/river/$value", Value: []byte(`{"hex":"#7a2e3a"}`)}}); err != nil {
		t.Fatal(err)
	}
	if b, k := rows(brief), rows(kit); b != 2 || k != 2 {
		t.Fatalf("%d rows for the brief, %d for the kit, want two each", b, k)
	}
	_, page := p.get(brief + "/forward")
	old := regexp.MustCompile(`/briefs/[^"]+/finished/[^"]+`).FindString(page)
	_, before := p.get(strings.ReplaceAll(old, "&amp;", "&"))
	if !strings.Contains(before, "#0F3D4C") || strings.Contains(before, "#7A2E3A") {
		t.Error("the finished file has changed with the kit")
	}
	if !strings.Contains(page, "#7A2E3A") {
		t.Error("the page does not show how it would look now")
	}
	if r, _ := p.form("/forward", url.Values{"piece": {strings.TrimPrefix(brief, "/briefs/") + "/" + unescaped(keyOf(t, s, p, brief, "story"))}}); r.StatusCode != http.StatusSeeOther {
		t.Fatal(r.Status)
	}
	if b, k := rows(brief), rows(kit); b != 1 || k != 1 {
		t.Errorf("%d and %d rows after one was brought forward", b, k)
	}
	for _, bad := range []string{"nonsense", strings.TrimPrefix(brief, "/briefs/"), ""} {
		if r, _ := p.form("/forward", url.Values{"piece": {bad}}); r.StatusCode == http.StatusOK || r.StatusCode >= 500 {
			t.Errorf("piece %q: %s", bad, r.Status)
		}
	}
}

// TestTwoStatesOfAKit: the page of comparison names what changed and shows the
// pieces in both.
func TestTwoStatesOfAKit(t *testing.T) {
	s, p, brief := withBrief(t)
	kit := kitOf(t, p, brief)
	id := mustID(t, strings.TrimPrefix(kit, "/kits/"))
	if _, err := s.App.Documents.Edit(t.Context(), p.member, id, app.Change{Base: app.Latest, Op: edit.Op{Path: "/color/main/coral/$value", Value: []byte(`{"hex":"#2f8f5b"}`)}}); err != nil {
		t.Fatal(err)
	}
	list, err := s.App.Kits.Versions(t.Context(), p.member, id)
	if err != nil || len(list) == 0 {
		t.Fatalf("%d versions, %v", len(list), err)
	}
	r, page := p.get(kit + "/compare?a=1&b=0")
	if r.StatusCode != http.StatusOK {
		t.Fatal(r.Status)
	}
	for _, want := range []string{"Coral", "#F2694B", "#2F8F5B"} {
		if !strings.Contains(page, want) {
			t.Errorf("the page does not show %s", want)
		}
	}
	for _, q := range []string{"?a=99&b=0", "?a=x&b=y"} {
		if r, _ := p.get(kit + "/compare" + q); r.StatusCode >= 500 {
			t.Errorf("%s: %s", q, r.Status)
		}
	}
}

func mustID(t *testing.T, s string) app.ID {
	t.Helper()
	id, err := uuid.Parse(s)
	if err != nil {
		t.Fatal(err)
	}
	return id
}

func unescaped(s string) string { out, _ := url.QueryUnescape(s); return out }
