package browser

import (
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"

	"aspenridge/test/stage"
)

// openKit opens the demo's kit.
func (b *tab) openKit() {
	b.t.Helper()
	b.goTo(eval[string](b, `document.querySelector('.kit-link').getAttribute('href')`))
	b.see(`.swatch`)
}

// swatches are the tokens on the sheet in order.
const swatches = `[...document.querySelectorAll('.swatch')].map((s) => s.dataset.token).join()`

// shelf is everything the shelf draws.
const shelf = `document.querySelector('.shelf-row').innerHTML`

// TestTuningAColour works the dials of a colour from the keyboard: the shelf
// follows, one undo takes it all back; tints, order, grounds and doubles.
func TestTuningAColour(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.openKit()
	start, pieces := eval[string](b, swatches), eval[string](b, shelf)
	hex := func() string { t.Helper(); return eval[string](b, `document.querySelector('#hex-main\\.river').value`) }
	more := func(token string) {
		t.Helper()
		b.click(`[data-slip-of="colour/` + token + `"]`)
		b.see(`.slip [data-dial]`)
	}

	more("main.river")
	b.until(`document.activeElement.dataset.dial === 'l'`)
	for range 8 {
		b.keys(kb.ArrowRight)
	}
	b.saved()
	b.until(`document.querySelector('#hex-main\\.river').value !== '#0F3D4C' && document.querySelector('[data-slip-hex]').textContent === document.querySelector('#hex-main\\.river').value`)
	b.until(shelf + ` !== ` + quote(pieces))
	b.keys(kb.Escape)
	b.until(`document.querySelector('[data-slip]').hidden && document.activeElement.dataset.slipOf === 'colour/main.river'`)
	b.chord("z")
	b.until(`document.querySelector('#hex-main\\.river').value === '#0F3D4C'`)
	b.until(shelf + ` === ` + quote(pieces))
	if hex() != "#0F3D4C" {
		t.Errorf("one undo leaves %s", hex())
	}

	// a tint joins the kit; being close to River, it is pointed out and merged
	more("main.river")
	b.click(`.slip .pick button:nth-child(4)`)
	b.until(`document.querySelectorAll('.swatch').length === 8`)
	b.keys(kb.Escape)
	b.fill(`.swatch:nth-child(8) .sw-hex`, "#103E4D")
	b.see(`.double button`)
	b.click(`.double button`)
	b.until(swatches + ` === ` + quote(start))

	// order by its buttons and by dragging
	more("main.coral")
	b.click(`.slip [data-order]:nth-of-type(1)`)
	b.until(swatches + `.startsWith('main.coral,main.river')`)
	b.keys(kb.Escape)
	b.run(`(() => {
		const [from, to] = ['main.coral', 'main.reed'].map((t) => document.querySelector('.swatch[data-token="' + t + '"]'))
		const carrier = new DataTransfer()
		for (const [el, type] of [[from, 'dragstart'], [to, 'dragover'], [to, 'drop'], [from, 'dragend']]) el.dispatchEvent(new DragEvent(type, { dataTransfer: carrier, bubbles: true, cancelable: true }))
	})()`)
	b.until(swatches + `.startsWith('main.river,main.lantern,main.reed,main.coral')`)

	// never as a ground: no piece of the shelf stands on it any more
	more("main.river")
	b.click(`.slip [data-flag-set]`)
	b.saved()
	b.until(`!document.querySelector('.shelf-row [data-group=ground] rect[fill="#0F3D4C"]')`)
}

// TestFromNothingToAPalette: a starter palette, a pasted list in many
// notations, what cannot be read.
func TestFromNothingToAPalette(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.allowed = []string{"422"}
	b.signIn()
	b.newKit("Heather House")
	b.see(`.starters summary`)
	b.click(`.starters summary`)
	b.see(`[data-text="Heather moor"]`)
	b.click(`[data-text="Heather moor"]`)
	b.until(`document.querySelectorAll('.swatch').length === 5`)
	if n := eval[int](b, `document.querySelectorAll('.mx td:not(.own)').length`); n != 10 {
		t.Errorf("%d pairs in the matrix of five colours, want 10", n)
	}
	b.click(`[data-paste] textarea`)
	b.do("pasting", typeText("River #0F3D4C\n"))
	b.until(`document.querySelectorAll('.swatch').length === 6`)
	b.run(`(() => { const t = document.querySelector('[data-paste] textarea'); t.value = 'Sand 246 235 214\n--coral: hsl(11 87% 62%);\nReed: rgb(126, 155, 87)'; t.form.requestSubmit() })()`)
	b.until(`document.querySelectorAll('.swatch').length === 9`)
	// what is refused goes back to what is stored
	b.run(`(() => { const f = document.getElementById('hex-main.river'); f.focus(); f.value = 'no colour'; f.dispatchEvent(new Event('input', { bubbles: true })); f.dispatchEvent(new Event('change', { bubbles: true })); f.blur() })()`)
	b.until(`document.querySelector('.notice.bad') && document.getElementById('hex-main.river').value === '#0F3D4C'`)
	for token, want := range map[string]string{"main.river": "#0F3D4C", "main.sand": "#F6EBD6", "main.reed": "#7E9B57"} {
		if got := eval[string](b, fmt.Sprintf(`document.getElementById('hex-%s')?.value ?? 'nothing'`, token)); got != want {
			t.Errorf("%s is %s, want %s", token, got, want)
		}
	}
	b.chord("z")
	b.until(`document.querySelectorAll('.swatch').length === 6`)
	// what cannot be read stays in the field, with the reason; the rest is in
	field := `document.querySelector('[data-paste] textarea').value`
	b.run(`(() => { const t = document.querySelector('[data-paste] textarea'); t.value = 'no colour here'; t.form.requestSubmit() })()`)
	b.until(`document.querySelectorAll('.unread li').length === 1 && ` + field + ` === 'no colour here'`)
	if n := eval[int](b, `document.querySelectorAll('.swatch').length`); n != 6 {
		t.Errorf("%d colours after nonsense", n)
	}
	b.run(`(() => { const t = document.querySelector('[data-paste] textarea'); t.value = 'Print cmyk(0 60 80 0)\nSignal Blue 512 C'; t.form.requestSubmit() })()`)
	b.until(`document.querySelectorAll('.swatch').length === 7 && document.querySelectorAll('.unread li').length === 1 && ` + field + ` === 'Signal Blue 512 C'`)

	// a palette of one's own, without a starter
	b.run(`(() => { document.querySelector('#add-into').value = 'new'; const t = document.querySelector('[data-paste] textarea'); t.value = 'Dusk #2B1F47\nGlow #FFC96B'; t.form.requestSubmit() })()`)
	b.see(`dialog [name=name]`)
	b.keys("Night\r")
	b.until(`document.querySelectorAll('[data-palette]').length === 2 && [...document.querySelectorAll('.pal-title')].some((f) => f.value === 'Night') && document.querySelectorAll('[data-palette]')[1].querySelectorAll('.swatch').length === 2`)
}

// TestTheKitScrollsAsOne: whatever gets the focus, the page itself stays where it
// is; the shelf is drawn down and stays so; parts are reached by their names.
func TestTheKitScrollsAsOne(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.openKit()
	whole := `Math.round(document.querySelector('.top').getBoundingClientRect().top) === 0 && Math.round(document.querySelector('.shelf').getBoundingClientRect().bottom) === innerHeight`
	for _, sel := range []string{`[data-upload=brand]`, `[data-upload=font]`, `[data-upload=logo]`, `#mo-voice`, `#v-text`} {
		b.run(`document.querySelector('` + sel + `').focus()`)
		if !eval[bool](b, whole) {
			t.Errorf("with the focus on %s the page has scrolled away", sel)
		}
	}
	b.click(`.spec-names a[href="#h-motion"]`)
	b.until(`(() => { const r = document.querySelector('#h-motion').getBoundingClientRect(); return r.top >= 46 && r.top < 300 })()`)
	high := eval[float64](b, `document.querySelector('.shelf').offsetHeight`)
	b.click(`[data-shelf-fold]`)
	b.until(fmt.Sprintf(`document.querySelector('.shelf').offsetHeight < %f / 3`, high))
	b.run(`window.before = true; location.reload()`)
	b.until(fmt.Sprintf(`!window.before && document.readyState === 'complete' && document.querySelector('.shelf').offsetHeight < %f / 3`, high))
	b.click(`[data-shelf-fold]`)
	b.until(fmt.Sprintf(`document.querySelector('.shelf').offsetHeight > %f / 2`, high))

	b.click(`[data-slip-of="colour/main.coral"]`)
	b.see(`.slip [data-dial]`)
	if !eval[bool](b, `[...document.querySelectorAll('.slip .strip.pick')].every((s) => { const r = s.getBoundingClientRect(); return [...s.children].every((c) => { const q = c.getBoundingClientRect(); return q.height <= r.height + 1 && q.top >= r.top - 1 && q.width > 8 }) })`) {
		t.Error("the strips of tints and related colours do not show each of theirs in one row")
	}

	// an address of a part scrolls its column, not the page
	b.goTo("/desk")
	b.openMat("Spring")
	b.goTo(strings.TrimSuffix(eval[string](b, `location.pathname`), "/mat") + "/start#f-headline")
	b.see(`#f-headline`)
	b.run(`document.querySelector('[name=signature]').focus(); document.querySelector('#f-headline').scrollIntoView()`)
	b.until(`document.scrollingElement.scrollTop === 0 && Math.round(document.querySelector('.top').getBoundingClientRect().top) === 0 && document.scrollingElement.scrollHeight === innerHeight`)
}

// TestTakingOutAsks: what is used says where before it goes; keeping it keeps it.
func TestTakingOutAsks(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.openKit()
	coral := `!!document.getElementById('hex-main.coral')`
	b.run(`document.querySelector('[data-slip-of="colour/main.coral"]').click()`)
	b.click(`.slip [data-remove]`)
	b.see(`dialog.ask`)
	if said := eval[string](b, `document.querySelector('dialog.ask').textContent`); !strings.Contains(said, "Coral") || !strings.Contains(said, "Lantern paddle") {
		t.Errorf("it asks %q", said)
	}
	b.click(`dialog.ask .ghost`)
	b.until(`!document.querySelector('dialog.ask') && ` + coral)
	b.run(`document.querySelector('[data-slip-of="colour/main.coral"]').click()`)
	b.click(`.slip [data-remove]`)
	b.click(`dialog.ask .act`)
	b.until(`!(` + coral + `)`)
	b.click(`.notice button`)
	b.until(coral)

	// the plane of lightness and colourfulness moves the colour, and one undo brings
	// it back
	before := eval[string](b, `document.getElementById('hex-main.coral').value`)
	b.run(`document.querySelector('[data-slip-of="colour/main.coral"]').click()`)
	b.see(`[data-plane]`)
	b.run(`(() => { const p = document.querySelector('[data-plane]'), r = p.getBoundingClientRect(); p.dispatchEvent(new PointerEvent('pointerdown', { bubbles: true, cancelable: true, buttons: 1, clientX: r.left + r.width * 0.2, clientY: r.top + r.height * 0.5 })) })()`)
	b.until(`document.getElementById('hex-main.coral').value !== ` + quote(before))
	lch := eval[[]float64](b, `['l', 'c'].map((d) => Number(document.querySelector('[data-dial=' + d + ']').value))`)
	if lch[0] < 0.45 || lch[0] > 0.55 || lch[1] < 0.05 || lch[1] > 0.08 {
		t.Errorf("half up and a fifth across is %v", lch)
	}
}

// TestAFontOfOnesOwn uploads a web font, sees what it says, confirms the right,
// sets the headlines in it and takes it out again.
func TestAFontOfOnesOwn(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.allowed = []string{"422"}
	b.signIn()
	b.openKit()
	data, err := os.ReadFile("../../internal/core/typeset/testdata/karla-latin-500-normal.woff")
	if err != nil {
		t.Fatal(err)
	}
	before := eval[string](b, shelf)
	b.give("drop", "noise.woff2", "font/woff2", []byte("wOF2 this is no font at all, it only begins like one"))
	b.see(`.notice.bad`)
	b.give("drop", "karla-medium.woff", "font/woff", data)
	b.see(`.own-font`)
	if says := eval[string](b, `document.querySelector('.own-font').textContent`); !strings.Contains(says, "Karla Medium") || !strings.Contains(says, "278 glyphs") || !strings.Contains(says, "Latin") {
		t.Errorf("the sheet says %q", says)
	}
	b.click(`[data-do=rights]`)
	b.until(`document.querySelector('.own-font').textContent.includes('Nell Tarrant')`)
	b.click(`[data-picker=headline] summary`)
	b.click(`[data-picker=headline] [data-text="Karla Medium"]`)
	b.until(shelf + ` !== ` + quote(before))
	b.until(`document.fonts.check('20px "Karla Medium"') && getComputedStyle(document.querySelector('.l-headline')).fontFamily.includes('Karla Medium')`)
	b.click(`.own-font [data-remove]`)
	b.until(`!document.querySelector('.own-font')`)
	b.chord("z")
	b.see(`.own-font`)
	b.chord("z") // the family
	b.until(shelf + ` === ` + quote(before))
}

// TestTheTypeSet works a level's fields, swaps two levels, takes a pair, refuses
// capitals for a script, keeps a second set and names it.
func TestTheTypeSet(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.openKit()
	pieces := eval[string](b, shelf)
	row := func(level string) string {
		return `document.querySelector('[data-slip-of="level/` + level + `"]').textContent`
	}
	b.click(`[data-slip-of="level/headline"]`)
	b.see(`.slip #l-weight`)
	b.run(`(() => { const f = document.querySelector('#l-weight'); f.value = '500'; f.dispatchEvent(new Event('change', { bubbles: true })) })()`)
	b.until(row("headline") + `.includes('Gabarito 500')`)
	b.until(shelf + ` !== ` + quote(pieces))
	b.click(`.slip [data-do=swap][data-text=body]`)
	b.until(row("headline") + `.includes('Figtree') && ` + row("body") + `.includes('Gabarito 500')`)
	b.keys(kb.Escape)
	b.chord("z")
	b.until(row("body") + `.includes('Figtree')`)

	// a script for the headlines: no capitals, and a face for small sizes
	b.click(`[data-picker=headline] summary`)
	b.click(`[data-picker=headline] [data-filter]`)
	b.insert("script relaxed")
	b.until(`[...document.querySelectorAll('[data-picker=headline] [role=option]')].filter((o) => !o.hidden).map((o) => o.dataset.text).join() === 'Pacifico'`)
	b.click(`[data-picker=headline] [data-text=Pacifico]`)
	b.until(row("headline") + `.includes('Pacifico')`)
	b.click(`[data-slip-of="level/headline"]`)
	b.see(`.slip #l-caps:disabled`)
	b.run(`(() => { const f = document.querySelector('#l-small'); f.value = 'Karla'; f.dispatchEvent(new Event('change', { bubbles: true })) })()`)
	b.until(row("headline") + `.includes('small: Karla')`)
	b.keys(kb.Escape)

	// a pair, in a set of its own
	b.click(`[data-do="type-set"]`)
	b.see(`[data-show-set="type-set-2"]`)
	b.click(`[data-show-set="type-set-2"]`)
	b.until(`document.querySelector('[data-type-set]').dataset.typeSet === 'type-set-2'`)
	b.click(`[data-slip-of="pairs/"]`)
	b.click(`.pairs [data-token=Bitter]`)
	b.until(row("headline") + `.includes('Bitter')`)
	b.keys(kb.Escape)
	b.saved()
	b.until(`document.querySelector('[data-slip]').hidden`)
	b.fill(`#set-name`, "Autumn")
	b.until(`document.querySelector('[data-show-set="type-set-2"]').textContent === 'Autumn'`)
	b.click(`[data-show-set=main]`)
	b.until(row("headline") + `.includes('Pacifico')`)
}

// TestTheManner: a step is chosen with the mouse and with the keys, the shelf follows,
// and the rule can have it back.
func TestTheManner(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.openKit()
	pieces := eval[string](b, shelf)
	const corners = `document.querySelector('[data-step="corners"]')`
	const chosen = corners + `.querySelector(':checked').value`
	if !eval[bool](b, corners+`.querySelector('button') === null`) {
		t.Fatal("the demo's kit says its corners")
	}
	rule := eval[string](b, chosen)
	other := "sharp"
	if rule == other {
		other = "round"
	}
	b.click(`[data-step="corners"] [value="` + other + `"]`)
	b.saved()
	b.until(shelf + ` !== ` + quote(pieces))
	b.see(`[data-step="corners"] button`)
	b.run(corners + `.querySelector(':checked').focus()`)
	b.keys(kb.ArrowRight)
	b.saved()
	b.until(chosen + ` !== ` + quote(other))
	b.click(`[data-step="corners"] button`)
	b.saved()
	b.until(chosen + ` === ` + quote(rule) + ` && ` + corners + `.querySelector('button') === null`)
	b.until(shelf + ` === ` + quote(pieces))
}
