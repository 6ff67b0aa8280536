// Package motif finds what the outlines of a mark have in common: whether they are curved, slanted
// or straight, how steep, how heavy. Layouts draw edges, corners, windows and lines of the same
// family, so that two brands in one layout do not look like one.
package motif

import "math"

// Family is what the shapes of a mark are mostly made of.
type Family string

// The families of marks.
const (
	Unknown Family = ""        // nothing is known of it
	Curved  Family = "curved"  // arcs and circles
	Slanted Family = "slanted" // lines at an angle
	Upright Family = "upright" // lines that stand and lie
)

// Shape is what the outlines of a mark have in common; the zero value is that of a mark of which
// nothing is known.
type Shape struct {
	Curved float64 // share (0-1) of their length that is curved
	Slant  float64 // and that is straight and neither stands nor lies
	Angle  float64 // degrees (0-90) against the horizontal of most of what slants, 0 for none
	Weight float64 // thickness (0-1) of what is drawn over the height of the mark
}

// What is set by eye on marks of twelve brands.
const (
	curvedFrom = 0.4 // share from which a mark is curved
	slantFrom  = 0.2 // share from which it is slanted
	upright    = 8.0 // degrees up to which a line stands or lies
	angleStep  = 5   // degrees told apart
)

// Family is the family of a shape.
func (s Shape) Family() Family {
	switch {
	case s == Shape{}:
		return Unknown
	case s.Curved >= curvedFrom:
		return Curved
	case s.Slant >= slantFrom:
		return Slanted
	}
	return Upright
}

// point is a place of an outline.
type point struct{ x, y float64 }

// stroke is a run of an outline.
type stroke struct {
	points []point // at least two
	curved bool
	width  float64 // of the line it is drawn with, 0 where it is filled
}

// shapeOf measures outlines.
func shapeOf(list []stroke) Shape {
	var all, curved, slanted, thick float64
	var angles [90/angleStep + 1]float64
	low, high := math.Inf(1), math.Inf(-1)
	for _, s := range list {
		for i := 1; i < len(s.points); i++ {
			a, b := s.points[i-1], s.points[i]
			low, high = math.Min(low, math.Min(a.y, b.y)), math.Max(high, math.Max(a.y, b.y))
			long := math.Hypot(b.x-a.x, b.y-a.y)
			all, thick = all+long, thick+long*s.width
			if s.curved {
				curved += long
				continue
			}
			angle := math.Atan2(math.Abs(b.y-a.y), math.Abs(b.x-a.x)) * 180 / math.Pi
			if angle > upright && angle < 90-upright {
				slanted += long
				angles[int(math.Round(angle/angleStep))] += long
			}
		}
	}
	if all == 0 || high <= low {
		return Shape{}
	}
	out := Shape{Curved: curved / all, Slant: slanted / all}
	most := 0.0
	for i, long := range angles {
		if long > most {
			most, out.Angle = long, float64(i*angleStep)
		}
	}
	if thick == 0 { // a filled band is about twice its area over its outline thick
		thick = 2 * areaOf(list)
	}
	out.Weight = math.Min(1, thick/all/(high-low))
	return out
}

// areaOf is the area outlines enclose, those that run the other way taken off it.
func areaOf(list []stroke) float64 {
	sum, from := 0.0, point{}
	last := point{math.NaN(), 0}
	for _, s := range list {
		if s.points[0] != last {
			from = s.points[0]
		}
		for i := 1; i < len(s.points); i++ {
			a, b := s.points[i-1], s.points[i]
			sum += (a.x-from.x)*(b.y-from.y) - (b.x-from.x)*(a.y-from.y)
		}
		last = s.points[len(s.points)-1]
	}
	return math.Abs(sum) / 2
}
