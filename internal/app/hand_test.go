package app_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strconv"
	"strings"
	"testing"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/preflight"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// boxOf is where a slot stands on a piece, nothing where it is not on it.
func boxOf(t *testing.T, a *app.App, m app.Member, id app.ID, placement, slot string) spec.Rect {
	t.Helper()
	s, err := a.Sets.Set(t.Context(), m, id)
	if err != nil {
		t.Fatal(err)
	}
	p, err := spec.Parse(placement)
	if err != nil {
		t.Fatal(err)
	}
	for _, part := range s.Piece(s.CurrentLook(), p).Scene.Parts {
		if part.Slot == slot && part.Kind != scene.KindShape {
			return part.Box
		}
	}
	return spec.Rect{}
}

// What is changed by hand reaches as far as was said; a wider change afterwards is seen,
// since the narrower one gives way; what was changed can reach further.
func TestHandWorkReaches(t *testing.T) {
	a, m, _, id := open(t)
	hand := func(placement string, edits ...app.HandEdit) error {
		_, err := a.Sets.ByHand(t.Context(), m, id, app.Change{Client: "tab", Base: app.Latest}, placement, edits)
		return err
	}
	must := func(err error) {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
	}
	at := func(placement string) float64 { return boxOf(t, a, m, id, placement, "headline").Y }
	tall, square, board := at("feed-tall"), at("feed-square"), at("board-tall")
	value := func(s string) json.RawMessage { return json.RawMessage(s) }

	must(hand("feed-tall", app.HandEdit{Reach: "piece:feed-tall", Slot: "headline", Property: "offset", Value: value(`[0,-0.1]`)}))
	if got := at("feed-tall"); got != tall-108 || at("feed-square") != square {
		t.Errorf("moved up by a tenth of 1080 px, from %v to %v; the square one from %v to %v", tall, got, square, at("feed-square"))
	}
	must(hand("feed-tall", app.HandEdit{Reach: "class:tall", Slot: "headline", Property: "offset", Value: value(`[0,-0.02]`)}))
	if got := at("feed-tall"); got < tall-22 || got > tall-21 || at("feed-square") != square {
		t.Errorf("for tall ones it stands at %v, before %v", got, tall)
	}
	if at("board-tall") == board {
		t.Error("another tall one did not follow")
	}
	if _, err := a.Sets.ReachFurther(t.Context(), m, id, app.Change{Client: "tab", Base: app.Latest}, "feed-tall", "headline", "class:tall", "piece:feed-tall"); err != nil {
		t.Fatal(err)
	}
	if at("board-tall") != board {
		t.Error("it reaches this piece alone now, and another one is still moved")
	}
	must(func() error {
		_, err := a.Sets.LiftAll(t.Context(), m, id, app.Change{Client: "tab", Base: app.Latest}, "feed-tall")
		return err
	}())
	if at("feed-tall") != tall {
		t.Errorf("back to the rule it stands at %v, before %v", at("feed-tall"), tall)
	}

	// clear answers, and nothing is changed by them
	for name, e := range map[string]app.HandEdit{
		"too far":              {Reach: "piece:feed-tall", Slot: "headline", Property: "offset", Value: value(`[1e9,0]`)},
		"too wide a reach":     {Reach: "set", Slot: "headline", Property: "rotate", Value: value(`3`)},
		"no such property":     {Reach: "set", Slot: "headline", Property: "blink", Value: value(`true`)},
		"no number":            {Reach: "class:tall", Slot: "headline", Property: "scale", Value: value(`"NaN"`)},
		"nothing to give back": {Reach: "set", Slot: "headline", Property: "fill"},
	} {
		if err := hand("feed-tall", e); !errors.Is(err, app.ErrInvalid) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if err := hand("nowhere", app.HandEdit{Reach: "set", Slot: "headline", Property: "fill", Value: value(`"#112233"`)}); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("of a place there is not: %v", err)
	}
	viewer := m
	viewer.Role = "viewer"
	if _, err := a.Sets.ByHand(t.Context(), viewer, id, app.Change{Base: app.Latest}, "feed-tall", []app.HandEdit{{Reach: "set", Slot: "headline", Property: "fill", Value: value(`"#112233"`)}}); !errors.Is(err, app.ErrNotAllowed) {
		t.Errorf("by a viewer: %v", err)
	}

	// what is unreadable by hand is pointed out, and going back is one step
	must(hand("feed-tall", app.HandEdit{Reach: "piece:feed-tall", Slot: "headline", Property: "highlight", Value: value(`"#FFFFFF"`)}, app.HandEdit{Reach: "piece:feed-tall", Slot: "headline", Property: "fill", Value: value(`"#FFFFFE"`)}))
	s, err := a.Sets.Set(t.Context(), m, id)
	must(err)
	p, _ := spec.Parse("feed-tall")
	i := slices.IndexFunc(s.Piece(s.CurrentLook(), p).Findings, func(f preflight.Finding) bool { return f.Code == "contrast" && f.Slot == "headline" })
	if i < 0 || s.Piece(s.CurrentLook(), p).Findings[i].Severity != "warning" {
		t.Fatalf("white on white: %+v", s.Piece(s.CurrentLook(), p).Findings)
	}
	did, err := a.Sets.Fix(t.Context(), m, id, "tab", "contrast", "headline")
	must(err)
	if s, err = a.Sets.Set(t.Context(), m, id); err != nil || len(s.Brief.Adjustments) != 0 {
		t.Errorf("put right (%v): %+v %v", did, s.Brief.Adjustments, err)
	}
}

// randomEdit is any change by hand that is allowed.
func randomEdit(rng *rand.Rand) app.HandEdit {
	values := map[string][]string{
		"offset": {fmt.Sprintf(`[%.4f,%.4f]`, rng.Float64()-0.5, rng.Float64()-0.5)}, "scale": {fmt.Sprintf(`%.4f`, 0.3+2*rng.Float64())}, "rotate": {fmt.Sprintf(`%.1f`, 360*rng.Float64()-180)},
		"crop": {`[0.2,0.1,0.5,0.6]`}, "hidden": {`true`, `false`}, "opacity": {`0.4`}, "order": {`-2`, `1`}, "fill": {`"color.main.coral"`, `"#345678"`, `"color.main.none"`}, "flip": {`"across"`},
		"sides": {`[0.4,1.7]`, `[3,1]`}, "fit": {`"whole"`, `"wide"`},
		"level": {`"caption"`, `"headline"`}, "family": {`"Karla"`, `"No Such Face"`}, "weight": {`300`, `900`}, "case": {`"upper"`}, "align": {`"middle"`, `"end"`}, "tracking": {`0.1`}, "leading": {`1.6`},
		"breaks": {`[1]`, `[{"after":2,"word":"water,"}]`}, "highlight": {`"#FFEEDD"`}, "band": {`"#112233"`, `"color.main.coral"`}, "whole": {`[0.4,0.3,0.3,0.4]`}, "name": {`"Ours"`}, "outline": {`{"fill":"#000000","width":0.05}`}, "shadow": {`{"fill":"color.main.coral","x":0.1,"y":0.1}`},
		"frame": {`"arch"`, `"ticket"`, `"icon:heart"`, `"icon:no such icon"`}, "border": {`{"fill":"#000000","width":0.02}`},
		"part": {`{"kind":"shape","name":"burst","at":[0.3,0.3],"size":[0.2,0.2]}`, `{"kind":"words","text":"New","level":"body","at":[0.6,0.3],"size":[0.2,0.1]}`, `{"kind":"icon","name":"heart","at":[0.1,0.9],"size":[0.1,0.1]}`, `{"kind":"pattern","name":"dots","at":[0.5,0.5],"size":[2,1]}`},
	}
	slots := []string{"headline", "subheading", "body", "callToAction", "logo", "picture", "panel", "ground", "card2", "website", "nothing"}
	for {
		p := brief.Properties[rng.IntN(len(brief.Properties))]
		list := values[p.Name]
		if len(list) == 0 {
			continue
		}
		e := app.HandEdit{Slot: slots[rng.IntN(len(slots))], Property: p.Name, Value: json.RawMessage(list[rng.IntN(len(list))])}
		if p.Name == "part" {
			e.Slot = fmt.Sprintf("added-%d", rng.IntN(4))
		}
		reaches := []string{"piece:feed-tall", "piece:story", "class:square", "class:tall", "channel:social-feed", "set"}
		if p.Widest == brief.PerShape {
			reaches = reaches[:4]
		}
		e.Reach = reaches[rng.IntN(len(reaches))]
		return e
	}
}

// Any sequence of changes by hand taken back is the start byte for byte, put back the
// end; the set is drawn after every one, and stands copy, kit and places that change.
func TestHandWorkIsTakenBack(t *testing.T) {
	a, m, _, id := open(t)
	ctx := t.Context()
	rng := rand.New(rand.NewPCG(11, 13))
	document := func() string {
		t.Helper()
		s, err := a.Sets.Set(ctx, m, id)
		if err != nil {
			t.Fatal(err)
		}
		return string(s.Doc.Doc)
	}
	draw := func() {
		t.Helper()
		s, err := a.Sets.Set(ctx, m, id)
		if err != nil {
			t.Fatal(err)
		}
		for _, pc := range s.Pieces() {
			for _, p := range pc.Scene.Parts {
				if b := p.Box; b.X != b.X || b.W < 0 || b.W > 1e6 {
					t.Fatalf("%s of %s stands at %+v", p.Slot, pc.Placement.ID, b)
				}
			}
		}
	}
	start := document()
	steps := 0
	for range 60 {
		edits := []app.HandEdit{randomEdit(rng)}
		if rng.IntN(4) == 0 {
			edits = append(edits, randomEdit(rng))
		}
		if _, err := a.Sets.ByHand(ctx, m, id, app.Change{Client: "tab", Base: app.Latest}, "feed-tall", edits); err != nil {
			t.Fatalf("%s: %v", edits, err)
		}
		steps++
		if rng.IntN(6) == 0 {
			draw()
		}
	}
	end := document()
	for range steps {
		if _, _, err := a.Documents.Undo(ctx, m, id, "tab", false); err != nil {
			t.Fatal(err)
		}
	}
	if got := document(); got != start {
		t.Errorf("taken back it is\n%s\nnot\n%s", got, start)
	}
	for range steps {
		if _, _, err := a.Documents.Undo(ctx, m, id, "tab", true); err != nil {
			t.Fatal(err)
		}
	}
	if got := document(); got != end {
		t.Errorf("put back it is\n%s\nnot\n%s", got, end)
	}

	// what was changed by hand goes through JSON, and stands other words and places
	doc, err := edit.ParseObject([]byte(end))
	if err != nil {
		t.Fatal(err)
	}
	if _, err := brief.Parse(doc); err != nil {
		t.Errorf("read again: %v", err)
	}
	for _, words := range []string{"Go", "", strings.Repeat("Kanukurs für Anfängerinnen ", 12), "رحلة هادئة على النهر"} {
		if _, err := a.Briefs.Write(ctx, m, id, app.Change{Client: "tab", Base: app.Latest}, "", "headline", "set", words); err != nil {
			t.Fatal(err)
		}
		draw()
	}
	if _, err := a.Documents.Edit(ctx, m, id, app.Change{Kind: "brief", Client: "tab", Base: app.Latest, Op: edit.Op{Path: "/placements", Value: json.RawMessage(`["ad-728x90","profile-picture","ad-160x600","feed-wide"]`)}}); err != nil {
		t.Fatal(err)
	}
	draw()
}

// Three hundred added parts are there, and go, each in one step.
func TestManyPartsComeAndGoInOneStep(t *testing.T) {
	a, m, _, id := open(t)
	ctx := t.Context()
	var come, gone []app.HandEdit
	for i := range 300 {
		slot := fmt.Sprintf("added-n%d", i)
		part := fmt.Sprintf(`{"kind":"shape","name":"circle","at":[%.2f,%.2f],"size":[0.02,0.02]}`, float64(i%20)/20, float64(i/20)/15)
		come = append(come, app.HandEdit{Reach: "piece:story", Slot: slot, Property: "part", Value: json.RawMessage(part)})
		gone = append(gone, app.HandEdit{Reach: "piece:story", Slot: slot, Property: "part"})
	}
	p, _ := spec.Parse("story")
	if _, err := a.Sets.ByHand(ctx, m, id, app.Change{Base: app.Latest}, "story", come); err != nil {
		t.Fatal(err)
	}
	s, err := a.Sets.Set(ctx, m, id)
	if err != nil {
		t.Fatal(err)
	}
	if got := len(s.Brief.Added(p)); got != 300 || len(s.Piece(s.CurrentLook(), p).Scene.Parts) < 300 {
		t.Errorf("300 parts were added, there are %d", got)
	}
	if _, err := a.Sets.ByHand(ctx, m, id, app.Change{Base: app.Latest}, "story", gone); err != nil {
		t.Fatal(err)
	}
	if s, err := a.Sets.Set(ctx, m, id); err != nil || len(s.Brief.Added(p)) != 0 {
		t.Errorf("%d are left, %v", len(s.Brief.Added(p)), err)
	}
}

// Another try begins as the piece was changed by hand and is changed alone; its place goes
// with the set wherever that goes.
func TestAnotherTryIsAPieceOfItsOwn(t *testing.T) {
	a, m, _, id := open(t)
	ctx := t.Context()
	turn := func(placement, value string) {
		t.Helper()
		if _, err := a.Sets.ByHand(ctx, m, id, app.Change{Base: app.Latest}, placement, []app.HandEdit{{Reach: "piece:" + placement, Slot: "headline", Property: "rotate", Value: json.RawMessage(value)}}); err != nil {
			t.Fatal(err)
		}
	}
	turned := func(placement string) float64 {
		t.Helper()
		s, err := a.Sets.Set(ctx, m, id)
		if err != nil {
			t.Fatal(err)
		}
		for _, pc := range s.Pieces() {
			if pc.Placement.ID == placement {
				return s.Brief.Hands(pc.Placement)["headline"].Rotate
			}
		}
		t.Fatalf("%s is not in the set", placement)
		return 0
	}
	turn("feed-tall", "7")
	made, err := a.Sets.Variant(ctx, m, id, app.Change{Base: app.Latest}, "feed-tall")
	if err != nil || made != "feed-tall~b" {
		t.Fatalf("%q, %v", made, err)
	}
	if turned(made) != 7 {
		t.Errorf("it begins turned by %v", turned(made))
	}
	turn(made, "-3")
	if turned(made) != -3 || turned("feed-tall") != 7 {
		t.Errorf("one is turned by %v, the other by %v", turned("feed-tall"), turned(made))
	}
	// one that was taken out begins anew, not as it was left
	s, err := a.Sets.Set(ctx, m, id)
	if err != nil {
		t.Fatal(err)
	}
	var rest []string
	for _, p := range s.Placements() {
		if p.Variant == "" {
			rest = append(rest, p.ID)
		}
	}
	list, _ := json.Marshal(rest)
	if _, err := a.Documents.Edit(ctx, m, id, app.Change{Kind: "brief", Base: app.Latest, Op: edit.Op{Path: "/placements", Value: list}}); err != nil {
		t.Fatal(err)
	}
	for n := range spec.Variants {
		if made, err = a.Sets.Variant(ctx, m, id, app.Change{Base: app.Latest}, "feed-tall"); err != nil || made != "feed-tall~"+spec.Variants[n] {
			t.Fatalf("%q, %v", made, err)
		}
	}
	if turned("feed-tall~b") != 7 {
		t.Errorf("put in again it is turned by %v", turned("feed-tall~b"))
	}
	if _, err := a.Sets.Variant(ctx, m, id, app.Change{Base: app.Latest}, "feed-tall"); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("one more than there are letters: %v", err)
	}
}

// A set is seen as it was after any step; one part is taken from there, and the rest stays.
func TestOnePartIsTakenFromThePast(t *testing.T) {
	a, m, _, id := open(t)
	ctx := t.Context()
	turn := func(slot, value string) {
		t.Helper()
		if _, err := a.Sets.ByHand(ctx, m, id, app.Change{Base: app.Latest}, "feed-tall", []app.HandEdit{{Reach: "piece:feed-tall", Slot: slot, Property: "rotate", Value: json.RawMessage(value)}}); err != nil {
			t.Fatal(err)
		}
	}
	set := standing(t, a, m, id)
	p, _ := spec.Parse("feed-tall")
	words := *set().Brief.Cards[0].Headline
	turn("headline", "5")
	turn("logo", "6")
	turn("headline", "15")
	if _, err := a.Briefs.Write(ctx, m, id, app.Change{Base: app.Latest}, "", "headline", "set", "Other words"); err != nil {
		t.Fatal(err)
	}
	if _, _, err := a.Documents.Undo(ctx, m, id, "", false); err != nil {
		t.Fatal(err)
	}
	list, err := a.Documents.Past(ctx, m, set(), app.PastAtOnce)
	if err != nil {
		t.Fatal(err)
	}
	type state struct {
		headline, logo float64
		words          string
	}
	var got []state
	for _, at := range list {
		then, err := a.Sets.AtPast(ctx, m, set(), at.Seq)
		if err != nil {
			t.Fatal(err)
		}
		hands := then.Brief.Hands(p)
		s := state{words: *then.Brief.Cards[0].Headline}
		if h := hands["headline"]; h != nil {
			s.headline = h.Rotate
		}
		if h := hands["logo"]; h != nil {
			s.logo = h.Rotate
		}
		got = append(got, s)
	}
	want := []state{{15, 6, "Other words"}, {15, 6, words}, {5, 6, words}, {5, 0, words}}
	if len(got) < 4 || !slices.Equal(got[:4], want) {
		t.Fatalf("step by step it was %+v, want %+v", got, want)
	}
	// the headline of the latest step, which was taken back, with its words
	if _, err := a.Sets.TakePart(ctx, m, id, app.Change{Base: app.Latest}, "feed-tall", "headline", list[0].Seq); err != nil {
		t.Fatal(err)
	}
	if got := *set().Brief.Cards[0].Headline; got != "Other words" {
		t.Errorf("the words taken are %q", got)
	}
	list, err = a.Documents.Past(ctx, m, set(), app.PastAtOnce)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := a.Sets.TakePart(ctx, m, id, app.Change{Base: app.Latest}, "feed-tall", "headline", list[3].Seq); err != nil {
		t.Fatal(err)
	}
	if h := set().Brief.Hands(p); h["headline"].Rotate != 5 || h["logo"].Rotate != 6 || *set().Brief.Cards[0].Headline != words {
		t.Errorf("headline %v, logo %v, %q", h["headline"].Rotate, h["logo"].Rotate, *set().Brief.Cards[0].Headline)
	}
	if _, err := a.Sets.TakePart(ctx, m, id, app.Change{Base: app.Latest}, "feed-tall", "headline", 99999); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("a step there was not: %v", err)
	}
}

// The whole set goes back to the rule in one step: what was changed of how parts are
// drawn; words, pictures and what was added stay.
func TestTheWholeSetGoesBackToTheRule(t *testing.T) {
	a, m, _, id := open(t)
	ctx := t.Context()
	c := app.Change{Base: app.Latest}
	if _, err := a.Sets.LiftEverything(ctx, m, id, c); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("with nothing changed: %v", err)
	}
	value := func(s string) json.RawMessage { return json.RawMessage(s) }
	for _, e := range []app.HandEdit{
		{Reach: "piece:story", Slot: "headline", Property: "rotate", Value: value(`4`)}, {Reach: "set", Slot: "headline", Property: "level", Value: value(`"body"`)},
		{Reach: "class:tall", Slot: "body", Property: "hidden", Value: value(`true`)}, {Reach: "set", Slot: "headline", Property: "text", Value: value(`"Kept"`)},
		{Reach: "set", Slot: "added-a", Property: "part", Value: value(`{"kind":"shape","name":"circle","at":[0.5,0.5],"size":[0.1,0.1]}`)},
	} {
		if _, err := a.Sets.ByHand(ctx, m, id, c, "story", []app.HandEdit{e}); err != nil {
			t.Fatal(err)
		}
	}
	if _, err := a.Sets.LiftEverything(ctx, m, id, c); err != nil {
		t.Fatal(err)
	}
	s, err := a.Sets.Set(ctx, m, id)
	if err != nil {
		t.Fatal(err)
	}
	var left []string
	for _, adj := range s.Brief.Adjustments {
		left = append(left, adj.Property)
	}
	if slices.Sort(left); !slices.Equal(left, []string{"part", "text"}) {
		t.Errorf("left is %v", left)
	}
}

// TestTheWholePastIsThere: more changes than a list shows at once can be listed, looked at and gone
// back over, to how the brief began.
func TestTheWholePastIsThere(t *testing.T) {
	a, m, _, id := open(t)
	ctx := t.Context()
	set := func() *app.Set {
		t.Helper()
		s, err := a.Sets.Set(ctx, m, id)
		if err != nil {
			t.Fatal(err)
		}
		return s
	}
	began := set().Brief.Name
	for i := range app.PastAtOnce + 20 {
		c := app.Change{Kind: "brief", Client: fmt.Sprint("tab ", i), Base: app.Latest, Op: edit.Op{Path: "/name", Value: json.RawMessage(strconv.Quote(fmt.Sprint("name ", i)))}}
		if _, err := a.Documents.Edit(ctx, m, id, c); err != nil {
			t.Fatal(err)
		}
	}
	first, err := a.Documents.Past(ctx, m, set(), app.PastAtOnce)
	if err != nil {
		t.Fatal(err)
	}
	all, err := a.Documents.Past(ctx, m, set(), 2*app.PastAtOnce)
	if err != nil || len(first) != app.PastAtOnce || len(all) < app.PastAtOnce+20 {
		t.Fatalf("%d changes, then %d: %v", len(first), len(all), err)
	}
	early := all[len(all)-2].Seq
	then, err := a.Sets.AtPast(ctx, m, set(), early)
	if err != nil || then.Brief.Name == set().Brief.Name {
		t.Errorf("how it was at change %d cannot be seen: %v", early, err)
	}
	if err := a.Documents.GoTo(ctx, m, id, "tab", 0, app.Latest); err != nil {
		t.Fatal(err)
	}
	if now := set().Brief.Name; now != began {
		t.Errorf("at its beginning the brief is called %q, it was %q", now, began)
	}
}
