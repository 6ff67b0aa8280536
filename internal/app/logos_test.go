package app_test

import (
	"errors"
	"strings"
	"testing"

	"aspenridge/internal/app"
)

// TestLogosInOrder: which one leads, their order, versions beside the original,
// and replacing one keeps what asked for it.
func TestLogosInOrder(t *testing.T) {
	a, m, kit, brief := open(t)
	files := func() (out []string, lead int) {
		t.Helper()
		k, err := a.Kits.Kit(t.Context(), m, kit)
		if err != nil {
			t.Fatal(err)
		}
		lead = -1
		for i, l := range k.Logos {
			out = append(out, l.File)
			if l.Lead {
				if lead >= 0 {
					t.Error("two logos lead")
				}
				lead = i
			}
		}
		return out, lead
	}
	start, _ := files()
	id := func(n int) string {
		t.Helper()
		k, err := a.Kits.Kit(t.Context(), m, kit)
		if err != nil {
			t.Fatal(err)
		}
		return k.Logos[n].ID
	}
	if err := a.Brand.LeadLogo(t.Context(), m, kit, "tab", id(2)); err != nil {
		t.Fatal(err)
	}
	if _, lead := files(); lead != 2 {
		t.Errorf("logo %d leads, want 2", lead)
	}
	if err := a.Brand.MoveLogo(t.Context(), m, kit, "tab", id(2), id(0)); err != nil {
		t.Fatal(err)
	}
	if now, lead := files(); now[0] != start[2] || lead != 0 {
		t.Errorf("moved: %v leads %d", now, lead)
	}
	if err := a.Brand.ToneLogo(t.Context(), m, kit, "tab", id(0), "one-colour"); err != nil {
		t.Fatal(err)
	}
	if now, _ := files(); len(now) != len(start)+1 || !strings.HasSuffix(now[1], "-one-colour.svg") {
		t.Errorf("toned: %v", now)
	}
	if err := a.Brand.CutLogo(t.Context(), m, kit, "tab", id(0)); err == nil {
		t.Error("a logo without a box was cut")
	}

	if _, err := a.Sets.SetLogo(t.Context(), m, brief, "tab", "piece:story", start[1]); err != nil {
		t.Fatal(err)
	}
	uses, err := a.Brand.LogoUses(t.Context(), m, kit, start[1])
	if err != nil || len(uses) != 1 {
		t.Fatalf("uses %v %v", uses, err)
	}
	const square = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 10 10"><rect x="1" y="1" width="8" height="8" fill="#F2694B"/></svg>`
	now, _ := files()
	at := 0
	for i, f := range now {
		if f == start[1] {
			at = i
		}
	}
	if err := a.Brand.ReplaceLogo(t.Context(), m, kit, "tab", id(at), "square.svg", []byte(square)); err != nil {
		t.Fatal(err)
	}
	now, _ = files()
	set, err := a.Sets.Set(t.Context(), m, brief)
	if err != nil {
		t.Fatal(err)
	}
	if ad := set.Brief.Adjustments; len(ad) == 0 || ad[len(ad)-1].Text() != now[at] || !strings.HasSuffix(now[at], "/square.svg") {
		t.Errorf("the piece asks for %v, the kit has %s", ad, now[at])
	}
	if err := a.Brand.LeadLogo(t.Context(), m, kit, "tab", "gone"); !errors.Is(err, app.ErrNotFound) {
		t.Errorf("no such logo: %v", err)
	}
}

// TestALogoThatLosesItsName: words set in a font that ships become outlines; where it does not, what
// of a logo could not be taken is said with the logo, and to whoever gives it.
func TestALogoThatLosesItsName(t *testing.T) {
	a, m, kit, _ := open(t)
	data := []byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 40"><path fill="#0F766E" d="M0 0h30v40H0z"/><text x="35" y="30" font-family="Nowhere Sans">Pellow</text></svg>`)
	out, err := a.Documents.Give(t.Context(), m, app.Giving{Kit: kit, Client: "tab", Name: "pellow.svg", Data: data, As: "logo", KitOnly: true})
	if err != nil {
		t.Fatal(err)
	}
	k, err := a.Kits.Kit(t.Context(), m, kit)
	if err != nil {
		t.Fatal(err)
	}
	last := k.Logos[k.OwnFiles("logos")-1]
	if len(last.Lost) != 1 || len(out.Left) != 1 || !strings.Contains(out.Left[0].Why, last.Lost[0]) {
		t.Errorf("lost %q, left %+v", last.Lost, out.Left)
	}
	shipped := []byte(strings.Replace(string(data), "Nowhere Sans", "Figtree", 1))
	if out, err = a.Documents.Give(t.Context(), m, app.Giving{Kit: kit, Client: "tab", Name: "pellow.svg", Data: shipped, As: "logo", KitOnly: true}); err != nil {
		t.Fatal(err)
	}
	if k, err = a.Kits.Kit(t.Context(), m, kit); err != nil {
		t.Fatal(err)
	}
	if whole := k.Logos[k.OwnFiles("logos")-1]; len(whole.Lost) != 0 || len(out.Left) != 0 || whole.Art.Aspect() <= 1.2*last.Art.Aspect() {
		t.Errorf("in a face that ships: lost %q, left %+v, %.2f times as wide as high, %.2f without its name", whole.Lost, out.Left, whole.Art.Aspect(), last.Art.Aspect())
	}
}
