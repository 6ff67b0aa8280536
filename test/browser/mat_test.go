package browser

import (
	"context"
	"fmt"
	"net/http"
	"strings"
	"testing"

	cdptype "github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/input"
	cdp "github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"aspenridge/test/stage"
)

// mouse sends an event of the mouse: mousePressed, mouseMoved, mouseReleased.
func (b *tab) mouse(kind input.DispatchMouseEventType, at [2]float64, clicks int64, modifiers ...int64) {
	b.t.Helper()
	p := input.DispatchMouseEventParams{Type: kind, X: at[0], Y: at[1], ClickCount: clicks}
	if kind != "mouseMoved" || clicks > 0 {
		p.Button, p.Buttons = "left", 1
	}
	for _, m := range modifiers {
		p.Modifiers |= m
	}
	b.do(string(kind), func(ctx context.Context, t *cdp.Target) (cdp.Void, error) {
		_, err := cdptype.Call(ctx, t, input.DispatchMouseEvent, p)
		return cdp.Void{}, err
	})
}

// shiftKey is Shift among the modifiers of an event.
const shiftKey = 8

// place is a point of the window: shares of the box of an element.
func (b *tab) place(sel string, x, y float64) [2]float64 {
	b.t.Helper()
	v := eval[[]float64](b, fmt.Sprintf(`(() => { const e = document.querySelector(%s); e.scrollIntoView({ block: 'nearest' }); const r = e.getBoundingClientRect(); return [r.left + r.width * %g, r.top + r.height * %g] })()`, quote(sel), x, y))
	return [2]float64{v[0], v[1]}
}

// dragged presses the mouse in one place and lets it go in another.
func (b *tab) dragged(from, to [2]float64) {
	b.t.Helper()
	b.mouse("mousePressed", from, 1)
	for i := 1; i <= 4; i++ {
		k := float64(i) / 4
		b.mouse("mouseMoved", [2]float64{from[0] + k*(to[0]-from[0]), from[1] + k*(to[1]-from[1])}, 1)
	}
	b.mouse("mouseReleased", to, 1)
}

const (
	selection = `(() => { const f = document.querySelector('[data-typing]'); return f.value.slice(f.selectionStart, f.selectionEnd) })()`
	headline  = `[data-piece=feed-tall] .hit[data-slot=headline]`
	mat       = `Alpine.$data(document.querySelector('[data-mat]'))`
	matData   = mat // where mat is something else
)

// TestLettersAtOnce types while no answer comes: letters and caret are there all
// the same, where the real ones will be; the answer puts the real line in.
func TestLettersAtOnce(t *testing.T) {
	gate := make(chan struct{})
	held := false
	s := openStage(t, stage.Options{Demo: true, Wrap: func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			if held && strings.HasSuffix(r.URL.Path, "/sync") {
				<-gate
			}
			next.ServeHTTP(w, r)
		})
	}})
	b := openTab(t, s.URL)
	b.signIn()
	b.openMat("Spring")
	b.click(headline)
	b.see(`.caret`)
	b.keys(kb.End)
	at := eval[int](b, `document.querySelector('[data-typing]').selectionStart`)
	letters := `document.querySelectorAll('[data-piece=feed-tall] [data-echo] path').length`
	before := eval[float64](b, `document.querySelector('.caret').getBoundingClientRect().left`)
	b.saved()
	held = true
	b.keys(" now")
	if got := eval[int](b, `Number(document.querySelector('.caret').dataset.at)`); got != at+4 {
		t.Errorf("with no answer the caret stands at %d, want %d", got, at+4)
	}
	shown := eval[int](b, `document.querySelector('[data-typing]').value.replace(/\s/g, '').length`)
	if got := eval[int](b, letters); got != shown {
		t.Errorf("with no answer %d letters are drawn, want %d", got, shown)
	}
	moved := eval[float64](b, `document.querySelector('.caret').getBoundingClientRect().left`) - before
	if moved <= 10 {
		t.Errorf("the caret moved %.1f px with four letters", moved)
	}
	if eval[bool](b, `document.querySelector('[data-piece=feed-tall] .art > svg').getAttribute('aria-label').includes('now')`) {
		t.Fatal("an answer came, though it was held back")
	}
	b.keys(kb.Backspace) // and a letter goes as quickly
	if got := eval[int](b, letters); got != shown-1 {
		t.Errorf("after taking one back %d letters are drawn, want %d", got, shown-1)
	}
	held = false
	close(gate)
	b.saved()
	b.until(`!document.querySelector('[data-echo]')`)
	b.until(says("Quiet water, no first strokes"))
	if hidden := eval[int](b, `document.querySelectorAll('[data-piece=feed-tall] [visibility=hidden]').length`); hidden != 0 {
		t.Errorf("%d real letters stay hidden", hidden)
	}
}

// TestWordsAreSelected by dragging, by a double click, with Shift; what is typed
// takes their place; Escape stays on the piece.
func TestWordsAreSelected(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.openMat("Spring")
	b.click(headline)
	b.see(`.caret`)
	b.dragged(b.place(headline, 0.01, 0.25), b.place(headline, 0.99, 0.25))
	first := eval[string](b, selection)
	if !strings.HasPrefix(first, "Quiet") || strings.Contains(first, "strokes") {
		t.Errorf("dragging along the first line selects %q", first)
	}
	if eval[int](b, `document.querySelectorAll('.range').length`) < 5 {
		t.Error("what is selected is not marked")
	}
	word := b.place(headline, 0.2, 0.25)
	for clicks := int64(1); clicks <= 2; clicks++ {
		b.mouse("mousePressed", word, clicks)
		b.mouse("mouseReleased", word, clicks)
	}
	if got := eval[string](b, selection); got != "Quiet" {
		t.Errorf("a double click selects %q", got)
	}
	b.keys("Still")
	b.until(says("Still water, first strokes"))
	b.mouse("mousePressed", b.place(headline, 0.01, 0.25), 1)
	b.mouse("mouseReleased", b.place(headline, 0.01, 0.25), 1)
	b.mouse("mousePressed", b.place(headline, 0.99, 0.8), 1, shiftKey)
	b.mouse("mouseReleased", b.place(headline, 0.99, 0.8), 1, shiftKey)
	if got := eval[string](b, selection); got != "Still water, first strokes" {
		t.Errorf("Shift and a click select %q", got)
	}
	b.chord("a")
	b.keys(kb.Escape)
	b.until(`document.activeElement?.dataset.piece === 'feed-tall' && document.querySelector('[data-slip]').hidden`)

	// in words that run from right to left the arrows go where they point
	b.click(headline)
	b.see(`.caret`)
	b.chord("a")
	b.insert("مزرعة الفطر")
	b.saved()
	b.until(mat + `.stops.length === 12`)
	b.run(`document.querySelector('[data-typing]').setSelectionRange(4, 4)`)
	b.keys(kb.ArrowLeft)
	if got := eval[int](b, `document.querySelector('[data-typing]').selectionStart`); got != 5 {
		t.Errorf("left in Arabic goes from 4 to %d", got)
	}
	b.keys(kb.ArrowRight)
	b.keys(kb.ArrowRight)
	if got := eval[int](b, `document.querySelector('[data-typing]').selectionStart`); got != 3 {
		t.Errorf("right twice in Arabic goes from 5 to %d", got)
	}
}

// TestAPictureMovesInItsFrame within the reach of the slip, live; back to the rule
// is back.
func TestAPictureMovesInItsFrame(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.openMat("Spring")
	crop := func(piece string) []float64 {
		return eval[[]float64](b, fmt.Sprintf(`[...`+mat+`.info(%q).pictures[0].crop]`, piece))
	}
	was, other := crop("feed-square"), crop("feed-tall")
	// a file held over a piece is for that piece: its place is outlined, not the Mat
	b.run(`(() => { const d = new DataTransfer(); d.items.add(new File(['x'], 'x.png')); document.querySelector('[data-piece=feed-square] .art').dispatchEvent(new DragEvent('dragover', { dataTransfer: d, bubbles: true, cancelable: true })) })()`)
	b.until(`document.querySelector('[data-piece=feed-square]').classList.contains('taking') && document.body.classList.contains('onto-piece')`)
	b.run(`document.dispatchEvent(new DragEvent('dragend', { bubbles: true })); document.body.classList.remove('dragging')`)
	b.until(`!document.querySelector('.taking')`)
	picture := `[data-piece=feed-square] .pic-hit`
	b.click(picture)
	b.click(`.slip [data-reach=piece]`)
	b.dragged(b.place(picture, 0.5, 0.2), b.place(picture, 0.5, 0.5))
	b.saved()
	now := crop("feed-square")
	if now[1] >= was[1]-0.02 || now[2] < was[2]-0.001 {
		t.Errorf("pulled down by a third of its frame the picture shows %v, before %v", now, was)
	}
	if got := crop("feed-tall"); fmt.Sprint(got) != fmt.Sprint(other) {
		t.Errorf("another piece moved too: %v, before %v", got, other)
	}
	b.keys(kb.Escape)
	b.click(picture)
	b.keys(kb.ArrowUp) // by the keys, back up
	b.until(fmt.Sprintf(mat+`.info('feed-square').pictures[0].crop[1] > %g`, now[1]))
	b.click(`.slip [data-property=crop]`)
	b.until(fmt.Sprintf(`Math.abs(`+mat+`.info('feed-square').pictures[0].crop[1] - %g) < 0.001`, was[1]))
}

// TestAStaleShortHeadline is doubted when the headline changes; both are seen while
// one is written, and following is one step.
func TestAStaleShortHeadline(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.openMat("Spring")
	b.click(headline)
	b.see(`.slip .other`)
	b.chord("a")
	b.keys("Lanterns, every Friday until the leaves are down")
	b.saved()
	b.until(`[...document.querySelectorAll('.pre b')].some((e) => e.textContent.includes('1 to look at'))`)
	b.click(`[data-preflight]`)
	b.see(`.fix-all`)
	if said := eval[string](b, `document.querySelector('.fix-all').textContent`); !strings.Contains(said, "Lanterns") {
		t.Errorf("it says of the fix: %q", said)
	}
	b.click(`[data-fix-all]`)
	b.until(`document.querySelector('.notice')?.textContent.includes('First strokes') && [...document.querySelectorAll('.pre b')].some((e) => e.textContent.includes('All clear'))`)
	b.until(mat + `.state.pieces.some((p) => p.words.some((w) => w.field === 'shortHeadline' && w.text.startsWith('Lanterns')))`)
}

// TestWithinTheReach: with a piece chosen the bench's keys and the list of
// colourways act on it alone; a finished piece says why nothing happens.
func TestWithinTheReach(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.openMat("Spring")
	ground := func(piece string) string {
		return eval[string](b, fmt.Sprintf(mat+`.info(%q).seats.join() + `+mat+`.info(%q).layout`, piece, piece))
	}
	one, two := ground("feed-square"), ground("feed-tall")
	b.click(`[data-piece=feed-square] [data-name]`)
	b.see(`.slip`)
	b.run(`document.activeElement.blur()`)
	b.keys("l")
	b.until(fmt.Sprintf(mat+`.info('feed-square').seats.join() + `+mat+`.info('feed-square').layout !== %q`, one))
	if ground("feed-tall") != two {
		t.Error("the key changed the whole set, not the piece that is chosen")
	}
	b.click(`[data-all-ways]`)
	b.see(`.ways li:nth-child(4)`)
	if n := eval[int](b, `document.querySelectorAll('.ways li').length`); n < 5 || n > 24 {
		t.Errorf("%d colourways are listed", n)
	}
	// no two look the same
	if twice := eval[int](b, `(() => { const drawn = [...document.querySelectorAll('.ways li .paper > svg')].map((s) => s.innerHTML.replace(/cw[0-9]+-/g, '')); return drawn.length - new Set(drawn).size })()`); twice > 0 {
		t.Errorf("%d colourways are listed twice", twice)
	}
	seats := eval[string](b, mat+`.info('feed-square').seats.join()`)
	b.click(`.ways li:nth-child(4) button`)
	b.until(fmt.Sprintf(mat+`.info('feed-square').seats.join() !== %q`, seats))
	if ground("feed-tall") != two {
		t.Error("the colourway changed the whole set")
	}
	b.click(`[data-close-ways]`)

	b.click(`[data-finish]`)
	b.see(`[data-piece=feed-tall].done`)
	b.click(`[data-piece=feed-tall] .art`)
	b.until(`document.querySelector('.notice')?.textContent.includes('finished')`)
	b.click(`.notice button`)
	b.see(`[data-piece=feed-tall]:not(.done) .hit`)
	b.see(`[data-piece=feed-square].done`)
}
