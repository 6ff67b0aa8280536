package browser

import (
	"encoding/json"
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"

	"aspenridge/test/stage"
	"aspenridge/test/sweep"
)

// fieldsOf lists the fields of a page that keep what is typed, each by what tells it from the others,
// with what to type there. Fields that search, that belong to a form sent as a whole, and what is
// only of this page are left out.
const fieldsOf = `(() => {
	const name = (e) => e.id || JSON.stringify([e.closest('[data-shot]')?.dataset.shot, { ...e.dataset, dirty: undefined, typed: undefined }, e.getAttribute('aria-label')])
	const typed = { number: (e) => String(Number(e.value || 3) + 1), numbers: () => '11 12 13 14', kB: () => '900', boxes: null, needs: null }
	const own = { 'f-date': '2027-06-04', 'f-until': '2027-06-05', 'f-website': 'elsewhere.example', 'w-website': 'elsewhere.example', 'f-stars': '4', 'f-from': '9:00', 'f-to': '17:00', 'f-price': '£40', 'f-oldPrice': '£50' }
	let n = 0
	window.fieldNamed = (k) => [...document.querySelectorAll('input, textarea, select')].find((e) => name(e) === k)
	return [...document.querySelectorAll('input, textarea, select')].filter((e) => e.matches('FIELDS') && e.getClientRects().length && !e.disabled && !e.readOnly).map((e) => {
		n++
		let v = own[e.id]
		if (e.tagName === 'SELECT') {
			const others = [...e.options].filter((o) => o.value && o.value !== e.value && !o.disabled)
			v = others.length ? others[n % others.length].value : undefined
		} else if (e.dataset.edit?.endsWith('/formats')) v = 'png webp'
		else if (e.dataset.edit?.endsWith('/seen')) v = '620 310'
		else if (e.dataset.as in typed) v = typed[e.dataset.as]?.(e)
		else v ??= 'Typed ' + n
		return { key: name(e), value: v ?? null, select: e.tagName === 'SELECT', date: e.type === 'date' }
	}).filter((f) => f.value !== null)
})()`

// TestEveryFieldUnderLatency: on the pages where one types most, every field is typed and left for the
// next while every answer takes its time. Nothing is lost, nothing that comes late moves the hand or
// changes what it wrote, and all of it is there on the page when it is opened anew.
func TestEveryFieldUnderLatency(t *testing.T) {
	late := 120 * time.Millisecond
	if sweep.Turn(1, 2) { // as long as a poor connection takes
		late = 3 * time.Second
	}
	s := openStage(t, stage.Options{Demo: true, Wrap: func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			if r.Method == http.MethodPost || strings.HasSuffix(r.URL.Path, "/preview") || strings.HasSuffix(r.URL.Path, "/sheet") {
				wait := time.NewTimer(late)
				defer wait.Stop()
				next.ServeHTTP(&held{w, wait.C}, r)
				return
			}
			next.ServeHTTP(w, r)
		})
	}})
	b := openTab(t, s.URL)
	b.signIn()
	kit := eval[string](b, `[...document.querySelectorAll('.kit-link')].find((a) => a.textContent.includes('Paddle School')).getAttribute('href')`)
	brief := strings.TrimSuffix(eval[string](b, `[...document.querySelectorAll('.mat-card')].find((a) => a.textContent.includes('Spring')).getAttribute('href')`), "/mat")
	for _, page := range []struct{ path, ready, fields string }{
		{brief + "/start", "#f-headline", "[data-path]"},
		{kit, ".swatch", "#w-tagline, #w-website, [id^=w-]:not([list]):not(#w-follows), [data-do=motion], [data-do=manner]"},
		{"/channels", "main", "[data-edit]:not([data-edit$=shape])"},
		{brief + "/video", ".shot", ".shot textarea[data-field=headline], .shot [data-field=layout], [data-music], [data-voice], [data-captions]"},
	} {
		b.goTo(page.path)
		b.see(page.ready)
		b.until(`document.readyState === 'complete'`)
		b.run(`for (const d of document.querySelectorAll('details')) d.open = true`)
		type field struct {
			Key, Value   string
			Select, Date bool
		}
		list := eval[[]field](b, strings.ReplaceAll(fieldsOf, "FIELDS", page.fields))
		if len(list) < 5 {
			t.Fatalf("%s has %d fields", page.path, len(list))
		}
		at := func(f field) string { key, _ := json.Marshal(f.Key); return "fieldNamed(" + string(key) + ")" }
		for i, f := range list {
			if f.Select || f.Date {
				b.run(fmt.Sprintf(`{ const e = %s; e.focus(); e.value = %q; e.dispatchEvent(new Event('input', { bubbles: true })); e.dispatchEvent(new Event('change', { bubbles: true })) }`, at(f), f.Value))
				continue
			}
			b.run(fmt.Sprintf(`{ const e = %s; e.focus(); e.select() }`, at(f)))
			half := len(f.Value) / 2
			b.insert(f.Value[:half])
			b.insert(f.Value[half:])
			if got := eval[string](b, at(f)+`?.value ?? 'gone'`); got != f.Value {
				t.Errorf("%s, %s: %q was typed, it says %q", page.path, f.Key, f.Value, got)
			}
			if i == len(list)-1 && !eval[bool](b, `document.activeElement === `+at(f)) {
				t.Errorf("%s, %s: the hand was moved out of it", page.path, f.Key)
			}
		}
		held := eval[string](b, `document.activeElement.outerHTML.slice(0, 80)`)
		b.run(`window.sameHand = document.activeElement`)
		b.untilFor(patience+time.Duration(len(list)+2)*late, `document.querySelector('.saved').classList.contains('saved') || document.querySelector('.saved').textContent.trim() === 'saved'`)
		if !list[len(list)-1].Select && !eval[bool](b, `document.activeElement === window.sameHand`) {
			t.Errorf("%s: an answer took the hand out of %s", page.path, held)
		}
		b.run(`document.activeElement.blur()`)
		b.untilFor(patience+time.Duration(len(list)+2)*late, allSaved) // one change after the other
		for _, when := range []string{"once it is saved", "on the page opened anew"} {
			for _, f := range list {
				if got := eval[string](b, at(f)+`?.value ?? 'gone'`); got != f.Value {
					t.Errorf("%s, %s: %q was typed, %s it says %q", page.path, f.Key, f.Value, when, got)
				}
			}
			b.goTo(page.path)
			b.see(page.ready)
			b.until(`document.readyState === 'complete'`)
			b.run(`for (const d of document.querySelectorAll('details')) d.open = true`)
			b.run(strings.ReplaceAll(fieldsOf, "FIELDS", page.fields))
		}
	}
}
