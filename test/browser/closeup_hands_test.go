package browser

import (
	"context"
	"encoding/base64"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	cdptype "github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/input"
	cdp "github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"aspenridge/test/stage"
)

// touch puts fingers on the page, moves them, or with none takes them off.
func (b *tab) touch(kind input.DispatchTouchEventType, fingers ...[2]float64) {
	b.t.Helper()
	p := input.DispatchTouchEventParams{Type: kind, TouchPoints: []*input.TouchPoint{}}
	for i, at := range fingers {
		id := float64(i)
		p.TouchPoints = append(p.TouchPoints, &input.TouchPoint{X: at[0], Y: at[1], ID: &id})
	}
	b.do(string(kind), func(ctx context.Context, t *cdp.Target) (cdp.Void, error) {
		_, err := cdptype.Call(ctx, t, input.DispatchTouchEvent, p)
		return cdp.Void{}, err
	})
}

func (b *tab) tap(at [2]float64) {
	b.t.Helper()
	b.touch("touchStart", at)
	b.touch("touchEnd")
}

// TestFingersShapeAPiece: one moves a part, two show more or less of a picture and make the
// drawing larger, two touches type.
func TestFingersShapeAPiece(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.closeUp("feed-tall")
	by := func(at [2]float64, x, y float64) [2]float64 { return [2]float64{at[0] + x, at[1] + y} }

	b.tap(b.onPart("headline", 0.5, 0.3))
	b.until(mat + `.picked.join() === 'headline'`)
	was := eval[[]float64](b, `[...`+b.part("headline", "box")+`]`)
	from := b.onPart("headline", 0.5, 0.3)
	b.touch("touchStart", from)
	for i := 1.0; i <= 4; i++ {
		b.touch("touchMove", by(from, 0, -18*i))
	}
	b.touch("touchEnd")
	b.untilPart("headline", `hand.some((h) => h.property === 'offset')`)
	if now := eval[float64](b, b.part("headline", "box[1]")); now > was[1]-40 {
		t.Errorf("a finger moved the headline from %.0f to %.0f", was[1], now)
	}

	// two fingers that go apart by half show two thirds of the picture
	b.run(mat + `.pick('picture')`)
	wide := eval[float64](b, b.part("picture", "crop[2]"))
	at := b.onPart("picture", 0.5, 0.5)
	b.touch("touchStart", by(at, -60, 0), by(at, 60, 0))
	b.touch("touchMove", by(at, -75, 0), by(at, 75, 0))
	b.touch("touchMove", by(at, -90, 0), by(at, 90, 0))
	b.touch("touchEnd")
	b.untilPart("picture", `hand.some((h) => h.property === 'crop')`)
	if now := eval[float64](b, b.part("picture", "crop[2]")); math.Abs(now-wide*2/3) > 0.02 {
		t.Errorf("fingers half as far apart again show %.3f of the picture's width; it was %.3f", now, wide)
	}

	// elsewhere they make the drawing larger, and what is between them stays there
	b.run(mat + `.pick('')`)
	at = b.onPart("body", 0.5, 0.5)
	b.touch("touchStart", by(at, -50, 0), by(at, 50, 0))
	b.touch("touchMove", by(at, -100, 0), by(at, 100, 0))
	b.touch("touchEnd")
	b.until(`Math.abs(` + mat + `.closeZoom - 2) < 0.05`)
	if now := b.onPart("body", 0.5, 0.5); math.Hypot(now[0]-at[0], now[1]-at[1]) > 12 {
		t.Errorf("between two fingers the drawing went from %.0f to %.0f", at, now)
	}
	b.run(mat + `.zoomClose(1)`)

	b.tap(b.onPart("body", 0.3, 0.3))
	b.tap(b.onPart("body", 0.3, 0.3))
	b.until(`document.activeElement.matches('[data-typing]') && ` + mat + `.active.field === 'body'`)
}

// TestTypingInTurnedWords: the caret leans with them and stands where one clicks; letters
// come where it is.
func TestTypingInTurnedWords(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.closeUp("feed-tall")
	b.run(mat + `.sendHand([` + mat + `.edit('subheading', 'rotate', 24), ` + mat + `.edit('subheading', 'scale', 0.8)])`)
	b.untilPart("subheading", "rotate === 24")
	b.run(mat + `.typeIn('subheading')`)
	b.see(`.caret`)
	// after the last letter: at the right end of the turned line, reckoned from its frame
	end := `(() => { const m = ` + mat + `, f = m.frameOf(m.part('subheading')), r = (f.rotate * Math.PI) / 180, k = m.scale(m.info(m.close)), s = document.querySelector('.close-stage .art > svg').getBoundingClientRect(); return [s.left + (f.cx + (f.w / 2) * Math.cos(r)) * k, s.top + (f.cy + (f.w / 2) * Math.sin(r)) * k] })()`
	caret := `(() => { const r = document.querySelector('.caret').getBoundingClientRect(); return [(r.left + r.right) / 2, (r.top + r.bottom) / 2, r.width, r.height] })()`
	want, got := eval[[]float64](b, end), eval[[]float64](b, caret)
	if d := math.Hypot(got[0]-want[0], got[1]-want[1]); d > 12 {
		t.Errorf("the caret is %.1f px from the end of the turned line: %.0f, want %.0f", d, got[:2], want)
	}
	if lean := math.Atan2(got[2], got[3]) * 180 / math.Pi; lean < 20 || lean > 32 {
		t.Errorf("the caret leans by %.0f degrees, the words by 24", lean)
	}
	// a click into the second word puts it there, and letters come where it is
	text := []rune(eval[string](b, b.part("subheading", "text")))
	at := slices.Index(text, ' ') + 1
	place := eval[[]float64](b, fmt.Sprintf(`(() => { const m = %s, s = m.stopAt(%d), [a, c, d, e, f, g] = m.moved, k = m.scale(m.info(m.close)), r = document.querySelector('.close-stage .art > svg').getBoundingClientRect(), y = (s.t + s.b) / 2; return [r.left + (a * s.x + d * y + f) * k, r.top + (c * s.x + e * y + g) * k] })()`, mat, at))
	b.mouse("mousePressed", [2]float64{place[0], place[1]}, 1)
	b.mouse("mouseReleased", [2]float64{place[0], place[1]}, 1)
	b.until(fmt.Sprintf(`document.querySelector('.caret')?.dataset.at === '%d'`, at))
	b.keys("calm ")
	b.saved()
	b.untilPart("subheading", `text === `+quote(string(text[:at])+"calm "+string(text[at:])))
	b.saved()
	if eval[bool](b, `!!document.querySelector('[data-echo]')`) {
		t.Error("letters drawn in the moment stay when the line has come")
	}
}

// TestOrderNamesAndSteps: a name is dragged in the margin, a part gets a name, the list of
// what was done shows the piece, and one part is taken back alone.
func TestOrderNamesAndSteps(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.closeUp("feed-tall")
	order := mat + `.parts().map((q) => q.unit)`
	behind := func(one, other string) string {
		return fmt.Sprintf(order+`.indexOf(%q) === `+order+`.indexOf(%q) - 1`, one, other)
	}
	if eval[bool](b, behind("headline", "panel")) {
		t.Fatal("the headline is behind the panel already")
	}
	drop := b.place(`[data-called=panel] button`, 0.5, 1.4)
	b.dragged(b.place(`[data-called=headline] button`, 0.5, 0.5), drop)
	b.until(behind("headline", "panel"))
	drawnFirst := `(() => { const g = [...document.querySelectorAll('.close-stage .art > svg > [data-group]')].map((e) => e.dataset.slot); return g.indexOf('headline') < g.indexOf('panel') })()`
	if !eval[bool](b, drawnFirst) {
		t.Error("it is listed behind the panel and drawn before it")
	}
	drop = b.place(`[data-called=panel] button`, 0.5, -0.4)
	b.dragged(b.place(`[data-called=headline] button`, 0.5, 0.5), drop)
	b.until(`!(` + behind("headline", "panel") + `)`)

	b.run(mat + `.pick('headline')`)
	b.run(`document.querySelector('[data-close]').focus()`)
	b.keys("n")
	b.see(`.name-field`)
	b.run(`document.activeElement.select()`)
	b.keys("Our promise" + kb.Enter)
	b.untilPart("headline", `label === 'Our promise'`)
	b.until(`document.querySelector('[data-called=headline] button').textContent === 'Our promise'`)

	// two parts are turned; of them the headline alone goes back
	b.run(mat + `.sendHand([` + mat + `.edit('headline', 'rotate', 9), ` + mat + `.edit('logo', 'rotate', -9)])`)
	b.untilPart("logo", "rotate === -9")
	b.run(mat + `.pick('headline')`)
	b.run(`document.querySelector('[data-close]').focus()`)
	b.keys("h")
	b.until(`document.querySelectorAll('.past [data-then] svg').length > 3`)
	now, start := `.past li:first-child [data-then] svg`, `.past li:last-child [data-then] svg`
	b.run(`document.querySelector('.past li:last-child').scrollIntoView()`)
	b.until(`!!document.querySelector('` + start + `') && !!document.querySelector('` + now + `')`)
	if eval[string](b, `document.querySelector('`+now+`').innerHTML.replaceAll(/past\d+/g, '')`) == eval[string](b, `document.querySelector('`+start+`').innerHTML.replaceAll(/past\d+/g, '')`) {
		t.Error("the piece looks the same in every step")
	}
	b.click(`.past li:nth-child(2) [data-take]`)
	b.untilPart("headline", "rotate === 0")
	if got := eval[float64](b, b.part("logo", "rotate")); got != -9 {
		t.Errorf("the logo is turned by %v; only the headline was taken back", got)
	}
	if got := eval[string](b, b.part("headline", "label")); got != "Our promise" {
		t.Errorf("the headline is called %q", got)
	}
}

// dropOn lets a file go over a part of the large piece, after it was held there; what is
// outlined then is answered.
func (b *tab) dropOn(at [2]float64, name, kind string, data []byte) (outlined []float64) {
	b.t.Helper()
	b.run(fmt.Sprintf(`(() => { const d = new DataTransfer(); d.items.add(new File([Uint8Array.from(atob(%q), (c) => c.charCodeAt(0))], %q, { type: %q })); window.carried = d })()`, base64.StdEncoding.EncodeToString(data), name, kind))
	send := func(event string) {
		b.run(fmt.Sprintf(`document.querySelector('.close-stage .art').dispatchEvent(new DragEvent(%q, { dataTransfer: carried, clientX: %g, clientY: %g, bubbles: true, cancelable: true }))`, event, at[0], at[1]))
	}
	send("dragover")
	outlined = eval[[]float64](b, `(() => { const r = document.querySelector('.hit-box'); return ['x', 'y', 'width', 'height'].map((a) => Number(r.getAttribute(a))) })()`)
	send("drop")
	return outlined
}

// TestPicturesComeAndGo: into a frame that is outlined before, onto a free place, by paste,
// not into a locked frame without a question; cut to an icon, a part of them kept whole,
// their colours used, and a drawing given to other programs.
func TestPicturesComeAndGo(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.closeUp("feed-tall")
	hash := b.part("picture", "hash")
	was := eval[string](b, hash)
	box := eval[[]float64](b, `[...`+b.part("picture", "box")+`]`)

	hit := b.dropOn(b.onPart("picture", 0.5, 0.3), "lake.png", "image/png", stage.Photo(640, 480))
	if fmt.Sprint(hit) != fmt.Sprint(box) {
		t.Errorf("outlined before the drop is %v, the frame is %v", hit, box)
	}
	b.until(hash + ` !== ` + quote(was))
	lake := eval[string](b, hash)
	if eval[bool](b, `!!document.querySelector('.hit-box')`) {
		t.Error("the outline stays after the drop")
	}

	b.run(mat + `.sendHand([` + mat + `.edit('picture', 'locked', true)])`)
	b.untilPart("picture", `hand.some((h) => h.property === 'locked')`)
	b.dropOn(b.onPart("picture", 0.5, 0.3), "other.png", "image/png", stage.Photo(500, 500))
	b.until(`document.querySelector('[data-notices]').textContent.includes('locked')`)
	if eval[string](b, hash) != lake {
		t.Error("a locked picture was replaced without a question")
	}
	b.click(`.notice button`)
	b.until(hash + ` !== ` + quote(lake))

	// where there is no frame it becomes a part, there
	at := b.onPart("body", 0.5, 0.5)
	b.dropOn(at, "small.png", "image/png", stage.Photo(300, 200))
	b.until(mat + `.parts().some((q) => q.added && q.crop)`)
	added := eval[[]float64](b, `(() => { const m = `+mat+`, q = m.parts().find((q) => q.added && q.crop), k = m.scale(m.info(m.close)), r = document.querySelector('.close-stage .art > svg').getBoundingClientRect(); return [r.left + (q.box[0] + q.box[2] / 2) * k, r.top + (q.box[1] + q.box[3] / 2) * k, q.box[2] / q.box[3]] })()`)
	if math.Hypot(added[0]-at[0], added[1]-at[1]) > 3 || math.Abs(added[2]-1.5) > 0.01 {
		t.Errorf("dropped at %.0f it is at %.0f, %.2f times as wide as high", at, added[:2], added[2])
	}

	// a drawing pasted as text, with a script in it: the drawing comes, the script does not
	b.run(mat + `.pick('')`)
	b.run(`(() => { const d = new DataTransfer(); d.setData('text/plain', '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 40 20"><script>window.harmed = 1</script><rect width="40" height="20" fill="#123456" onclick="window.harmed = 1"/></svg>'); document.body.dispatchEvent(new ClipboardEvent('paste', { clipboardData: d, bubbles: true, cancelable: true })) })()`)
	b.until(mat + `.parts().filter((q) => q.added && q.crop).length === 2`)
	if eval[bool](b, `!!window.harmed || !!document.querySelector('.close-stage script')`) {
		t.Error("a script came with the drawing")
	}

	// cut to an icon
	b.run(mat + `.pick('picture')`)
	b.click(`.slip [data-frame-icon]`)
	b.until(`!!document.querySelector('.adds-sheet [data-frame=heart]')`)
	if eval[bool](b, `!!document.querySelector('.adds-sheet [data-frame=wifi]')`) {
		t.Error("an icon of lines alone is offered as a frame")
	}
	b.click(`.adds-sheet [data-frame=heart]`)
	b.untilPart("picture", `hand.some((h) => h.property === 'frame' && h.value === 'icon:heart')`)
	b.until(`!!document.querySelector('.close-stage [data-group=picture] clipPath path')`)

	// what is kept whole is drawn as a box, and holds on every piece
	b.run(mat + `.pick('picture')`)
	b.click(`.slip [data-mark-whole]`)
	b.until(`document.body.classList.contains('marking')`)
	b.dragged(b.onPart("picture", 0.55, 0.35), b.onPart("picture", 0.8, 0.7))
	b.until(`!document.body.classList.contains('marking') && ` + b.part("picture", `subjects?.length === 1`))
	sub := eval[[]float64](b, `(() => { const q = `+mat+`.part('picture'); return [(q.subjects[0][0] - q.box[0]) / q.box[2], (q.subjects[0][1] - q.box[1]) / q.box[3]] })()`)
	if sub[0] < 0 || sub[0] > 1 || sub[1] < 0 || sub[1] > 1 {
		t.Errorf("what is kept whole begins at %.2f of the frame", sub)
	}

	// its colours are offered for words
	b.run(mat + `.pick('headline')`)
	b.until(`!!document.querySelector('.slip [aria-label^="From the picture"]')`)
	colour := eval[string](b, `document.querySelector('.slip [aria-label^="From the picture"]').dataset.value`)
	offered := `document.querySelector('.slip [aria-label^="From the picture"][data-value="` + colour + `"]')`
	b.until(`!!` + offered + ` && (` + offered + `.click(), true)`) // the slip may just be drawn anew
	b.untilPart("headline", `fill === `+quote(colour))
	b.until(`!!document.querySelector('.slip [data-everywhere=fill]')`)
	b.click(`.slip [data-everywhere=fill]`)
	b.until(mat + `.state.pieces.every((p) => p.words.every((w) => w.fill === ` + quote(colour) + `))`)

	// given to other programs, it is a document of its own
	b.run(mat + `.pick('picture')`)
	svg := eval[string](b, mat+`.drawing().then((d) => d.text)`)
	if !strings.HasPrefix(svg, "<svg xmlns=") || strings.Contains(svg, "data-group") || strings.Contains(svg, `href="/`) || !strings.Contains(svg, "data:image/") {
		t.Errorf("the drawing for other programs is %.200s", svg)
	}
	size := eval[[]float64](b, mat+`.asPNG().then(createImageBitmap).then((i) => [i.width, i.height, Math.ceil(`+b.part("picture", "box[2]")+`) + 1])`)
	if size[0] != size[2] || size[1] < 100 {
		t.Errorf("as a picture it is %v", size)
	}
}

// TestAnotherTryBesideAPiece: it begins as the piece is, is changed alone, stands beside it
// on the Mat and comes as a file of its own.
func TestAnotherTryBesideAPiece(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.closeUp("feed-tall")
	b.run(mat + `.sendHand([` + mat + `.edit('headline', 'rotate', 6)])`)
	b.untilPart("headline", "rotate === 6")
	b.run(`document.querySelector('[data-close]').focus()`)
	b.keys("v")
	b.until(`window.Alpine && ` + mat + `?.close === 'feed-tall~b' && !!` + mat + `.part('headline')`)
	if got := eval[float64](b, b.part("headline", "rotate")); got != 6 {
		t.Errorf("the other try begins with the headline turned by %v", got)
	}
	b.run(mat + `.sendHand([` + mat + `.edit('headline', 'rotate', -12)])`)
	b.untilPart("headline", "rotate === -12")
	b.run(mat + `.openClose('feed-tall')`)
	b.until(mat + `.close === 'feed-tall' && ` + mat + `.part('headline')?.rotate === 6`)
	b.run(`document.querySelector('[data-close]').focus()`)
	b.keys(kb.Escape)
	b.until(`!document.body.classList.contains('closed-up')`)
	if !eval[bool](b, `document.querySelector('[data-piece=feed-tall]').nextElementSibling?.dataset.piece === 'feed-tall~b'`) {
		t.Error("the other try does not lie beside the piece")
	}
	name, data := b.download(func() { b.run(`document.querySelector('[data-piece="feed-tall~b"] a.get').click()`) })
	if len(data) < 1000 || strings.Contains(name, "~") {
		t.Errorf("its file is %q of %d bytes", name, len(data))
	}
}
