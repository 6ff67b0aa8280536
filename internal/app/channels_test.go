package app_test

import (
	"errors"
	"slices"
	"strings"
	"testing"

	"aspenridge/internal/app"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/preflight"
)

// A channel of one's own is a place like any other: named in a brief, composed
// in its safe area, taken along and brought in elsewhere.
func TestOwnChannels(t *testing.T) {
	a, m, _, brief := open(t)
	ctx := t.Context()
	must := func(err error) {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
	}
	must(a.Places.AddChannel(ctx, m, "", "Boat club newsletter"))
	must(a.Places.AddPlacement(ctx, m, "", "boat-club-newsletter", "Notice card", "10 x 15 cm at 150 dpi"))
	must(a.Places.ChangeChannels(ctx, m, "", edit.Op{Path: "/channels/0/placements/0/safe", Value: []byte(`[60,40,200,40]`)}))
	c, err := a.Places.Channels(ctx, m)
	must(err)
	if len(c.Own) != 1 || c.Own[0].ID != "boat-club-newsletter" || c.Own[0].Placements[0].ID != "notice-card" {
		t.Fatalf("%+v", c.Own)
	}
	_, err = a.Documents.Edit(ctx, m, brief, app.Change{Base: app.Latest, Op: edit.Op{Path: "/placements", Value: []byte(`["feed-square","notice-card"]`)}})
	must(err)
	s, err := a.Sets.Set(ctx, m, brief)
	must(err)
	pieces := s.Pieces()
	if len(pieces) != 2 || pieces[1].Placement.ChannelName != "Boat club newsletter" {
		t.Fatalf("%d pieces", len(pieces))
	}
	for _, p := range pieces[1].Scene.Parts {
		if p.Words() && p.Box.Bottom() > 886-200+0.6 {
			t.Errorf("%s stands in what the channel covers", p.Slot)
		}
	}
	// a change of the channel reaches the set
	must(a.Places.ChangeChannels(ctx, m, "", edit.Op{Path: "/channels/0/placements/0/width", Value: []byte(`800`)}))
	if s, err = a.Sets.Set(ctx, m, brief); err != nil || s.Placements()[1].Width != 800 {
		t.Errorf("the set still has %d px, %v", s.Placements()[1].Width, err)
	}
	if err := a.Places.ChangeChannels(ctx, m, "", edit.Op{Path: "/channels/0/placements/0/width", Value: []byte(`30000`)}); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("30,000 px: %v", err)
	}
	out, err := a.Places.ExportChannels(ctx, m)
	must(err)
	// one's own export always comes back in, and is what is there
	must(a.Places.ChangeChannels(ctx, m, "", edit.Op{Path: "/channels/0/placements/0/width", Value: []byte(`640`)}))
	if added, replaced, err := a.Places.BringChannels(ctx, m, "", out); err != nil || added != 0 || replaced != 1 {
		t.Errorf("the same channels again: %d added, %d replaced, %v", added, replaced, err)
	}
	if c, err = a.Places.Channels(ctx, m); err != nil || len(c.Own) != 1 || c.Own[0].Placements[0].Width != 800 {
		t.Errorf("after that there are %+v, %v", c.Own, err)
	}
	other, om, _, _ := open(t)
	if added, replaced, err := other.Places.BringChannels(ctx, om, "", out); err != nil || added != 1 || replaced != 0 {
		t.Errorf("elsewhere %d channels come in, %d are replaced, %v", added, replaced, err)
	}
	must(a.Places.KeepCombination(ctx, m, "", "Every week", []string{"story", "notice-card"}))
	must(a.Places.KeepCombination(ctx, m, "", "Every week", []string{"story"}))
	if c, err = a.Places.Channels(ctx, m); err != nil || len(c.Combinations) != 1 || len(c.Combinations[0].Placements) != 1 {
		t.Errorf("%+v %v", c.Combinations, err)
	}
}

// TestFixesAreOneUndoableStep puts several findings right at once.
func TestFixesAreOneUndoableStep(t *testing.T) {
	a, m, _, brief := open(t)
	ctx := t.Context()
	for path, value := range map[string]string{
		"/cards/0/headline": `"QUIET WATER, FIRST STROKES"`, "/cards/0/subheading": `"Your text here"`, "/cards/0/when": `{"date":"2027-05-28","weekday":"Monday"}`, "/signature": `"none"`, "/cards/0/callToAction": `""`,
	} {
		if _, err := a.Documents.Edit(ctx, m, brief, app.Change{Base: app.Latest, Op: edit.Op{Path: path, Value: []byte(value)}}); err != nil {
			t.Fatal(err)
		}
	}
	codes := func() []string {
		s, err := a.Sets.Set(ctx, m, brief)
		if err != nil {
			t.Fatal(err)
		}
		var out []string
		for _, x := range s.Findings(s.Pieces()) {
			if x.Severity != preflight.Note && !slices.Contains(out, x.Code) {
				out = append(out, x.Code)
			}
		}
		slices.Sort(out)
		return out
	}
	if got := strings.Join(codes(), " "); got != "capitals no-action no-address sample weekday" {
		t.Fatalf("found %q", got)
	}
	if did, err := a.Sets.Fix(ctx, m, brief, "", "capitals", "headline"); err != nil || len(did) != 1 || !strings.Contains(did[0], "Quiet water, first strokes") {
		t.Fatalf("%q %v", did, err)
	}
	if shown(t, a, m, brief, "feed-tall", "headline") != "Quiet water, first strokes" {
		t.Errorf("the headline is %q", shown(t, a, m, brief, "feed-tall", "headline"))
	}
	if n, err := a.Sets.Fix(ctx, m, brief, "", "", ""); err != nil || len(n) < 4 {
		t.Fatalf("all: %q %v", n, err)
	}
	if got := codes(); len(got) != 0 {
		t.Errorf("left: %v", got)
	}
	if _, _, err := a.Documents.Undo(ctx, m, brief, "", false); err != nil {
		t.Fatal(err)
	}
	if got := strings.Join(codes(), " "); got != "no-action no-address sample weekday" {
		t.Errorf("after one undo: %q", got)
	}
	if _, err := a.Sets.Fix(ctx, m, brief, "", "overlap", "headline"); !errors.Is(err, app.ErrNoFix) {
		t.Errorf("what cannot be fixed: %v", err)
	}
}

// TestAnExampleFillsABrief shows each example in the kit and begins from one.
func TestAnExampleFillsABrief(t *testing.T) {
	a, m, _, brief := open(t)
	s, err := a.Sets.Set(t.Context(), m, brief)
	if err != nil {
		t.Fatal(err)
	}
	all := app.FindExamples("", "")
	if len(all) < 30 {
		t.Fatalf("%d examples", len(all))
	}
	for _, e := range all {
		job, look := a.Briefs.Example(s, e)
		for _, p := range s.Placements()[:3] {
			pc := job.Compose(look, p, 0)
			if pc.Layout.ID != e.Layout {
				t.Errorf("%s on %s: %s stepped in for %s", e.ID, p.ID, pc.Layout.ID, e.Layout)
			}
			if preflight.Worst(pc.Findings) == preflight.Error {
				t.Errorf("%s on %s: %+v", e.ID, p.ID, pc.Findings[0])
			}
		}
	}
	if found := app.FindExamples("event", "lant"); len(found) != 1 || found[0].ID != "lantern-night" {
		t.Errorf("%d found", len(found))
	}
	pictures := len(s.Brief.Cards[0].Pictures)
	if err := a.Briefs.BeginFrom(t.Context(), m, brief, "", "lantern-night"); err != nil {
		t.Fatal(err)
	}
	if s, err = a.Sets.Set(t.Context(), m, brief); err != nil {
		t.Fatal(err)
	}
	if s.Brief.Purpose != "event" || s.Brief.Cards[0].When == nil || len(s.Brief.Cards[0].Pictures) != pictures {
		t.Errorf("%+v", s.Brief.Cards[0])
	}
	if !slices.ContainsFunc(s.Findings(s.Pieces()), func(x app.SetFinding) bool { return x.Code == "sample" && x.Fixable }) {
		t.Error("the example's lines are not found as such")
	}
	if err := a.Briefs.BeginFrom(t.Context(), m, brief, "", "no such"); !errors.Is(err, app.ErrNotFound) {
		t.Error(err)
	}
}

// TestAPieceOfItsOwn gives one piece another layout, colours and picture.
func TestAPieceOfItsOwn(t *testing.T) {
	a, m, _, brief := open(t)
	ctx := t.Context()
	layouts := func() (square, story string) {
		s, err := a.Sets.Set(ctx, m, brief)
		if err != nil {
			t.Fatal(err)
		}
		for _, pc := range s.Pieces() {
			switch pc.Placement.ID {
			case "feed-square":
				square = pc.Layout.ID
			case "story":
				story = pc.Layout.ID
			}
		}
		return square, story
	}
	before, _ := layouts()
	step := app.Step{What: "layout", By: 1, Reach: "piece:feed-square", Placement: "feed-square"}
	if _, err := a.Sets.Turn(ctx, m, brief, "", step); err != nil {
		t.Fatal(err)
	}
	square, story := layouts()
	if square == before || story != before {
		t.Errorf("square %s, story %s, before %s", square, story, before)
	}
	step.Reach, step.What = "channel:social-feed", "colourway"
	if _, err := a.Sets.Turn(ctx, m, brief, "", step); err != nil {
		t.Fatal(err)
	}
	if _, err := a.Sets.Lift(ctx, m, brief, "", "piece:feed-square", "look", "layout"); err != nil {
		t.Fatal(err)
	}
	if square, _ = layouts(); square != before {
		t.Errorf("back to the rule gives %s", square)
	}
	step.What, step.Reach = "type", "piece:story"
	if _, err := a.Sets.Turn(ctx, m, brief, "", step); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("type for a piece alone: %v", err)
	}
}
