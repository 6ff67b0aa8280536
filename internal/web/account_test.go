package web_test

import (
	"encoding/base32"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"aspenridge/internal/app"
	"aspenridge/internal/totp"
	"aspenridge/internal/web"
	"aspenridge/test/stage"
)

// TestAnAccount: a name, a password that ends every other session, and codes: asked for after
// the password, each good once, with codes that stand in for one.
func TestAnAccount(t *testing.T) {
	now := time.Now()
	s := open(t, stage.Options{Now: func() time.Time { return now }})
	p := join(t, s, "nell@one.example")
	elsewhere := &person{t, s.URL, newClient(t), p.member}
	elsewhere.signIn()
	in := func(q *person) bool {
		t.Helper()
		r, _ := q.get("/account")
		return r.StatusCode == http.StatusOK
	}
	if r, _ := p.form("/account/name", url.Values{"name": {"Nell \u202eTarrant"}}); r.StatusCode != http.StatusSeeOther {
		t.Error(r.Status)
	}
	if _, page := p.get("/account"); !strings.Contains(page, `value="Nell Tarrant"`) {
		t.Errorf("%.600s", page)
	}
	for name, v := range map[string]url.Values{
		"another password": {"now": {"something else"}, "next": {"otter pond 2027"}}, "a short one": {"now": {password}, "next": {"short"}}, "a long one": {"now": {password}, "next": {strings.Repeat("x", 1000)}},
	} {
		if r, _ := p.form("/account/password", v); r.StatusCode != http.StatusUnprocessableEntity {
			t.Errorf("%s: %s", name, r.Status)
		}
	}
	if !in(elsewhere) {
		t.Fatal("a refused change ends sessions")
	}
	const changed = "otter pond 2027"
	if r, _ := p.form("/account/password", url.Values{"now": {password}, "next": {changed}}); r.StatusCode != http.StatusOK {
		t.Fatal(r.Status)
	}
	if in(elsewhere) || !in(p) {
		t.Errorf("after another password: elsewhere %v, here %v", in(elsewhere), in(p))
	}
	signIn := func(q *person, word string) string {
		t.Helper()
		r, _ := q.form("/sign-in", url.Values{"email": {"nell@one.example"}, "password": {word}})
		return r.Header.Get("Location")
	}
	if signIn(elsewhere, password) != "" || signIn(elsewhere, changed) != "/desk" {
		t.Error("the old password is good, or the new one is not")
	}
	if r, _ := p.form("/account/sign-out", nil); r.StatusCode != http.StatusOK || in(elsewhere) || !in(p) {
		t.Errorf("signing out elsewhere: %s", r.Status)
	}

	// codes
	if r, _ := p.form("/account/codes", url.Values{"password": {"wrong one"}}); r.StatusCode != http.StatusUnprocessableEntity {
		t.Errorf("codes are set up by another password: %s", r.Status)
	}
	if r, _ := p.form("/account/codes", url.Values{"password": {changed}}); r.StatusCode != http.StatusSeeOther {
		t.Fatal(r.Status)
	}
	_, page := p.get("/account")
	written := regexp.MustCompile(`<code>([A-Z2-7 ]+)</code>`).FindStringSubmatch(page)
	if written == nil || !strings.Contains(page, `aria-label="QR code`) {
		t.Fatalf("%.2000s", page)
	}
	secret := unwritten(t, written[1])
	code := func() string { return totp.Code(secret, totp.Step(now)) }
	if r, _ := p.form("/account/codes/ask", url.Values{"code": {"000000"}}); r.StatusCode != http.StatusUnprocessableEntity {
		t.Errorf("another code: %s", r.Status)
	}
	if signIn(elsewhere, changed) != "/desk" {
		t.Error("a code is asked for before it was set up")
	}
	r, page := p.form("/account/codes/ask", url.Values{"code": {code()}})
	recovery := regexp.MustCompile(`<li>([A-Z2-7]{4}(?:-[A-Z2-7]{4}){3})</li>`).FindAllStringSubmatch(page, -1)
	if r.StatusCode != http.StatusOK || len(recovery) != 10 {
		t.Fatalf("%s, %d codes to write down", r.Status, len(recovery))
	}
	other := &person{t, s.URL, newClient(t), p.member}
	say := func(q *person, c string) string {
		t.Helper()
		r, _ := q.form("/sign-in/code", url.Values{"code": {c}})
		return r.Header.Get("Location")
	}
	if signIn(other, changed) != "/sign-in/code" || in(other) {
		t.Error("with the password alone somebody is in")
	}
	if r, _ := other.get("/desk"); r.StatusCode != http.StatusSeeOther {
		t.Errorf("before the code the desk is %s", r.Status)
	}
	if say(other, code()) != "" {
		t.Error("the code that set it up is good a second time")
	}
	now = now.Add(totp.Period)
	fresh := code()
	if say(other, fresh) != "/desk" || !in(other) {
		t.Error("a code does not let in")
	}
	third := &person{t, s.URL, newClient(t), p.member}
	signIn(third, changed)
	if say(third, fresh) != "" || in(third) {
		t.Error("a code that was used lets in again")
	}
	if say(third, strings.ToLower(recovery[3][1])) != "/desk" {
		t.Error("a code that was written down does not let in")
	}
	signIn(third, changed)
	if say(third, recovery[3][1]) != "" {
		t.Error("a code that was written down is good twice")
	}
	if r, _ := (&person{t, s.URL, newClient(t), p.member}).form("/sign-in/code", url.Values{"code": {code()}}); r.Header.Get("Location") != "/sign-in" {
		t.Errorf("a code without a password leads to %q", r.Header.Get("Location"))
	}
	if r, _ := p.form("/account/codes/end", url.Values{"password": {"wrong one"}}); r.StatusCode != http.StatusUnprocessableEntity {
		t.Errorf("codes end by another password: %s", r.Status)
	}
	if r, _ := p.form("/account/codes/end", url.Values{"password": {changed}}); r.StatusCode != http.StatusOK {
		t.Error(r.Status)
	}
	if signIn(third, changed) != "/desk" {
		t.Error("a code is asked for that was ended")
	}
}

// unwritten is a secret as it was typed.
func unwritten(t *testing.T, s string) []byte {
	t.Helper()
	out, err := base32.StdEncoding.WithPadding(base32.NoPadding).DecodeString(strings.ReplaceAll(s, " ", ""))
	if err != nil {
		t.Fatal(err)
	}
	return out
}

// mailTo is the newest mail to an address about accounts, once it is there, and the link in it.
func mailTo(t *testing.T, s *stage.Stage, to string) (mail app.Mail, link string) {
	t.Helper()
	for deadline := time.Now().Add(20 * time.Second); time.Now().Before(deadline); time.Sleep(50 * time.Millisecond) {
		mails, err := s.Store.AccountMails(t.Context())
		if err != nil {
			t.Fatal(err)
		}
		for _, m := range mails {
			if m.To == to {
				return m, strings.TrimPrefix(regexp.MustCompile(`http://\S+`).FindString(m.Body), s.URL)
			}
		}
	}
	t.Fatalf("no mail to %s", to)
	return mail, ""
}

// TestAForgottenPassword: the answer is the same whether an address has an account or not; the
// link is good once, for an hour, and ends every session; a code is asked for all the same.
func TestAForgottenPassword(t *testing.T) {
	now := time.Now()
	s := open(t, stage.Options{Now: func() time.Time { return now }, Work: true, Web: web.Options{Mailbox: true}})
	p := join(t, s, "nell@two.example")
	stranger := &person{t, s.URL, newClient(t), p.member}
	r, known := stranger.form("/forgot", url.Values{"email": {"nell@two.example"}})
	r2, unknown := stranger.form("/forgot", url.Values{"email": {"nobody@two.example"}})
	if r.StatusCode != http.StatusOK || r2.StatusCode != r.StatusCode || strings.ReplaceAll(unknown, "nobody@", "nell@") != known {
		t.Errorf("%s and %s tell apart who has an account:\n%s\n%s", r.Status, r2.Status, known, unknown)
	}
	if r, _ := stranger.form("/forgot", url.Values{"email": {"not an address"}}); r.StatusCode != http.StatusUnprocessableEntity {
		t.Error(r.Status)
	}
	_, link := mailTo(t, s, "nell@two.example")
	if r, page := stranger.get("/mailbox"); r.StatusCode != http.StatusOK || !strings.Contains(page, link) || strings.Contains(page, "nobody@") {
		t.Errorf("the box: %s, %s", r.Status, page)
	}
	if r, page := stranger.get(link); r.StatusCode != http.StatusOK || !strings.Contains(page, p.member.Name) {
		t.Errorf("%s: %s", r.Status, page)
	}
	const next = "heron at dusk 9"
	for name, v := range map[string]url.Values{"short": {"password": {"short"}}, "none": {}, "long": {"password": {strings.Repeat("x", 1000)}}} {
		if r, _ := stranger.form(link, v); r.StatusCode != http.StatusUnprocessableEntity {
			t.Errorf("%s: %s", name, r.Status)
		}
	}
	if r, _ := stranger.form(link, url.Values{"password": {next}}); r.StatusCode != http.StatusOK {
		t.Fatal(r.Status)
	}
	if r, _ := p.get("/account"); r.StatusCode != http.StatusSeeOther {
		t.Errorf("a session outlives another password: %s", r.Status)
	}
	for name, w := range map[string]struct{ path, say string }{"once more": {link, next + "!"}, "another": {link[:len(link)-1] + "A", next}} {
		if r, _ := stranger.form(w.path, url.Values{"password": {w.say}}); r.StatusCode != http.StatusNotFound {
			t.Errorf("%s: %s", name, r.Status)
		}
		if r, _ := stranger.get(w.path); r.StatusCode != http.StatusNotFound {
			t.Errorf("%s: %s", name, r.Status)
		}
	}
	for word, want := range map[string]string{password: "", next: "/desk"} {
		r, _ := stranger.form("/sign-in", url.Values{"email": {"nell@two.example"}, "password": {word}})
		if got := r.Header.Get("Location"); got != want {
			t.Errorf("with %q one comes to %q", word, got)
		}
	}

	// links end with their hour
	if r, _ := stranger.form("/forgot", url.Values{"email": {"NELL@two.example"}}); r.StatusCode != http.StatusOK {
		t.Fatal(r.Status)
	}
	first := link
	for deadline := time.Now().Add(20 * time.Second); (link == first || link == "") && time.Now().Before(deadline); time.Sleep(50 * time.Millisecond) {
		_, link = mailTo(t, s, "nell@two.example")
	}
	now = now.Add(61 * time.Minute)
	if r, _ := stranger.get(link); link == first || r.StatusCode != http.StatusNotFound {
		t.Errorf("after its hour %s", r.Status)
	}
}

// TestLinksInMailsLeadHere: what a request says the server is called is not believed where a
// link is mailed, and without a way to send one that is said.
func TestLinksInMailsLeadHere(t *testing.T) {
	for name, c := range map[string]struct {
		o    web.Options
		host string
		want int
	}{
		"no mail":         {web.Options{}, "", http.StatusUnprocessableEntity},
		"another host":    {web.Options{Mailbox: true}, "evil.example", http.StatusMisdirectedRequest},
		"on this machine": {web.Options{Mailbox: true}, "", http.StatusOK},
		"its address":     {web.Options{Mailbox: true, Address: "https://kit.company.example/"}, "kit.company.example", http.StatusOK},
		"not its address": {web.Options{Mailbox: true, Address: "https://kit.company.example/"}, "evil.example", http.StatusMisdirectedRequest},
		"a name listed":   {web.Options{Mailbox: true, Address: "https://kit.company.example/", Hosts: []string{"inside.example:81"}}, "inside.example:81", http.StatusOK},
	} {
		s := open(t, stage.Options{Web: c.o})
		r, err := http.NewRequestWithContext(t.Context(), http.MethodPost, s.URL+"/forgot", strings.NewReader("email=nell%40three.example"))
		if err != nil {
			t.Fatal(err)
		}
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		if c.host != "" {
			r.Host = c.host
		}
		resp, err := newClient(t).Do(r)
		if err != nil {
			t.Fatal(err)
		}
		_ = resp.Body.Close()
		if resp.StatusCode != c.want {
			t.Errorf("%s: %s", name, resp.Status)
		}
		asked, err := s.Store.ResetsAsked(t.Context(), 9)
		if err != nil || (len(asked) == 1) != (c.want == http.StatusOK) {
			t.Errorf("%s: %v, %v", name, asked, err)
		}
		for _, a := range asked {
			if strings.Contains(a.Way, "evil") || c.o.Address != "" && a.Way != "https://kit.company.example/reset/" {
				t.Errorf("%s: links begin %s", name, a.Way)
			}
		}
		if r, _ := (&person{t, s.URL, newClient(t), app.Member{}}).get("/mailbox"); (r.StatusCode == http.StatusOK) != c.o.Mailbox {
			t.Errorf("%s: the box %s", name, r.Status)
		}
	}
}

// TestAnotherAddress: an account gets another address by a link that was sent to it, once, by
// whoever has the password; the old one is told.
func TestAnotherAddress(t *testing.T) {
	s := open(t, stage.Options{Work: true, Web: web.Options{Mailbox: true}})
	p := join(t, s, "nell@four.example")
	for name, v := range map[string]url.Values{
		"another password": {"email": {"new@four.example"}, "password": {"something else"}}, "no address": {"email": {"new"}, "password": {password}},
	} {
		if r, _ := p.form("/account/email", v); r.StatusCode != http.StatusUnprocessableEntity {
			t.Errorf("%s: %s", name, r.Status)
		}
	}
	if r, _ := p.form("/account/email", url.Values{"email": {"new@four.example"}, "password": {password}}); r.StatusCode != http.StatusOK {
		t.Fatal(r.Status)
	}
	_, link := mailTo(t, s, "new@four.example")
	if r, page := p.get(link); r.StatusCode != http.StatusOK || !strings.Contains(page, "new@four.example") {
		t.Fatalf("%s: %s", r.Status, page)
	}
	if _, page := p.get("/account"); !strings.Contains(page, "nell@four.example") {
		t.Error("looking at the link has changed the address")
	}
	if r, _ := p.form(link, nil); r.StatusCode != http.StatusOK {
		t.Fatal(r.Status)
	}
	if r, _ := p.form(link, nil); r.StatusCode != http.StatusNotFound {
		t.Errorf("a second time: %s", r.Status)
	}
	if _, page := p.get("/account"); !strings.Contains(page, "new@four.example") {
		t.Error("the address stayed")
	}
	if m, _ := mailTo(t, s, "nell@four.example"); strings.Contains(m.Body, "new@") {
		t.Errorf("the old address is told the new one: %s", m.Body)
	}
}

// TestWhereOneIsSignedIn: each browser is listed, can be signed out from another, and only by
// whose it is.
func TestWhereOneIsSignedIn(t *testing.T) {
	s := open(t, stage.Options{})
	p, foreign := join(t, s, "nell@five.example"), join(t, s, "ida@five.example")
	phone := &person{t, s.URL, newClient(t), p.member}
	phone.signIn()
	ids := func(q *person) []string {
		t.Helper()
		_, page := q.get("/account")
		var out []string
		for _, m := range regexp.MustCompile(`name="session" value="([0-9a-f-]+)"`).FindAllStringSubmatch(page, -1) {
			out = append(out, m[1])
		}
		return out
	}
	there := ids(p)
	if len(there) != 1 {
		t.Fatalf("besides here one is signed in at %v", there)
	}
	if r, _ := foreign.form("/account/sign-out/there", url.Values{"session": {there[0]}}); r.StatusCode != http.StatusOK || len(ids(phone)) != 1 {
		t.Errorf("somebody else's session: %s", r.Status)
	}
	if r, _ := p.form("/account/sign-out/there", url.Values{"session": {there[0]}}); r.StatusCode != http.StatusOK {
		t.Fatal(r.Status)
	}
	if r, _ := phone.get("/account"); r.StatusCode != http.StatusSeeOther {
		t.Errorf("signed out from elsewhere: %s", r.Status)
	}
	if left := ids(p); len(left) != 0 {
		t.Errorf("%v are left", left)
	}
}
