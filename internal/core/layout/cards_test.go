package layout_test

import (
	"fmt"
	"math"
	"testing"

	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// cardLayout is a layout of one card of a shape in the middle of the band.
func cardLayout(t *testing.T, shape string, width float64) *layout.Layout {
	t.Helper()
	l, err := layout.Parse(fmt.Appendf(nil, `{"id":"x","name":"X","revision":1,"idea":"one card","align":"left","pictures":0,"buttonOn":"panel","areas":{"ground":0.4,"panel":0.5},
		"trees":{"square":{"cell":{"seat":"band","content":{"card":{"seat":"panel","shape":%q,"width":%g,"side":"center","content":{"stack":[{"text":"headline"},{"words":["subheading"],"before":2}]}},"v":"center"}}}}}`, shape, width))
	if err != nil {
		t.Fatal(err)
	}
	return l
}

// TestWordsStayInsideTheirShape: whatever the shape of a card, its words stand
// where the shape is whole: inside the circle of a badge, right of a tag's
// point, under a sheet's bound edge, above a bubble's tail.
func TestWordsStayInsideTheirShape(t *testing.T) {
	for shape, inside := range map[string]func(card, word spec.Rect) bool{
		"plain":  func(c, w spec.Rect) bool { return c.Contains(w, 0.6) },
		"label":  func(c, w spec.Rect) bool { return c.Inset(8).Contains(w, 0.6) },
		"ticket": func(c, w spec.Rect) bool { return c.Contains(w, 0.6) },
		"badge": func(c, w spec.Rect) bool {
			mx, my, r := c.X+c.W/2, c.Y+c.H/2, c.W/2*0.93
			for _, x := range []float64{w.X, w.Right()} {
				for _, y := range []float64{w.Y, w.Bottom()} {
					if math.Hypot(x-mx, y-my) > r {
						return false
					}
				}
			}
			return true
		},
		"tag":    func(c, w spec.Rect) bool { return c.Contains(w, 0.6) && w.X-c.X > 0.05*c.W },
		"sheet":  func(c, w spec.Rect) bool { return c.Contains(w, 0.6) && w.Y-c.Y > 0.05*c.H },
		"speech": func(c, w spec.Rect) bool { return c.Contains(w, 0.6) && c.Bottom()-w.Bottom() > 0.05*c.H },
	} {
		for _, size := range []string{"feed-square", "600x600", "1080x1000"} {
			for name, words := range map[string]map[string]string{
				"short": {"headline": "Float"},
				"usual": {"headline": "Quiet water, first strokes", "subheading": "Six Saturdays from 3 May"},
				"long":  {"headline": "Learn to read the river before it reads you", "subheading": "One quiet Saturday after another, in good company and borrowed boots"},
			} {
				r := layout.Solve(input(t, cardLayout(t, shape, 0.8), size, words))
				if r.Plain {
					if shape != "badge" { // a circle has the least room
						t.Errorf("%s on %s, %s copy: the plain layout stepped in", shape, size, name)
					}
					continue
				}
				var card *scene.Part
				for i, p := range r.Scene.Parts {
					if p.Slot == "card" && card == nil && p.Stroke == 0 {
						card = &r.Scene.Parts[i]
					}
				}
				for _, slot := range []string{"headline", "subheading"} {
					if w := part(r, slot); w != nil && !inside(card.Box, w.Box) {
						t.Errorf("%s on %s, %s copy: %s %v is not inside %v", shape, size, name, slot, w.Box, card.Box)
					}
				}
			}
		}
	}
}

// TestListsStandInTheirBlock: the marks of a list stand left of its words, rules
// between its items and not through them, also in a centred layout.
func TestListsStandInTheirBlock(t *testing.T) {
	words := map[string]string{"headline": "Three knots", "lines": "Bowline, for a loop that holds and still comes undone when it is wet\nClove hitch\nFigure of eight"}
	for _, id := range []string{"ledger", "note", "lines", "plate", "poster"} {
		r := layout.Solve(input(t, byID(t, id), "feed-square", words))
		list := part(r, "lines")
		if list == nil {
			t.Errorf("%s: no list, dropped %v", id, r.Dropped)
			continue
		}
		for _, p := range r.Scene.Parts {
			if p.Slot != "rule" || p.Box.Bottom() < list.Box.Y || p.Box.Y > list.Box.Bottom() {
				continue
			}
			if p.Box.W < 0.1*list.Box.W { // a mark
				if p.Box.Right() > list.Box.X+0.5 {
					t.Errorf("%s: a mark at %v touches the words at %v", id, p.Box, list.Box)
				}
				continue
			}
			for _, l := range list.Lines {
				ink := l.Line.Ink.Scale(list.Size(l))
				if y0, y1 := l.Y+ink.Y0, l.Y+ink.Y1; p.Box.Y < y1 && p.Box.Bottom() > y0 {
					t.Errorf("%s: a rule at %.0f runs through %q (%.0f to %.0f)", id, p.Box.Y, l.Line.Text, y0, y1)
				}
			}
		}
	}
}
