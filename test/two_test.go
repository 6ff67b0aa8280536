package test

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

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
		server, err := stage.Serve(ctx, binary, stage.Data{Database: s.Database, Files: s.Files}, "127.0.0.1:0")
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

// TestTheFirstJourneyAcross two servers and a worker, with the files in an object store:
// every step asks another server than the one before, and a worker draws.
func TestTheFirstJourneyAcross(t *testing.T) {
	ctx := t.Context()
	database, drop, err := stage.NewDatabase(ctx) // empty: all three bring it up to date at once
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(drop)
	bucket := stage.NewBucket()
	t.Cleanup(bucket.Close)
	binary, err := stage.Binary(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	at := stage.Data{Database: database, Files: bucket.Address(), Env: []string{"ASPENRIDGE_FILES_KEY=" + stage.BucketKey, "ASPENRIDGE_FILES_SECRET=" + stage.BucketSecret}}
	type started struct {
		p   *stage.Program
		err error
	}
	programs := make(chan started, 3)
	for range 2 {
		go func() {
			p, err := stage.Serve(ctx, binary, at, "127.0.0.1:0", "-workers", "0")
			programs <- started{p, err}
		}()
	}
	go func() {
		p, err := stage.Work(ctx, binary, at)
		programs <- started{p, err}
	}()
	var servers []string
	for range 3 {
		s := <-programs
		if s.err != nil {
			t.Fatal(s.err)
		}
		t.Cleanup(s.p.Kill)
		if s.p.URL != "" {
			servers = append(servers, s.p.URL)
		}
	}
	// one cookie for both, as behind one address
	jar, err := cookiejar.New(nil)
	if err != nil {
		t.Fatal(err)
	}
	client := &http.Client{Jar: jar}
	turn := 0
	ask := func(method, path, kind string, body io.Reader) (final string, data []byte) {
		t.Helper()
		turn++
		q, err := http.NewRequestWithContext(ctx, method, servers[turn%2]+path, body)
		if err != nil {
			t.Fatal(err)
		}
		q.Header.Set("Content-Type", kind)
		if kind != "application/x-www-form-urlencoded" {
			q.Header.Set("Accept", "application/json")
		}
		r, err := client.Do(q)
		if err != nil {
			t.Fatal(err)
		}
		defer r.Body.Close()
		data, err = io.ReadAll(r.Body)
		if err != nil || r.StatusCode != http.StatusOK {
			t.Fatalf("%s %s: %s %v %.300s", method, path, r.Status, err, data)
		}
		return r.Request.URL.Path, data
	}
	form := func(path string, v url.Values) string {
		t.Helper()
		final, _ := ask("POST", path, "application/x-www-form-urlencoded", strings.NewReader(v.Encode()))
		return final
	}
	post := func(path string, v any) map[string]any {
		t.Helper()
		body, err := json.Marshal(v)
		if err != nil {
			t.Fatal(err)
		}
		_, data := ask("POST", path, "application/json", bytes.NewReader(body))
		out := map[string]any{}
		if err := json.Unmarshal(data, &out); err != nil {
			t.Fatalf("%s answers %.200s", path, data)
		}
		return out
	}
	upload := func(path, name string, data []byte) {
		t.Helper()
		var b bytes.Buffer
		m := multipart.NewWriter(&b)
		part, err := m.CreateFormFile("file", name)
		if err == nil {
			_, err = part.Write(data)
		}
		if err == nil {
			err = m.Close()
		}
		if err != nil {
			t.Fatal(err)
		}
		ask("POST", path, m.FormDataContentType(), &b)
	}
	form("/sign-up", url.Values{"name": {"Nell"}, "email": {"nell@across.example"}, "password": {"ten or more letters"}})
	kit := form("/kits", url.Values{"name": {"Larkmoor"}})
	root, err := stage.Root()
	if err != nil {
		t.Fatal(err)
	}
	logo, err := os.ReadFile(filepath.Join(root, "test", "kits", "bakery", "logo.svg"))
	if err != nil {
		t.Fatal(err)
	}
	upload(kit+"/logos", "mark.svg", logo)
	post(kit+"/edit", map[string]any{"action": "paste", "text": "River #123f4c, Moss #5d7a3a, Paper #fbfaf4"})
	brief := strings.TrimSuffix(form("/briefs", url.Values{"kit": {strings.TrimPrefix(kit, "/kits/")}}), "/start")
	upload(brief+"/pictures/first?reach=set", "lake.jpg", stage.Photo(1600, 1200))
	_, page := ask("GET", brief+"/start", "text/html", nil)
	card, _, ok := strings.Cut(after(string(page), `data-card-id="`), `"`)
	if !ok {
		t.Fatal("Start names no card")
	}
	post(brief+"/sync", map[string]any{"client": "across", "base": 1 << 40, "have": map[string]any{}, "write": map[string]any{"card": card, "field": "headline", "reach": "set", "text": "Across two servers"}})
	for range 2 { // each of them shows it
		if _, page := ask("GET", brief+"/mat", "text/html", nil); !strings.Contains(string(page), "Across two servers") {
			t.Error("a server does not show what was written by way of the other")
		}
	}
	job := post(brief+"/parcel?format=png", map[string]any{})["job"].(string)
	state := map[string]any{}
	for end := time.Now().Add(2 * time.Minute); state["over"] != true; {
		if time.Now().After(end) {
			t.Fatalf("nobody packs: %v", state)
		}
		turn++ // its progress comes from the server that did not take it in
		r, err := client.Get(servers[turn%2] + "/jobs/" + job + "/events")
		if err != nil {
			t.Fatal(err)
		}
		said, err := io.ReadAll(r.Body) // until it is over
		r.Body.Close()
		if err != nil {
			t.Fatal(err)
		}
		for line := range strings.Lines(string(said)) {
			if data, ok := strings.CutPrefix(line, "data: "); ok {
				if err := json.Unmarshal([]byte(data), &state); err != nil {
					t.Fatal(err)
				}
			}
		}
	}
	if state["state"] != "done" {
		t.Fatalf("the parcel: %v", state)
	}
	for range 2 {
		_, data := ask("GET", "/parcels/"+job, "application/json", nil)
		z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
		if err != nil || len(z.File) != len(app.DefaultPlacements)+1 {
			t.Errorf("the archive: %v", err)
		}
	}
	if file, ok := state["got"].(map[string]any)["file"].(string); !ok || len(bucket.Object(file)) == 0 {
		t.Error("the parcel is not in the object store")
	}
}

func after(s, mark string) string { _, rest, _ := strings.Cut(s, mark); return rest }
