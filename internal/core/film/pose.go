package film

import (
	"math"

	"aspenridge/internal/core/spec"
)

// Pose is how a layer stands in one frame.
type Pose struct {
	Layer *Layer
	Take  int        // [OfMark] for the corner mark, [OfOver] for captions
	Index int        // of the layer in its take
	Alpha float64    // 0-1
	Down  float64    // px below where it belongs
	Shift [2]float64 // px the whole take stands off where it belongs, whole ones
	Show  spec.Rect  // px of the canvas: what of it is seen
	Zoom  float64    // times, of a picture in its frame, about its middle
	Time  float64    // s since its take began
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
		done := ease(u / take.In.For)
		if take.In.Kind == "push" {
			in, gone := pushed(whole, take.In.Edge, done)
			out = f.poses(out, k-1, before.To-before.From, 1, gone)
			return f.over(f.poses(out, k, u, 1, in), take, t)
		}
		out = f.poses(out, k-1, before.To-before.From, 1, shown{Show: whole})
		if take.In.Kind == "fade" {
			alpha = done
		} else {
			show = part(whole, take.In.Edge, done)
		}
	}
	return f.over(f.poses(out, k, u, alpha, shown{Show: show}), take, t)
}

// over adds what stands over a take at a time.
func (f *Film) over(out []Pose, take *Take, t float64) []Pose {
	whole := spec.Rect{W: float64(f.W), H: float64(f.H)}
	if t-take.From >= take.MarkIn {
		for _, i := range take.Mark {
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
func (f *Film) poses(out []Pose, k int, u, alpha float64, s shown) []Pose {
	take := &f.Takes[k]
	for i := range take.Layers {
		l := &take.Layers[i]
		if l.While[1] > 0 && (u < l.While[0] || u >= l.While[1]) {
			continue
		}
		p := Pose{Layer: l, Take: k, Index: i, Alpha: alpha, Show: s.Show, Shift: s.Shift, Zoom: 1, Time: u}
		done := 1.0
		switch again := l.Move.Again; {
		case u < again:
			p.Alpha *= 1 - ease(1-math.Min(1, (again-u)/leaveFor))
		case l.Move.For > 0:
			done = ease((u - l.Move.Delay) / l.Move.For)
		}
		switch l.Move.Kind {
		case "fade":
			p.Alpha *= done
		case "rise":
			p.Alpha *= done
			p.Down = (1 - done) * l.Move.By
		case "wipe":
			p.Show = p.Show.Intersect(part(l.Box, l.Move.Edge, done))
		case "drift": // evenly: what slows down in a picture is seen
			at := math.Min(1, math.Max(0, u/l.Move.For))
			switch {
			case l.Move.Round > 0:
				at = (1 - math.Cos(2*math.Pi*u/l.Move.Round)) / 2
			case l.Move.Back:
				at = 1 - at
			}
			p.Zoom = 1 + (l.Move.By-1)*at
		}
		if left := take.To - take.From - u; l.Move.Leave && left < take.Leave {
			p.Alpha *= 1 - ease(1-left/take.Leave)
		}
		if p.Alpha > 0 && !p.Show.Empty() {
			out = append(out, p)
		}
	}
	return out
}

// shown is how much of a take is seen, and how far off it stands.
type shown struct {
	Show  spec.Rect  // px of it, where it belongs
	Shift [2]float64 // px
}

// pushed is how a take that comes from a side, and the one it pushes out, stand once so much
// (0-1) is done.
func pushed(whole spec.Rect, edge string, done float64) (in, gone shown) {
	in, gone = shown{Show: whole}, shown{Show: whole}
	if edge == "right" {
		in.Shift[0] = math.Round((1 - done) * whole.W)
		gone.Shift[0] = in.Shift[0] - whole.W
	} else {
		in.Shift[1] = math.Round((1 - done) * whole.H)
		gone.Shift[1] = in.Shift[1] - whole.H
	}
	return in, gone
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
