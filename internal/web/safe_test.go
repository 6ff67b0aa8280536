package web_test

import (
	"archive/zip"
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"image/color"
	"io"
	"mime/multipart"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"aspenridge/demo"
	"aspenridge/internal/app"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/store"
	"aspenridge/internal/web"
	"aspenridge/test/stage"
)

// --- signing in -----------------------------------------------------------------

// Somebody who guesses is slowed down and at last turned away, with a page that
// says so; whoever knows the password gets in all the same.
func TestGuessingIsSlowedAndTheRightPasswordGetsIn(t *testing.T) {
	s := open(t, stage.Options{Web: web.Options{SignIns: 3, Slow: 20 * time.Millisecond}})
	p := join(t, s, "a@one.example")
	refused := atomic.Int64{}
	var wg sync.WaitGroup
	for range 40 {
		wg.Go(func() {
			r, body := p.form("/sign-in", url.Values{"email": {"a@one.example"}, "password": {"wrong guess"}})
			switch {
			case r.StatusCode == http.StatusTooManyRequests:
				refused.Add(1)
				if !strings.Contains(body, "<form") || r.Header.Get("Retry-After") == "" {
					t.Errorf("turned away with %q", body)
				}
			case r.StatusCode != http.StatusUnprocessableEntity:
				t.Errorf("a wrong password is answered %s", r.Status)
			}
		})
	}
	wg.Wait()
	if refused.Load() == 0 {
		t.Error("forty guesses at once are all tried")
	}
	if r, _ := p.form("/sign-in", url.Values{"email": {"a@one.example"}, "password": {password}}); r.StatusCode != http.StatusSeeOther {
		t.Errorf("the right password is answered %s", r.Status)
	}
}

// Behind a proxy of ours people are told apart by what it says of them; nobody
// else's word is taken.
func TestTheProxysWordCounts(t *testing.T) {
	for name, c := range map[string]struct {
		proxies []netip.Prefix
		locked  bool // what one attacker does counts for everybody
	}{"a proxy of ours": {[]netip.Prefix{netip.MustParsePrefix("127.0.0.0/8")}, false}, "somebody else's word": {nil, true}} {
		t.Run(name, func(t *testing.T) {
			s := open(t, stage.Options{Web: web.Options{SignIns: 1, Slow: time.Minute, Proxies: c.proxies}})
			join(t, s, "a@one.example")
			from := func(ctx context.Context, address, word string) int {
				q, err := http.NewRequestWithContext(ctx, http.MethodPost, s.URL+"/sign-in", strings.NewReader(url.Values{"email": {"a@one.example"}, "password": {word}}.Encode()))
				if err != nil {
					t.Fatal(err)
				}
				q.Header.Set("Content-Type", "application/x-www-form-urlencoded")
				q.Header.Set("X-Forwarded-For", address)
				r, err := newClient(t).Do(q)
				if err != nil {
					return 0 // nobody answered in time
				}
				r.Body.Close()
				return r.StatusCode
			}
			from(t.Context(), "203.0.113.7", "wrong guess")
			ctx, cancel := context.WithTimeout(t.Context(), 3*time.Second)
			defer cancel()
			if got := from(ctx, "198.51.100.9", password); (got != http.StatusSeeOther) != c.locked {
				t.Errorf("after another address's guesses the right password is answered %d", got)
			}
		})
	}
}

// 64 MB for every password: at most two are checked at once, and others wait.
func TestPasswordsAreCheckedAFewAtATime(t *testing.T) {
	s := open(t, stage.Options{Strong: true})
	join(t, s, "a@one.example")
	var most, now atomic.Int64
	var wg sync.WaitGroup
	done := make(chan struct{})
	go func() {
		for {
			select {
			case <-done:
				return
			default:
				most.Store(max(most.Load(), int64(residentMB())))
				time.Sleep(5 * time.Millisecond)
			}
		}
	}()
	before := residentMB()
	for i := range 24 {
		wg.Go(func() {
			now.Add(1)
			_, _ = s.App.People.SignIn(t.Context(), fmt.Sprintf("nobody%d@one.example", i), "some words here")
		})
	}
	wg.Wait()
	close(done)
	// 24 at once would take 1.5 GB; two take 128 MB and what is not collected yet
	if grown := int(most.Load()) - before; grown > 500 {
		t.Errorf("24 sign-ins at once take %d MB more", grown)
	}
}

func residentMB() int {
	data, _ := os.ReadFile("/proc/self/status")
	if m := regexp.MustCompile(`VmRSS:\s+(\d+) kB`).FindSubmatch(data); m != nil {
		var kB int
		_, _ = fmt.Sscan(string(m[1]), &kB)
		return kB >> 10
	}
	return 0
}

// --- what arrives slowly, twice or not at all -------------------------------------

// A body that never comes does not keep a connection, signed in or not.
func TestSlowBodiesAreCutOff(t *testing.T) {
	if testing.Short() {
		t.Skip("it takes as long as a slow client has")
	}
	t.Parallel() // it waits, most of the time
	s := open(t, stage.Options{})
	host := strings.TrimPrefix(s.URL, "http://")
	var wg sync.WaitGroup
	for _, path := range []string{"/sign-in", "/kits/x/edit", "/nowhere"} {
		wg.Go(func() {
			c, err := net.Dial("tcp", host)
			if err != nil {
				t.Error(err)
				return
			}
			defer c.Close()
			fmt.Fprintf(c, "POST %s HTTP/1.1\r\nHost: %s\r\nContent-Type: application/x-www-form-urlencoded\r\nContent-Length: 1000\r\n\r\nemail=", path, host)
			_ = c.SetReadDeadline(time.Now().Add(40 * time.Second))
			r := bufio.NewReader(c)
			for {
				if _, err := r.ReadByte(); err != nil {
					if ne, ok := err.(net.Error); ok && ne.Timeout() {
						t.Errorf("%s: still open after 40 s", path)
					}
					return
				}
			}
		})
	}
	wg.Wait()
}

// changed posts JSON as the change of an id.
func (p *person) changed(id, path string, v any) (*http.Response, map[string]any) {
	p.t.Helper()
	data, err := json.Marshal(v)
	if err != nil {
		p.t.Fatal(err)
	}
	r, body := p.send("POST", path, "application/json", strings.NewReader(string(data)), "Accept", "application/json", "X-Change", id)
	var out map[string]any
	_ = json.Unmarshal([]byte(body), &out)
	return r, out
}

// A change that arrives twice is made once, and answered the same: appending,
// undoing, uploading, bringing a kit.
func TestAChangeIsMadeOnce(t *testing.T) {
	s, p, brief := withBrief(t)
	id := mustID(t, strings.TrimPrefix(brief, "/briefs/"))
	set := func() *app.Set {
		t.Helper()
		out, err := s.App.Sets.Set(t.Context(), p.member, id)
		if err != nil {
			t.Fatal(err)
		}
		return out
	}
	cards := len(set().Brief.Cards)
	for range 3 {
		if r, out := p.changed("append", brief+"/edit", map[string]any{"path": "/cards/-", "value": map[string]any{"headline": "Two"}}); r.StatusCode != http.StatusOK {
			t.Fatal(r.Status, out)
		}
	}
	if n := len(set().Brief.Cards); n != cards+1 {
		t.Errorf("three arrivals of one change made %d cards", n-cards)
	}
	p.changed("name-1", brief+"/edit", map[string]any{"path": "/name", "value": "First"})
	p.changed("name-2", brief+"/edit", map[string]any{"path": "/name", "value": "Second"})
	for range 2 {
		if r, _ := p.changed("undo", "/documents/"+id.String()+"/undo", map[string]any{}); r.StatusCode != http.StatusOK {
			t.Fatal(r.Status)
		}
	}
	if got := set().Brief.Name; got != "First" {
		t.Errorf("an undo that arrived twice left the name %q", got)
	}
	kits := func() int {
		_, n, err := s.App.Kits.FindKits(t.Context(), p.member, store.KitQuery{Limit: 50})
		if err != nil {
			t.Fatal(err)
		}
		return n
	}
	before := kits()
	var brought [2]string
	for i := range 2 {
		body, kind := multipartOf(t, "colours.txt", []byte("River #0f3d4c\nCoral #f2694b"))
		r, answer := p.send("POST", "/kits/import", kind, body, "Accept", "application/json", "X-Change", "bring")
		if r.StatusCode != http.StatusOK {
			t.Fatal(r.Status, answer)
		}
		brought[i] = regexp.MustCompile(`"kit":"([^"]+)"`).FindStringSubmatch(answer)[1]
	}
	if n := kits() - before; n != 1 || brought[0] != brought[1] {
		t.Errorf("%d kits came of one file: %v", n, brought)
	}
	// at once, too
	var wg sync.WaitGroup
	for range 8 {
		wg.Go(func() {
			p.changed("together", brief+"/edit", map[string]any{"path": "/cards/-", "value": map[string]any{"headline": "Three"}})
		})
	}
	wg.Wait()
	if n := len(set().Brief.Cards); n != cards+2 {
		t.Errorf("eight arrivals at once made %d cards", n-cards-1)
	}
}

// --- who may see what ---------------------------------------------------------------

// Files are the workspace's: knowing the hash of somebody else's opens nothing.
func TestFilesStayInTheirWorkspace(t *testing.T) {
	s, p, _ := withBrief(t)
	other := join(t, s, "other@two.example")
	desk, err := s.App.Documents.Desk(t.Context(), p.member, 1)
	if err != nil {
		t.Fatal(err)
	}
	mine := desk.Kits[0].Logos[0].File
	theirs := mustID(t, other.newKit("Theirs"))
	_, err = s.App.Documents.Edit(t.Context(), other.member, theirs, app.Change{Base: app.Latest, Op: edit.Op{Path: "/$extensions/aspenridge/logos/-", Value: []byte(fmt.Sprintf(`{"file":%q}`, mine))}})
	if err == nil {
		t.Error("a kit took a file of another workspace")
	}
	if _, err := s.App.Kits.ImportKit(t.Context(), other.member, fmt.Appendf(nil, `{"$extensions":{"aspenridge":{"formatVersion":1,"name":"x","pictures":[{"file":%q}]}}}`, mine)); err == nil {
		t.Error("an import took a file of another workspace")
	}
	// and were it in a document all the same, no archive would carry it
	if _, err := s.Store.Pool.Exec(t.Context(), `update documents set doc = $2, seq = seq + 1 where id = $1`, theirs, fmt.Sprintf(`{"$extensions":{"aspenridge":{"formatVersion":1,"name":"x","logos":[{"file":%q}]}}}`, mine)); err != nil {
		t.Fatal(err)
	}
	if r, body := other.get("/kits/" + theirs.String() + "/take/kit.zip"); r.StatusCode != http.StatusUnprocessableEntity {
		t.Errorf("the archive of a file of others is answered %s, %d bytes", r.Status, len(body))
	}
}

// What has a script in it never leaves in an archive, not even a file from before
// drawings were kept clean.
func TestArchivesCarryNoScripts(t *testing.T) {
	s, p, _ := withBrief(t)
	kit := p.newKit("House")
	const bad = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><script>alert(1)</script><rect width="8" height="8" fill="#123456" onload="alert(2)"/></svg>`
	if r, answer := p.upload("/kits/"+kit+"/logos", "bad.svg", strings.NewReader(bad)); r.StatusCode != http.StatusOK {
		t.Fatal(answer)
	}
	// one kept as it came, as it was done before
	hash, err := s.Blobs.Put(t.Context(), []byte(bad))
	if err != nil {
		t.Fatal(err)
	}
	if err := s.Store.PutFile(t.Context(), p.member.ID, store.File{Workspace: p.member.Workspace, Hash: hash, Kind: "logo", Name: "old.svg", Type: "image/svg", Facts: []byte(`{"Art":{}}`)}); err != nil {
		t.Fatal(err)
	}
	if _, err := s.App.Documents.Edit(t.Context(), p.member, mustID(t, kit), app.Change{Base: app.Latest, Op: edit.Op{Path: "/$extensions/aspenridge/logos/-", Value: []byte(`{"file":"` + hash + `/old.svg"}`)}}); err != nil {
		t.Fatal(err)
	}
	r, body := p.get("/kits/" + kit + "/take/kit.zip")
	if r.StatusCode != http.StatusOK {
		t.Fatal(r.Status, body)
	}
	files := unzipped(t, []byte(body))
	if len(files) != 3 {
		t.Fatalf("%d files", len(files))
	}
	for name, data := range files {
		if strings.Contains(data, "alert") {
			t.Errorf("%s has a script in it", name)
		}
	}
}

// A kit's link shows what its guidelines show, and no other file of the
// workspace.
func TestALinkShowsItsOwnFiles(t *testing.T) {
	s, p, _ := withBrief(t)
	desk, err := s.App.Documents.Desk(t.Context(), p.member, 1)
	if err != nil {
		t.Fatal(err)
	}
	token, err := s.App.Guidelines.Share(t.Context(), p.member, desk.Kits[0].ID)
	if err != nil {
		t.Fatal(err)
	}
	secret, err := s.App.Files.KeepPicture(t.Context(), p.member, "secret.svg", []byte(demo.Pictures()["lanterns-after-dark.svg"]))
	if err != nil {
		t.Fatal(err)
	}
	_, page := p.get("/g/" + token + "/")
	shown := regexp.MustCompile(`/g/` + token + `(/pictures/[^"]+)"`).FindStringSubmatch(page)
	if shown == nil {
		t.Fatal("the guidelines show no picture")
	}
	if r, _ := p.get("/g/" + token + strings.ReplaceAll(shown[1], "&amp;", "&")); r.StatusCode != http.StatusOK {
		t.Errorf("a picture of the guidelines is answered %s", r.Status)
	}
	plain, _, _ := strings.Cut(shown[1], "?")
	for tone, status := range map[string]int{"0F3D4C-F6EBD6-0.1000-0.9000": http.StatusOK, "0F3D4C-F6EBD6-0.9000-0.1000": http.StatusNotFound, "red": http.StatusNotFound} {
		if r, _ := p.get("/g/" + token + plain + "?tone=" + tone); r.StatusCode != status {
			t.Errorf("in the tone %s it is answered %s", tone, r.Status)
		}
	}
	if r, _ := p.get("/g/" + token + "/pictures/" + app.HashOf(secret) + "/0,0,100,100/50x50"); r.StatusCode != http.StatusNotFound {
		t.Errorf("a picture that is not in them is answered %s", r.Status)
	}
}

// Somebody who is taken out of a workspace hears nothing more of it.
func TestAStreamEndsWithTheMembership(t *testing.T) {
	s, p, brief := withBrief(t)
	id := strings.TrimPrefix(brief, "/briefs/")
	guest := join(t, s, "guest@two.example")
	if _, err := s.Store.Pool.Exec(t.Context(), `delete from workspaces where id = $1`, guest.member.Workspace); err != nil {
		t.Fatal(err)
	}
	if err := s.Store.AddMember(t.Context(), p.member.Workspace, guest.member.ID, "viewer"); err != nil {
		t.Fatal(err)
	}
	q, _ := http.NewRequestWithContext(t.Context(), http.MethodGet, s.URL+"/events?watch="+id, nil)
	r, err := guest.client.Do(q)
	if err != nil {
		t.Fatal(err)
	}
	defer r.Body.Close()
	stream := bufio.NewScanner(r.Body)
	stream.Scan()
	heard := func() bool {
		for stream.Scan() {
			if strings.HasPrefix(stream.Text(), "data:") {
				return true
			}
		}
		return false
	}
	rename := func(to string) {
		if _, err := s.App.Documents.Edit(t.Context(), p.member, mustID(t, id), app.Change{Base: app.Latest, Op: edit.Op{Path: "/name", Value: []byte(fmt.Sprintf("%q", to))}}); err != nil {
			t.Fatal(err)
		}
	}
	rename("one")
	if !heard() {
		t.Fatal("a member hears nothing")
	}
	if err := s.Store.RemoveMember(t.Context(), p.member.Workspace, guest.member.ID); err != nil {
		t.Fatal(err)
	}
	rename("two")
	if heard() {
		t.Error("somebody who was taken out still hears of changes")
	}
}

// A form comes back to where it stood, never to another site.
func TestBackStaysHere(t *testing.T) {
	s, p, brief := withBrief(t)
	for _, referer := range []string{s.URL + "//evil.example/x", s.URL + "/\\evil.example/x", "http://evil.example/desk", s.URL + "/desk?x=1"} {
		r, _ := p.send("POST", "/documents/"+strings.TrimPrefix(brief, "/briefs/")+"/archive", "application/x-www-form-urlencoded", strings.NewReader("back=1"), "Referer", referer)
		to := r.Header.Get("Location")
		if u, err := url.Parse(to); err != nil || u.Host != "" || strings.HasPrefix(to, "//") || strings.HasPrefix(to, `/\`) {
			t.Errorf("%s leads to %s", referer, to)
		}
	}
}

// Data enters pages as text and attributes. Markup the server has written enters
// in one place, which the policy of trusted types holds all scripts to.
func TestScriptsBuildNoMarkup(t *testing.T) {
	root, err := stage.Root()
	if err != nil {
		t.Fatal(err)
	}
	files, err := filepath.Glob(filepath.Join(root, "web/src/js/*.js"))
	if err != nil || len(files) == 0 {
		t.Fatal(files, err)
	}
	sinks := regexp.MustCompile(`\.(innerHTML|outerHTML|srcdoc)\s*[+]?=|insertAdjacentHTML|document\.write|\beval\(|new Function|setAttribute\(['"]on`)
	found := 0
	for _, f := range files {
		data, err := os.ReadFile(f)
		if err != nil {
			t.Fatal(err)
		}
		for n, line := range strings.Split(string(data), "\n") {
			if !sinks.MatchString(line) {
				continue
			}
			found++
			if filepath.Base(f) != "shell.js" || !strings.Contains(line, "written.createHTML(html)") {
				t.Errorf("%s:%d builds markup: %s", filepath.Base(f), n+1, strings.TrimSpace(line))
			}
		}
	}
	if found != 1 {
		t.Errorf("%d places put markup into pages, want the one in shell.js", found)
	}
}

// --- clear answers --------------------------------------------------------------------

// What cannot be done is said in words people understand; a fault of ours is
// never the answer to what somebody sent.
func TestOddRequestsGetClearAnswers(t *testing.T) {
	s, p, brief := withBrief(t)
	kit := p.newKit("House")
	if r, out := p.json("/channels", map[string]any{"action": "channel", "name": "Boathouse"}); r.StatusCode != http.StatusOK {
		t.Fatal(out)
	}
	if r, out := p.json("/channels", map[string]any{"action": "place", "channel": "boathouse", "name": "Wall", "size": "8192x8192"}); r.StatusCode != http.StatusOK {
		t.Fatal(out)
	}
	if r, out := p.json(brief+"/edit", map[string]any{"path": "/placements", "value": []string{"wall", "feed-square"}}); r.StatusCode != http.StatusOK {
		t.Fatal(out)
	}
	// the document of channels cannot be put away or deleted
	set, err := s.App.Places.Channels(t.Context(), p.member)
	if err != nil {
		t.Fatal(err)
	}
	for _, what := range []string{"archive", "delete"} {
		if r, _ := p.form("/documents/"+set.Doc.ID.String()+"/"+what, url.Values{}); r.StatusCode != http.StatusNotFound {
			t.Errorf("%s of the channels is answered %s", what, r.Status)
		}
	}
	post := func(path string, v any) func() (*http.Response, map[string]any) {
		return func() (*http.Response, map[string]any) { return p.json(path, v) }
	}
	for what, c := range map[string]struct {
		try  func() (*http.Response, map[string]any)
		want int
	}{
		"a place with films alone":           {post("/channels", map[string]any{"action": "edit", "path": "/channels/@boathouse/placements/@wall/formats", "value": []string{"mp4"}}), 422},
		"a NUL in a headline":                {post(brief+"/edit", map[string]any{"path": "/cards/0/headline", "value": "a\x00b"}), 422},
		"a NUL in a path":                    {post(brief+"/edit", map[string]any{"path": "/cards/0/a\x00b", "value": "x"}), 422},
		"a NUL in a client's name":           {post(brief+"/edit", map[string]any{"path": "/name", "value": "x", "client": "a\x00b"}), 422},
		"a NUL in a kit's tagline":           {post("/kits/"+kit+"/edit", map[string]any{"action": "set", "path": "/$extensions/aspenridge/tagline", "value": "a\x00b"}), 422},
		"a kit's name of 9 kB":               {post("/kits/"+kit+"/edit", map[string]any{"action": "set", "path": "/$extensions/aspenridge/name", "value": strings.Repeat("n", 9000)}), 422},
		"a quote of 900 kB":                  {post(brief+"/edit", map[string]any{"path": "/cards/0/quote/text", "value": strings.Repeat("word ", 180_000)}), 422},
		"values nested 60 deep":              {post(brief+"/edit", map[string]any{"path": "/cards/0/x", "value": json.RawMessage(strings.Repeat(`{"a":`, 60) + "1" + strings.Repeat("}", 60))}), 422},
		"a card that is no object":           {post(brief+"/edit", map[string]any{"path": "/cards/0", "value": "x"}), 422},
		"an edit of a kit by way of a brief": {post("/briefs/"+kit+"/edit", map[string]any{"path": "/name", "value": "stored all the same"}), 404},
		"an edit of the channels as a brief": {post("/briefs/"+set.Doc.ID.String()+"/edit", map[string]any{"path": "/name", "value": "y"}), 404},
		"no JSON": {func() (*http.Response, map[string]any) {
			return p.changed("", brief+"/edit", json.RawMessage(`"`+"x"+`"`))
		}, 422},
		"an order of a list that is no object": {post("/kits/"+kit+"/edit", map[string]any{"action": "set", "path": "/$extensions/aspenridge/logos", "order": []string{"a"}}), 422},
	} {
		r, out := c.try()
		words, _ := out["error"].(string)
		if r.StatusCode != c.want || words == "" {
			t.Errorf("%s: answered %s %v, want %d with words", what, r.Status, out, c.want)
		}
		for _, cryptic := range []string{"panic", "exit status", "json:", "Go ", "SQLSTATE", "strconv"} {
			if strings.Contains(words, cryptic) {
				t.Errorf("%s: the answer says %q", what, words)
			}
		}
	}
	if _, page := p.get("/kits/" + kit); strings.Contains(page, "stored all the same") {
		t.Error("an edit that was answered 404 was stored")
	}
	wall := keyOf(t, s, p, brief, "wall")
	if r, body := p.send("GET", brief+"/handover/weigh?format=webp&scale=2&key="+wall, "", nil, "Accept", "application/json"); r.StatusCode != http.StatusUnprocessableEntity || !strings.Contains(body, "at most") {
		t.Errorf("a WebP of 16,384 px is answered %s %s", r.Status, body)
	}
	if r, body := p.get("/kits?find=a%00b"); r.StatusCode != http.StatusUnprocessableEntity && r.StatusCode != http.StatusOK || strings.Contains(body, "SQLSTATE") {
		t.Errorf("a NUL in a search is answered %s", r.Status)
	}
	if r, body := p.form("/sign-up", url.Values{"name": {"a\x00b"}, "email": {"nul@one.example"}, "password": {password}}); r.StatusCode != http.StatusUnprocessableEntity {
		t.Errorf("a NUL in a name is answered %s %s", r.Status, body[:min(len(body), 200)])
	}
	if r, body := p.form("/sign-in", url.Values{"email": {"\xff\xfe@one.example"}, "password": {password}}); r.StatusCode != http.StatusUnprocessableEntity {
		t.Errorf("broken UTF-8 in an address is answered %s %s", r.Status, body[:min(len(body), 200)])
	}
	// taking a kit along whose file is gone
	gone := mustID(t, p.newKit("Gone"))
	if _, err := s.Store.Pool.Exec(t.Context(), `update documents set doc = $2, seq = seq + 1 where id = $1`, gone, `{"$extensions":{"aspenridge":{"formatVersion":1,"name":"Gone","logos":[{"file":"`+strings.Repeat("ab", 32)+`/x.svg"}]}}}`); err != nil {
		t.Fatal(err)
	}
	if r, body := p.get("/kits/" + gone.String() + "/take/kit.zip"); r.StatusCode != http.StatusUnprocessableEntity || !strings.Contains(body, "missing") {
		t.Errorf("a kit whose file is missing is answered %s", r.Status)
	}
}

// One document that cannot be read is a card that says so; the others are there,
// and it can go back to its last good state.
func TestAnUnreadableDocumentIsACard(t *testing.T) {
	s, p, brief := withBrief(t)
	kit := mustID(t, p.newKit("House"))
	id := mustID(t, strings.TrimPrefix(brief, "/briefs/"))
	if _, err := s.App.Documents.Edit(t.Context(), p.member, id, app.Change{Base: app.Latest, Op: edit.Op{Path: "/name", Value: []byte(`"Before the fault"`)}}); err != nil {
		t.Fatal(err)
	}
	if _, err := s.App.Documents.Edit(t.Context(), p.member, kit, app.Change{Base: app.Latest, Op: edit.Op{Path: "/$extensions/aspenridge/tagline", Value: []byte(`"Before the fault"`)}}); err != nil {
		t.Fatal(err)
	}
	// as ordinary use has made them: past the checks, into the log
	for _, c := range []struct {
		id   app.ID
		kind string
		op   string
		inv  string
		path string
	}{
		{id, "brief", `{"path":"/purpose","value":"nonsense"}`, `{"path":"/purpose","value":"event"}`, "/purpose"},
		{kit, "kit", `{"path":"/$extensions/aspenridge/formatVersion","value":9}`, `{"path":"/$extensions/aspenridge/formatVersion","value":1}`, "/$extensions/aspenridge/formatVersion"},
	} {
		check := s.Store.Check
		s.Store.Check = nil
		var op edit.Op
		if err := json.Unmarshal([]byte(c.op), &op); err != nil {
			t.Fatal(err)
		}
		if _, err := s.Store.Edit(t.Context(), p.member.Workspace, store.Change{ID: c.id, Op: op, Base: app.Latest, By: p.member}); err != nil {
			t.Fatal(err)
		}
		s.Store.Check = check
	}
	for _, page := range []string{"/desk", "/kits"} {
		r, body := p.get(page)
		if r.StatusCode != http.StatusOK || !strings.Contains(body, "cannot be read") || !strings.Contains(body, "Larkmoor") {
			t.Errorf("%s: %s", page, r.Status)
		}
	}
	for _, doc := range []string{id.String(), kit.String()} {
		if r, body := p.form("/documents/"+doc+"/mend", url.Values{}); r.StatusCode != http.StatusSeeOther {
			t.Fatal(r.Status, body)
		}
	}
	if set, err := s.App.Sets.Set(t.Context(), p.member, id); err != nil || set.Brief.Name != "Before the fault" {
		t.Errorf("the brief is not back: %v", err)
	}
	if k, err := s.App.Kits.Kit(t.Context(), p.member, kit); err != nil || k.Tagline != "Before the fault" {
		t.Errorf("the kit is not back: %v", err)
	}
	if _, body := p.get("/desk"); strings.Contains(body, "cannot be read") {
		t.Error("the desk still says so")
	}
}

// A refused picture leaves nothing behind.
func TestRefusedFilesAreNotKept(t *testing.T) {
	s, p, brief := withBrief(t)
	files := func() (n int) {
		if err := s.Store.Pool.QueryRow(t.Context(), `select count(*) from files where workspace_id = $1`, p.member.Workspace).Scan(&n); err != nil {
			t.Fatal(err)
		}
		return n
	}
	small := func(i int) io.Reader { return bytes.NewReader(squarePNG(t, 90, 60, color.NRGBA{0, uint8(i), 64, 255})) }
	for i := range 12 {
		p.upload(brief+"/pictures", "a.png", small(i))
	}
	before := files()
	if r, _ := p.upload(brief+"/pictures", "a.png", small(50)); r.StatusCode != http.StatusUnprocessableEntity {
		t.Errorf("a thirteenth picture is answered %s", r.Status)
	}
	for _, path := range []string{"/briefs/" + strings.Repeat("0", 8) + "-0000-0000-0000-000000000000/pictures", "/briefs/" + strings.Repeat("0", 8) + "-0000-0000-0000-000000000000/portrait", brief + "/pictures?on=nobody"} {
		if r, _ := p.upload(path, "a.png", small(60)); r.StatusCode != http.StatusNotFound {
			t.Errorf("%s is answered %s", path, r.Status)
		}
	}
	if n := files(); n != before {
		t.Errorf("%d files are kept of what was refused", n-before)
	}
}

// multipartOf is a form with one file, and its content type.
func multipartOf(t *testing.T, name string, data []byte) (io.Reader, string) {
	t.Helper()
	var b bytes.Buffer
	form := multipart.NewWriter(&b)
	f, err := form.CreateFormFile("file", name)
	if err != nil {
		t.Fatal(err)
	}
	_, _ = f.Write(data)
	_ = form.Close()
	return &b, form.FormDataContentType()
}

// unzipped are the files of an archive.
func unzipped(t *testing.T, data []byte) map[string]string {
	t.Helper()
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		t.Fatal(err)
	}
	out := map[string]string{}
	for _, f := range z.File {
		r, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		all, err := io.ReadAll(r)
		if err != nil {
			t.Fatal(err)
		}
		out[f.Name] = string(all)
	}
	return out
}
