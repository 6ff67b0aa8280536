package photo

import (
	"math"

	"aspenridge/internal/core/spec"
)

// Frame is a place a picture fills.
type Frame struct {
	W, H float64    // px
	Seen [4]float64 // what nothing covers of it, as fractions x, y, w, h; zero is all
	// Shoulders asks for one person, head and shoulders, where a face was found.
	Shoulders bool
}

// Crop is the part of the picture, in its own px, that fills a frame of the given
// width to height ratio: as much of it as possible, with the focal point as near to
// a target (0-1 of the frame) as the edges allow, and its subjects whole.
func (p Picture) Crop(aspect float64, target [2]float64) spec.Rect {
	w, h := p.most(aspect)
	if p.Window[2] > 0 && p.Window[3] > 0 {
		return p.windowed(aspect, w, h)
	}
	return p.at(w, h, target, whole)
}

// whole is all of a frame.
var whole = [4]float64{0, 0, 1, 1}

// most is the size in px of the largest part of the picture of a width to height ratio.
func (p Picture) most(aspect float64) (w, h float64) {
	w, h = float64(p.W), float64(p.W)/aspect
	if h > float64(p.H) {
		w, h = float64(p.H)*aspect, float64(p.H)
	}
	return w, h
}

// CropFor is the part of the picture, in its own px, that fills a frame: its subjects
// whole and in what is seen of it, faces with headroom and their eyes above the middle,
// and close enough for a small subject to be seen, as far as the pixels allow.
func (p Picture) CropFor(f Frame) spec.Rect {
	if f.Seen[2] <= 0 || f.Seen[3] <= 0 {
		f.Seen = whole
	}
	w, h := p.most(f.W / f.H)
	if p.Window[2] > 0 && p.Window[3] > 0 {
		return p.windowed(f.W/f.H, w, h)
	}
	k := p.closer(f, w, h)
	target := [2]float64{f.Seen[0] + f.Seen[2]/2, f.Seen[1] + f.Seen[3]/2}
	if p.shows(Face) {
		target[0] -= p.lean() * f.Seen[2]
		target[1] = f.Seen[1] + eyeLine*f.Seen[3]
	}
	return p.uncut(p.at(w*k, h*k, target, f.Seen), f, w, h)
}

// What is set by eye on sheets of photographs.
const (
	eyeLine     = 0.42 // of what is seen: where the middle of a face goes, its eyes above
	faceSeen    = 0.15 // of the seen height a face is high at least
	thingSeen   = 0.42 // of what is seen, by side, a thing takes at least
	saidSeen    = 0.5  // and what somebody said
	shoulders   = 0.36 // of the seen height a head is high in a portrait
	closest     = 0.5  // of the largest crop: nearer than that nothing is left of the scene
	closestHead = 0.2  // for a portrait
	frontal     = 0.15 // turn of a face up to which it looks out of the picture
	turnedAway  = 0.5  // and from which it looks past its edge
)

// Looks is where the people in a picture look, -1 to 1: to its left, out of it or
// nowhere in common, to its right; larger faces count more.
func (p Picture) Looks() float64 {
	sum, all := 0.0, 0.0
	for _, s := range p.Subjects {
		if s.Kind == Face {
			area := s.Box[2] * s.Box[3]
			sum, all = sum+area*s.Turn, all+area
		}
	}
	if all == 0 || math.Abs(sum/all) < frontal {
		return 0
	}
	return math.Max(-1, math.Min(1, sum/all/turnedAway))
}

// lean is how far from the middle of what is seen faces go (0-1 of its width), up to a
// third of it, for free space where they look.
func (p Picture) lean() float64 { return p.Looks() * (0.5 - 1.0/3) }

// closer is how much of the largest crop is taken (0-1) for the main subject to be
// seen; never so little that a px of the picture would be larger than one of the frame.
func (p Picture) closer(f Frame, w, h float64) float64 {
	if len(p.Subjects) == 0 {
		return 1
	}
	s := p.Subjects[0]
	sw, sh := s.Box[2]*float64(p.W), s.Box[3]*float64(p.H)
	seenW, seenH := w*f.Seen[2], h*f.Seen[3]
	k, least := 1.0, closest
	switch {
	case s.Kind == Face && f.Shoulders:
		k, least = sh/(shoulders*seenH), closestHead
	case s.Kind == Face:
		k = sh / (faceSeen * seenH)
	case s.Kind == Thing:
		k = math.Sqrt(sw*sh/(seenW*seenH)) / thingSeen
	default:
		k = math.Sqrt(sw*sh/(seenW*seenH)) / saidSeen
	}
	if !f.Shoulders { // all of them stay inside
		across, down := p.spans()
		for i, list := range [][]span{across, down} {
			lo, hi := math.Inf(1), 0.0
			for _, v := range list {
				lo, hi = math.Min(lo, v.roomFrom), math.Max(hi, v.roomTo)
			}
			least = math.Max(least, math.Min(1, (hi-lo)/[2]float64{seenW, seenH}[i]))
		}
	}
	k = math.Min(1, math.Max(k, math.Max(least, f.W/w)))
	// where the edges keep the subject from what is seen, a closer crop can be moved
	for _, room := range []bool{true, false} {
		for near := k; near >= math.Max(closest, f.W/w); near -= 0.05 {
			if p.reachable(w*near, h*near, f.Seen, room) {
				return near
			}
		}
	}
	return k
}

// reachable reports whether a crop of a size in px can be moved to where the main
// subject, with the room it should have or without, is in what is seen of it.
func (p Picture) reachable(w, h float64, seen [4]float64, room bool) bool {
	fits := func(s span, long, size, from, share float64) bool {
		a, b := s.from, s.to
		if room {
			a, b = s.roomFrom, s.roomTo
		}
		return math.Max(0, b-(from+share)*size) <= math.Min(long-size, a-from*size)
	}
	across, down := p.spans()
	return fits(across[0], float64(p.W), w, seen[0], seen[2]) && fits(down[0], float64(p.H), h, seen[1], seen[3])
}

func (p Picture) shows(kind string) bool { return len(p.Subjects) > 0 && p.Subjects[0].Kind == kind }

// at is a part of the picture of a size in px, with the focal point at a target (0-1)
// of it as far as the edges and the subjects in what is seen allow.
func (p Picture) at(cw, ch float64, target [2]float64, seen [4]float64) spec.Rect {
	w, h := float64(p.W), float64(p.H)
	across, down := p.spans()
	x := keep(p.Focus[0]*w-cw*target[0], w, cw, seen[0], seen[2], across)
	y := keep(p.Focus[1]*h-ch*target[1], h, ch, seen[1], seen[3], down)
	return spec.Rect{X: x, Y: y, W: cw, H: ch}
}

// Room kept around a subject, as shares of its height and width (common practice: a
// third of the head's height above it).
const (
	headroom = 0.33
	beside   = 0.16
	around   = 0.08 // anything but a face
)

// span is where a subject lies along an axis and the room it has, in px of the picture.
type span struct{ from, to, roomFrom, roomTo float64 }

// spans lists the spans of each subject along both axes, the main one first.
func (p Picture) spans() (across, down []span) {
	w, h := float64(p.W), float64(p.H)
	for _, s := range p.Subjects {
		b := s.Box
		x0, x1, y0, y1 := b[0]*w, (b[0]+b[2])*w, b[1]*h, (b[1]+b[3])*h
		side, above, below := around*(x1-x0), around*(y1-y0), around*(y1-y0)
		if s.Kind == Face {
			side, above, below = beside*(x1-x0), headroom*(y1-y0), beside*(y1-y0)
		}
		across = append(across, span{x0, x1, max(0, x0-side), min(w, x1+side)})
		down = append(down, span{y0, y1, max(0, y0-above), min(h, y1+below)})
	}
	return across, down
}

// keep moves the start of a crop along one axis as little as it takes to have the
// subjects, the first ones before the others, inside the seen part of it; the picture
// is long px, the crop size px, seen of it from and share of that.
func keep(start, long, size, from, share float64, subjects []span) float64 {
	if len(subjects) > 0 {
		lo, hi := subjects[0].roomFrom, subjects[0].roomTo
		if hi-lo > share*size { // without its room, in the middle
			mid := (subjects[0].from + subjects[0].to) / 2
			lo, hi = mid-share*size/2, mid+share*size/2
		}
		for _, f := range subjects[1:] {
			if a, b := min(lo, f.roomFrom), max(hi, f.roomTo); b-a <= share*size {
				lo, hi = a, b
			}
		}
		start = max(hi-(from+share)*size, min(lo-from*size, start))
	}
	return max(0, min(long-size, start))
}

// windowed is the window chosen by hand in a frame's proportions: around the same
// middle, as large, within the picture. most is how large it can be there.
func (p Picture) windowed(aspect, mostW, mostH float64) spec.Rect {
	w, h, v := float64(p.W), float64(p.H), p.Window
	cw := math.Min(mostW, math.Sqrt(v[2]*w*v[3]*h*aspect))
	ch := math.Min(mostH, cw/aspect)
	x, y := (v[0]+v[2]/2)*w-cw/2, (v[1]+v[3]/2)*h-ch/2
	return spec.Rect{X: math.Max(0, math.Min(w-cw, x)), Y: math.Max(0, math.Min(h-ch, y)), W: cw, H: ch}
}
