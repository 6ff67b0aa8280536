package app_test

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"
	"slices"
	"strings"
	"testing"
	"time"

	"aspenridge/demo"
	"aspenridge/internal/account"
	"aspenridge/internal/app"
	"aspenridge/internal/blob"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/raster"
	"aspenridge/internal/store"
	"aspenridge/internal/voice"
	"aspenridge/test/stage"
)

func TestMain(m *testing.M) {
	raster.ChildMain()
	voice.ChildMain()
	code := m.Run()
	larkmoor.Drop()
	os.Exit(code)
}

// over is an application over a store and a folder of files.
func over(t *testing.T, s *store.Store, files string) *app.App { return overAt(t, s, files, nil) }

func overAt(t *testing.T, s *store.Store, files string, now func() time.Time) *app.App {
	t.Helper()
	b, err := blob.Open(files, "", "")
	if err != nil {
		t.Fatal(err)
	}
	a, err := app.New(s, b, app.Options{Hashing: stage.Quick, Beat: 100 * time.Millisecond, Now: now})
	if err != nil {
		t.Fatal(err)
	}
	return a
}

// newcomer is an application with one owner who has nothing yet.
func newcomer(t *testing.T) (*app.App, app.Member) { return newcomerAt(t, nil) }

// newcomerAt is the same by a clock.
func newcomerAt(t *testing.T, now func() time.Time) (*app.App, app.Member) {
	t.Helper()
	s, _, drop, err := stage.NewStore(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(drop)
	a := overAt(t, s, t.TempDir(), now)
	m, err := a.People.SignUp(t.Context(), "Nell", "nell@larkmoor.example", "quiet water 2027")
	if err != nil {
		t.Fatal(err)
	}
	return a, m
}

// larkmoor is one owner with Larkmoor's kit and its first brief, loaded once.
var (
	larkmoor         = stage.Template{Load: loadLarkmoor}
	owner            app.Member
	itsKit, itsBrief app.ID
)

func loadLarkmoor(ctx context.Context, a *app.App) (err error) {
	if owner, err = a.People.SignUp(ctx, "Nell", "nell@larkmoor.example", "quiet water 2027"); err != nil {
		return err
	}
	if itsKit, err = demo.LoadKit(ctx, a, owner); err != nil {
		return err
	}
	itsBrief, err = demo.LoadBrief(ctx, a, owner, itsKit, "beginners.json", "shoreline")
	return err
}

// open is an application with one owner, Larkmoor's kit and its first brief.
func open(t *testing.T) (*app.App, app.Member, app.ID, app.ID) {
	t.Helper()
	files := t.TempDir()
	s, drop, err := larkmoor.NewStore(t.Context(), files)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(drop)
	return over(t, s, files), owner, itsKit, itsBrief
}

// standing asks for a brief's set as it stands.
func standing(t *testing.T, a *app.App, m app.Member, brief app.ID) func() *app.Set {
	return func() *app.Set {
		t.Helper()
		s, err := a.Sets.Set(t.Context(), m, brief)
		if err != nil {
			t.Fatal(err)
		}
		return s
	}
}

// shown is what a slot says on a piece.
func shown(t *testing.T, a *app.App, m app.Member, brief app.ID, placement, slot string) string {
	t.Helper()
	s, err := a.Sets.Set(t.Context(), m, brief)
	if err != nil {
		t.Fatal(err)
	}
	p, err := spec.Parse(placement)
	if err != nil {
		t.Fatal(err)
	}
	for _, part := range s.Piece(s.CurrentLook(), p).Scene.Parts {
		if part.Slot == slot {
			if part.File != "" {
				return part.File
			}
			return part.Text
		}
	}
	return ""
}

func TestTheNarrowestReachWins(t *testing.T) {
	a, m, _, brief := open(t)
	write := func(reach, words string) {
		t.Helper()
		if _, err := a.Briefs.Write(t.Context(), m, brief, app.Change{Client: "tab", Base: app.Latest}, "", "subheading", reach, words); err != nil {
			t.Fatal(err)
		}
	}
	check := func(feed, tall, story string) {
		t.Helper()
		for place, want := range map[string]string{"feed-square": feed, "feed-tall": tall, "story": story} {
			if got := shown(t, a, m, brief, place, "subheading"); got != want {
				t.Errorf("%s says %q, want %q", place, got, want)
			}
		}
	}
	write("set", "For all")
	check("For all", "For all", "For all")
	write("channel:social-feed", "For the feed")
	check("For the feed", "For the feed", "For all")
	write("piece:feed-tall", "For this one")
	check("For the feed", "For this one", "For all")
	write("channel:social-feed", "For the feed again")
	check("For the feed again", "For this one", "For all")
	lift := func(reach string) {
		t.Helper()
		if _, err := a.Sets.Lift(t.Context(), m, brief, "tab", reach, "subheading", "text"); err != nil {
			t.Fatal(err)
		}
	}
	lift("piece:feed-tall")
	check("For the feed again", "For the feed again", "For all")
	lift("channel:social-feed")
	check("For all", "For all", "For all")
	if _, err := a.Sets.Lift(t.Context(), m, brief, "tab", "piece:feed-tall", "subheading", "text"); !errors.Is(err, app.ErrNotFound) {
		t.Errorf("lifting what is not there: %v", err)
	}
	if _, err := a.Briefs.Write(t.Context(), m, brief, app.Change{}, "", "pictures", "set", "x"); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("writing into pictures: %v", err)
	}
}

func TestLogoByReach(t *testing.T) {
	a, m, kit, brief := open(t)
	k, err := a.Kits.Kit(t.Context(), m, kit)
	if err != nil {
		t.Fatal(err)
	}
	file := func(part string) string {
		for _, l := range k.Logos {
			if strings.Contains(l.File, part) {
				return l.File
			}
		}
		t.Fatalf("no logo %s", part)
		return ""
	}
	rule := shown(t, a, m, brief, "feed-square", "logo")
	set := func(reach, file string) {
		t.Helper()
		if _, err := a.Sets.SetLogo(t.Context(), m, brief, "tab", reach, file); err != nil {
			t.Fatal(err)
		}
	}
	set("set", file("stacked"))
	set("piece:story", file("symbol"))
	if got := shown(t, a, m, brief, "feed-square", "logo"); got != file("stacked") {
		t.Errorf("the set shows %s", got)
	}
	if got := shown(t, a, m, brief, "story", "logo"); got != file("symbol") {
		t.Errorf("the story shows %s", got)
	}
	set("piece:story", "")
	set("set", "")
	if got := shown(t, a, m, brief, "feed-square", "logo"); got != rule {
		t.Errorf("back to the rule gives %s, want %s", got, rule)
	}
}

// TestTheBenchGoesRound steps through each ingredient and comes back to where it
// began, each step undone in one.
func TestTheBenchGoesRound(t *testing.T) {
	a, m, _, brief := open(t)
	look := func() string {
		s, err := a.Sets.Set(t.Context(), m, brief)
		if err != nil {
			t.Fatal(err)
		}
		return fmt.Sprint(s.CurrentLook(), s.Brief.Logo)
	}
	start := look()
	for _, what := range []string{"layout", "type", "logo"} {
		s, err := a.Sets.Set(t.Context(), m, brief)
		if err != nil {
			t.Fatal(err)
		}
		bench := s.Bench()
		n := map[string]int{"layout": bench.LayoutOf, "type": bench.TypeOf, "logo": len(s.Kit.Logos) + 1}[what]
		seen := map[string]bool{}
		for range n {
			seen[look()] = true
			if _, err := a.Sets.Turn(t.Context(), m, brief, "tab", app.Step{What: what, By: 1}); err != nil {
				t.Fatal(err)
			}
		}
		if len(seen) != n {
			t.Errorf("%s: %d different of %d", what, len(seen), n)
		}
		if what != "layout" && look() != start { // a layout may choose colours that suit it
			t.Errorf("%s does not come round:\n%s\n%s", what, start, look())
		}
		start = look()
		if n > 1 {
			if _, err := a.Sets.Turn(t.Context(), m, brief, "tab", app.Step{What: what, By: -1}); err != nil {
				t.Fatal(err)
			}
			if _, _, err := a.Documents.Undo(t.Context(), m, brief, "tab", false); err != nil {
				t.Fatal(err)
			}
			if look() != start {
				t.Errorf("%s: one undo does not take a step back", what)
			}
		}
	}
	// each step of the colours is seen, and they come round
	first := func() *scene.Scene {
		s, err := a.Sets.Set(t.Context(), m, brief)
		if err != nil {
			t.Fatal(err)
		}
		return s.Piece(s.CurrentLook(), s.Placements()[0]).Scene
	}
	seen := map[string]bool{}
	for n := 0; !seen[look()]; n++ {
		seen[look()] = true
		was := first()
		if _, err := a.Sets.Turn(t.Context(), m, brief, "tab", app.Step{What: "colourway", By: 1}); err != nil {
			t.Fatal(err)
		}
		if far := scene.Apart(was, first()); far < app.SeenApart {
			t.Errorf("step %d of the colours changes the piece by %.3f, nothing one sees", n, far)
		}
		if n > 40 {
			t.Fatal("the colours do not come round")
		}
	}
	if len(seen) < 4 {
		t.Errorf("%d colourways", len(seen))
	}
	if _, err := a.Sets.Turn(t.Context(), m, brief, "tab", app.Step{What: "weather", By: 1}); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("turning the weather: %v", err)
	}
}

func TestOpenBriefsFollowTheKit(t *testing.T) {
	a, m, kit, brief := open(t)
	ground := func() colour.RGB {
		s, err := a.Sets.Set(t.Context(), m, brief)
		if err != nil {
			t.Fatal(err)
		}
		p, _ := spec.Find("feed-square")
		return s.Piece(s.CurrentLook(), p).Colours.At("panel").Value
	}
	river, _ := colour.Parse("#0F3D4C")
	plum, _ := colour.Parse("#5B1F4A")
	if got := ground(); got != river {
		t.Fatalf("the panel is %s at first", got.Hex())
	}
	if _, err := a.Brand.SetColour(t.Context(), m, kit, app.Change{Client: "tab", Base: app.Latest}, "main.river", "#5b1f4a"); err != nil {
		t.Fatal(err)
	}
	if got := ground(); got != plum {
		t.Errorf("the panel is %s after the kit's lead became plum", got.Hex())
	}
	// a value nothing can stand on is not followed blindly: words stay readable
	if _, err := a.Brand.SetColour(t.Context(), m, kit, app.Change{Client: "tab", Base: app.Latest}, "main.river", "#8a8a8a"); err != nil {
		t.Fatal(err)
	}
	s, err := a.Sets.Set(t.Context(), m, brief)
	if err != nil {
		t.Fatal(err)
	}
	for _, pc := range s.Pieces() {
		for _, part := range pc.Scene.Parts {
			if part.Text != "" && part.Contrast < 4.5 {
				t.Errorf("%s on %s has a contrast of %.2f", part.Slot, pc.Placement.ID, part.Contrast)
			}
		}
	}
}

func TestColoursIntoTheKit(t *testing.T) {
	a, m, _, _ := open(t)
	kit, err := a.Kits.NewKit(t.Context(), m, "Pellow")
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct{ name, hex string }{{"", "#7A2E3A"}, {"Wine", "#B5402F"}, {"Wine", "#C05030"}, {"Crème brûlée", "#FBF6EA"}, {"", "#14211A"}} {
		v, err := colour.Parse(c.hex)
		if err != nil {
			t.Fatal(err)
		}
		if err := a.Brand.KeepColours(t.Context(), m, kit, "tab", app.NewColour{Name: c.name, Value: v}); err != nil {
			t.Fatalf("%s: %v", c.hex, err)
		}
		if err := a.Brand.KeepColours(t.Context(), m, kit, "tab", app.NewColour{Name: c.name, Value: v}); !errors.Is(err, app.ErrInvalid) {
			t.Errorf("%s twice: %v", c.hex, err)
		}
	}
	// a name that is given outranks one that was proposed, and stays
	wine, _ := colour.Parse("#7A2E3A")
	for _, name := range []string{"Oxblood", "Another"} {
		err := a.Brand.KeepColours(t.Context(), m, kit, "tab", app.NewColour{Name: name, Value: wine})
		if c := kitOf(t, a, m, kit).Palettes[0].Colours[0]; c.Name != "Oxblood" || (err == nil) != (name == "Oxblood") {
			t.Errorf("named %s it is %q, %v", name, c.Name, err)
		}
	}
	k, err := a.Kits.Kit(t.Context(), m, kit)
	if err != nil {
		t.Fatal(err)
	}
	var roles []brand.Role
	tokens := map[string]bool{}
	for _, c := range k.Palettes[0].Colours {
		roles = append(roles, c.Role)
		if tokens[c.Token] || c.Name == "" {
			t.Errorf("token %s, name %q", c.Token, c.Name)
		}
		tokens[c.Token] = true
	}
	if !slices.Equal(roles, []brand.Role{brand.Lead, brand.Accent, brand.Support, brand.Ground, brand.Ink}) {
		t.Errorf("roles proposed: %v", roles)
	}
	if k.Palettes[0].Colours[3].Name != "Crème brûlée" {
		t.Errorf("the name became %q", k.Palettes[0].Colours[3].Name)
	}
}

// TestColoursComeInTogether: a pasted list or a starter palette is one step of
// undo, and too many come in not at all.
func TestColoursComeInTogether(t *testing.T) {
	a, m, _, _ := open(t)
	kit, err := a.Kits.NewKit(t.Context(), m, "Pellow")
	if err != nil {
		t.Fatal(err)
	}
	count := func() []int {
		k, err := a.Kits.Kit(t.Context(), m, kit)
		if err != nil {
			t.Fatal(err)
		}
		var out []int
		for _, p := range k.Palettes {
			out = append(out, len(p.Colours))
		}
		return out
	}
	if err := a.Brand.StartPalette(t.Context(), m, kit, "tab", "Allotment"); err != nil {
		t.Fatal(err)
	}
	if err := a.Brand.StartPalette(t.Context(), m, kit, "tab", "Bakery at five"); err != nil {
		t.Fatal(err)
	}
	if got := fmt.Sprint(count()); got != "[5 5]" {
		t.Errorf("two palettes: %s", got)
	}
	if _, _, err := a.Documents.Undo(t.Context(), m, kit, "tab", false); err != nil || fmt.Sprint(count()) != "[5]" {
		t.Errorf("one undo leaves %v (%v)", count(), err)
	}
	var many []app.NewColour
	for i := range 300 {
		many = append(many, app.NewColour{Value: colour.RGB{R: uint8(i), G: uint8(i / 2), B: 7}})
	}
	if err := a.Brand.KeepColours(t.Context(), m, kit, "tab", many...); !errors.Is(err, app.ErrInvalid) || !strings.Contains(err.Error(), "at most 64") {
		t.Errorf("300 colours: %v", err)
	}
	if fmt.Sprint(count()) != "[5]" {
		t.Errorf("300 colours left %v", count())
	}
	if err := a.Brand.StartPalette(t.Context(), m, kit, "tab", "Nobody's"); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("no such palette: %v", err)
	}
}

func TestAFamilyIsOneStep(t *testing.T) {
	a, m, kit, _ := open(t)
	before, err := a.Store().Document(t.Context(), m.Workspace, kit)
	if err != nil {
		t.Fatal(err)
	}
	if err := a.Brand.SetFamilies(t.Context(), m, kit, "tab", "", "Young Serif", ""); err != nil {
		t.Fatal(err)
	}
	k, err := a.Kits.Kit(t.Context(), m, kit)
	if err != nil {
		t.Fatal(err)
	}
	set := k.TypeSets[0]
	if set.Levels[brand.Headline].Family != "Young Serif" || set.Levels[brand.Body].Family != "Figtree" || set.Levels[brand.Headline].Weight != 400 {
		t.Errorf("%+v", set.Levels)
	}
	if _, _, err := a.Documents.Undo(t.Context(), m, kit, "tab", false); err != nil {
		t.Fatal(err)
	}
	after, err := a.Store().Document(t.Context(), m.Workspace, kit)
	if err != nil || !bytes.Equal(before.Doc, after.Doc) {
		t.Errorf("undo leaves another document (%v)", err)
	}
}

// A brief written as a single card keeps what is of the brief out of its card.
func TestABriefOfOneCard(t *testing.T) {
	a, m, kit, _ := open(t)
	id, err := a.Briefs.ImportBrief(t.Context(), m, kit, []byte(`{"formatVersion":1,"headline":"Stilles Wasser","facts":[{"text":"Sechs Samstage"}],"language":"de",
		"palette":[{"hex":"#123456"}],"onlyPalette":true,"sample":{"headline":"Ruhiges Wasser"},"placements":["story"]}`))
	if err != nil {
		t.Fatal(err)
	}
	s, err := a.Sets.Set(t.Context(), m, id)
	if err != nil {
		t.Fatal(err)
	}
	b := s.Brief
	if b.Language != "de" || len(b.Palette) != 1 || !b.OnlyPalette || b.Sample["headline"] != "Ruhiges Wasser" || len(b.Cards) != 1 || *b.Cards[0].Headline != "Stilles Wasser" || len(b.Cards[0].Facts) != 1 {
		t.Errorf("%+v", b)
	}
}

func TestImportsAreChecked(t *testing.T) {
	a, m, kit, _ := open(t)
	for _, doc := range []string{`{`, `[]`, `{"formatVersion":3}`} {
		if _, err := a.Briefs.ImportBrief(t.Context(), m, kit, []byte(doc)); !errors.Is(err, app.ErrInvalid) {
			t.Errorf("brief %s: %v", doc, err)
		}
		if _, err := a.Kits.ImportKit(t.Context(), m, []byte(doc)); !errors.Is(err, app.ErrInvalid) {
			t.Errorf("kit %s: %v", doc, err)
		}
	}
	if _, err := a.Documents.Edit(t.Context(), m, kit, app.Change{Op: edit.Op{Path: "/color/main/river/$value", Value: []byte(`{"hex":"#zz"}`)}, Base: app.Latest}); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("a kit nobody could read: %v", err)
	}
}

func TestSignInTellsNothing(t *testing.T) {
	a, m, _, _ := open(t)
	if got, err := a.People.SignIn(t.Context(), " NELL@larkmoor.example ", "quiet water 2027"); err != nil || got.ID != m.ID {
		t.Errorf("%v", err)
	}
	_, wrong := a.People.SignIn(t.Context(), "nell@larkmoor.example", "quiet water 2028")
	_, nobody := a.People.SignIn(t.Context(), "nobody@larkmoor.example", "quiet water 2027")
	if !errors.Is(wrong, account.ErrSignIn) || wrong.Error() != nobody.Error() {
		t.Errorf("%v, %v", wrong, nobody)
	}
}
