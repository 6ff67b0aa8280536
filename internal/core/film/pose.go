package film

import (
	"math"

	"aspenridge/internal/core/spec"
)

// Pose is how a layer stands in one frame.
type Pose struct {
	Layer *Layer
	Take  int       // [OfMark] for the corner mark, [OfOver] for captions
	Index int       // of the layer in its take
	Alpha float64   // 0-1
	Down  float64   // px below where it belongs
	Show  spec.Rect // px of the canvas: what of it is seen
	Zoom  float64   // times, of a picture in its frame, about its middle
	Time  float64   // s since its take began
}

// What poses belong to that are of no take.
const (
	OfMark = -1
	OfOver = -2
)

// ease slows down towards the end.
func ease(u float64) float64 {
	u = math.Min(1, math.Max(0, u))
	return 1 - (1-u)*(1-u)*(1-u)
}

// At is what is seen at a time, from below. Times outside the film are its ends.
func (f *Film) At(t float64) []Pose {
	if len(f.Takes) == 0 {
		return nil
	}
	k := 0
	for k < len(f.Takes)-1 && t >= f.Takes[k].To {
		k++
	}
	take := &f.Takes[k]
	u := math.Min(math.Max(0, t-take.From), take.To-take.From)
	whole := spec.Rect{W: float64(f.W), H: float64(f.H)}
	var out []Pose
	alpha, show := 1.0, whole
	if k > 0 && take.In.Kind != "" && u < take.In.For {
		before := &f.Takes[k-1]
		out = f.poses(out, k-1, before.To-before.From, 1, whole)
		done := ease(u / take.In.For)
		switch {
		case take.In.Kind == "fade":
			alpha = done
		default:
			show = part(whole, take.In.Edge, done)
		}
	}
	out = f.poses(out, k, u, alpha, show)
	if take.Marked {
		for i := range f.Mark {
			out = append(out, Pose{Layer: &f.Mark[i], Take: OfMark, Index: i, Alpha: 1, Show: whole, Zoom: 1})
		}
	}
	for i := range f.Over {
		if o := &f.Over[i]; t >= o.From && t < o.To {
			out = append(out, Pose{Layer: &o.Layer, Take: OfOver, Index: i, Alpha: 1, Show: whole, Zoom: 1})
		}
	}
	return out
}

// poses adds the layers of a take as they stand some time after it began.
func (f *Film) poses(out []Pose, k int, u, alpha float64, show spec.Rect) []Pose {
	take := &f.Takes[k]
	for i := range take.Layers {
		l := &take.Layers[i]
		p := Pose{Layer: l, Take: k, Index: i, Alpha: alpha, Show: show, Zoom: 1, Time: u}
		done := 1.0
		if l.Move.For > 0 {
			done = ease((u - l.Move.Delay) / l.Move.For)
		}
		switch l.Move.Kind {
		case "fade":
			p.Alpha *= done
		case "rise":
			p.Alpha *= done
			p.Down = (1 - done) * l.Move.By
		case "drift": // evenly: what slows down in a picture is seen
			at := math.Min(1, math.Max(0, u/l.Move.For))
			if l.Move.Back {
				at = 1 - at
			}
			p.Zoom = 1 + (l.Move.By-1)*at
		}
		if p.Alpha > 0 && !p.Show.Empty() {
			out = append(out, p)
		}
	}
	return out
}

// part is how much of a box is seen once so much (0-1) has come in from a side.
func part(b spec.Rect, edge string, done float64) spec.Rect {
	switch edge {
	case "left":
		b.W *= done
	case "right":
		b.X, b.W = b.Right()-done*b.W, done*b.W
	case "top":
		b.H *= done
	default:
		b.Y, b.H = b.Bottom()-done*b.H, done*b.H
	}
	return b
}
