package app_test

import (
	"testing"

	"aspenridge/internal/app"
	"aspenridge/internal/core/edit"
)

// Several looks live in one brief: each is changed, finished and let go by
// itself.
func TestKeptLooksLiveSideBySide(t *testing.T) {
	a, m, _, brief := open(t)
	ctx := t.Context()
	set := standing(t, a, m, brief)
	first := set().CurrentLook()
	proposed := set().Job.Looks(9)
	second := proposed[7]
	if second.Same(first) {
		second = proposed[8]
	}
	id, err := a.Sets.KeepLook(ctx, m, brief, "", second, false)
	if err != nil || id == "" {
		t.Fatalf("%q %v", id, err)
	}
	if again, err := a.Sets.KeepLook(ctx, m, brief, "", second, false); err != nil || again != id {
		t.Errorf("kept twice: %q %v", again, err)
	}
	if s := set(); len(s.Looks) != 2 || !s.CurrentLook().Same(first) {
		t.Fatalf("%d kept, shown is not the first", len(s.Looks))
	}
	if _, err := a.Sets.Finish(ctx, m, brief); err != nil {
		t.Fatal(err)
	}
	if err := a.Sets.ShowLook(ctx, m, brief, "", id); err != nil {
		t.Fatal(err)
	}
	done, err := a.Sets.Finished(ctx, m, brief)
	if err != nil {
		t.Fatal(err)
	}
	for _, pc := range set().Pieces() {
		if _, ok := done[app.PieceKey(pc.Look, pc.Placement.ID)]; ok {
			t.Errorf("%s is finished in the second look too", pc.Placement.ID)
		}
	}
	// turning the layout changes the look that is shown, and only that one
	if _, err := a.Sets.Turn(ctx, m, brief, "", app.Step{What: "layout", By: 1}); err != nil {
		t.Fatal(err)
	}
	s := set()
	if s.CurrentLook().Same(second) || s.CurrentLook().ID != id || !s.Looks[0].Same(first) {
		t.Errorf("after a step: %+v", s.Looks)
	}
	done, err = a.Sets.Finished(ctx, m, brief)
	if err != nil {
		t.Fatal(err)
	}
	for key, f := range done {
		if f.Now == nil || f.Moved {
			t.Errorf("finished %s moved though its look did not", key)
		}
	}
	if n, err := a.Sets.Finish(ctx, m, brief, app.PieceKey(s.CurrentLook(), "story")); err != nil || n != 1 {
		t.Errorf("finishing one piece of the second look: %d %v", n, err)
	}
	if err := a.Sets.LetLookGo(ctx, m, brief, "", id); err != nil {
		t.Fatal(err)
	}
	if s := set(); len(s.Looks) != 1 || !s.CurrentLook().Same(first) {
		t.Errorf("after letting go: %+v", s.Looks)
	}
	if _, _, err := a.Documents.Undo(ctx, m, brief, "", false); err != nil {
		t.Fatal(err)
	}
	if s := set(); len(s.Looks) != 2 {
		t.Errorf("undo brought back %d looks", len(s.Looks))
	}
	if err := a.Sets.ShowLook(ctx, m, brief, "", "q"); err == nil {
		t.Error("a look that is not kept was shown")
	}
}

// What is typed on pieces that show a look nobody has kept keeps it: with a picture the
// best look would be another after some keys. One step takes the words and the look back.
func TestTypingKeepsWhatIsShown(t *testing.T) {
	a, m, _, brief := open(t)
	ctx := t.Context()
	set := standing(t, a, m, brief)
	if _, err := a.Documents.Edit(ctx, m, brief, app.Change{Kind: "brief", Base: app.Latest, Op: edit.Op{Path: "/looks", Value: []byte("[]")}}); err != nil {
		t.Fatal(err)
	}
	before := set()
	was, words := before.CurrentLook(), *before.Brief.Cards[0].Headline
	for _, typed := range []string{"R", "Ri", "River days for those who have never held a paddle in their hands"} {
		if _, err := a.Briefs.Write(ctx, m, brief, app.Change{Client: "tab", Base: app.Latest, Typing: true}, "", "headline", "set", typed); err != nil {
			t.Fatal(err)
		}
		if now := set(); len(now.Looks) != 1 || !now.CurrentLook().Same(was) || *now.Brief.Cards[0].Headline != typed {
			t.Fatalf("%q: %d looks kept, the same: %v", typed, len(now.Looks), now.CurrentLook().Same(was))
		}
	}
	if set().Brief.Cards[0].ShortOf == nil {
		t.Error("the short headline does not know what it was written for")
	}
	if _, _, err := a.Documents.Undo(ctx, m, brief, "tab", false); err != nil {
		t.Fatal(err)
	}
	if s := set(); len(s.Looks) != 0 || *s.Brief.Cards[0].Headline != words || !s.CurrentLook().Same(was) {
		t.Errorf("taken back: %d looks, %q", len(s.Looks), *s.Brief.Cards[0].Headline)
	}
	if _, _, err := a.Documents.Undo(ctx, m, brief, "tab", true); err != nil {
		t.Fatal(err)
	}
	if s := set(); len(s.Looks) != 1 || !s.CurrentLook().Same(was) || *s.Brief.Cards[0].Headline == words {
		t.Errorf("put back: %d looks, %q", len(s.Looks), *s.Brief.Cards[0].Headline)
	}
	// on Start, where looks are still looked for, nothing is kept
	if _, err := a.Documents.Edit(ctx, m, brief, app.Change{Kind: "brief", Base: app.Latest, Op: edit.Op{Path: "/looks", Value: []byte("[]")}}); err != nil {
		t.Fatal(err)
	}
	card := set().Brief.Cards[0].ID
	if _, err := a.Briefs.EditBrief(ctx, m, brief, app.Change{Client: "tab", Base: app.Latest, Op: edit.Op{Path: "/cards/@" + card + "/headline", Value: []byte(`"Other words"`)}}); err != nil {
		t.Fatal(err)
	}
	if s := set(); len(s.Looks) != 0 {
		t.Error("Start keeps a look")
	}
}
