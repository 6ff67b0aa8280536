package browser

import (
	"strings"
	"testing"

	"aspenridge/test/stage"
)

// TestFactsKnowTheirIcon: a fact gets the icon its words propose while they are typed, under the
// hand that goes on; one that was chosen, or none, stays.
func TestFactsKnowTheirIcon(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.openMat("Spring")
	start := strings.Replace(eval[string](b, `location.pathname`), "/mat", "/start", 1)
	b.goTo(start)
	b.until(`document.readyState === 'complete'`)
	b.run(`document.querySelector('[data-facts]').closest('details').open = true`)
	was := eval[int](b, `document.querySelectorAll('[data-fact]').length`)
	b.click(`[data-add-fact]`)
	last := `[...document.querySelectorAll('.fact')].at(-1)`
	b.keys("2 bathrooms")
	b.until(last + `.querySelector('[data-sign] svg') !== null && document.activeElement === ` + last + `.querySelector('[data-fact]')`)
	b.keys(" and a view")
	b.saved()
	if got := eval[string](b, last+`.querySelector('[data-fact]').value`); got != "2 bathrooms and a view" {
		t.Errorf("it says %q", got)
	}
	b.run(last + `.querySelector('[data-sign]').click()`)
	b.see(`[data-pick-sign=""]`)
	b.click(`[data-pick-sign=""]`)
	b.run(last + `.querySelector('[data-fact]').focus()`)
	b.keys("!")
	b.saved()
	b.goTo(start)
	b.until(`document.querySelectorAll('[data-fact]').length === ` + string(rune('0'+was+1)))
	if eval[bool](b, last+`.querySelector('[data-sign] svg') !== null`) {
		t.Error("an icon that was taken away came back")
	}
}

// TestCaptionsInThreeLengths are on Hand over, each to be copied.
func TestCaptionsInThreeLengths(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.openMat("Spring")
	b.goTo(strings.Replace(eval[string](b, `location.pathname`), "/mat", "/handover", 1))
	b.see(`[name=caption]`)
	length := `document.querySelector('[data-caption]').textContent.length`
	long := eval[int](b, length)
	b.run(`document.querySelector('[name=caption]').click()`)
	b.until(length + ` > 20`)
	if short := eval[int](b, length); short >= long {
		t.Errorf("the short caption has %d letters, the long one %d", short, long)
	}
}
