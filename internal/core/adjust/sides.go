package adjust

import (
	"math"
	"slices"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// Sides is what of a thing's width and height can be chosen apart: "both", "across" for words,
// whose height follows from them, "" for what keeps its proportions (logos, icons, lists). Its
// parts are those of one unit of a drawing.
func Sides(parts []scene.Part) string {
	if slices.ContainsFunc(parts, func(p scene.Part) bool { return stretches(&p) }) {
		return "both"
	}
	words := 0
	for i := range parts {
		switch p := &parts[i]; {
		case p.Words() && (p.Kind != scene.KindText || !runs(p)):
			return ""
		case p.Words():
			words++
		}
	}
	if words == 1 {
		return "across"
	}
	return ""
}

// stretches reports whether a part of the layout takes any width and height.
func stretches(p *scene.Part) bool {
	switch p.Slot {
	case ground, "plate", "rating-stars", "rating-ground", "mark", "edge", highlight, Strip, "border":
		return false
	}
	return (p.Kind == scene.KindShape || p.Kind == scene.KindPicture) && p.Fade == nil
}

// runs reports whether words are running text in one size.
func runs(p *scene.Part) bool {
	if p.Slot == "lines" || p.Slot == "facts" {
		return false
	}
	for _, l := range p.Lines {
		if l.SizePx > 0 && l.SizePx != p.SizePx {
			return false
		}
	}
	return true
}

// measured breaks words for the width a hand gave them.
func measured(p *scene.Part) {
	if m := p.Measured; m != nil {
		p.Before, p.Lines, p.Box = p.Box, m.Lines, m.Box
	}
}

// stretched gives a part of a thing that lies in a box a width and a height of its own: shapes
// and pictures. What shows of a picture grows and shrinks with its frame.
func (a *adjuster) stretched(p *scene.Part, h *brief.Hand, box spec.Rect) {
	if !stretches(p) || box.W <= 0 || box.H <= 0 {
		return
	}
	to := box
	if h.Sides == [2]float64{} && h.Fit == "" {
		k := a.turnedCover(p, h)
		if k <= 1 {
			return
		}
		to = spec.Rect{X: box.X - box.W*(k-1)/2, Y: box.Y - box.H*(k-1)/2, W: k * box.W, H: k * box.H}
	}
	for i, k := range h.Sides {
		if k > 0 && i == 0 {
			to.X, to.W = box.X+box.W*(1-k)/2, box.W*k
		} else if k > 0 {
			to.Y, to.H = box.Y+box.H*(1-k)/2, box.H*k
		}
	}
	if h.Fit == "whole" || h.Fit == "wide" {
		to.X, to.W = 0, float64(a.scene.W)
	}
	if h.Fit == "whole" || h.Fit == "high" {
		to.Y, to.H = 0, float64(a.scene.H)
	}
	kx, ky := to.W/box.W, to.H/box.H
	was := p.Box
	p.Before = was
	p.Box = spec.Rect{X: to.X + (was.X-box.X)*kx, Y: to.Y + (was.Y-box.Y)*ky, W: was.W * kx, H: was.H * ky}
	if p.Path != "" {
		p.Path = scene.Stretched(p.Path, was, p.Box)
	}
	if p.Clip != "" {
		p.Clip = scene.Stretched(p.Clip, was, p.Box)
	}
	switch {
	case p.Slot == "button":
		p.Radius = a.Corner(p.Box.H)
	case p.Radius > 0:
		p.Radius = math.Min(p.Radius, math.Min(p.Box.W, p.Box.H)/2)
	}
	if p.Kind == scene.KindPicture {
		pic := a.Pictures[p.Picture]
		if h.Crop[2] > 0 { // chosen for the frame as it is now
			pic.Window = h.Crop
			p.Crop = pic.CropFor(photo.Frame{W: p.Box.W, H: p.Box.H})
			return
		}
		p.Crop = shown(p.Crop, kx, ky, pic)
	}
}

// turnedCover is how many times as large a picture that covers the piece has to be to cover it
// once it is turned about its middle; 1 for every other part.
func (a *adjuster) turnedCover(p *scene.Part, h *brief.Hand) float64 {
	w, high := float64(a.scene.W), float64(a.scene.H)
	if p.Kind != scene.KindPicture || p.Clip != "" || h.Frame != "" || h.Rotate == 0 || !p.Box.Contains(spec.Rect{W: w, H: high}, 1) {
		return 1
	}
	sin, cos := math.Sincos(h.Rotate * math.Pi / 180)
	sin, cos = math.Abs(sin), math.Abs(cos)
	return math.Max((w*cos+high*sin)/p.Box.W, (w*sin+high*cos)/p.Box.H)
}

// shown is what shows of a picture when its frame has become so many times as wide and as high:
// more or less of it about the same middle, as large as before while there is enough of it.
func shown(crop spec.Rect, kx, ky float64, of photo.Picture) spec.Rect {
	all := spec.Rect{W: float64(of.W), H: float64(of.H)}
	if of.W == 0 { // nothing is known of it but what shows
		all = crop
	}
	w, h := crop.W*kx, crop.H*ky
	if k := math.Min(all.W/w, all.H/h); k < 1 {
		w, h = w*k, h*k
	}
	within := func(v, least, most float64) float64 { return math.Max(least, math.Min(most, v)) }
	return spec.Rect{
		X: within(crop.X+(crop.W-w)/2, all.X, all.Right()-w), Y: within(crop.Y+(crop.H-h)/2, all.Y, all.Bottom()-h), W: w, H: h,
	}
}
