package web_test

import (
	"bytes"
	"encoding/json"
	"image"
	"image/color"
	"image/draw"
	"image/png"
	"net/http"
	"net/url"
	"os/exec"
	"strings"
	"testing"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brand"
	"aspenridge/test/stage"

	"github.com/google/uuid"
)

// squarePNG is a square of a colour in the middle of white.
func squarePNG(t *testing.T, w, h int, c color.Color) []byte {
	t.Helper()
	m := image.NewRGBA(image.Rect(0, 0, w, h))
	draw.Draw(m, m.Rect, image.White, image.Point{}, draw.Src)
	draw.Draw(m, image.Rect(w/4, h/4, 3*w/4, 3*h/4), image.NewUniform(c), image.Point{}, draw.Src)
	var b bytes.Buffer
	if err := png.Encode(&b, m); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

// kit and set are what people have, as the application reads it.
func (p *person) kit(s *stage.Stage, id string) *app.Kit {
	p.t.Helper()
	k, err := s.App.Kits.Kit(p.t.Context(), p.member, uuid.MustParse(id))
	if err != nil {
		p.t.Fatal(err)
	}
	return k
}

func (p *person) set(s *stage.Stage, id string) *app.Set {
	p.t.Helper()
	out, err := s.App.Sets.Set(p.t.Context(), p.member, uuid.MustParse(id))
	if err != nil {
		p.t.Fatal(err)
	}
	return out
}

func (p *person) must(r *http.Response, body any) {
	p.t.Helper()
	if r.StatusCode != http.StatusOK {
		p.t.Fatalf("%s %s answers %s: %v", r.Request.Method, r.Request.URL.Path, r.Status, body)
	}
}

// A picture goes from a brief to its kit, with its description, from there to
// another brief, and becomes a logo; a second brief puts one first, a person has a
// portrait.
func TestPicturesGoBetweenBriefAndKit(t *testing.T) {
	s := open(t, stage.Options{})
	p := join(t, s, "a@one.example")
	kit := p.newKit("House")
	one, two := p.newBrief(kit), p.newBrief(kit)
	red, blue := squarePNG(t, 640, 480, color.RGBA{200, 30, 30, 255}), squarePNG(t, 480, 640, color.RGBA{30, 60, 200, 255})
	p.must(p.upload("/briefs/"+one+"/pictures", "red.png", bytes.NewReader(red)))
	pic := p.set(s, one).Brief.Cards[0].Pictures[0]
	card := p.set(s, one).Brief.Cards[0].ID
	p.must(p.json("/briefs/"+one+"/edit", map[string]any{"path": "/cards/@" + card + "/pictures/@" + pic.ID + "/alt", "value": "A red wall"}))
	p.must(p.json("/briefs/"+one+"/promote", map[string]any{"file": pic.File}))
	list := p.kit(s, kit).Pictures
	if len(list) != 1 || list[0].File != pic.File || list[0].Alt != "A red wall" || list[0].Kind != brand.PhotoPicture {
		t.Fatalf("the kit has %+v", list)
	}
	p.must(p.json("/briefs/"+two+"/picture", map[string]any{"file": list[0].File, "alt": list[0].Alt}))
	if got := p.set(s, two).Brief.Cards[0].Pictures; len(got) != 1 || got[0].File != pic.File || got[0].Alt != "A red wall" {
		t.Errorf("the other brief has %+v", got)
	}

	// a new one goes first, the other stays; for one place alone, the brief's stay
	p.must(p.upload("/briefs/"+two+"/pictures/first?reach=set", "blue.png", bytes.NewReader(blue)))
	got := p.set(s, two).Brief.Cards[0].Pictures
	if len(got) == 0 || got[0].File == pic.File {
		t.Fatalf("the first picture is still %+v", got)
	}
	first := got[0].File
	p.must(p.upload("/briefs/"+two+"/pictures/first?reach=piece:story", "red.png", bytes.NewReader(red)))
	set := p.set(s, two)
	if set.Brief.Cards[0].Pictures[0].File != first || len(set.Brief.Adjustments) != 1 || app.HashOf(set.Brief.Adjustments[0].Text()) != app.HashOf(pic.File) {
		t.Errorf("for the story alone: %+v and %+v", set.Brief.Cards[0].Pictures, set.Brief.Adjustments)
	}

	// a portrait is nobody's picture but the person's
	p.must(p.upload("/briefs/"+one+"/portrait", "face.png", bytes.NewReader(blue)))
	if c := p.set(s, one).Brief.Cards[0]; c.Person == nil || app.HashOf(c.Person.Picture) != app.HashOf(first) || len(c.Pictures) != 1 {
		t.Errorf("the person is %+v beside %+v", c.Person, c.Pictures)
	}

	p.must(p.json("/briefs/"+one+"/promote", map[string]any{"file": pic.File, "as": "logo"}))
	if logos := p.kit(s, kit).Logos; len(logos) != 1 || logos[0].Art == nil {
		t.Errorf("the logos are %+v", logos)
	}

	// what is not there and what is another's is refused
	other := join(t, s, "b@two.example")
	theirs := other.newBrief(other.newKit("Theirs"))
	for _, c := range []struct {
		path string
		body map[string]any
	}{{"/promote", map[string]any{"file": pic.File}}, {"/promote", map[string]any{"file": pic.File, "as": "logo"}}, {"/picture", map[string]any{"file": pic.File}}, {"/promote", map[string]any{"file": "pictures/none.png"}}} {
		if r, _ := other.json("/briefs/"+theirs+c.path, c.body); r.StatusCode < 400 || r.StatusCode >= 500 {
			t.Errorf("%s of another's picture is answered %s", c.path, r.Status)
		}
	}
}

// A clip that is put into a kit is played back to the same bytes, to members
// alone.
func TestAClipPlaysBack(t *testing.T) {
	s := open(t, stage.Options{})
	p := join(t, s, "a@one.example")
	kit := p.newKit("House")
	clip, err := exec.Command("ffmpeg", "-nostdin", "-v", "error", "-f", "lavfi", "-i", "testsrc2=s=160x120:d=1:r=10", "-c:v", "libvpx", "-f", "webm", "pipe:1").Output()
	if err != nil {
		t.Fatal(err)
	}
	if r, out := p.upload("/kits/"+kit+"/pictures", "page.mp4", strings.NewReader("\x00\x00\x00\x18ftypmp42\x00\x00\x00\x00mp42isom<html><script>alert(1)</script>")); r.StatusCode != http.StatusUnprocessableEntity {
		t.Errorf("a page behind a film's header: %s, %v", r.Status, out)
	}
	p.must(p.upload("/kits/"+kit+"/pictures", "wave.webm", bytes.NewReader(clip)))
	list := p.kit(s, kit).Pictures
	if len(list) != 1 || list[0].Kind != brand.Clip {
		t.Fatalf("the kit has %+v", list)
	}
	r, body := p.get("/clips/" + app.HashOf(list[0].File))
	if r.StatusCode != http.StatusOK || body != string(clip) || r.Header.Get("Content-Type") != "video/webm" {
		t.Errorf("%s, %d bytes of %s", r.Status, len(body), r.Header.Get("Content-Type"))
	}
	other := join(t, s, "b@two.example")
	if r, _ := other.get("/clips/" + app.HashOf(list[0].File)); r.StatusCode != http.StatusNotFound {
		t.Errorf("another workspace's clip is answered %s", r.Status)
	}

	// the frame that stands for it, with which a video opens, is at an address that exists
	var still string
	if err := s.Store.Pool.QueryRow(t.Context(), `select facts->>'still' from files where kind = 'clip'`).Scan(&still); err != nil {
		t.Fatal(err)
	}
	at := "/pictures/" + still + "/0,0,160,120/80x60"
	if r, _ := p.get(at); r.StatusCode != http.StatusOK {
		t.Errorf("the frame of the clip: %s", r.Status)
	}
	if r, _ := other.get(at); r.StatusCode != http.StatusNotFound {
		t.Errorf("the frame, in another workspace: %s", r.Status)
	}
}

// New briefs start with the kit that was made the default; copy is tried against a
// voice; own channels come out as they go in; who signs out is out.
func TestSmallThingsOfAWorkspace(t *testing.T) {
	s := open(t, stage.Options{})
	p := join(t, s, "a@one.example")
	first, second := p.newKit("First"), p.newKit("Second")
	for _, kit := range []string{first, second, first} {
		if r, _ := p.form("/kits/"+kit+"/default", url.Values{}); r.StatusCode != http.StatusSeeOther {
			t.Fatal(r.Status)
		}
		if got := p.set(s, p.newBrief("")).Kit.ID.String(); got != kit {
			t.Errorf("a new brief has the kit %s, want %s", got, kit)
		}
	}

	p.must(p.json("/kits/"+first+"/edit", map[string]any{"action": "set", "path": "/$extensions/aspenridge/voice/neverSays", "value": []string{"cheap"}}))
	try := func(text string) (out struct{ Findings []string }) {
		r, body := p.get("/kits/" + first + "/try?text=" + url.QueryEscape(text))
		p.must(r, body)
		if err := json.Unmarshal([]byte(body), &out); err != nil {
			t.Fatal(err)
		}
		return out
	}
	if got := try("A cheap way down the river"); len(got.Findings) != 1 || !strings.Contains(got.Findings[0], "cheap") {
		t.Errorf("%+v", got)
	}
	if got := try("A slow way down the river"); len(got.Findings) != 0 {
		t.Errorf("%+v", got)
	}

	p.must(p.json("/channels", map[string]any{"action": "channel", "name": "Window screens"}))
	r, out := p.get("/channels.json")
	p.must(r, out)
	if !strings.Contains(r.Header.Get("Content-Disposition"), "channels.json") || !strings.Contains(out, "Window screens") {
		t.Fatalf("exported %s", out)
	}
	other := join(t, s, "b@two.example")
	other.must(other.json("/channels", map[string]any{"action": "bring", "file": out}))
	if _, again := other.get("/channels.json"); again != out {
		t.Errorf("came out as %s\nwent in as %s", again, out)
	}

	if r, _ := p.form("/sign-out", url.Values{}); r.StatusCode != http.StatusSeeOther {
		t.Fatal(r.Status)
	}
	if r, _ := p.get("/desk"); r.StatusCode != http.StatusSeeOther || !strings.HasPrefix(r.Header.Get("Location"), "/sign-in") {
		t.Errorf("after signing out the desk is answered %s to %s", r.Status, r.Header.Get("Location"))
	}
}
