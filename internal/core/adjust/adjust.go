// Package adjust puts what people changed by hand onto a solved drawing: parts moved,
// sized, turned, recoloured, cut to other shapes, parts that were added. Values are
// relative to what was solved, so they go on making sense when words, kit or size change.
// Afterwards words are measured against what they stand on now.
package adjust

import (
	"cmp"
	"math"
	"slices"
	"strconv"
	"strings"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/typeset"
)

// Input is what a drawing is adjusted with.
type Input struct {
	Placement spec.Placement
	Hands     map[string]*brief.Hand   // by slot
	Added     []brief.Added            // in the order they were added
	Pictures  map[string]photo.Picture // by hash, for what words stand on
	Files     func(file string) (photo.Picture, bool)
	Kit       *brand.Kit
	Types     brand.TypeSet
	Face      func(brand.Style) *typeset.Face
	Shaper    *typeset.Shaper
	Colours   colourway.Colourway
	Corner    func(height float64) float64 // px, the radius of a button of a height
	Icons     map[string]string            // the inside of a 24 x 24 drawing of strokes, by name
}

// Apply changes a drawing by hand.
func Apply(s *scene.Scene, in Input) {
	a := &adjuster{Input: in, scene: s, short: math.Min(float64(s.W), float64(s.H)), free: map[string]brief.Added{}}
	for _, add := range in.Added {
		a.add(add)
	}
	if len(in.Hands) == 0 && len(in.Added) == 0 {
		return
	}
	units := Units(s.Parts)
	things := distinct(units)
	for i := range s.Parts {
		s.Parts[i].Unit = units[i]
		s.Parts[i].Stack = slices.Index(things, units[i])
	}
	s.Parts = slices.DeleteFunc(s.Parts, a.leftOut)
	for _, unit := range things {
		if h := in.Hands[unit]; h != nil {
			a.unit(unit, h)
		}
	}
	a.backs()
	a.reorder()
	a.measure()
}

// ground is the slot of what covers the canvas: it takes another colour and nothing else.
const ground = "ground"

// with are slots that go where another one goes.
var with = map[string]string{"button": "callToAction", "plate": "logo", "rating-stars": "rating", "rating-ground": "rating"}

// Units tells, of every part, the thing it belongs to that is taken hold of as one: its
// slot, with a number where a slot has several runs of parts, or that of the part it goes
// with.
func Units(parts []scene.Part) []string {
	out := make([]string, len(parts))
	seen := map[string]int{}
	for i, p := range parts {
		if p.Unit != "" {
			out[i] = p.Unit
			continue
		}
		switch lead := with[p.Slot]; {
		case lead != "" && slices.ContainsFunc(parts, func(o scene.Part) bool { return o.Slot == lead }):
			out[i] = lead
			continue
		case i > 0 && parts[i-1].Slot == p.Slot:
			out[i] = out[i-1]
			continue
		}
		seen[p.Slot]++
		out[i] = p.Slot
		if n := seen[p.Slot]; n > 1 {
			out[i] += strconv.Itoa(n)
		}
	}
	return out
}

// leads reports whether a part is what its unit is about, not what goes with it.
func leads(p *scene.Part) bool { return with[p.Slot] != p.Unit }

func distinct(list []string) (out []string) {
	for _, s := range list {
		if !slices.Contains(out, s) {
			out = append(out, s)
		}
	}
	return out
}

type adjuster struct {
	Input
	scene *scene.Scene
	short float64                // px, the short side
	free  map[string]brief.Added // added without a colour, by slot
	gone  []spec.Rect            // where parts are left out
}

func (a *adjuster) leftOut(p scene.Part) bool {
	h := a.Hands[p.Unit]
	if h == nil || !h.Hidden || p.Slot == ground {
		return false
	}
	a.gone = append(a.gone, p.Box)
	return true
}

// unit changes the parts of one thing.
func (a *adjuster) unit(unit string, h *brief.Hand) {
	box := spec.Rect{}
	for i := range a.scene.Parts {
		if p := &a.scene.Parts[i]; p.Unit == unit {
			if leads(p) {
				if c, ok := a.Paint(h.Fill); ok {
					a.recolour(p, c)
				}
				measured(p)
				a.styled(p, h) // in colours of their own on top of it
			}
			box = box.Union(p.Laid())
		}
	}
	for i := range a.scene.Parts {
		if p := &a.scene.Parts[i]; p.Unit == unit {
			a.stretched(p, h, box)
		}
	}
	m, moves := a.affine(h, box)
	for i := range a.scene.Parts {
		p := &a.scene.Parts[i]
		if p.Unit != unit {
			continue
		}
		if unit == ground {
			continue
		}
		a.letters(p, h)
		a.framed(p, h)
		if h.Opacity > 0 {
			p.Sheer = h.Opacity
		}
		if moves {
			p.Move(m)
		}
	}
}

// affine is where a thing goes: grown, mirrored and turned about its middle, then moved.
func (a *adjuster) affine(h *brief.Hand, box spec.Rect) (scene.Affine, bool) {
	scale := h.Scale
	if scale == 0 {
		scale = 1
	}
	fx, fy := 1.0, 1.0
	if h.Flip == "across" || h.Flip == "both" {
		fx = -1
	}
	if h.Flip == "down" || h.Flip == "both" {
		fy = -1
	}
	if scale == 1 && fx == 1 && fy == 1 && h.Rotate == 0 && h.Offset == [2]float64{} {
		return scene.Affine{}, false
	}
	cx, cy := box.X+box.W/2, box.Y+box.H/2
	return scene.Shift(-cx, -cy).Then(scene.Grow(scale*fx, scale*fy)).Then(scene.Turn(h.Rotate)).
		Then(scene.Shift(cx+h.Offset[0]*a.short, cy+h.Offset[1]*a.short)), true
}

// Paint is the colour a value names: one of the kit, or one in hex; false for none, and
// for one the kit no longer has.
func (in *Input) Paint(value string) (colour.RGB, bool) {
	if value == "" {
		return colour.RGB{}, false
	}
	if strings.HasPrefix(value, "#") {
		c, err := colour.Parse(value)
		return c, err == nil
	}
	token := colourway.Token(value)
	for _, c := range append(slices.Clone(in.Kit.Colours()), colourway.White, colourway.Black) {
		if c.Token == token {
			return c.Value, true
		}
	}
	return colour.RGB{}, false
}

func (a *adjuster) recolour(p *scene.Part, c colour.RGB) {
	switch p.Kind {
	case scene.KindPicture, scene.KindLogo:
		return
	case scene.KindIcon:
		if i := slices.IndexFunc(a.Added, func(d brief.Added) bool { return d.Slot == p.Slot }); i >= 0 {
			a.redraw(p, a.Added[i], c)
		}
	}
	p.Fill = c
	for i := range p.Lines {
		p.Lines[i].Fill = nil
	}
}

// letters are outlined, and cast a copy aside.
func (a *adjuster) letters(p *scene.Part, h *brief.Hand) {
	if !p.Words() {
		return
	}
	if e := h.Outline; e != nil {
		if c, ok := a.Paint(e.Fill); ok {
			p.Outline = &scene.Pen{Fill: c, Width: 2 * e.Width * p.SizePx}
		}
	}
	if s := h.Shadow; s != nil {
		if c, ok := a.Paint(s.Fill); ok {
			p.Cast = &scene.Cast{Fill: c, X: s.X * p.SizePx, Y: s.Y * p.SizePx}
		}
	}
}

// framed cuts a picture to a shape, and changes its light and colours.
func (a *adjuster) framed(p *scene.Part, h *brief.Hand) {
	if p.Kind != scene.KindPicture {
		return
	}
	if clip := a.frame(h.Frame, p.Box); clip != "" {
		p.Clip = clip
	}
	p.Dials = h.Dials
	if d := h.Duotone; d != nil {
		dark, ok := a.Paint(d.Dark)
		light, too := a.Paint(d.Light)
		if ok && too {
			black, white := a.Pictures[p.Picture].Light.Points()
			p.Tone = scene.Tone{Dark: dark, Light: light, Black: black, White: white}
		}
	}
}

// frame is the outline of a frame, "" for none.
func (a *adjuster) frame(name string, box spec.Rect) string {
	if icon, ok := strings.CutPrefix(name, brief.IconFrame); ok {
		return IconPath(a.Icons[icon], box)
	}
	return FramePath(name, box, a.short)
}

// Slots of what is put behind lines: blocks, and a band from edge to edge.
const (
	highlight = "highlight"
	Strip     = "strip"
)

// How far a highlight reaches beyond letters, in em.
const (
	highlightUp   = 0.84
	highlightDown = 0.26
	highlightSide = 0.14
)

// backs puts behind parts what was drawn behind them by hand: blocks behind lines, borders
// around pictures.
func (a *adjuster) backs() {
	var out []scene.Part
	for _, p := range a.scene.Parts {
		h := a.Hands[p.Unit]
		if h == nil || !leads(&p) {
			out = append(out, p)
			continue
		}
		if c, ok := a.Paint(h.Band); ok && p.Words() && len(p.Lines) > 0 {
			// below all words and logos: it is there for these, not over others
			at := slices.IndexFunc(out, func(q scene.Part) bool { return q.Words() || q.Kind == scene.KindLogo })
			if at < 0 {
				at = len(out)
			}
			band := a.strip(&p, c)
			if at < len(out) {
				band.Stack = out[at].Stack
			}
			out = slices.Insert(out, at, band)
		}
		if c, ok := a.Paint(h.Highlight); ok && p.Words() {
			out = append(out, blocks(&p, c)...)
		}
		out = append(out, p)
		if e := h.Border; e != nil && p.Kind == scene.KindPicture {
			if c, ok := a.Paint(e.Fill); ok {
				out = append(out, border(&p, c, e.Width*a.short))
			}
		}
	}
	a.scene.Parts = out
}

// blocks are rectangles behind the lines of words.
func blocks(p *scene.Part, c colour.RGB) []scene.Part {
	var out []scene.Part
	var y float64
	for i, l := range p.Lines {
		size := p.Size(l)
		box := spec.Rect{
			X: l.X + l.Line.Ink.X0*size - highlightSide*size, Y: l.Y - highlightUp*size,
			W: (l.Line.Ink.X1 - l.Line.Ink.X0 + 2*highlightSide) * size, H: (highlightUp + highlightDown) * size,
		}
		if i > 0 && l.Y == y { // a run of the same line
			last := &out[len(out)-1]
			last.Box = last.Box.Union(box)
			continue
		}
		y = l.Y
		out = append(out, scene.Part{Slot: highlight, Unit: p.Unit, Stack: p.Stack, Kind: scene.KindShape, Box: box, Fill: c, Sheer: p.Sheer})
	}
	for i := range out {
		if p.Moved != nil {
			out[i].Move(*p.Moved)
		}
	}
	return out
}

// strip is a band behind all lines of words, from edge to edge of the canvas however it is
// turned.
func (a *adjuster) strip(p *scene.Part, c colour.RGB) scene.Part {
	first, last := p.Lines[0], p.Lines[len(p.Lines)-1]
	room := 0.5 * p.SizePx
	top, far := first.Y-highlightUp*p.Size(first)-room, float64(a.scene.W+a.scene.H)
	out := scene.Part{
		Slot: Strip, Unit: p.Unit, Stack: p.Stack, Kind: scene.KindShape, Fill: c, Sheer: p.Sheer,
		Box: spec.Rect{X: -far, Y: top, W: 3 * far, H: last.Y + highlightDown*p.Size(last) + room - top},
	}
	if p.Moved != nil {
		out.Move(*p.Moved)
	}
	return out
}

// border is a line around a picture, inside its edge.
func border(p *scene.Part, c colour.RGB, width float64) scene.Part {
	at := p.Solved()
	out := scene.Part{Slot: "border", Unit: p.Unit, Stack: p.Stack, Kind: scene.KindShape, Box: at, Fill: c, Stroke: width, Sheer: p.Sheer, Path: p.Clip}
	if out.Path == "" {
		in := at.Inset(width / 2)
		out.Path = FramePath("rectangle", in, 0)
	}
	if p.Moved != nil {
		out.Move(*p.Moved)
	}
	return out
}

// reorder moves things up and down in the order of drawing, by so many steps from where
// they were; what is moved lies beyond what stood there. Nothing goes under the ground.
func (a *adjuster) reorder() {
	steps := func(p *scene.Part) int {
		if h := a.Hands[p.Unit]; h != nil && h.Order != nil && p.Unit != ground {
			return *h.Order
		}
		return 0
	}
	at := func(p *scene.Part) (bool, int, int) {
		n := steps(p)
		return p.Unit != ground, p.Stack + n, n
	}
	slices.SortStableFunc(a.scene.Parts, func(p, q scene.Part) int {
		pf, pk, pn := at(&p)
		qf, qk, qn := at(&q)
		switch {
		case pf != qf && !pf:
			return -1
		case pf != qf:
			return 1
		}
		return cmp.Or(cmp.Compare(pk, qk), cmp.Compare(sign(pn), sign(qn)))
	})
}

func sign(n int) int { return cmp.Compare(n, 0) }
