package web_test

import (
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"aspenridge/demo"
	"aspenridge/test/stage"
)

// TestReadOnlyLink: whoever has the link reads the guidelines and sees their
// pictures, gets nothing else, and nothing at all once it has ended.
func TestReadOnlyLink(t *testing.T) {
	s := open(t, stage.Options{})
	p := join(t, s, "a@one.example")
	kit, err := demo.LoadKit(t.Context(), s.App, p.member)
	if err != nil {
		t.Fatal(err)
	}
	if err := s.App.Brand.AddBrandPicture(t.Context(), p.member, kit, "tab", "dawn.svg", []byte(demo.Pictures()["dawn-on-the-bend.svg"])); err != nil {
		t.Fatal(err)
	}
	if r, answer := p.json("/kits/"+kit.String()+"/edit", map[string]any{"action": "share", "text": "yes"}); r.StatusCode != http.StatusOK {
		t.Fatal(answer["error"])
	}
	token, err := s.App.Guidelines.Shared(t.Context(), p.member, kit)
	if err != nil || len(token) < 20 {
		t.Fatalf("token %q: %v", token, err)
	}
	stranger := &person{t: t, base: s.URL, client: &http.Client{CheckRedirect: p.client.CheckRedirect}}
	r, page := stranger.get("/g/" + token + "/")
	if r.StatusCode != http.StatusOK || !strings.Contains(page, "Read the river first") || strings.Contains(page, `href="/kits`) || strings.Contains(page, `"/pictures/`) {
		t.Fatalf("%s: the page leads into the workspace or says nothing", r.Status)
	}
	for _, address := range []string{"/fonts.css", "/guidelines.pdf"} {
		if r, _ := stranger.get("/g/" + token + address); r.StatusCode != http.StatusOK {
			t.Errorf("%s: %s", address, r.Status)
		}
	}
	picture := regexp.MustCompile(`/g/` + token + `/pictures/[^"]+`).FindString(page)
	if r, _ := stranger.get(picture); picture == "" || r.StatusCode != http.StatusOK {
		t.Errorf("a picture %q of the page: %s", picture, r.Status)
	}
	for _, address := range []string{"/kits/" + kit.String(), strings.TrimPrefix(picture, "/g/"+token), "/g/nothing/"} {
		if r, _ := stranger.get(address); r.StatusCode == http.StatusOK {
			t.Errorf("a stranger reads %s", address)
		}
	}
	if r, _ := p.json("/kits/"+kit.String()+"/edit", map[string]any{"action": "share", "text": ""}); r.StatusCode != http.StatusOK {
		t.Fatal(r.Status)
	}
	if r, _ := stranger.get("/g/" + token + "/"); r.StatusCode != http.StatusNotFound {
		t.Errorf("after its end: %s", r.Status)
	}
}

// TestGuidelinesPDF: poppler finds the words, every font in the file is embedded
// and none is the kit's: its letters are outlines.
func TestGuidelinesPDF(t *testing.T) {
	s := open(t, stage.Options{})
	p := join(t, s, "a@one.example")
	kit, err := demo.LoadKit(t.Context(), s.App, p.member)
	if err != nil {
		t.Fatal(err)
	}
	r, one := p.get("/kits/" + kit.String() + "/guidelines.pdf")
	if r.StatusCode != http.StatusOK || !strings.HasPrefix(one, "%PDF") {
		t.Fatal(r.Status)
	}
	if _, two := p.get("/kits/" + kit.String() + "/guidelines.pdf"); two != one {
		t.Error("the same kit gives other bytes")
	}
	file := filepath.Join(t.TempDir(), "g.pdf")
	if err := os.WriteFile(file, []byte(one), 0o600); err != nil {
		t.Fatal(err)
	}
	text, err := exec.CommandContext(t.Context(), "pdftotext", file, "-").Output()
	if err != nil {
		t.Fatal(err)
	}
	for _, words := range []string{"Larkmoor Paddle School", "Read the river first", "River", "#0F3D4C", "rgb(242 105 75)", "Gabarito 800", "first strokes, slow bend, save a seat", "extreme, conquer", "Keep 0.5 of its height free"} {
		if !strings.Contains(strings.Join(strings.Fields(string(text)), " "), words) {
			t.Errorf("pdftotext does not find %q", words)
		}
	}
	fonts, err := exec.CommandContext(t.Context(), "pdffonts", file).Output()
	if err != nil {
		t.Fatal(err)
	}
	lines := strings.Split(strings.TrimSpace(string(fonts)), "\n")[2:]
	if len(lines) == 0 {
		t.Error("no font: the words cannot be selected")
	}
	for _, l := range lines {
		if strings.Contains(l, "Gabarito") || strings.Contains(l, "Figtree") || !regexp.MustCompile(`\byes\b`).MatchString(l) {
			t.Errorf("font %s", l)
		}
	}
}
