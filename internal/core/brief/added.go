package brief

import (
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/spec"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
)

// Added is a part that was added by hand: the value of "part" of a slot of its own, whose
// other properties are those of any part.
type Added struct {
	Slot  string     `json:"-"`
	Kind  string     `json:"kind"`            // one of [AddedKinds]
	Name  string     `json:"name,omitempty"`  // of a shape, an icon, a pattern
	File  string     `json:"file,omitempty"`  // of a picture, of a logo
	Text  string     `json:"text,omitempty"`  // of words; of facts a line each
	Level string     `json:"level,omitempty"` // of words
	Fill  string     `json:"fill,omitempty"`
	Count int        `json:"count,omitempty"` // of icons in a row
	Width float64    `json:"width,omitempty"` // of a frame's line, in fractions of the short side
	At    [2]float64 `json:"at"`              // its middle, in fractions of the canvas
	Size  [2]float64 `json:"size"`            // in fractions of the short side
	Fit   string     `json:"fit,omitempty"`   // whole, wide, high: bound to those edges of the piece, in every shape
}

// What can be added.
var (
	AddedKinds = []string{"words", "shape", "icon", "picture", "logo", "button", "badge", "row", "facts", "pattern"}
	Shapes     = []string{"band", "panel", "circle", "line", "arrow", "burst", "wave", "corner", "frame"}
	Patterns   = []string{"dots", "basket", "bars"}
	Fits       = []string{"whole", "wide", "high"}
)

// mostFacts is how many facts stand in a row.
const mostFacts = 6

// Facts are the facts of a row of them: the lines of its text.
func (d Added) Facts() []string {
	return slices.DeleteFunc(strings.Split(d.Text, "\n"), func(s string) bool { return strings.TrimSpace(s) == "" })
}

// AddedSlot begins the slots of what was added.
const AddedSlot = "added-"

// addedOf reads what is added.
func addedOf(v json.RawMessage) (Added, error) {
	var d Added
	if err := value(&d, v, "an object with kind, at and size"); err != nil {
		return d, err
	}
	if !slices.Contains(AddedKinds, d.Kind) {
		return d, fmt.Errorf("kind %.60q: want one of %s", d.Kind, strings.Join(AddedKinds, ", "))
	}
	if d.Kind == "shape" && !slices.Contains(Shapes, d.Name) {
		return d, fmt.Errorf("name %.60q: want one of %s", d.Name, strings.Join(Shapes, ", "))
	}
	if d.Kind == "pattern" && !slices.Contains(Patterns, d.Name) {
		return d, fmt.Errorf("name %.60q: want one of %s", d.Name, strings.Join(Patterns, ", "))
	}
	if d.Kind == "row" && (d.Count < 1 || d.Count > 20) {
		return d, fmt.Errorf("count %d: want 1 to 20 icons in a row", d.Count)
	}
	if n := len(d.Facts()); d.Kind == "facts" && (n < 1 || n > mostFacts) {
		return d, fmt.Errorf("%d facts: want 1 to %d, a line of text each", n, mostFacts)
	}
	if slices.Contains([]string{"words", "button", "badge", "facts"}, d.Kind) && (d.Text == "" || !slices.Contains(brand.Levels, brand.Level(d.Level))) {
		return d, fmt.Errorf("%s want a text and a level", d.Kind)
	}
	if min(d.At[0], d.At[1]) < -2 || max(d.At[0], d.At[1]) > 3 || min(d.Size[0], d.Size[1]) < 0.002 || max(d.Size[0], d.Size[1]) > 20 || d.Width < 0 || d.Width > 0.5 {
		return d, fmt.Errorf("at %v, size %v, width %v: want a place from -2 to 3 of the canvas, a size from 0.002 to 20 and a width up to 0.5 short sides", d.At, d.Size, d.Width)
	}
	if d.Fit != "" && !slices.Contains(Fits, d.Fit) {
		return d, fmt.Errorf("fit %.60q: want one of %s", d.Fit, strings.Join(Fits, ", "))
	}
	if d.Fill != "" {
		raw, _ := json.Marshal(d.Fill)
		if err := paint(&d.Fill, raw); err != nil {
			return d, fmt.Errorf("fill: %w", err)
		}
	}
	return d, nil
}

// Picture is the file of a picture an adjustment puts on pieces, "" for none.
func (a Adjustment) Picture() string {
	switch {
	case strings.HasPrefix(a.Slot, "picture") && a.Property == "file":
		return a.Text()
	case a.Property == "part":
		if d, err := addedOf(a.Value); err == nil && d.Kind == "picture" {
			return d.File
		}
	}
	return ""
}

// Added are the parts added by hand on a placement, in the order they were.
func (b *Brief) Added(p spec.Placement) []Added {
	var out []Added
	for _, a := range b.Adjustments {
		if a.Property != "part" || !strings.HasPrefix(a.Slot, AddedSlot) || a.Reaches(p) == 0 || a.Reaches(p) < b.Narrow(p, a.Slot, "part") {
			continue
		}
		if d, err := addedOf(a.Value); err == nil {
			d.Slot = a.Slot
			out = append(out, d)
		}
	}
	return out
}
