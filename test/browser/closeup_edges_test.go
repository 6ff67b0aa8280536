package browser

import (
	"math"
	"strconv"
	"testing"

	"github.com/chromedp/chromedp/kb"

	"aspenridge/test/stage"
)

// TestEdgesHaveColoursAndMeasures: what lies around words and pictures takes a colour of the kit and
// a measure as people type it; a picture is turned over both ways and drawn in other two colours.
func TestEdgesHaveColoursAndMeasures(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.closeUp("story")
	has := func(unit, property, condition string) {
		t.Helper()
		b.untilPart(unit, `hand.some((h) => h.property === '`+property+`' && `+condition+`)`)
	}
	token := eval[string](b, mat+`.state.close.colours[1].token`)
	typed := func(field, text string) {
		t.Helper()
		b.click(`.slip [data-amount="` + field + `"]`)
		b.run(`document.activeElement.select()`)
		b.keys(text)
		b.keys(kb.Enter)
		b.run(`document.activeElement.blur()`)
	}

	b.run(mat + `.pick('headline')`)
	b.click(`.slip [data-toggle=outline]`)
	has("headline", "outline", "h.value.width === 0.04")
	b.click(`.slip [data-edge=outline][data-value="` + token + `"]`)
	has("headline", "outline", "h.value.fill === "+quote(token)+" && h.value.width === 0.04")
	typed("outline.width", "7")
	has("headline", "outline", "h.value.width === 0.07")
	typed("outline.width", "400")
	b.until(`document.querySelector('.notice')?.textContent.includes('400')`)
	has("headline", "outline", "h.value.width === 0.07")
	b.click(`.slip [data-toggle=shadow]`)
	has("headline", "shadow", "h.value.x === 0.05")
	typed("shadow.x", "-9")
	has("headline", "shadow", "h.value.x === -0.04 && h.value.y === 0.06") // a sign counts from what it is

	b.run(mat + `.pick('picture')`)
	b.click(`.slip [data-mirror=across]`)
	has("picture", "flip", "h.value === 'across'")
	b.click(`.slip [data-mirror=both]`)
	has("picture", "flip", "h.value === 'both'")
	b.click(`.slip [data-mirror=down]`)
	has("picture", "flip", "h.value === 'down'")
	b.run(`[...document.querySelectorAll('.slip [data-toggle=duotone]')].at(-1).click()`)
	has("picture", "duotone", "h.value.light === '#FFFFFF'")
	b.click(`.slip [data-edge=duotone][data-key=dark][data-value="` + token + `"]`)
	has("picture", "duotone", "h.value.dark === "+quote(token)+" && h.value.light === '#FFFFFF'")
	b.click(`.slip [data-toggle=border]`)
	b.click(`.slip [data-edge=border][data-value="` + token + `"]`)
	has("picture", "border", "h.value.fill === "+quote(token))
}

// TestAnyPartTwice: words, pictures and logos of the layout are there once more as added parts; what
// cannot be says so.
func TestAnyPartTwice(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.closeUp("story")
	added := `(` + mat + `.state.close?.parts ?? []).filter((q) => q.added)`
	for i, unit := range []string{"headline", "picture", "logo", "button"} {
		if unit == "button" && !eval[bool](b, `!!`+mat+`.part('button')`) {
			unit = "callToAction"
		}
		if !eval[bool](b, `!!`+mat+`.part(`+quote(unit)+`)`) {
			continue
		}
		b.run(mat + `.pick(` + quote(unit) + `); document.querySelector('[data-close]').focus()`)
		b.chord("d")
		b.until(added + `.length === ` + strconv.Itoa(i+1))
	}
	if text := eval[string](b, added+`.find((q) => q.text)?.text ?? ''`); text == "" {
		t.Error("the words that are there twice say nothing")
	}
	n := eval[int](b, added+`.length`)
	b.run(mat + `.pick('ground'); document.querySelector('[data-close]').focus()`)
	b.chord("d")
	b.until(`!!document.querySelector('.notice')`)
	if now := eval[int](b, added+`.length`); now != n {
		t.Errorf("%d added parts, there were %d", now, n)
	}
}

// TestAFaceGoesIntoTheKit: a face chosen by hand for words becomes the kit's for their level, and
// the words follow the kit.
func TestAFaceGoesIntoTheKit(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.closeUp("story")
	b.run(mat + `.pick('headline')`)
	face := eval[string](b, mat+`.state.close.others[0]`)
	b.run(`{ const s = document.querySelector('.slip [data-hand=family]'); s.value = ` + quote(face) + `; s.dispatchEvent(new Event('change', { bubbles: true })) }`)
	b.untilPart("headline", `family === `+quote(face))
	b.click(`.slip [data-face-into-kit]`)
	b.untilPart("headline", `hand.every((h) => h.property !== 'family')`)
	b.untilPart("headline", `family === `+quote(face))
}

// TestUndoSaysWhereItGoes: an undo in the Close-up that would change nothing of its piece says what it
// would do first, and does it when asked once more.
func TestUndoSaysWhereItGoes(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.closeUp("story")
	b.run(mat + `.closeReach = 'piece'; ` + mat + `.pick('headline'); document.querySelector('[data-close]').focus()`)
	b.keys(kb.ArrowRight)
	b.untilPart("headline", `hand.some((h) => h.property === 'offset')`)
	b.run(mat + `.openClose('feed-square')`)
	b.until(opened("feed-square"))
	seq := eval[int](b, mat+`.state.seq`)
	b.chord("z")
	b.until(`!!document.querySelector('.notice')`)
	if now := eval[int](b, mat+`.state.seq`); now != seq {
		t.Error("the undo was done before anybody was told where")
	}
	b.chord("z")
	b.until(mat + `.state.seq > ` + strconv.Itoa(seq))
	b.run(mat + `.openClose('story')`)
	b.until(opened("story"))
	b.untilPart("headline", `hand.length === 0`)

	// one that is seen is done at once
	b.run(mat + `.pick('headline'); document.querySelector('[data-close]').focus()`)
	b.keys(kb.ArrowRight)
	b.untilPart("headline", `hand.length === 1`)
	b.chord("z")
	b.untilPart("headline", `hand.length === 0`)
}

// TestARowOfOtherIcons: a row of icons has any icon; what was added and deleted comes back as it was.
func TestARowOfOtherIcons(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.closeUp("story")
	b.run(mat + `.addPart({ kind: 'row', name: 'star', count: 3, size: [0.3, 0.06], at: [0.5, 0.3] })`)
	row := mat + `.state.close?.parts.find((q) => q.part?.kind === 'row')`
	b.until(row + ` !== undefined`)
	b.run(mat + `.pick(` + row + `.unit)`)
	b.click(`.slip [data-icon-of]`)
	b.fill(`.adds-sheet [data-icon-search]`, "heart")
	b.click(`.adds-sheet [data-frame=heart]`)
	b.until(row + `?.part.name === 'heart' && ` + row + `.part.count === 3`)
	b.run(mat + `.pick(` + row + `.unit); document.querySelector('[data-close]').focus()`)
	b.keys(kb.Delete)
	b.until(row + ` === undefined`)
	b.click(`.notice button`)
	b.until(row + `?.part.name === 'heart'`)
}

// TestSeveralPartsAreSizedTogether: several parts that are held have corners of their own: pulled, all
// of them grow alike about the corner across, as one step.
func TestSeveralPartsAreSizedTogether(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.closeUp("story")
	b.run(mat + `.closeReach = 'piece'; ` + mat + `.pick('headline'); ` + mat + `.pick('logo', true)`)
	boxes := func() [2][4]float64 {
		return eval[[2][4]float64](b, `[[...`+b.part("headline", "box")+`], [...`+b.part("logo", "box")+`]]`)
	}
	was := boxes()
	g := b.place(`.close-over .picked-together [data-grip="1 1"]`, 0.5, 0.5)
	b.dragged(g, [2]float64{g[0] - 60, g[1] - 80})
	b.untilPart("headline", `hand.some((h) => h.property === 'scale')`)
	b.untilPart("logo", `hand.some((h) => h.property === 'scale')`)
	now := boxes()
	k := now[0][2] / was[0][2]
	if k > 0.95 || k < 0.3 {
		t.Fatalf("pulled in, the headline is %.2f times as wide", k)
	}
	if l := now[1][2] / was[1][2]; math.Abs(l-k) > 0.02 {
		t.Errorf("the headline is %.3f times as wide, the logo %.3f", k, l)
	}
	// what is between them shrinks alike
	if far, farWas := now[1][1]-now[0][1], was[1][1]-was[0][1]; math.Abs(far-k*farWas) > 4 {
		t.Errorf("they stand %.1f px apart, want %.1f", far, k*farWas)
	}
	b.run(`document.querySelector('[data-close]').focus()`)
	b.chord("z")
	b.untilPart("headline", `hand.length === 0`)
	b.untilPart("logo", `hand.length === 0`)
}
