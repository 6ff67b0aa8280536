package adjust

import (
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"slices"
	"strings"
)

// measure finds what words stand on now, and how well they read there; what was added
// without a colour gets one.
func (a *adjuster) measure() {
	for i := range a.scene.Parts {
		p := &a.scene.Parts[i]
		a.settle(p, a.scene.Parts[:i])
		if p.Words() && a.touched(p, i) {
			p.GroundByHand = true
			p.Contrast, p.Ground = a.worst(p, a.scene.Parts[:i])
		}
	}
}

// touched reports whether words, or something that is or was below them, were changed by
// hand; what was solved is measured already.
func (a *adjuster) touched(p *scene.Part, at int) bool {
	drawn := func(q *scene.Part) bool {
		return strings.HasPrefix(q.Slot, brief.AddedSlot) || slices.ContainsFunc(a.Hands[q.Unit].Changed(), func(pr brief.Property) bool { return pr.Drawn })
	}
	if drawn(p) {
		return true
	}
	for i := range a.scene.Parts {
		q := &a.scene.Parts[i]
		if i != at && drawn(q) && (q.Box.Overlaps(p.Box, 0) || q.Solved().Overlaps(p.Box, 0)) {
			return true
		}
	}
	return slices.ContainsFunc(a.gone, func(box spec.Rect) bool { return box.Overlaps(p.Box, 0) })
}

// veil is something half-transparent over what is looked at.
type veil struct {
	fill  colour.RGB
	alpha float64
}

// worst is the least contrast of words with what is drawn below them, and the colour it
// is with.
func (a *adjuster) worst(p *scene.Part, below []scene.Part) (contrast float64, ground colour.RGB) {
	inks := []colour.RGB{p.Fill}
	for _, l := range p.Lines {
		if l.Fill != nil {
			inks = append(inks, *l.Fill)
		}
	}
	return against(inks, a.under(p, below))
}

// against is the least contrast of inks with anything within bounds, and a colour that has
// it.
func against(inks []colour.RGB, grounds []photo.Bounds) (contrast float64, ground colour.RGB) {
	contrast, ground = 21, colour.White
	for _, b := range grounds {
		for _, ink := range inks {
			if c, g := b.Worst(ink, colour.RGB{}, 0); c < contrast {
				contrast, ground = c, g
			}
		}
	}
	return contrast, ground
}

// under is what is seen under a part: the bounds of each thing below it, until one covers
// all there is under it.
func (a *adjuster) under(p *scene.Part, below []scene.Part) (out []photo.Bounds) {
	var veils []veil
	see := func(b photo.Bounds) {
		for i := len(veils) - 1; i >= 0; i-- { // the lowest first
			b.Lo, b.Hi = veils[i].fill.Over(b.Lo, veils[i].alpha), veils[i].fill.Over(b.Hi, veils[i].alpha)
		}
		out = append(out, b)
	}
	for i := len(below) - 1; i >= 0; i-- {
		q := &below[i]
		if q.Unit == p.Unit && (q.Slot == highlight || q.Slot == Strip) && (q.Sheer == 0 || q.Sheer == 1) { // a block of its own
			see(photo.Bounds{Lo: q.Fill, Hi: q.Fill})
			break
		}
		if q.Words() || q.Box.Intersect(p.Box).Empty() {
			continue
		}
		outline := q.Path
		switch {
		case q.Kind == scene.KindShape && q.Stroke > 0 && q.Clip == "": // a line; a pattern of lines is clipped
			continue
		case q.Kind == scene.KindShape:
			if alpha := opacity(q, p.Box); alpha < 1 {
				veils = append(veils, veil{q.Fill, alpha})
				continue
			}
			see(photo.Bounds{Lo: q.Fill, Hi: q.Fill})
		case q.Kind == scene.KindPicture && q.Tone.On():
			d, l := q.Tone.Dark, q.Tone.Light
			see(photo.Bounds{Lo: colour.RGB{R: min(d.R, l.R), G: min(d.G, l.G), B: min(d.B, l.B)}, Hi: colour.RGB{R: max(d.R, l.R), G: max(d.G, l.G), B: max(d.B, l.B)}})
			outline = q.Clip
		case q.Kind == scene.KindPicture:
			see(a.pictureUnder(q, p.Box))
			outline = q.Clip
		default:
			continue
		}
		if (q.Sheer == 0 || q.Sheer == 1) && hides(q, outline, p.Box) {
			break
		}
	}
	return out
}

// hides reports whether a part with an outline, or without one its box, hides all of a
// box, wherever it was moved.
func hides(q *scene.Part, path string, box spec.Rect) bool {
	if !q.Box.Contains(box, 0.5) {
		return false
	}
	if q.Moved != nil {
		box = q.Moved.Undo().Box(box)
	}
	if path == "" {
		return q.Solved().Contains(box, 0.5)
	}
	return scene.Covers(path, box)
}

// opacity is the least opacity of a shape under a box.
func opacity(q *scene.Part, box spec.Rect) float64 {
	alpha := 1.0
	if q.Alpha > 0 {
		alpha = q.Alpha
	}
	if q.Fade != nil {
		for _, p := range [][2]float64{{box.X, box.Y}, {box.Right(), box.Y}, {box.X, box.Bottom()}, {box.Right(), box.Bottom()}} {
			alpha = min(alpha, q.Opacity(p[0], p[1]))
		}
	}
	if q.Sheer > 0 {
		alpha *= q.Sheer
	}
	return alpha
}

// mixedIn is how many px of the piece beside a place scaling mixes into it.
const mixedIn = 6

// pictureUnder are the bounds of a picture under a box of the piece.
func (a *adjuster) pictureUnder(q *scene.Part, box spec.Rect) photo.Bounds {
	pic := a.Pictures[q.Picture]
	under := box.Intersect(q.Box)
	kx, ky := q.Crop.W/q.Box.W, q.Crop.H/q.Box.H
	part := spec.Rect{X: q.Crop.X + (under.X-q.Box.X)*kx, Y: q.Crop.Y + (under.Y-q.Box.Y)*ky, W: under.W * kx, H: under.H * ky}
	if !q.Moved.Upright() { // turned: anywhere in it
		part = q.Crop
	}
	b := pic.Light.Under(part, pic.W, pic.H, mixedIn*max(1, kx))
	if q.Dials.On() {
		b.Lo, b.Hi = q.Dials.Bounds(b.Lo, b.Hi)
	}
	return b
}
