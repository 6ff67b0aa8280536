// Command shots takes the pictures of docs/screenshots from a demo of its own:
//
//	go run ./test/shots -out docs/screenshots
package main

import (
	"context"
	"flag"
	"fmt"
	"log"
	"os"
	"path/filepath"
	"strings"
	"time"

	cdp "github.com/chromedp/chromedp"

	"aspenridge/demo"
	"aspenridge/internal/raster"
	"aspenridge/internal/voice"
	"aspenridge/test/chrome"
	"aspenridge/test/stage"
)

func main() {
	raster.ChildMain()
	voice.ChildMain()
	out := flag.String("out", "docs/screenshots", "folder to write to")
	only := flag.String("only", "", "take just the picture of this name")
	flag.Parse()
	demo, err := stage.Open(context.Background(), stage.Options{Demo: true, Log: os.Stderr})
	if err != nil {
		log.Fatal(err)
	}
	err = run(demo.URL, *out, *only)
	demo.Close()
	stage.Done()
	if err != nil {
		log.Fatal(err)
	}
}

// shot is a page and what to do on it before the picture is taken.
type shot struct {
	name, page string
	steps      []cdp.Action[cdp.Void]
}

func run(url, out, only string) error {
	alloc, stop := cdp.NewExecAllocator(context.Background(), chrome.Options(1280, 800)...)
	defer stop()
	ctx, cancel := cdp.NewContext(alloc)
	defer cancel()
	ctx, done := context.WithTimeout(ctx, 3*time.Minute)
	defer done()
	if err := os.MkdirAll(out, 0o755); err != nil {
		return err
	}
	if err := cdp.Do(ctx,
		cdp.EmulateViewport(1280, 800),
		cdp.Navigate(url+"/sign-in"),
		cdp.SendKeys(`input[name=email]`, demo.Email),
		cdp.SendKeys(`input[name=password]`, demo.Password+"\r"),
		cdp.WaitVisible(`.desk`),
	); err != nil {
		return err
	}
	href := func(sel string) (string, error) {
		return cdp.Run(ctx, cdp.Evaluate[string](`document.querySelector('`+sel+`').getAttribute('href')`))
	}
	kit, err := href(".kit-link")
	if err != nil {
		return err
	}
	mat, err := href(".mat-card")
	if err != nil {
		return err
	}
	brief := mat[:len(mat)-len("/mat")]
	shots := []shot{
		{"desk", "/desk", nil},
		{"kit", kit, nil},
		{"kit-colour", kit, []cdp.Action[cdp.Void]{cdp.Click(`[data-slip-of="colour/main.coral"]`), cdp.WaitVisible(`.slip [data-dial]`)}},
		{"kit-type", kit, []cdp.Action[cdp.Void]{cdp.Click(`[data-slip-of="pairs/"]`), cdp.WaitVisible(`.slip .pairs`)}},
		{"give", "/kits/new", []cdp.Action[cdp.Void]{given(
			"Pellow & Finch", "Chanterelles are in, from Saturday", "Wine cap #7A2E3A\nMoss #26432F\nCream #F4ECD8\nApricot #E9A15B", "pellowfinch.example",
		)}},
		{"begin", "/kits/begin?name=Pellow+%26+Finch&does=A+mushroom+farm+with+a+market+stall&values=patience&go=1", nil},
		{"guidelines", kit + "/guidelines", nil},
		{"start", brief + "/start", nil},
		{"looks", brief + "/looks", nil},
		{"video", brief + "/video?place=video-tall", []cdp.Action[cdp.Void]{cdp.WaitVisible(`.shot .still`), cdp.SendKeys(`[data-voice]`, "a low"), cdp.WaitVisible(`.cue`), cdp.WaitReady(`.wave path`), cdp.Click(`.shot:nth-child(1) .still`)}},
		{"proof", brief + "/proof/#feed-square", []cdp.Action[cdp.Void]{cdp.WaitVisible(`[data-one] img.now`), commented}},
		{"team", "/team", nil},
		{"handover", brief + "/handover", []cdp.Action[cdp.Void]{weighed}},
		{"channels", "/channels", nil},
		{"preflight", mat, []cdp.Action[cdp.Void]{cdp.Click(`[data-preflight]`), cdp.WaitVisible(`.findings li`)}},
		{"mat", mat, []cdp.Action[cdp.Void]{cdp.Click(`[data-piece=feed-tall] .hit[data-slot=headline]`), cdp.WaitVisible(`.slip`)}},
		{"close-up", mat + "?close=feed-tall", []cdp.Action[cdp.Void]{cdp.WaitVisible(`[data-unit=headline]`), cdp.Click(`[data-unit=headline]`), cdp.WaitVisible(`.slip [data-paint]`)}},
		{"side-by-side", "/several", []cdp.Action[cdp.Void]{sideBySide}}, // last: it begins briefs
	}
	for _, s := range shots {
		if only != "" && s.name != only {
			continue
		}
		if err := cdp.Do(ctx, cdp.Navigate(url+s.page)); err != nil {
			return err
		}
		if err := settle(ctx); err != nil {
			return fmt.Errorf("%s: %w", s.name, err)
		}
		if err := cdp.Do(ctx, s.steps...); err != nil {
			return fmt.Errorf("%s: %w", s.name, err)
		}
		if err := settle(ctx); err != nil {
			return err
		}
		data, err := cdp.Run(ctx, cdp.CaptureScreenshot())
		if err != nil {
			return err
		}
		if err := os.WriteFile(filepath.Join(out, s.name+".png"), data, 0o644); err != nil {
			return err
		}
	}
	return nil
}

// commented says where something is to change, and writes where something else is.
func commented(ctx context.Context, t *cdp.Target) (cdp.Void, error) {
	press := func(x, y float64, words, then string) error {
		_, err := cdp.Evaluate[any](fmt.Sprintf(`(() => {
			const paper = document.querySelector('[data-paper]'), r = paper.getBoundingClientRect()
			paper.dispatchEvent(new MouseEvent('click', { bubbles: true, clientX: r.left + %v * r.width, clientY: r.top + %v * r.height }))
			document.querySelector('[data-say-words]').value = %q
			%s
		})()`, x, y, words, then))(ctx, t)
		return err
	}
	if err := press(0.4, 0.77, "Say where we meet? The old boathouse is closed.", `document.querySelector('[data-say]').requestSubmit()`); err != nil {
		return cdp.Void{}, err
	}
	if _, err := cdp.Poll[bool](`document.querySelectorAll('.thread').length === 1 && !document.querySelector('.pin.new')`)(ctx, t); err != nil {
		return cdp.Void{}, err
	}
	return cdp.Void{}, press(0.86, 0.89, "Could this be the green one?", "")
}

// sideBySide begins a list of briefs and waits until each has its look.
func sideBySide(ctx context.Context, t *cdp.Target) (cdp.Void, error) {
	const list = "Lantern paddle on Friday. Bring a torch and a friend.\n20 % off every wetsuit until Sunday\nFive ways to stay dry\n“The calmest hour of my week.” — Maren\nOpen water for all\nMeet Lise, who reads the river\nNew boards are in | Lighter, and kinder to knees\nThank you for a fine season"
	for _, step := range []cdp.Action[bool]{
		cdp.Poll[bool](fmt.Sprintf(`(() => { const f = document.querySelector('[data-several] textarea'); f.value = %q; f.dispatchEvent(new Event('input', { bubbles: true })); return true })()`, list)),
		cdp.Poll[bool](`document.querySelectorAll('.read-rows li').length === 8`),
		cdp.Poll[bool](`(document.querySelector('[data-where-sheet] [data-alone=feed-square]').click(), true)`),
		cdp.Poll[bool](`(document.querySelector('[data-several-begin]').click(), true)`),
		cdp.Poll[bool](`location.pathname === '/wall' && document.querySelectorAll('[data-post] .paper > svg').length === 8 && document.querySelector('[data-wall-busy]').textContent === ''`),
	} {
		_, err := step(ctx, t)
		for err != nil && ctx.Err() == nil && (strings.Contains(err.Error(), "navigated") || strings.Contains(err.Error(), "find context")) { // asked of the page that was left
			_, err = step(ctx, t)
		}
		if err != nil {
			return cdp.Void{}, err
		}
	}
	return cdp.Void{}, nil
}

// given types one thing after the other into the field of the first page.
func given(things ...string) cdp.Action[cdp.Void] {
	return func(ctx context.Context, t *cdp.Target) (cdp.Void, error) {
		for i, thing := range things {
			js := fmt.Sprintf(`(() => { const f = document.querySelector('[data-give-form]'); f.elements.text.value = %q; f.requestSubmit() })()`, thing)
			if _, err := cdp.Evaluate[any](js)(ctx, t); err != nil {
				return cdp.Void{}, err
			}
			if _, err := cdp.Poll[bool](fmt.Sprintf(`document.querySelectorAll('.given-list li:not(.taking)').length > %d`, i))(ctx, t); err != nil {
				return cdp.Void{}, err
			}
		}
		return cdp.Void{}, nil
	}
}

// weighed waits until every file on the list has its weight.
func weighed(ctx context.Context, t *cdp.Target) (cdp.Void, error) {
	_, err := cdp.Poll[bool](`![...document.querySelectorAll('[data-weight]')].some((c) => c.textContent === '…')`)(ctx, t)
	return cdp.Void{}, err
}

// settle waits for fonts and pictures.
func settle(ctx context.Context) error {
	_, err := cdp.Run(ctx, cdp.Poll[bool](`document.readyState === 'complete' && document.fonts.status === 'loaded' &&
		[...document.images].every((i) => i.complete || i.loading === 'lazy') && performance.getEntriesByType('resource').every((e) => e.responseEnd > 0)`))
	return err
}
