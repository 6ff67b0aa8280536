package browser

import (
	"context"
	"fmt"
	"strings"
	"testing"

	cdptype "github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	cdp "github.com/chromedp/chromedp"

	"aspenridge/test/stage"

	"aspenridge/test/sweep"
)

// window gives the tab's page a size in CSS px, at a number of device px for each.
func (b *tab) window(w, h int, scale float64) {
	b.t.Helper()
	b.do("sizing the window", func(ctx context.Context, t *cdp.Target) (cdp.Void, error) {
		_, err := cdptype.Call(ctx, t, emulation.SetDeviceMetricsOverride, emulation.SetDeviceMetricsOverrideParams{Width: int64(w), Height: int64(h), DeviceScaleFactor: scale})
		return cdp.Void{}, err
	})
}

// faults are what is wrong with the layout of a page, by the computed boxes of its
// controls and texts: the page, or a part of it, is wider than its window, something is outside of
// it with no way to scroll there, two things lie over each other, a control that
// is scrolled to is under something else.
const faults = `((root) => {
	const out = []
	const all = root === document.body
	const name = (e) => e.tagName.toLowerCase() + (e.id ? '#' + e.id : '') + [...e.classList].slice(0, 2).map((c) => '.' + c).join('') + ' "' + (e.getAttribute('aria-label') || e.textContent || e.placeholder || '').trim().replace(/\s+/g, ' ').slice(0, 24) + '"'
	const doc = document.documentElement
	const seen = (e) => e.checkVisibility({ opacityProperty: true, visibilityProperty: true }) && !e.closest('[inert], [hidden], template, .sr')
	const scroller = (e) => { for (let p = e.parentElement; p; p = p.parentElement) if (/auto|scroll/.test(getComputedStyle(p).overflowX) && p.scrollWidth > p.clientWidth + 1) return p; return null }
	if (all && doc.scrollWidth > innerWidth + 1) out.push('the page is ' + doc.scrollWidth + ' px wide in a window of ' + innerWidth + ', by ' + [...document.querySelectorAll('body *')].filter((e) => e.getBoundingClientRect().right > innerWidth + 1 && !e.closest('svg') && !scroller(e)).slice(0, 4).map((e) => name(e) + ' in ' + name(e.parentElement)))
	const layered = (e) => { for (let p = e; p && p !== root; p = p.parentElement) if (/absolute|fixed|sticky/.test(getComputedStyle(p).position)) return true; return false }
	const controls = [...root.querySelectorAll('a[href], button, input:not([type=hidden]), select, textarea, summary')].filter((e) => seen(e) && !e.closest('.art, .hit') && e.getBoundingClientRect().width > 2)
	for (const e of controls) {
		const r = e.getBoundingClientRect()
		if ((r.right > innerWidth + 1 || r.left < -1) && !scroller(e)) out.push(name(e) + ' reaches from ' + Math.round(r.left) + ' to ' + Math.round(r.right))
	}
	// texts are elements with words of their own
	const texts = [...root.querySelectorAll('h1, h2, h3, p, small, b, label, li, dt, dd, th, td, legend, figcaption, code, output, .m, .mono')].filter((e) => seen(e) && !e.closest('.art, svg, option') && [...e.childNodes].some((n) => n.nodeType === 3 && n.data.trim()) && !layered(e))
	// what is left of a box by the panes it is in; null for nothing
	const within = (e, r) => {
		let [x, y, right, bottom] = [r.left, r.top, r.right, r.bottom]
		for (let p = e; p && p !== document.body; p = p.parentElement) {
			if (getComputedStyle(p).overflow === 'visible') continue
			const q = p.getBoundingClientRect()
			;[x, y, right, bottom] = [Math.max(x, q.left), Math.max(y, q.top), Math.min(right, q.right), Math.min(bottom, q.bottom)]
		}
		return right > x && bottom > y ? { left: x, top: y, right, bottom } : null
	}
	const boxes = []
	const put = (e, r) => { const left = within(e, r); if (left) boxes.push([e, left]) }
	for (const e of texts) {
		const range = document.createRange()
		for (const n of e.childNodes) {
			if (n.nodeType !== 3 || !n.data.trim()) continue
			range.selectNodeContents(n)
			for (const r of range.getClientRects()) if (r.width > 1 && r.height > 1) put(e, r)
		}
	}
	for (const e of controls) if (!layered(e)) put(e, e.getBoundingClientRect())
	for (let i = 0; i < boxes.length; i++) for (let j = i + 1; j < boxes.length; j++) {
		const [a, r] = boxes[i], [b, q] = boxes[j]
		if (a === b || a.contains(b) || b.contains(a)) continue
		const w = Math.min(r.right, q.right) - Math.max(r.left, q.left), h = Math.min(r.bottom, q.bottom) - Math.max(r.top, q.top)
		if (w > 3 && h > 4) out.push(name(a) + ' lies over ' + name(b))
	}
	// every control can be scrolled to and hit
	for (const e of controls) {
		if (e.disabled || e.closest('[disabled]')) continue
		e.scrollIntoView({ block: 'center', inline: 'center', behavior: 'instant' })
		const r = e.getClientRects()[0]
		if (!r) continue
		const at = [Math.min(innerWidth - 1, Math.max(0, r.left + r.width / 2)), Math.min(innerHeight - 1, Math.max(0, r.top + r.height / 2))]
		const hit = document.elementFromPoint(...at)
		if (!hit || !(hit === e || e.contains(hit) || hit.contains(e) || hit.closest('label')?.contains(e) || hit.closest('label, summary') === e.closest('label, summary') && e.closest('label, summary'))) out.push(name(e) + ' is under ' + (hit ? name(hit) : 'nothing'))
	}
	if (all) scrollTo(0, 0)
	return [...new Set(out)].slice(0, 12).join('\n')
})`

// sound fails the test for what is wrong with the layout of the page.
func (b *tab) sound(what string) { b.t.Helper(); b.soundIn("document.body", what) }

// soundIn does so for what lies over the page: a slip, a menu.
func (b *tab) soundIn(root, what string) {
	b.t.Helper()
	if got := eval[string](b, faults+"("+root+")"); got != "" {
		b.t.Errorf("%s:\n  %s", what, strings.ReplaceAll(got, "\n", "\n  "))
	}
}

// TestEveryScreenAtTwiceTheSize looks at the layout of every screen at 1280 px, at
// 1024 px and at 200% zoom, which is a window of half the size.
func TestEveryScreenAtTwiceTheSize(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	href := func(sel string) string {
		return eval[string](b, `document.querySelector('`+sel+`').getAttribute('href')`)
	}
	kit, mat := href(".kit-link"), href(".mat-card")
	brief := strings.TrimSuffix(mat, "/mat")
	wall := "/wall?b=" + strings.TrimPrefix(brief, "/briefs/") + "&b=" + eval[string](b, `document.querySelectorAll('[data-together]')[1].dataset.together`)
	for turn, size := range []struct {
		w, h  int
		scale float64
	}{{640, 400, 2}, {1024, 768, 1}, {1280, 800, 1}} {
		b.window(size.w, size.h, size.scale)
		for i, page := range []struct{ path, ready string }{
			{"/desk", ".mats"}, {"/kits", ".kit-grid"}, {"/kits/new", ".give-field"}, {"/kits/begin", ".begin-who"}, {"/kits/begin?name=Pellow+and+Finch&go=1", ".begin-pair"},
			{"/kits/begin?name=Pellow+and+Finch&go=1&done=1", ".begin-three"}, {kit, ".swatch"}, {brief + "/start", "#f-headline"}, {brief + "/looks", ".lookstrip"}, {mat, "[data-piece]"}, {brief + "/video", ".shot"}, {brief + "/handover", "[data-files] tr"}, {"/channels", "main"}, {"/team", "main"}, {"/several", "[data-several]"}, {wall, ".wall-post"}, {kit + "/guidelines", ".guide"}, {kit + "/compare?a=0&b=0", "main"}, {kit + "/forward", "main"}, {brief + "/forward", "main"},
		} {
			if !sweep.Turn(i+turn, 3) { // every page at one of the sizes
				continue
			}
			b.goTo(page.path)
			b.see(page.ready)
			b.until(`document.readyState === 'complete' && document.fonts.status === 'loaded'`)
			b.sound(fmt.Sprintf("%s at %d × %d", strings.NewReplacer(kit, "the kit", brief, "the brief").Replace(page.path), size.w, size.h))
		}
	}
}

// TestOnAPhone reads the Desk, guidelines by their link and the page for a phone in
// a window of 390 px, and saves a picture there.
func TestOnAPhone(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	kit := eval[string](b, `[...document.querySelectorAll('.kit-link')].find((a) => a.textContent.includes('Paddle School')).getAttribute('href')`)
	brief := strings.TrimSuffix(eval[string](b, `[...document.querySelectorAll('.mat-card')].find((a) => a.textContent.includes('Lantern')).getAttribute('href')`), "/mat")
	// two looks, so that they are told apart there
	b.goTo(brief + "/looks")
	b.until(`document.readyState === 'complete' && document.querySelectorAll('.lookstrip').length >= 6`)
	b.click(`.lookstrip:nth-child(4) [data-keep]`)
	b.until(`document.querySelectorAll('.tray li').length === 2`)
	guidelines := eval[string](b, `(async () => { await Aspen.post('`+kit+`/edit', { action: 'share', text: 'yes' }); const d = await Aspen.get('`+kit+`/slip/share/x'); return new URL(Aspen.parts(d.html).querySelector('[data-link]').value).pathname })()`)
	phone := eval[string](b, `(async () => new URL((await Aspen.post('`+brief+`/phone?look=all', {})).address).pathname)()`)
	b.window(390, 844, 1)
	for _, page := range []struct{ path, ready, what string }{
		{"/desk", ".on-desk", "the Desk"}, {"/kits/new", ".give-field", "the first page"}, {guidelines, "main", "guidelines by link"}, {phone, ".phone figure", "the page for a phone"},
	} {
		b.goTo(page.path)
		b.see(page.ready)
		b.until(`document.readyState === 'complete' && document.fonts.status === 'loaded'`)
		b.sound(page.what)
	}
	if got := eval[string](b, `[...document.querySelectorAll('.phone-looks a')].map((a) => a.textContent).join()`); got != "A,B" {
		t.Errorf("looks on the phone: %q, want A,B", got)
	}
	name, data := b.download(func() { b.click(`.phone figcaption a`) })
	if len(data) < 5000 || !strings.HasSuffix(name, ".png") && !strings.HasSuffix(name, ".jpg") {
		t.Errorf("%s of %d bytes was saved", name, len(data))
	}
}

// longKit makes a kit with much of everything, names of sixty letters, and a brief of it, and says
// where they are.
func (b *tab) longKit() (kit, brief string) {
	b.t.Helper()
	const long = "Allerlei Wasserfahrzeuge und Zubehör am oberen Larkmoor 1897"
	b.newKit("Larkmoor")
	kit = eval[string](b, `location.pathname`)
	b.run(`
		window.hex = (n) => '#' + [37 * n + 11, 91 * n + 40, 53 * n + 90].map((v) => (v % 256).toString(16).padStart(2, '0')).join('')
		window.give = async (path, name, type, data) => {
			const form = new FormData()
			form.append('file', new File([data], name, { type }))
			const r = await fetch(location.pathname + path, { method: 'POST', headers: { Accept: 'application/json', 'X-Client': 'long', 'X-Change': crypto.randomUUID() }, body: form })
			if (!r.ok) throw new Error(path + ': ' + (await r.text()))
		}
		window.edit = (body) => Aspen.post(location.pathname + '/edit', body)`)
	each := func(n int, js string) { // a step each: on a busy machine all of them would take too long for one
		b.t.Helper()
		for i := range n {
			eval[string](b, fmt.Sprintf(`(async (n) => { %s; return '' })(%d)`, js, i))
		}
	}
	each(1, `await edit({ action: 'set', path: '/$extensions/aspenridge/name', value: `+quote(long)+`, base: 1e6 })`)
	each(1, `await edit({ action: 'paste', text: Array.from({ length: 40 }, (_, n) => 'Farbe der Boote am oberen Steg im Frühling und Herbst Nr ' + n + ' ' + hex(n)).join('\n') })`)
	each(12, `await give('/logos', 'ein langer Name eines Logos im Querformat fuer Papier ' + n + '.svg', 'image/svg+xml', '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ' + (60 + 60 * n) + ' 100"><path fill="' + hex(n + 3) + '" d="M0 0h' + (50 + 60 * n) + 'v90H0z"/></svg>')`)
	each(29, `const c = new OffscreenCanvas(160 + 8 * n, 120)
		const at = c.getContext('2d')
		for (let i = 0; i < 8; i++) { at.fillStyle = hex(n + 5 * i); at.fillRect(i * 24, 0, 24, 120) }
		await give('/pictures', 'ein Bild vom Ufer mit sehr langem Namen fuer die Sammlung ' + n + '.png', 'image/png', await c.convertToBlob())`)
	b.goTo("/desk")
	b.run(`document.querySelector('.kit-card form[action="/briefs"]').requestSubmit()`)
	b.until(`location.pathname.endsWith('/start') && document.readyState === 'complete'`)
	brief = strings.TrimSuffix(eval[string](b, `location.pathname`), "/start")
	b.fill("#f-name", long)
	b.fill("#f-headline", "Donaudampfschifffahrtsgesellschaftskapitäne feiern am Wochenende den Beginn der Saison am oberen Larkmoor")
	b.saved()
	return kit, brief
}

// TestTheLongKit: forty colours, twelve logos, twenty-nine pictures and names of sixty letters stand on
// every screen at three widths, with the slips and the menus open as well.
func TestTheLongKit(t *testing.T) {
	s := openStage(t, stage.Options{})
	b := openTab(t, s.URL)
	b.goTo("/sign-up")
	b.do("signing up", cdp.SendKeys(`[name=name]`, "Ada Finch"), cdp.SendKeys(`[name=email]`, "ada@pellow.example"), cdp.SendKeys(`[name=password]`, "morels at dawn\r"))
	b.see(`.give-field`)
	kit, brief := b.longKit()
	b.goTo(brief + "/looks")
	b.until(`document.querySelectorAll('.lookstrip').length >= 3`)
	b.click(`.lookstrip:nth-child(1) [data-keep]`)
	b.until(`document.querySelectorAll('.tray li').length === 1`)
	for turn, size := range []struct {
		w, h  int
		scale float64
	}{{1280, 800, 1}, {640, 400, 2}, {390, 844, 1}} {
		b.window(size.w, size.h, size.scale)
		at := func(what string) string { return fmt.Sprintf("%s at %d × %d", what, size.w, size.h) }
		for i, page := range []struct{ path, ready string }{
			{"/desk", ".mats"}, {"/kits", ".kit-grid"}, {kit, ".swatch"}, {brief + "/start", "#f-headline"}, {brief + "/looks", ".lookstrip"},
			{brief + "/mat", "[data-piece]"}, {brief + "/video", ".shot"}, {brief + "/handover", "[data-files] tr"}, {kit + "/guidelines", ".guide"}, {brief + "/proof/", "main"},
		} {
			if size.w == 640 && !strings.HasPrefix(page.path, kit) && page.path != brief+"/looks" && page.path != brief+"/mat" {
				continue // wider than a phone, and looked at with the demo's kit above
			}
			if page.path != kit && !sweep.Turn(i+turn, 2) {
				continue
			}
			b.goTo(page.path)
			b.see(page.ready)
			b.until(`document.readyState === 'complete' && document.fonts.status === 'loaded'`)
			b.sound(at(strings.NewReplacer(kit, "the kit", brief, "the brief").Replace(page.path)))
			if page.path == brief+"/start" || page.path == brief+"/video" || page.path == brief+"/handover" { // theirs are the Mat's
				continue
			}
			for n := range eval[int](b, `document.querySelectorAll('[data-menu]').length`) {
				menu := fmt.Sprintf(`document.querySelectorAll('[data-menu]')[%d]`, n)
				if !eval[bool](b, menu+`.querySelector('summary').checkVisibility()`) {
					continue
				}
				b.run(menu + `.open = true`)
				b.soundIn(menu, at(page.path+", a menu"))
				b.run(menu + `.open = false`)
			}
		}
		b.goTo(kit)
		b.see(".swatch")
		// what asks before something goes
		b.run(`Aspen.ask(location.pathname.split('/').pop(), '', 'Delete it')`)
		b.see("dialog.ask[open]")
		b.soundIn(`document.querySelector('dialog.ask')`, at("the question before a kit goes"))
		b.run(`document.querySelector('dialog.ask').close(''); document.querySelector('[data-again]').showModal()`)
		b.soundIn(`document.querySelector('[data-again]')`, at("the dialog of a session that ended"))
		b.run(`document.querySelector('[data-again]').close()`)
		for i, kind := range []string{"colour", "logo", "picture", "level", "pairs", "share", "history"} {
			if !sweep.Turn(i+turn, 2) {
				continue
			}
			opener := `document.querySelector('[data-slip-of^=` + kind + `]')`
			if !eval[bool](b, `!!`+opener) {
				t.Errorf("nothing opens the slip of a %s", kind)
				continue
			}
			b.run(`{ const o = ` + opener + `; o.closest('[data-menu]')?.setAttribute('open', ''); o.scrollIntoView({ block: 'center' }); o.click() }`)
			b.until(`!document.querySelector('[data-slip]').hidden && document.querySelector('[data-slip]').childElementCount > 0`)
			b.soundIn(`document.querySelector('[data-slip]')`, at("the slip of a "+kind))
			b.run(`document.querySelector('[data-slip-close]').click()`)
			b.until(`document.querySelector('[data-slip]').hidden`)
		}
		b.slipsOfTheMat(brief, at)
	}
}

// slipsOfTheMat opens what the Mat and the Close-up open over themselves, and looks for faults.
func (b *tab) slipsOfTheMat(brief string, at func(string) string) {
	b.t.Helper()
	b.goTo(brief + "/mat")
	b.see("[data-piece]")
	b.until(`document.readyState === 'complete' && !!` + mat + `?.state`)
	piece := eval[string](b, `document.querySelector('[data-piece]').dataset.piece`)
	slip := `document.querySelector('.slip')`
	slots := `((p) => ['piece', 'logo', ...[...p.words, ...p.said, ...p.pictures].map((w) => w.slot)])(` + mat + `.info(` + quote(piece) + `))`
	for _, slot := range eval[[]string](b, slots) {
		b.run(mat + `.choose(` + quote(piece) + `, ` + quote(slot) + `); ` + mat + `.openSlip()`)
		if eval[bool](b, slip+`.hidden`) {
			continue // nothing can be changed of it
		}
		b.soundIn(slip, at("the Mat's slip of "+slot))
	}
	b.run(mat + `.leave()`)
	b.run(mat + `.openClose(` + quote(piece) + `)`)
	b.until(opened(piece))
	for _, unit := range eval[[]string](b, mat+`.state.close.parts.filter((q) => q.moves).map((q) => q.unit)`) {
		b.run(mat + `.pick(` + quote(unit) + `)`)
		b.until(`!` + slip + `.hidden && ` + slip + `.childElementCount > 0`)
		b.soundIn(slip, at("the Close-up's slip of "+unit))
	}
	b.run(mat + `.openAdd()`)
	b.until(`!!document.querySelector('.adds-sheet')`)
	b.soundIn(`document.querySelector('.adds-sheet')`, at("what can be added"))
}
