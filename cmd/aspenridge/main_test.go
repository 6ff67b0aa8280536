package main

import (
	"archive/zip"
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"image"
	"image/color"
	_ "image/jpeg"
	"image/png"
	"io"
	"io/fs"
	"maps"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	_ "golang.org/x/image/webp"

	"aspenridge/demo"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/preflight"
	"aspenridge/internal/raster"
	"aspenridge/internal/voice"
	"aspenridge/test/stage"
)

// asProgram makes the test binary behave as the program itself, for tests that
// need processes of their own.
const asProgram = "ASPENRIDGE_TEST_AS_PROGRAM"

func TestMain(m *testing.M) {
	raster.ChildMain()
	voice.ChildMain()
	if os.Getenv(asProgram) != "" {
		main()
	}
	os.Exit(m.Run())
}

// program is the program as a process.
func program(t *testing.T, dir string, env []string, args ...string) *exec.Cmd {
	t.Helper()
	self, err := os.Executable()
	if err != nil {
		t.Fatal(err)
	}
	cmd := exec.CommandContext(t.Context(), self, args...)
	cmd.Dir = dir
	cmd.Env = append(append(os.Environ(), asProgram+"=1"), env...)
	return cmd
}

// sample writes the demo's kit and briefs and returns their folder.
func sample(t *testing.T) string {
	t.Helper()
	dir := t.TempDir()
	if err := demo.Write(dir); err != nil {
		t.Fatal(err)
	}
	return dir
}

// do runs the program in this process.
func do(t *testing.T, args ...string) (status int, stderr string) {
	t.Helper()
	var out, errs bytes.Buffer
	status = run(context.Background(), args, &out, &errs)
	return status, errs.String()
}

func report(t *testing.T, dir string) piece.Report {
	t.Helper()
	data, err := os.ReadFile(filepath.Join(dir, "report.json"))
	if err != nil {
		t.Fatal(err)
	}
	var r piece.Report
	if err := json.Unmarshal(data, &r); err != nil {
		t.Fatal(err)
	}
	return r
}

// TestAPurposeOfALaterVersion is composed as an announcement, and the report says so.
func TestAPurposeOfALaterVersion(t *testing.T) {
	dir := sample(t)
	data, err := os.ReadFile(dir + "/beginners.json")
	if err != nil {
		t.Fatal(err)
	}
	var b map[string]any
	if err := json.Unmarshal(data, &b); err != nil {
		t.Fatal(err)
	}
	b["purpose"] = "brag"
	writeJSON(t, dir+"/beginners.json", b)
	out := filepath.Join(dir, "out")
	if status, stderr := do(t, "render", "-kit", dir+"/kit", "-brief", dir+"/beginners.json", "-out", out, "-placements", "feed-square"); status != 0 {
		t.Fatalf("status %d: %s", status, stderr)
	}
	for _, p := range report(t, out).Pieces {
		said := false
		for _, f := range p.Findings {
			said = said || f.Code == "other-purpose" && strings.Contains(f.Message, "brag")
		}
		if !said {
			t.Errorf("on %s nothing says that the purpose is not known: %+v", p.Placement, p.Findings)
		}
	}
}

func TestRenderMakesWhatItReports(t *testing.T) {
	dir := sample(t)
	out := filepath.Join(dir, "new", "folder")
	status, stderr := do(t, "render", "-kit", dir+"/kit", "-brief", dir+"/beginners.json", "-out", out, "-placements", "feed-tall,ad-728x90,640x480", "-format", "png,jpeg,webp,svg,pdf")
	if status != 0 {
		t.Fatalf("status %d: %s", status, stderr)
	}
	r := report(t, out)
	if len(r.Pieces) != 3 || r.Schema != 1 {
		t.Fatalf("%d pieces, schema %d", len(r.Pieces), r.Schema)
	}
	for _, p := range r.Pieces {
		if len(p.Files) != 5 {
			t.Errorf("%s has %d files", p.Placement, len(p.Files))
		}
		for _, f := range p.Files {
			data, err := os.ReadFile(filepath.Join(out, f.File))
			if err != nil {
				t.Fatal(err)
			}
			if len(data) != f.Bytes {
				t.Errorf("%s has %d bytes, the report says %d", f.File, len(data), f.Bytes)
			}
			switch f.Format {
			case "svg":
				if !bytes.HasPrefix(data, []byte("<svg")) || bytes.Contains(data, []byte("style=")) {
					t.Errorf("%s is no plain SVG", f.File)
				}
			case "pdf":
				words, err := exec.Command("pdftotext", filepath.Join(out, f.File), "-").Output()
				if err != nil || !strings.Contains(strings.Join(strings.Fields(string(words)), " "), "strokes") {
					t.Errorf("%s: its words cannot be found: %q %v", f.File, words, err)
				}
			default:
				cfg, _, err := image.DecodeConfig(bytes.NewReader(data))
				if err != nil || cfg.Width != p.Width || cfg.Height != p.Height {
					t.Errorf("%s is %dx%d (%v)", f.File, cfg.Width, cfg.Height, err)
				}
			}
		}
	}
}

// TestALookComesBackFromItsReport renders a look by its number and again by
// what the report says of it.
func TestALookComesBackFromItsReport(t *testing.T) {
	dir := sample(t)
	brief := readJSON(t, dir+"/beginners.json")
	brief["looks"] = []any{4}
	brief["placements"] = []any{"feed-square"}
	writeJSON(t, dir+"/a.json", brief)
	if status, stderr := do(t, "render", "-kit", dir+"/kit", "-brief", dir+"/a.json", "-out", dir+"/a"); status != 0 {
		t.Fatal(stderr)
	}
	brief["looks"] = []any{report(t, dir+"/a").Pieces[0].Look}
	writeJSON(t, dir+"/b.json", brief)
	if status, stderr := do(t, "render", "-kit", dir+"/kit", "-brief", dir+"/b.json", "-out", dir+"/b"); status != 0 {
		t.Fatal(stderr)
	}
	if a, b := files(t, dir+"/a"), files(t, dir+"/b"); !maps.EqualFunc(a, b, bytes.Equal) {
		t.Error("the look of the report gives other files")
	}
}

func readJSON(t *testing.T, name string) map[string]any {
	t.Helper()
	data, err := os.ReadFile(name)
	if err != nil {
		t.Fatal(err)
	}
	var v map[string]any
	if err := json.Unmarshal(data, &v); err != nil {
		t.Fatal(err)
	}
	return v
}

func writeJSON(t *testing.T, name string, v any) {
	t.Helper()
	data, err := json.Marshal(v)
	if err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(name, data, 0o600); err != nil {
		t.Fatal(err)
	}
}

func files(t *testing.T, dir string) map[string][]byte {
	t.Helper()
	out := map[string][]byte{}
	err := filepath.WalkDir(dir, func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		rel, err := filepath.Rel(dir, path)
		if err != nil {
			return err
		}
		out[rel], err = os.ReadFile(path)
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	return out
}

// zipFolder packs a folder, entries in another order than the folder's.
func zipFolder(t *testing.T, dir, name string) {
	t.Helper()
	list := files(t, dir)
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	names := slices.Sorted(maps.Keys(list))
	slices.Reverse(names)
	for _, n := range names {
		w, err := z.Create(n)
		if err == nil {
			_, err = w.Write(list[n])
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(name, b.Bytes(), 0o600); err != nil {
		t.Fatal(err)
	}
}

// TestSameBytes renders the demo in processes of their own that differ in
// everything that should not matter, from a kit folder and a kit ZIP.
func TestSameBytes(t *testing.T) {
	one, two := sample(t), sample(t)
	zipFolder(t, two+"/kit", two+"/kit.zip")
	args := func(dir, kit string) []string {
		return []string{"render", "-kit", kit, "-brief", dir + "/beginners.json", "-out", dir + "/out", "-placements", "feed-tall,ad-160x600,shop-banner,profile-picture", "-format", "png,jpeg,webp,svg,pdf"}
	}
	a := program(t, one, []string{"TZ=Asia/Tokyo", "GOMAXPROCS=1", "LANG=C"}, args(one, one+"/kit")...)
	b := program(t, "/", []string{"TZ=America/St_Johns", "GOMAXPROCS=5", "LANG=de_DE.UTF-8", "HOME=/nonexistent"}, args(two, two+"/kit.zip")...)
	for _, cmd := range []*exec.Cmd{a, b} {
		if out, err := cmd.CombinedOutput(); err != nil {
			t.Fatalf("%v\n%s", err, out)
		}
	}
	compare(t, files(t, one+"/out"), files(t, two+"/out"), 21)
}

func compare(t *testing.T, a, b map[string][]byte, count int) {
	t.Helper()
	if len(a) != count || len(b) != count {
		t.Errorf("%d and %d files, want %d", len(a), len(b), count)
	}
	for name, data := range a {
		if !bytes.Equal(data, b[name]) {
			t.Errorf("%s differs: %d and %d bytes", name, len(data), len(b[name]))
		}
	}
}

// TestSameArchive downloads the demo's set from two servers that differ in
// everything that should not matter.
func TestSameArchive(t *testing.T) {
	var archives [][]byte
	for _, env := range [][]string{{"TZ=Asia/Tokyo", "GOMAXPROCS=1"}, {"TZ=America/St_Johns", "GOMAXPROCS=4"}} {
		archives = append(archives, demoArchive(t, env))
	}
	if !bytes.Equal(archives[0], archives[1]) {
		t.Error("the ZIP differs between processes")
	}
	z, err := zip.NewReader(bytes.NewReader(archives[0]), int64(len(archives[0])))
	if err != nil {
		t.Fatal(err)
	}
	if len(z.File) != 14 {
		t.Errorf("%d files in the ZIP, want 13 and a list", len(z.File))
	}
}

func demoArchive(t *testing.T, env []string) []byte {
	t.Helper()
	database, drop, err := stage.NewDatabase(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(drop)
	cmd := program(t, t.TempDir(), env, "demo", "-listen", "127.0.0.1:0", "-database", database, "-files", "files")
	out, err := cmd.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	if err := cmd.Start(); err != nil {
		t.Fatal(err)
	}
	defer func() { _ = cmd.Process.Signal(os.Interrupt); _ = cmd.Wait() }()
	line, err := bufio.NewReader(out).ReadString('\n')
	if err != nil {
		t.Fatal(err)
	}
	base := strings.TrimSpace(line[strings.Index(line, "http://"):])
	jar, err := cookiejar.New(nil)
	if err != nil {
		t.Fatal(err)
	}
	client := &http.Client{Jar: jar}
	fetch := func(r *http.Response, err error) []byte {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
		defer r.Body.Close()
		data, err := io.ReadAll(r.Body)
		if err != nil || r.StatusCode != http.StatusOK {
			t.Fatalf("%s: %s %v", r.Request.URL, r.Status, err)
		}
		return data
	}
	desk := string(fetch(client.PostForm(base+"/sign-in", url.Values{"email": {demo.Email}, "password": {demo.Password}})))
	_, rest, _ := strings.Cut(desk, `class="mat-card" href="`)
	mat, _, ok := strings.Cut(rest, `/mat"`)
	if !ok {
		t.Fatal("the desk shows no brief")
	}
	return fetch(client.Get(base + mat + "/set.zip"))
}

// TestBadInput: each stops with 2 and words that name what was wrong.
func TestBadInput(t *testing.T) {
	kit := func(change func(k map[string]any)) func(dir string) {
		return func(dir string) {
			k := readJSON(t, dir+"/kit/kit.json")
			change(k)
			writeJSON(t, dir+"/kit/kit.json", k)
		}
	}
	brief := func(change func(b map[string]any)) func(dir string) {
		return func(dir string) {
			b := readJSON(t, dir+"/beginners.json")
			change(b)
			writeJSON(t, dir+"/beginners.json", b)
		}
	}
	own := func(k map[string]any) map[string]any {
		return k["$extensions"].(map[string]any)["aspenridge"].(map[string]any)
	}
	river := func(k map[string]any) map[string]any {
		return k["color"].(map[string]any)["main"].(map[string]any)["river"].(map[string]any)
	}
	for _, c := range []struct {
		what  string
		spoil func(dir string)
		args  []string
		says  []string // parts of the message
	}{
		{"no kit", nil, []string{"-kit", "/nowhere"}, []string{"/nowhere"}},
		{"a kit that is no ZIP", func(dir string) { _ = os.WriteFile(dir+"/x.zip", []byte("hello"), 0o600) }, []string{"-kit", "x.zip"}, []string{"want a folder or a ZIP"}},
		{"broken JSON", func(dir string) { _ = os.WriteFile(dir+"/kit/kit.json", []byte(`{"a":`), 0o600) }, nil, []string{"kit.json"}},
		{"bad hex", kit(func(k map[string]any) { river(k)["$value"] = map[string]any{"hex": "#12"} }), nil, []string{"main.river", "#12", "hex digits"}},
		{"bad role", kit(func(k map[string]any) {
			river(k)["$extensions"] = map[string]any{"aspenridge": map[string]any{"role": "loud"}}
		}), nil, []string{"loud", "lead"}},
		{"unknown font", kit(func(k map[string]any) {
			k["type"].(map[string]any)["headline"].(map[string]any)["$value"].(map[string]any)["fontFamily"] = "No Such Face"
		}), nil, []string{"No Such Face", "Gabarito"}},
		{"no name", kit(func(k map[string]any) { delete(own(k), "name") }), nil, []string{"name"}},
		{"a newer format", kit(func(k map[string]any) { own(k)["formatVersion"] = 2 }), nil, []string{"formatVersion 2"}},
		{"a missing logo", func(dir string) { _ = os.Remove(dir + "/kit/logos/symbol.svg") }, nil, []string{"logos/symbol.svg"}},
		{"a logo elsewhere", kit(func(k map[string]any) { own(k)["logos"] = []any{map[string]any{"file": "../../etc/passwd"}} }), nil, []string{"etc/passwd", "inside"}},
		{"a missing picture", func(dir string) { _ = os.RemoveAll(dir + "/pictures") }, nil, []string{"dawn-on-the-bend.svg"}},
		{"a picture that is none", func(dir string) {
			_ = os.WriteFile(dir+"/pictures/dawn-on-the-bend.svg", []byte("\x7fELF"), 0o600)
		}, nil, []string{"dawn-on-the-bend.svg", "PNG"}},
		{"a bad purpose", brief(func(b map[string]any) { b["purpose"] = strings.Repeat("brag", 20) }), nil, []string{"purpose", "at most 40"}},
		{"31 June", brief(func(b map[string]any) { b["when"] = map[string]any{"date": "2027-06-31"} }), nil, []string{"2027-06-31"}},
		{"an unknown placement", brief(func(b map[string]any) { b["placements"] = []any{"feed-octagon"} }), nil, []string{"feed-octagon", "1200x628"}},
		{"a size of nothing", nil, []string{"-placements", "0x500"}, []string{"0x500"}},
		{"a bad look", brief(func(b map[string]any) { b["looks"] = []any{-1} }), nil, []string{"looks[0]"}},
		{"a focus outside", brief(func(b map[string]any) {
			b["pictures"] = []any{map[string]any{"file": "pictures/dawn-on-the-bend.svg", "focus": []any{2, 0}}}
		}), nil, []string{"focus"}},
		{"an unknown format", nil, []string{"-format", "bmp"}, []string{"bmp", "webp"}},
		{"a scale of nothing", nil, []string{"-scale", "0"}, []string{"0.1 to 8"}},
	} {
		t.Run(c.what, func(t *testing.T) {
			dir := sample(t)
			t.Chdir(dir)
			if c.spoil != nil {
				c.spoil(dir)
			}
			status, stderr := do(t, append([]string{"render", "-kit", "kit", "-brief", "beginners.json", "-out", "out"}, c.args...)...)
			if status != 2 {
				t.Errorf("status %d, want 2: %s", status, stderr)
			}
			for _, part := range c.says {
				if !strings.Contains(stderr, part) {
					t.Errorf("%q does not say %q", stderr, part)
				}
			}
			if _, err := os.Stat("out"); err == nil {
				t.Error("something was written all the same")
			}
		})
	}
	if status, _ := do(t, "dance"); status != 2 {
		t.Errorf("an unknown command exits with %d", status)
	}
	if status, _ := do(t, "serve"); status != 2 {
		t.Errorf("serve without a database exits with %d", status)
	}
}

// TestHardButGoodInput: little, much and odd input still makes sound pieces.
func TestHardButGoodInput(t *testing.T) {
	plainKit := func(colours ...string) map[string]any {
		main := map[string]any{"$type": "color"}
		for i, hex := range colours {
			main[string(rune('a'+i))] = map[string]any{"$value": map[string]any{"hex": hex}}
		}
		k := map[string]any{"$extensions": map[string]any{"aspenridge": map[string]any{"formatVersion": 1, "name": "Pellow & Finch"}}}
		if len(colours) > 0 {
			k["color"] = map[string]any{"main": main}
		}
		return k
	}
	alike := make([]string, 12)
	for i := range alike {
		alike[i] = "#80808" + string("0123456789ab"[i])
	}
	dot := image.NewRGBA(image.Rect(0, 0, 1, 1))
	dot.Set(0, 0, color.RGBA{200, 40, 40, 255})
	var dotPNG bytes.Buffer
	if err := png.Encode(&dotPNG, dot); err != nil {
		t.Fatal(err)
	}
	words := func(s string) map[string]any {
		return map[string]any{"formatVersion": 1, "name": "hard", "headline": s}
	}
	for _, c := range []struct {
		what       string
		kit, brief map[string]any
		args       []string
		check      func(t *testing.T, stderr string, p piece.PieceReport)
	}{
		{"a kit of only a name", plainKit(), words("Morels at dawn"), nil, nil},
		{"a kit of one colour", plainKit("#7A2E3A"), words("Morels at dawn"), nil, nil},
		{"twelve colours all but the same", plainKit(alike...), words("Morels at dawn"), nil, nil},
		{"empty everything", plainKit(), map[string]any{"formatVersion": 1, "headline": ""}, nil, func(t *testing.T, _ string, p piece.PieceReport) {
			if e := element(p, "headline"); e == nil || e.Text != "Pellow & Finch" {
				t.Errorf("the name does not stand in: %+v", e)
			}
		}},
		{"400 characters on a leaderboard of a phone", plainKit("#0F3D4C", "#F6EBD6"), words(strings.TrimSpace(strings.Repeat("the slow bend of a quiet river ", 13))), []string{"-placements", "ad-320x50"}, func(t *testing.T, _ string, p piece.PieceReport) {
			e := element(p, "headline")
			if e == nil || !strings.HasSuffix(e.Text, "…") || !slices.Contains(p.Shortened, "headline") {
				t.Errorf("not shortened and said so: %+v %v", e, p.Shortened)
			}
			if !slices.ContainsFunc(p.Findings, func(f preflight.Finding) bool { return f.Code == "shortened" && f.Slot == "headline" }) {
				t.Errorf("no finding says the headline was shortened: %v", p.Findings)
			}
		}},
		{"one word of 400 letters", plainKit("#0F3D4C"), words(strings.Repeat("x", 400)), nil, nil},
		{"a sign no font has", plainKit("#0F3D4C"), words("Morels \U0001F984 \u16a0\U00013000"), nil, func(t *testing.T, _ string, p piece.PieceReport) {
			if !slices.ContainsFunc(p.Findings, func(f preflight.Finding) bool { return f.Code == "missing-glyph" && f.Slot == "headline" }) {
				t.Errorf("nothing is said of it: %v", p.Findings)
			}
		}},
		{"a letter a shipped face lends", plainKit("#0F3D4C"), words("Привет, грибы"), nil, func(t *testing.T, _ string, p piece.PieceReport) {
			if slices.ContainsFunc(p.Findings, func(f preflight.Finding) bool { return f.Code == "missing-glyph" }) {
				t.Errorf("Cyrillic is missing: %v", p.Findings)
			}
		}},
		{"a picture of one pixel", plainKit("#0F3D4C"), map[string]any{"formatVersion": 1, "headline": "Dot", "pictures": []any{map[string]any{"file": "dot.png"}}}, nil, func(t *testing.T, _ string, p piece.PieceReport) {
			if !slices.ContainsFunc(p.Findings, func(f preflight.Finding) bool { return f.Code == "enlarged" }) && element(p, "picture") != nil {
				t.Errorf("nothing is said of enlarging it: %v", p.Findings)
			}
		}},
		{"an unknown font, leniently", withFamily(plainKit("#0F3D4C"), "No Such Face"), words("Morels at dawn"), []string{"-lenient"}, func(t *testing.T, stderr string, p piece.PieceReport) {
			if !strings.Contains(stderr, "No Such Face") || element(p, "headline").FontFamily != "Libre Franklin" {
				t.Errorf("warning %q, family %s", stderr, element(p, "headline").FontFamily)
			}
		}},
	} {
		t.Run(c.what, func(t *testing.T) {
			dir := t.TempDir()
			t.Chdir(dir)
			if err := os.Mkdir("kit", 0o700); err != nil {
				t.Fatal(err)
			}
			if err := os.WriteFile("dot.png", dotPNG.Bytes(), 0o600); err != nil {
				t.Fatal(err)
			}
			writeJSON(t, "kit/kit.json", c.kit)
			writeJSON(t, "brief.json", c.brief)
			args := c.args
			if !slices.Contains(args, "-placements") {
				args = append(args, "-placements", "feed-square,ad-320x50,ad-160x600,channel-header")
			}
			status, stderr := do(t, append([]string{"render", "-kit", "kit", "-brief", "brief.json", "-out", "out"}, args...)...)
			if status != 0 {
				t.Fatalf("status %d: %s", status, stderr)
			}
			for _, p := range report(t, "out").Pieces {
				for _, e := range p.Elements {
					if e.Text != "" && e.Contrast < 4.5 {
						t.Errorf("%s on %s has a contrast of %g", e.Slot, p.Placement, e.Contrast)
					}
				}
				if element(p, "headline") == nil {
					t.Errorf("%s has no headline", p.Placement)
				}
				if c.check != nil {
					c.check(t, stderr, p)
				}
			}
		})
	}
}

func withFamily(k map[string]any, family string) map[string]any {
	k["type"] = map[string]any{"$type": "typography", "headline": map[string]any{"$value": map[string]any{"fontFamily": family}}}
	return k
}

func element(p piece.PieceReport, slot string) *piece.Element {
	i := slices.IndexFunc(p.Elements, func(e piece.Element) bool { return e.Slot == slot })
	if i < 0 {
		return nil
	}
	return &p.Elements[i]
}
