package browser

import (
	"context"
	_ "embed"
	"fmt"
	"strings"
	"testing"

	cdp "github.com/chromedp/chromedp"

	"aspenridge/test/stage"
	"aspenridge/test/sweep"
)

//go:embed testdata/axe.min.js
var axe string // axe-core, Mozilla Public License 2.0, as the npm package has it

// TestNothingSeriousForAxe runs axe-core over the screens; what a theme changes, the
// colours, in both.
func TestNothingSeriousForAxe(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	turn := 0
	check := func(screen string) {
		t.Helper()
		themes := map[string]string{"light": "", "dark": ", runOnly: ['color-contrast']"}
		state := strings.Contains(screen, ",") // of a screen that is looked at in both
		if turn++; state || !sweep.Turn(turn, 3) {
			delete(themes, "dark")
		}
		if state && !sweep.Turn(turn, 2) {
			return
		}
		b.until(`document.readyState === 'complete'`)
		b.do("loading axe", func(ctx context.Context, tg *cdp.Target) (cdp.Void, error) {
			_, err := cdp.Evaluate[any](axe+";null")(ctx, tg)
			return cdp.Void{}, err
		})
		for theme, rules := range themes {
			b.run(fmt.Sprintf(`document.documentElement.dataset.theme = %q`, theme))
			// the inside of pieces is paths alone: thousands of nodes axe need not walk
			found := eval[[]string](b, `(async () => {
				const inside = [...document.querySelectorAll('svg[role=img]')].map((s) => [s, [...s.childNodes]])
				for (const [s] of inside) s.replaceChildren()
				const r = await axe.run(document, { resultTypes: ['violations']`+rules+` })
				for (const [s, kids] of inside) s.replaceChildren(...kids)
				return r.violations.filter((v) => ['serious', 'critical'].includes(v.impact)).flatMap((v) => v.nodes.slice(0, 4).map((n) => v.id + ': ' + n.target.join(' ') + ' | ' + (n.any[0]?.message ?? n.all[0]?.message ?? n.none[0]?.message ?? '')))
			})()`)
			for _, f := range found {
				t.Errorf("%s, %s: %s", screen, theme, f)
			}
		}
	}
	b.goTo("/sign-in")
	check("sign in")
	b.goTo("/sign-up")
	check("sign up")
	b.signIn()
	check("desk")
	kit := eval[string](b, `document.querySelector('.kit-link').getAttribute('href')`)
	mat := eval[string](b, `document.querySelector('.mat-card').getAttribute('href')`)
	b.goTo(kit)
	b.click(`[data-slip-of="colour/main.coral"]`)
	b.see(`.slip [data-dial]`)
	check("kit")
	b.click(`.slip [data-remove]`)
	b.see(`dialog.ask`)
	check("kit, taking out asks")
	b.click(`dialog.ask .ghost`)
	for _, of := range []string{"level/headline", "pairs/", "logo/", "history/"} {
		b.run(`document.querySelector('[data-slip-close]')?.click()`)
		b.click(`[data-slip-of^="` + of + `"]`)
		b.until(`!document.querySelector('[data-slip]').hidden && !!document.activeElement.closest('[data-slip]')`)
		check("kit, slip " + of)
	}
	b.run(`document.querySelector('[data-slip-close]')?.click()`)
	b.run(`document.querySelector('#h-pics').scrollIntoView()`)
	b.click(`.brand-pic .quiet`)
	b.see(`.slip .large-pic img`)
	check("kit, slip of a picture")
	b.goTo(kit + "/compare?a=0&b=0")
	check("compare")
	b.goTo(kit + "/forward")
	check("finished pieces")
	b.goTo("/kits")
	check("kits")
	b.goTo("/kits/new")
	check("give it what you have")
	b.click(`.give-field textarea`)
	b.keys("Finch House")
	b.click(`.give-field .act`)
	b.see(`.given-pieces`)
	check("something given")
	b.goTo("/kits/begin")
	check("find a character")
	b.goTo("/kits/begin?name=Finch&go=1")
	b.see(`[data-choose]`)
	check("a pair")
	b.goTo("/kits/begin?name=Finch&go=1&done=1")
	b.see(`.begin-three`)
	check("three that fit")
	b.goTo(kit + "/guidelines")
	check("guidelines")
	b.goTo(mat[:len(mat)-3] + "start")
	check("start")
	b.click(`[data-where]`)
	b.see(`.place`)
	check("where it goes")
	b.goTo(mat[:len(mat)-3] + "proof/")
	check("proof")
	b.fill(`[name=for]`, "Anna")
	b.click(`[data-new-link] .act`)
	b.until(`!document.querySelector('[data-fresh]').hidden`)
	check("proof, a new link")
	b.goTo(strings.TrimPrefix(eval[string](b, `document.querySelector('[data-address]').value`), s.URL))
	check("proof by a link")
	b.click(`[data-piece] a`)
	b.until(`document.querySelector('[data-one]').open`)
	check("one piece of a proof")
	b.goTo("/team")
	b.run(`for (const d of document.querySelectorAll('.scope')) d.open = true`)
	check("team")
	b.goTo("/account")
	b.run(`for (const d of document.querySelectorAll('.more-ask')) d.open = true`)
	check("account")
	b.goTo("/record")
	check("record")
	b.goTo("/forgot")
	check("another password")
	b.goTo("/desk")
	b.until(`!!document.querySelector('.asked') && !!document.querySelector('.desk-lately')`)
	b.run(`document.querySelector('.desk-lately').open = true`)
	check("desk, asked")
	b.goTo(mat[:len(mat)-3] + "looks")
	check("looks")
	b.run(`for (const t of [...document.querySelectorAll('[data-tick]')].slice(0, 2)) t.click()`)
	b.click(`[data-compare]`)
	b.see(`.compared .lookstrip`)
	check("looks side by side")
	b.run(`document.querySelector('[data-compared]').close()`)
	b.click(`[data-strips] > .lookstrip:nth-child(2) [data-large]`)
	b.see(`.large-look .papers`)
	check("a look large")
	b.goTo(mat[:len(mat)-3] + "video")
	b.until(`!!document.querySelector('.shot .still svg')`)
	check("video")
	b.goTo(mat[:len(mat)-3] + "handover")
	check("hand over")
	b.goTo("/channels")
	check("channels")
	b.goTo("/several")
	b.click(`[data-several] textarea`)
	b.insert("Open day on Friday\nFive tips\n")
	b.until(`document.querySelectorAll('.read-rows li').length === 2`)
	check("several briefs")
	b.click(`[data-several-begin]`)
	b.until(`location.pathname === '/wall' && document.querySelectorAll('[data-post] .paper > svg').length === 2`)
	check("side by side")
	b.goTo(mat)
	b.see(`[data-piece] .hit`)
	check("mat")
	b.click(`[data-all-ways]`)
	b.see(`.ways li`)
	check("mat with colourways")
	b.click(`[data-close-ways]`)
	b.click(`[data-piece=feed-tall] .hit[data-slot=headline]`)
	b.see(`.slip .other`)
	check("mat with a slip")
	b.click(`[data-preflight]`)
	b.see(`.findings`)
	check("mat with preflight")
	b.goTo(mat + "?close=feed-tall")
	b.until(`(` + matData + `.state.close?.parts.length ?? 0) > 3`)
	b.run(matData + `.pick('headline')`)
	b.see(`.slip [data-paint]`)
	b.run(matData + `.openAdd(); ` + matData + `.showKeys()`)
	b.see(`.adds-sheet [data-add*=icon]`)
	check("close-up with a slip, adding and keys")
}
