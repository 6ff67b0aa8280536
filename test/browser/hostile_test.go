package browser

import (
	"fmt"
	"testing"

	"aspenridge/demo"
	"aspenridge/internal/app"
	"aspenridge/test/stage"
)

// hostile are texts that would do something if they were taken for more than text (after the
// OWASP cheat sheet on filter evasion, from memory).
var hostile = []string{
	`<script>window.hacked = 1</script>`, `<img src=x onerror="window.hacked = 1">`, `"><svg onload=window.hacked=1>`, `' onmouseover='window.hacked=1`,
	`javascript:window.hacked=1`, `</textarea><script>window.hacked=1</script>`, "${window.hacked=1}", `{{constructor.constructor('window.hacked=1')()}}`,
	"\u202emoc.live//:sptth", "\U0001F6F6\u200d\u2640\ufe0f \u0627\u0644\u0646\u0647\u0631 \u05d4\u05e0\u05d4\u05e8",
}

// TestHostileWords: whatever people are called and say is text on every screen it shows on:
// nothing runs, nothing is refused by the content policy, and the words are there to be read.
func TestHostileWords(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	ctx := t.Context()
	owner, err := s.App.People.SignIn(ctx, demo.Email, demo.Password)
	if err != nil {
		t.Fatal(err)
	}
	sets, _, _, err := s.App.Briefs.FindBriefs(ctx, owner, "", 0)
	if err != nil {
		t.Fatal(err)
	}
	id := sets[0].Doc.ID
	key := sets[0].Placements()[0].ID
	do := func(err error) {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
	}
	var token string
	for i, words := range hostile {
		p, err := s.App.People.SignUp(ctx, words, fmt.Sprintf("p%d@evil.example", i), "quiet water 2027")
		do(err)
		in, err := s.App.Team.Invite(ctx, owner, app.Asked{Role: "editor"}, "/join/")
		do(err)
		_, err = s.App.Team.Join(ctx, p, in)
		do(err)
		if p, err = s.App.People.Member(ctx, p.ID, owner.Workspace); err != nil {
			t.Fatal(err)
		}
		do(s.App.Proofs.Say(ctx, p, s.App.Proofs.Who(p), id, app.Remark{Piece: key, Words: words + " @Nell", Spot: true, X: 0.5, Y: 0.5}))
		do(s.App.Proofs.Decide(ctx, p, app.By{Name: words}, id, app.Changes, map[string]string{key: ""}))
		token, err = s.App.Proofs.Link(ctx, owner, id, app.WishedLink{For: words})
		do(err)
		_, err = s.App.Team.NewWorkspace(ctx, owner, words)
		do(err)
	}
	do(s.App.Team.Rename(ctx, owner, hostile[1]))
	do(s.App.People.Rename(ctx, owner, hostile[0]))

	b := openTab(t, s.URL)
	b.signIn()
	clean := func(path, seen string) {
		t.Helper()
		b.goTo(path)
		b.until(seen)
		if eval[bool](b, `window.hacked !== undefined || !!document.querySelector('img[src="x"], script:not([src]):not([type="application/json"]), svg[onload], [onmouseover], [onerror]')`) {
			t.Errorf("%s takes words for more than words", path)
		}
	}
	has := func(words string) string { return fmt.Sprintf(`document.body.textContent.includes(%q)`, words) }
	clean("/desk", has(hostile[9])+` && `+has(hostile[1]))
	clean("/team", has(hostile[0])+` && `+has(hostile[1]))
	clean("/record", has(hostile[1])+` && `+has("window.hacked=1}"))
	clean("/account", has("You sign in as"))
	clean("/briefs/"+id.String()+"/proof/", has(hostile[3]))
	b.click(`[data-piece] a`)
	b.until(`document.querySelectorAll('.thread').length >= 10 && ` + has(hostile[1]+" @Nell"))
	clean("/briefs/"+id.String()+"/mat?close="+key, `document.querySelectorAll('.said-here').length > 0`)
	b.click(`.me summary`)
	b.until(`document.querySelectorAll('[data-spaces] button').length > 5 && window.hacked === undefined`)
	clean("/see/"+token+"/", has("Approve"))
	clean("/see/"+token+"/#"+key, `document.querySelectorAll('.thread').length >= 10`)
}
