package browser

import (
	"archive/zip"
	"bytes"
	"strings"
	"testing"

	"aspenridge/test/stage"
)

// TestSeveralBriefs: a list becomes briefs that stand side by side, each beside another look than
// its neighbours; a key gives one another look and is undone; all their files come as one archive.
func TestSeveralBriefs(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true, Work: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.goTo("/desk")
	b.click(`a[href="/several"]`)
	b.see(`[data-several] textarea`)
	b.click(`[data-several] textarea`)
	b.insert("Lantern paddle on Friday. Bring a torch.\n20 % off every wetsuit\nFive ways to stay dry\n“Calm at last.” — Maren\n")
	b.until(`document.querySelectorAll('.read-rows li').length === 4`)
	purposes := func() string {
		return eval[string](b, `[...document.querySelectorAll('[data-purpose-of]')].map((s) => s.value).join()`)
	}
	if got := purposes(); got != "event,offer,tips,quote" {
		t.Errorf("they are read as %s", got)
	}
	// what was chosen by hand stays while more is typed
	b.run(`{ const s = document.querySelectorAll('[data-purpose-of]')[2]; s.value = 'product'; s.dispatchEvent(new Event('change', { bubbles: true })) }`)
	b.click(`[data-several] textarea`)
	b.run(`document.activeElement.setSelectionRange(1e6, 1e6)`)
	b.insert("Open water for all")
	b.until(`document.querySelectorAll('.read-rows li').length === 5`)
	if got := purposes(); got != "event,offer,product,quote,announce" {
		t.Errorf("then as %s", got)
	}
	// the list outlives the page, with what was chosen by hand
	b.goTo("/desk")
	b.goTo("/several")
	b.until(`document.querySelectorAll('.read-rows li').length === 5`)
	if got := purposes(); got != "event,offer,product,quote,announce" {
		t.Errorf("after a reload as %s", got)
	}
	b.click(`[data-several-where]`)
	b.see(`[data-where-sheet] [data-alone=story]`)
	b.run(`document.querySelector('[data-where-sheet] [data-alone=feed-square]').click()`)
	b.click(`.where-sheet form .act`)
	b.until(`document.querySelector('[data-several-places]').textContent === '1'`)
	b.goTo("/several")
	b.until(`document.querySelectorAll('.read-rows li').length === 5 && document.querySelector('[data-several-places]').textContent === '1'`)
	b.click(`[data-several-begin]`)

	b.until(`location.pathname === '/wall' && document.querySelectorAll('[data-post] .paper > svg').length === 5 && document.querySelector('[data-wall-busy]').textContent === ''`)
	looks := func() []string {
		return strings.Split(eval[string](b, `[...document.querySelectorAll('[data-post]')].map((p) => p.dataset.chosen).join('|')`), "|")
	}
	first := looks()
	for i := 1; i < len(first); i++ {
		if first[i] == "" || first[i] == first[i-1] {
			t.Errorf("neighbours look alike: %v", first)
		}
	}
	b.run(`document.querySelectorAll('[data-post]')[1].focus()`)
	b.keys("n")
	b.until(`document.querySelector('[data-wall-busy]').textContent === '' && !document.querySelector('[data-wall-undo]').disabled`)
	if now := looks(); now[1] == first[1] || now[0] != first[0] || now[2] != first[2] {
		t.Errorf("another look for the second: %v, before %v", now, first)
	}
	b.chord("z")
	b.until(`document.querySelectorAll('[data-post]')[1].dataset.chosen === ` + quote(first[1]))
	// a look somebody else has given meanwhile is not undone
	b.keys("n")
	b.until(`document.querySelector('[data-wall-busy]').textContent === '' && !document.querySelector('[data-wall-undo]').disabled`)
	given := looks()[1]
	other := b.another()
	other.goTo(eval[string](b, `location.pathname + location.search`))
	other.run(`document.querySelectorAll('[data-post]')[1].focus()`)
	other.keys("n")
	other.until(`document.querySelectorAll('[data-post]')[1].dataset.chosen !== ` + quote(given) + ` && document.querySelector('[data-wall-busy]').textContent === ''`)
	theirs := eval[string](other, `document.querySelectorAll('[data-post]')[1].dataset.look`)
	b.front()
	b.allowed = append(b.allowed, "/wall/look")
	b.chord("z")
	b.until(`document.querySelector('.notice')?.textContent.includes('meanwhile')`)
	other.goTo(eval[string](b, `location.pathname + location.search`))
	if now := eval[string](other, `document.querySelectorAll('[data-post]')[1].dataset.look`); now != theirs {
		t.Errorf("an undo took back what somebody else gave: %s, it was %s", now, theirs)
	}
	b.front()
	// one is left out
	b.keys("x")
	b.until(`document.querySelector('[data-wall-files]').textContent === '4'`)
	_, data := b.download(func() { b.click(`[data-wall-take]`) })
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		t.Fatal(err)
	}
	folders := map[string]int{}
	for _, f := range z.File {
		if dir, _, ok := strings.Cut(f.Name, "/"); ok {
			folders[dir]++
		}
	}
	if len(folders) != 4 || len(z.File) != 5 {
		t.Errorf("the archive has %v of %d files", folders, len(z.File))
	}
	// on the Desk they can be put side by side again
	b.goTo("/desk")
	b.run(`document.querySelectorAll('[data-together]')[0].click()`)
	b.run(`document.querySelectorAll('[data-together]')[2].click()`)
	b.click(`[data-together-go]`)
	b.until(`location.pathname === '/wall' && document.querySelectorAll('[data-post]').length === 2`)
}
