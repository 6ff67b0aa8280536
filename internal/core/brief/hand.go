package brief

import (
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"slices"
	"strings"
)

// Hand is what was changed by hand of one slot on one placement: of every property the
// value with the narrowest reach. The zero value changes nothing.
type Hand struct {
	// any part
	Offset  [2]float64 // from the solved place, in fractions of the short side
	Scale   float64    // times, about the middle of the solved place; 0 for 1
	Rotate  float64    // degrees clockwise, about the same
	Hidden  bool
	Opacity float64 // 0-1; 0 for 1
	Order   *int    // steps up (down, below 0) in the order of drawing
	Fill    string  // token or #hex; empty for the rule
	Flip    string  // across, down or both; empty for neither

	Sides [2]float64 // width and height, times those solved; 0 for 1. Words take the width alone
	Fit   string     // whole, wide or high: the edges of the piece it reaches to; empty for none

	// words
	Level     string
	Family    string
	Weight    int
	Case      string  // upper or typed
	Align     string  // start, middle or end
	Tracking  float64 // em
	Leading   float64 // times the size
	Breaks    []Break
	FactsAs   string // list, row or figures; empty is as the layout has them
	Runs      []Run
	Highlight string // token or #hex of blocks behind the lines
	Band      string // the same of a band behind them, from edge to edge
	Outline   *Edge  // along the letters
	Shadow    *Shadow

	// pictures
	Crop    [4]float64 // x, y, w, h as fractions of the picture; no width for the rule
	Whole   [4]float64 // what of it is kept whole, in the same way
	Frame   string     // one of [Frames], or [IconFrame] and a name
	Border  *Edge
	Dials   scene.Dials
	Duotone *Duotone

	Group string // what is taken hold of together

	Moving *Movement // of a piece

	reach map[string]string // by property
}

// Edge is a line around something: its colour and its width, in fractions of the type
// size around letters and of the short side around pictures.
type Edge struct {
	Fill  string  `json:"fill"`
	Width float64 `json:"width"`
}

// Shadow is a copy of letters cast aside, in fractions of the type size.
type Shadow struct {
	Fill string  `json:"fill"`
	X    float64 `json:"x"`
	Y    float64 `json:"y"`
}

// Duotone draws a picture in the colours between two.
type Duotone struct {
	Dark  string `json:"dark"`
	Light string `json:"light"`
}

// Style is a style with what was changed by hand of it.
func (h *Hand) Style(s brand.Style) brand.Style {
	if h == nil {
		return s
	}
	if h.Family != "" {
		s.Family, s.Small = h.Family, nil
	}
	if h.Weight != 0 {
		s.Weight, s.Small = h.Weight, nil
	}
	if h.Case != "" {
		s.Upper = h.Case == "upper"
	}
	if h.Reach("tracking") != "" {
		s.Tracking = h.Tracking
	}
	if h.Leading != 0 {
		s.LineHeight = h.Leading
	}
	return s
}

// Reaches ranks how far an adjustment reaches, 0 for not to the placement; the narrowest
// wins.
func (a Adjustment) Reaches(p spec.Placement) int {
	kind, id, _ := strings.Cut(a.Reach, ":")
	switch {
	case kind == "set":
		return 1
	case kind == "channel" && id == p.Channel:
		return 2
	case kind == "class" && id == string(p.Class()):
		return 3
	case kind == "piece" && id == p.ID:
		return 4
	}
	return 0
}

// Narrow ranks how far what was written by hand for a property reaches, 0 for nothing.
func (b *Brief) Narrow(p spec.Placement, slot, property string) int {
	best := 0
	for _, a := range b.Adjustments {
		if a.Slot == slot && a.Property == property {
			best = max(best, a.Reaches(p))
		}
	}
	return best
}

// Adjusted is the value an adjustment gives a property of a slot on a placement, and how
// far the one that won reaches.
func (b *Brief) Adjusted(p spec.Placement, slot, property string) (value, reach string, ok bool) {
	best := 0
	for _, a := range b.Adjustments {
		if a.Slot == slot && a.Property == property {
			if r := a.Reaches(p); r >= best && r > 0 {
				best, value, reach, ok = r, a.Text(), a.Reach, true
			}
		}
	}
	return value, reach, ok
}

// Hands is what was changed by hand on a placement, by slot.
func (b *Brief) Hands(p spec.Placement) map[string]*Hand {
	type key struct{ slot, property string }
	won := map[key]Adjustment{}
	for _, a := range b.Adjustments {
		k := key{a.Slot, a.Property}
		if r := a.Reaches(p); r > 0 && r >= won[k].Reaches(p) {
			won[k] = a
		}
	}
	out := map[string]*Hand{}
	for k, a := range won {
		prop, ok := PropertyOf(k.property)
		if !ok || prop.set == nil {
			continue
		}
		h := out[k.slot]
		if h == nil {
			h = &Hand{reach: map[string]string{}}
			out[k.slot] = h
		}
		if prop.set(h, a.Value) == nil { // Parse lets no others through
			h.reach[k.property] = a.Reach
		}
	}
	return out
}

// Reach is how far the value of a property reaches, "" where it is the rule's.
func (h *Hand) Reach(property string) string {
	if h == nil {
		return ""
	}
	return h.reach[property]
}

// Colours are the colours that were chosen by hand, as their values say them.
func (h *Hand) Colours() []string {
	out := []string{h.Fill, h.Highlight, h.Band}
	if h.Outline != nil {
		out = append(out, h.Outline.Fill)
	}
	if h.Shadow != nil {
		out = append(out, h.Shadow.Fill)
	}
	if h.Border != nil {
		out = append(out, h.Border.Fill)
	}
	if h.Duotone != nil {
		out = append(out, h.Duotone.Dark, h.Duotone.Light)
	}
	for _, r := range h.Runs {
		out = append(out, r.Fill)
	}
	return slices.DeleteFunc(out, func(s string) bool { return s == "" })
}

// Changed are the properties that were changed by hand, in their order.
func (h *Hand) Changed() []Property {
	var out []Property
	if h == nil {
		return nil
	}
	for _, p := range Properties {
		if h.Reach(p.Name) != "" {
			out = append(out, p)
		}
	}
	return out
}
