package browser

import (
	"archive/zip"
	"bytes"
	"os"
	"path/filepath"
	"strings"
	"testing"

	cdp "github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"aspenridge/test/stage"
)

// TestTheDesk finds by typing, puts away and brings back, duplicates a kit,
// takes it along and brings the archive in again.
func TestTheDesk(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.allowed = []string{"422"}
	b.signIn()
	shown := `[...document.querySelectorAll('[data-findable], .on-desk')].filter((c) => !c.hidden).length`

	b.keys("/")
	b.until(`document.activeElement.matches('[data-find]')`)
	b.run(`document.querySelector('[data-find]').value = ''`) // the driver sends the sign itself all the same
	b.keys("lantern paddle")
	b.until(shown + ` === 1`)
	b.keys(" zebra")
	b.see(`[data-nothing]`)
	b.keys(kb.Escape)
	b.until(shown + ` === 5`)

	b.run(`document.querySelector('.on-desk form[action$="/archive"] button').click()`)
	b.see(`.away summary`)
	b.until(`document.querySelectorAll('.on-desk').length === 2`)
	b.click(`.away summary`)
	b.click(`.away li button`)
	b.until(`document.querySelectorAll('.on-desk').length === 3 && !document.querySelector('.away') && document.readyState === 'complete'`)

	b.run(`document.querySelector('.kit-acts form[action$="/duplicate"] button').click()`)
	b.see(`#w-name`)
	b.until(`document.querySelector('#w-name').value === 'Larkmoor Paddle School (copy)'`)
	b.fill(`#w-name`, "Larkmoor After Dark")
	b.fill(`#v-never`, "boring, cheap")
	b.saved()
	b.click(`.take summary`)
	name, data := b.download(func() { b.click(`.take-list a[href$="kit.zip"]`) })
	if name != "larkmoor-after-dark.zip" {
		t.Errorf("the archive is called %s", name)
	}
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil || len(z.File) != 7 {
		t.Fatalf("%d files, %v", len(z.File), err)
	}
	_, css := b.download(func() { b.click(`.take-list a[href$="colours.css"]`) })
	if !strings.Contains(string(css), "--river: #0f3d4c;") {
		t.Errorf("the style sheet says %s", css)
	}

	file := filepath.Join(t.TempDir(), "back.zip")
	if err := os.WriteFile(file, data, 0o600); err != nil {
		t.Fatal(err)
	}
	b.goTo("/desk")
	b.see(`[data-find]`)
	b.do("bringing the kit back", cdp.SetUploadFiles(`[data-give-files]`, []string{file}, cdp.NodeReady))
	b.click(`.notice a`)
	b.see(`.logo-tile`)
	b.until(`document.querySelector('#w-name').value === 'Larkmoor After Dark' && document.querySelector('#v-never').value === 'boring, cheap' && document.querySelectorAll('.logo-tile').length === 4 && document.querySelectorAll('.swatch').length === 7`)

	// a palette dropped as a file joins the colours; what is no kit is refused
	b.give("drop", "market.gpl", "text/plain", []byte("GIMP Palette\nName: Market\n122 46 58\tWine cap\n"))
	b.until(`document.querySelectorAll('.swatch').length === 8 && !!document.getElementById('hex-main.wine-cap')`)
	b.goTo("/desk")
	b.see(`[data-find]`)
	b.give("drop", "notes.zip", "application/zip", []byte("no archive"))
	b.see(`.notice.bad`)
}
