package web_test

import (
	"net/http"
	"net/url"
	"strings"
	"sync"
	"testing"

	"aspenridge/internal/core/starter"
	"aspenridge/test/stage"
)

// TestWhatIsMadeTwiceIsMadeOnce: every request that makes something answers the same when it arrives
// again with the id of its change, one after the other or at once, and one thing is there.
func TestWhatIsMadeTwiceIsMadeOnce(t *testing.T) {
	s := open(t, stage.Options{})
	p := join(t, s, "a@one.example")
	kit := p.newKit("Otter")
	brief := p.newBrief(kit)
	p.must(p.json("/briefs/"+brief+"/edit", map[string]any{"path": "/cards/0/headline", "value": "Quiet water"}))
	count := func(what string) (n int) {
		t.Helper()
		if err := s.Store.Pool.QueryRow(t.Context(), what).Scan(&n); err != nil {
			t.Fatal(err)
		}
		return n
	}
	const documents = `select count(*) from documents where kind <> 'channels'`
	for name, c := range map[string]struct {
		at, body, kind string
		count          string
	}{
		"a brief":            {"/briefs", url.Values{"kit": {kit}}.Encode(), "", documents},
		"a kit":              {"/kits", url.Values{"name": {"Heron"}}.Encode(), "", documents},
		"a kit begun":        {"/kits/begin", url.Values{"name": {"Heron"}, "direction": {starter.Directions()[0].ID}}.Encode(), "", documents},
		"a copy of a kit":    {"/kits/" + kit + "/duplicate", "", "", documents},
		"the same again":     {"/briefs/" + brief + "/again", url.Values{"how": {"copy"}}.Encode(), "", documents},
		"a workspace":        {"/workspaces", url.Values{"name": {"Another"}}.Encode(), "", `select count(*) from workspaces`},
		"an invitation":      {"/team/invite", url.Values{"role": {"viewer"}}.Encode(), "", `select count(*) from invitations`},
		"a link":             {"/briefs/" + brief + "/proof/links", `{"for": "Ida"}`, "application/json", `select count(*) from proof_links`},
		"a page for a phone": {"/briefs/" + brief + "/phone", `{}`, "application/json", `select count(*) from phone_links`},
		"a comment":          {"/briefs/" + brief + "/proof/say", `{"piece": "feed-square", "words": "Lovely"}`, "application/json", `select count(*) from proof_comments`},
	} {
		if c.kind == "" {
			c.kind = "application/x-www-form-urlencoded"
		}
		before := count(c.count)
		var mu sync.Mutex
		answers := map[string]int{}
		send := func() {
			r, body := p.send("POST", c.at, c.kind, strings.NewReader(c.body), "X-Change", "change of "+name)
			answer := r.Status + " " + r.Header.Get("Location")
			if r.StatusCode >= 400 {
				answer += body
			}
			mu.Lock()
			defer mu.Unlock()
			answers[answer]++
		}
		send()
		var both sync.WaitGroup
		both.Go(send)
		both.Go(send)
		both.Wait()
		if n := count(c.count) - before; n != 1 || len(answers) != 1 {
			t.Errorf("%s, asked for three times: %d are there, answered %v", name, n, answers)
		}
		for a := range answers {
			if !strings.HasPrefix(a, "200") && !strings.HasPrefix(a, "303") {
				t.Errorf("%s: %s", name, a)
			}
		}
		if name == "a workspace" { // back to the first
			p.form("/workspaces/open", url.Values{"workspace": {p.member.Workspace.String()}})
		}
	}
	// without an id each is a new one, and a form says its own
	before := count(documents)
	for _, change := range []string{"", "", "x", "x"} {
		if r, _ := p.form("/kits", url.Values{"name": {"Plain"}, "change": {change}}); r.StatusCode != http.StatusSeeOther {
			t.Fatal(r.Status)
		}
	}
	if n := count(documents) - before; n != 3 {
		t.Errorf("two requests without an id and one twice made %d kits, want 3", n)
	}
}
