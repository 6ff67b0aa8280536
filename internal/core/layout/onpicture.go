package layout

import (
	"math"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// On lets a cell's content stand on its own picture, in the ink of the cell's seat.
type On struct {
	// Way is how the words come to read: "fade" grades the seat's colour to clear
	// from the side they hang on, "quiet" goes where the picture is emptiest and
	// fades no more than it must, often not at all, "toned" does so on a picture drawn
	// in two kit colours. Where that would take more of the picture's light than
	// [lightKept], it stands beside the words instead: a faded or toned one goes over
	// into their colour.
	Way string `json:"way"`
	// Sides are where the content may hang, the preferred first: bottom, top, left,
	// right. Another is taken where a face is in the way or, if quiet, where the
	// picture is emptier. None leaves the content where its V says, if no face is
	// there.
	Sides []string `json:"sides,omitempty"`
	// Width is the share (0-1) of the width content at the left or right takes.
	Width float64 `json:"width,omitempty"`
	// Most is the share (0-1) of the height content at the top or bottom takes at
	// most, mostTight more where there is little room; 0 for any. The picture is to show
	// something.
	Most  float64 `json:"most,omitempty"`
	Round bool    `json:"round,omitempty"` // a fade on circles around the corner it starts from
}

// What is set by eye on sheets of photographs.
const (
	fadeEdge     = 0.94 // opacity (0-1) of a fade at the edge it starts from
	fadeLeast    = 0.55 // and where the words end
	clearAfter   = 0.6  // of what lies beyond the words a fade takes at most to be clear
	mostTight    = 0.1
	mostText     = 0.85 // where what is first is a text
	buttonOnTone = 1.4  // contrast of a button with what a picture is toned to, where the kit has such a colour
	focusCost    = 0.3  // for words on what matters most
	fogCost      = 3    // for each part (0-1) of its light a picture loses beyond what it may
	lookCost     = 0.15 // opacity it is worth that people look towards the words
	sideCost     = 0.12 // opacity a quiet place must save to be preferred to one named before it
)

// onContrast is what words on a picture are given: a little more than they need, for
// what rounding takes away.
const onContrast = colourway.InkContrast + 0.1

// arrangement is one way to put a cell's content on its picture.
type arrangement struct {
	side    string
	at      spec.Rect // the content, px
	under   spec.Rect // what has to carry it, px
	picture scene.Part
	alpha   float64 // opacity of the veil where the words end
	edge    float64 // and at the edge it starts from
	fog     float64 // how much more light (0-1) the veil takes than it may
	covered float64 // share (0-1) of the most covered face, or a part of that of a thing

	panel spec.Rect   // flat colour the words stand on instead, beside the picture; empty for none
	joint *scene.Part // over the picture, from the panel's colour to clear; nil for a sharp edge
}

// placeOn puts a cell's content on the cell's picture; false when it does not fit.
func (t *trial) placeOn(c *Cell, r region) bool {
	s, ok := t.bestStand(c, r)
	if !ok {
		return false
	}
	if n := t.logoIn(c.Content); n != nil {
		return t.placeWithLogo(c, r, s, n)
	}
	_, ok = t.placeStand(c, r, s)
	return ok
}

// bestStand is where a cell's content hangs best; ok is false where it fits nowhere.
func (t *trial) bestStand(c *Cell, r region) (best arrangement, ok bool) {
	sides := c.On.Sides
	if len(sides) == 0 {
		sides = []string{"", "bottom", "top"}
	}
	least := math.Inf(1)
	for i, side := range sides {
		s, fits := t.arrangeAt(c, r, t.side(side))
		if !fits {
			continue
		}
		cost := 10*s.covered + fogCost*s.fog + t.lookedPast(c, s.side) + t.overFocus(s)
		if c.On.Way != "fade" {
			cost += s.alpha + sideCost*float64(i)
		}
		if cost < least-1e-9 {
			best, least, ok = s, cost, true
		}
		if cost == 0 { // nothing is in the way
			break
		}
	}
	return best, ok
}

// overFocus is what it costs to have words on what matters most in a picture of which no more is
// known than where that is.
func (t *trial) overFocus(s arrangement) float64 {
	p := t.in.PictureBy(s.picture.Picture)
	if len(p.Subjects) > 0 || p.Focus == [2]float64{0.5, 0.5} || !s.panel.Empty() {
		return 0
	}
	k := s.picture.Box.W / s.picture.Crop.W
	x, y := s.picture.Box.X+(p.Focus[0]*float64(p.W)-s.picture.Crop.X)*k, s.picture.Box.Y+(p.Focus[1]*float64(p.H)-s.picture.Crop.Y)*k
	if s.under.Holds(x, y) {
		return focusCost
	}
	return 0
}

// lookedPast is what it costs to have words where the people of a cell's picture do not
// look.
func (t *trial) lookedPast(c *Cell, side string) float64 {
	looks := t.in.Pictures[c.Picture-1].Looks()
	if side == "left" && looks > 0 || side == "right" && looks < 0 {
		return lookCost * math.Abs(looks)
	}
	return 0
}

// placeStand draws a cell's content where it hangs, with what makes it read there; cover
// is the part that veils the picture, nil for none.
func (t *trial) placeStand(c *Cell, r region, best arrangement) (cover *scene.Part, ok bool) {
	veil := t.colour(c.Seat)
	bounds := t.boundsUnder(best, best.under)
	from := len(t.content)
	if !t.place(c.Content, best.at, c.Seat) {
		return nil, false
	}
	if !best.panel.Empty() {
		t.under = append(t.under, best.picture)
		if best.joint != nil {
			t.under = append(t.under, *best.joint)
		}
		t.shapes = append(t.shapes, scene.Part{Slot: string(c.Seat), Kind: scene.KindShape, Box: best.panel, Fill: veil})
		return best.joint, true
	}
	alpha := best.alpha
	for _, p := range t.content[from:] {
		for _, ink := range inksOn(p, veil) {
			if a, ok := bounds.Veil(ink, veil, math.Min(onContrast, colour.Contrast(ink, veil))); ok {
				alpha = math.Max(alpha, a)
			}
		}
	}
	edge := math.Max(alpha, best.edge)
	t.under = append(t.under, best.picture)
	if alpha > 0 {
		part := t.fade(c, r, best, alpha, edge)
		t.under, cover = append(t.under, part), &part
	}
	t.ground(from, veil, func(ink colour.RGB) (float64, colour.RGB) {
		v, under := bounds.Worst(ink, veil, alpha)
		if e, at := bounds.Worst(ink, veil, edge); e < v { // the veil is nearer to the ink than the picture
			return e, at
		}
		return v, under
	})
	return cover, true
}

// inksOn are the inks a part sets words in on a ground.
func inksOn(p scene.Part, ground colour.RGB) []colour.RGB {
	if p.Kind != scene.KindText || p.Ground != ground {
		return nil
	}
	out := []colour.RGB{p.Fill}
	for _, l := range p.Lines {
		if l.Fill != nil {
			out = append(out, *l.Fill)
		}
	}
	return out
}

// ground tells the words placed since from on a ground what they really stand on.
func (t *trial) ground(from int, on colour.RGB, worst func(ink colour.RGB) (float64, colour.RGB)) {
	for i := from; i < len(t.content); i++ {
		p := &t.content[i]
		least, under := math.Inf(1), on
		for _, ink := range inksOn(*p, on) {
			if v, c := worst(ink); v < least {
				least, under = v, c
			}
		}
		if !math.IsInf(least, 1) {
			p.Contrast, p.Ground = least, under
		}
	}
}

// arrangeAt is the cell's content hung on a side, with the picture cropped for what
// stays free.
func (t *trial) arrangeAt(c *Cell, r region, side string) (s arrangement, ok bool) {
	rect := t.contentRect(c, r)
	if (side == "left" || side == "right") && c.On.Width > 0 {
		w := math.Round(c.On.Width * rect.W)
		if side == "right" {
			rect.X = rect.Right() - w
		}
		rect.W = w
	}
	if (side == "top" || side == "bottom") && c.On.Most > 0 {
		most := c.On.Most
		if t.st.tight || t.class == spec.Tower {
			most += mostTight
		}
		if t.firstLong(longHeadline) {
			most = math.Max(most, mostText)
		}
		h := math.Min(rect.H, most*r.bleed.H)
		if side == "bottom" {
			rect.Y = rect.Bottom() - h
		}
		rect.H = h
	}
	size, ok := t.measure(c.Content, rect.W)
	if !ok || size.h > rect.H+0.01 {
		return s, false
	}
	s = arrangement{side: side, at: spec.Rect{X: rect.X, Y: rect.Y, W: rect.W, H: size.h}}
	v := c.Content.V
	switch side {
	case "bottom":
		v = "end"
	case "top":
		v = "start"
	}
	switch {
	case (c.Content.Fill || v == "spread") && (c.On.Way != "toned" || side != "top" && side != "bottom"):
		s.at.H = rect.H
	case v == "end":
		s.at.Y += rect.H - size.h
	case v == "center":
		s.at.Y += (rect.H - size.h) / 2
	}
	b := r.bleed
	s.under = s.at.Inset(-t.unit)
	seen := b
	const most = 0.7 // of the frame given away at most: a crop is to show something
	gap := t.unit
	if c.On.Way == "fade" { // it goes on beyond the words
		gap = 2 * t.margin
	}
	switch side {
	case "bottom":
		seen.H = math.Max((1-most)*b.H, s.at.Y-gap-b.Y)
	case "top":
		seen.H = math.Max((1-most)*b.H, b.Bottom()-s.at.Bottom()-gap)
		seen.Y = b.Bottom() - seen.H
	case "left":
		seen.W = math.Max((1-most)*b.W, b.Right()-s.at.Right()-gap)
		seen.X = b.Right() - seen.W
	case "right":
		seen.W = math.Max((1-most)*b.W, s.at.X-gap-b.X)
	}
	s.picture = t.picture(c.Picture, b, seen)
	if c.On.Way == "toned" {
		s.picture.Tone = t.tone(c)
	}
	t.veil(&s, c, r)
	if s.panel.Empty() {
		s.covered = t.coveredBy(s, c, b)
	} else {
		s.covered = harmed * t.missing(s)
	}
	return s, true
}

// coveredBy is how much of the most covered subject of a cell's picture a stand's words
// lie over, or the veil from its side to where they end hides.
func (t *trial) coveredBy(s arrangement, c *Cell, b spec.Rect) float64 {
	zone := s.under
	switch s.side {
	case "top":
		zone.Y, zone.H = b.Y, s.under.Bottom()-b.Y
	case "bottom":
		zone.H = b.Bottom() - s.under.Y
	case "left":
		zone.X, zone.W = b.X, s.under.Right()-b.X
	case "right":
		zone.W = b.Right() - s.under.X
	}
	if s.side == "top" || s.side == "bottom" {
		zone.X, zone.W = b.X, b.W
	} else if s.side != "" {
		zone.Y, zone.H = b.Y, b.H
	}
	hidden := math.Max(0, (s.alpha-veiled)/(1-veiled))
	cover := func(box spec.Rect) float64 { return math.Max(box.Share(s.at), hidden*box.Share(zone)) }
	most, p := 0.0, t.in.Pictures[c.Picture-1]
	for _, f := range p.FacesIn(s.picture.Crop, b) {
		most = math.Max(most, cover(f))
	}
	if thing, ok := p.ThingIn(s.picture.Crop, b); ok {
		most = math.Max(most, thingHarm*cover(thing))
	}
	return most
}

// boundsUnder are what a stand's picture lies between under a box. Scaling mixes in
// what lies three px of the piece beside it, on small screens more.
func (t *trial) boundsUnder(s arrangement, box spec.Rect) photo.Bounds {
	p := t.in.PictureBy(s.picture.Picture)
	k := s.picture.Crop.W / s.picture.Box.W
	part := spec.Rect{
		X: s.picture.Crop.X + (box.X-s.picture.Box.X)*k, Y: s.picture.Crop.Y + (box.Y-s.picture.Box.Y)*k,
		W: box.W * k, H: box.H * k,
	}
	bounds := p.Light.Under(part, p.W, p.H, 6*math.Max(1, k))
	if tone := s.picture.Tone; tone.On() {
		bounds.Lo, bounds.Hi = tone.Between(bounds.Lo, bounds.Hi)
	}
	return bounds
}

// PictureBy is the picture of a hash, an empty one where the piece has none of it.
func (in *Input) PictureBy(hash string) photo.Picture {
	for _, p := range in.Pictures {
		if p.Hash == hash {
			return p
		}
	}
	return photo.Picture{}
}

// fade grades the seat's colour to clear from the side a stand hangs on: at least
// alpha under the words, up to edge towards the side, less and less beyond them.
func (t *trial) fade(c *Cell, r region, s arrangement, alpha, edge float64) scene.Part {
	b := r.bleed
	part := scene.Part{Slot: "fade", Kind: scene.KindShape, Box: b, Fill: t.colour(c.Seat), Alpha: alpha}
	pad := 1.5 * t.unit
	long := math.Max(3*t.margin, 0.36*math.Min(b.W, b.H))
	switch s.side { // some of the picture stays clear
	case "top":
		long = math.Min(long, clearAfter*(b.Bottom()-s.at.Bottom()-pad))
	case "bottom":
		long = math.Min(long, clearAfter*(s.at.Y-pad-b.Y))
	case "left":
		long = math.Min(long, clearAfter*(b.Right()-s.at.Right()-pad))
	case "right":
		long = math.Min(long, clearAfter*(s.at.X-pad-b.X))
	}
	long = math.Max(long, t.margin)
	if c.On.Round && (s.side == "left" || s.side == "right") {
		x, y := b.X, b.Y
		if s.side == "right" {
			x = b.Right()
		}
		if s.at.Y+s.at.H/2 > b.Y+b.H/2 {
			y = b.Bottom()
		}
		far := 0.0
		for _, px := range []float64{s.under.X, s.under.Right()} {
			for _, py := range []float64{s.under.Y, s.under.Bottom()} {
				far = math.Max(far, math.Hypot(px-x, py-y))
			}
		}
		part.Fade = &scene.Fade{X0: x, Y0: y, Radius: far + long, Hold: far / (far + long), Edge: edge}
		return part
	}
	f := &scene.Fade{X0: b.X, Y0: b.Y, X1: b.X, Y1: b.Y, Edge: edge}
	var words float64 // from the edge to where the words end
	switch s.side {
	case "top":
		words = s.at.Bottom() + pad - b.Y
		f.Y1 = b.Y + words + long
	case "left":
		words = s.at.Right() + pad - b.X
		f.X1 = b.X + words + long
	case "right":
		words = b.Right() - s.at.X + pad
		f.X0, f.X1 = b.Right(), b.Right()-words-long
	case "bottom":
		words = b.Bottom() - s.at.Y + pad
		f.Y0, f.Y1 = b.Bottom(), b.Bottom()-words-long
	default: // words all over: all of it
		return part
	}
	f.Hold = words / (words + long)
	part.Fade = f
	return part
}

// tone is the pair of colours a cell's picture is drawn in: the seat's, in its shadows or its
// lights, and the kit's that is farthest from it in lightness, not that of the button where
// another leaves the picture enough of its range, white or black where none of the kit's does.
func (t *trial) tone(c *Cell) scene.Tone {
	seat := t.colour(c.Seat)
	black, white := t.in.Pictures[c.Picture-1].Light.Points()
	with := func(other colour.RGB) scene.Tone {
		if other.Luminance() < seat.Luminance() {
			return scene.Tone{Dark: other, Light: seat, Black: black, White: white}
		}
		return scene.Tone{Dark: seat, Light: other, Black: black, White: white}
	}
	best := with(seat)
	farther := func(list []brand.Colour, wanted func(colour.RGB) bool) {
		for _, k := range list {
			if tone := with(k.Value); tonalRange(tone) > tonalRange(best) && wanted(k.Value) {
				best = tone
			}
		}
	}
	all := func(colour.RGB) bool { return true }
	button := t.colour(colourway.Button)
	farther(t.in.Kit.Colours(), func(c colour.RGB) bool { return colour.Contrast(c, button) >= buttonOnTone })
	if tonalRange(best) < lightKept.Range {
		farther(t.in.Kit.Colours(), all)
	}
	if tonalRange(best) < lightKept.Range {
		farther([]brand.Colour{colourway.White, colourway.Black}, all)
	}
	return best
}
