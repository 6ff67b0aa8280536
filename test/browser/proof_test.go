package browser

import (
	"fmt"
	"strings"
	"testing"

	cdp "github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"aspenridge/demo"
	"aspenridge/test/stage"
)

// proofFor makes a link to the Spring brief for somebody: where the brief is, and the link.
func (b *tab) proofFor(who string) (brief, link string) {
	b.t.Helper()
	b.openMat("Spring")
	brief = strings.TrimSuffix(eval[string](b, `location.pathname`), "/mat")
	b.goTo(brief + "/proof/")
	b.fill(`[name=for]`, who)
	b.click(`[data-new-link] .act`)
	b.until(`document.querySelector('[data-address]').value.includes('/see/')`)
	return brief, strings.TrimPrefix(eval[string](b, `document.querySelector('[data-address]').value`), b.base)
}

// TestAProofOnAPhone: a link is made; on a phone, without an account, somebody looks at the
// pieces, presses where something is wrong and says so, and approves; who made the link sees it
// at once, answers, changes the headline, and the piece loses its sign-off and says why.
func TestAProofOnAPhone(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	brief, address := b.proofFor("Anna")

	phone := openTab(t, s.URL)
	phone.do("a phone", cdp.EmulateViewport(390, 844))
	phone.goTo(address)
	phone.until(`[...document.querySelectorAll('.proof-pieces img')].slice(0, 2).every((i) => i.complete && i.naturalWidth > 100)`)
	if wide := eval[float64](phone, `document.documentElement.scrollWidth`); wide > 390 {
		t.Errorf("the page is %v px wide", wide)
	}
	key := eval[string](phone, `document.querySelector('[data-piece]').dataset.piece`)
	phone.click(`[data-piece] a`)
	phone.until(`document.querySelector('[data-one]').open && document.querySelector('[data-paper] img.now').naturalWidth > 300`)
	at := phone.place(`[data-paper]`, 0.3, 0.7)
	phone.dragged(at, at)
	phone.until(`!!document.querySelector('.pin.new')`)
	phone.fill(`[data-say-words]`, "Where do we meet?")
	phone.run(`document.querySelector('[data-say]').requestSubmit()`)
	phone.until(`document.querySelector('[data-ask-name]').open`) // who are you?
	phone.fill(`[data-ask-who]`, "Anna Quist")
	phone.click(`[data-ask-name] .act`)
	phone.until(`document.querySelectorAll('.thread').length === 1 && document.querySelectorAll('[data-pin]').length === 1 && document.querySelector('[data-say-words]').value === ''`)
	phone.click(`[data-verdict-is=approved]`)
	phone.until(`document.querySelector('[data-verdict-is=approved]').getAttribute('aria-pressed') === 'true'`)

	// who made it sees it without asking
	b.until(`document.querySelector('[data-to-do]').textContent.includes('Where do we meet?') && document.querySelector('[data-to-do]').textContent.includes('Anna Quist')`)
	b.until(fmt.Sprintf(`document.querySelector('[data-piece=%q]').dataset.verdict === 'approved'`, key))
	b.click(`[data-to-do] a`)
	b.until(`document.querySelector('[data-one]').open`)
	b.click(`[data-reply]`)
	b.see(`.answer textarea`)
	b.keys("At the new boathouse")
	b.run(`Aspen.proof.heard.forEach((drawn) => drawn())`) // somebody else says something
	const written = `document.querySelector('.answer textarea')?.value === 'At the new boathouse'`
	if !eval[bool](b, written+` && document.activeElement.matches('.answer textarea')`) {
		t.Error("an answer that was being written is gone, or the hand is taken off it")
	}
	b.do("leaving the page", cdp.Reload())
	b.until(`document.querySelector('[data-one]')?.open && ` + written)
	b.click(`.answer button`)
	b.until(`document.querySelectorAll('.reply').length === 1`)
	phone.until(`document.querySelector('.reply')?.textContent.includes('boathouse')`)
	b.click(`.thread [data-settle]`)
	b.until(`!!document.querySelector('.thread.over') && document.querySelectorAll('[data-pin]').length === 0`)
	b.run(`document.querySelector('[data-one-close]').click()`)
	b.until(`!document.querySelector('[data-one]').open && !document.querySelector('[data-nothing]').hidden`)
	phone.until(`!!document.querySelector('.thread.over')`) // or its list moves under the finger below

	// other words for the headline are suggested, and taken: the phone says that it has changed
	phone.run(`const [x, y, w, h] = Aspen.proof.state().pieces[0].words.find((w) => w.slot === 'headline').box; const p = document.querySelector('[data-paper]'), r = p.getBoundingClientRect(); p.dispatchEvent(new MouseEvent('click', { bubbles: true, clientX: r.left + (x + w / 2) * r.width, clientY: r.top + (y + h / 2) * r.height }))`)
	phone.until(`!document.querySelector('[data-say-other]').hidden`)
	phone.click(`[data-say-other]`)
	phone.until(`document.querySelector('[data-say-suggests]').value === 'Quiet water, first strokes'`)
	phone.fill(`[data-say-suggests]`, "Still water, first strokes")
	phone.run(`document.querySelector('[data-say]').requestSubmit()`)
	phone.until(`document.querySelector('.suggests')?.textContent === 'Still water, first strokes' && !document.querySelector('[data-take]')`)
	b.until(`document.querySelectorAll('[data-to-do] li').length === 1`)
	b.click(`[data-to-do] a`)
	b.until(`document.querySelector('[data-one-change]').getAttribute('href').includes('/mat?close=')`)
	b.click(`[data-take]`)
	b.until(`document.querySelector('.thread.over .suggests') && [...document.querySelectorAll('.thread')].some((t) => t.textContent.includes('taken'))`)
	b.run(`document.querySelector('[data-one-close]').click()`)
	phone.until(fmt.Sprintf(`document.querySelector('[data-piece=%q]').dataset.verdict === 'changed'`, key))
	phone.until(`document.querySelector('.why')?.textContent.includes('Still water') && !document.querySelector('[data-then]').hidden && document.querySelector('img.then').naturalWidth > 300`)
	phone.run(`{ const slider = document.querySelector('[data-then] input'); slider.value = 40; slider.dispatchEvent(new Event('input', { bubbles: true })) }`)
	phone.until(`document.querySelector('img.then').style.clipPath.includes('40%')`)

	// all at once, and the link ends
	phone.run(`document.querySelector('[data-one-close]').click()`)
	phone.click(`[data-approve-all]`)
	phone.until(`document.querySelectorAll('[data-verdict=approved]').length === document.querySelectorAll('[data-piece]').length`)
	b.goTo(brief + "/proof/")
	b.until(`document.querySelectorAll('[data-verdict=approved]').length === document.querySelectorAll('[data-piece]').length`)
	b.click(`[data-end-link]`)
	b.until(`!document.querySelector('[data-end-link]')`)
	phone.allowed = append(phone.allowed, "404")
	phone.goTo(address)
	phone.until(`!document.querySelector('[data-piece]')`)
}

// TestSomebodyIsNamed: after an @ the names of the team come, one is chosen with the keys,
// and whoever is named sees it on the Desk. Who came by a link is offered no names.
func TestSomebodyIsNamed(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.openMat("Spring")
	proof := strings.TrimSuffix(eval[string](b, `location.pathname`), "mat") + "proof/"
	b.goTo(proof)
	b.click(`[data-piece] a`)
	b.until(`document.querySelector('[data-one]').open`)
	b.click(`[data-say-words]`)
	b.keys("Is that the bend? @")
	b.until(`document.querySelectorAll('.hearers:not([hidden]) li').length >= 2`)
	b.keys("jo")
	b.until(`document.querySelectorAll('.hearers:not([hidden]) li').length === 1`)
	b.keys("\t")
	b.until(`/^Is that the bend\? @Jonas\b.* $/.test(document.querySelector('[data-say-words]').value) && document.querySelector('.hearers').hidden`)
	b.keys("please look")
	if n := eval[int](b, `document.querySelectorAll('.thread').length`); n != 0 {
		t.Errorf("choosing a name said it already: %d threads", n)
	}
	b.chord("\r")
	b.until(`document.querySelectorAll('.thread').length === 1 && document.querySelector('.said').textContent.endsWith('please look')`)

	jonas := openTab(t, s.URL)
	jonas.signInAs(demo.Maker)
	jonas.goTo("/desk")
	jonas.until(`document.body.innerText.includes('please look')`)

	b.goTo(proof)
	b.fill(`[name=for]`, "Anna")
	b.click(`[data-new-link] .act`)
	b.until(`document.querySelector('[data-address]').value.includes('/see/')`)
	anna := openTab(t, s.URL)
	anna.goTo(strings.TrimPrefix(eval[string](b, `document.querySelector('[data-address]').value`), s.URL))
	anna.click(`[data-piece] a`)
	anna.until(`document.querySelector('[data-one]').open`)
	if page := eval[string](anna, `document.documentElement.outerHTML`); strings.Contains(page, "Ida") || !strings.Contains(page, "please look") {
		t.Error("who came by a link is told names of the team, or not what was said")
	}
}

// TestAnAreaByKeysAndByTouch: what somebody means is marked by keys and by a finger that stays, and
// changes are asked for on all pieces at once; a piece that was approved and changed is on the list.
func TestAnAreaByKeysAndByTouch(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	brief, address := b.proofFor("Anna")

	guest := openTab(t, s.URL)
	guest.do("a phone", cdp.EmulateViewport(390, 844, cdp.EmulateTouch))
	guest.goTo(address)
	guest.run(`localStorage.setItem('proof-name', 'Anna Quist')`)
	guest.click(`[data-piece] a`)
	guest.until(`document.querySelector('[data-one]').open && document.querySelector('[data-paper] img.now').naturalWidth > 300`)
	area := func() []float64 {
		return eval[[]float64](guest, `(() => { const a = document.querySelector('.area')?.getBoundingClientRect(), p = document.querySelector('[data-paper]').getBoundingClientRect(); return a ? [a.width / p.width, a.height / p.height] : [] })()`)
	}
	guest.run(`document.querySelector('[data-paper]').focus()`)
	for range 3 {
		guest.keys(kb.ArrowDown)
	}
	guest.until(`!!document.querySelector('.pin.new')`)
	if got := area(); len(got) != 0 {
		t.Errorf("arrows alone mark an area of %v", got)
	}
	for range 5 {
		guest.do("wider", cdp.KeyEvent(kb.ArrowRight, cdp.KeyModifiers(cdp.ModifierShift)))
	}
	if got := area(); len(got) != 2 || got[0] < 0.1 || got[0] < 3*got[1] {
		t.Errorf("five times wider by keys: %v", got)
	}
	guest.keys(kb.Enter)
	guest.until(`document.activeElement.matches('[data-say-words]')`)
	guest.run(`document.querySelector('[data-say-whole]').click(); document.activeElement.blur()`)
	guest.until(`!document.querySelector('.pin.new')`)

	from, to := guest.place(`[data-paper]`, 0.3, 0.3), guest.place(`[data-paper]`, 0.7, 0.5)
	guest.touch("touchStart", from)
	guest.until(`!!document.querySelector('.pin.new')`) // it stays a moment
	guest.touch("touchMove", [2]float64{(from[0] + to[0]) / 2, (from[1] + to[1]) / 2})
	guest.touch("touchMove", to)
	guest.touch("touchEnd")
	if got := area(); len(got) != 2 || got[0] < 0.35 || got[0] > 0.45 {
		t.Errorf("by a finger: %v", got)
	}
	guest.until(`document.activeElement.matches('[data-say-words]')`)
	guest.run(`document.querySelector('[data-one-close]').click()`)
	guest.click(`[data-changes-all]`)
	guest.until(`[...document.querySelectorAll('[data-piece]')].every((p) => p.dataset.verdict === 'changes')`)
	guest.click(`[data-approve-all]`)
	guest.until(`[...document.querySelectorAll('[data-piece]')].every((p) => p.dataset.verdict === 'approved')`)
	b.until(`document.querySelector('[data-to-do]').children.length === 0`)
	b.goTo(brief + "/mat")
	b.click(`[data-piece=feed-wide] .hit[data-slot=headline]`)
	b.see(`.caret`)
	b.chord("a")
	b.keys("Quiet water")
	b.saved()
	b.goTo(brief + "/proof/")
	b.until(`document.querySelector('[data-to-do]').children.length > 5`)
}
