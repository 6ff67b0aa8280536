package photo

import (
	"math"
	"slices"

	"aspenridge/internal/core/spec"
)

// What is set by eye on sheets of photographs of several people.
const (
	companions = 4    // how many people are looked at
	goneFrom   = 0.97 // of a head out of view (0-1) from which nobody sees that it is missing
	bodyBelow  = 3    // times a face's height under it in which a body without it would be seen

	goneCost   = 0.3  // of each person left out
	cutCost    = 0.6  // of each face cut, and as much more as is cut off
	firstCost  = 1.9  // times either, of the largest face
	hairCost   = 0.12 // of each whose hair alone is cut, and as much more as is cut off
	nearerCost = 0.3  // of a crop half as large
	uncutGain  = 0.02 // what another crop has to cost less
	nearerBy   = 0.17 // of the largest crop, from one size tried to the next
)

// Bystander is the part of the largest face's area under which a face is none of the picture's
// subjects.
const Bystander = 0.3

// uncut is a crop, or one near it or closer, in which no head is cut by the edge of what is seen:
// of several people some are shown whole and the others not at all. w and h are the size of the
// largest crop, px.
func (p Picture) uncut(crop spec.Rect, f Frame, w, h float64) spec.Rect {
	heads := p.heads()
	if len(heads) < 2 {
		return crop
	}
	first := p.cutHeads(crop, f.Seen, heads)
	if first == 0 {
		return crop
	}
	best, least := crop, first-uncutGain
	for k := crop.W / w; k >= math.Max(closest, f.W/w); k -= nearerBy {
		cw, ch := w*k, h*k
		near := nearerCost * (crop.W/cw - 1)
		if near >= least {
			break
		}
		for _, x := range starts(crop.X, float64(p.W), cw, f.Seen[0], f.Seen[2], heads, func(r spec.Rect) (float64, float64) { return r.X, r.Right() }) {
			for _, y := range starts(crop.Y, float64(p.H), ch, f.Seen[1], f.Seen[3], heads, func(r spec.Rect) (float64, float64) { return r.Y, r.Bottom() }) {
				c := spec.Rect{X: x, Y: y, W: cw, H: ch}
				if cost := near + p.cutHeads(c, f.Seen, heads); cost < least {
					best, least = c, cost
				}
			}
		}
	}
	return best
}

// head is a face, and the same with its hair as far as the picture shows it, px.
type head struct{ face, all spec.Rect }

// heads are the largest faces of a picture.
func (p Picture) heads() []head {
	var out []head
	area := 0.0
	for _, s := range p.Subjects {
		if s.Kind != Face || len(out) == companions {
			continue
		}
		b := s.Box
		if area = math.Max(area, b[2]*b[3]); b[2]*b[3] < Bystander*area {
			continue
		}
		face := spec.Rect{X: b[0] * float64(p.W), Y: b[1] * float64(p.H), W: b[2] * float64(p.W), H: b[3] * float64(p.H)}
		hair := math.Min(face.Y, headroom*face.H) // found faces reach from the brow to the chin
		out = append(out, head{face, spec.Rect{X: face.X, Y: face.Y - hair, W: face.W, H: face.H + hair}})
	}
	return out
}

// cutHeads is what it costs to see a part of a crop: 0 where all heads are whole in it.
func (p Picture) cutHeads(crop spec.Rect, seen [4]float64, heads []head) float64 {
	view := spec.Rect{X: crop.X + seen[0]*crop.W, Y: crop.Y + seen[1]*crop.H, W: seen[2] * crop.W, H: seen[3] * crop.H}
	cost, whole := 0.0, 0
	for i, h := range heads {
		weight := 1.0
		if i == 0 {
			weight = firstCost
		}
		switch lost := 1 - h.all.Share(view); {
		case lost > goneFrom && !Headless(h.face, view):
			cost += weight * goneCost
		case 1-h.face.Share(view) > 0.01:
			cost += weight * (cutCost + lost)
		default:
			if whole++; lost > 0.01 {
				cost += hairCost + lost
			}
		}
	}
	if whole == 0 {
		cost++
	}
	return cost / float64(len(heads))
}

// Headless reports whether a view shows the body of somebody whose face is above it.
func Headless(face, view spec.Rect) bool {
	across := math.Min(face.Right(), view.Right()) - math.Max(face.X, view.X)
	return face.Bottom() <= view.Y+0.1*face.H && face.Bottom()+bodyBelow*face.H > view.Y && across > face.W/2
}

// starts are where a crop of a size may start along an axis: where it did, and where the edges of
// what is seen of it meet those of a head. The picture is long px, seen from and share of the crop.
func starts(was, long, size, from, share float64, heads []head, edges func(spec.Rect) (float64, float64)) []float64 {
	const clear = 0.04 // of a head, between it and the edge
	list := []float64{was}
	for _, h := range heads {
		a, b := edges(h.all)
		off := clear * (b - a)
		for _, edge := range []float64{a - off, b + off} {
			list = append(list, edge-from*size, edge-(from+share)*size)
		}
	}
	for i := range list {
		list[i] = math.Max(0, math.Min(long-size, list[i]))
	}
	return slices.Compact(slices.Sorted(slices.Values(list)))
}
