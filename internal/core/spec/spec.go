// Package spec says where pieces go: channels and their placements, each with
// its size, safe area and limits, and the geometry that follows from them. The
// built-in catalogue is catalogue.json; its sizes are common practice.
package spec

import (
	_ "embed"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"sync"
)

// Rect is a rectangle in px from the canvas' top left corner.
type Rect struct{ X, Y, W, H float64 }

// Right is X+W.
func (r Rect) Right() float64 { return r.X + r.W }

// Bottom is Y+H.
func (r Rect) Bottom() float64 { return r.Y + r.H }

// Empty reports whether no area is left.
func (r Rect) Empty() bool { return r.W <= 0 || r.H <= 0 }

// Holds reports whether a point lies in it.
func (r Rect) Holds(x, y float64) bool {
	return x >= r.X && x < r.Right() && y >= r.Y && y < r.Bottom()
}

// Inset shrinks every side by d px.
func (r Rect) Inset(d float64) Rect { return Rect{r.X + d, r.Y + d, r.W - 2*d, r.H - 2*d} }

// Union is the least rectangle around two; an empty one counts for nothing.
func (r Rect) Union(o Rect) Rect {
	switch {
	case r == Rect{}:
		return o
	case o == Rect{}:
		return r
	}
	x, y := math.Min(r.X, o.X), math.Min(r.Y, o.Y)
	return Rect{X: x, Y: y, W: math.Max(r.Right(), o.Right()) - x, H: math.Max(r.Bottom(), o.Bottom()) - y}
}

// Intersect is the common part, with no area when there is none.
func (r Rect) Intersect(o Rect) Rect {
	x, y := math.Max(r.X, o.X), math.Max(r.Y, o.Y)
	return Rect{x, y, math.Max(0, math.Min(r.Right(), o.Right())-x), math.Max(0, math.Min(r.Bottom(), o.Bottom())-y)}
}

// Overlaps reports whether the two share more than eps px in both directions.
func (r Rect) Overlaps(o Rect, eps float64) bool {
	i := r.Intersect(o)
	return i.W > eps && i.H > eps
}

// Share is the part (0-1) of r that o covers; 0 of an empty one.
func (r Rect) Share(o Rect) float64 {
	if r.Empty() {
		return 0
	}
	i := r.Intersect(o)
	return math.Max(0, i.W) * math.Max(0, i.H) / (r.W * r.H)
}

// Contains reports whether o lies inside r, give or take eps px.
func (r Rect) Contains(o Rect, eps float64) bool {
	return o.X >= r.X-eps && o.Y >= r.Y-eps && o.Right() <= r.Right()+eps && o.Bottom() <= r.Bottom()+eps
}

// Class is the shape of a placement's safe box; it picks a layout's tree.
type Class string

// The five aspect classes, widest first.
const (
	Ribbon Class = "ribbon" // ratio at least 2.6
	Wide   Class = "wide"   // [1.2, 2.6)
	Square Class = "square" // [0.83, 1.2)
	Tall   Class = "tall"   // [0.6, 0.83)
	Tower  Class = "tower"  // under 0.6
)

// Classes lists the aspect classes, widest first.
var Classes = []Class{Ribbon, Wide, Square, Tall, Tower}

// ClassOf classifies a width to height ratio.
func ClassOf(ratio float64) Class {
	switch {
	case ratio >= 2.6:
		return Ribbon
	case ratio >= 1.2:
		return Wide
	case ratio >= 0.83:
		return Square
	case ratio >= 0.6:
		return Tall
	}
	return Tower
}

// Placement is one place a piece can go.
type Placement struct {
	ID     string `json:"id"`
	Name   string `json:"name"`
	Width  int    `json:"width"`  // px
	Height int    `json:"height"` // px
	Kind   string `json:"kind"`   // image or video
	Shape  string `json:"shape"`  // rectangle or circle
	// Icon marks a picture of who we are rather than a message: it may do
	// without a headline.
	Icon       bool         `json:"icon,omitempty"`
	Safe       [4]float64   `json:"safe"` // insets in px: top, right, bottom, left
	KeepOut    [][4]float64 `json:"keepOut,omitempty"`
	KeepIn     *[4]float64  `json:"keepIn,omitempty"`
	Seen       []float64    `json:"seen"`    // widths in px it is looked at, largest first
	Formats    []string     `json:"formats"` // in order of preference
	MaxBytes   int          `json:"maxBytes,omitempty"`
	FPS        int          `json:"fps,omitempty"`
	MaxSeconds float64      `json:"maxSeconds,omitempty"` // how long a video may run, 0 for any
	Needs      []string     `json:"needs"`                // action, address-or-action
	Cards      []int        `json:"cards,omitempty"`
	// End is the id of the video this closes, of the same size: it says only what people are
	// to do and where.
	End string `json:"end,omitempty"`

	// Card is which page of a several-page piece this is, from 0; the id of a page
	// after the first ends in "+2", "+3" ...
	Card        int    `json:"-"`
	Variant     string `json:"-"` // one of [Variants] for another try at a piece; its id ends in "~b", "~c" ...
	Channel     string `json:"-"` // id of the channel it belongs to
	ChannelName string `json:"-"`
}

// Channel groups placements under a name.
type Channel struct {
	ID         string      `json:"id"`
	Name       string      `json:"name"`
	Placements []Placement `json:"placements"`
}

// Canvas is the whole piece.
func (p Placement) Canvas() Rect { return Rect{0, 0, float64(p.Width), float64(p.Height)} }

// Advertisement reports whether it is one: it has to ask people to do something, in its exact
// size.
func (p Placement) Advertisement() bool { return slices.Contains(p.Needs, "action") }

// SafeBox is where content may stand: the canvas less the safe insets; for a
// circle the square inscribed in it.
func (p Placement) SafeBox() Rect {
	r := Rect{p.Safe[3], p.Safe[0], float64(p.Width) - p.Safe[1] - p.Safe[3], float64(p.Height) - p.Safe[0] - p.Safe[2]}
	if p.Shape == "circle" {
		d := math.Min(r.W, r.H)
		side := math.Floor(d * math.Sqrt2 / 2)
		r = Rect{r.X + (r.W-side)/2, r.Y + (r.H-side)/2, side, side}
	}
	return r
}

// KeepOuts are the rectangles the channel covers with its own controls.
func (p Placement) KeepOuts() []Rect {
	out := make([]Rect, len(p.KeepOut))
	for i, k := range p.KeepOut {
		out[i] = Rect{k[0], k[1], k[2], k[3]}
	}
	return out
}

// Class is the aspect class of the safe box.
func (p Placement) Class() Class { b := p.SafeBox(); return ClassOf(b.W / b.H) }

// SeenScale is the factor from canvas px to px on the screen it is looked at
// on, at the largest width it is seen at; never above 1.
func (p Placement) SeenScale() float64 {
	if len(p.Seen) == 0 {
		return 1
	}
	return math.Min(1, slices.Max(p.Seen)/float64(p.Width))
}

// SmallestSeenScale is the same at the smallest width.
func (p Placement) SmallestSeenScale() float64 {
	if len(p.Seen) == 0 {
		return 1
	}
	return math.Min(1, slices.Min(p.Seen)/float64(p.Width))
}

// Tiny reports whether the seen area is under 22,000 px².
func (p Placement) Tiny() bool {
	k := p.SeenScale()
	return k*k*float64(p.Width)*float64(p.Height) < 22_000
}

//go:embed catalogue.json
var catalogue []byte

// Catalogue is the built-in channels.
var Catalogue = sync.OnceValue(func() []Channel {
	var doc struct {
		Channels []Channel `json:"channels"`
	}
	if err := json.Unmarshal(catalogue, &doc); err != nil {
		panic(fmt.Errorf("catalogue.json: %w", err)) // embedded; a test loads it
	}
	label(doc.Channels)
	return doc.Channels
})

// AllImages lists the ids of every still placement of the catalogue.
func AllImages() []string {
	var out []string
	for _, c := range Catalogue() {
		for _, p := range c.Placements {
			if p.Kind == "image" {
				out = append(out, p.ID)
			}
		}
	}
	return out
}
