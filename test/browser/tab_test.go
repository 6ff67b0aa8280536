// Package browser drives the real interface in headless Chromium: clicking,
// typing, dropping, downloading. Every tab fails its test on any script error,
// console error or refusal by the content security policy.
package browser

import (
	"context"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/cdproto/browser"
	cdptype "github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/log"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/cdproto/runtime"
	cdp "github.com/chromedp/chromedp"

	"aspenridge/demo"
	"aspenridge/internal/raster"
	"aspenridge/internal/voice"
	"aspenridge/test/chrome"
	"aspenridge/test/stage"
)

func TestMain(m *testing.M) {
	raster.ChildMain()
	voice.ChildMain()
	code := m.Run()
	stopBrowser()
	stage.Done()
	os.Exit(code)
}

// theBrowser is the one browser of all tests; each has a profile of its own in it, with
// its own cookies, cache and storage.
var (
	theBrowser  context.Context
	stopBrowser = func() {}
)

// patience is how long a condition may take before the test gives up.
const patience = time.Minute

// pause is how long a page is left alone between two looks at it: at every frame, as is usual,
// looking takes more of the processor than the page.
const pause = 20 * time.Millisecond

// tab is a browser tab that looks at an application.
type tab struct {
	t    testing.TB
	ctx  context.Context
	base string

	mu       sync.Mutex
	problems []string
	allowed  []string // parts of console lines a test brings about on purpose
}

// openStage sets an application up for the test.
func openStage(t testing.TB, o stage.Options) *stage.Stage {
	t.Helper()
	s, err := stage.Open(t.Context(), o)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(s.Close)
	return s
}

// openTab opens a tab with a profile of its own.
func openTab(t testing.TB, base string) *tab {
	t.Helper()
	if theBrowser == nil {
		opts := chrome.Options(1280, 800, // with a microphone that beeps
			cdp.Flag("use-fake-device-for-media-stream", true), cdp.Flag("use-fake-ui-for-media-stream", true))
		alloc, stop := cdp.NewExecAllocator(context.Background(), opts...)
		ctx, _ := cdp.NewContext(alloc)
		if err := cdp.Do(ctx); err != nil {
			stop()
			t.Fatalf("starting the browser: %v", err)
		}
		theBrowser, stopBrowser = ctx, stop
	}
	return newTab(t, theBrowser, base, cdp.WithNewBrowserContext())
}

// another opens a second tab with the same session.
func (b *tab) another() *tab { b.t.Helper(); return newTab(b.t, b.ctx, b.base) }

func newTab(t testing.TB, parent context.Context, base string, opts ...cdp.ContextOption) *tab {
	t.Helper()
	ctx, cancel := cdp.NewContext(parent, opts...)
	b := &tab{t: t, ctx: ctx, base: base}
	focused := func(ctx context.Context, t *cdp.Target) (cdp.Void, error) { // also while another tab is in front
		_, err := cdptype.Call(ctx, t, emulation.SetFocusEmulationEnabled, emulation.SetFocusEmulationEnabledParams{Enabled: true})
		return cdp.Void{}, err
	}
	if err := cdp.Do(ctx, cdp.EmulateViewport(1280, 800), focused); err != nil {
		t.Fatalf("starting the browser: %v", err)
	}
	listening, stop := context.WithCancel(ctx)
	go func() {
		_ = cdp.Listen(listening, func(ev any) {
			switch e := ev.(type) {
			case *runtime.EventConsoleAPICalled:
				if e.Type == "error" || e.Type == "warning" {
					for _, a := range e.Args {
						b.problem("console: " + string(a.Value) + a.Description)
					}
				}
			case *runtime.EventExceptionThrown:
				b.problem("exception: " + e.ExceptionDetails.Text + " " + fmt.Sprint(e.ExceptionDetails.Exception))
			case *log.EventEntryAdded:
				if e.Entry.Level == "error" || e.Entry.Level == "warning" {
					b.problem("log: " + e.Entry.Text + " " + e.Entry.URL)
				}
			}
		})
	}()
	t.Cleanup(func() {
		stop()
		cancel()
		b.mu.Lock()
		defer b.mu.Unlock()
		for _, p := range b.problems {
			t.Errorf("the page complained: %s", p)
		}
	})
	return b
}

func (b *tab) problem(s string) {
	b.mu.Lock()
	defer b.mu.Unlock()
	for _, part := range b.allowed {
		if strings.Contains(s, part) {
			return
		}
	}
	b.problems = append(b.problems, s)
}

// do runs steps and fails the test when one does not come about in time.
func (b *tab) do(what string, steps ...cdp.Action[cdp.Void]) {
	b.t.Helper()
	ctx, cancel := context.WithTimeout(b.ctx, patience)
	defer cancel()
	if err := cdp.Do(ctx, steps...); err != nil {
		b.t.Fatalf("%s: %v\n%s", what, err, b.describe())
	}
}

// describe says where the page stands, for a failing test.
func (b *tab) describe() string {
	ctx, cancel := context.WithTimeout(b.ctx, 2*time.Second)
	defer cancel()
	s, _ := cdp.Run(ctx, cdp.Evaluate[string](`location.pathname + ': ' + document.title + ' | notice: ' + (document.querySelector('[data-notices]')?.innerText ?? '')`))
	return s
}

func (b *tab) goTo(path string) {
	b.t.Helper()
	b.do("going to "+path, cdp.Navigate(b.base+path))
}

// click clicks, once the page is there whole: before, nobody listens.
func (b *tab) click(sel string) {
	b.t.Helper()
	listens := func(ctx context.Context, t *cdp.Target) (cdp.Void, error) {
		_, err := cdp.Poll[bool](`document.readyState === 'complete'`, cdp.WithPollingTimeout(0), cdp.WithPollingInterval(pause))(ctx, t)
		return cdp.Void{}, err
	}
	b.again("clicking "+sel, cdp.WaitVisible(sel), listens, cdp.Click(sel))
}

// again is do for steps that find a node first: when the page was replaced
// between finding and using it, nothing has happened yet and they start over.
func (b *tab) again(what string, steps ...cdp.Action[cdp.Void]) {
	b.t.Helper()
	ctx, cancel := context.WithTimeout(b.ctx, patience)
	defer cancel()
	for {
		err := cdp.Do(ctx, steps...)
		if err == nil {
			return
		}
		if ctx.Err() != nil || !leftBehind(err) {
			b.t.Fatalf("%s: %v\n%s", what, err, b.describe())
		}
	}
}

// leftBehind reports whether a step was asked of a page that had just gone.
func leftBehind(err error) bool {
	for _, s := range []string{"Could not find node", "navigated", "Cannot find context"} {
		if strings.Contains(err.Error(), s) {
			return true
		}
	}
	return false
}

func (b *tab) see(sel string) { b.t.Helper(); b.again("seeing "+sel, cdp.WaitVisible(sel)) }

// keys types into whatever has the focus.
func (b *tab) keys(text string) { b.t.Helper(); b.do("typing "+text, cdp.KeyEvent(text)) }

// insert puts text in at once, as an input method does.
func (b *tab) insert(text string) {
	b.t.Helper()
	b.do("putting in "+text, func(ctx context.Context, t *cdp.Target) (cdp.Void, error) {
		_, err := cdptype.Call(ctx, t, input.InsertText, input.InsertTextParams{Text: text})
		return cdp.Void{}, err
	})
}

// chord presses a key with Control held (and Shift for an upper-case one).
func (b *tab) chord(key string, more ...cdp.Modifier) {
	b.t.Helper()
	b.do("pressing Ctrl "+key, cdp.KeyEvent(key, cdp.KeyModifiers(append(more, cdp.ModifierCtrl)...)))
}

// enter presses Enter as a keyboard does: one event, whose letter comes of it unless the page
// prevents that. (chromedp's own sends the letter apart.)
func (b *tab) enter() {
	b.t.Helper()
	b.do("pressing Enter", func(ctx context.Context, t *cdp.Target) (cdp.Void, error) {
		for _, kind := range []input.DispatchKeyEventType{input.DispatchKeyEventTypeKeyDown, input.DispatchKeyEventTypeKeyUp} {
			p := input.DispatchKeyEventParams{Type: kind, Key: "Enter", Code: "Enter", WindowsVirtualKeyCode: 13, NativeVirtualKeyCode: 13}
			if kind == input.DispatchKeyEventTypeKeyDown {
				p.Text, p.UnmodifiedText = "\r", "\r"
			}
			if _, err := cdptype.Call(ctx, t, input.DispatchKeyEvent, p); err != nil {
				return cdp.Void{}, err
			}
		}
		return cdp.Void{}, nil
	})
}

// fill replaces what is in a field, as a person would, and leaves the field.
func (b *tab) fill(sel, text string) {
	b.t.Helper()
	b.click(sel)
	for range 5 { // what lies above may have been drawn anew under the click
		if eval[bool](b, `!!document.activeElement.select && document.activeElement.matches(`+quote(sel)+`)`) {
			break
		}
		b.saved()
		b.click(sel)
	}
	b.run(`document.activeElement.select()`)
	b.keys(text)
	b.run(`document.activeElement.blur()`)
}

// until waits for a condition of the page.
func (b *tab) until(condition string) { b.t.Helper(); b.untilFor(patience, condition) }

// untilFor waits so long at most.
func (b *tab) untilFor(most time.Duration, condition string) {
	b.t.Helper()
	ctx, cancel := context.WithTimeout(b.ctx, most)
	defer cancel()
	_, err := cdp.Run(ctx, cdp.Poll[bool](condition, cdp.WithPollingTimeout(0), cdp.WithPollingInterval(pause)))
	for err != nil && ctx.Err() == nil && leftBehind(err) { // asked of a page that was just left
		_, err = cdp.Run(ctx, cdp.Poll[bool](condition, cdp.WithPollingTimeout(0), cdp.WithPollingInterval(pause)))
	}
	if err != nil {
		b.t.Fatalf("waiting for %s: %v\n%s", condition, err, b.describe())
	}
}

// front brings the tab before the others of its browser: only then do keys
// write.
func (b *tab) front() {
	b.t.Helper()
	b.do("to the front", func(ctx context.Context, t *cdp.Target) (cdp.Void, error) {
		_, err := cdptype.Call(ctx, t, page.BringToFront, cdptype.Empty{})
		return cdp.Void{}, err
	})
}

// saved waits until everything is saved, and pictures that moved have come.
func (b *tab) saved() { b.t.Helper(); b.until(allSaved) }

// allSaved is true on a page that waits for no answer.
const allSaved = `document.querySelector('.saved')?.textContent === 'saved' && !document.querySelector('[data-coming]')`

func (b *tab) run(js string) { b.t.Helper(); eval[json.RawMessage](b, js+";null") }

// eval is the value of an expression; a promise is waited for.
func eval[T any](b *tab, js string) T {
	b.t.Helper()
	ctx, cancel := context.WithTimeout(b.ctx, patience)
	defer cancel()
	v, err := cdp.Run(ctx, cdp.Evaluate[T](js, cdp.EvalAwaitPromise))
	if err != nil {
		b.t.Fatalf("%s: %v", js, err)
	}
	return v
}

// give hands a file to the page as a drop or a paste would.
func (b *tab) give(event, name, mediaType string, data []byte) {
	b.t.Helper()
	field := map[string]string{"drop": "dataTransfer", "paste": "clipboardData"}[event]
	kind := map[string]string{"drop": "DragEvent", "paste": "ClipboardEvent"}[event]
	b.run(fmt.Sprintf(`(() => {
		const bytes = Uint8Array.from(atob(%q), (c) => c.charCodeAt(0))
		const carrier = new DataTransfer()
		carrier.items.add(new File([bytes], %q, { type: %q }))
		document.body.dispatchEvent(new %s(%q, { %s: carrier, bubbles: true, cancelable: true }))
	})()`, base64.StdEncoding.EncodeToString(data), name, mediaType, kind, event, field))
}

// download does what starts a download and returns the file.
func (b *tab) download(start func()) (name string, data []byte) {
	b.t.Helper()
	dir := b.t.TempDir()
	allow := func(ctx context.Context, t *cdp.Target) (cdp.Void, error) {
		_, err := cdptype.Call(ctx, t, browser.SetDownloadBehavior, browser.SetDownloadBehaviorParams{Behavior: "allow", DownloadPath: dir, BrowserContextID: cdp.FromContext(b.ctx).BrowserContextID})
		return cdp.Void{}, err
	}
	b.do("allowing downloads", allow)
	start()
	tick := time.NewTicker(50 * time.Millisecond)
	defer tick.Stop()
	give := time.After(patience)
	for {
		select {
		case <-give:
			list, _ := os.ReadDir(dir)
			b.t.Fatalf("no download came, but %v: %s", list, b.describe())
		case <-tick.C:
		}
		list, err := os.ReadDir(dir)
		if err != nil {
			b.t.Fatal(err)
		}
		coming := func(e os.DirEntry) bool {
			return strings.HasSuffix(e.Name(), ".crdownload") || strings.HasPrefix(e.Name(), ".")
		}
		if len(list) > 0 && !slices.ContainsFunc(list, coming) {
			data, err := os.ReadFile(filepath.Join(dir, list[0].Name()))
			if err != nil {
				b.t.Fatal(err)
			}
			if len(data) > 0 {
				return list[0].Name(), data
			}
		}
	}
}

// signIn signs in with the demo's account.
func (b *tab) signIn() { b.t.Helper(); b.signInAs(demo.Email) }

func (b *tab) signInAs(email string) {
	b.t.Helper()
	b.goTo("/sign-in")
	b.run(fmt.Sprintf(`document.querySelector('input[name=email]').value = %q; document.querySelector('input[name=password]').value = %q; document.querySelector('form:has([name=password])').requestSubmit()`, email, demo.Password))
	b.see(`.desk`)
	b.until(`document.readyState === 'complete'`)
}

// newKit makes a kit of a name alone and opens it.
func (b *tab) newKit(name string) {
	b.t.Helper()
	b.goTo("/kits/new")
	b.click(`.give-field textarea`)
	b.keys(name)
	b.click(`.give-field .act`)
	b.click(`.given-foot a[href^="/kits/"]`)
	b.see(`.kit-page [data-sheet]`)
}

// openMat opens the Mat of the demo's brief with this name.
func (b *tab) openMat(brief string) {
	b.t.Helper()
	href := eval[string](b, fmt.Sprintf(`[...document.querySelectorAll('.mat-card')].find((a) => a.textContent.includes(%q)).getAttribute('href')`, brief))
	b.goTo(href)
	b.see(`[data-piece] .hit`)
}

// quote writes a string as JavaScript.
func quote(s string) string {
	data, err := json.Marshal(s)
	if err != nil {
		panic(err)
	}
	return string(data)
}

// typeText types into the focus, line breaks as Enter.
func typeText(s string) cdp.Action[cdp.Void] { return cdp.KeyEvent(strings.ReplaceAll(s, "\n", "\r")) }
