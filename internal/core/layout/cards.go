package layout

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// cardPart is content on a shape of its own.
type cardPart struct{}

func (cardPart) name() string { return "card" }
func (cardPart) words() bool  { return false }
func (cardPart) lint(c *checker, n *Node, at string, _ colourway.Seat, _ bool) error {
	card := n.Card
	if card.Content == nil || card.Width <= 0 || card.Width > 1 || !slices.Contains(cardShapes, card.Shape) {
		return fmt.Errorf("%s.card: want content, a width up to 1 and a shape (%s)", at, strings.Join(cardShapes, ", "))
	}
	if card.Stub != nil {
		if err := c.content(card.Stub, at+".card.stub", card.Seat, false); err != nil {
			return err
		}
	}
	return c.content(card.Content, at+".card.content", card.Seat, false)
}
func (cardPart) present(t *trial, n *Node) bool {
	return t.present(n.Card.Content) || n.Card.Stub != nil && t.present(n.Card.Stub)
}
func (cardPart) measure(t *trial, n *Node, w float64) (box, bool) { return t.measureCard(n.Card, w) }
func (cardPart) place(t *trial, n *Node, r spec.Rect, _ colourway.Seat) bool {
	return t.placeCard(n.Card, r)
}

// cardShapes are the shapes a card can have.
var cardShapes = []string{"plain", "label", "ticket", "badge", "tag", "sheet", "speech"}

// Cards keep this much of their shape clear around content, in units.
const cardPad = 2.4

// cardForm is a card's outline at a width: what is kept clear inside.
type cardForm struct {
	inner                    float64 // px, the width of the content
	pad                      float64 // px, all round
	left, top, bottom, round float64 // px, more of it; round is a badge's diameter
	content, stub            box
	w, h                     float64 // px, the whole card
}

// form measures a card in a width; false when its content cannot be that
// narrow.
func (t *trial) form(c *Card, w float64) (f cardForm, ok bool) {
	f.pad = math.Max(cardPad*t.unit, math.Min(t.margin*0.8, w*0.08))
	if t.class == spec.Ribbon {
		f.pad = 1.3 * t.unit
	}
	most := math.Floor(w * c.Width)
	switch c.Shape {
	case "badge":
		return t.badgeForm(c, f, most)
	case "label":
		f.pad += 1.1 * t.unit // room for the printed border
	case "tag":
		f.left = math.Round(3 * t.unit) // the pointed end with its hole
	case "sheet":
		f.top = math.Round(2.2 * t.unit) // the bound edge
	case "speech":
		f.bottom = math.Round(2.4 * t.unit) // the tail
	}
	f.inner = most - 2*f.pad - f.left
	if f.content, ok = t.measureIn(c, f, f.inner); !ok {
		return f, false
	}
	if c.Shape == "sheet" { // no wider than what is on it
		f.inner = math.Min(f.inner, math.Ceil(math.Max(f.content.w, 1.05*f.content.h)))
	}
	f.h = f.content.h + 2*f.pad + f.top + f.bottom
	if c.Stub != nil && t.present(c.Stub) {
		if f.stub, ok = t.measure(c.Stub, f.inner); !ok {
			return f, false
		}
		f.h += f.stub.h + 2*t.stubGap(f)
	}
	f.w, f.h = f.inner+2*f.pad+f.left, math.Ceil(f.h)
	return f, true
}

// measureIn measures a card's content as it is set in it.
func (t *trial) measureIn(c *Card, f cardForm, inner float64) (b box, ok bool) {
	t.within(c, f, func() { b, ok = t.measure(c.Content, inner) })
	return b, ok
}

// placeIn places it.
func (t *trial) placeIn(c *Card, f cardForm, at spec.Rect) (ok bool) {
	t.within(c, f, func() { ok = t.place(c.Content, at, c.Seat) })
	return ok
}

// within does something with a card's content, of which a sheet's and a badge's stand in their
// middle.
func (t *trial) within(c *Card, f cardForm, do func()) {
	centred, taken := t.centred, t.taken
	t.centred = centred || c.Shape == "sheet" || c.Shape == "badge"
	t.taken = 2*f.pad + f.top + f.bottom
	if c.Shape == "badge" {
		t.taken = badgeTaken * t.here.safe.H
	}
	do()
	t.centred, t.taken = centred, taken
}

// badgeTaken is the share of a badge's height that is beside the box of its content.
const badgeTaken = 0.3

// stubGap is the space on either side of a ticket's perforation.
func (t *trial) stubGap(f cardForm) float64 { return math.Round(f.pad * 0.8) }

// badgeForm finds the widest content whose box has its corners inside a circle.
func (t *trial) badgeForm(c *Card, f cardForm, most float64) (cardForm, bool) {
	for _, k := range []float64{0.84, 0.78, 0.72, 0.66, 0.6, 0.54} {
		inner := math.Floor(most * k)
		size, ok := t.measureIn(c, f, inner)
		if !ok {
			continue
		}
		d := math.Ceil((t.across(c, f, inner, size) + 2.4*t.unit) / badgeInside)
		if d <= most {
			f.inner, f.content, f.round, f.w, f.h = math.Ceil(size.w)+1, size, d, d, d
			return f, true
		}
	}
	return f, false
}

// across is the diameter, px, of the smallest circle around the middle of a card's content: of a
// figure alone around its lines, of anything else around its box.
func (t *trial) across(c *Card, f cardForm, inner float64, size box) float64 {
	d := math.Hypot(size.w, size.h)
	shown := t.expand(c.Content.Stack)
	if len(shown) != 1 || shown[0].Figure == "" {
		return d
	}
	t.within(c, f, func() {
		if fig, ok := t.setFigure(shown[0], inner); ok {
			d = fig.across()
		}
	})
	return d
}

// badgeInside is the radius a badge's scalloped rim guarantees to its whole one.
const badgeInside = 0.93

func (t *trial) measureCard(c *Card, w float64) (box, bool) {
	f, ok := t.form(c, w)
	return box{f.w, f.h}, ok
}

func (t *trial) placeCard(c *Card, r spec.Rect) bool {
	f, ok := t.form(c, r.W)
	if !ok || f.h > r.H+0.5 {
		return false
	}
	t.inCard = true
	defer func() { t.inCard = false }()
	x := r.X
	switch t.side(c.Side) {
	case "center":
		x += (r.W - f.w) / 2
	case "right":
		x += r.W - f.w
	}
	card := spec.Rect{X: math.Round(x), Y: math.Round(r.Y), W: math.Round(f.w), H: math.Round(f.h)}
	if f.round > 0 {
		return t.placeBadge(c, f, card)
	}
	at := spec.Rect{X: card.X + f.pad + f.left, Y: card.Y + f.pad + f.top, W: f.inner, H: f.content.h}
	stubTop := at.Y + f.content.h + t.stubGap(f)
	hasStub := c.Stub != nil && t.present(c.Stub)
	t.drawCard(c, f, card, stubTop, hasStub)
	if !t.placeIn(c, f, at) {
		return false
	}
	if !hasStub {
		return true
	}
	t.perforate(c, f, card, stubTop)
	return t.place(c.Stub, spec.Rect{X: at.X, Y: stubTop + t.stubGap(f), W: f.inner, H: f.stub.h}, c.Seat)
}

// drawCard draws the shape itself and what is printed on it.
func (t *trial) drawCard(c *Card, f cardForm, card spec.Rect, stubTop float64, hasStub bool) {
	rad := t.cardRadius()
	part := scene.Part{Slot: "card", Kind: scene.KindShape, Box: card, Fill: t.colour(c.Seat), Radius: rad}
	line := math.Max(1, math.Round(t.unit*0.22))
	switch c.Shape {
	case "ticket":
		if hasStub {
			part.Path = ticketPath(card, stubTop, math.Min(f.pad*0.5, 1.4*t.unit))
		}
	case "tag":
		part.Path = tagPath(card, f.left, 0.62*t.unit)
	case "speech":
		part.Path = speechPath(card, f.bottom, math.Max(rad, t.unit))
	}
	t.cards = append(t.cards, part)
	switch c.Shape {
	case "tag": // the string it hangs on
		x, y, e := card.X+0.62*f.left, card.Y+card.H/2, f.left
		t.cards = append(t.cards, scene.Part{
			Slot: "card", Kind: scene.KindShape, Box: spec.Rect{X: x - 1.5*e, Y: y - 1.1*e, W: 1.5 * e, H: 1.1 * e}, Fill: t.colour(c.Seat), Stroke: line,
			Path: "M" + num(x) + " " + num(y) + "C" + num(x-0.7*e) + " " + num(y+0.3*e) + " " + num(x-1.3*e) + " " + num(y-0.2*e) + " " + num(x-1.5*e) + " " + num(y-1.1*e),
		})
	case "label":
		in := card.Inset(math.Round(0.9*t.unit) + line/2)
		in2 := math.Max(0, rad-0.6*t.unit)
		t.cards = append(t.cards, scene.Part{
			Slot: "card", Kind: scene.KindShape, Box: in, Fill: t.colour(colourway.InkOn(c.Seat)), Stroke: line, Radius: in2, Path: roundedPath(in, in2),
		})
	case "sheet":
		strip := spec.Rect{X: card.X, Y: card.Y, W: card.W, H: f.top}
		t.cards = append(t.cards, scene.Part{Slot: "card", Kind: scene.KindShape, Box: strip, Fill: t.ruleColour(c.Seat), Path: topRounded(strip, rad)})
		var holes strings.Builder
		for _, k := range []float64{0.28, 0.72} {
			holes.WriteString(circlePath(card.X+k*card.W, card.Y+f.top/2, 0.45*t.unit))
		}
		t.cards = append(t.cards, scene.Part{Slot: "card", Kind: scene.KindShape, Box: strip, Fill: t.colour(c.Seat), Path: holes.String()})
	}
}

// perforate draws a ticket's dashed line.
func (t *trial) perforate(c *Card, f cardForm, card spec.Rect, y float64) {
	dash, line := math.Max(2, math.Round(t.unit*0.8)), math.Max(1, math.Round(t.unit*0.22))
	var p strings.Builder
	for x := card.X + f.pad*0.9; x+dash < card.Right()-f.pad*0.9; x += 2 * dash {
		p.WriteString("M" + num(x) + " " + num(y) + "h" + num(dash))
	}
	if p.Len() > 0 {
		t.cards = append(t.cards, scene.Part{Slot: "card", Kind: scene.KindShape, Box: spec.Rect{X: card.X, Y: y, W: card.W, H: line}, Path: p.String(), Fill: t.colour(colourway.InkOn(c.Seat)), Stroke: line})
	}
}

func (t *trial) placeBadge(c *Card, f cardForm, card spec.Rect) bool {
	mx, my, r := card.X+card.W/2, card.Y+card.H/2, f.round/2
	line := math.Max(1, math.Round(t.unit*0.2))
	t.cards = append(t.cards,
		scene.Part{Slot: "card", Kind: scene.KindShape, Box: card, Fill: t.colour(c.Seat), Path: sealPath(mx, my, r)},
		scene.Part{Slot: "card", Kind: scene.KindShape, Box: card, Fill: t.colour(colourway.InkOn(c.Seat)), Stroke: line, Path: circlePath(mx, my, r*badgeInside-0.5*t.unit)})
	return t.placeIn(c, f, spec.Rect{X: mx - f.inner/2, Y: my - f.content.h/2, W: f.inner, H: f.content.h})
}

func roundedPath(r spec.Rect, rad float64) string {
	if rad <= 0 {
		return "M" + num(r.X) + " " + num(r.Y) + "H" + num(r.Right()) + "V" + num(r.Bottom()) + "H" + num(r.X) + "Z"
	}
	a := "A" + num(rad) + " " + num(rad) + " 0 0 1 "
	return "M" + num(r.X+rad) + " " + num(r.Y) + "H" + num(r.Right()-rad) + a + num(r.Right()) + " " + num(r.Y+rad) +
		"V" + num(r.Bottom()-rad) + a + num(r.Right()-rad) + " " + num(r.Bottom()) +
		"H" + num(r.X+rad) + a + num(r.X) + " " + num(r.Bottom()-rad) +
		"V" + num(r.Y+rad) + a + num(r.X+rad) + " " + num(r.Y) + "Z"
}

// ticketPath is a card with a half-round notch of radius n in both sides at y.
func ticketPath(r spec.Rect, y, n float64) string {
	return "M" + num(r.X) + " " + num(r.Y) + "H" + num(r.Right()) + "V" + num(y-n) +
		"A" + num(n) + " " + num(n) + " 0 0 0 " + num(r.Right()) + " " + num(y+n) +
		"V" + num(r.Bottom()) + "H" + num(r.X) + "V" + num(y+n) +
		"A" + num(n) + " " + num(n) + " 0 0 0 " + num(r.X) + " " + num(y-n) + "Z"
}

// topRounded is a rectangle with only its upper corners rounded.
func topRounded(r spec.Rect, rad float64) string {
	rad = math.Min(rad, r.H)
	a := "A" + num(rad) + " " + num(rad) + " 0 0 1 "
	return "M" + num(r.X) + " " + num(r.Bottom()) + "V" + num(r.Y+rad) + a + num(r.X+rad) + " " + num(r.Y) + "H" + num(r.Right()-rad) +
		a + num(r.Right()) + " " + num(r.Y+rad) + "V" + num(r.Bottom()) + "Z"
}

// tagPath is a card whose left end runs to a blunt point of depth e px, with a
// hole of radius hole px to see through.
func tagPath(r spec.Rect, e, hole float64) string {
	cut := math.Min(0.32*r.H, e)
	mid := r.Y + r.H/2
	// the hole runs the other way round, so that it stays open
	return "M" + num(r.X+e) + " " + num(r.Y) + "H" + num(r.Right()) + "V" + num(r.Bottom()) + "H" + num(r.X+e) +
		"L" + num(r.X) + " " + num(r.Bottom()-cut) + "V" + num(r.Y+cut) + "Z" + circlePath(r.X+0.62*e, mid, hole)
}

// speechPath is a rounded card with a tail of h px under its left part.
func speechPath(r spec.Rect, h, rad float64) string {
	b := r.Bottom() - h
	a := "A" + num(rad) + " " + num(rad) + " 0 0 1 "
	x := r.X + math.Max(2*rad, 0.12*r.W)
	return "M" + num(r.X+rad) + " " + num(r.Y) + "H" + num(r.Right()-rad) + a + num(r.Right()) + " " + num(r.Y+rad) +
		"V" + num(b-rad) + a + num(r.Right()-rad) + " " + num(b) + "H" + num(x+1.3*h) + "L" + num(x) + " " + num(r.Bottom()) + "V" + num(b) +
		"H" + num(r.X+rad) + a + num(r.X) + " " + num(b-rad) + "V" + num(r.Y+rad) + a + num(r.X+rad) + " " + num(r.Y) + "Z"
}

// sealPath is a circle with a scalloped rim.
func sealPath(x, y, r float64) string {
	const n = 28
	inner := r * (badgeInside + 0.02)
	var p strings.Builder
	for i := range n + 1 {
		a := 2 * math.Pi * float64(i) / n
		at := num(x+inner*math.Cos(a)) + " " + num(y+inner*math.Sin(a))
		if i == 0 {
			p.WriteString("M" + at)
			continue
		}
		bump := inner * math.Sin(math.Pi/n) * 1.02
		p.WriteString("A" + num(bump) + " " + num(bump) + " 0 0 1 " + at)
	}
	return p.String() + "Z"
}
