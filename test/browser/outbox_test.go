package browser

import (
	"testing"

	cdp "github.com/chromedp/chromedp"

	"aspenridge/test/stage"
)

// TestWhatWaitsGoesOutFromAnyPage: changes of a kit made while the database is away, the page
// closed before any was taken, are sent by the next page that is opened, whichever it is.
func TestWhatWaitsGoesOutFromAnyPage(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true, Far: true})
	b := openTab(t, s.URL)
	b.allowed = []string{"503", "500", "net::ERR_"}
	b.signIn()
	b.openKit()
	kit := eval[string](b, `location.pathname`)
	s.Proxy.Set(stage.Refused)
	b.run(`for (const [id, v] of [['w-tagline', 'After the rain'], ['w-phone', '0555 0101'], ['w-place', 'Upper landing']]) { const el = document.getElementById(id); el.value = v; el.dispatchEvent(new Event('change', { bubbles: true })) }`)
	b.late()
	b.until(`document.querySelector('.saved').textContent.includes('3')`)
	b.do("closing the page", cdp.Navigate("about:blank"))
	s.Proxy.Set(stage.Fair)
	b.goTo("/desk")
	b.until(`!Object.keys(localStorage).some((k) => k.startsWith('aspenridge-out-'))`)
	b.goTo(kit)
	b.until(`document.getElementById('w-tagline').value === 'After the rain' && document.getElementById('w-phone').value === '0555 0101' && document.getElementById('w-place').value === 'Upper landing'`)
}

// TestAPageThatFailsHoldsNothingUp: a fault of the page over an answer leaves what waits behind it
// to be sent.
func TestAPageThatFailsHoldsNothingUp(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.allowed = []string{"of the page itself"}
	b.signIn()
	b.openKit()
	b.run(`window.failing = document.querySelector('[data-title]'); Object.defineProperty(failing, 'textContent', { configurable: true, set() { throw new Error('of the page itself') } })`)
	b.run(`{ const el = document.getElementById('w-tagline'); el.value = 'First'; el.dispatchEvent(new Event('change', { bubbles: true })) }`)
	b.until(`!Object.keys(localStorage).some((k) => k.startsWith('aspenridge-out-'))`)
	b.run(`{ delete window.failing.textContent; const el = document.getElementById('w-phone'); el.value = '0555 0202'; el.dispatchEvent(new Event('change', { bubbles: true })) }`)
	b.until(`!Object.keys(localStorage).some((k) => k.startsWith('aspenridge-out-'))`)
	b.goTo(eval[string](b, `location.pathname`))
	b.until(`document.getElementById('w-tagline').value === 'First' && document.getElementById('w-phone').value === '0555 0202'`)
}

// TestColoursTypedQuickly: the next colour is typed before the one before it was answered: both
// are there, each by its own name.
func TestColoursTypedQuickly(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true, Far: true})
	b := openTab(t, s.URL)
	b.allowed = []string{"503", "500", "net::ERR_"}
	b.signIn()
	b.openKit()
	s.Proxy.Set(stage.Slow)
	b.run(`document.getElementById('add-colours').scrollIntoView({ block: 'center' }); document.getElementById('add-colours').focus()`)
	b.keys("Plum #5b3256")
	b.enter()
	b.keys("Moss #44603a")
	b.until(`document.getElementById('add-colours').value === 'Moss #44603a'`)
	b.until(`[...document.querySelectorAll('.swatch')].some((s) => s.textContent.includes('Plum') || s.innerHTML.includes('Plum'))`)
	b.until(`document.getElementById('add-colours').value === 'Moss #44603a'`)
	b.enter()
	s.Proxy.Set(stage.Fair)
	b.saved()
	b.until(`['Plum', 'Moss'].every((n) => [...document.querySelectorAll('.swatch')].some((s) => s.innerHTML.includes('value="' + n + '"')))`)
}

// TestGivingOnTheDesk: what is typed into the field on the Desk and in the header of a kit is
// given, by Enter and by the button, and the page stays.
func TestGivingOnTheDesk(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	for page, field := range map[string]string{"/desk": `form.give-bar [name=text]`, "kit": `form.give-mini [name=text]`} {
		if page == "kit" {
			b.openKit()
		} else {
			b.goTo(page)
		}
		at := eval[string](b, `location.href`)
		b.see(field)
		b.run(`document.querySelector('` + field + `').focus()`)
		given := map[string]string{"/desk": "Thistle #7a5c99", "kit": "Heather #9a3c6e"}[page] // a colour is taken once
		b.keys(given)
		b.enter()
		b.until(`document.querySelector('[data-notices]').textContent.includes('` + given[:7] + `')`)
		b.until(`document.querySelector('` + field + `').value === ''`)
		if now := eval[string](b, `location.href`); now != at {
			t.Errorf("from %s giving leads to %s", at, now)
		}
	}
}
