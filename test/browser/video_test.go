package browser

import (
	"bytes"
	"fmt"
	"image/png"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"

	"aspenridge/test/stage"
)

// TestABriefBecomesAVideo: the proposed order is changed by typing, pulling and dragging,
// watched, made into a file and fetched; the page shows what the file shows.
func TestABriefBecomesAVideo(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true, Work: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.openMat("Spring")
	b.goTo(strings.Replace(eval[string](b, `location.pathname`), "/mat", "/video", 1))
	b.until(`document.querySelectorAll('.shot').length > 3 && !!document.querySelector('.screen svg')`)
	shots := func() int { return eval[int](b, `document.querySelectorAll('.shot').length`) }
	before := shots()
	if !eval[bool](b, `!document.querySelector('[data-proposed]').hidden`) {
		t.Error("the order does not say that it is proposed")
	}

	// words are typed, and the film says them
	b.fill(`[data-shot="1"] textarea`, "Six calm Saturdays")
	b.until(`document.querySelector('.reel-line').textContent.includes('Six calm Saturdays') && document.querySelector('[data-proposed]').hidden`)
	b.saved()

	// its end is pulled a second to the right
	at := b.place(`[data-end="1"]`, 0.5, 0.5)
	second := eval[float64](b, `document.querySelector('.reel-line').getBoundingClientRect().width / Number(document.querySelector('[data-total]').textContent.replace(' s', ''))`)
	was := eval[float64](b, `Number(document.querySelector('[data-shot="1"] .seconds').placeholder)`)
	b.dragged(at, [2]float64{at[0] + second, at[1]})
	b.until(`document.querySelector('[data-shot="1"] .seconds').value !== ''`)
	if got := eval[float64](b, `Number(document.querySelector('[data-shot="1"] .seconds').value)`); math.Abs(got-was-1) > 0.25 {
		t.Errorf("pulled by a second it runs %v s, before %v", got, was)
	}
	b.saved()

	// a shot is dragged up by what it looks like; split and joined it says the same
	third := eval[string](b, `document.querySelector('[data-shot="2"] textarea').value`)
	b.dragged(b.place(`[data-shot="2"] .still`, 0.5, 0.3), b.place(`[data-shot="1"] .still`, 0.5, 0.1))
	b.until(`document.querySelector('[data-shot="1"] textarea').value === ` + quote(third))
	b.saved()
	b.click(`[data-shot="1"] [data-act=split]`)
	b.until(fmt.Sprintf(`document.querySelectorAll('.shot').length === %d`, before+1))
	b.saved()
	b.click(`[data-shot="1"] [data-act=join]`)
	b.until(fmt.Sprintf(`document.querySelectorAll('.shot').length === %d && document.querySelector('[data-shot="1"] textarea').value === %q`, before, third))
	b.saved()
	// undo shows two again, redo one
	b.run(`document.activeElement.blur()`)
	b.chord("z")
	b.until(fmt.Sprintf(`document.querySelectorAll('.shot').length === %d`, before+1))
	b.chord("Z", 8)
	b.until(fmt.Sprintf(`document.querySelectorAll('.shot').length === %d`, before))

	// short, so that it is made soon: two shots, nothing of the kit's
	for shots() > 2 {
		n := shots()
		b.click(fmt.Sprintf(`[data-shot="%d"] [data-act=out]`, n-1))
		b.until(fmt.Sprintf(`document.querySelectorAll('.shot').length === %d`, n-1))
		b.saved()
	}
	for _, of := range []string{"noOpening", "noClosing"} {
		b.click(`[data-kit-take=` + of + `]`)
		b.saved()
	}
	b.until(`document.querySelectorAll('.reel-take').length === 2`)
	b.click(`[data-shape=video-square]`)
	b.until(`document.querySelector('[data-shape=video-square]').getAttribute('aria-pressed') === 'true'`)

	// played, it goes on; the keys step frame by frame
	b.run(`document.querySelector('.screen').focus()`)
	b.keys(" ")
	b.until(`parseFloat(document.querySelector('[data-clock]').textContent) > 0.3`)
	b.keys(" ")
	b.keys(kb.Home)
	b.until(`document.querySelector('[data-clock]').textContent === '0.0 s'`)
	const frame = 45
	for range frame {
		b.keys(kb.ArrowRight)
	}
	b.until(`document.querySelector('[data-clock]').textContent === '1.5 s'`)
	seen := b.shown(`.screen`)

	// made, fetched and opened
	b.click(`[data-format=mp4]`)
	b.until(`!!document.querySelector('.made a')`)
	name, data := b.download(func() { b.run(`document.querySelector('.made a').click()`) })
	path := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(path, data, 0o600); err != nil {
		t.Fatal(err)
	}
	if !strings.HasSuffix(name, ".mp4") || !strings.Contains(name, "video-square") {
		t.Errorf("the file is called %q", name)
	}
	out, err := exec.Command("ffmpeg", "-v", "error", "-i", path, "-vf", fmt.Sprintf("select=eq(n\\,%d)", frame), "-frames:v", "1", "-f", "image2pipe", "-c:v", "png", "-").Output()
	if err != nil {
		t.Fatalf("ffmpeg: %v", err)
	}
	img, err := png.Decode(bytes.NewReader(out))
	if err != nil {
		t.Fatal(err)
	}
	if img.Bounds().Dx() != 1080 || img.Bounds().Dy() != 1080 {
		t.Errorf("its frames are %v", img.Bounds())
	}
	if d := apart(img, seen); d > 4 {
		t.Errorf("frame %d of the file is %.1f of 255 from what the page shows", frame, d)
	}

	// a still piece, moving, as a GIF
	b.run(`(() => { const s = document.querySelector('[data-moving-piece]'); s.value = 'ad-300x250'; s.dispatchEvent(new Event('change', { bubbles: true })) })()`)
	b.until(`document.querySelector('.screen svg').getAttribute('viewBox') === '0 0 300 250'`)
	b.fill(`[data-moving-seconds]`, "3")
	b.run(`document.querySelector('[data-moving-seconds]').blur()`)
	b.until(`document.querySelectorAll('.reel-take').length === 1 && document.querySelector('[data-track]').getAttribute('aria-valuemax') === '3.0'`)
	// one that ends as it begins shows the same at both ends, and takes four seconds at least
	b.fill(`[data-moving-seconds]`, "4")
	b.run(`document.querySelector('[data-moving-seconds]').blur()`)
	b.until(`document.querySelector('[data-track]').getAttribute('aria-valuemax') === '4.0'`)
	b.click(`[data-moving-loop]`)
	const ends = `(() => { const g = [...document.querySelectorAll('.screen svg g[opacity]')]; return g.length > 3 && g.every((e) => e.getAttribute('opacity') === '1') })()`
	b.run(`document.querySelector('.screen').focus()`)
	b.keys(kb.Home)
	b.until(`document.querySelector('[data-clock]').textContent === '0.0 s' && ` + ends)
	for range 76 { // parts are gone a little after the middle
		b.keys(kb.ArrowRight)
	}
	b.until(`!` + ends)
	b.keys(kb.End)
	b.until(ends)
	b.click(`[data-moving-loop]`)
	b.fill(`[data-moving-seconds]`, "3")
	b.run(`document.querySelector('[data-moving-seconds]').blur()`)
	b.until(`document.querySelector('[data-track]').getAttribute('aria-valuemax') === '3.0'`)
	b.click(`[data-move-as=gif]`)
	b.until(`document.querySelectorAll('.made a').length === 2`)
	name, data = b.download(func() { b.run(`document.querySelector('.made a').click()`) })
	if !strings.HasSuffix(name, ".gif") || !bytes.HasPrefix(data, []byte("GIF89a")) {
		t.Errorf("the moving piece is %q of %d bytes", name, len(data))
	}

	// both are listed when one comes back, and one that is being made goes on being followed, and
	// can be stopped
	page := eval[string](b, `location.pathname`)
	b.goTo(page)
	b.until(`document.querySelectorAll('.made a').length === 2`)
	b.click(`[data-make] [data-format=webm]`)
	b.until(`document.querySelectorAll('.made li').length === 3`)
	b.goTo(page)
	b.until(`document.querySelectorAll('.made li').length === 3`)
	b.click(`.made li:first-child button`)
	b.until(`document.querySelector('.made li').textContent.includes('stopped')`)

	// one that could not be made is there when one comes back, says why, and is made again by a button
	if _, err := s.Store.Pool.Exec(t.Context(), `update jobs set state = 'failed', said = 'The encoder was away.' where state = 'stopped'`); err != nil {
		t.Fatal(err)
	}
	b.goTo(page)
	b.until(`document.querySelectorAll('.made li').length === 3 && document.querySelector('.made li').textContent.includes('The encoder was away.')`)
	b.click(`[data-make-again]`)
	b.until(`document.querySelectorAll('.made li').length === 3 && !document.querySelector('[data-make-again]') && !!document.querySelector('.made progress')`)
	b.click(`.made li:first-child button`)
	b.until(`document.querySelector('.made li').textContent.includes('stopped')`)

	// both can be fetched at Hand over, beside the stills
	b.goTo(strings.Replace(eval[string](b, `location.pathname`), "/video", "/handover", 1))
	b.until(`document.querySelectorAll('.videos-card li').length === 2 && !document.querySelector('.videos-card .shot-heed')`)
	if again, held := b.download(func() { b.run(`document.querySelector('.videos-card a[download$=".gif"]').click()`) }); again != name || !bytes.Equal(held, data) {
		t.Errorf("at Hand over it is %q of %d bytes", again, len(held))
	}
}
