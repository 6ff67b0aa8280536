package typeset

import (
	"bytes"
	"errors"
	"fmt"
	"math"
	"strconv"
	"strings"
	"sync"

	"github.com/go-text/typesetting/font"
	ot "github.com/go-text/typesetting/font/opentype"
)

// ErrFont is wrapped by every error of [ParseFace].
var ErrFont = errors.New("not a font we can use")

// Face is one font file, ready to shape with. Safe for concurrent use.
type Face struct {
	Family string // name ID 16, else 1
	Weight int    // 1-1000, CSS
	Italic bool

	UnitsPerEm float64
	CapHeight  float64 // em, measured on the ink of H
	XHeight    float64 // em, measured on the ink of x
	Ascent     float64 // em, the font's own line metrics
	Descent    float64 // em, positive downwards

	font *font.Font

	// A face of people is watched: shaping with it may fail or take too long, and
	// then it is not used again. slots is how many lines are shaped with it at
	// once; nil for a face that ships.
	slots  chan struct{}
	broken chan struct{} // closed once it failed
	fail   sync.Once

	inColour bool // its glyphs have colours of their own

	mu     sync.Mutex
	face   *font.Face // guarded by mu: font.Face is not safe for concurrent use
	glyphs map[font.GID]*glyph

	characterOnce sync.Once
	character     Character
}

// glyph is a cached outline: its ink in em and its path in font units, y down.
type glyph struct {
	ink        Box
	path       string  // relative commands from the glyph's origin
	endX, endY float64 // where the pen rests after path, font units
	layers     []layer // instead of path, of a glyph in colour
}

// Box is a rectangle, y downwards; the unit is the context's.
type Box struct{ X0, Y0, X1, Y1 float64 }

// Empty reports whether the box holds nothing.
func (b Box) Empty() bool { return b.X1 <= b.X0 || b.Y1 <= b.Y0 }

// Union is the smallest box around both; an empty box adds nothing.
func (b Box) Union(c Box) Box {
	if b.Empty() {
		return c
	}
	if c.Empty() {
		return b
	}
	return Box{math.Min(b.X0, c.X0), math.Min(b.Y0, c.Y0), math.Max(b.X1, c.X1), math.Max(b.Y1, c.Y1)}
}

// Shift moves the box.
func (b Box) Shift(dx, dy float64) Box { return Box{b.X0 + dx, b.Y0 + dy, b.X1 + dx, b.Y1 + dy} }

// Scale multiplies every edge by k.
func (b Box) Scale(k float64) Box { return Box{b.X0 * k, b.Y0 * k, b.X1 * k, b.Y1 * k} }

// ParseFace reads a TrueType or OpenType file (TTF, OTF).
func ParseFace(data []byte) (f *Face, err error) {
	defer func() { // the parser is not ours; a hostile file must not take the server down
		if r := recover(); r != nil {
			f, err = nil, fmt.Errorf("%w: broken tables", ErrFont)
		}
	}()
	switch {
	case len(data) == 0:
		return nil, fmt.Errorf("%w: the file is empty", ErrFont)
	case len(data) < 12 || !isFont(data):
		return nil, fmt.Errorf("%w: neither TTF nor OTF", ErrFont)
	}
	face, err := font.ParseTTF(bytes.NewReader(data))
	if err != nil {
		return nil, fmt.Errorf("%w: %v", ErrFont, err)
	}
	d := face.Font.Describe()
	f = &Face{
		Family:     d.Family,
		Weight:     int(d.Aspect.Weight),
		Italic:     d.Aspect.Style == font.StyleItalic,
		UnitsPerEm: float64(face.Font.Upem()),
		font:       face.Font,
		face:       face,
		glyphs:     map[font.GID]*glyph{},
		broken:     make(chan struct{}),
	}
	if f.Family == "" {
		return nil, fmt.Errorf("%w: it has no name table", ErrFont)
	}
	if e, ok := face.FontHExtents(); ok {
		f.Ascent, f.Descent = float64(e.Ascender)/f.UnitsPerEm, -float64(e.Descender)/f.UnitsPerEm
	}
	f.CapHeight, f.XHeight = f.inkHeight('H', 0.7), f.inkHeight('x', 0.5)
	return f, nil
}

// Watched marks a face that came from people: shaping with it is held to a time,
// and a fault in it is the end of this face, not of the program.
func (f *Face) Watched() *Face {
	if f.slots == nil {
		f.slots = make(chan struct{}, 2)
	}
	return f
}

// Broken reports whether setting text with the face has failed; what is set with
// it then stands in a shipped face.
func (f *Face) Broken() bool {
	select {
	case <-f.broken:
		return true
	default:
		return false
	}
}

// giveUp marks a face with which setting text has failed.
func (f *Face) giveUp() { f.fail.Do(func() { close(f.broken) }) }

func isFont(data []byte) bool {
	switch string(data[:4]) {
	case "\x00\x01\x00\x00", "OTTO", "true":
		return true
	}
	return false
}

func (f *Face) inkHeight(r rune, otherwise float64) float64 {
	gid, ok := f.font.NominalGlyph(r)
	if !ok {
		return otherwise
	}
	if g := f.glyph(f.face, gid); !g.ink.Empty() {
		return -g.ink.Y0
	}
	return otherwise
}

// Covers reports whether the face has a glyph for r.
func (f *Face) Covers(r rune) bool {
	_, ok := f.font.NominalGlyph(r)
	return ok
}

// Glyph is the number of the glyph for r.
func (f *Face) Glyph(r rune) (int, bool) {
	gid, ok := f.font.NominalGlyph(r)
	return int(gid), ok
}

// glyph returns the outline of gid, kept once it is drawn; drawn by face, which
// nobody else uses meanwhile.
func (f *Face) glyph(face *font.Face, gid font.GID) *glyph {
	f.mu.Lock()
	g, ok := f.glyphs[gid]
	f.mu.Unlock()
	if ok {
		return g
	}
	g = &glyph{}
	if layered, ok := f.coloured(face, gid); ok {
		g = layered
	} else if o, ok := face.GlyphData(gid).(font.GlyphOutline); ok {
		g = outline(o.Segments, f.UnitsPerEm)
	}
	f.mu.Lock()
	f.glyphs[gid] = g
	f.mu.Unlock()
	return g
}

func (f *Face) coloured(face *font.Face, gid font.GID) (*glyph, bool) {
	if !f.inColour {
		return nil, false
	}
	return f.layered(face, gid)
}

// outline writes segments as relative SVG path data with y downwards and
// measures their ink, curves by their true extremes.
func outline(segments []ot.Segment, upem float64) *glyph {
	var b strings.Builder
	ink := Box{math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)}
	grow := func(x, y float64) {
		ink = Box{math.Min(ink.X0, x), math.Min(ink.Y0, y), math.Max(ink.X1, x), math.Max(ink.Y1, y)}
	}
	var x, y, startX, startY float64
	open := false
	closePath := func() {
		if open {
			b.WriteByte('z')
			x, y = startX, startY
		}
		open = false
	}
	pt := func(p ot.SegmentPoint) (float64, float64) {
		return math.Round(float64(p.X)), math.Round(-float64(p.Y))
	}
	for _, s := range segments {
		switch s.Op {
		case ot.SegmentOpMoveTo:
			closePath()
			nx, ny := pt(s.Args[0])
			b.WriteByte('m')
			pair(&b, nx-x, ny-y)
			x, y, startX, startY, open = nx, ny, nx, ny, true
		case ot.SegmentOpLineTo:
			nx, ny := pt(s.Args[0])
			if nx == x && ny == y {
				continue
			}
			b.WriteByte('l')
			pair(&b, nx-x, ny-y)
			grow(x, y)
			grow(nx, ny)
			x, y = nx, ny
		case ot.SegmentOpQuadTo:
			cx, cy := pt(s.Args[0])
			nx, ny := pt(s.Args[1])
			b.WriteByte('q')
			pair(&b, cx-x, cy-y)
			pair(&b, nx-x, ny-y)
			grow(x, y)
			grow(nx, ny)
			for _, t := range []float64{ratio(x-cx, x-2*cx+nx), ratio(y-cy, y-2*cy+ny)} {
				if t > 0 && t < 1 {
					u := 1 - t
					grow(u*u*x+2*u*t*cx+t*t*nx, u*u*y+2*u*t*cy+t*t*ny)
				}
			}
			x, y = nx, ny
		case ot.SegmentOpCubeTo:
			ax, ay := pt(s.Args[0])
			cx, cy := pt(s.Args[1])
			nx, ny := pt(s.Args[2])
			b.WriteByte('c')
			pair(&b, ax-x, ay-y)
			pair(&b, cx-x, cy-y)
			pair(&b, nx-x, ny-y)
			grow(x, y)
			grow(nx, ny)
			for _, t := range append(extremes(x, ax, cx, nx), extremes(y, ay, cy, ny)...) {
				u := 1 - t
				grow(u*u*u*x+3*u*u*t*ax+3*u*t*t*cx+t*t*t*nx, u*u*u*y+3*u*u*t*ay+3*u*t*t*cy+t*t*t*ny)
			}
			x, y = nx, ny
		}
	}
	closePath()
	if ink.X0 > ink.X1 {
		ink = Box{}
	}
	return &glyph{ink: ink.Scale(1 / upem), path: b.String(), endX: x, endY: y}
}

func ratio(a, b float64) float64 {
	if b == 0 {
		return -1
	}
	return a / b
}

// extremes are the parameters in (0, 1) where a cubic's derivative is zero.
func extremes(p0, p1, p2, p3 float64) []float64 {
	a, b, c := -p0+3*p1-3*p2+p3, 2*(p0-2*p1+p2), p1-p0
	var out []float64
	add := func(t float64) {
		if t > 0 && t < 1 {
			out = append(out, t)
		}
	}
	if math.Abs(a) < 1e-9 {
		add(ratio(-c, b))
		return out
	}
	if d := b*b - 4*a*c; d >= 0 {
		r := math.Sqrt(d)
		add((-b + r) / (2 * a))
		add((-b - r) / (2 * a))
	}
	return out
}

// pair writes two whole numbers as compactly as path data allows.
func pair(b *strings.Builder, x, y float64) {
	s := b.String()
	if n := len(s); n > 0 && s[n-1] >= '0' && s[n-1] <= '9' && x >= 0 {
		b.WriteByte(' ')
	}
	b.WriteString(strconv.Itoa(int(x)))
	if y >= 0 {
		b.WriteByte(' ')
	}
	b.WriteString(strconv.Itoa(int(y)))
}
