package typeset

import (
	"math"
	"slices"

	"github.com/go-text/typesetting/font"
	ot "github.com/go-text/typesetting/font/opentype"
)

// Structure is how the letters of a face are built, as measured.
type Structure string

// The structures a face can have.
const (
	SansStructure   Structure = "sans"
	SerifStructure  Structure = "serif"
	SlabStructure   Structure = "slab"   // serifs about as thick as the stems
	MonoStructure   Structure = "mono"   // every letter as wide
	ScriptStructure Structure = "script" // its letters join
)

// Character is what a face looks like, measured on its outlines; lengths in em.
type Character struct {
	Structure Structure
	XHeight   float64
	Stem      float64 // the thick strokes, on o at half its height
	Hairline  float64 // the thin strokes, on o at half its width
	Width     float64 // the mean advance of n, o, e, a, t over the x-height
}

// Contrast is the thick strokes over the thin ones: 1 for one even line.
func (c Character) Contrast() float64 {
	if c.Hairline <= 0 {
		return 1
	}
	return c.Stem / c.Hairline
}

// SmallestPx is the type size in px as seen below which the face breaks up: its
// hairlines thinner than 0.6 px, or its x-height under 5 px (common practice,
// tuned on the shipped families: text faces come out at 9 to 11 px, a
// high-contrast display serif at 20 and more).
func (c Character) SmallestPx() float64 {
	size := 0.0
	if c.Hairline > 0 {
		size = 0.6 / c.Hairline
	}
	if c.XHeight > 0 {
		size = math.Max(size, 5/c.XHeight)
	}
	return math.Ceil(size)
}

// Character measures the face. A face without Latin letters counts as a sans
// with the strokes of an ordinary text face.
func (f *Face) Character() Character {
	f.characterOnce.Do(func() { f.character = f.measure() })
	return f.character
}

func (f *Face) measure() (c Character) {
	ordinary := Character{Structure: SansStructure, XHeight: f.XHeight, Stem: 0.09, Hairline: 0.07, Width: 1.1}
	defer func() { // somebody's tables
		if r := recover(); r != nil {
			c = ordinary
		}
	}()
	c = ordinary
	o := f.contours('o')
	if len(o) == 0 {
		return c
	}
	box := bounds(o)
	if s := strokes(o, false, (box.Y0+box.Y1)/2); len(s) > 0 {
		c.Stem = slices.Max(s)
	}
	if s := strokes(o, true, (box.X0+box.X1)/2); len(s) > 0 {
		c.Hairline = slices.Min(s)
	}
	sum := 0.0
	for _, r := range "noeat" {
		sum += f.advance(r)
	}
	if f.XHeight > 0 {
		c.Width = sum / 5 / f.XHeight
	}
	c.Structure = f.structure()
	return c
}

func (f *Face) structure() Structure {
	if math.Abs(f.advance('i')-f.advance('m')) < 0.001 {
		return MonoStructure
	}
	joined := true
	for _, r := range "nmua" { // a joining stroke runs to the next letter or over it
		g := f.contours(r)
		joined = joined && len(g) > 0 && bounds(g).X1 >= f.advance(r)-0.012
	}
	if joined {
		return ScriptStructure
	}
	g := f.contours('I')
	if len(g) == 0 {
		return SansStructure
	}
	box := bounds(g)
	mid := strokes(g, false, (box.Y0+box.Y1)/2)
	if len(mid) == 0 || (box.X1-box.X0) < 1.55*mid[0] {
		return SansStructure
	}
	// the foot: how thick it is halfway between the stem and its end
	if foot := strokes(g, true, box.X1-(box.X1-box.X0-mid[0])/4); len(foot) > 0 && foot[0] > 0.5*mid[0] {
		return SlabStructure
	}
	return SerifStructure
}

func (f *Face) advance(r rune) float64 {
	gid, ok := f.font.NominalGlyph(r)
	if !ok {
		return 0
	}
	f.mu.Lock()
	defer f.mu.Unlock()
	return float64(f.face.HorizontalAdvance(gid)) / f.UnitsPerEm
}

type point struct{ x, y float64 }

// contours flattens a letter's outline to closed polygons in em, y down.
func (f *Face) contours(r rune) [][]point {
	gid, ok := f.font.NominalGlyph(r)
	if !ok {
		return nil
	}
	f.mu.Lock()
	defer f.mu.Unlock()
	o, ok := f.face.GlyphData(gid).(font.GlyphOutline)
	if !ok {
		return nil
	}
	var out [][]point
	var at []point
	pt := func(p ot.SegmentPoint) point {
		return point{float64(p.X) / f.UnitsPerEm, -float64(p.Y) / f.UnitsPerEm}
	}
	for _, s := range o.Segments {
		if s.Op == ot.SegmentOpMoveTo {
			if len(at) > 2 {
				out = append(out, at)
			}
			at = []point{pt(s.Args[0])}
			continue
		}
		if len(at) == 0 {
			continue
		}
		p0 := at[len(at)-1]
		const steps = 8 // of a curve; a letter's curves are short
		for i := 1; i <= steps; i++ {
			t := float64(i) / steps
			u := 1 - t
			mix := func(v func(point) float64) float64 {
				switch s.Op {
				case ot.SegmentOpQuadTo:
					return u*u*v(p0) + 2*u*t*v(pt(s.Args[0])) + t*t*v(pt(s.Args[1]))
				case ot.SegmentOpCubeTo:
					return u*u*u*v(p0) + 3*u*u*t*v(pt(s.Args[0])) + 3*u*t*t*v(pt(s.Args[1])) + t*t*t*v(pt(s.Args[2]))
				}
				return u*v(p0) + t*v(pt(s.Args[0]))
			}
			at = append(at, point{mix(func(p point) float64 { return p.x }), mix(func(p point) float64 { return p.y })})
		}
	}
	if len(at) > 2 {
		out = append(out, at)
	}
	return out
}

func bounds(list [][]point) Box {
	b := Box{math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)}
	for _, c := range list {
		for _, p := range c {
			b = Box{math.Min(b.X0, p.x), math.Min(b.Y0, p.y), math.Max(b.X1, p.x), math.Max(b.Y1, p.y)}
		}
	}
	return b
}

// strokes are the thicknesses of the ink met along a line through the letter,
// by the nonzero rule: at the height at (or, when down, at that place across,
// going down).
func strokes(list [][]point, down bool, at float64) []float64 {
	type crossing struct {
		v    float64
		turn int
	}
	var cross []crossing
	for _, c := range list {
		for i, p := range c {
			q := c[(i+1)%len(c)]
			if down {
				p, q = point{p.y, p.x}, point{q.y, q.x}
			}
			if (p.y <= at) == (q.y <= at) {
				continue
			}
			turn := 1
			if q.y < p.y {
				turn = -1
			}
			cross = append(cross, crossing{p.x + (at-p.y)/(q.y-p.y)*(q.x-p.x), turn})
		}
	}
	slices.SortFunc(cross, func(a, b crossing) int {
		if a.v < b.v {
			return -1
		}
		return 1
	})
	var out []float64
	wind, from := 0, 0.0
	for _, c := range cross {
		before := wind
		wind += c.turn
		switch {
		case before == 0:
			from = c.v
		case wind == 0 && c.v-from > 0.001:
			out = append(out, c.v-from)
		}
	}
	return out
}
