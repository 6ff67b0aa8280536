package web_test

import (
	"bufio"
	"context"
	"errors"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	"aspenridge/internal/app"
	"aspenridge/internal/totp"
	"aspenridge/internal/web"
	"aspenridge/test/stage"
)

// TestSigningUpLetsNobodyIn: with the address and password of an account that asks for codes,
// signing up makes another account and shows nothing of the first; the answer is the same as for
// an address nobody has.
func TestSigningUpLetsNobodyIn(t *testing.T) {
	s := open(t, stage.Options{Web: web.Options{Mailbox: true}})
	p := join(t, s, "taken@one.example")
	kit := p.newKit("Mine")
	secret := totp.Secret()
	if err := s.Store.SetCodes(t.Context(), p.member.ID, secret, 0, nil); err != nil {
		t.Fatal(err)
	}
	answers := map[string]bool{}
	for _, c := range [][2]string{{"new@one.example", password}, {"TAKEN@one.example", password}, {"taken@one.example", "another password"}} {
		stranger := &person{t, s.URL, newClient(t), app.Member{}}
		r, body := stranger.form("/sign-up", url.Values{"name": {"A"}, "email": {c[0]}, "password": {c[1]}})
		answers[r.Status+r.Header.Get("Location")+body] = true
		if r, _ := stranger.get("/kits/" + kit); r.StatusCode == http.StatusOK {
			t.Errorf("%s with %q sees the kit", c[0], c[1])
		}
		if r, page := stranger.get("/team"); r.StatusCode != http.StatusOK || strings.Contains(page, p.member.Workspace.String()) {
			t.Errorf("%s with %q: %s", c[0], c[1], r.Status)
		}
	}
	if len(answers) != 1 {
		t.Errorf("answers tell apart who has an account: %v", answers)
	}
	again := &person{t, s.URL, newClient(t), p.member}
	if r, _ := again.form("/sign-in", url.Values{"email": {"taken@one.example"}, "password": {"ten or more letters"}}); r.StatusCode != http.StatusSeeOther {
		t.Errorf("signing in after that: %s", r.Status)
	}
}

// TestTwoServersCountTogether: wrong passwords said at one server slow the next one at another.
func TestTwoServersCountTogether(t *testing.T) {
	s := open(t, stage.Options{Web: web.Options{SignIns: 3, Slow: time.Minute}})
	join(t, s, "nell@one.example")
	other, err := s.Another(t.Context(), web.Options{SignIns: 3, Slow: time.Minute})
	if err != nil {
		t.Fatal(err)
	}
	statuses := map[int]int{}
	for i := range 10 {
		at := []string{s.URL, other}[i%2]
		r, _ := (&person{t, at, newClient(t), app.Member{}}).form("/sign-in", url.Values{"email": {"nell@one.example"}, "password": {"wrong guess"}})
		statuses[r.StatusCode]++
	}
	if statuses[http.StatusUnprocessableEntity] != 3 || statuses[http.StatusTooManyRequests] != 7 {
		t.Errorf("over two servers: %v", statuses)
	}
}

// TestAskedByAnotherName: a request for another host is refused, health and all that is listed is
// not.
func TestAskedByAnotherName(t *testing.T) {
	s := open(t, stage.Options{Web: web.Options{Address: "https://kit.company.example", Security: "mailto:safe@company.example"}})
	for name, c := range map[string]struct {
		host, path string
		want       int
	}{
		"its own":         {"kit.company.example", "/sign-in", http.StatusOK},
		"in capitals":     {"KIT.company.example", "/sign-in", http.StatusOK},
		"over loopback":   {"localhost:99", "/sign-in", http.StatusOK},
		"another":         {"evil.example", "/sign-in", http.StatusMisdirectedRequest},
		"with more":       {"kit.company.example.evil.example", "/sign-in", http.StatusMisdirectedRequest},
		"another port":    {"kit.company.example:81", "/sign-in", http.StatusMisdirectedRequest},
		"health":          {"10.1.2.3", "/healthz", http.StatusOK},
		"whom to tell":    {"kit.company.example", "/.well-known/security.txt", http.StatusOK},
		"a folder":        {"kit.company.example", "/static/", http.StatusNotFound},
		"another folder":  {"kit.company.example", "/static/js", http.StatusNotFound},
		"a file":          {"kit.company.example", "/static/js/shell.js", http.StatusOK},
		"a file not here": {"kit.company.example", "/static/js/none.js", http.StatusNotFound},
	} {
		r, err := http.NewRequestWithContext(t.Context(), http.MethodGet, s.URL+c.path, nil)
		if err != nil {
			t.Fatal(err)
		}
		r.Host = c.host
		resp, err := newClient(t).Do(r)
		if err != nil {
			t.Fatal(err)
		}
		_ = resp.Body.Close()
		if resp.StatusCode != c.want {
			t.Errorf("%s: %s", name, resp.Status)
		}
	}
}

// TestWrongPasswordsEndTheSession: whoever found a browser that is signed in does not find the
// password by trying it where it is asked for again.
func TestWrongPasswordsEndTheSession(t *testing.T) {
	s := open(t, stage.Options{Web: web.Options{Mailbox: true}})
	p := join(t, s, "nell@one.example")
	for i, way := range []string{"/account/codes", "/account/codes/end", "/account/email", "/account/delete", "/account/password"} {
		r, _ := p.form(way, url.Values{"password": {"wrong one"}, "now": {"wrong one"}, "next": {"otter pond at dusk"}, "email": {"x@one.example"}})
		if want := []int{422, 422, 422, 422, 303}[i]; r.StatusCode != want {
			t.Errorf("%s: %s", way, r.Status)
		}
	}
	if r, _ := p.get("/desk"); r.Header.Get("Location") != "/sign-in" {
		t.Errorf("after five wrong passwords: %s", r.Status)
	}
}

// TestCodesAreSetUpFirst: in a workspace that demands codes nothing is shown before.
func TestCodesAreSetUpFirst(t *testing.T) {
	s := open(t, stage.Options{})
	p := join(t, s, "nell@one.example")
	if err := s.Store.DemandCodes(t.Context(), p.member.Workspace, true); err != nil {
		t.Fatal(err)
	}
	for path, want := range map[string]int{"/desk": 303, "/team": 303, "/account": 200, "/workspace.zip": 303, "/events?watch=" + p.member.Workspace.String(): 303} {
		if r, _ := p.get(path); r.StatusCode != want {
			t.Errorf("%s: %s", path, r.Status)
		}
	}
	if r, _ := p.form("/kits", nil); r.StatusCode != http.StatusForbidden {
		t.Errorf("a change: %s", r.Status)
	}
}

// TestIdsHaveOneForm: another spelling of an id is nothing, so that whatever is decided by the
// address is decided about the same document.
func TestIdsHaveOneForm(t *testing.T) {
	s := open(t, stage.Options{})
	owner := join(t, s, "owner@one.example")
	kit, other := owner.newKit("Otter"), owner.newKit("Heron")
	p := join(t, s, "ida@one.example")
	seen, err := app.ParseID(other)
	if err != nil {
		t.Fatal(err)
	}
	token, err := s.App.Team.Invite(t.Context(), owner.member, app.Asked{Role: "editor", Only: []app.ID{seen}}, "")
	if err != nil {
		t.Fatal(err)
	}
	if r, _ := p.form("/join/"+token, nil); r.StatusCode != http.StatusSeeOther {
		t.Fatal(r.Status)
	}
	for name, id := range map[string]string{"as it is": kit, "in capitals": strings.ToUpper(kit), "as a URN": "urn:uuid:" + kit, "in braces": "{" + kit + "}", "without lines": strings.ReplaceAll(kit, "-", "")} {
		for _, path := range []string{"/kits/" + id, "/kits/" + id + "/sheet", "/kits/" + id + "/guidelines", "/kits/" + id + "/uses"} {
			for who, q := range map[string]*person{"an editor who sees another kit": p, "the owner": owner} {
				r, _ := q.get(path)
				if q == owner && name == "as it is" {
					continue
				}
				if r.StatusCode != http.StatusNotFound {
					t.Errorf("%s, %s: %s is %s", who, name, path, r.Status)
				}
			}
		}
	}
}

// TestWhatIsHeardEnds: somebody who signs out, is kept out, or sees a kit no more hears nothing of
// it from that moment on.
func TestWhatIsHeardEnds(t *testing.T) {
	s := open(t, stage.Options{})
	owner := join(t, s, "owner@one.example")
	kit, other := owner.newKit("Otter"), owner.newKit("Heron")
	ids := map[string]app.ID{}
	for _, v := range []string{kit, other} {
		id, err := app.ParseID(v)
		if err != nil {
			t.Fatal(err)
		}
		ids[v] = id
	}
	for name, end := range map[string]func(p *person) error{
		"signs out": func(p *person) error {
			r, _ := p.form("/sign-out", nil)
			if r.StatusCode != http.StatusSeeOther {
				return errors.New(r.Status)
			}
			return nil
		},
		"is kept out": func(p *person) error { return s.App.Team.Suspend(t.Context(), owner.member, p.member.ID, true) },
		"is narrowed": func(p *person) error {
			return s.App.Team.SetScope(t.Context(), owner.member, p.member.ID, []app.ID{ids[other]})
		},
		"is taken out":     func(p *person) error { return s.App.Team.Remove(t.Context(), owner.member, p.member.ID) },
		"changes password": func(p *person) error { return s.Store.SetPassword(t.Context(), p.member.ID, app.ID{}, "x") },
	} {
		t.Run(name, func(t *testing.T) {
			p := join(t, s, strings.ReplaceAll(name, " ", "-")+"@one.example")
			token, err := s.App.Team.Invite(t.Context(), owner.member, app.Asked{Role: "editor"}, "")
			if err != nil {
				t.Fatal(err)
			}
			if r, _ := p.form("/join/"+token, nil); r.StatusCode != http.StatusSeeOther {
				t.Fatal(r.Status)
			}
			ctx, cancel := context.WithTimeout(t.Context(), 30*time.Second)
			defer cancel()
			q, err := http.NewRequestWithContext(ctx, http.MethodGet, s.URL+"/events?watch="+kit, nil)
			if err != nil {
				t.Fatal(err)
			}
			r, err := p.client.Do(q)
			if err != nil {
				t.Fatal(err)
			}
			defer r.Body.Close()
			lines := bufio.NewScanner(r.Body)
			for lines.Scan() && !strings.Contains(lines.Text(), "hello") {
			}
			if err := end(p); err != nil {
				t.Fatal(err)
			}
			for lines.Scan() { // until the server ends it
				if strings.HasPrefix(lines.Text(), "data") || strings.HasPrefix(lines.Text(), "event") {
					t.Errorf("hears %q", lines.Text())
				}
			}
			if ctx.Err() != nil {
				t.Error("goes on to be told things")
			}
		})
	}
}
