package test

import (
	"fmt"
	"io"
	"net/http"
	"strings"
	"testing"

	"aspenridge/demo"
	"aspenridge/internal/app"
	"aspenridge/test/stage"
)

// Two servers, each a process of its own, on one database: whatever changes by
// way of one, the other shows at once, although it has seen and kept what was
// before.
func TestTwoProcessesShowTheSame(t *testing.T) {
	ctx := t.Context()
	s, err := stage.Open(ctx, stage.Options{})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(s.Close)
	const email = "two@one.example"
	var kits [2]app.ID
	m, err := s.App.People.SignUp(ctx, "Somebody", email, "ten or more letters")
	if err == nil {
		kits[0], err = demo.LoadKit(ctx, s.App, m)
	}
	if err == nil {
		kits[1], err = demo.LoadAfterDark(ctx, s.App, m, kits[0])
	}
	var brief app.ID
	if err == nil {
		brief, err = demo.LoadBrief(ctx, s.App, m, kits[0], "beginners.json", "shoreline")
	}
	if err != nil {
		t.Fatal(err)
	}
	binary, err := stage.Binary(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	var urls [2]string
	var people [2]*http.Client
	for i := range urls {
		server, err := stage.Serve(ctx, binary, s.Database, s.Files, "127.0.0.1:0")
		if err != nil {
			t.Fatal(err)
		}
		t.Cleanup(server.Kill)
		urls[i], people[i] = server.URL, signedIn(t, server.URL, email)
	}
	do := func(at int, method, path, body string) string {
		t.Helper()
		q, err := http.NewRequestWithContext(ctx, method, urls[at]+path, strings.NewReader(body))
		if err != nil {
			t.Fatal(err)
		}
		q.Header.Set("Content-Type", "application/json")
		q.Header.Set("Accept", "application/json")
		r, err := people[at].Do(q)
		if err != nil {
			t.Fatal(err)
		}
		defer r.Body.Close()
		data, err := io.ReadAll(r.Body)
		if err != nil || r.StatusCode != http.StatusOK {
			t.Fatalf("%s %s: %s %v %s", method, path, r.Status, err, data)
		}
		return string(data)
	}
	mat := fmt.Sprintf("/briefs/%s/mat", brief)
	sees := func(at int, what string, want bool) {
		t.Helper()
		if strings.Contains(do(at, "GET", mat, ""), what) != want {
			t.Errorf("server %d: %q shown is %v", at, what, !want)
		}
	}
	for n := range 4 {
		from, to := n%2, 1-n%2
		do(to, "GET", mat, "") // it has what was before
		word := fmt.Sprintf("Written%d", n)
		do(from, "POST", fmt.Sprintf("/briefs/%s/edit", brief), fmt.Sprintf(`{"path": "/name", "value": %q}`, word))
		sees(to, word, true)

		// another kit, and a change of the kit that one may follow
		do(from, "POST", fmt.Sprintf("/briefs/%s/kit?kit=%s", brief, kits[1-n%2]), "")
		sees(to, kits[1-n%2].String(), true)
		do(from, "POST", fmt.Sprintf("/kits/%s/edit", kits[0]), fmt.Sprintf(`{"action": "paste", "text": "Extra%d #12345%d"}`, n, n))
		if page := do(to, "GET", fmt.Sprintf("/kits/%s", kits[1]), ""); !strings.Contains(page, fmt.Sprintf("#12345%d", n)) {
			t.Errorf("round %d: the kit that follows does not have the new colour", n)
		}
	}
}
