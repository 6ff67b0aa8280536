package browser

import (
	"archive/zip"
	"bytes"
	"fmt"
	"image"
	_ "image/jpeg"
	"image/png"
	"os"
	"path/filepath"
	"strings"
	"testing"

	cdp "github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"aspenridge/demo"
	"aspenridge/internal/core/spec"
	"aspenridge/test/stage"
)

// TestFromNothingToFiles walks the whole way of a new person: sign up, a kit
// from a name and a logo, a brief from words and a picture, a look, the Mat,
// and the files.
func TestFromNothingToFiles(t *testing.T) {
	s := openStage(t, stage.Options{Work: true})
	b := openTab(t, s.URL)
	files := t.TempDir()
	logo := filepath.Join(files, "pellow.svg")
	if err := os.WriteFile(logo, []byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 200 80"><rect width="200" height="80" fill="#f4ecd8"/><circle cx="40" cy="40" r="28" fill="#7a2e3a"/><path d="M90 24h90v12H90zM90 46h60v12H90z" fill="#26432f"/></svg>`), 0o600); err != nil {
		t.Fatal(err)
	}

	b.goTo("/")
	b.until(`location.pathname === '/sign-in'`)
	b.click(`a[href="/sign-up"]`)
	b.see(`form[action="/sign-up"]`)
	b.do("signing up", cdp.SendKeys(`[name=name]`, "Ada Finch"), cdp.SendKeys(`[name=email]`, "ada@pellow.example"), cdp.SendKeys(`[name=password]`, "morels at dawn\r"))

	// the kit: a name, a logo whose colours are offered, two families
	b.see(`.give-field`)
	b.newKit("Pellow & Finch")
	b.until(`document.querySelector('[data-title]').textContent === 'Pellow & Finch'`)
	b.do("picking the logo", cdp.SetUploadFiles(`[data-upload=logo]`, []string{logo}, cdp.NodeReady))
	b.see(`.logo-tile`)
	b.until(`document.querySelectorAll('.offer').length === 3`)
	if got := eval[string](b, `[...document.querySelectorAll('.offer')].filter((o) => o.querySelector('em')).map((o) => o.querySelector('code').textContent).join()`); got != "#F4ECD8" {
		t.Errorf("told from the inks as ground: %q, want #F4ECD8", got)
	}
	for left, colour := range []string{"#7A2E3A", "#26432F"} {
		b.click(`[data-do=keep][data-text="` + colour + `"]`)
		b.until(fmt.Sprintf(`document.querySelectorAll('.swatch').length === %d`, left+1))
	}
	b.click(`[data-do=decline][data-text="#F4ECD8"]`)
	b.until(`!document.querySelector('[data-do=decline][data-text="#F4ECD8"]')`)
	for level, family := range map[string]string{"headline": "Young Serif", "body": "Karla"} {
		b.click(`[data-picker=` + level + `] summary`)
		sel := `[data-picker=` + level + `] [data-text="` + family + `"]`
		b.see(sel)
		if own := eval[string](b, `getComputedStyle(document.querySelector('`+sel+` b')).fontFamily`); !strings.Contains(own, family) {
			t.Errorf("%s is shown in %s, not in its own letters", family, own)
		}
		b.click(sel)
		b.until(`document.querySelector('.l-` + level + `').className.includes('face-` + strings.ReplaceAll(strings.ToLower(family), " ", "-") + `')`)
	}

	// the brief: words in one order, the picture by drop, then another by paste
	b.click(`[data-shelf] .act`)
	b.see(`.start-page #f-headline`)
	b.click(`#f-headline`)
	b.keys("Chanterelles are in")
	b.click(`#f-callToAction`)
	b.keys("Reserve a basket")
	b.saved()
	picture := []byte(demo.Pictures()["dawn-on-the-bend.svg"])
	if len(picture) == 0 {
		t.Fatal("the demo has no dawn picture")
	}
	b.give("drop", "dawn.svg", "image/svg+xml", picture)
	b.until(`document.querySelector('[data-preview] .bp img')?.complete`)
	b.give("paste", "moor.svg", "image/svg+xml", []byte(demo.Pictures()["lanterns-after-dark.svg"]))
	b.until(`document.querySelectorAll('.bp img').length === 2`)
	b.saved()

	// the looks
	b.click(`.go`)
	b.see(`.lookstrip`)
	b.until(`document.readyState === 'complete' && document.querySelectorAll('.lookstrip').length >= 12`)
	b.click(`.lookstrip:nth-child(3) [data-keep]`)
	b.see(`.tray li`)
	b.click(`.lookstrip:nth-child(2) [data-open]`)

	// the Mat
	b.see(`[data-piece] .hit`)
	pieces := eval[int](b, `document.querySelectorAll('[data-piece] .art > svg').length`)
	shapes := eval[int](b, `new Set([...document.querySelectorAll('[data-piece] .art > svg')].map((s) => s.getAttribute('viewBox'))).size`)
	if pieces < 10 || shapes < 10 {
		t.Errorf("%d pieces in %d shapes on the mat, want at least ten of each", pieces, shapes)
	}
	before := eval[string](b, allPaths)
	b.click(`[data-piece=feed-wide] .hit[data-slot=headline]`)
	b.see(`.slip [data-reach=set][aria-pressed=true]`)
	b.see(`.caret`)
	b.chord("a")
	b.keys("Chanterelles, from Saturday")
	b.until(says("Chanterelles, from Saturday"))
	b.saved()
	if after := eval[string](b, allPaths); after == before {
		t.Error("the pieces look as before the words were changed")
	}

	// one piece as a file
	name, data := b.download(func() { b.click(`[data-piece=story] a.get`) })
	img, err := png.Decode(bytes.NewReader(data))
	if err != nil {
		t.Fatalf("%s: %v", name, err)
	}
	if size := img.Bounds().Size(); size.X != 1080 || size.Y != 1920 {
		t.Errorf("%s is %v, want 1080x1920", name, size)
	}
	if name != "chanterelles-from-saturday_story_1080x1920.png" {
		t.Errorf("the file is called %s", name)
	}

	// all of them
	b.click(`[data-bench] .act`)
	b.until(`document.querySelector('.handover [data-weight]') && ![...document.querySelectorAll('[data-weight]')].some((c) => c.textContent === '…')`)
	name, data = b.download(func() { b.click(`[data-download]`) })
	if name != "chanterelles-from-saturday.zip" {
		t.Errorf("the archive is called %s", name)
	}
	checkArchive(t, data, pieces)
}

// allPaths is everything the pieces on the mat draw, as one string.
const allPaths = `[...document.querySelectorAll('[data-piece] .art > svg')].map((s) => s.innerHTML).join()`

// says is the condition that the pieces carry these words, all but the few in which a shorter
// headline stands or which have room for a part of it.
func says(words string) string {
	return fmt.Sprintf(`((list) => list.length > 0 && 3 * list.filter((s) => s.getAttribute('aria-label').startsWith(%q)).length >= 2 * list.length)([...document.querySelectorAll('[data-piece]:has(.hit[data-slot=headline]) .art > svg')])`, words)
}

// checkArchive opens a downloaded set: every entry is a picture of the size its
// name says, and the list of contents names them all.
func checkArchive(t *testing.T, data []byte, want int) {
	t.Helper()
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		t.Fatal(err)
	}
	if len(z.File) != want+1 || z.File[want].Name != "contents.txt" {
		t.Errorf("the archive has %d files, want %d and a list", len(z.File), want)
	}
	for _, f := range z.File[:want] {
		r, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		img, format, err := image.Decode(r)
		if err != nil {
			t.Fatalf("%s: %v", f.Name, err)
		}
		ext := filepath.Ext(f.Name)
		if want := map[string]string{"png": ".png", "jpeg": ".jpg"}[format]; ext != want {
			t.Errorf("%s is a %s", f.Name, format)
		}
		parts := strings.Split(strings.TrimSuffix(f.Name, ext), "_")
		p, ok := spec.Find(parts[1])
		if size := img.Bounds().Size(); !ok || size.X != p.Width || size.Y != p.Height || parts[2] != fmt.Sprintf("%dx%d", p.Width, p.Height) {
			t.Errorf("%s is %v large", f.Name, size)
		}
	}
}

// TestLogoKitAndUndo goes on from the demo: swaps the logo, changes the lead
// colour in another tab, undoes it all and does it again.
func TestLogoKitAndUndo(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.openMat("Spring")
	start := eval[string](b, allPaths)

	// another logo for one piece, then for the whole set
	b.click(`[data-piece=feed-tall] .hit.logo`)
	b.click(`.slip [data-reach=piece]`)
	b.until(`document.querySelector('.slip [data-reach=piece]').getAttribute('aria-pressed') === 'true'`)
	others := eval[string](b, logosExcept("feed-tall"))
	b.click(`.slip [data-logo*="symbol"]`)
	b.saved()
	b.see(`.slip .back`)
	if eval[string](b, logosExcept("feed-tall")) != others {
		t.Error("a logo chosen for one piece changed others")
	}
	b.click(`.slip .back`)
	b.saved()
	b.until(`document.querySelector('.slip [data-reach=set]').getAttribute('aria-pressed') === 'true'`)
	if eval[string](b, allPaths) != start {
		t.Error("back to the rule does not give the piece back as it was")
	}
	b.click(`.slip [data-logo*="stacked"]`)
	b.saved()
	withLogo := eval[string](b, allPaths)
	if withLogo == start {
		t.Error("the set shows the same logo as before")
	}

	// the lead colour by hex, in another tab
	kit := b.another()
	kit.goTo(eval[string](b, `document.querySelector('.path a').getAttribute('href')`))
	kit.see(`#hex-main\.river`)
	kit.fill(`#hex-main\.river`, "#5b1f4a")
	kit.until(`document.querySelector('#hex-main\\.river').value === '#5B1F4A'`)
	b.until(`[...document.querySelectorAll('[data-piece=feed-tall] [fill]')].some((e) => e.getAttribute('fill').toUpperCase() === '#5B1F4A')`)
	withColour := eval[string](b, allPaths)
	if withColour == withLogo {
		t.Error("the set did not follow the kit")
	}

	// undo in the kit; undo and redo on the mat
	kit.chord("z")
	kit.until(`document.querySelector('#hex-main\\.river').value === '#0F3D4C'`)
	b.until(`![...document.querySelectorAll('[data-piece=feed-tall] [fill]')].some((e) => e.getAttribute('fill').toUpperCase() === '#5B1F4A')`)
	kit.click(`button[data-redo]`)
	kit.until(`document.querySelector('#hex-main\\.river').value === '#5B1F4A'`)
	kit.click(`button[data-undo]`)
	kit.until(`document.querySelector('#hex-main\\.river').value === '#0F3D4C'`)
	b.until(same(withLogo))
	b.chord("z")
	b.until(same(start))
	b.chord("Z", cdp.ModifierShift)
	b.until(same(withLogo))

	// and typing undone from within the words
	b.front()
	b.click(`[data-piece=feed-tall] .hit[data-slot=headline]`)
	b.see(`.caret`)
	for _, key := range []string{kb.Home, kb.ArrowUp, kb.ArrowDown, kb.End} { // by the lines as drawn
		b.keys(key)
	}
	b.keys(" again")
	b.saved()
	b.until(says("Quiet water, first strokes again"))
	b.chord("z")
	b.until(`document.querySelector('[data-typing]').value === 'Quiet water, first strokes'`)
	b.until(same(withLogo))
}

func same(paths string) string {
	return fmt.Sprintf(`%s === %s`, allPaths, quote(paths))
}

// logosExcept is how the logos of all pieces but one are drawn.
func logosExcept(piece string) string {
	return fmt.Sprintf(`[...document.querySelectorAll('[data-piece]:not([data-piece=%s]) [data-slot=logo]')].map((g) => g.outerHTML).join()`, piece)
}
