package browser

import (
	"encoding/json"
	"testing"

	"github.com/chromedp/chromedp/kb"

	"aspenridge/demo"
	"aspenridge/internal/app"
	"aspenridge/internal/core/edit"
	"aspenridge/test/stage"
)

// TestWordsInALevelOfTheKit: words that are selected while one types are set as a level of the kit,
// the hand stays in them, and what is larger is set with the others anew.
func TestWordsInALevelOfTheKit(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.closeUp("story")
	at := b.onPart("headline", 0.5, 0.4)
	for clicks := int64(1); clicks <= 2; clicks++ {
		b.mouse("mousePressed", at, clicks)
		b.mouse("mouseReleased", at, clicks)
	}
	b.until(`document.activeElement.matches('[data-typing]') && ` + mat + `.stops.length > 0`)
	b.run(`document.querySelector('[data-typing]').setSelectionRange(0, 5)`)
	b.see(`.slip [data-run=level][data-value=body]`)
	size := eval[float64](b, mat+`.part('headline').size`)
	b.click(`.slip [data-run=level][data-value=body]`)
	b.untilPart("headline", `hand.some((h) => h.property === 'runs' && h.value[0].level === 'body' && h.value[0].words === 'Quiet')`)
	if !eval[bool](b, `document.activeElement.matches('[data-typing]')`) {
		t.Error("the hand was taken out of the words")
	}
	if now := eval[float64](b, mat+`.part('headline').size`); now < 0.97*size {
		t.Errorf("with a smaller word the others are set in %v px instead of %v", now, size)
	}
	b.until(`document.querySelector('.slip [data-run=level][data-value=body]')?.getAttribute('aria-pressed') === 'true'`)
	b.click(`.slip [data-run=level][data-value=body]`)
	b.untilPart("headline", `hand.every((h) => h.property !== 'runs')`)

	b.click(`.slip [data-run=larger]`)
	b.untilPart("headline", `hand.some((h) => h.property === 'runs' && h.value[0].scale === 1.15)`)
}

// TestAddedWordsAreTypedInPlace: a double click puts the caret into words that were added; they are
// typed, set in runs and end their lines like all others.
func TestAddedWordsAreTypedInPlace(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.closeUp("story")
	b.run(mat + `.addPart({ kind: 'words', level: 'subheading', text: 'A line beside it', size: [0.5, 0.07], at: [0.5, 0.3] })`)
	b.until(mat + `.state.close.parts.some((q) => q.added) && ` + mat + `.box.idle()`)
	unit := eval[string](b, mat+`.state.close.parts.find((q) => q.added).unit`)
	at := b.onPart(unit, 0.5, 0.5)
	for clicks := int64(1); clicks <= 2; clicks++ {
		b.mouse("mousePressed", at, clicks)
		b.mouse("mouseReleased", at, clicks)
	}
	b.until(`document.activeElement.matches('[data-typing]') && ` + mat + `.stops.length > 0`)
	b.chord("a")
	b.keys("Only today and tomorrow")
	b.untilPart(unit, `text === 'Only today and tomorrow'`)
	b.saved()
	b.run(`document.querySelector('[data-typing]').setSelectionRange(0, 4)`)
	b.click(`.slip [data-run=bold]`)
	b.untilPart(unit, `hand.some((h) => h.property === 'runs' && h.value[0].bold && h.value[0].words === 'Only')`)
	b.run(`document.querySelector('[data-typing]').setSelectionRange(10, 10)`)
	b.keys(kb.Enter)
	b.untilPart(unit, `hand.some((h) => h.property === 'breaks' && h.value[0].after === 2)`)
	b.saved()
	b.run(`document.querySelector('[data-typing]').select()`)
	b.keys(kb.Delete)
	b.run(mat + `.sync({ caret: { placement: 'story', slot: ` + mat + `.active.slot, text: '' } })`) // an answer comes before the next letter
	b.until(mat + `.box.idle()`)
	if got := eval[string](b, `document.querySelector('[data-typing]').value`); got != "" {
		t.Errorf("what was deleted to say something else is %q again", got)
	}
	b.keys("Now")
	b.untilPart(unit, `text === 'Now'`)
}

// TestFactsStandAsChosen: in a list, in a row or as figures, for every piece of the reach.
func TestFactsStandAsChosen(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	ctx := t.Context()
	m, err := s.App.People.SignIn(ctx, demo.Email, demo.Password)
	if err != nil {
		t.Fatal(err)
	}
	sets, _, _, err := s.App.Briefs.FindBriefs(ctx, m, "Spring", 0)
	if err != nil || len(sets) == 0 {
		t.Fatal(len(sets), err)
	}
	facts := edit.Op{Path: "/cards/0/facts", Value: json.RawMessage(`[{"text":"3 bedrooms"},{"text":"2 baths"},{"text":"12 min walk"}]`)}
	if _, err := s.App.Documents.Edit(ctx, m, sets[0].Doc.ID, app.Change{Base: app.Latest, Op: facts}); err != nil {
		t.Fatal(err)
	}
	b.closeUp("feed-square")
	b.untilPart("facts", `text.includes('bedrooms')`)
	b.run(mat + `.pick('facts')`)
	tall := func() float64 { return eval[float64](b, mat+`.part('facts').box[3]`) }
	for _, as := range []string{"list", "row", "figures"} {
		b.run(`{ const s = document.querySelector('.slip [data-hand=arrange]'); s.value = '` + as + `'; s.dispatchEvent(new Event('change', { bubbles: true })) }`)
		b.untilPart("facts", `hand.some((h) => h.property === 'arrange' && h.value === '`+as+`')`)
		switch high, line := tall(), eval[float64](b, mat+`.part('facts').size`); {
		case as == "list" && high < 3*line:
			t.Errorf("three facts in a list are %v px high", high)
		case as == "row" && high > 1.5*line:
			t.Errorf("in a row they are %v px high, in type of %v", high, line)
		case as == "figures" && (high < 2*line || high > 5*line):
			t.Errorf("as figures they are %v px high, in type of %v", high, line)
		}
	}
}
