package piece

import (
	"math"
	"slices"

	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// hole is the share (0-1) of a piece its largest empty rectangle covers: no words, no logo, no
// button, no picture, no pattern in it.
func hole(s *scene.Scene) float64 {
	const short = 28 // cells along the short side
	side := float64(min(s.W, s.H)) / short
	across, down := int(math.Ceil(float64(s.W)/side)), int(math.Ceil(float64(s.H)/side))
	taken := make([]bool, across*down)
	for _, p := range s.Parts {
		if !p.Words() && p.Kind != scene.KindLogo && p.Kind != scene.KindPicture && p.Kind != scene.KindIcon && p.Slot != "button" && p.Slot != "plate" && p.Slot != "ornament" {
			continue
		}
		cell := func(v float64, n int) int { return max(0, min(n-1, int(v/side))) }
		for y := cell(p.Box.Y, down); y <= cell(p.Box.Bottom(), down); y++ {
			for x := cell(p.Box.X, across); x <= cell(p.Box.Right(), across); x++ {
				taken[y*across+x] = true
			}
		}
	}
	best, up := 0, make([]int, across)
	for y := range down {
		for x := range across {
			up[x]++
			if taken[y*across+x] {
				up[x] = 0
			}
		}
		for from := range up {
			for least, to := up[from], from; to < across && least > 0; to++ {
				least = min(least, up[to])
				best = max(best, least*(to-from+1))
			}
		}
	}
	return float64(best) / float64(across*down)
}

// What a piece may leave empty, and how small its words may be as seen.
const (
	roomLeft  = 0.125
	seenWell  = 12.0 // px on a screen 390 px wide (craft.md)
	seenBadly = 9.0
)

// room judges what is left over and how small the least words are: both parts of [Worth].
func (j judged) room(w *Worth) {
	w.Room, w.Seen = 1, 1
	if j.placement.Icon || j.placement.Tiny() || j.placement.Class() == spec.Ribbon {
		return
	}
	w.Room = math.Max(0, 1-roomCost*math.Max(0, hole(j.scene)-roomLeft))
	if layout.Feed(j.placement) {
		least := seenWell
		for _, p := range j.scene.Parts {
			if p.Words() && p.Slot != "terms" && p.Slot != "website" {
				least = math.Min(least, p.SizePx*390/float64(j.scene.W))
			}
		}
		w.Seen = math.Max(0, (least-seenBadly)/(seenWell-seenBadly))
	}
}

const roomCost = 4 // a hole of three eighths is worth nothing

// ranked judges the second rank and what stands under the headline: Second is 1 where the words
// the purpose puts second are at least 1.3 times the least words, half without; Apart is the gap
// under what is first over a third of the smaller line, at most 1.
func (j judged) ranked(w *Worth) {
	w.Second, w.Apart = 1, 1
	var first, under *scene.Part
	least, second, some := math.Inf(1), math.Inf(1), false
	for i := range j.scene.Parts {
		p := &j.scene.Parts[i]
		if !p.Words() {
			continue
		}
		if p.Slot == j.first {
			first = p
			continue
		}
		if layout.Second(j.purpose, p.Slot) {
			second, some = math.Min(second, largest(*p)), true
		} else {
			least = math.Min(least, p.SizePx)
		}
	}
	if some && !math.IsInf(least, 1) && second < 1.3*least {
		w.Second = 0.5
	}
	if first == nil {
		return
	}
	for i := range j.scene.Parts {
		p := &j.scene.Parts[i]
		if p.Words() && p != first && p.Box.Y >= first.Box.Y+first.Box.H/2 && p.Box.X < first.Box.Right() && first.Box.X < p.Box.Right() && (under == nil || p.Box.Y < under.Box.Y) {
			under = p
		}
	}
	if under != nil {
		w.Apart = math.Max(0, math.Min(1, (under.Box.Y-first.Box.Bottom())/(0.35*under.SizePx)))
	}
}

// How far apart parts of a sign-off may stand, of the short side, and from where they are not one
// block any longer (set by eye).
const (
	signTogether = 0.1
	signApart    = 0.5
)

// signed judges whether logo, address and button stand together, in rows or one below the other:
// Sign of [Worth].
func (j judged) signed() float64 {
	var parts []*scene.Part
	button := -1
	for i := range j.scene.Parts {
		switch p := &j.scene.Parts[i]; {
		case p.Kind == scene.KindButton:
			button = len(parts)
			parts = append(parts, p)
		case p.Kind == scene.KindLogo, p.Slot == "website":
			parts = append(parts, p)
		}
	}
	short, lost := shortSide(j.placement), 0.0
	for i, p := range parts {
		nearest := math.Inf(1)
		for k := range j.scene.Parts {
			o := &j.scene.Parts[k]
			if o != p && (slices.Contains(parts, o) || i == button && o.Words()) {
				nearest = math.Min(nearest, math.Max(o.Box.Y-p.Box.Bottom(), p.Box.Y-o.Box.Bottom()))
			}
		}
		if !math.IsInf(nearest, 1) { // else it is alone
			lost += math.Min(1, math.Max(0, nearest/short-signTogether)/(signApart-signTogether))
		}
	}
	return 1 - lost/math.Max(1, float64(len(parts)))
}
