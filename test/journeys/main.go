// Command journeys walks through the application as people do and prints how long it takes
// them: with a hand that clicks every 1.2 s and types five letters a second, on screens of
// several sizes, with and without a slow line.
//
//	go run ./test/journeys                      all of them
//	go run ./test/journeys -only twelve -widths 1280 -latencies 0
package main

import (
	"context"
	"encoding/base64"
	"flag"
	"fmt"
	"log"
	"net/http"
	"os"
	"strconv"
	"strings"
	"sync/atomic"
	"time"

	cdp "github.com/chromedp/chromedp"

	"aspenridge/demo"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/raster"
	"aspenridge/internal/voice"
	"aspenridge/test/chrome"
	"aspenridge/test/stage"
)

// The pace of a hand.
const (
	perClick  = 1200 * time.Millisecond
	perLetter = 200 * time.Millisecond
)

// A journey begins on a page and ends when what it is for is there.
type journey struct {
	name string
	most time.Duration // it is to take
	demo bool          // somebody is signed in, with the demo's kit
	walk func(h *hand)

	before func(s *stage.Stage) error // what is there when they come; nil for nothing more
}

func main() {
	raster.ChildMain()
	voice.ChildMain()
	only := flag.String("only", "", "just the journeys whose names have this")
	widths := flag.String("widths", "1280,640,390", "px of the window; 640 is 1280 at 200%")
	latencies := flag.String("latencies", "0,400", "ms of the line, there and back")
	flag.Parse()
	fmt.Printf("%-34s %6s %8s %8s %8s %7s\n", "journey", "wide", "line", "took", "at most", "clicks")
	failed := false
	for _, j := range journeys {
		if !strings.Contains(j.name, *only) {
			continue
		}
		for _, w := range numbers(*widths) {
			for _, ms := range numbers(*latencies) {
				took, clicks, err := walk(j, w, ms)
				said := ""
				if err != nil {
					said = "  FAILED: " + err.Error()
				} else if took > j.most {
					said = "  TOO LONG"
				}
				failed = failed || said != ""
				fmt.Printf("%-34s %6d %5d ms %6.1f s %6.0f s %7d%s\n", j.name, w, ms, took.Seconds(), j.most.Seconds(), clicks, said)
			}
		}
	}
	stage.Done()
	if failed {
		os.Exit(1)
	}
}

func numbers(s string) (out []int) {
	for _, v := range strings.Split(s, ",") {
		n, err := strconv.Atoi(strings.TrimSpace(v))
		if err != nil {
			log.Fatal(err)
		}
		out = append(out, n)
	}
	return out
}

// heights of windows by their width.
var heights = map[int]int64{1280: 800, 640: 400, 390: 844}

func walk(j journey, width, latency int) (took time.Duration, clicks int, err error) {
	var line atomic.Int64 // ms, once somebody is signed in
	slow := func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			time.Sleep(time.Duration(line.Load()) * time.Millisecond)
			next.ServeHTTP(w, r)
		})
	}
	s, err := stage.Open(context.Background(), stage.Options{Demo: j.demo, Work: true, Wrap: slow})
	if err != nil {
		return 0, 0, err
	}
	defer s.Close()
	if j.before != nil {
		if err := j.before(s); err != nil {
			return 0, 0, err
		}
	}
	alloc, stop := cdp.NewExecAllocator(context.Background(), chrome.Options(width, int(heights[width]))...)
	defer stop()
	ctx, cancel := cdp.NewContext(alloc)
	defer cancel()
	ctx, end := context.WithTimeout(ctx, 15*time.Minute)
	defer end()
	if err := cdp.Do(ctx); err != nil { // the browser lives as long as this context
		return 0, 0, err
	}
	h := &hand{ctx: ctx, base: s.URL}
	defer func() {
		if r := recover(); r != nil {
			clicks, err = h.clicks, fmt.Errorf("%v", r)
		}
	}()
	h.do(cdp.EmulateViewport(int64(width), heights[width]))
	if j.demo {
		h.do(cdp.Navigate(h.base+"/sign-in"), cdp.SendKeys(`input[name=email]`, demo.Email), cdp.SendKeys(`input[name=password]`, demo.Password+"\r"), cdp.WaitVisible(`.desk`))
	}
	line.Store(int64(latency))
	begin := time.Now()
	j.walk(h)
	return time.Since(begin), h.clicks, nil
}

// hand is somebody at work.
type hand struct {
	ctx    context.Context
	base   string
	clicks int
}

func (h *hand) do(steps ...cdp.Action[cdp.Void]) {
	ctx, cancel := context.WithTimeout(h.ctx, time.Minute)
	defer cancel()
	if err := cdp.Do(ctx, steps...); err != nil {
		panic(err)
	}
}

func (h *hand) open(path string) { h.do(cdp.Navigate(h.base + path)) }

// until waits for a condition of the page.
func (h *hand) until(js string) {
	ctx, cancel := context.WithTimeout(h.ctx, time.Minute)
	defer cancel()
	var err error
	for ctx.Err() == nil {
		if _, err = cdp.Run(ctx, cdp.Poll[bool](js, cdp.WithPollingTimeout(0))); err == nil {
			return
		}
	}
	panic(fmt.Sprintf("waiting for %s: %v", js, err))
}

// click moves to something and clicks it.
func (h *hand) click(sel string) {
	time.Sleep(perClick)
	h.clicks++
	h.until(`document.readyState === 'complete'`)
	h.do(cdp.WaitVisible(sel), cdp.ScrollIntoView(sel), cdp.Click(sel))
}

func (h *hand) types(text string) {
	for _, r := range text {
		time.Sleep(perLetter)
		h.do(cdp.KeyEvent(string(r)))
	}
}

// paste puts a text in at once, by Ctrl V.
func (h *hand) paste(sel, text string) {
	time.Sleep(perClick)
	h.clicks++
	h.run(fmt.Sprintf(`(() => { const f = document.querySelector(%q); f.focus(); f.setRangeText(%q, f.selectionStart, f.selectionEnd, 'end'); f.dispatchEvent(new InputEvent('input', { bubbles: true })) })()`, sel, text))
}

func (h *hand) run(js string) {
	ctx, cancel := context.WithTimeout(h.ctx, time.Minute)
	defer cancel()
	if _, err := cdp.Run(ctx, cdp.Evaluate[any](js)); err != nil {
		panic(err)
	}
}

// drop drags a file onto the page.
func (h *hand) drop(name, kind string, data []byte) {
	time.Sleep(perClick)
	h.clicks++
	h.run(fmt.Sprintf(`(() => {
		const bytes = Uint8Array.from(atob(%q), (c) => c.charCodeAt(0)), t = new DataTransfer()
		t.items.add(new File([bytes], %q, { type: %q }))
		document.body.dispatchEvent(new DragEvent('drop', { dataTransfer: t, bubbles: true, cancelable: true }))
	})()`, base64.StdEncoding.EncodeToString(data), name, kind))
}

func (h *hand) signUp() {
	h.open("/sign-up")
	h.click(`[name=name]`)
	h.types("Ada Finch")
	h.click(`[name=email]`)
	h.types("ada@pellow.example")
	h.click(`[name=password]`)
	h.types("morels at dawn\r")
	h.until(`!!document.querySelector('.give-field')`)
}

const packed = `document.querySelector('[data-ready], [data-wall-ready]')?.hidden === false`

const logo = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 40"><circle cx="20" cy="20" r="16" fill="#7a2e3a"/><rect x="44" y="12" width="50" height="16" rx="8" fill="#26432f"/></svg>`

const guide = "Pellow & Finch brand guidelines\nTagline: Fresh from the dark\nColours\nPrimary: Wine #7A2E3A\nSecondary: #26432F\nAccent: Chanterelle #E9A23B\nBackground: Cream #F4ECD8\nText: #1B1A17\nTypography\nHeadings: Gabarito Bold\nBody text: Figtree Regular\nVoice\nTone of voice: plain, warm\nWe say: basket, morning\nNever say: cheap, deal\nCall to action: Reserve a basket\nWebsite: https://pellow.example/\nHandle: @pellowfinch\nPhone: 01632 960118\nAddress: 4 Mill Lane, Larkmoor"

var twelve = strings.Split("Lantern paddle on Friday. Bring a torch.|20 % off every wetsuit|Five ways to stay dry|“Calm at last.” — Maren|Open water for all|Meet Lise, our new guide|New boards are in|Closed until spring|Tip: bend your knees|Thank you for a fine season|Low tide walk, Sunday 9:00|Six Saturdays, one river", "|")

var journeys = []journey{
	{"from nothing to twelve files", 75 * time.Second, false, func(h *hand) {
		h.signUp()
		h.drop("logo.svg", "image/svg+xml", []byte(logo))
		h.click(`.give-field textarea`)
		h.types("Chanterelles are in\r")
		h.until(`!!document.querySelector('.given-foot a.act[href$="/looks"]')`)
		h.click(`.given-foot a.act[href$="/looks"]`)
		h.until(`document.querySelectorAll('.lookstrip').length > 2`)
		h.click(`.lookstrip:nth-child(2) [data-open]`)
		h.until(`document.querySelectorAll('[data-piece]').length > 10`)
		h.click(`a[href$="/handover"]`)
		h.click(`[data-download]`)
		h.until(packed)
	}, nil},
	{"a style guide to a right kit", 60 * time.Second, false, func(h *hand) {
		h.signUp()
		h.paste(`.give-field textarea`, guide)
		h.click(`.give-field .act`)
		h.until(`document.querySelectorAll('.given-pieces svg').length > 2 && document.querySelectorAll('.given-list li').length >= 13`)
		h.click(`.given-foot a.ghost`)
		h.until(`document.querySelector('#w-tagline')?.value === 'Fresh from the dark' && document.querySelector('#w-website').value === 'pellow.example' && document.querySelector('#v-never').value === 'cheap, deal'`)
	}, nil},
	{"twelve posts and their files", 5 * time.Minute, true, func(h *hand) {
		h.click(`a[href="/several"]`)
		h.click(`[data-several] textarea`)
		h.types(strings.Join(twelve, "\r"))
		h.until(`document.querySelectorAll('.read-rows li').length === 12`)
		h.click(`[data-several-begin]`)
		h.until(`location.pathname === '/wall' && document.querySelectorAll('[data-post] .paper > svg').length === 12 && document.querySelector('[data-wall-busy]').textContent === ''`)
		for _, n := range []int{2, 5, 8} { // three of them want another look
			h.click(fmt.Sprintf(`.wall-posts li:nth-child(%d) [data-post-next]`, n))
		}
		h.until(`document.querySelector('[data-wall-busy]').textContent === ''`)
		h.click(`[data-wall-take]`)
		h.until(packed)
	}, nil},
	{"one of 400 briefs is found", 5 * time.Second, true, func(h *hand) {
		h.click(`[data-find]`)
		h.types("osprey")
		h.until(`[...document.querySelectorAll('.on-desk b')].some((b) => b.textContent.startsWith('The osprey'))`)
	}, fill},
}

// fill puts 400 briefs into the demo, one of which is looked for.
func fill(s *stage.Stage) error {
	ctx := context.Background()
	m, err := s.App.People.SignIn(ctx, demo.Email, demo.Password)
	if err != nil {
		return err
	}
	kit, err := s.App.Kits.DefaultKit(ctx, m)
	if err != nil {
		return err
	}
	for i := range 8 {
		rows := make([]brief.Row, 50)
		for k := range rows {
			rows[k] = brief.Row{Headline: fmt.Sprintf("Paddle %d, evening %d", i+1, k+1), Purpose: "event"}
		}
		if i == 3 {
			rows[20].Headline = "The osprey is back"
		}
		if _, err := s.App.Briefs.Begin(ctx, m, kit, []string{"feed-square"}, rows); err != nil {
			return err
		}
	}
	return nil
}
