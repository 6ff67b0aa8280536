package app_test

import (
	"errors"
	"strings"
	"testing"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/edit"
)

// TestAGuestEditorChangesBriefsAlone: whichever way a kit is changed by, somebody who may write
// briefs and no kits is refused, also by undo; what they change of a brief is theirs to change.
func TestAGuestEditorChangesBriefsAlone(t *testing.T) {
	a, m, kit, brief := open(t)
	ctx := t.Context()
	p, err := a.People.SignUp(ctx, "Ida", "guest@two.example", "quiet water 2027")
	if err != nil {
		t.Fatal(err)
	}
	token, err := a.Team.Invite(ctx, m, app.Asked{Role: "guest editor"}, "")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := a.Team.Join(ctx, p, token); err != nil {
		t.Fatal(err)
	}
	guest, err := a.People.Member(ctx, p.ID, m.Workspace)
	if err != nil {
		t.Fatal(err)
	}
	change := func(by app.Member, id app.ID, path string) error {
		_, err := a.Documents.Edit(ctx, by, id, app.Change{Client: "tab", Base: app.Latest, Op: edit.Op{Path: path, Value: []byte(`"Otter"`)}})
		return err
	}
	const tagline = "/$extensions/aspenridge/tagline"
	if err := change(m, kit, tagline); err != nil {
		t.Fatal(err)
	}
	seq := func() int64 {
		k, err := a.Kits.Kit(ctx, m, kit)
		if err != nil {
			t.Fatal(err)
		}
		return k.Seq
	}
	before := seq()
	const logo = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 90 30"><path fill="#123" d="M0 0h90v30H0z"/></svg>`
	for name, err := range map[string]error{
		"an edit":               change(guest, kit, tagline),
		"an undo":               third(a.Documents.Undo(ctx, guest, kit, "tab", false)),
		"going back":            a.Documents.GoTo(ctx, guest, kit, "tab", 0, before),
		"a logo":                a.Brand.AddLogo(ctx, guest, kit, "tab", "a.svg", []byte(logo)),
		"a colour":              a.Brand.AddColours(ctx, guest, kit, "tab", app.IntoPalette{}, app.NewColour{Name: "Plum", Value: colour.White}),
		"a colour off the Mat":  a.Sets.ColourIntoKit(ctx, guest, brief, "tab", "#5b3256"),
		"a face off the Mat":    a.Sets.FaceIntoKit(ctx, guest, brief, "tab", brand.Headline, "Karla"),
		"following another":     a.Kits.Follow(ctx, guest, kit, "tab", ""),
		"putting it away":       a.Documents.Archive(ctx, guest, kit, true),
		"deleting it":           a.Documents.Delete(ctx, guest, kit, true),
		"a new one":             second(a.Kits.NewKit(ctx, guest, "x")),
		"a copy":                second(a.Kits.DuplicateKit(ctx, guest, kit)),
		"the one briefs take":   a.Kits.SetDefaultKit(ctx, guest, kit),
		"channels":              a.Places.ChangeChannels(ctx, guest, "tab", opOf("/channels", "[]")),
		"a logo that is given":  given(a.Documents.Give(ctx, guest, app.Giving{Kit: kit, Name: "a.svg", Data: []byte(logo)})),
		"a link to its guide":   second(a.Guidelines.Share(ctx, guest, kit)),
		"a link to a set":       second(a.Proofs.Link(ctx, guest, brief, app.WishedLink{For: "x"})),
		"somebody's invitation": second(a.Team.Invite(ctx, guest, app.Asked{Role: "viewer"}, "")),
	} {
		if err == nil || !errors.Is(err, app.ErrNotAllowed) && !strings.Contains(err.Error(), app.ErrNotAllowed.Error()) {
			t.Errorf("%s: %v, want a refusal", name, err)
		}
	}
	if now := seq(); now != before {
		t.Errorf("the kit was at %d and is at %d", before, now)
	}
	for name, err := range map[string]error{
		"a brief's name": change(guest, brief, "/name"),
		"taken back":     third(a.Documents.Undo(ctx, guest, brief, "tab", false)),
		"a new brief":    second(a.Briefs.NewBrief(ctx, guest, kit)),
		"its guide":      third(a.Kits.ExportKit(ctx, guest, kit)),
	} {
		if err != nil {
			t.Errorf("%s: %v", name, err)
		}
	}
}

func second[A any](_ A, err error) error { return err }

func third[A, B any](_ A, _ B, err error) error { return err }

// given is what hinders all of what was given, or what was left of it.
func given(g app.Given, err error) error {
	if err != nil || len(g.Left) == 0 {
		return err
	}
	return errors.New(g.Left[0].Why)
}
