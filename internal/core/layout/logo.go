package layout

import (
	"math"
	"strings"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/typeset"
)

// logoPart is the logo in wide or compact room.
type logoPart struct{}

func (logoPart) name() string                                             { return "logo" }
func (logoPart) words() bool                                              { return true } // it needs a flat seat as words do
func (logoPart) lint(*checker, *Node, string, colourway.Seat, bool) error { return nil }
func (logoPart) present(t *trial, _ *Node) bool {
	return !t.lifted && t.in.shows("logo") && !t.st.dropped["logo"] && (len(t.in.Kit.Logos) > 0 || t.in.Words["businessName"] != "")
}
func (logoPart) measure(t *trial, n *Node, w float64) (box, bool) { return t.logoSize(n, w) }
func (logoPart) place(t *trial, n *Node, r spec.Rect, seat colourway.Seat) bool {
	return t.placeLogo(n, r, seat)
}

// logoShare is the logo's part of the safe area (craft.md: 3-6%, more on tiny
// pieces and icons).
func (t *trial) logoShare() float64 {
	switch {
	case t.tiny:
		return 0.07
	case t.class == spec.Ribbon:
		return 0.05
	}
	return 0.022
}

// pickedLogo is a logo for a seat in a room, with its size in px.
type pickedLogo struct {
	fit  brand.LogoFit
	w, h float64
	ok   bool
}

// logoAsked is what a logo on flat ground is picked by; the rest is the same in all trials of
// one search.
type logoAsked struct {
	seat colourway.Seat
	room string
}

// pickLogo chooses a logo for a seat: a compact one where a wide one would be
// under 40 px as seen, or under the least width its owner set. What has to be
// larger is drawn larger, up to half the safe width.
func (t *trial) pickLogo(seat colourway.Seat, room string) (fit brand.LogoFit, w, h float64, ok bool) {
	if t.logoOn != nil {
		p := t.pickLogoOn(seat, room)
		return p.fit, p.w, p.h, p.ok
	}
	p, known := t.logos[logoAsked{seat, room}]
	if !known {
		p = t.pickLogoOn(seat, room)
		t.logos[logoAsked{seat, room}] = p
	}
	return p.fit, p.w, p.h, p.ok
}

func (t *trial) pickLogoOn(seat colourway.Seat, room string) (p pickedLogo) {
	area := t.logoShare() * t.safe.W * t.safe.H
	shape := brand.Shape(room)
	for {
		if on := t.logoOn; on != nil {
			p.fit, p.ok = t.in.Kit.PickLogoBetween(on.Lo, on.Hi, shape, t.in.Logo)
		} else {
			p.fit, p.ok = t.in.Kit.PickLogo(t.colour(seat), shape, t.in.Logo)
		}
		if !p.ok {
			return p
		}
		a := p.fit.Logo.Art.Aspect()
		p.h = math.Sqrt(area / a)
		p.h = math.Min(p.h, 0.34*t.safe.H)
		p.w = p.h * a
		if limit := 0.46 * t.safe.W; p.w > limit {
			p.w, p.h = limit, limit/a
		}
		least := p.fit.Logo.MinWidth
		if shape == brand.WideRoom && a > 1.6 && p.w*t.seen < math.Max(40, least) {
			shape = brand.CompactRoom
			continue
		}
		if up := math.Min(least/t.seen, math.Min(0.5*t.safe.W, 0.5*t.safe.H*a)); p.w < up {
			p.w, p.h = up, up/a
		}
		return p
	}
}

// platePad is the room a plate leaves around a logo, over its height, or its width times
// plateWide where that is less: it hugs the logo, at most about twice its area.
const (
	platePad  = 0.16
	plateWide = 1.6
)

// plateRoom is that room in px.
func plateRoom(w, h float64) float64 { return platePad * math.Min(h, plateWide*w) }

func (t *trial) logoSize(n *Node, w float64) (box, bool) {
	fit, lw, lh, ok := t.pickLogo(t.seatForLogo(n), n.Logo)
	if !ok {
		s, ok := t.setText(&Node{Lines: 2}, "businessName", w)
		return box{s.w, s.h}, ok
	}
	if n.Scale > 0 {
		lw, lh = lw*n.Scale, lh*n.Scale
	}
	pad := 0.0
	if fit.Plate { // the plate adds weight: it and its logo share the room
		lw, lh = lw*0.75, lh*0.75
		pad = plateRoom(lw, lh)
	}
	if total := lw + 2*pad; total > w {
		k := w / total
		lw, lh, pad = lw*k, lh*k, pad*k
	}
	return box{lw + 2*pad, lh + 2*pad}, true
}

// logoClear is the space in px a node keeps free around its logo when the kit
// says how much; where it says nothing, the gaps of the layout are enough.
func (t *trial) logoClear(n *Node) float64 {
	if n.kind() != "logo" {
		return 0
	}
	fit, _, h, ok := t.pickLogo(t.seatForLogo(n), n.Logo)
	if !ok {
		return 0
	}
	if n.Scale > 0 {
		h *= n.Scale
	}
	return fit.Logo.ClearSpace * h
}

// seatForLogo is the seat a logo is measured on before it is placed: logos of a
// kit share their proportions closely enough per room, and placing picks anew.
func (t *trial) seatForLogo(*Node) colourway.Seat { return t.in.Layout.ButtonOn }

func (t *trial) placeLogo(n *Node, r spec.Rect, seat colourway.Seat) bool {
	fit, _, _, ok := t.pickLogo(seat, n.Logo)
	if !ok {
		s, ok := t.setText(&Node{Lines: 2}, "businessName", r.W)
		if ok && s.h <= r.H+0.5 {
			t.drawText("businessName", scene.KindText, s, r, t.align(), seat)
		}
		return ok
	}
	t.drawLogo(fit, r, seat, t.align())
	return true
}

// drawLogo fits a logo into a rectangle, on a plate where its tones do not read
// on the ground.
func (t *trial) drawLogo(fit brand.LogoFit, r spec.Rect, seat colourway.Seat, align string) {
	art := fit.Art()
	inner := r
	if fit.Plate { // the most room a logo of these proportions needs
		a := art.Aspect()
		h := math.Min(r.H/(1+2*plateRoom(a, 1)), r.W/(a+2*plateRoom(a, 1)))
		inner = r.Inset(plateRoom(a*h, h))
	}
	w, h := inner.W, inner.W/art.Aspect()
	if h > inner.H {
		w, h = inner.H*art.Aspect(), inner.H
	}
	x := inner.X
	if align == "center" {
		x += (inner.W - w) / 2
	} else if t.rtl {
		x = inner.Right() - w
	}
	at := spec.Rect{X: x, Y: inner.Y + (inner.H-h)/2, W: w, H: h}
	part := scene.Part{Slot: "logo", Kind: scene.KindLogo, Box: at, Art: art, File: fit.Logo.File, Ground: t.colour(seat)}
	if on := t.logoOn; on != nil {
		part.Ground = on.Lo.Over(on.Hi, 0.5)
	}
	if fit.Plate {
		part.Ground = t.in.Kit.PlateFor(fit.Logo)
		t.content = append(t.content, t.plate(at.Inset(-plateRoom(w, h)), part.Ground))
	}
	t.content = append(t.content, part)
}

// plate is the ground of a logo of which nothing reads where it stands.
func (t *trial) plate(b spec.Rect, fill colour.RGB) scene.Part {
	return scene.Part{Slot: "plate", Kind: scene.KindShape, Fill: fill, Box: b, Radius: math.Min(t.cardRadius(), 0.2*b.H)}
}

// solveIcon builds a picture of who we are: the mark alone, as large as the
// safe box allows, or the first letters of the name.
func solveIcon(in Input) Result {
	st := state{class: spec.Square, dropped: map[string]bool{}, shrink: 1}
	t := in.newTrial(st)
	safe := t.safe.Inset(math.Round(math.Min(t.safe.W, t.safe.H) * 0.08))
	if fit, ok := in.Kit.PickLogo(t.colour(colourway.Ground), brand.CompactRoom, in.Logo); ok {
		r := safe
		if fit.Plate { // the whole icon becomes the plate
			ground := t.in.Kit.PlateFor(fit.Logo)
			t.shapes = append(t.shapes, scene.Part{Slot: "plate", Kind: scene.KindShape, Box: in.Placement.Canvas(), Fill: ground})
			fit.Plate = false
			t.drawLogo(fit, r, colourway.Ground, "center")
			t.content[len(t.content)-1].Ground = ground
		} else {
			t.drawLogo(fit, r, colourway.Ground, "center")
		}
		return t.result(nil)
	}
	name := in.Words["businessName"]
	if name == "" {
		name = in.Words["headline"]
	}
	in.Words = map[string]string{"headline": initials(name)}
	in.Layout = Plain()
	in.Pictures = nil
	in.Signature = "none"
	t = in.newTrial(st)
	style := in.Types.Levels[brand.Headline]
	p := in.Shaper.Paragraph(in.Words["headline"], typeset.Style{Face: t.face(style)})
	set := p.Break(1)
	if set == nil {
		return t.result(nil)
	}
	ink := set.Lines[0].Ink
	size := math.Floor(math.Min(safe.W/(ink.X1-ink.X0), safe.H/(ink.Y1-ink.Y0))*9) / 10
	s := setting{set: set, style: style, face: t.face(style), size: size, w: (ink.X1 - ink.X0) * size, text: in.Words["headline"]}
	s.top = safe.H/2 - (ink.Y0+ink.Y1)/2*size
	t.drawText("headline", scene.KindText, s, safe, "center", colourway.Ground)
	return t.result(nil)
}

// solveMark builds a piece that has nothing but a logo to show: the mark in the
// middle of the ground, in half of the width or height there is. ok is false
// when the kit has no logo either.
func solveMark(in Input) (r Result, ok bool) {
	t := in.newTrial(state{class: in.Placement.Class(), dropped: map[string]bool{}, shrink: 1})
	room := brand.CompactRoom
	if t.safe.W > 1.2*t.safe.H {
		room = brand.WideRoom
	}
	fit, ok := in.Kit.PickLogo(t.colour(colourway.Ground), room, in.Logo)
	if !ok {
		return Result{}, false
	}
	w, h := t.safe.W*0.56, t.safe.H*0.5
	if a := fit.Logo.Art.Aspect(); w/h > a {
		w = h * a
	} else {
		h = w / a
	}
	t.drawLogo(fit, spec.Rect{X: t.safe.X + (t.safe.W-w)/2, Y: t.safe.Y + (t.safe.H-h)/2, W: w, H: h}, colourway.Ground, "center")
	return t.result(nil), true
}

// initials are the first letters of the first two words.
func initials(name string) string {
	out := ""
	for _, w := range strings.Fields(name) {
		r := []rune(w)
		if len(r) > 0 && len([]rune(out)) < 2 {
			out += strings.ToUpper(string(r[0]))
		}
	}
	if out == "" {
		return "•"
	}
	return out
}
