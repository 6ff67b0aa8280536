package browser

import (
	"fmt"
	"math"
	"testing"

	"github.com/chromedp/chromedp/kb"

	"aspenridge/test/stage"
)

// withheld keeps the answers of the Mat from the page until the script that is returned runs.
func (b *tab) withheld() (release string) {
	b.t.Helper()
	b.run(`{ const real = window.fetch; const let_go = new Promise((done) => { window.release = done });
		window.fetch = async (...a) => { if (String(a[0]).endsWith('/sync')) await let_go; return real(...a) } }`)
	return `window.release()`
}

// TestChangesBeforeTheAnswer: keys, the mouse and the wheel start from what is on the screen,
// though nothing of what they did before has been answered; and a reload in between loses nothing.
func TestChangesBeforeTheAnswer(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.closeUp("feed-tall")
	k := eval[float64](b, mat+`.scale(`+mat+`.info('feed-tall'))`)
	box := func(unit string) []float64 { return eval[[]float64](b, `[...`+b.part(unit, "box")+`]`) }
	near := func(what string, got, want float64) {
		t.Helper()
		if math.Abs(got-want) > 0.6 {
			t.Errorf("%s is %.2f; want %.2f", what, got, want)
		}
	}
	b.run(mat + `.pick('headline')`)
	was := box("headline")
	release := b.withheld()

	b.run(`document.querySelector('[data-close]').focus()`)
	for range 10 {
		b.keys(kb.ArrowRight)
		b.until(mat + `.nudged === null`)
	}
	near("the place ten presses lead to", box("headline")[0], was[0]+10/k)
	for range 3 { // further each time
		from := b.onPart("headline", 0.4, 0.3)
		b.mouse("mousePressed", from, 1)
		b.run(fmt.Sprintf(`dispatchEvent(new PointerEvent('pointermove', { clientX: %g, clientY: %g, buttons: 1, altKey: true }))`, from[0], from[1]-20))
		b.until(mat + `.held?.moved && !` + mat + `.held.waits`)
		b.run(fmt.Sprintf(`dispatchEvent(new PointerEvent('pointerup', { clientX: %g, clientY: %g }))`, from[0], from[1]-20))
	}
	near("the place three pulls lead to", box("headline")[1], was[1]-60/k)
	crop := eval[[]float64](b, `[...`+b.part("picture", "crop")+`]`)
	b.run(mat + `.pick('picture')`)
	for range 5 {
		at := b.onPart("picture", 0.5, 0.5)
		b.run(fmt.Sprintf(`document.querySelector('.close-stage .art').dispatchEvent(new WheelEvent('wheel', { deltaY: -60, clientX: %g, clientY: %g, bubbles: true, cancelable: true }))`, at[0], at[1]))
		b.until(mat + `.zooming === null`)
	}
	zoomed := crop[2] * math.Exp(-5*60/600.0)
	if got := eval[float64](b, b.part("picture", "crop[2]")); math.Abs(got-zoomed) > 0.002 {
		t.Errorf("five turns of the wheel show %.3f of the picture; want %.3f", got, zoomed)
	}
	b.run(`document.querySelector('[data-close]').focus()`)
	b.run(release)
	b.until(mat + `.box.idle()`)
	near("the answer's place across", box("headline")[0], was[0]+10/k)
	near("the answer's place down", box("headline")[1], was[1]-60/k)
	if got := eval[float64](b, b.part("picture", "crop[2]")); math.Abs(got-zoomed) > 0.002 {
		t.Errorf("answered, %.3f of the picture shows; want %.3f", got, zoomed)
	}
	if eval[bool](b, `!!document.querySelector('.close-stage [data-group][transform], .close-stage image[transform]')`) {
		t.Error("something still stands over where it is drawn")
	}

	// what waits when the page is left goes out from the next one, Close-up or not
	b.run(mat + `.pick('headline')`)
	b.withheld()
	b.run(`document.querySelector('[data-close]').focus()`)
	b.keys(kb.ArrowDown)
	b.goTo(eval[string](b, `location.pathname + location.search`))
	b.until(mat + `.close === 'feed-tall' && ` + mat + `.state.close?.parts.length > 3 && ` + mat + `.box.idle()`)
	near("the place after the page was left", box("headline")[1], was[1]-59/k)
}
