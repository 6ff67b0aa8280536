package app_test

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/raster"
	"aspenridge/internal/store"
	"aspenridge/test/stage"
)

func op(path, value string) edit.Op { return edit.Op{Path: path, Value: json.RawMessage(value)} }

// Whatever changes a kit, no kit that follows it is left unreadable: not by an
// edit, an undo, a restore or two people at once.
func TestNoChangeBreaksAFollower(t *testing.T) {
	a, m, _, _ := open(t)
	ctx := t.Context()
	kit := func(name string) app.ID {
		t.Helper()
		id, err := a.Kits.NewKit(ctx, m, name)
		if err != nil {
			t.Fatal(err)
		}
		return id
	}
	follow := func(child, parent app.ID) error { return a.Kits.Follow(ctx, m, child, "tab", parent.String()) }
	// a chain as long as may be
	chain := []app.ID{kit("0")}
	for i := range brand.MaxGenerations {
		chain = append(chain, kit(fmt.Sprint(i+1)))
		if err := follow(chain[i+1], chain[i]); err != nil {
			t.Fatalf("generation %d: %v", i+1, err)
		}
	}
	if err := follow(chain[0], kit("above")); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("the root of %d generations follows one more: %v", brand.MaxGenerations, err)
	}
	if _, err := a.Kits.Kit(ctx, m, chain[len(chain)-1]); err != nil {
		t.Errorf("the last of the chain: %v", err)
	}
	// undo that would close a circle
	x, y := kit("x"), kit("y")
	if err := follow(x, y); err != nil {
		t.Fatal(err)
	}
	if err := a.Kits.Follow(ctx, m, x, "tab", ""); err != nil {
		t.Fatal(err)
	}
	if err := follow(y, x); err != nil {
		t.Fatal(err)
	}
	if _, _, err := a.Documents.Undo(ctx, m, x, "tab", false); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("an undo closed a circle: %v", err)
	}
	// two kits that begin to follow each other at once
	for n := range 6 {
		p, q := kit("p"), kit("q")
		var wg sync.WaitGroup
		wg.Go(func() { _ = follow(p, q) })
		wg.Go(func() { _ = follow(q, p) })
		wg.Wait()
		for _, id := range []app.ID{p, q} {
			if _, err := a.Kits.Kit(ctx, m, id); err != nil {
				t.Fatalf("round %d: %v", n, err)
			}
		}
	}
	// forty colours here and forty there
	colours := func(prefix string) string {
		var b strings.Builder
		for i := range 40 {
			fmt.Fprintf(&b, `,"%s%d":{"$value":"#%02x%02x40"}`, prefix, i, i*6, len(prefix)*70)
		}
		return `{"$type":"color"` + b.String() + `}`
	}
	parent, child := kit("parent"), kit("child")
	for id, v := range map[app.ID]string{parent: colours("p"), child: colours("cc")} {
		if _, err := a.Documents.Edit(ctx, m, id, app.Change{Base: app.Latest, Op: op("/color/main", v)}); err != nil {
			t.Fatal(err)
		}
	}
	if err := follow(child, parent); err != nil {
		t.Fatalf("forty colours and forty: %v", err)
	}
	k, err := a.Kits.Kit(ctx, m, child)
	if err != nil {
		t.Fatal(err)
	}
	if n := len(k.Palettes[0].Colours); n != brand.MaxColours || len(k.Warnings) == 0 {
		t.Errorf("%d colours joined, warnings %v", n, k.Warnings)
	}
	if _, err := a.Documents.Desk(ctx, m, 50); err != nil {
		t.Error(err)
	}
}

// Cards are added by two at once up to their number, and no further.
func TestTheLastCardOnce(t *testing.T) {
	a, m, _, id := open(t)
	var wg sync.WaitGroup
	for range 40 {
		wg.Go(func() {
			_, _ = a.Documents.Edit(t.Context(), m, id, app.Change{Base: app.Latest, Client: "x", Op: op("/cards/-", `{"headline":"x"}`)})
		})
	}
	wg.Wait()
	s, err := a.Sets.Set(t.Context(), m, id)
	if err != nil || len(s.Brief.Cards) != brief.MaxCards {
		t.Fatalf("%v", err)
	}
}

// A member taken away in one tab is not found by another tab under somebody
// else's place.
func TestMergesHitTheirMember(t *testing.T) {
	a, m, _, id := open(t)
	ctx := t.Context()
	for _, reach := range []string{"piece:story", "piece:feed-tall"} {
		if _, err := a.Briefs.Write(ctx, m, id, app.Change{Base: app.Latest, Client: "one"}, "", "headline", reach, "For "+reach); err != nil {
			t.Fatal(err)
		}
	}
	s, err := a.Sets.Set(ctx, m, id)
	if err != nil {
		t.Fatal(err)
	}
	base := s.Doc.Seq
	first, second := s.Brief.Adjustments[0], s.Brief.Adjustments[1]
	if _, err := a.Sets.Lift(ctx, m, id, "one", first.Reach, first.Slot, first.Property); err != nil {
		t.Fatal(err)
	}
	// another tab, on the old base, changes the second: by its id it is found, and
	// by the place it stood at the change is refused or finds it, too
	if _, err := a.Documents.Edit(ctx, m, id, app.Change{Base: base, Client: "two", Op: op("/adjustments/@"+second.ID+"/value", `"Mine"`)}); err != nil {
		t.Fatal(err)
	}
	_, err = a.Documents.Edit(ctx, m, id, app.Change{Base: base, Client: "two", Op: op("/adjustments/@"+first.ID+"/value", `"Wrong"`)})
	var conflict *store.Conflict
	if !errors.As(err, &conflict) {
		t.Errorf("changing what was taken away: %v", err)
	}
	s, err = a.Sets.Set(ctx, m, id)
	if err != nil || len(s.Brief.Adjustments) != 1 || s.Brief.Adjustments[0].Text() != "Mine" || s.Brief.Adjustments[0].Reach != second.Reach {
		t.Errorf("%+v, %v", s.Brief.Adjustments, err)
	}
	// the same place set by two tabs at once is one adjustment
	for _, tab := range []string{"three", "four"} {
		if _, err := a.Briefs.Write(ctx, m, id, app.Change{Base: app.Latest, Client: tab}, "", "body", "piece:story", "by "+tab); err != nil {
			t.Fatal(err)
		}
	}
	if _, err := a.Sets.Lift(ctx, m, id, "one", "piece:story", "body", "text"); err != nil {
		t.Fatal(err)
	}
	if s, err = a.Sets.Set(ctx, m, id); err != nil || len(s.Brief.Adjustments) != 1 {
		t.Errorf("after lifting it there is %+v", s.Brief.Adjustments)
	}
}

// A look that is let go takes its id with it.
func TestLookIDsAreNeverUsedAgain(t *testing.T) {
	a, m, _, id := open(t)
	ctx := t.Context()
	s, err := a.Sets.Set(ctx, m, id)
	if err != nil {
		t.Fatal(err)
	}
	seen := map[string]bool{s.Looks[0].ID: true}
	looks := s.Job.Looks(8)
	for n := range 5 {
		kept, err := a.Sets.KeepLook(ctx, m, id, "", looks[n+2], true)
		if err != nil {
			t.Fatal(err)
		}
		if seen[kept] {
			t.Fatalf("id %q came back", kept)
		}
		seen[kept] = true
		if _, err := a.Sets.Finish(ctx, m, id); err != nil {
			t.Fatal(err)
		}
		switch n % 3 {
		case 0:
			err = a.Sets.LetLookGo(ctx, m, id, "", kept)
		case 1: // the keeping is undone: the next one is another look all the same
			_, _, err = a.Documents.Undo(ctx, m, id, "", false)
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	done, err := a.Sets.Finished(ctx, m, id)
	if err != nil {
		t.Fatal(err)
	}
	if s, err = a.Sets.Set(ctx, m, id); err != nil {
		t.Fatal(err)
	}
	for _, pc := range s.PiecesIn(s.Looks[0]) {
		if _, ok := done[app.PieceKey(pc.Look, pc.Placement.ID)]; ok {
			t.Errorf("%s is finished in a look nobody finished", pc.Placement.ID)
		}
	}
}

// Words typed on a piece stay on it, whichever of the two headlines it shows.
func TestTypedWordsStay(t *testing.T) {
	a, m, _, id := open(t)
	ctx := t.Context()
	if _, err := a.Documents.Edit(ctx, m, id, app.Change{Base: app.Latest, Op: op("/cards/0/shortHeadline", `"Short one"`)}); err != nil {
		t.Fatal(err)
	}
	headline := func(place string) string {
		t.Helper()
		s, err := a.Sets.Set(ctx, m, id)
		if err != nil {
			t.Fatal(err)
		}
		p, err := s.Channels.Parse(place)
		if err != nil {
			t.Fatal(err)
		}
		for _, part := range s.Piece(s.CurrentLook(), p).Scene.Parts {
			if part.Slot == "headline" {
				return part.Text
			}
		}
		return ""
	}
	const small, large = "ad-320x50", "feed-square"
	if got := headline(small); got != "Short one" {
		t.Fatalf("the small piece says %q", got)
	}
	for _, c := range []struct{ field, place, text string }{
		{"shortHeadline", small, "Typed short"}, {"headline", large, "Typed long"},
	} {
		if _, err := a.Briefs.Write(ctx, m, id, app.Change{Base: app.Latest}, "", c.field, "piece:"+c.place, c.text); err != nil {
			t.Fatal(err)
		}
		if got := headline(c.place); got != c.text {
			t.Errorf("%s typed on %s: it says %q", c.field, c.place, got)
		}
	}
	// a headline typed for the small piece itself counts there
	if _, err := a.Briefs.Write(ctx, m, id, app.Change{Base: app.Latest}, "", "headline", "piece:ad-728x90", "Meant for here"); err != nil {
		t.Fatal(err)
	}
	if got := headline("ad-728x90"); !strings.HasPrefix(got, "Meant for") {
		t.Errorf("it says %q", got)
	}
}

// Two servers on one database show the same, whatever changes in either.
func TestTwoServersSeeTheSame(t *testing.T) {
	st, database, drop, err := stage.NewStore(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(drop)
	dir := t.TempDir()
	servers := make([]*app.App, 2)
	for i := range servers {
		if i > 0 {
			if st, err = store.Open(t.Context(), database, 0); err != nil {
				t.Fatal(err)
			}
			t.Cleanup(st.Close)
		}
		servers[i] = over(t, st, dir)
	}
	one, two := servers[0], servers[1]
	ctx := t.Context()
	m, err := one.People.SignUp(ctx, "Ada", "a@one.example", "ten or more letters")
	if err != nil {
		t.Fatal(err)
	}
	first, err := one.Kits.NewKit(ctx, m, "First")
	if err != nil {
		t.Fatal(err)
	}
	second, err := one.Kits.NewKit(ctx, m, "Second")
	if err != nil {
		t.Fatal(err)
	}
	id, err := one.Briefs.NewBrief(ctx, m, first)
	if err != nil {
		t.Fatal(err)
	}
	same := func(what string) {
		t.Helper()
		var kits, heads [2]string
		for i, a := range servers {
			s, err := a.Sets.Set(ctx, m, id)
			if err != nil {
				t.Fatal(err)
			}
			kits[i], heads[i] = s.Kit.Name, fmt.Sprint(s.Brief.Cards[0].Words(s.Kit.Kit, s.Brief.Language), len(s.Channels.Own))
		}
		if kits[0] != kits[1] || heads[0] != heads[1] {
			t.Errorf("%s: one shows %v %v, the other %v %v", what, kits[0], heads[0], kits[1], heads[1])
		}
	}
	same("at first")
	if err := one.Briefs.UseKit(ctx, m, id, second); err != nil {
		t.Fatal(err)
	}
	same("another kit")
	if err := two.Kits.Follow(ctx, m, second, "", first.String()); err != nil {
		t.Fatal(err)
	}
	same("a kit follows")
	if _, err := one.Documents.Edit(ctx, m, first, app.Change{Base: app.Latest, Op: op("/$extensions/aspenridge/tagline", `"From above"`)}); err != nil {
		t.Fatal(err)
	}
	same("a parent's words")
	if err := two.Places.AddChannel(ctx, m, "", "Boathouse"); err != nil {
		t.Fatal(err)
	}
	same("a channel")
	if err := one.Briefs.UseKit(ctx, m, id, first); err != nil {
		t.Fatal(err)
	}
	if err := two.Briefs.UseKit(ctx, m, id, second); err != nil {
		t.Fatal(err)
	}
	same("back and forth")
}

// Comparing a brief in another state of its kit shows it with its places, its
// kept looks and its own colours.
func TestASetInAnotherKitIsWhole(t *testing.T) {
	a, m, kit, id := open(t)
	ctx := t.Context()
	if _, err := a.Documents.Edit(ctx, m, id, app.Change{Base: app.Latest, Op: op("/palette", `[{"hex":"#123456"}]`)}); err != nil {
		t.Fatal(err)
	}
	s, err := a.Sets.Set(ctx, m, id)
	if err != nil {
		t.Fatal(err)
	}
	k, err := a.Kits.Kit(ctx, m, kit)
	if err != nil {
		t.Fatal(err)
	}
	w := a.Sets.With(s, k)
	if len(w.Pieces()) != len(s.Pieces()) || len(w.AllLooks()) != len(s.AllLooks()) || len(w.Job.Kit.Colours()) != len(s.Job.Kit.Colours()) {
		t.Errorf("%d pieces, %d looks, %d colours", len(w.Pieces()), len(w.AllLooks()), len(w.Job.Kit.Colours()))
	}
	if _, err := w.Plans(app.HandOver{Look: "all"}); err != nil {
		t.Error(err)
	}
}

// Replacing a logo changes the kit and every brief that asks for it, or nothing.
func TestReplacingALogoIsOneChange(t *testing.T) {
	a, m, kit, id := open(t)
	ctx := t.Context()
	k, err := a.Kits.Kit(ctx, m, kit)
	if err != nil {
		t.Fatal(err)
	}
	l := k.Logos[0]
	if _, err := a.Sets.SetLogo(ctx, m, id, "", "set", l.File); err != nil {
		t.Fatal(err)
	}
	check := a.Store().Check
	a.Store().Check = func(ctx context.Context, r store.Reader, c store.Checked) error {
		if c.Document.Kind == "brief" {
			return errors.New("the brief cannot change")
		}
		return check(ctx, r, c)
	}
	const square = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 10 10"><rect x="1" y="1" width="8" height="8" fill="#F2694B"/></svg>`
	if err := a.Brand.ReplaceLogo(ctx, m, kit, "", l.ID, "square.svg", []byte(square)); err == nil {
		t.Fatal("it went through")
	}
	a.Store().Check = check
	if k, err = a.Kits.Kit(ctx, m, kit); err != nil || k.Logos[0].File != l.File {
		t.Errorf("half of it was made: %v", err)
	}
}

// A kit that is brought in pieces is on no list until it is whole.
func TestAKitThatFailsHalfwayIsNotThere(t *testing.T) {
	a, m, _, _ := open(t)
	count := func() int {
		_, n, err := a.Kits.FindKits(t.Context(), m, store.KitQuery{Limit: 50})
		if err != nil {
			t.Fatal(err)
		}
		return n
	}
	before := count()
	check := a.Store().Check
	a.Store().Check = func(ctx context.Context, r store.Reader, c store.Checked) error {
		if c.Before != nil {
			return errors.New("the client has left")
		}
		return check(ctx, r, c)
	}
	if _, err := a.Kits.BringKit(t.Context(), m, "colours.txt", []byte("River #0f3d4c")); err == nil {
		t.Fatal("it went through")
	}
	a.Store().Check = check
	if n := count(); n != before {
		t.Errorf("%d kits are left of it", n-before)
	}
}

// Fonts taken in before faces were proven are proven when they are used; one that
// does not hold is said, and the kit opens without it.
func TestOldFontsAreProvenWhenTheyAreUsed(t *testing.T) {
	a, m, kit, _ := open(t)
	ctx := t.Context()
	good, err := os.ReadFile(filepath.Join("../../assets/fonts/bitter-800.ttf"))
	if err != nil {
		t.Fatal(err)
	}
	in, err := raster.ImportFont(ctx, good)
	if err != nil {
		t.Fatal(err)
	}
	in.Facts.Proof = 0
	for name, data := range map[string][]byte{"good.ttf": good, "bad.ttf": append(bytes.Clone(good[:300]), bytes.Repeat([]byte{0xff}, 5000)...)} {
		hash, err := a.Blobs().Put(ctx, data)
		if err != nil {
			t.Fatal(err)
		}
		facts, _ := json.Marshal(in.Facts)
		if err := a.Store().PutFile(ctx, m.ID, store.File{Workspace: m.Workspace, Hash: hash, Kind: "font", Name: name, Type: "font/sfnt", Facts: facts}); err != nil {
			t.Fatal(err)
		}
		if _, err := a.Documents.Edit(ctx, m, kit, app.Change{Base: app.Latest, Op: op("/$extensions/aspenridge/fonts/-", fmt.Sprintf(`{"file":%q}`, hash+"/"+name))}); err != nil {
			t.Fatal(err)
		}
	}
	k, err := a.Kits.Kit(ctx, m, kit)
	if err != nil {
		t.Fatal(err)
	}
	said := strings.Join(k.Warnings, "; ")
	if !strings.Contains(said, "cannot be used") {
		t.Errorf("nothing is said of the broken font: %q", said)
	}
	for i, f := range k.Fonts {
		data, err := a.Brand.FontFile(ctx, m, app.HashOf(f.File))
		if ok := strings.HasSuffix(f.File, "/good.ttf"); ok != (err == nil) {
			t.Errorf("font %d (%s): %v", i, f.File, err)
		} else if ok && bytes.Equal(data, good) {
			t.Error("what is handed out is the upload, not what was proven")
		}
	}
}

// TestNamesOfDocumentsAreOneLine: no name turns around what stands beside it in a list or mail
// (UAX #9), however it comes: by a change it is refused, in a file from elsewhere it is cleaned.
func TestNamesOfDocumentsAreOneLine(t *testing.T) {
	a, m, kit, brief := open(t)
	ctx := t.Context()
	for id, path := range map[app.ID]string{kit: "/$extensions/aspenridge/name", brief: "/name"} {
		kind := map[app.ID]string{kit: "kit", brief: "brief"}[id]
		for _, bad := range []string{`"a\nb"`, `"gnp.\u202eexe"`, `"x\u2066y"`, `"b\u0007"`} {
			if _, err := a.Documents.Edit(ctx, m, id, app.Change{Kind: kind, Client: "tab", Base: app.Latest, Op: op(path, bad)}); !errors.Is(err, app.ErrInvalid) {
				t.Errorf("a %s is called %s: %v", kind, bad, err)
			}
		}
		for _, good := range []string{`"Spring "`, `"Ａ ب \u200fא"`, `""`} {
			if _, err := a.Documents.Edit(ctx, m, id, app.Change{Kind: kind, Client: "tab", Base: app.Latest, Op: op(path, good)}); err != nil {
				t.Errorf("a %s is called %s: %v", kind, good, err)
			}
		}
	}
	id, err := a.Kits.NewKit(ctx, m, "one\n\u202etwo")
	if err != nil {
		t.Fatal(err)
	}
	if k, err := a.Kits.Kit(ctx, m, id); err != nil || k.Name != "one two" {
		t.Errorf("it is called %q, %v", k.Name, err)
	}
}
