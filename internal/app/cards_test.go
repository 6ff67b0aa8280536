package app_test

import (
	"strings"
	"testing"

	"aspenridge/demo"
	"aspenridge/internal/app"
	"aspenridge/internal/core/edit"
)

// A post one swipes through shows every card where it goes, each written by
// itself; other places show the first.
func TestCardsOfASwipePost(t *testing.T) {
	a, m, _, brief := open(t)
	ctx := t.Context()
	for path, value := range map[string]string{"/placements": `["feed-square","card-tall"]`, "/cards/-": `{"headline":"Two knots to know"}`} {
		if _, err := a.Documents.Edit(ctx, m, brief, app.Change{Base: app.Latest, Op: edit.Op{Path: path, Value: []byte(value)}}); err != nil {
			t.Fatal(err)
		}
	}
	says := func() string {
		s, err := a.Sets.Set(ctx, m, brief)
		if err != nil {
			t.Fatal(err)
		}
		var out []string
		for _, pc := range s.Pieces() {
			for _, p := range pc.Scene.Parts {
				if p.Slot == "headline" {
					out = append(out, pc.Placement.ID+": "+p.Text)
				}
			}
		}
		return strings.Join(out, "; ")
	}
	cards, err := a.Sets.Set(ctx, m, brief)
	if err != nil {
		t.Fatal(err)
	}
	second := cards.Brief.Cards[1].ID
	if got := says(); got != "feed-square: Quiet water, first strokes; card-tall: Quiet water, first strokes; card-tall+2: Two knots to know" {
		t.Errorf("%s", got)
	}
	if _, err := a.Briefs.Write(ctx, m, brief, app.Change{Base: app.Latest}, second, "headline", "set", "Three knots to know"); err != nil {
		t.Fatal(err)
	}
	if _, err := a.Briefs.Write(ctx, m, brief, app.Change{Base: app.Latest}, "", "headline", "piece:card-tall", "Swipe for knots"); err != nil {
		t.Fatal(err)
	}
	if got := says(); got != "feed-square: Quiet water, first strokes; card-tall: Swipe for knots; card-tall+2: Three knots to know" {
		t.Errorf("%s", got)
	}
	s, err := a.Sets.Set(ctx, m, brief)
	if err != nil {
		t.Fatal(err)
	}
	plans, err := s.Plans(app.HandOver{})
	if err != nil || len(plans) != 3 || plans[2].Name("png") != "spring-beginners-course_card-tall_card2_1080x1350.png" {
		t.Errorf("%d files, the last %s, %v", len(plans), plans[len(plans)-1].Name("png"), err)
	}
	found := false
	for _, x := range s.Findings(s.Pieces()) {
		found = found || x.Code == "cards"
	}
	if !found { // the first card has a picture, the second has none
		t.Error("uneven cards are not found")
	}
	key := app.PieceKey(s.CurrentLook(), "card-tall+2")
	if _, err := a.Sets.Finish(ctx, m, brief, key); err != nil {
		t.Fatal(err)
	}
	done, err := a.Sets.Finished(ctx, m, brief)
	if err != nil || len(done) != 1 || done[key].Now == nil || done[key].Moved {
		t.Errorf("%d finished, %v", len(done), err)
	}
}

// TestTheNextPicture goes round the kit's pictures and the brief's own.
func TestTheNextPicture(t *testing.T) {
	a, m, _, brief := open(t)
	ctx := t.Context()
	first := func() string {
		s, err := a.Sets.Set(ctx, m, brief)
		if err != nil {
			t.Fatal(err)
		}
		return app.HashOf(s.Brief.Cards[0].Pictures[0].File)
	}
	for _, name := range []string{"noon-slack-water.svg", "lanterns-after-dark.svg"} {
		if err := a.Briefs.AddPicture(ctx, m, brief, "", "", name, []byte(demo.Pictures()[name])); err != nil {
			t.Fatal(err)
		}
	}
	began := first()
	seen := map[string]bool{}
	for range 8 {
		seen[first()] = true
		if _, err := a.Sets.Turn(ctx, m, brief, "", app.Step{What: "picture", By: 1}); err != nil {
			t.Fatal(err)
		}
		if first() == began {
			break
		}
	}
	if first() != began || len(seen) < 2 {
		t.Errorf("%d pictures seen, and not back at the first", len(seen))
	}
	if _, err := a.Sets.Turn(ctx, m, brief, "", app.Step{What: "picture", By: -1}); err != nil || first() == began {
		t.Errorf("the one before is the same, %v", err)
	}
}
