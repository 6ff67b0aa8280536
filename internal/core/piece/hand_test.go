package piece_test

import (
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"aspenridge/internal/core/adjust"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/preflight"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// What was changed by hand and finds nothing to hold on to any more is said, what is
// unreadable, off the canvas or overlapping by hand is pointed out; none of it is an
// error, and all of it can be lifted.
func TestHandWorkIsPointedOut(t *testing.T) {
	p, _ := spec.Find("feed-square")
	for code, doc := range map[string]string{
		"colour-gone": `{"reach":"set","slot":"headline","property":"highlight","value":"color.main.gone"}`,
		"hand-lost":   `{"reach":"class:square","slot":"headline","property":"breaks","value":[{"after":1,"word":"Nowhere"}]}`,
		"added-gone":  `{"reach":"set","slot":"added-a","property":"part","value":{"kind":"picture","file":"gone.png","at":[0.5,0.5],"size":[0.2,0.2]}}`,
		"contrast":    `{"reach":"set","slot":"headline","property":"highlight","value":"#777777"}`,
		"clipped":     `{"reach":"class:square","slot":"headline","property":"offset","value":[0.6,0]}`,
		"overlap":     `{"reach":"class:square","slot":"subheading","property":"offset","value":[0,-0.2]}`,
		"too-small":   `{"reach":"class:square","slot":"headline","property":"scale","value":0.05}`,
	} {
		j := testJob(t)
		var adj brief.Adjustment
		if err := json.Unmarshal([]byte(doc), &adj); err != nil {
			t.Fatal(err)
		}
		if err := adj.Check(); err != nil {
			t.Fatal(err)
		}
		look := j.Looks(1)[0]
		if before := j.Compose(look, p, 0).Findings; slices.ContainsFunc(before, func(f preflight.Finding) bool { return f.Code == code }) {
			t.Fatalf("%s is found before anything was changed: %+v", code, before)
		}
		j.Brief.Adjustments = []brief.Adjustment{adj}
		found := j.Compose(look, p, 0).Findings
		i := slices.IndexFunc(found, func(f preflight.Finding) bool { return f.Code == code })
		if i < 0 {
			t.Errorf("%s is not found: %+v", code, found)
			continue
		}
		if code != "added-gone" && !slices.Contains(found[i].Fixes, "lift") {
			t.Errorf("%s cannot be lifted: %+v", code, found[i])
		}
		if slices.ContainsFunc(found, func(f preflight.Finding) bool { return f.Severity == preflight.Error }) {
			t.Errorf("%s by hand is an error: %+v", code, found)
		}
		if preflight.Why(code) == "" {
			t.Errorf("nobody says why %s matters", code)
		}
	}
}

// Of two parts moved onto one headline both are pointed out.
func TestTwoPartsOnOneHeadline(t *testing.T) {
	p, _ := spec.Find("feed-square")
	j := testJob(t)
	look := j.Looks(1)[0]
	head := headlineOf(j.Compose(look, p, 0))
	for _, part := range j.Compose(look, p, 0).Scene.Parts {
		if part.Slot == "subheading" || part.Slot == "callToAction" {
			to := [2]float64{(head.Box.X - part.Box.X) / 1080, (head.Box.Y - part.Box.Y) / 1080}
			value, _ := json.Marshal(to)
			j.Brief.Adjustments = append(j.Brief.Adjustments, brief.Adjustment{Reach: "class:square", Slot: part.Slot, Property: "offset", Value: value})
		}
	}
	on := map[string]bool{}
	for _, f := range j.Compose(look, p, 0).Findings {
		if f.Code == "overlap" {
			on[f.Slot] = true
		}
	}
	if !on["subheading"] || !on["callToAction"] {
		t.Errorf("on the headline: %v", on)
	}
}

// A word made larger is set with the others anew: lines, their breaks and sizes, in every
// layout and shape, so that nothing lands on something else.
func TestALargerWordIsSetWithTheOthers(t *testing.T) {
	j := testJob(t)
	value := json.RawMessage(`[{"from":1,"to":2,"words":"water,","scale":1.8}]`)
	larger := []brief.Adjustment{{Reach: "set", Slot: "headline", Property: "runs", Value: value}}
	looks := j.Looks(60)
	pieces, kept := 0, 0.0
	for _, name := range []string{"feed-square", "story", "video-thumbnail", "feed-tall"} {
		p, ok := spec.Find(name)
		if !ok {
			t.Fatal(name)
		}
		for _, look := range looks {
			j.Brief.Adjustments = nil
			before := j.Compose(look, p, 0)
			j.Brief.Adjustments = larger
			after := j.Compose(look, p, 0)
			was, is := headlineOf(before), headlineOf(after)
			if was == nil || is == nil {
				continue
			}
			largest := 0.0
			for _, l := range is.Lines {
				largest = max(largest, is.Size(l))
			}
			pieces++
			kept += largest / was.SizePx
			for _, f := range after.Findings {
				if (f.Code == "clipped" || f.Code == "overlap") && !slices.ContainsFunc(before.Findings, func(g preflight.Finding) bool { return g.Code == f.Code }) {
					t.Errorf("%s in %s: %s", look.Layout, name, f.Message)
				}
			}
		}
	}
	if pieces < 200 {
		t.Fatalf("only %d pieces", pieces)
	}
	// set where the lines were, it was 1.2 times as large
	if mean := kept / float64(pieces); mean < 1.3 {
		t.Errorf("of %d pieces the larger word is %.3f times as large as the headline was", pieces, mean)
	}
}

// A headline given another width is broken anew for it: at its size, from the side it is aligned
// to and from its first line on, and nothing else of the piece changes.
func TestWordsTakeAnotherWidth(t *testing.T) {
	j := testJob(t)
	looks := j.Looks(24)
	pieces, changed := 0, 0
	for _, name := range []string{"feed-square", "story"} {
		p, _ := spec.Find(name)
		for _, look := range looks {
			j.Brief.Adjustments = nil
			before := j.Compose(look, p, 0)
			was := headlineOf(before)
			if was == nil || adjust.Sides([]scene.Part{*was}) != "across" || was.Lines[0].SizePx > 0 {
				continue
			}
			for _, times := range []float64{0.6, 1.5} {
				j.Brief.Adjustments = []brief.Adjustment{{Reach: "piece:" + name, Slot: "headline", Property: "sides", Value: json.RawMessage(fmt.Sprintf("[%v,1]", times))}}
				after := j.Compose(look, p, 0)
				is := headlineOf(after)
				pieces++
				if times < 1 && len(is.Lines) != len(was.Lines) {
					changed++
				}
				words := ""
				for _, l := range is.Lines {
					words += " " + strings.TrimSpace(l.Line.Text)
					if wide := (l.Line.Ink.X1 - l.Line.Ink.X0) * is.SizePx; wide > times*was.Box.W+1 && strings.Contains(strings.TrimSpace(l.Line.Text), " ") {
						t.Errorf("%s in %s, %v times as wide: %q is %.0f px, the headline was %.0f", look.Layout, name, times, l.Line.Text, wide, was.Box.W)
					}
				}
				if got, want := strings.Join(strings.Fields(words), " "), strings.Join(strings.Fields(is.Text), " "); got != want {
					t.Errorf("%s in %s: %q is drawn of %q", look.Layout, name, got, want)
				}
				side := map[string][2]float64{"start": {was.Box.X, is.Box.X}, "end": {was.Box.Right(), is.Box.Right()}, "middle": {was.Box.X + was.Box.W/2, is.Box.X + is.Box.W/2}}[is.Align]
				if is.SizePx != was.SizePx || math.Abs(is.Lines[0].Y-was.Lines[0].Y) > 0.02 || math.Abs(side[0]-side[1]) > 0.1 {
					t.Errorf("%s in %s, %v times as wide: %.1f px at %v, was %.1f px at %v", look.Layout, name, times, is.SizePx, is.Box, was.SizePx, was.Box)
				}
				for i, q := range after.Scene.Parts {
					if q.Slot != "headline" && q.Box != before.Scene.Parts[i].Box {
						t.Errorf("%s in %s: %s has moved", look.Layout, name, q.Slot)
					}
				}
			}
		}
	}
	if pieces < 60 || changed < pieces/3 {
		t.Errorf("of %d pieces %d have other lines at 0.6 of their width", pieces, changed)
	}
}

func headlineOf(p piece.Piece) *scene.Part {
	for i := range p.Scene.Parts {
		if p.Scene.Parts[i].Slot == "headline" {
			return &p.Scene.Parts[i]
		}
	}
	return nil
}
