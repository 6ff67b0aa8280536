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

// TestFindingACharacter: from nothing to a kit by four choices, and back.
func TestFindingACharacter(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.click(`.desk-kits a[href="/kits/new"]`)
	b.click(`.give-doors a[href="/kits/begin"]`)
	b.click(`[name=name]`)
	b.insert("Pellow & Finch")
	b.click(`[name=does]`)
	b.insert("A mushroom farm with a market stall")
	b.click(`.begin-who .act`)
	b.see(`.begin-pair`)
	both := `[...document.querySelectorAll('[data-choose] b')].map((b) => b.textContent).join(' or ')`
	first := eval[string](b, both)
	b.click(`[data-neither]`)
	b.until(both + ` !== ` + quote(first))
	for round := range 4 {
		b.until(`document.querySelector('.begin-head .mono')?.textContent.startsWith('` + string(rune('1'+round)) + `')`)
		b.click(`[data-choose]`)
	}
	b.see(`.begin-three`)
	b.click(`.begin-ways .ghost`)
	b.until(`document.querySelector('.begin-head .mono')?.textContent.startsWith('4')`)
	b.click(`[data-choose]`)
	b.see(`.begin-three`)
	b.click(`.begin-three .act`)
	b.until(`document.querySelectorAll('.logo-tile').length === 3 && document.querySelectorAll('.swatch').length >= 4 && document.querySelector('#w-name')?.value === 'Pellow & Finch'`)
}

// TestPicturesMotionAndVersions: a picture joins the brand, a colour is taken off
// it by keys, the corner mark goes where one clicks, an old state comes back.
func TestPicturesMotionAndVersions(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.openKit()
	swatchCount := eval[int](b, `document.querySelectorAll('.swatch').length`)
	b.run(`document.querySelector('#h-pics').scrollIntoView()`)
	b.click(`.brand-pic .quiet`)
	b.see(`.slip .large-pic img`)
	// what matters most in it moves, for every brief that shows it
	dot := `document.querySelector('.focus-dot').dataset.x`
	was := eval[string](b, dot)
	b.run(`document.querySelector('[data-kit-focus]').focus()`)
	b.keys(kb.ArrowRight)
	b.until(dot + ` !== ` + quote(was))
	b.saved()
	b.click(`[data-dropper]`)
	b.see(`.dropper`)
	for range 5 {
		b.keys(kb.ArrowRight)
	}
	taken := eval[string](b, `document.querySelector('.dropper output').textContent`)
	b.keys(kb.Enter)
	b.until(`document.querySelectorAll('.swatch').length === ` + string(rune('0'+swatchCount+1)))
	if last := eval[string](b, `[...document.querySelectorAll('.sw-hex')].pop().value`); last != taken {
		t.Errorf("took %s and got %s", taken, last)
	}
	b.run(`(() => { const f = document.querySelector('#bp-folder'); f.value = 'Spring'; f.dispatchEvent(new Event('change', { bubbles: true })) })()`)
	b.until(`[...document.querySelectorAll('#h-pics ~ div .pal-name')].some((p) => p.textContent === 'Spring')`)
	b.keys(kb.Escape)

	b.run(`document.querySelector('#h-motion').scrollIntoView()`)
	before := eval[string](b, `document.querySelector('[data-mark-stage]').innerHTML`)
	b.run(`(() => { const el = document.querySelector('[data-mark-stage]'), r = el.getBoundingClientRect(); el.dispatchEvent(new MouseEvent('click', { bubbles: true, clientX: r.left + r.width * 0.5, clientY: r.top + r.height * 0.4 })) })()`)
	b.until(`document.querySelector('#mo-mark').value === 'free' && document.querySelector('[data-mark-stage]').innerHTML !== ` + quote(before))

	b.fill(`#mo-mark-x`, "20") // and by keys
	b.until(`document.querySelector('#mo-mark-x').value === '20' && Math.abs(document.querySelector('#mo-mark-y').value - 40) <= 1`)
	b.saved()

	b.click(`.take summary`)
	b.click(`[data-slip-of="share/"]`)
	b.click(`.slip [data-do=share]`)
	b.until(`/\/g\/[A-Z0-9]{20,}\/$/.test(document.querySelector('[data-link]')?.value || '')`)
	b.click(`.slip [data-do=share]`)
	b.until(`!document.querySelector('[data-link]')`)
	b.keys(kb.Escape)

	b.click(`[data-slip-of="history/"]`)
	b.click(`#v-now`)
	b.insert("With the new colour")
	b.keys(kb.Tab)
	b.until(`document.querySelector('.versions input')?.value === 'With the new colour'`)
	b.run(`[...document.querySelectorAll('.versions [data-do=restore]')].pop().click()`)
	b.until(`document.querySelectorAll('.swatch').length === ` + string(rune('0'+swatchCount)))
}
