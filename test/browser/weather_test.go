package browser

import (
	"testing"

	cdp "github.com/chromedp/chromedp"

	"aspenridge/test/stage"
)

// late waits until the header says that something is not saved yet.
func (b *tab) late() {
	b.t.Helper()
	b.until(`document.querySelector('.saved').classList.contains('late')`)
}

// A database that is away for a while costs nothing that was typed meanwhile:
// the page says that it is not saved yet, keeps trying and sends everything in
// order, also when it was closed in between.
func TestTheDatabaseGoesAwayWhileTyping(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true, Far: true})
	b := openTab(t, s.URL)
	b.allowed = []string{"503", "500", "net::ERR_"}
	b.signIn()
	b.openMat("Spring")
	page := eval[string](b, `location.pathname`)
	b.click(`[data-piece=feed-tall] .hit[data-slot=headline]`)
	b.see(`.caret`)
	for _, w := range []struct {
		how   stage.Weather
		words string
	}{{stage.Refused, "Broken off in the middle"}, {stage.Slow, "Slower than it was"}, {stage.Refused, "And away again"}} {
		b.chord("a")
		b.keys(w.words[:6])
		b.saved()
		s.Proxy.Set(w.how)
		b.keys(w.words[6:])
		if w.how == stage.Refused {
			b.late()
		}
		s.Proxy.Set(stage.Fair)
		b.saved()
		b.until(says(w.words))
	}
	b.goTo(page)
	b.until(says("And away again"))

	// several changes of several fields, in order, and the page closed before any
	// of them was taken
	b.click(`[data-piece=feed-tall] .hit[data-slot=headline]`)
	b.see(`.caret`)
	s.Proxy.Set(stage.Refused)
	b.chord("a")
	b.keys("Written while it rained")
	b.late()
	// the caret comes from the server, the words do not need it
	b.click(`[data-piece=story] .hit[data-slot=subheading]`)
	b.until(`document.activeElement === document.querySelector('[data-typing]') && document.querySelector('[data-typing]').value !== 'Written while it rained'`)
	b.chord("a")
	b.keys("And below it, too")
	b.until(`Object.keys(localStorage).some((k) => k.startsWith('aspenridge-out-mat-') && localStorage[k].includes('And below it, too'))`)
	b.do("closing the page", cdp.Navigate("about:blank"))
	s.Proxy.Set(stage.Fair)
	b.goTo(page)
	b.until(says("Written while it rained"))
	b.saved()
	b.goTo(page)
	b.until(says("Written while it rained"))
	b.until(`Alpine.$data(document.querySelector('[data-mat]')).state.pieces.flatMap((p) => p.words).find((w) => w.field === 'subheading').text === 'And below it, too'`)
	if eval[bool](b, `Object.keys(localStorage).some((k) => k.startsWith('aspenridge-out-'))`) {
		t.Error("what was sent still waits in the browser")
	}
}

// The Kit sends on after an outage, everything that was changed meanwhile.
func TestTheDatabaseGoesAwayUnderTheKit(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true, Far: true})
	b := openTab(t, s.URL)
	b.allowed = []string{"503", "500", "net::ERR_"}
	b.signIn()
	b.openKit()
	s.Proxy.Set(stage.Refused)
	b.run(`for (const [id, v] of [['w-tagline', 'After the rain'], ['w-phone', '0555 0101'], ['w-place', 'Upper landing']]) { const el = document.getElementById(id); el.value = v; el.dispatchEvent(new Event('change', { bubbles: true })) }`)
	b.late()
	s.Proxy.Set(stage.Fair)
	b.saved()
	b.until(`document.getElementById('w-tagline').value === 'After the rain' && document.getElementById('w-place').value === 'Upper landing'`)
	page := eval[string](b, `location.pathname`)
	b.goTo(page)
	b.until(`document.getElementById('w-tagline').value === 'After the rain' && document.getElementById('w-phone').value === '0555 0101' && document.getElementById('w-place').value === 'Upper landing'`)
}

// A page asked for while the database is away says so and comes by itself once it
// is back.
func TestPagesComeBackByThemselves(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true, Far: true})
	b := openTab(t, s.URL)
	b.allowed = []string{"503", "500", "net::ERR_"}
	b.signIn()
	s.Proxy.Set(stage.Refused)
	b.goTo("/desk")
	b.until(`document.body.innerText.includes('nothing you did is lost')`)
	s.Proxy.Set(stage.Fair)
	b.see(`.desk`)
}
