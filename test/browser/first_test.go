package browser

import (
	"bytes"
	"encoding/base64"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"math"
	"testing"

	cdp "github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"aspenridge/demo"
	"aspenridge/test/stage"
)

// TestAPhotographAndASentence is all somebody has: they sign up, drop the one,
// type the other, see three pieces, take a thing back, and choose a look.
func TestAPhotographAndASentence(t *testing.T) {
	s := openStage(t, stage.Options{})
	b := openTab(t, s.URL)
	b.goTo("/sign-up")
	b.do("signing up", cdp.SendKeys(`[name=name]`, "Ada Finch"), cdp.SendKeys(`[name=email]`, "ada@pellow.example"), cdp.SendKeys(`[name=password]`, "morels at dawn\r"))
	b.see(`.give-field`)
	rows := `document.querySelectorAll('.given-list li').length`

	b.give("drop", "hut.jpg", "image/jpeg", stage.Photo(640, 480))
	b.until(`document.querySelectorAll('.given-pieces svg').length >= 3 && ` + rows + ` === 2`)
	b.click(`.give-field textarea`)
	b.keys("Chanterelles are in, from Saturday")
	b.click(`.give-field .act`)
	b.until(rows + ` === 3`)
	b.keys("Pellow & Finch")
	b.click(`.give-field .act`)
	b.until(rows + ` === 4 && document.querySelector('.given-kit b').textContent === 'Pellow & Finch'`)

	// it was a tagline after all; then it goes
	b.run(`(() => { const p = [...document.querySelectorAll('.given-list li')].find((l) => l.textContent.includes('Pellow')).querySelector('select'); p.value = 'tagline'; p.dispatchEvent(new Event('change', { bubbles: true })) })()`)
	b.until(rows + ` === 4 && [...document.querySelectorAll('.given-list li')].some((l) => l.querySelector('span:not(.to)').textContent.includes('tagline'))`)
	b.run(`[...document.querySelectorAll('.given-list li')].find((l) => l.textContent.includes('Pellow')).querySelector('button').click()`)
	b.until(rows + ` === 3`)

	// a reload loses nothing of it
	b.run(`window.before = true; location.reload()`)
	b.until(`!window.before && document.readyState === 'complete' && ` + rows + ` === 3 && document.querySelectorAll('.given-pieces svg').length >= 3`)

	// what cannot be read is said, and stays in the field
	b.allowed = []string{"422"}
	b.give("drop", "notes.pages", "application/octet-stream", []byte{0, 1, 2, 255})
	b.until(`!!document.querySelector('.given-list .left')`)

	// words without end, and a long word, stay within their column
	b.run(`(() => { const f = document.querySelector('[data-give-form]'); f.elements.text.value = 'Mushrooms grown in the dark and sold in the light, '.repeat(6) + 'Donaudampfschifffahrtsgesellschaftskapitänsmützenabzeichen'; f.requestSubmit() })()`)
	b.until(`[...document.querySelectorAll('.given-list li')].some((l) => l.textContent.includes('Donaudampf'))`)
	b.sound("the first page with much on it")
	b.click(`.given-foot a.act`)
	b.until(`document.readyState === 'complete' && document.querySelectorAll('.lookstrip').length >= 4`)
	b.click(`.lookstrip:nth-child(2) [data-open]`)
	b.see(`[data-piece] .hit`)
	if !eval[bool](b, says("Chanterelles are in, from Saturday")) {
		t.Error("the sentence is nowhere on the Mat")
	}
	b.click(`.brandmark`)
	b.until(`document.querySelector('.on-desk b')?.textContent === 'Chanterelles are in, from Saturday'`)

	// the account's menu signs out, one click on the initials does not
	b.click(`.me summary`)
	b.see(`.me-list`)
	b.click(`.me-list form button`)
	b.until(`location.pathname === '/sign-in'`)
}

// TestTheSampleBrand: somebody who only wants to look finds a brand with briefs,
// once.
func TestTheSampleBrand(t *testing.T) {
	s := openStage(t, stage.Options{})
	b := openTab(t, s.URL)
	b.goTo("/sign-up")
	b.do("signing up", cdp.SendKeys(`[name=name]`, "Ada Finch"), cdp.SendKeys(`[name=email]`, "ada@pellow.example"), cdp.SendKeys(`[name=password]`, "morels at dawn\r"))
	b.click(`.give-doors form button`)
	b.until(`document.querySelector('#w-name')?.value === 'Larkmoor Paddle School'`)
	b.goTo("/desk")
	b.until(`document.querySelectorAll('.on-desk').length === 3`)
	b.goTo("/kits/new")
	b.see(`.give-doors`)
	if eval[bool](b, `!!document.querySelector('.give-doors form')`) {
		t.Error("the sample brand is offered beside itself")
	}

	// a brief made again comes with its words to be written over
	b.goTo("/desk")
	b.run(`document.querySelector('.on-desk .again-menu summary').click()`)
	b.click(`.on-desk .again-menu [value=words]`)
	b.until(`document.activeElement?.id === 'f-headline' && document.activeElement.selectionEnd > 0`)
	b.keys("Something else")
	b.saved()
	b.until(`document.querySelector('#f-headline').value === 'Something else'`)
}

// TestFourPicturesKeepTheirOrder, however long each takes; the focus of one moves by
// the mouse and by the keys; a second card offers the place that shows it.
func TestFourPicturesKeepTheirOrder(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.run(`document.querySelector('.desk-kits form[action="/briefs"] button').click()`)
	b.see(`#f-headline`)
	b.until(`document.readyState === 'complete'`)
	b.run(`window.four = new DataTransfer()`)
	for i, name := range []string{"dawn-on-the-bend.svg", "a.png", "lanterns-after-dark.svg", "b.png"} {
		data := []byte(demo.Pictures()[name])
		if len(data) == 0 { // small ones between the large
			var buf bytes.Buffer
			img := image.NewRGBA(image.Rect(0, 0, 40+i, 40))
			img.Set(3, 3, color.RGBA{uint8(50 * i), 90, 40, 255})
			if err := png.Encode(&buf, img); err != nil {
				t.Fatal(err)
			}
			data = buf.Bytes()
		}
		b.run(fmt.Sprintf(`four.items.add(new File([Uint8Array.from(atob(%q), (c) => c.charCodeAt(0))], %q))`, base64.StdEncoding.EncodeToString(data), name))
	}
	b.run(`document.body.dispatchEvent(new DragEvent('drop', { dataTransfer: four, bubbles: true, cancelable: true }))`)
	b.until(`document.querySelectorAll('.bp').length === 4`)
	b.saved()
	if got := eval[string](b, `[...document.querySelectorAll('.bp')].map((f) => f.dataset.file.split('/')[1]).join(' ')`); got != "dawn-on-the-bend.jpg a.png lanterns-after-dark.jpg b.png" {
		t.Errorf("they stand as %s", got)
	}
	focus := `[...document.querySelectorAll('.bp circle')].map((c) => c.getAttribute('cx')).join()`
	was := eval[string](b, focus)
	b.run(`document.querySelector('[data-focus]').focus()`)
	b.keys(kb.ArrowRight)
	b.until(focus + ` !== ` + quote(was))
	b.saved()

	// a part drawn around is kept whole, sized by keys, and forgotten
	b.run(`document.querySelector('.bp').scrollIntoView({ block: 'center' })`)
	at := eval[[4]float64](b, `(() => { const r = document.querySelector('.bp:first-child img').getBoundingClientRect(); return [r.x, r.y, r.width, r.height] })()`)
	b.dragged([2]float64{at[0] + 0.2*at[2], at[1] + 0.2*at[3]}, [2]float64{at[0] + 0.7*at[2], at[1] + 0.6*at[3]})
	b.until(`!!document.querySelector('.bp:first-child .said') && !document.querySelector('.bp:first-child .found')`)
	b.saved()
	part := `['x', 'y', 'width', 'height'].map((n) => document.querySelector('.bp:first-child .said').getAttribute(n) / document.querySelector('.bp:first-child img')[n === 'x' || n === 'width' ? 'width' : 'height'])`
	for i, v := range eval[[]float64](b, part) {
		if want := [4]float64{0.2, 0.2, 0.5, 0.4}[i]; math.Abs(v-want) > 0.03 {
			t.Errorf("the part is %v", eval[[]float64](b, part))
		}
	}
	b.run(`document.querySelector('.bp:first-child [data-focus]').focus()`)
	b.do("wider", cdp.KeyEvent(kb.ArrowRight, cdp.KeyModifiers(cdp.ModifierShift)))
	b.until(part + `[2] > 0.51`)
	b.saved()
	b.do("forgotten", cdp.KeyEvent(kb.Delete))
	b.until(`!document.querySelector('.bp:first-child .said')`)
	b.saved()

	b.fill(`#f-headline`, "One of two")
	b.saved()
	b.click(`[data-add-card]`)
	b.see(`.swipe [data-add-place]`)
	b.fill(`#f-headline`, "Two of two")
	b.saved()
	b.click(`.swipe [data-add-place]`)
	b.saved()
	b.click(`.road a[href$="/mat"]`)
	b.see(`[data-piece="card-tall+2"]`)
}
