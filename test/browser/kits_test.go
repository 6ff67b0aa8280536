package browser

import (
	"testing"

	"github.com/chromedp/chromedp/kb"

	"aspenridge/test/stage"
)

// TestFollowingAndSwitching: a kit follows another, shows whose items are whose,
// a change of the parent in another tab arrives, and the switcher leads from a
// brief to another kit and puts the brief into it and back.
func TestFollowingAndSwitching(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	larkmoor := eval[string](b, `[...document.querySelectorAll('.kit-link')].find((a) => a.textContent.includes('Paddle')).getAttribute('href')`)
	dark := eval[string](b, `[...document.querySelectorAll('.kit-link')].find((a) => a.textContent.includes('After Dark')).getAttribute('href')`)
	b.goTo(dark)
	b.see(`.swatch.theirs`)
	if n := eval[int](b, `document.querySelectorAll('.swatch.theirs').length`); n != 5 {
		t.Errorf("%d colours are marked as inherited, want 5: one is changed here, one left out", n)
	}
	other := b.another()
	other.goTo(larkmoor)
	other.front()
	other.fill(`#hex-main\.reed`, "#334455")
	b.until(`document.querySelector('#hex-main\\.reed').value === '#334455'`)

	// override, then hand back
	b.front()
	b.fill(`#hex-main\.reed`, "#556677")
	b.until(`!document.querySelector('.swatch[data-token="main.reed"]').classList.contains('theirs')`)
	b.click(`[data-slip-of="colour/main.reed"]`)
	b.click(`.slip [data-remove="/color/main/reed"]`)
	b.until(`document.querySelector('#hex-main\\.reed').value === '#334455'`)
	b.fill(`#w-place`, "The old quay")
	b.until(`document.querySelector('#w-place').value === 'The old quay'`)

	// from a brief to the other kit and back
	b.goTo("/desk")
	b.openMat("Lantern")
	b.chord("k")
	b.see(`.switch-list li a`)
	b.insert("after")
	b.until(`document.querySelectorAll('.switch-list li').length === 1`)
	b.click(`.switch-list li button`)
	b.until(`document.querySelector('.path a')?.textContent === 'Larkmoor After Dark' && !!document.querySelector('.notice')`)
	b.click(`.notice button`)
	b.until(`document.querySelector('.path a')?.textContent === 'Larkmoor Paddle School'`)

	// the page of all kits: found, deleted, taken back
	b.goTo("/kits")
	b.click(`.kits [name=find]`)
	b.insert("after dark")
	b.until(`document.querySelectorAll('[data-card]').length === 1`)
	b.run(`document.querySelector('[data-away=deleted]').requestSubmit()`)
	b.until(`document.querySelector('[data-card]').hidden`)
	b.click(`.notice button`)
	b.until(`!document.querySelector('[data-card]').hidden`)
	b.keys(kb.Escape)
}
