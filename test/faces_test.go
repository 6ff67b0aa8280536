package test

import (
	"fmt"
	"slices"
	"testing"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/test/sweep"
)

// TestFirstLooksHarmNobody: in the first twelve looks of briefs with people in the picture no face is
// cut, gone from a body that is shown or is covered, in any of the places of the brief.
func TestFirstLooksHarmNobody(t *testing.T) {
	groups := map[string][][4]float64{ // where faces are in pictures of 3:2, fractions
		"two":     {{0.25, 0.2, 0.13, 0.22}, {0.6, 0.25, 0.14, 0.2}},
		"three":   {{0.74, 0.15, 0.15, 0.23}, {0.41, 0.34, 0.15, 0.2}, {0.19, 0.31, 0.15, 0.19}},
		"four":    {{0.74, 0.2, 0.16, 0.19}, {0.1, 0.34, 0.16, 0.18}, {0.58, 0.23, 0.15, 0.18}, {0.33, 0.23, 0.13, 0.15}},
		"stacked": {{0.15, 0.64, 0.17, 0.22}, {0.7, 0.31, 0.14, 0.18}, {0.54, 0.16, 0.14, 0.17}, {0.28, 0.33, 0.13, 0.17}},
		"one":     {{0.4, 0.12, 0.17, 0.24}},
	}
	copies := composedCopy()
	for i, c := range []struct{ kit, copy, group string }{
		{"gym", "event", "stacked"}, {"roaster", "offer", "two"}, {"lawyers", "german", "three"}, {"bakery", "product", "four"}, {"yoga", "quote", "one"}, {"florist", "event", "two"},
	} {
		if !sweep.Turn(i+1, 2) {
			continue
		}
		t.Run(c.kit+" "+c.group, func(t *testing.T) {
			t.Parallel()
			job := kitJob(t, c.kit, 1)
			br := copies[c.copy]
			br.Cards = slices.Clone(br.Cards)
			br.Cards[0].Pictures = []brief.Picture{{File: "people.jpg", Alt: "people"}}
			br.Placements = []string{"feed-square", "feed-tall", "story", "feed-wide", "video-thumbnail"}
			pic := photo.Picture{Hash: fmt.Sprint("people", i), W: 3000, H: 2000}
			for _, box := range groups[c.group] {
				pic.Subjects = append(pic.Subjects, photo.Subject{Kind: photo.Face, Box: box, Weight: 1})
			}
			b := groups[c.group][0]
			pic.Focus = [2]float64{b[0] + b[2]/2, b[1] + b[3]/2}
			job.Brief, job.Pictures = &br, map[string]photo.Picture{"people.jpg": pic}
			shown := 0
			for _, look := range job.Looks(12) {
				for _, id := range br.Placements {
					p, _ := spec.Find(id)
					faces, harmed := facesOf(job.Compose(look, p, 0).Scene, pic)
					if shown += faces; harmed != "" {
						t.Errorf("%s on %s: %s", look.Layout, id, harmed)
					}
				}
			}
			if shown < 30 {
				t.Errorf("%d faces are shown in sixty pieces", shown)
			}
		})
	}
}

// facesOf counts the faces a piece shows, and says which one it harms.
func facesOf(s *scene.Scene, pic photo.Picture) (shown int, harmed string) {
	for i, p := range s.Parts {
		if p.Kind != scene.KindPicture || p.Picture != pic.Hash {
			continue
		}
		for _, f := range pic.FacesIn(p.Crop, p.Box) {
			lost := 1 - f.Share(p.Box)
			below := spec.Rect{X: f.X + f.W/4, Y: f.Bottom(), W: f.W / 2, H: f.H}
			switch {
			case lost > 0.9 && (f.Bottom() > p.Box.Y || below.Intersect(p.Box).Empty()):
				continue
			case lost > 0.1:
				return shown, fmt.Sprintf("the face at %.0f, %.0f is cut", f.X, f.Y)
			}
			shown++
			for _, o := range s.Parts[i+1:] {
				over := (o.Solid() || o.Words() || o.Kind == scene.KindPicture) && f.Share(o.Box) > 0.12
				if over || o.Slot == "fade" && o.Opacity(f.X+f.W/2, f.Y+f.H/2) > 0.45 {
					return shown, fmt.Sprintf("%s covers the face at %.0f, %.0f", o.Slot, f.X, f.Y)
				}
			}
		}
	}
	return shown, ""
}
