// Package scene is the resolved drawing of a piece: shapes, pictures, logos and
// set words with nothing left to decide. The same scene is written as SVG for
// the screen, for files and for video frames.
package scene

import (
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/typeset"
	"math"
)

// Scene is a drawing of W x H px. Parts are painted in order.
type Scene struct {
	W, H  int
	Alt   string
	Parts []Part
}

// WithoutGround is the drawing with nothing behind it: what covers it as ground
// is left out.
func (s *Scene) WithoutGround() *Scene {
	out := *s
	out.Parts = nil
	for _, p := range s.Parts {
		if p.Kind != KindShape || p.Slot != "ground" {
			out.Parts = append(out.Parts, p)
		}
	}
	return &out
}

// PictureGround is the slot of the flat under a logo or a page that stands whole in a picture's
// place: the colour around it in its file.
const PictureGround = "picture-ground"

// Kind says what a part is.
type Kind string

// The kinds a report knows.
const (
	KindText    Kind = "text"
	KindButton  Kind = "button"
	KindLogo    Kind = "logo"
	KindPicture Kind = "picture"
	KindShape   Kind = "shape"
	KindIcon    Kind = "icon"
)

// Part is one thing drawn. Which fields count depends on Kind.
type Part struct {
	Slot string // what it is for: a copy field, "logo", "picture", "panel" ...
	Kind Kind
	Box  spec.Rect // px: ink for words and logos, the shape's bounds otherwise

	// changed by hand: the map from where it was solved, its box there, and how much
	// of what is behind it is seen. Box has the map in it, all else is as solved.
	Unit         string // the thing it belongs to that is taken hold of as one; empty where nothing was changed
	Moved        *Affine
	Was          spec.Rect
	Sheer        float64 // 0-1 opacity of the whole; 0 for 1
	Stack        int     // how many things were drawn before its thing, before any was moved up or down
	GroundByHand bool    // words: what they stand on was changed

	Before   spec.Rect // where it was solved, where a hand gave it sides of its own; else empty
	Measured *Measured // words: as they are for the width a hand gave them; nil for none

	// shapes
	Path   string // absolute path data in px; empty draws Box, or Art.Cut in the fill where there is art
	Radius float64
	Fill   colour.RGB
	Stroke float64 // px; above 0 the path is stroked, not filled
	Alpha  float64 // 0-1 opacity of a veil; 0 means opaque

	// words; Fill is the ink
	Text     string
	Field    string // the copy field the words come from
	Lines    []TextLine
	SizePx   float64
	Family   string
	Weight   int
	Ground   colour.RGB // the colour contrast was measured against
	Style    typeset.Style
	Upper    bool   // set in capitals, however it was typed
	Align    string // "start", "middle" or "end" of the lines
	Contrast float64

	Outline *Pen  // along the letters
	Cast    *Cast // a copy of the letters behind them

	Fade *Fade // how it grades to clear; nil for an even one

	// pictures
	Picture string    // hash
	Crop    spec.Rect // px of the picture
	Tone    Tone      // the zero value draws it in its own colours
	Dials   Dials
	Clip    string // path data a picture or shape is cut to; empty for none

	// logos, icons and symbols: Art.View is drawn into Box; an icon without Art is a picture
	Art   *brand.Art
	Tiles []spec.Rect // shapes: where a symbol is drawn again and again, cut to Box; nil for once, in it
	File  string
}

// Fade is how a shape grades to clear: along the line from its first point to its
// second, or with a radius on circles around the first. It begins at an opacity of
// Edge, is down to the part's Alpha at Hold of the way and from there goes to 0.
type Fade struct {
	X0, Y0, X1, Y1 float64 // px
	Radius         float64 // px
	Hold           float64 // 0-1
	Edge           float64 // 0-1
}

// Opacity is how much of what lies under a point the part hides, 0-1.
func (p *Part) Opacity(x, y float64) float64 {
	f := p.Fade
	if f == nil {
		return p.Alpha
	}
	var at float64 // of the way, 0-1 and beyond
	if f.Radius > 0 {
		at = math.Hypot(x-f.X0, y-f.Y0) / f.Radius
	} else if dx, dy := f.X1-f.X0, f.Y1-f.Y0; dx != 0 || dy != 0 {
		at = ((x-f.X0)*dx + (y-f.Y0)*dy) / (dx*dx + dy*dy)
	}
	switch {
	case at >= 1:
		return 0
	case at > f.Hold:
		t := (at - f.Hold) / (1 - f.Hold)
		return p.Alpha * (1 - t*t*(3-2*t))
	case f.Hold > 0:
		return f.Edge + (p.Alpha-f.Edge)*math.Max(0, at)/f.Hold
	}
	return f.Edge
}

// TextLine is a set line, or a run of one in another ink, with its baseline
// origin in px.
type TextLine struct {
	Line   *typeset.Line
	X, Y   float64
	From   int         // rune index in Part.Text where the line starts
	SizePx float64     // where it is not the part's, as in a large figure; else 0
	Fill   *colour.RGB // ink of emphasised words; nil for the part's
	Under  []spec.Rect // strokes under emphasised words, in the ink
	Marker *Marker     // behind emphasised words, around their ink; nil for none
}

// Marker is a broad stroke behind words, as of a felt pen.
type Marker struct {
	Fill   colour.RGB
	Behind []spec.Rect // px
}

// Measured is how words are set for another width than the solved one.
type Measured struct {
	Lines []TextLine
	Box   spec.Rect // px, of their ink
}

// Size is the type size of one of the part's lines in px.
func (p *Part) Size(l TextLine) float64 {
	if l.SizePx > 0 {
		return l.SizePx
	}
	return p.SizePx
}

// SeenPx is the size of the part's type as it is drawn, in px.
func (p *Part) SeenPx() float64 { return p.SizePx * p.Moved.Scale() }

// Solid reports whether nothing is seen through the part: words, marks and the shapes
// they stand on, not grounds and fades.
func (p *Part) Solid() bool {
	return p.Words() || p.Kind == KindLogo || p.Slot == "plate" || p.Slot == "button" || p.Slot == "card" && p.Stroke == 0
}

// Words reports whether the part is set type.
func (p *Part) Words() bool { return p.Kind == KindText || p.Kind == KindButton }
