package browser

import (
	"math"
	"testing"

	"github.com/chromedp/chromedp/kb"

	"aspenridge/test/stage"
)

// TestSidesOfTheLayoutsParts: the layout's own words and pictures are pulled by their sides, typed
// in numbers and bound to edges of the piece, stay where the hand left them, and go back to the
// rule.
func TestSidesOfTheLayoutsParts(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.closeUp("story")
	box := func(unit string) []float64 { return eval[[]float64](b, `[...`+b.part(unit, "box")+`]`) }
	k := eval[float64](b, mat+`.scale(`+mat+`.info('story'))`) // px on the screen a px of the piece
	near := func(what string, got, want float64) {
		t.Helper()
		if math.Abs(got-want) > 9/k { // sides find the edges of other parts
			t.Errorf("%s: %.1f, want %.1f", what, got, want)
		}
	}
	pulled := func(grip string, dx, dy float64) {
		t.Helper()
		at := b.place(`.close-over [data-grip="`+grip+`"]`, 0.5, 0.5)
		b.dragged(at, [2]float64{at[0] + dx, at[1] + dy})
	}
	answered := func(unit, property string) {
		t.Helper()
		b.untilPart(unit, `hand.some((h) => h.property === '`+property+`')`)
		b.until(mat + `.unanswered().length === 0`)
	}

	// words: broken for the width, at their size, the side they are aligned to stays
	b.run(mat + `.closeReach = 'piece'; ` + mat + `.pick('headline')`)
	was, lines, size := box("headline"), eval[int](b, b.part("headline", "lines.length")), eval[float64](b, b.part("headline", "size"))
	align := eval[string](b, b.part("headline", "align"))
	if align != "start" {
		t.Fatalf("the headline of the demo's story is aligned to its %s", align)
	}
	if n := eval[int](b, `document.querySelectorAll('.close-over .grip.side').length`); n != 2 {
		t.Errorf("words have %d sides to be pulled, want 2", n)
	}
	pulled("1 0", -0.45*was[2]*k, 0)
	answered("headline", "sides")
	now := box("headline")
	near("the left side of the headline", now[0], was[0])
	if n := eval[int](b, b.part("headline", "lines.length")); n <= lines || eval[float64](b, b.part("headline", "size")) != size {
		t.Errorf("%d lines at %.0f px after %d at %.0f", n+1, eval[float64](b, b.part("headline", "size")), lines+1, size)
	}
	if now[2] > 0.6*was[2] {
		t.Errorf("pulled to 0.55 of its width it is %.0f px wide, was %.0f", now[2], was[2])
	}
	pulled("-1 0", 0.2*now[2]*k, 0)
	b.untilPart("headline", `hand.some((h) => h.property === 'offset')`)
	b.until(mat + `.unanswered().length === 0`)
	near("the left side, pulled", box("headline")[0], now[0]+0.2*now[2])
	b.click(`.slip [data-lift-unit]`)
	b.untilPart("headline", `hand.length === 0`)
	near("by the rule again", box("headline")[2], was[2])

	// a picture: side by side with the hand, then in numbers, then to the edges of the piece
	b.run(mat + `.pick('picture')`)
	was = box("picture")
	pulled("0 1", 0, -0.3*was[3]*k)
	answered("picture", "sides")
	now = box("picture")
	near("the top of the picture", now[1], was[1])
	near("its height", now[3], 0.7*was[3])
	near("its width", now[2], was[2])
	crop := eval[[]float64](b, `[...`+b.part("picture", "crop")+`]`)
	b.click(`.slip [data-amount=wide]`)
	b.run(`document.activeElement.select()`)
	b.keys("600")
	b.keys(kb.Enter)
	b.untilPart("picture", `hand.some((h) => h.property === 'sides' && h.value[0] !== 1)`)
	b.until(mat + `.unanswered().length === 0`)
	near("its width in numbers", box("picture")[2], 600)
	if after := eval[[]float64](b, `[...`+b.part("picture", "crop")+`]`); after[2] >= crop[2] || math.Abs(after[3]-crop[3]) > 0.01 {
		t.Errorf("%v of it shows after %v: want less across, the same down", after, crop)
	}
	b.click(`.slip [data-fit=whole]`)
	answered("picture", "fit")
	if got := box("picture"); got[0] != 0 || got[1] != 0 || math.Abs(got[2]-1080) > 0.01 || math.Abs(got[3]-1920) > 0.01 {
		t.Errorf("as the whole piece it lies in %v", got)
	}
	b.click(`.slip [data-fit=whole]`)
	b.untilPart("picture", `hand.length === 0`)

	// with late answers two pulls one after the other both count
	release := b.withheld()
	pulled("0 1", 0, -0.1*was[3]*k)
	b.until(b.part("picture", `hand.some((h) => h.property === 'sides')`))
	left := box("picture")
	near("its height before the answer", left[3], 0.9*was[3])
	pulled("0 1", 0, -0.1*was[3]*k)
	seen := box("picture")
	b.run(release)
	b.until(mat + `.unanswered().length === 0`)
	b.until(mat + `.state.close.parts.find((q) => q.unit === 'picture').hand.some((h) => h.property === 'sides')`)
	if seen[3] > left[3]-0.03*was[3] {
		t.Errorf("pulled twice it is %.0f px high, once %.0f", seen[3], left[3])
	}
	if got := box("picture"); math.Abs(got[3]-seen[3]) > 1 || math.Abs(got[1]-seen[1]) > 1 {
		t.Errorf("answered it lies in %v, the hand left it in %v", got, seen)
	}
}
