package web_test

import (
	"bytes"
	"encoding/json"
	"html"
	"net/http"
	"os"
	"strings"
	"testing"

	"aspenridge/internal/core/brand"
	"aspenridge/test/stage"
)

// hostile is a name that would break out of any context that forgets to escape.
const hostile = `"><script>alert(1)</script>*/ }{`

// TestNamesStayNames puts a hostile name into everything a kit can carry; no
// page and no file lets it out.
func TestNamesStayNames(t *testing.T) {
	p := join(t, open(t, stage.Options{}), "a@one.example")
	kit := p.newKit(hostile)
	brief := p.newBrief(kit)
	for _, e := range []map[string]any{
		{"action": "paste", "text": "River #0F3D4C\nSand #F6EBD6"},
		{"action": "set", "path": "/color/main/river/$extensions/aspenridge/name", "value": hostile},
		{"action": "set", "path": "/$extensions/aspenridge/tagline", "value": hostile},
		{"action": "set", "path": "/$extensions/aspenridge/voice/says", "value": []string{hostile}},
	} {
		if r, answer := p.json("/kits/"+kit+"/edit", e); r.StatusCode != http.StatusOK {
			t.Fatalf("%v: %v", e, answer["error"])
		}
	}
	if r, _ := p.json("/briefs/"+brief+"/edit", map[string]any{"path": "/cards/0/headline", "value": hostile}); r.StatusCode != http.StatusOK {
		t.Fatal(r.Status)
	}
	for _, path := range []string{"/desk", "/kits/" + kit, "/kits/" + kit + "/guidelines", "/kits/" + kit + "/take/colours.svg", "/briefs/" + brief + "/start", "/briefs/" + brief + "/looks", "/briefs/" + brief + "/handover", "/briefs/" + brief + "/mat", "/briefs/" + brief + "/pieces/feed-square.svg"} {
		r, body := p.get(path)
		if r.StatusCode != http.StatusOK {
			t.Errorf("%s: %s", path, r.Status)
		}
		if strings.Contains(strings.ToLower(body), "<script>alert") {
			t.Errorf("%s lets the name out", path)
		}
	}
	// a style sheet has no tags: there the name must not end its comment
	_, css := p.get("/kits/" + kit + "/take/colours.css")
	if strings.Count(css, "*/") != 1 {
		t.Errorf("the style sheet's comment ends early: %s", css)
	}
}

// TestTakeAlongAndGuidelines: what goes out says what the kit holds.
func TestTakeAlongAndGuidelines(t *testing.T) {
	p := join(t, open(t, stage.Options{}), "a@one.example")
	kit := p.newKit("Pellow & Finch")
	if r, _ := p.json("/kits/"+kit+"/edit", map[string]any{"action": "paste", "text": "Wine cap #7A2E3A\nMoss #26432F\nCream #F4ECD8"}); r.StatusCode != http.StatusOK {
		t.Fatal(r.Status)
	}
	if r, _ := p.json("/kits/"+kit+"/edit", map[string]any{"action": "set", "path": "/$extensions/aspenridge/voice/neverSays", "value": []string{"foodie"}}); r.StatusCode != http.StatusOK {
		t.Fatal(r.Status)
	}
	_, page := p.get("/kits/" + kit + "/guidelines")
	text := html.UnescapeString(page)
	for _, want := range []string{"Pellow & Finch", "Wine cap", "#7A2E3A", "rgb(38 67 47)", "oklch(", "foodie", "Carries text in Cream"} {
		if !strings.Contains(text, want) {
			t.Errorf("the guidelines do not say %q", want)
		}
	}
	r, gpl := p.get("/kits/" + kit + "/take/colours.gpl")
	if !strings.Contains(r.Header.Get("Content-Disposition"), `"pellow-finch.gpl"`) {
		t.Errorf("the palette is called %s", r.Header.Get("Content-Disposition"))
	}
	list, err := brand.ReadColours(gpl)
	if err != nil || len(list) != 3 || list[0].Name != "Wine cap" {
		t.Errorf("%v %v", list, err)
	}
	if r, _ := p.get("/kits/" + kit + "/take/everything.exe"); r.StatusCode != http.StatusNotFound {
		t.Errorf("an unknown format is answered %s", r.Status)
	}
	if r, answer := p.upload("/kits/import", "kit.zip", strings.NewReader("no archive")); r.StatusCode != http.StatusUnprocessableEntity || answer["error"] == nil {
		t.Errorf("what is no archive: %s", r.Status)
	}
}

// TestColourCardAndPalettes: the slip of a colour and a starter palette over
// the wire, and what is not there.
func TestColourCardAndPalettes(t *testing.T) {
	p := join(t, open(t, stage.Options{}), "a@one.example")
	kit := p.newKit("House")
	if r, answer := p.json("/kits/"+kit+"/edit", map[string]any{"action": "palette", "text": "Kiln"}); r.StatusCode != http.StatusOK {
		t.Fatal(answer["error"])
	}
	if r, _ := p.json("/kits/"+kit+"/edit", map[string]any{"action": "palette", "text": "No such"}); r.StatusCode != http.StatusUnprocessableEntity {
		t.Errorf("no such palette: %s", r.Status)
	}
	_, sheet := p.get("/kits/" + kit)
	_, rest, _ := strings.Cut(sheet, `data-slip-of="colour/`)
	token, _, ok := strings.Cut(rest, `"`)
	if !ok {
		t.Fatal("the sheet has no colours")
	}
	r, card := p.get("/kits/" + kit + "/slip/colour/" + token)
	if r.StatusCode != http.StatusOK || strings.Count(card, "data-dial=") != 3 || strings.Count(card, "data-copy=") != 4 {
		t.Errorf("the card of %s: %s", token, r.Status)
	}
	if r, _ := p.get("/kits/" + kit + "/slip/colour/main.nothing"); r.StatusCode != http.StatusNotFound {
		t.Errorf("the card of no colour: %s", r.Status)
	}
}

// TestAKitIsHeard: a kit with music or a voice has a sound, another for another mood; a silent one
// has none.
func TestAKitIsHeard(t *testing.T) {
	t.Parallel()
	s := open(t, stage.Options{})
	p := join(t, s, "heard@one.example")
	kit := p.newKit("Otter")
	if r, _ := p.get("/kits/" + kit + "/sound.wav"); r.StatusCode != http.StatusNotFound {
		t.Errorf("a silent kit: %s", r.Status)
	}
	heard := map[string]bool{}
	for _, mood := range []string{"calm", "driving"} {
		p.must(p.json("/kits/"+kit+"/edit", map[string]any{"action": "set", "path": "/$extensions/aspenridge/motion/music", "value": mood}))
		r, wav := p.get("/kits/" + kit + "/sound.wav")
		if r.StatusCode != http.StatusOK || !strings.HasPrefix(wav, "RIFF") || len(wav) < 8*48000*2*2 {
			t.Errorf("%s: %s, %d bytes", mood, r.Status, len(wav))
		}
		heard[wav] = true
	}
	// music of one's own goes before a mood, and along with the kit
	song, err := os.ReadFile(stage.Film(t, "river.mp3", "-f", "lavfi", "-i", "sine=frequency=330:duration=2"))
	if err != nil {
		t.Fatal(err)
	}
	r, body := p.send(http.MethodPost, "/sounds?name=river.mp3", "audio/mpeg", bytes.NewReader(song), "Accept", "application/json")
	var came struct{ File string }
	if err := json.Unmarshal([]byte(body), &came); err != nil {
		t.Fatalf("%s: %.200s", r.Status, body)
	}
	if r, _ := p.json("/kits/"+kit+"/edit", map[string]any{"action": "song", "text": strings.Repeat("0", 64) + "/gone.flac"}); r.StatusCode != http.StatusUnprocessableEntity {
		t.Errorf("a file nobody gave: %s", r.Status)
	}
	p.must(p.json("/kits/"+kit+"/edit", map[string]any{"action": "song", "text": came.File}))
	_, own := p.get("/kits/" + kit + "/sound.wav")
	heard[own] = true
	if len(heard) != 3 {
		t.Error("two moods and music of one's own sound the same")
	}
	_, packed := p.get("/kits/" + kit + "/take/kit.zip")
	if files := unzipped(t, []byte(packed)); !strings.HasPrefix(files["sounds/river.flac"], "fLaC") || !strings.Contains(files["kit.json"], `"sounds/river.flac"`) {
		t.Errorf("the archive has %d files and no music", len(files))
	}
	r, out := p.upload("/kits/import", "kit.zip", strings.NewReader(packed))
	p.must(r, out)
	if _, again := p.get("/kits/" + out["kit"].(string) + "/sound.wav"); again != own {
		t.Error("the kit that came back sounds otherwise")
	}
	p.must(p.json("/kits/"+kit+"/edit", map[string]any{"action": "song", "text": ""}))
	if _, wav := p.get("/kits/" + kit + "/sound.wav"); wav == own || !heard[wav] {
		t.Error("without its own music the kit is not heard as before")
	}
}
