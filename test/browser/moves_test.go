package browser

import (
	"bytes"
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"

	"aspenridge/test/stage"
)

// TestAPieceMovesOnTheMat: one piece is told to move; it does where it stands, ends as it began, stands
// still when told to or when its words change, is undone, and is fetched at Hand over.
func TestAPieceMovesOnTheMat(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true, Work: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.openMat("Spring")
	const piece = `[data-piece=ad-300x250]`
	at := func(js string) string { return `document.querySelector('` + piece + `')` + js }
	still := `!document.querySelector('` + piece + ` .moving') && !` + at(`.dataset.at`)
	b.until(`[...document.querySelectorAll('[data-play]')].every((b) => b.hidden)`)
	b.click(piece + ` [data-name]`)
	b.see(`.slip [data-movement]`)
	choose := func(way string) {
		b.run(`{ const s = document.querySelector('.slip [data-movement]'); s.value = '` + way + `'; s.dispatchEvent(new Event('change', { bubbles: true })) }`)
	}
	choose("4 loop")
	b.until(at(`.querySelector('.moving svg')`) + ` && ` + at(`.dataset.at`) + ` > 1`)
	b.until(`[...document.querySelectorAll('[data-play]')].filter((b) => !b.hidden).length === 1`)
	// parts of it are gone on the way; it comes round again
	gone := `[...document.querySelectorAll('` + piece + ` .moving g[opacity]')].some((g) => g.getAttribute('opacity') < 0.9)`
	b.until(gone)
	b.until(at(`.dataset.at`) + ` < 0.8 && !(` + gone + `)`)

	// it is told to stop, and to go on
	b.click(piece + ` [data-play]`)
	b.until(still)
	b.click(piece + ` [data-play]`)
	b.until(at(`.dataset.at`) + ` > 0.2`)
	// two choices before the first is answered: the last one stands, and nothing complains
	b.run(`{ const s = document.querySelector('.slip [data-movement]'); for (const w of ['6', '']) { s.value = w; s.dispatchEvent(new Event('change', { bubbles: true })) } }`)
	b.until(mat + `.box.idle() && ` + still + ` && document.querySelector('` + piece + ` [data-play]').hidden && !document.querySelector('.notice.bad')`)
	choose("4 loop")
	b.until(at(`.dataset.at`) + ` > 0.2`)
	// one of its parts is chosen: it stands still
	b.run(mat + `.choose('ad-300x250', 'headline')`)
	b.until(still)
	b.run(mat + `.leave()`)
	b.click(piece + ` [data-play]`)
	b.until(at(`.dataset.at`) + ` > 0.2`)
	// other words: what is seen is not what it is any longer
	b.until(mat + `.box.idle()`)
	b.run(mat + `.sync({ turn: { what: 'layout', by: 1, reach: 'piece:ad-300x250', placement: 'ad-300x250' } })`)
	b.until(mat + `.box.idle() && ` + still)
	// another tab sees that it moves; taken back it stands still, and moves again
	b.goTo(eval[string](b, `location.pathname`))
	b.until(`!document.querySelector('` + piece + ` [data-play]').hidden`)
	b.chord("z")
	b.until(mat + `.box.idle() && !` + mat + `.info('ad-300x250').adjusted.layout`)
	b.chord("z")
	b.until(`document.querySelector('` + piece + ` [data-play]').hidden`)
	b.click(piece + ` [data-name]`)
	b.see(`.slip [data-movement]`)
	choose("4")
	b.until(`!document.querySelector('` + piece + ` [data-play]').hidden && ` + mat + `.box.idle()`)
	// as all advertisements move, this one stands still
	b.click(`.slip [data-reach=channel]`)
	choose("6")
	b.until(`[...document.querySelectorAll('[data-play]')].filter((b) => !b.hidden).length > 1 && ` + mat + `.box.idle()`)
	b.click(`.slip [data-reach=piece]`)
	choose("")
	b.until(`document.querySelector('` + piece + ` [data-play]').hidden && ` + mat + `.box.idle()`)
	b.click(`.slip .back[data-property=moving]`)
	b.until(`!document.querySelector('` + piece + ` [data-play]').hidden && ` + mat + `.box.idle()`)
	choose("4")
	b.until(mat + `.info('ad-300x250').moves.seconds === 4 && ` + mat + `.box.idle()`)
	b.keys(kb.Escape)

	b.goTo(strings.Replace(eval[string](b, `location.pathname`), "/mat", "/handover", 1))
	b.click(`[data-moving-pieces] [data-place=ad-300x250] [data-move-as=gif]`)
	b.until(`!!document.querySelector('.videos-card a[download]')`)
	name, data := b.download(func() { b.run(`document.querySelector('.videos-card a[download]').click()`) })
	if !strings.HasSuffix(name, ".gif") || !bytes.HasPrefix(data, []byte("GIF89a")) {
		t.Errorf("the moving piece is %q of %d bytes", name, len(data))
	}
}
