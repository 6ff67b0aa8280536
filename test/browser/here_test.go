package browser

import (
	"strings"
	"testing"

	"aspenridge/demo"
	"aspenridge/test/stage"
)

// TestTwoOnABrief: each sees that the other is there, on which piece, and what they type in;
// edits arrive by themselves; who goes is gone. Somebody who came by a link hears none of it.
func TestTwoOnABrief(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	nell := openTab(t, s.URL)
	nell.signIn()
	nell.run(`location.href = [...document.querySelectorAll('.mat-card')].find((a) => a.textContent.includes('Spring')).href`)
	nell.until(`location.pathname.endsWith('/mat') && !!document.querySelector('figure[data-piece=story]')`)
	mat := eval[string](nell, `location.pathname`)
	if n := eval[int](nell, `document.querySelectorAll('.here-one').length`); n != 0 {
		t.Errorf("%d others where there are none", n)
	}

	jonas := openTab(t, s.URL)
	jonas.goTo("/sign-in")
	jonas.fill(`[name=email]`, demo.Maker)
	jonas.fill(`[name=password]`, demo.Password)
	jonas.click(`form .act`)
	jonas.until(`location.pathname === '/desk'`)
	jonas.goTo(mat)
	jonas.until(`document.querySelector('.here-one')?.textContent.startsWith('NT')`)
	nell.until(`document.querySelector('.here-one')?.title.startsWith('Jonas Reth')`)

	// he writes: she sees where, and then what
	jonas.click(`[data-piece=feed-square] .hit[data-slot=headline]`)
	jonas.see(`.caret`)
	jonas.until(`!!Aspen.at().field`)
	jonas.keys(" now")
	nell.until(`/typing in/.test(document.querySelector('.here-says')?.textContent ?? '') && document.querySelector('figure[data-piece=feed-square]').dataset.with === 'JR'`)
	nell.until(`document.querySelector('[data-piece=feed-square] .art > svg').getAttribute('aria-label').includes('now')`)
	nell.until(`!document.querySelector('.here-says')`) // he rests

	// fields and shots, too
	brief := strings.TrimSuffix(mat, "/mat")
	nell.goTo(brief + "/start")
	jonas.goTo(brief + "/start")
	jonas.click(`#f-subheading`)
	jonas.keys(" soon")
	nell.until(`document.querySelector('#f-subheading').closest('label').dataset.with === 'JR'`)
	nell.goTo(brief + "/video")
	jonas.goTo(brief + "/video")
	jonas.see(`.shot:nth-child(2) textarea`)
	nell.see(`.shot:nth-child(2) textarea`)
	jonas.click(`.shot:nth-child(2) textarea`)
	jonas.keys("!")
	nell.until(`document.querySelectorAll('li[data-shot]')[1].dataset.with === 'JR' && /shot 2/.test(document.querySelector('.here-one').title)`)

	jonas.goTo("/desk")
	nell.until(`!document.querySelector('.here-one') && !document.querySelector('[data-with]')`)
}
