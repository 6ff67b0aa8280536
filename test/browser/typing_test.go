package browser

import (
	"bufio"
	"context"
	"fmt"
	"math/rand/v2"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	cdp "github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"aspenridge/demo"
	"aspenridge/internal/store"
	"aspenridge/test/stage"
)

// TestFortyKeysUnderDelay types a key every 30 ms while every answer is held
// back by up to 400 ms, each by another time, so that they would overtake one
// another: the words, the caret and the page come through.
func TestFortyKeysUnderDelay(t *testing.T) {
	rng := rand.New(rand.NewPCG(7, 7))
	delays := make(chan time.Duration, 1000)
	for range cap(delays) {
		delays <- time.Duration(rng.IntN(400)) * time.Millisecond
	}
	s := openStage(t, stage.Options{Demo: true, Wrap: func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			if strings.HasSuffix(r.URL.Path, "/sync") {
				late := time.NewTimer(<-delays)
				defer late.Stop()
				next.ServeHTTP(&held{w, late.C}, r)
				return
			}
			next.ServeHTTP(w, r)
		})
	}})
	b := openTab(t, s.URL)
	b.signIn()
	b.openMat("Spring")
	b.run(`window.sameDocument = true`)
	b.click(`[data-piece=story] .hit[data-slot=subheading]`)
	b.see(`.caret`)
	b.chord("a")
	const words = "Forty keys, each thirty ms after another"
	if len(words) != 40 {
		t.Fatal("this needs forty keys")
	}
	beat := time.NewTicker(30 * time.Millisecond)
	defer beat.Stop()
	for _, key := range words {
		<-beat.C
		b.do("a key", cdp.KeyEvent(string(key)))
	}
	b.until(`document.querySelector('[data-typing]').value === ` + quote(words))
	b.saved()
	b.until(`document.querySelector('.caret')?.dataset.at === '40'`)
	b.until(fmt.Sprintf(`Alpine.$data(document.querySelector('[data-mat]')).state.pieces.flatMap((p) => p.words).find((w) => w.field === 'subheading').text === %q`, words))
	if !eval[bool](b, `window.sameDocument === true`) {
		t.Error("the page was loaded anew while typing")
	}
	// the caret stands behind the last letter of the last line
	if !eval[bool](b, `(() => { const s = Alpine.$data(document.querySelector('[data-mat]')).stops; const last = s[s.length - 1]; return s.length === 41 && last.i === 40 && s.every((x) => x.t <= last.t && (x.t < last.t || x.x <= last.x)) })()`) {
		t.Error("the caret is not behind the last letter")
	}
	// and one that moved into the words stays where it is
	for range 5 {
		b.keys(kb.ArrowLeft)
	}
	b.keys("x")
	b.saved()
	b.until(`document.querySelector('.caret')?.dataset.at === '36'`)
	if got := eval[string](b, `document.querySelector('[data-typing]').value`); got != words[:35]+"x"+words[35:] {
		t.Errorf("the words are %q", got)
	}
}

// held answers only after a while.
type held struct {
	http.ResponseWriter
	until <-chan time.Time
}

func (h *held) WriteHeader(status int) {
	<-h.until
	h.ResponseWriter.WriteHeader(status)
}

// TestKilledWhileTyping kills the server in the middle of words, starts it
// again on the same address and finds all that was typed; then it does so with
// the tab closed before the server came back.
func TestKilledWhileTyping(t *testing.T) {
	bin := filepath.Join(t.TempDir(), "aspenridge")
	root, err := stage.Root()
	if err != nil {
		t.Fatal(err)
	}
	build := exec.Command("go", "build", "-o", bin, "./cmd/aspenridge")
	build.Dir = root
	if out, err := build.CombinedOutput(); err != nil {
		t.Fatalf("%v\n%s", err, out)
	}
	database, drop, err := stage.NewDatabase(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(drop)
	files := t.TempDir()
	start := func(listen string) (*exec.Cmd, string) {
		cmd := exec.Command(bin, "demo", "-database", database, "-files", files, "-listen", listen)
		out, err := cmd.StdoutPipe()
		if err != nil {
			t.Fatal(err)
		}
		if err := cmd.Start(); err != nil {
			t.Fatal(err)
		}
		line, err := bufio.NewReader(out).ReadString('\n')
		if err != nil {
			t.Fatal(err)
		}
		return cmd, strings.TrimSpace(line[strings.Index(line, "http://"):])
	}
	server, url := start("127.0.0.1:0")
	t.Cleanup(func() { _ = server.Process.Kill(); _ = server.Wait() })
	kill := func() {
		if err := server.Process.Signal(os.Kill); err != nil {
			t.Fatal(err)
		}
		_ = server.Wait()
	}

	b := openTab(t, url)
	b.allowed = []string{"net::ERR_"} // a server that was killed
	b.signIn()
	b.openMat("Spring")
	page := eval[string](b, `location.pathname`)
	b.click(`[data-piece=feed-tall] .hit[data-slot=headline]`)
	b.see(`.caret`)
	b.chord("a")
	b.keys("Still wat")
	kill()
	b.keys("er, strong arms")
	b.until(`document.querySelector('.saved').classList.contains('late')`)
	server, _ = start(strings.TrimPrefix(url, "http://"))
	b.saved()
	b.goTo(page)
	b.until(says("Still water, strong arms"))

	b.click(`[data-piece=feed-tall] .hit[data-slot=headline]`)
	b.see(`.caret`)
	kill()
	b.chord("a")
	b.keys("Typed into the dark")
	b.until(`document.querySelector('.saved').classList.contains('late')`)
	b.do("closing the page", cdp.Navigate("about:blank"))
	server, _ = start(strings.TrimPrefix(url, "http://"))
	b.goTo(page)
	b.until(says("Typed into the dark"))
	b.saved()
	b.goTo(page)
	b.until(says("Typed into the dark"))
}

// TestTwoTabs edits one brief in two tabs: different fields merge, the same
// words are a conflict that shows both and loses neither.
func TestTwoTabs(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	one := openTab(t, s.URL)
	one.allowed = []string{"409"}
	one.signIn()
	one.openMat("Spring")
	path := eval[string](one, `location.pathname`)
	two := one.another()
	two.allowed = []string{"409"}
	two.goTo(strings.Replace(path, "/mat", "/start", 1))
	two.see(`#f-body`)
	two.fill(`#f-body`, "Bring a towel.")
	two.saved()
	one.front()
	one.until(`Alpine.$data(document.querySelector('[data-mat]')).state.pieces.flatMap((p) => p.words).find((w) => w.field === 'body').text === 'Bring a towel.'`)
	one.click(`[data-piece=feed-tall] .hit[data-slot=subheading]`)
	one.see(`.caret`)
	one.chord("a")
	one.keys("Six calm Saturdays")
	one.saved()
	two.until(`document.querySelector('#f-subheading').value === 'Six calm Saturdays'`)
	if got := eval[string](two, `document.querySelector('#f-body').value`); got != "Bring a towel." {
		t.Errorf("the body became %q", got)
	}

	// the same field, while the first tab does not hear of the change: both
	// tabs stand on the same state and write one after the other
	stale := eval[int](one, `Alpine.$data(document.querySelector('[data-mat]')).state.seq`)
	two.front()
	two.fill(`#f-headline`, "Theirs")
	two.saved()
	one.front()
	one.run(fmt.Sprintf(`Aspen.post('/briefs/' + document.body.dataset.brief + '/sync', { base: %d, have: {}, write: { field: 'headline', reach: 'set', text: 'Mine' } }).catch((e) => { window.refused = e })`, stale))
	one.until(`window.refused?.status === 409`)
	if got := eval[string](one, `refused.data.theirs + ' / ' + refused.data.yours`); got != "Theirs / Mine" {
		t.Errorf("the conflict names %q", got)
	}
	one.run(fmt.Sprintf(`Alpine.$data(document.querySelector('[data-mat]')).box.put({ write: { card: '', field: 'headline', reach: 'set', text: 'Mine' } }, { base: %d })`, stale))
	one.see(`.clash button`)
	one.until(says("Theirs"))
	if said := eval[string](one, `document.querySelector('.clash').innerText`); !strings.Contains(said, "Theirs") || !strings.Contains(said, "Mine") {
		t.Errorf("of the two texts it shows %q", said)
	}
	// the question, and the words, are there again when the page is
	one.goTo(eval[string](one, `location.pathname`))
	one.see(`.clash button`)
	one.until(says("Theirs"))
	one.click(`.clash div:last-child button`)
	one.until(says("Mine"))
	two.until(`document.querySelector('#f-headline').value === 'Mine'`)
	one.goTo(eval[string](one, `location.pathname`))
	one.until(says("Mine"))
	if eval[bool](one, `!document.querySelector('.clash').hidden`) {
		t.Error("a question that was answered is asked again")
	}
}

// TestNothingAcknowledgedVanishes: two tabs write one headline, the second while the
// first has heard of nothing, and again after it has heard. Neither text goes
// without a word.
func TestNothingAcknowledgedVanishes(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	one := openTab(t, s.URL)
	one.allowed = []string{"409"}
	one.signIn()
	one.openMat("Spring")
	start := strings.Replace(eval[string](one, `location.pathname`), "/mat", "/start", 1)
	two := one.another()
	two.allowed = []string{"409"}
	for _, b := range []*tab{one, two} {
		b.goTo(start)
		b.see(`#f-headline`)
		b.until(`document.readyState === 'complete'`)
	}
	one.front()
	one.click(`#f-headline`)
	one.chord("a")
	one.keys("First here")
	one.saved()
	two.front()
	two.until(`document.querySelector('#f-headline').value === 'First here'`)
	two.click(`#f-headline`)
	two.chord("a")
	two.keys("Then there")
	two.saved()
	one.until(`document.querySelector('[data-title]').textContent !== ''`)
	one.front()
	// the page has heard of it, the field keeps what the hand is in
	one.until(`[...document.querySelectorAll('[data-preview] svg')].length > 0`)
	one.keys("!")
	one.until(`document.querySelector('.notice.bad')?.textContent.includes('Then there')`)
	if got := eval[string](two, `document.querySelector('#f-headline').value`); got != "Then there" {
		t.Errorf("the other tab says %q now", got)
	}
	one.click(`.notice.bad button`)
	one.saved()
	mine := eval[string](one, `document.querySelector('#f-headline').value`)
	two.front()
	two.run(`document.activeElement.blur()`)
	two.until(`document.querySelector('#f-headline').value === ` + quote(mine))
}

// TestSessionEndsWhileTyping ends the session under a person who types; they
// sign in again in place and nothing is lost.
func TestSessionEndsWhileTyping(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.allowed = []string{"401"}
	b.signIn()
	b.openMat("Spring")
	b.run(`window.sameDocument = true`)
	b.click(`[data-piece=feed-tall] .hit[data-slot=headline]`)
	b.see(`.caret`)
	b.chord("a")
	endSessions(t, s)
	b.insert("Nobody is home") // at once: on a busy machine the dialog could open between two keys
	b.see(`dialog[open] [name=password]`)
	b.do("signing in again", cdp.SendKeys(`dialog [name=email]`, demo.Email), cdp.SendKeys(`dialog [name=password]`, demo.Password+"\r"))
	b.until(`!document.querySelector('dialog[open]')`)
	b.saved()
	b.until(says("Nobody is home"))
	if !eval[bool](b, `window.sameDocument === true`) {
		t.Error("the page was loaded anew")
	}
	b.goTo(eval[string](b, `location.pathname`))
	b.until(says("Nobody is home"))
}

func endSessions(t *testing.T, s *stage.Stage) {
	t.Helper()
	db, err := store.Open(t.Context(), s.Database, time.Second)
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	if _, err := db.Pool.Exec(context.Background(), `delete from sessions`); err != nil {
		t.Fatal(err)
	}
}
