package web_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"regexp"
	"strings"
	"testing"

	"aspenridge/internal/app"
	"aspenridge/internal/raster"
	"aspenridge/internal/voice"
	"aspenridge/internal/web"
	"aspenridge/test/stage"
)

func TestMain(m *testing.M) {
	raster.ChildMain()
	voice.ChildMain()
	os.Exit(m.Run())
}

const password = "ten or more letters"

// person is somebody with a browser of their own.
type person struct {
	t      *testing.T
	base   string
	client *http.Client
	member app.Member
}

func open(t *testing.T, o stage.Options) *stage.Stage {
	t.Helper()
	if o.Web.SignIns == 0 {
		o.Web.SignIns = 1000
	}
	s, err := stage.Open(t.Context(), o)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(s.Close)
	return s
}

// join makes an account and signs it in.
func join(t *testing.T, s *stage.Stage, email string) *person {
	t.Helper()
	m, err := s.App.People.SignUp(t.Context(), "Somebody", email, password)
	if err != nil {
		t.Fatal(err)
	}
	p := &person{t, s.URL, newClient(t), m}
	p.signIn()
	return p
}

// newClient is a browser nobody has used, which follows nothing by itself.
func newClient(t *testing.T) *http.Client {
	t.Helper()
	jar, err := cookiejar.New(nil)
	if err != nil {
		t.Fatal(err)
	}
	return &http.Client{Jar: jar, CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
}

func (p *person) signIn() {
	p.t.Helper()
	r, _ := p.form("/sign-in", url.Values{"email": {p.member.Email}, "password": {password}})
	if r.StatusCode != http.StatusSeeOther {
		p.t.Fatalf("signing in: %s", r.Status)
	}
}

func (p *person) send(method, path, contentType string, body io.Reader, header ...string) (*http.Response, string) {
	p.t.Helper()
	r, err := http.NewRequestWithContext(p.t.Context(), method, p.base+path, body)
	if err != nil {
		p.t.Fatal(err)
	}
	if contentType != "" {
		r.Header.Set("Content-Type", contentType)
	}
	for i := 0; i+1 < len(header); i += 2 {
		r.Header.Set(header[i], header[i+1])
	}
	res, err := p.client.Do(r)
	if err != nil {
		p.t.Fatalf("%s %s: %v", method, path, err)
	}
	defer res.Body.Close()
	data, err := io.ReadAll(res.Body)
	if err != nil {
		p.t.Fatalf("%s %s: %v", method, path, err)
	}
	return res, string(data)
}

func (p *person) get(path string) (*http.Response, string) {
	p.t.Helper()
	return p.send("GET", path, "", nil)
}

func (p *person) form(path string, v url.Values) (*http.Response, string) {
	p.t.Helper()
	return p.send("POST", path, "application/x-www-form-urlencoded", strings.NewReader(v.Encode()))
}

func (p *person) json(path string, v any) (*http.Response, map[string]any) {
	p.t.Helper()
	data, err := json.Marshal(v)
	if err != nil {
		p.t.Fatal(err)
	}
	r, body := p.send("POST", path, "application/json", bytes.NewReader(data), "Accept", "application/json")
	var out map[string]any
	if err := json.Unmarshal([]byte(body), &out); err != nil {
		p.t.Fatalf("%s answers %s with %q", path, r.Status, body)
	}
	return r, out
}

// upload sends a file; the body streams, so that it may be larger than what is
// taken.
func (p *person) upload(path, name string, data io.Reader) (*http.Response, map[string]any) {
	p.t.Helper()
	pr, pw := io.Pipe()
	form := multipart.NewWriter(pw)
	go func() {
		part, err := form.CreateFormFile("file", name)
		if err == nil {
			_, err = io.Copy(part, data)
		}
		if err == nil {
			err = form.Close()
		}
		pw.CloseWithError(err)
	}()
	r, body := p.send("POST", path, form.FormDataContentType(), pr, "Accept", "application/json")
	var out map[string]any
	if err := json.Unmarshal([]byte(body), &out); err != nil {
		p.t.Fatalf("%s answers %s with %q", path, r.Status, body)
	}
	return r, out
}

// newKit and newBrief start documents and return their ids.
func (p *person) newKit(name string) string {
	p.t.Helper()
	r, _ := p.form("/kits", url.Values{"name": {name}})
	return strings.TrimPrefix(r.Header.Get("Location"), "/kits/")
}

func (p *person) newBrief(kit string) string {
	p.t.Helper()
	r, _ := p.form("/briefs", url.Values{"kit": {kit}})
	return strings.TrimSuffix(strings.TrimPrefix(r.Header.Get("Location"), "/briefs/"), "/start")
}

func TestEveryAnswerCarriesTheSafetyHeaders(t *testing.T) {
	p := join(t, open(t, stage.Options{}), "a@one.example")
	kit := p.newKit("One")
	for _, path := range []string{"/sign-in", "/desk", "/kits/" + kit, "/nothing/here", "/static/app.css", "/healthz", "/readyz", "/fonts.css"} {
		r, _ := p.get(path)
		csp := r.Header.Get("Content-Security-Policy")
		if !strings.Contains(csp, "default-src 'none'") || strings.Contains(csp, "unsafe") || r.Header.Get("X-Content-Type-Options") != "nosniff" {
			t.Errorf("%s: policy %q", path, csp)
		}
		if want := path != "/nothing/here"; (r.StatusCode == 200) != want {
			t.Errorf("%s answers %s", path, r.Status)
		}
	}
}

// TestNothingInlineOnAnyPage holds the pages to what the policy allows: no
// inline script, no inline style, no handler attributes.
func TestNothingInlineOnAnyPage(t *testing.T) {
	p := join(t, open(t, stage.Options{}), "a@one.example")
	kit := p.newKit("One")
	brief := p.newBrief(kit)
	inline := regexp.MustCompile(`(?i)<style|\sstyle=|\son[a-z]+="|<script(?:>|[^>]*>[^<])|javascript:`)
	state := regexp.MustCompile(`<script type="application/json"[^>]*>[^<]*</script>`)
	for _, path := range []string{"/sign-in", "/sign-up", "/desk", "/kits/" + kit, "/briefs/" + brief + "/start", "/briefs/" + brief + "/looks", "/briefs/" + brief + "/mat"} {
		r, body := p.get(path)
		if r.StatusCode != 200 {
			t.Errorf("%s answers %s", path, r.Status)
		}
		if m := inline.FindString(state.ReplaceAllString(body, "")); m != "" {
			t.Errorf("%s has %q", path, m)
		}
	}
}

func TestCookiesAndForeignPages(t *testing.T) {
	s := open(t, stage.Options{Web: web.Options{Secure: true}})
	p := join(t, s, "a@one.example")
	r, _ := p.form("/sign-in", url.Values{"email": {"a@one.example"}, "password": {password}})
	c := r.Header.Get("Set-Cookie")
	for _, want := range []string{"HttpOnly", "Secure", "SameSite=Lax"} {
		if !strings.Contains(c, want) {
			t.Errorf("the cookie %q lacks %s", c, want)
		}
	}
	r, _ = p.send("POST", "/kits", "application/x-www-form-urlencoded", strings.NewReader("name=x"), "Origin", "https://elsewhere.example", "Sec-Fetch-Site", "cross-site")
	if r.StatusCode != http.StatusForbidden {
		t.Errorf("a form on another site is answered %s, want 403", r.Status)
	}
}

func TestSignUpSaysWhatIsWrong(t *testing.T) {
	s := open(t, stage.Options{})
	p := join(t, s, "a@one.example")
	for what, v := range map[string]url.Values{
		"no address":     {"name": {"A"}, "email": {"nobody"}, "password": {password}},
		"short password": {"name": {"A"}, "email": {"b@one.example"}, "password": {"short"}},
		"no name":        {"name": {" "}, "email": {"b@one.example"}, "password": {password}},
	} {
		r, body := p.form("/sign-up", v)
		if r.StatusCode != http.StatusUnprocessableEntity || !strings.Contains(body, `role="alert"`) {
			t.Errorf("%s: %s", what, r.Status)
		}
	}
}

// TestWorkspacesAreClosed lets one person ask for everything of another.
func TestWorkspacesAreClosed(t *testing.T) {
	s := open(t, stage.Options{})
	mine, other := join(t, s, "a@one.example"), join(t, s, "b@two.example")
	kit := mine.newKit("Mine")
	brief := mine.newBrief(kit)
	for _, path := range []string{"/kits/" + kit, "/kits/" + kit + "/sheet", "/briefs/" + brief + "/start", "/briefs/" + brief + "/mat", "/briefs/" + brief + "/set.zip", "/briefs/" + brief + "/pieces/story.png",
		"/briefs/" + brief + "/handover", "/briefs/" + brief + "/handover/files", "/briefs/" + brief + "/handover/weigh?key=story", "/briefs/" + brief + "/looks/more", "/briefs/" + brief + "/examples", "/briefs/" + brief + "/minis", "/briefs/" + brief + "/places", "/briefs/" + brief + "/findings", "/briefs/" + brief + "/past", "/briefs/" + brief + "/past/0?placement=story", "/briefs/" + brief + "/video", "/briefs/" + brief + "/video/sound.wav"} {
		if r, _ := other.get(path); r.StatusCode != http.StatusNotFound {
			t.Errorf("%s of another workspace is answered %s", path, r.Status)
		}
	}
	if r, _ := other.json("/briefs/"+brief+"/edit", map[string]any{"path": "/name", "value": "theirs"}); r.StatusCode != http.StatusNotFound {
		t.Errorf("changing a brief of another workspace is answered %s", r.Status)
	}
	for path, v := range map[string]map[string]any{"/example": {"example": "season-opens"}, "/looks": {"shown": ""}, "/looks/compare": {}, "/phone": {}, "/finish": {}, "/sync": {"fix": map[string]any{}}, "/video/sync": {"revert": "undo"}, "/video/make": {"place": "video-tall", "format": "mp4"}, "/go-to": {"seq": 0}} {
		if r, _ := other.json("/briefs/"+brief+path, v); r.StatusCode != http.StatusNotFound {
			t.Errorf("%s of another workspace is answered %s", path, r.Status)
		}
	}
	if r, _ := mine.json("/channels", map[string]any{"action": "channel", "name": "Mine alone"}); r.StatusCode != http.StatusOK {
		t.Fatal(r.Status)
	}
	if _, body := other.get("/channels"); strings.Contains(body, "Mine alone") {
		t.Error("a channel of another workspace is shown")
	}
	if r, _ := mine.json("/kits/"+kit+"/edit", map[string]any{"action": "paste", "text": "River #0F3D4C"}); r.StatusCode != http.StatusOK {
		t.Fatal(r.Status)
	}
	if r, _ := other.json("/documents/"+kit+"/undo", map[string]any{}); r.StatusCode != http.StatusNotFound {
		t.Errorf("undo of another workspace's change is answered %s", r.Status)
	}
	if _, body := mine.get("/kits/" + kit); !strings.Contains(body, "#0F3D4C") {
		t.Error("undo reached another workspace")
	}
	if r, _ := mine.json("/documents/"+kit+"/undo", map[string]any{}); r.StatusCode != http.StatusOK {
		t.Errorf("one's own is answered %s", r.Status)
	}
}

// TestRoles tries the same things as each of the four roles.
func TestRoles(t *testing.T) {
	s := open(t, stage.Options{})
	owner := join(t, s, "owner@one.example")
	kit := owner.newKit("House")
	brief := owner.newBrief(kit)
	png, err := os.ReadFile("testdata/dot.png")
	if err != nil {
		t.Fatal(err)
	}
	for _, role := range []string{"owner", "editor", "commenter", "viewer"} {
		p := owner
		if role != "owner" {
			p = join(t, s, role+"@one.example")
			// the workspace of their own, older, would be taken: leave it
			if _, err := s.Store.Pool.Exec(t.Context(), `delete from workspaces where id = $1`, p.member.Workspace); err != nil {
				t.Fatal(err)
			}
			if err := s.Store.AddMember(t.Context(), owner.member.Workspace, p.member.ID, role); err != nil {
				t.Fatal(err)
			}
		}
		changes := role == "owner" || role == "editor"
		page := map[bool]string{true: "/mat", false: "/proof/"}[changes] // who may only look is led to the proof
		if r, _ := p.get("/briefs/" + brief + page); r.StatusCode != http.StatusOK {
			t.Errorf("%s looks at the set: %s", role, r.Status)
		}
		want := http.StatusForbidden
		if changes {
			want = http.StatusOK
		}
		r, _ := p.json("/briefs/"+brief+"/edit", map[string]any{"path": "/name", "value": role})
		if r.StatusCode != want {
			t.Errorf("%s renames the brief: %s, want %d", role, r.Status, want)
		}
		r, _ = p.json("/kits/"+kit+"/edit", map[string]any{"action": "paste", "text": role + " #12345" + fmt.Sprint(len(role)%10)})
		if r.StatusCode != want {
			t.Errorf("%s adds a colour: %s, want %d", role, r.Status, want)
		}
		r, _ = p.json("/documents/"+brief+"/undo", map[string]any{})
		if r.StatusCode != want {
			t.Errorf("%s undoes: %s, want %d", role, r.Status, want)
		}
		r, _ = p.upload("/briefs/"+brief+"/pictures", "dot.png", bytes.NewReader(png))
		if r.StatusCode != want {
			t.Errorf("%s adds a picture: %s, want %d", role, r.Status, want)
		}
		if r, _ = p.form("/documents/"+kit+"/archive", url.Values{"back": {"1"}}); (r.StatusCode == http.StatusSeeOther) != changes {
			t.Errorf("%s archives: %s", role, r.Status)
		}
		if r, _ = p.form("/kits", url.Values{}); (r.StatusCode == http.StatusSeeOther) != changes {
			t.Errorf("%s starts a kit: %s", role, r.Status)
		}
	}
}

// TestBadEditsChangeNothing sends changes that would leave a document nobody
// can read.
func TestBadEditsChangeNothing(t *testing.T) {
	p := join(t, open(t, stage.Options{}), "a@one.example")
	kit := p.newKit("House")
	brief := p.newBrief(kit)
	if r, _ := p.json("/kits/"+kit+"/edit", map[string]any{"action": "paste", "text": "River #0F3D4C"}); r.StatusCode != 200 {
		t.Fatal(r.Status)
	}
	_, before := p.get("/kits/" + kit)
	for what, body := range map[string]any{
		"bad hex":        map[string]any{"action": "colour", "token": "main.river", "text": "#12"},
		"no such colour": map[string]any{"action": "colour", "token": "main.lake", "text": "#123456"},
		"unknown family": map[string]any{"action": "family", "level": "headline", "text": "No Such Face"},
		"name of a list": map[string]any{"action": "set", "path": "/$extensions/aspenridge/name", "value": []int{1}},
		"bad role":       map[string]any{"action": "set", "path": "/color/main/river/$extensions/aspenridge/role", "value": "loudest"},
		"bad path":       map[string]any{"action": "set", "path": "nowhere", "value": 1},
		"no action":      map[string]any{"action": "dance"},
		"nonsense words": map[string]any{"action": "paste", "text": "not a colour at all"},
	} {
		r, answer := p.json("/kits/"+kit+"/edit", body)
		if r.StatusCode != http.StatusUnprocessableEntity && r.StatusCode != http.StatusNotFound || answer["error"] == "" {
			t.Errorf("%s: %s %v", what, r.Status, answer["error"])
		}
	}
	if _, after := p.get("/kits/" + kit); after != before {
		t.Error("a refused change left traces")
	}
	for what, body := range map[string]any{
		"long copy":     map[string]any{"path": "/cards/0/headline", "value": strings.Repeat("x", 2001)},
		"bad signature": map[string]any{"path": "/signature", "value": "all"},
		"bad date":      map[string]any{"path": "/cards/0/when", "value": map[string]any{"date": "2027-06-31"}},
		"no cards":      map[string]any{"path": "/formatVersion", "value": 9},
	} {
		if r, answer := p.json("/briefs/"+brief+"/edit", body); r.StatusCode != http.StatusUnprocessableEntity {
			t.Errorf("%s: %s %v", what, r.Status, answer["error"])
		}
	}
	if r, _ := p.send("POST", "/briefs/"+brief+"/edit", "application/json", strings.NewReader("{not json"), "Accept", "application/json"); r.StatusCode != http.StatusUnprocessableEntity {
		t.Errorf("broken JSON: %s", r.Status)
	}
	if r, _ := p.send("POST", "/briefs/"+brief+"/edit", "application/json", strings.NewReader(`{"path":"`+strings.Repeat("x", 2<<20)+`"}`), "Accept", "application/json"); r.StatusCode != http.StatusRequestEntityTooLarge {
		t.Errorf("a request of 2 MB: %s", r.Status)
	}
}

// TestConflictNamesBothValues makes two tabs write the same words on the same
// base.
func TestConflictNamesBothValues(t *testing.T) {
	p := join(t, open(t, stage.Options{}), "a@one.example")
	brief := p.newBrief(p.newKit("House"))
	path := "/briefs/" + brief + "/edit"
	write := func(client, field, value string, base int) (*http.Response, map[string]any) {
		return p.json(path, map[string]any{"client": client, "base": base, "path": "/cards/0/" + field, "value": value})
	}
	if r, _ := write("one", "headline", "first", 0); r.StatusCode != 200 {
		t.Fatal(r.Status)
	}
	if r, _ := write("two", "body", "merged", 0); r.StatusCode != 200 {
		t.Errorf("another field on an old base: %s", r.Status)
	}
	r, answer := write("two", "headline", "second", 0)
	if r.StatusCode != http.StatusConflict || answer["theirs"] != "first" || answer["yours"] != "second" {
		t.Errorf("the same field on an old base: %s %v", r.Status, answer)
	}
	if r, answer := write("one", "headline", "first, longer", 0); r.StatusCode != 200 {
		t.Errorf("a tab conflicts with itself: %s %v", r.Status, answer["error"])
	}
}
