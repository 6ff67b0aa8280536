package browser

import (
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"

	"aspenridge/test/stage"
)

// TestPlacesAsWanted: none is a way to begin, never an end; one place alone is a set; a kept
// combination is a key away; and the next brief of the kit begins with the places used last.
func TestPlacesAsWanted(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.openMat("Spring")
	b.goTo(strings.Replace(eval[string](b, `location.pathname`), "/mat", "/start", 1))
	chosen := `document.querySelectorAll('[data-place]:checked').length`
	b.click(`[data-where]`)
	b.see(`[data-no-place]`)
	was := eval[int](b, chosen)
	b.click(`[data-no-place]`)
	b.until(chosen + ` === 0`)
	b.click(`.where-sheet form .act`)
	b.until(`!!document.querySelector('.notice')`)
	b.click(`[data-where]`)
	if now := eval[int](b, chosen); now != was {
		t.Errorf("closed with none it goes to %d places, before to %d", now, was)
	}
	b.fill(`[data-combine] input`, "all of ours")
	b.click(`[data-combine] button`)
	b.until(`!!document.querySelector('[data-combo]')`)
	b.run(`document.querySelector('[data-alone=story]').click()`)
	b.until(chosen + ` === 1`)
	b.saved()
	b.run(`document.querySelector('[data-combo]').dispatchEvent(new KeyboardEvent('keydown', { code: 'Digit1', altKey: true, bubbles: true }))`)
	b.until(chosen + ` > 1`)
	b.run(`document.querySelector('[data-alone=story]').click()`)
	b.until(chosen + ` === 1`)
	b.saved()
	b.click(`.where-sheet form .act`)
	b.until(`document.querySelector('[data-count]').textContent.startsWith('1 ') && document.querySelectorAll('.pre-row .piece').length === 1`)

	b.goTo("/desk")
	b.run(`[...document.querySelectorAll('.kit-card')].find((c) => c.textContent.includes('Paddle School')).querySelector('form[action="/briefs"]').requestSubmit()`)
	b.until(`location.pathname.endsWith('/start') && document.readyState === 'complete'`)
	if count := eval[string](b, `document.querySelector('[data-count]').textContent`); !strings.HasPrefix(count, "1 ") {
		t.Errorf("the next brief goes to %q", count)
	}
}

// TestAKeyKeepsTheReach: after Escape a piece is outlined still, and a key changes it alone, as it
// did while it was chosen.
func TestAKeyKeepsTheReach(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.openMat("Spring")
	groups := func(piece string) string {
		return eval[string](b, `[...document.querySelectorAll('[data-piece=`+piece+`] .art > svg > [data-group]')].map((g) => g.dataset.hash).join()`)
	}
	square, tall := groups("feed-square"), groups("feed-tall")
	b.click(`[data-piece=feed-square] [data-name]`)
	b.see(`.slip [data-reach=piece][aria-pressed=true]`)
	b.keys(kb.Escape)
	b.until(`document.activeElement.dataset.piece === 'feed-square' && ` + mat + `.active === null`)
	b.keys("l")
	b.until(mat + `.box.idle() && Object.keys(` + mat + `.info('feed-square').adjusted).length > 0`)
	if groups("feed-square") == square || groups("feed-tall") != tall {
		t.Error("the key changed more than the piece, or not the piece")
	}
}

// TestAnEdgeFrame: the kit's manner puts a frame along the edges of every piece; one piece goes
// without it, and gets it back.
func TestAnEdgeFrame(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.goTo(eval[string](b, `document.querySelector('.kit-link').getAttribute('href')`))
	b.see(`[data-step=edge]`)
	b.run(`document.querySelector('[name=manner-edge][value=bold]').click()`)
	b.saved()
	b.goTo("/desk")
	b.openMat("Spring")
	framed := func(piece string) string {
		return `!!document.querySelector('[data-piece=` + piece + `] [data-group^=edge]')`
	}
	b.until(framed("feed-square") + ` && ` + framed("story"))
	b.click(`[data-piece=feed-square] [data-name]`)
	b.see(`.slip [data-edge=on]`)
	b.click(`.slip [data-edge]`)
	b.until(`!(` + framed("feed-square") + `) && ` + framed("story"))
	b.see(`.slip [data-edge=off]`)
	b.click(`.slip [data-edge]`)
	b.until(framed("feed-square"))
}

// TestPlacesByPurpose: a brief that is for something else now may go where the last one for that went.
func TestPlacesByPurpose(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.openMat("Lantern")
	b.goTo(strings.Replace(eval[string](b, `location.pathname`), "/mat", "/start", 1))
	chosen := `[...document.querySelectorAll('[data-place]:checked')].map((e) => e.value).sort().join()`
	purpose, theirs := eval[string](b, `document.querySelector('#f-purpose').value`), eval[string](b, chosen)

	b.goTo("/desk")
	b.openMat("Spring")
	b.goTo(strings.Replace(eval[string](b, `location.pathname`), "/mat", "/start", 1))
	if now := eval[string](b, chosen); now == theirs || eval[string](b, `document.querySelector('#f-purpose').value`) == purpose {
		t.Fatalf("both briefs are for %s, in %s", purpose, now)
	}
	b.run(`{ const s = document.querySelector('#f-purpose'); s.value = ` + quote(purpose) + `; s.dispatchEvent(new Event('input', { bubbles: true })); s.dispatchEvent(new Event('change', { bubbles: true })) }`)
	b.click(`.notice button`)
	b.saved()
	b.until(chosen + ` === ` + quote(theirs))
	b.goTo(eval[string](b, `location.pathname`))
	b.until(chosen + ` === ` + quote(theirs))
	// there it goes already: nothing is offered
	if eval[bool](b, `!!document.querySelector('[data-usual]')`) {
		t.Error("the places it goes to are offered")
	}
}
