package browser

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"strings"
	"testing"

	cdp "github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"aspenridge/demo"
	"aspenridge/test/stage"
)

// TestStartSaysEverything begins from an example, makes its words one's own,
// adds facts with icons, a second picture and places by words and by size.
func TestStartSaysEverything(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.openMat("Spring")
	b.goTo(strings.TrimSuffix(eval[string](b, `location.pathname`), "/mat") + "/start")
	b.until(`document.readyState === 'complete'`)

	// examples: at least thirty, found by a word, filled in
	b.run(`document.querySelector('.gallery').scrollIntoView()`)
	b.until(`document.querySelectorAll('[data-example]').length >= 30`)
	b.fill(`[data-find]`, "lantern")
	b.until(`document.querySelectorAll('[data-example]').length === 1`)
	b.click(`[data-example=lantern-night]`)
	b.until(`document.querySelector('#f-headline').value === 'Eleven lanterns and one slow bend' && document.querySelector('#f-date').value === '2027-05-28'`)
	b.until(`!!document.querySelector('[data-preview] [data-slot=when]')`)

	// a fact with an icon
	b.run(`document.querySelector('#f-lines').closest('details').open = true`)
	b.click(`[data-add-fact]`)
	b.keys("Life jackets for all")
	b.click(`[data-sign="0"]`)
	b.see(`.signs`)
	b.fill(`.signs input`, "life")
	b.click(`[data-pick-sign="life-buoy"]`)
	b.saved()
	b.until(`!!document.querySelector('[data-preview] [data-slot=icon]')`)

	// a second picture, then the first taken away
	b.give("drop", "noon.svg", "image/svg+xml", []byte(demo.Pictures()["noon-slack-water.svg"]))
	b.until(`document.querySelectorAll('.bp').length === 2`)
	b.click(`.bp:first-child [data-drop]`)
	b.until(`document.querySelectorAll('.bp').length === 1`)
	b.saved()

	// where it goes: by words, then a size in centimetres
	b.click(`[data-where]`)
	b.see(`[data-find-place]`)
	b.fill(`[data-find-place]`, "billboard")
	b.until(`document.querySelectorAll('[data-place]').length === 1`)
	b.click(`.place`)
	b.fill(`[data-find-place]`, "10 x 15 cm at 150 dpi")
	b.click(`[data-custom="591x886"]`)
	b.until(`document.querySelector('[data-place][value="591x886"]')?.checked`)
	b.saved()
	b.click(`.where-sheet form .act`)
	b.click(`.road li:nth-child(3) a`)
	b.see(`[data-piece="591x886"] .hit`)
	if !eval[bool](b, `!!document.querySelector('[data-piece="ad-970x250"]')`) {
		t.Error("the billboard is not on the mat")
	}

	// what is left of the example is found
	b.click(`[data-preflight]`)
	b.see(`.findings li.sev-warning`)
	b.click(`.findings [data-fix=sample][data-slot=callToAction]`)
	b.until(`!document.querySelector('.findings [data-fix=sample][data-slot=callToAction]')`)
	b.saved()
}

// TestThePieceAlone changes the layout, the colours and the picture of one
// piece, lifts that again, and hands two pieces over.
func TestThePieceAlone(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true, Work: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.openMat("Spring")
	art := func(piece string) string {
		return eval[string](b, `document.querySelector('[data-piece="`+piece+`"] .art > svg').innerHTML`)
	}
	square, wide := art("feed-square"), art("feed-wide")
	changed := func(was string) string {
		return `document.querySelector('[data-piece="feed-square"] .art > svg').innerHTML !== ` + js(was)
	}

	b.click(`[data-piece=feed-square] [data-name]`)
	b.see(`.slip [data-turn-here=layout]`)
	b.click(`.slip [data-turn-here=layout][data-by="1"]`)
	b.until(changed(square))
	b.saved()
	b.click(`.slip [data-turn-here=colourway][data-by="1"]`)
	b.see(`.slip [data-lift][data-property=seats]`)
	b.saved()
	if art("feed-wide") != wide {
		t.Error("another piece changed too")
	}
	b.click(`.slip [data-lift][data-property=seats]`)
	b.until(`!document.querySelector('.slip [data-lift][data-property=seats]')`)
	b.click(`.slip [data-lift][data-property=layout]`)
	b.until(`document.querySelector('[data-piece="feed-square"] .art > svg').innerHTML === ` + js(square))
	b.saved()

	// another picture for this piece
	b.do("escape", cdp.KeyEvent(kb.Escape))
	b.click(`[data-piece=feed-square] .pic-hit`)
	b.see(`.slip [data-pic]`)
	b.click(`.slip [data-reach=piece]`)
	b.click(`.slip [data-pic]:nth-child(2)`)
	b.until(changed(square))
	b.saved()
	if art("feed-wide") != wide {
		t.Error("the other pieces have the picture too")
	}

	// two together
	b.run(`for (const id of ['feed-square', 'story']) document.querySelector('[data-piece=' + id + '] .art').dispatchEvent(new MouseEvent('mousedown', { bubbles: true, ctrlKey: true, cancelable: true }))`)
	b.see(`.chosen-bar`)
	b.click(`[data-chosen-do=download]`)
	b.see(`.handover`)
	b.until(`document.querySelectorAll('[data-pick]:checked').length === 2`)
	b.click(`[name=finish]`)
	_, data := b.download(func() { b.click(`[data-download]`) })
	b.until(`[...document.querySelectorAll('.files small')].filter((s) => s.textContent.includes('finished')).length === 2`)
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil || len(z.File) != 3 {
		t.Errorf("%d files, %v", len(z.File), err)
	}
}

// TestChannelsOfOnesOwn makes a channel, refuses what cannot be, and takes the
// file along.
func TestChannelsOfOnesOwn(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.allowed = append(b.allowed, "422") // a refused size is answered so
	b.goTo("/channels")
	b.fill(`[data-new-channel] input`, "Boat club newsletter")
	b.click(`[data-new-channel] button`)
	b.until(`document.querySelectorAll('.own-channel').length === 2`)
	b.until(`document.readyState === 'complete'`)
	b.fill(`.own-channel:last-child [name=name]`, "Notice card")
	b.fill(`.own-channel:last-child [name=size]`, "4 x 6 in at 100 dpi")
	b.click(`.own-channel:last-child [data-new-place] button`)
	b.see(`.own-channel:last-child .own-place`)
	b.until(`document.querySelector('.own-channel:last-child [data-edit$="/width"]').value === '400'`)
	b.fill(`.own-channel:last-child [data-edit$="/safe"]`, "20 20 60 20")
	b.do("enter", cdp.KeyEvent(kb.Enter))
	b.until(`document.querySelector('.own-channel:last-child .outline .ok').height.baseVal.value < 140`)
	b.fill(`.own-channel:last-child [data-edit$="/width"]`, "30000")
	b.do("enter", cdp.KeyEvent(kb.Enter))
	b.until(`document.querySelector('.notice.bad')?.textContent.includes('Boat club newsletter, first place (Notice card): width')`) // as the screen calls it
	b.until(`document.querySelector('.own-channel:last-child [data-edit$="/width"]').value === '400'`)

	// a name that is there already is asked about as it is typed
	b.fill(`[data-new-channel] input`, "boathouse")
	b.see(`[data-new-channel] .twice`)
	b.fill(`[data-new-channel] input`, "boathouse two")
	b.until(`!document.querySelector('.twice')`)
}

// js is a text as a literal of the page's script.
func js(s string) string {
	data, err := json.Marshal(s)
	if err != nil {
		panic(err) // a string
	}
	return string(data)
}
