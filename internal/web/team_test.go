package web_test

import (
	"net/http"
	"net/url"
	"strings"
	"testing"

	"aspenridge/test/stage"
)

// TestWhoOnlyLooks: who may change nothing is led from every page on which things are changed
// to one on which they are looked at, sees no control that changes something, and is refused
// what they ask for all the same.
func TestWhoOnlyLooks(t *testing.T) {
	s := open(t, stage.Options{})
	owner := join(t, s, "a@one.example")
	kit, err := s.App.Kits.NewKit(t.Context(), owner.member, "Otter")
	if err != nil {
		t.Fatal(err)
	}
	id, err := s.App.Briefs.NewBrief(t.Context(), owner.member, kit)
	if err != nil {
		t.Fatal(err)
	}
	brief, kitAt := "/briefs/"+id.String(), "/kits/"+kit.String()
	for _, role := range []string{"commenter", "viewer"} {
		p := join(t, s, role+"@two.example")
		r, page := owner.form("/team/invite", url.Values{"role": {role}})
		if r.StatusCode != http.StatusOK {
			t.Fatal(r.Status)
		}
		_, way, _ := strings.Cut(page, `value="`+s.URL+`/join/`)
		way, _, _ = strings.Cut(way, `"`)
		if _, page := p.get("/join/" + way); !strings.Contains(page, "Somebody") || !strings.Contains(page, role) {
			t.Errorf("the invitation: %.400s", page)
		}
		if r, _ := p.form("/join/"+way, nil); r.Header.Get("Location") != "/desk" {
			t.Fatalf("coming in: %s to %q", r.Status, r.Header.Get("Location"))
		}
		for path, want := range map[string]string{
			brief + "/start": brief + "/proof/", brief + "/looks": brief + "/proof/", brief + "/mat": brief + "/proof/", brief + "/video": brief + "/proof/", brief + "/handover": brief + "/proof/",
			kitAt: kitAt + "/guidelines", "/kits": "/desk", "/kits/new": "/desk", "/channels": "/desk",
		} {
			if r, _ := p.get(path); r.StatusCode != http.StatusSeeOther || r.Header.Get("Location") != want {
				t.Errorf("%s as a %s: %s to %q, want %q", path, role, r.Status, r.Header.Get("Location"), want)
			}
		}
		for _, path := range []string{"/desk", brief + "/proof/", kitAt + "/guidelines", "/team"} {
			r, page := p.get(path)
			if r.StatusCode != http.StatusOK {
				t.Errorf("%s as a %s: %s", path, role, r.Status)
			}
			for _, control := range []string{`action="/briefs"`, `action="/documents/`, "data-give-form", "data-give-kit", "data-new-link", "data-undo @click", "/team/invite", "/team/role", "data-share", `class="road"`} {
				if strings.Contains(page, control) {
					t.Errorf("%s shows a %s %s", path, role, control)
				}
			}
		}
		// what is asked for all the same
		for path, body := range map[string]any{
			brief + "/edit": map[string]any{"client": "x", "path": "/name", "value": "mine", "base": 1 << 40}, brief + "/sync": map[string]any{"client": "x", "write": map[string]any{"field": "headline", "reach": "set", "text": "mine"}},
			kitAt + "/edit": map[string]any{"client": "x", "action": "set", "path": "/$extensions/aspenridge/name", "value": "mine"}, brief + "/proof/links": map[string]any{"for": "me"},
		} {
			if r, out := p.json(path, body); r.StatusCode != http.StatusForbidden {
				t.Errorf("%s as a %s: %s %v", path, role, r.Status, out)
			}
		}
		for path, form := range map[string]url.Values{
			"/briefs": {"kit": {kit.String()}}, "/kits": {}, "/documents/" + id.String() + "/archive": {}, "/team/invite": {"role": {"owner"}}, "/team/role": {"person": {p.member.ID.String()}, "role": {"owner"}}, brief + "/finish": {}, brief + "/again": {"how": {"copy"}},
		} {
			if r, _ := p.form(path, form); r.StatusCode != http.StatusForbidden {
				t.Errorf("%s as a %s: %s", path, role, r.Status)
			}
		}
		said := map[string]any{"piece": "feed-square", "words": "Is it loud?"}
		want := map[string]int{"commenter": http.StatusOK, "viewer": http.StatusForbidden}[role]
		if r, out := p.json(brief+"/proof/say", said); r.StatusCode != want {
			t.Errorf("a %s says something: %s %v", role, r.Status, out)
		}
		// one's own workspace is a click away, and the session remembers it
		if r, _ := p.form("/workspaces/open", url.Values{"workspace": {p.member.Workspace.String()}}); r.StatusCode != http.StatusSeeOther {
			t.Error(r.Status)
		}
		if r, _ := p.get(brief + "/proof/"); r.StatusCode != http.StatusNotFound {
			t.Errorf("another workspace's brief from one's own: %s", r.Status)
		}
		if r, _ := p.get("/kits"); r.StatusCode != http.StatusOK {
			t.Errorf("one's own kits: %s", r.Status)
		}
	}
	// a place one goes on to is an invitation or nothing
	for _, next := range []string{"https://evil.example/", "//evil.example", "/join/../desk", "/join/x?y", "/kits"} {
		if r, _ := owner.form("/sign-in", url.Values{"email": {"a@one.example"}, "password": {password}, "next": {next}}); r.Header.Get("Location") != "/desk" {
			t.Errorf("signing in leads to %q", r.Header.Get("Location"))
		}
	}
}
