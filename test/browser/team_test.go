package browser

import (
	"strings"
	"testing"

	"aspenridge/demo"
	"aspenridge/test/stage"
)

// TestATeam: somebody is asked in by mail, signs up by the link, looks and comments, sees the
// workspaces in the menu and goes to their own; a role is changed and lets them in further; one
// who is taken out is out.
func TestATeam(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.goTo("/team")
	if n := eval[int](b, `document.querySelectorAll('.people tbody tr').length`); n != 3 || !eval[bool](b, `document.querySelector('.people').textContent.includes('`+demo.Colleague+`')`) {
		t.Errorf("%d people", n)
	}
	b.fill(`.ask-in [name=email]`, "mara@finch.example")
	b.run(`document.querySelector('.ask-in [name=role]').value = 'commenter'`)
	b.click(`.ask-in .act`)
	b.until(`document.querySelector('.mail')?.textContent.includes('mara@finch.example')`)
	address := eval[string](b, `document.querySelector('[data-fresh-address]').value`)
	if body := eval[string](b, `document.querySelector('.mail pre').textContent`); !strings.Contains(body, address) {
		t.Errorf("the mail says %q, the address is %q", body, address)
	}

	mara := openTab(t, s.URL)
	mara.goTo(strings.TrimPrefix(address, s.URL))
	mara.click(`.door-card a.act`)
	mara.until(`location.pathname === '/sign-up'`)
	mara.fill(`[name=name]`, "Mara Finch")
	mara.fill(`[name=email]`, "mara@finch.example")
	mara.fill(`[name=password]`, "chanterelles 99")
	mara.click(`form .act`)
	mara.until(`location.pathname.startsWith('/join/') && document.querySelector('form .act') !== null`)
	mara.click(`form .act`)
	mara.until(`location.pathname === '/desk' && document.querySelectorAll('.mat-card').length > 1`)
	mara.run(`[...document.querySelectorAll('.mat-card')].find((a) => a.textContent.includes('Spring')).click()`)
	mara.until(`location.pathname.endsWith('/proof/') && !document.querySelector('.road') && !document.querySelector('[data-new-link]')`)
	mara.click(`[data-piece] a`)
	mara.until(`document.querySelector('[data-one]').open`)
	mara.fill(`[data-say-words]`, "Lovely.")
	mara.run(`document.querySelector('[data-say]').requestSubmit()`)
	mara.until(`document.querySelector('.said-by')?.textContent.includes('Mara Finch')`)
	mara.run(`document.querySelector('[data-one-close]').click()`)

	// as an editor she sees the road
	b.goTo("/team")
	b.run(`window.before = true; const row = [...document.querySelectorAll('.people tbody tr')].find((r) => r.textContent.includes('Mara')); const s = row.querySelector('select'); s.value = 'editor'; s.dispatchEvent(new Event('change', { bubbles: true }))`)
	b.until(`[...document.querySelectorAll('.people tbody tr')].find((r) => r.textContent.includes('Mara'))?.querySelector('select').value === 'editor' && !window.before && document.readyState === 'complete'`)
	mara.goTo(eval[string](mara, `location.pathname`))
	mara.until(`!!document.querySelector('.road')`)
	// her own workspace, from the menu
	mara.click(`.me summary`)
	mara.until(`!!document.querySelector('[data-spaces] button')`)
	mara.click(`[data-spaces] button`)
	mara.until(`location.pathname === '/kits/new'`)
	mara.click(`.me summary`)
	mara.until(`[...document.querySelectorAll('[data-spaces] button')].some((b) => b.textContent === 'Larkmoor workshop')`)
	mara.click(`[data-spaces] button`)
	mara.until(`location.pathname === '/desk' && document.querySelectorAll('.mat-card').length > 1`)

	// taken out, after a question
	b.goTo("/team")
	b.run(`[...document.querySelectorAll('.people tbody tr')].find((r) => r.textContent.includes('Mara')).querySelector('[data-asks] button').click()`)
	b.until(`document.querySelector('dialog[open]')?.textContent.includes('Mara')`)
	b.click(`dialog[open] .act`)
	b.until(`document.querySelectorAll('.people tbody tr').length === 3`)
	mara.goTo("/desk")
	mara.until(`location.pathname === '/kits/new'`) // her own again
}
