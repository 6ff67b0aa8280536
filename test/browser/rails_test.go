package browser

import (
	"testing"

	"aspenridge/demo"
	"aspenridge/test/stage"
)

// TestAskingAnOwner: who may not go beyond the kit's voice is told so where they write, asks with
// a reason, and reads the answer on the Desk; the owner sees the piece before and after, and says
// yes for one piece.
func TestAskingAnOwner(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	jonas := openTab(t, s.URL)
	jonas.allowed = append(jonas.allowed, "403")
	jonas.goTo("/sign-in")
	jonas.fill(`[name=email]`, demo.Maker)
	jonas.fill(`[name=password]`, demo.Password)
	jonas.click(`form .act`)
	jonas.until(`location.pathname === '/desk' && document.querySelectorAll('.mat-card').length > 1`)
	jonas.run(`location.href = [...document.querySelectorAll('.mat-card')].find((a) => a.textContent.includes('Spring')).href.replace('/mat', '/start')`)
	jonas.until(`location.pathname.endsWith('/start') && document.readyState === 'complete' && !!document.querySelector('#f-headline')`)
	jonas.fill(`#f-headline`, "Extreme first strokes")
	jonas.until(`document.querySelector('.notice button')?.textContent === 'Ask for it'`)
	jonas.click(`.notice button`)
	jonas.until(`!!document.querySelector('dialog[open] textarea')`)
	jonas.fill(`dialog[open] textarea`, "The river is high that week.")
	jonas.click(`dialog[open] .act`)
	jonas.until(`document.querySelector('.notice')?.textContent.includes('owner is asked')`)

	nell := openTab(t, s.URL)
	nell.signIn()
	nell.goTo("/desk")
	const asked = `[...document.querySelectorAll('.asked')].find((a) => a.textContent.includes('The river is high'))`
	nell.until(`!!` + asked)
	nell.run(asked + `.scrollIntoView()`)
	nell.until(`[...` + asked + `.querySelectorAll('img')].length === 2 && [...` + asked + `.querySelectorAll('img')].every((i) => i.complete && i.naturalWidth > 100)`)
	nell.run(`const a = ` + asked + `; a.querySelector('input').value = 'On this one only.'; a.querySelector('[value=piece]').click()`)
	nell.until(`document.querySelectorAll('.asked').length > 0 && !` + asked)
	nell.run(`location.href = [...document.querySelectorAll('.mat-card')].find((a) => a.textContent.includes('Spring')).href`)
	nell.until(`location.pathname.endsWith('/mat') && document.querySelectorAll('figure .paper svg, figure svg').length > 3`)
	nell.until(`[...document.querySelectorAll('figure')].filter((f) => /Extreme/.test(f.textContent + (f.querySelector('[aria-label]')?.getAttribute('aria-label') ?? '') + (f.getAttribute('aria-label') ?? ''))).length === 1`)

	jonas.goTo("/desk")
	jonas.until(`[...document.querySelectorAll('.desk-said a')].some((a) => a.textContent.includes('Yes: On this one only.'))`)

	// what is left to owners is ticked by them
	nell.goTo("/kits")
	nell.run(`location.href = [...document.querySelectorAll('a')].find((a) => a.textContent.includes('Paddle School') && /\/kits\/[0-9a-f-]{36}$/.test(a.href)).href`)
	nell.until(`document.readyState === 'complete' && !!document.querySelector('.rails input:checked:not(:disabled)')`)
	nell.run(`[...document.querySelectorAll('.rails label')].find((l) => l.textContent.includes('voice')).querySelector('input').click()`)
	nell.saved()
	nell.goTo(eval[string](nell, `location.pathname`))
	nell.until(`document.querySelectorAll('.rails input:checked').length === 2`)
	jonas.goTo(eval[string](nell, `location.pathname`))
	jonas.until(`document.querySelectorAll('.rails input').length === 5 && document.querySelectorAll('.rails input:checked').length === 2 && !document.querySelector('.rails input:not(:disabled)')`)
}
