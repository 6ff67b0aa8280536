package browser

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/png"
	"math"
	"strings"
	"testing"

	cdp "github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"golang.org/x/image/draw"

	"aspenridge/test/stage"
)

// part is a part of the piece in the Close-up, as the page knows it.
func (b *tab) part(unit, what string) string { return fmt.Sprintf(mat+`.part(%q).%s`, unit, what) }

// untilPart waits until something is so of a part, and nothing waits for an answer.
func (b *tab) untilPart(unit, condition string) {
	b.t.Helper()
	b.until(b.part(unit, condition) + ` && ` + mat + `.box.idle()`)
}

// onPart is a place on the screen, in fractions of a part's box.
func (b *tab) onPart(unit string, x, y float64) [2]float64 {
	b.t.Helper()
	v := eval[[]float64](b, fmt.Sprintf(`(() => { const m = %s, q = m.part(%q), k = m.scale(m.info(m.close)), r = document.querySelector('.close-stage .art > svg').getBoundingClientRect(); return [r.left + (q.box[0] + q.box[2] * %g) * k, r.top + (q.box[1] + q.box[3] * %g) * k] })()`, mat, unit, x, y))
	return [2]float64{v[0], v[1]}
}

// closeUp opens a piece of the demo's first brief large.
func (b *tab) closeUp(piece string) {
	b.t.Helper()
	b.openMat("Spring")
	b.run(fmt.Sprintf(`document.querySelector('[data-piece=%s]').focus()`, piece))
	b.keys(kb.Enter)
	b.until(opened(piece))
}

// opened is that a piece is in the Close-up, with what is known of its parts.
func opened(piece string) string { return fmt.Sprintf(mat+`.state.close?.piece === %q`, piece) }

// drawn is the drawing of the piece in the Close-up, as it is on the page.
const drawn = `[...document.querySelectorAll('.close-stage .art > svg > [data-group]')].map((g) => g.dataset.group + g.dataset.hash + (g.getAttribute('transform') ?? '')).join()`

// TestAPartIsShapedByHand with the mouse and the keys: moved, sized, turned, and taken
// back step by step to what it was.
func TestAPartIsShapedByHand(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.closeUp("feed-tall")
	start := eval[string](b, drawn)
	box := func() []float64 { return eval[[]float64](b, `[...`+b.part("headline", "box")+`]`) }
	was := box()
	k := eval[float64](b, mat+`.scale(`+mat+`.info('feed-tall'))`)
	neighbour := eval[string](b, `JSON.stringify(`+mat+`.info('story').groups)`)

	// moved by the mouse, without anything to snap to
	b.run(mat + `.pick('headline')`)
	from := b.onPart("headline", 0.4, 0.3)
	b.mouse("mousePressed", from, 1)
	for i := 1; i <= 4; i++ {
		b.run(fmt.Sprintf(`dispatchEvent(new PointerEvent('pointermove', { clientX: %g, clientY: %g, buttons: 1, altKey: true }))`, from[0]+10*float64(i), from[1]-15*float64(i)))
	}
	b.until(`document.querySelector('.close-stage [data-group=headline]').hasAttribute('transform')`)
	b.mouse("mouseReleased", [2]float64{from[0] + 40, from[1] - 60}, 1)
	b.untilPart("headline", `hand.some((h) => h.property === 'offset')`)
	now := box()
	if dx, dy := now[0]-was[0], now[1]-was[1]; math.Abs(dx-40/k) > 2/k || math.Abs(dy+60/k) > 2/k {
		t.Errorf("pulled by 40, -60 px on the screen it went %.1f, %.1f px of the piece; want %.1f, %.1f", dx, dy, 40/k, -60/k)
	}
	b.until(`!document.querySelector('.close-stage [data-group=headline]').hasAttribute('transform')`)
	if got := eval[string](b, `JSON.stringify(`+mat+`.info('story').groups)`); got != neighbour {
		t.Error("another piece changed with it")
	}
	if !eval[bool](b, `!!document.querySelector('[data-called=headline].by-hand [data-lift-unit]')`) {
		t.Error("the margin does not say that it was moved")
	}

	// by the keys
	b.run(`document.querySelector('[data-close]').focus()`)
	b.keys(kb.ArrowRight)
	b.keys(kb.ArrowRight)
	b.until(fmt.Sprintf(`Math.abs(%s - %g) < 0.05`, b.part("headline", "box[0]"), now[0]+2/k))

	// larger by its corner; the corner across stays
	before := box()
	grip := func(at string) [2]float64 { return b.place(`.close-over [data-grip="`+at+`"]`, 0.5, 0.5) }
	g := grip("1 1")
	b.dragged(g, [2]float64{g[0] - 60, g[1] - 20})
	b.untilPart("headline", `hand.some((h) => h.property === 'scale')`)
	after := box()
	if math.Abs(after[0]-before[0]) > 1 || math.Abs(after[1]-before[1]) > 1 || after[2] > before[2]-20 {
		t.Errorf("sized by its lower right corner from %.1f to %.1f", before, after)
	}

	// turned
	g = grip("turn")
	b.dragged(g, [2]float64{g[0] + 50, g[1] + 4})
	b.untilPart("headline", `hand.some((h) => h.property === 'rotate')`)
	if deg := eval[float64](b, b.part("headline", "rotate")); deg < 5 || deg > 60 {
		t.Errorf("turned by %v degrees", deg)
	}

	// numbers as people type them
	b.fill(`.slip [data-amount=rotate]`, "0")
	b.untilPart("headline", "rotate === 0")
	b.fill(`.slip [data-amount=x]`, "100")
	b.until(`Math.abs(` + b.part("headline", "box[0]") + ` - 100) < 0.6`)
	b.fill(`.slip [data-amount=x]`, "+20")
	b.until(`Math.abs(` + b.part("headline", "box[0]") + ` - 120) < 0.6`)
	b.fill(`.slip [data-amount=type]`, "50%%")
	b.until(`!!document.querySelector('.notice.bad')`)
	if math.Abs(eval[float64](b, b.part("headline", "box[0]"))-120) > 0.6 {
		t.Error("what is no number changed something")
	}

	// back, one step after the other, to the byte
	for i := 0; eval[string](b, drawn) != start; i++ {
		if i > 12 {
			t.Fatal("after twelve steps back it is not as it was")
		}
		seq := eval[int](b, mat+`.state.seq`)
		b.run(`document.querySelector('button[data-undo]').click()`)
		b.until(fmt.Sprintf(mat+`.state.seq > %d`, seq))
	}

	// the list of what was done: back to the third step, then to the end, then as it began
	b.run(`document.querySelector('[data-close]').focus()`)
	b.keys("h")
	b.see(`.past .undone`)
	if n := eval[int](b, `document.querySelectorAll('.past .undone').length`); n < 5 {
		t.Errorf("%d steps can be put back", n)
	}
	first := eval[string](b, `[...document.querySelectorAll('.past .undone b')].at(-1).textContent`)
	if !strings.Contains(first, "Headline") {
		t.Errorf("the first step is called %q", first)
	}
	b.run(`[...document.querySelectorAll('.past .undone button')].at(-1).click()`)
	b.untilPart("headline", `hand.some((h) => h.property === 'offset')`)
	b.until(`document.querySelector('.past [aria-current]')?.textContent.includes('Headline')`)
	b.run(`document.querySelector('.past li:last-child button').click()`)
	b.untilPart("headline", `hand.length === 0`)
	b.click(`.past-sheet [data-adds-close]`)

	// Escape lets go, then leads back to the Mat
	b.run(`document.querySelector('[data-close]').focus()`)
	b.keys(kb.Escape)
	b.keys(kb.Escape)
	b.until(`!document.body.classList.contains('closed-up') && !!document.querySelector('.rowp [data-piece=feed-tall]')`)
}

// TestReachesOfHandWork: what is changed for a shape reaches like pieces and no others;
// its reach is changed afterwards in one step; back to the rule takes it all.
func TestReachesOfHandWork(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.closeUp("feed-tall")
	fills := func() string {
		return eval[string](b, mat+`.state.pieces.map((p) => p.id + ' ' + (p.words.find((w) => w.slot === 'headline')?.fill ?? '-')).join('; ')`)
	}
	at := func(piece string) string {
		_, rest, _ := strings.Cut(fills(), piece+" ")
		fill, _, _ := strings.Cut(rest, ";")
		return fill
	}
	square, tall := at("feed-square"), at("feed-tall")
	b.run(mat + `.pick('headline')`)
	sun := eval[string](b, mat+`.state.close.colours.find((c) => c.hex !== '`+tall+`').hex`)
	b.click(`.slip [data-reach=class]`)
	b.click(`.slip [data-paint=fill][data-value="` + eval[string](b, mat+`.state.close.colours.find((c) => c.hex !== '`+tall+`').token`) + `"]`)
	b.untilPart("headline", `hand.some((h) => h.property === 'fill' && h.reach === 'class:tall')`)
	if at("feed-tall") != sun || at("feed-square") != square {
		t.Errorf("coloured for tall ones: %s", fills())
	}
	b.click(`.slip [data-reach=set]`)
	b.click(`.slip [data-further]`)
	b.untilPart("headline", `hand.every((h) => h.reach === 'set')`)
	if at("feed-square") != sun {
		t.Errorf("reaching all: %s", fills())
	}
	b.click(`.slip [data-lift-unit=headline]`)
	b.untilPart("headline", `hand.length === 0`)
	if at("feed-tall") != tall || at("feed-square") != square {
		t.Errorf("back to the rule: %s", fills())
	}
}

// TestTwoTabsShapeOnePiece: different parts merge; of the same property both values are
// said, and one is chosen.
func TestTwoTabsShapeOnePiece(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	one := openTab(t, s.URL)
	one.signIn()
	one.closeUp("feed-tall")
	one.allowed = []string{"409"}
	two := one.another()
	two.goTo("/desk")
	two.closeUp("feed-tall")
	rotate := func(b *tab, unit string, degrees int) {
		t.Helper()
		b.run(fmt.Sprintf(mat+`.sendHand([`+mat+`.edit(%q, 'rotate', %d)])`, unit, degrees))
	}
	two.front()
	rotate(two, "logo", 7)
	two.untilPart("logo", "rotate === 7")
	one.front()
	one.until(one.part("logo", "rotate === 7"))
	// both turn the headline, the second before it has heard of the first
	seq := eval[int](one, mat+`.state.seq`)
	two.front()
	rotate(two, "headline", 5)
	two.untilPart("headline", "rotate === 5")
	one.front()
	one.run(fmt.Sprintf(mat+`.box.put({ hand: { placement: 'feed-tall', edits: [`+mat+`.edit('headline', 'rotate', -5), `+mat+`.edit('body', 'rotate', 3)] } }, { base: %d })`, seq))
	one.until(`document.querySelector('.notice.bad')?.textContent.includes('-5') && document.querySelector('.notice.bad').textContent.includes('5')`)
	one.until(one.part("headline", "rotate === 5"))
	one.click(`.notice button`)
	one.until(one.part("headline", "rotate === -5"))
	one.until(one.part("body", "rotate === 3"))
}

// TestWordsPicturesAndAddedParts of a piece, by hand, and that the file is what the
// Close-up shows.
func TestWordsPicturesAndAddedParts(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.closeUp("feed-tall")

	// words are typed in place, and a line ends where Enter says
	b.run(mat + `.pick('subheading')`)
	at := b.onPart("subheading", 0.5, 0.5)
	b.mouse("mousePressed", at, 1)
	b.mouse("mouseReleased", at, 1)
	b.mouse("mousePressed", at, 2)
	b.mouse("mouseReleased", at, 2)
	b.until(`document.activeElement.matches('[data-typing]') && ` + mat + `.stops.length > 0`)
	b.chord("a")
	b.keys("Six calm Saturdays on the river")
	b.untilPart("subheading", `text === 'Six calm Saturdays on the river'`)
	b.saved()
	// words that are selected get a style of their own
	b.run(`document.querySelector('[data-typing]').setSelectionRange(4, 8)`)
	b.click(`.slip [data-run=bold]`)
	b.untilPart("subheading", `hand.some((h) => h.property === 'runs' && h.value[0].words === 'calm' && h.value[0].bold)`)
	b.run(`document.querySelector('[data-typing]').setSelectionRange(18, 18)`)
	b.keys(kb.Enter)
	b.untilPart("subheading", `lines.join() === '3'`)
	b.keys(kb.Escape)

	// the picture moves in its frame, and the wheel shows less of it
	b.run(mat + `.pick('picture')`)
	crop := func() []float64 { return eval[[]float64](b, `[...`+b.part("picture", "crop")+`]`) }
	was := crop()
	b.run(fmt.Sprintf(`document.querySelector('.close-stage').dispatchEvent(new WheelEvent('wheel', { deltaY: -240, clientX: %g, clientY: %g, bubbles: true, cancelable: true }))`, b.onPart("picture", 0.5, 0.5)[0], b.onPart("picture", 0.5, 0.5)[1]))
	b.until(fmt.Sprintf(b.part("picture", `crop[2] < %g`), was[2]*0.9))
	was = crop()
	b.dragged(b.onPart("picture", 0.5, 0.4), b.onPart("picture", 0.4, 0.4))
	b.until(fmt.Sprintf(b.part("picture", `crop[0] > %g`), was[0]+0.01))
	b.click(`.slip [data-toggle=frame][data-value=arch]`)
	b.untilPart("picture", `hand.some((h) => h.property === 'frame')`)

	// a part is added, twice, ordered and deleted
	b.run(`document.querySelector('[data-close]').focus()`)
	b.keys("a")
	b.see(`.adds-sheet`)
	b.fill(`[data-icon-search]`, "heart")
	b.until(`!!document.querySelector('[data-icons] [data-add*=heart]')`)
	b.click(`.adds-sheet [data-add*=burst]`)
	b.until(mat + `.parts().some((q) => q.added)`)
	if over := eval[bool](b, mat+`.parts().filter((q) => q.text).some((q) => { const a = `+mat+`.parts().find((p) => p.added).box; return a[0] < q.box[0] + q.box[2] && q.box[0] < a[0] + a[2] && a[1] < q.box[1] + q.box[3] && q.box[1] < a[1] + a[3] })`); over {
		t.Error("the added part lies on words, and there is room")
	}
	b.run(`document.querySelector('[data-close]').focus()`)
	b.chord("d")
	b.until(mat + `.parts().filter((q) => q.added).length === 2`)
	b.keys(kb.Delete)
	b.until(mat + `.parts().filter((q) => q.added).length === 1`)

	// the file is what is seen
	b.saved()
	_, data := b.download(func() { b.run(`document.querySelector('.close-stage a.get').click()`) })
	img, err := png.Decode(bytes.NewReader(data))
	if err != nil {
		t.Fatal(err)
	}
	if img.Bounds().Dx() != 1080 || img.Bounds().Dy() != 1350 {
		t.Errorf("the file is %v", img.Bounds())
	}
	b.run(mat + `.pick('')`)
	if mean := apart(img, b.shown(`.close-stage .art > svg`)); mean > 4 {
		t.Errorf("file and Close-up differ by %.1f of 255 in the mean", mean)
	}

	// what is left out is said in the margin and comes back
	b.run(mat + `.pick('body')`)
	b.run(`document.querySelector('[data-close]').focus()`)
	b.keys(kb.Delete)
	b.until(`!!document.querySelector('[data-show-again=body]') && !` + mat + `.part('body')`)
	b.click(`[data-show-again=body]`)
	b.until(`!!` + mat + `.part('body')`)
}

// shown is how an element looks on the screen.
func (b *tab) shown(sel string) image.Image {
	b.t.Helper()
	eval[bool](b, `Promise.all([...document.querySelectorAll('`+sel+` image')].map((i) => { const p = new Image(); p.src = i.getAttribute('href'); return p.decode() })).then(() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(() => done(true)))))`)
	r := eval[[]float64](b, `(() => { const r = document.querySelector(`+quote(sel)+`).getBoundingClientRect(); return [r.left, r.top, r.right, r.bottom] })()`)
	ctx, cancel := context.WithTimeout(b.ctx, patience)
	defer cancel()
	data, err := cdp.Run(ctx, cdp.CaptureScreenshot())
	if err != nil {
		b.t.Fatal(err)
	}
	return rgba(b.t, data).SubImage(image.Rect(int(math.Round(r[0])), int(math.Round(r[1])), int(math.Round(r[2])), int(math.Round(r[3]))))
}

// apart is how far a picture and a smaller view of it are apart in the mean of their
// channels, of 255.
func apart(large, small image.Image) float64 {
	r := small.Bounds()
	scaled := image.NewRGBA(image.Rect(0, 0, r.Dx(), r.Dy()))
	draw.CatmullRom.Scale(scaled, scaled.Rect, large, large.Bounds(), draw.Src, nil)
	sum := 0.0
	for y := range r.Dy() {
		for x := range r.Dx() {
			c := scaled.RGBAAt(x, y)
			red, green, blue, _ := small.At(r.Min.X+x, r.Min.Y+y).RGBA()
			sum += math.Abs(float64(c.R)-float64(red>>8)) + math.Abs(float64(c.G)-float64(green>>8)) + math.Abs(float64(c.B)-float64(blue>>8))
		}
	}
	return sum / 3 / float64(r.Dx()*r.Dy())
}

// TestMeasuringByHand checks snapping, lining up, even gaps and typed numbers against
// examples reckoned by hand.
func TestMeasuringByHand(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.openMat("Spring")
	for js, want := range map[string]string{
		// 100 wide at 447: its middle, 497, is 3 from the middle of a canvas of 1000
		`(({ dx, dy, across }) => [dx, dy, across.line])(Aspen.measure.snap([447, 111, 100, 40], [], { w: 1000, h: 1000, safe: [60, 60, 880, 880] }, 6))`: "[3,0,500]",
		// its left edge 4 from the margin at 60, its top 5 under another's lower edge at 200
		`(({ dx, dy }) => [dx, dy])(Aspen.measure.snap([64, 205, 100, 33], [[300, 100, 90, 100]], { w: 1000, h: 1000, safe: [60, 60, 880, 880] }, 6))`: "[-4,-5]",
		// 120 and 112 to its neighbours: 4 to the left makes it 116 twice
		`(({ dx }) => dx)(Aspen.measure.snap([320, 500, 68, 37], [[100, 480, 100, 90], [500, 480, 109, 90]], { w: 1000, h: 2000, safe: [60, 60, 880, 1880] }, 6))`: "-4",
		`Aspen.measure.aligned([[10, 10, 20, 20], [50, 40, 40, 10]], 'right')`:                                                                                     "[[60,0],[0,0]]",
		`Aspen.measure.aligned([[10, 10, 20, 20], [50, 40, 40, 10]], 'middle')`:                                                                                    "[[0,10],[0,-15]]",
		`Aspen.measure.distributed([[0, 0, 10, 5], [15, 0, 20, 5], [70, 0, 30, 5]], 0)`:                                                                            "[[0,0],[15,0],[0,0]]",
		`['24', '24 px', '+12', '-12', '50%', '1/3', '2*40', '100-8', '1,5'].map((s) => Aspen.measure.amount(s, 60))`:                                              "[24,24,72,48,30,0.3333333333333333,80,92,1.5]",
		`['', 'abc', '50%%', '1e9', 'NaN', '1/0', '--4'].map((s) => Number.isNaN(Aspen.measure.amount(s, 60)))`:                                                    "[true,true,true,true,true,true,true]",
	} {
		if got := eval[string](b, `JSON.stringify(`+js+`)`); got != want {
			t.Errorf("%s\nis %s, want %s", js, got, want)
		}
	}
}

// TestSidesOfAnAddedPart: what was added has a width and a height of its own, by the hand and as
// numbers; it is bound to edges of the piece, or stands behind words.
func TestSidesOfAnAddedPart(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.closeUp("feed-tall")
	b.run(mat + `.addPart({ kind: 'shape', name: 'panel', at: [0.4, 0.2], size: [0.3, 0.2] })`)
	b.until(mat + `.part(` + mat + `.picked[0])?.part?.name === 'panel' && ` + mat + `.box.idle()`)
	unit := eval[string](b, mat+`.picked[0]`)
	k := eval[float64](b, mat+`.scale(`+mat+`.info('feed-tall'))`)
	box := func() []float64 { return eval[[]float64](b, `[...`+b.part(unit, "box")+`]`) }
	was := box()
	b.see(`.slip [data-fit=wide]`) // room has been made for it
	at := b.place(`[data-grip="1 0"]`, 0.5, 0.5)
	b.dragged(at, [2]float64{at[0] + 70, at[1] + 30})
	b.until(mat + `.box.idle() && !` + mat + `.held`)
	if now := box(); math.Abs(now[3]-was[3]) > 1 || math.Abs(now[0]-was[0]) > 1 || now[2] < was[2]+50/k {
		t.Errorf("its right side pulled, it is %v, before %v", now, was)
	}
	b.fill(`.slip [data-amount=high]`, "300")
	b.until(`Math.abs(` + b.part(unit, "box") + `[3] - 300) < 1 && ` + mat + `.box.idle()`)
	if now := box(); now[2] < was[2]+50/k {
		t.Errorf("with another height its width is %v", now[2])
	}
	b.click(`.slip [data-fit=wide]`)
	b.until(b.part(unit, "box") + `[0] === 0 && ` + b.part(unit, "box") + `[2] === ` + mat + `.info('feed-tall').w && ` + mat + `.box.idle()`)
	b.click(`.slip [data-fit=behind]`)
	b.until(b.part(unit, "box") + `[2] < ` + mat + `.info('feed-tall').w && ` + mat + `.box.idle()`)
	behind := eval[bool](b, `(() => {
		const m = `+mat+`, q = m.part(`+quote(unit)+`), over = (a, b) => a[0] <= b[0] && a[1] <= b[1] && a[0] + a[2] >= b[0] + b[2] && a[1] + a[3] >= b[1] + b[3]
		const words = m.parts().find((o) => o.kind === 'text' && over(q.box, o.box))
		const drawn = [...document.querySelectorAll('.close-stage .art > svg > [data-group]')].map((g) => g.dataset.group)
		return !!words && drawn.findIndex((g) => g.startsWith(q.unit)) < drawn.findIndex((g) => g.startsWith(words.unit))
	})()`)
	if !behind {
		t.Error("it does not stand behind words")
	}
}
