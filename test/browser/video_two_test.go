package browser

import (
	"strings"
	"testing"

	cdp "github.com/chromedp/chromedp"

	"aspenridge/test/stage"
)

// TestTwoPeopleOnAVideo: what one changes of a shot while nothing of the other's reaches them
// stands beside what the other changes of another shot; of the same words both are told.
func TestTwoPeopleOnAVideo(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	one := openTab(t, s.URL)
	one.allowed = []string{"409"}
	one.signIn()
	one.openMat("Spring")
	page := strings.Replace(eval[string](one, `location.pathname`), "/mat", "/video", 1)
	one.goTo(page)
	one.until(`document.querySelectorAll('.shot').length > 3`)
	one.fill(`[data-shot="1"] textarea`, "Six calm Saturdays")
	one.saved()
	two := one.another()
	two.goTo(page)
	says := func(shot, words string) string {
		return `document.querySelector('[data-shot="` + shot + `"] textarea')?.value === ` + quote(words)
	}
	two.until(says("1", "Six calm Saturdays"))

	release := one.withheld()
	one.front()
	one.fill(`[data-shot="1"] textarea`, "Seven calm Saturdays")
	one.click(`[data-shot="3"] [data-act=up]`) // and before any answer, the order
	two.front()
	two.fill(`[data-shot="0"] textarea`, "From the other page")
	two.saved()
	one.front()
	one.run(`document.activeElement.blur()`)
	one.run(release)
	one.saved()
	one.until(says("0", "From the other page") + ` && ` + says("1", "Seven calm Saturdays"))
	two.until(says("0", "From the other page") + ` && ` + says("1", "Seven calm Saturdays"))

	release = one.withheld()
	one.fill(`[data-shot="1"] textarea`, "Mine")
	two.front()
	two.fill(`[data-shot="1"] textarea`, "Theirs")
	two.saved()
	one.front()
	one.run(`document.activeElement.blur()`)
	one.run(release)
	one.until(`document.querySelector('.notice.bad')?.textContent.includes('Theirs') && ` + says("1", "Theirs"))
	one.click(`.notice.bad button`)
	one.until(says("1", "Mine"))
	two.until(says("1", "Mine"))

	// the shape that is looked at is there again when the page is
	one.click(`[data-shape]:not([aria-pressed=true])`)
	one.until(`location.search.includes('place=') && Aspen && document.querySelector('[data-shape][aria-pressed=true]')?.dataset.shape === new URLSearchParams(location.search).get('place')`)
	shape := eval[string](one, `document.querySelector('[data-shape][aria-pressed=true]').dataset.shape`)
	one.do("coming back", cdp.Reload())
	one.until(`document.querySelector('[data-shape][aria-pressed=true]')?.dataset.shape === ` + quote(shape))
}
