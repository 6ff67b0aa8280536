// Package photo decides how a picture sits in a frame: which part of it shows,
// how light it is where something stands on it, and how strong a veil has to be
// for words to read. What is known of a picture is found once, when it arrives;
// pixels for output belong to package raster.
package photo

import (
	"math"

	"aspenridge/internal/core/spec"
)

// Picture is what the core knows of a picture file.
type Picture struct {
	Hash  string     // of the upright sRGB file
	W, H  int        // px
	Focus [2]float64 // 0-1 from the top left; as guessed until somebody says
	// Window, when it has a size, is the part chosen by hand, as fractions of the
	// picture: x, y, w, h.
	Window [4]float64
	// Subjects are what it shows, as found; nil once somebody said what matters.
	Subjects []Subject
	Light    Light
	Alt      string
}

// FocusedOn is the picture with what somebody said matters most in it; what was
// found in it no longer counts.
func (p Picture) FocusedOn(focus [2]float64) Picture {
	p.Focus, p.Subjects = focus, nil
	return p
}

// whole is all of a frame.
var whole = [4]float64{0, 0, 1, 1}

// Crop is the part of the picture, in its own px, that fills a frame of the given
// width to height ratio: as much of it as possible, with the focal point as near to
// a target (0-1 of the frame) as the edges allow, and faces whole.
func (p Picture) Crop(aspect float64, target [2]float64) spec.Rect {
	return p.crop(aspect, target, whole)
}

// CropSeen is the part that fills a frame of which only a part is seen (x, y, w, h
// as fractions of it): the focal point goes to the middle of that, and faces into
// it.
func (p Picture) CropSeen(aspect float64, seen [4]float64) spec.Rect {
	return p.crop(aspect, [2]float64{seen[0] + seen[2]/2, seen[1] + seen[3]/2}, seen)
}

func (p Picture) crop(aspect float64, target [2]float64, seen [4]float64) spec.Rect {
	w, h := float64(p.W), float64(p.H)
	cw, ch := w, w/aspect
	if ch > h {
		cw, ch = h*aspect, h
	}
	if v := p.Window; v[2] > 0 && v[3] > 0 {
		return p.windowed(aspect, cw, ch)
	}
	across, down := p.faces()
	x := keep(p.Focus[0]*w-cw*target[0], w, cw, seen[0], seen[2], across)
	y := keep(p.Focus[1]*h-ch*target[1], h, ch, seen[1], seen[3], down)
	return spec.Rect{X: x, Y: y, W: cw, H: ch}
}

// Room kept around a face, as shares of its height and width (common practice: a
// third of the head's height above it).
const (
	headroom = 0.33
	beside   = 0.16
)

// span is where a face lies along an axis and the room it has, in px of the picture.
type span struct{ from, to, roomFrom, roomTo float64 }

// faces lists the spans of each face along both axes, the largest face first.
func (p Picture) faces() (across, down []span) {
	w, h := float64(p.W), float64(p.H)
	for _, s := range p.Subjects {
		if b := s.Box; s.Kind == Face {
			x0, x1, y0, y1 := b[0]*w, (b[0]+b[2])*w, b[1]*h, (b[1]+b[3])*h
			dx, dy := beside*b[2]*w, b[3]*h
			across = append(across, span{x0, x1, max(0, x0-dx), min(w, x1+dx)})
			down = append(down, span{y0, y1, max(0, y0-headroom*dy), min(h, y1+beside*dy)})
		}
	}
	return across, down
}

// keep moves the start of a crop along one axis as little as it takes to have the
// faces, the first ones before the others, inside the seen part of it; the picture
// is long px, the crop size px, seen of it from and share of that.
func keep(start, long, size, from, share float64, faces []span) float64 {
	if len(faces) > 0 {
		lo, hi := faces[0].roomFrom, faces[0].roomTo
		if hi-lo > share*size { // without its room, in the middle
			mid := (faces[0].from + faces[0].to) / 2
			lo, hi = mid-share*size/2, mid+share*size/2
		}
		for _, f := range faces[1:] {
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
