package piece

import (
	"cmp"
	"slices"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// Sight is what one sees first of a piece among others of its kit.
type Sight struct {
	Layout  string     // id
	Ground  colour.RGB // that covers most of it
	Picture Side       // where its largest picture stands
}

// Side is where something stands on a piece.
type Side string

// Sides of a piece.
const (
	Nowhere Side = ""
	Left    Side = "left"
	Right   Side = "right"
	Top     Side = "top"
	Bottom  Side = "bottom"
	Middle  Side = "middle"
	All     Side = "all" // of it, or nearly
)

// What makes two pieces look alike, together 1 (set by eye on a wall of twelve).
const (
	alikeLayout = 0.45
	alikeGround = 0.35
	alikeSide   = 0.2
)

// sameGround is how near (CIEDE2000) two grounds are that look the same on a small picture.
const sameGround = 8

// Alike is how much two pieces look the same side by side, 0 to 1.
func (s Sight) Alike(o Sight) float64 {
	v := 0.0
	if s.Layout == o.Layout {
		v += alikeLayout
	}
	if colour.DeltaE(s.Ground, o.Ground) < sameGround {
		v += alikeGround
	}
	if s.Picture == o.Picture && s.Picture != Nowhere {
		v += alikeSide
	}
	return v
}

// Sight is what one sees first of the piece.
func (p *Piece) Sight() Sight {
	return Sight{Layout: p.Layout.ID, Ground: p.Scene.MostSeen(), Picture: p.side()}
}

// whole is the share (0-1) of a piece from which a picture is all of it.
const whole = 0.8

func (p *Piece) side() Side {
	w, h := float64(p.Scene.W), float64(p.Scene.H)
	var largest spec.Rect
	for _, part := range p.Scene.Parts {
		if part.Kind == scene.KindPicture && part.Box.W*part.Box.H > largest.W*largest.H {
			largest = part.Box
		}
	}
	if largest.W*largest.H == 0 {
		return Nowhere
	}
	if largest.W*largest.H > whole*w*h {
		return All
	}
	x, y := (largest.X+largest.W/2)/w-0.5, (largest.Y+largest.H/2)/h-0.5 // of its middle from that of the piece
	switch {
	case max(x, -x, y, -y) < 0.08:
		return Middle
	case max(x, -x) > max(y, -y):
		if x < 0 {
			return Left
		}
		return Right
	case y < 0:
		return Top
	}
	return Bottom
}

// rankCost is what a look loses by each one that suits its brief better, against being alike.
const rankCost = 0.03

// Beside orders looks, which come best first, for a piece that will stand beside others: those
// that repeat least of what is near come first. Near are the others, the nearest first.
func (j *Job) Beside(looks []Look, near []Sight, p spec.Placement) []Look {
	type ranked struct {
		look Look
		cost float64
	}
	list := make([]ranked, len(looks))
	for i, l := range looks {
		pc := j.Compose(l, p, 0)
		cost := rankCost * float64(i)
		for n, o := range near {
			cost += pc.Sight().Alike(o) / float64(n+1)
		}
		list[i] = ranked{l, cost}
	}
	slices.SortStableFunc(list, func(a, b ranked) int { return cmp.Compare(a.cost, b.cost) })
	out := make([]Look, len(list))
	for i, r := range list {
		out[i] = r.look
	}
	return out
}
