package web_test

import (
	"encoding/base32"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"aspenridge/internal/totp"
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
	if r, _ := p.form("/account/codes", nil); r.StatusCode != http.StatusSeeOther {
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
