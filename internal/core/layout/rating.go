package layout

import (
	"fmt"
	"math"
	"strings"

	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// ratingPart is five stars, as many of them full as voices say, in the colour of what is
// told in words beside them (the slot "rating").
type ratingPart struct{}

// ratingStars is how high stars among words are, over the body.
const ratingStars = 1.15

// ratingGap is the space between stars, over their size.
const ratingGap = 0.14

func (ratingPart) name() string { return "rating" }
func (ratingPart) words() bool  { return true } // it is read
func (ratingPart) lint(_ *checker, n *Node, at string, _ colourway.Seat, _ bool) error {
	if n.Rating < 0.5 || n.Rating > 4 {
		return fmt.Errorf("%s.rating %g: want how high the stars are, 0.5 to 4 times the body", at, n.Rating)
	}
	return nil
}
func (ratingPart) present(t *trial, _ *Node) bool { return t.in.Stars > 0 && t.words("rating") != "" }
func (ratingPart) size(t *trial, n *Node) float64 { return math.Round(n.Rating * t.body) }

func (p ratingPart) measure(t *trial, n *Node, w float64) (box, bool) {
	s := p.size(t, n)
	all := s * (5 + 4*ratingGap)
	return box{all, s}, all <= w
}

func (p ratingPart) place(t *trial, n *Node, r spec.Rect, seat colourway.Seat) bool {
	s := p.size(t, n)
	all := s * (5 + 4*ratingGap)
	if all > r.W+0.01 {
		return false
	}
	ink := t.colour(colourway.InkOn(seat))
	x, y := math.Round(t.startX(r, all)), math.Round(r.Y)
	var path strings.Builder
	for i := range 5 {
		path.WriteString(starPath(x+float64(i)*s*(1+ratingGap)+s/2, y+s/2, s/2))
	}
	whole := spec.Rect{X: x, Y: y, W: all, H: s}
	t.content = append(t.content, scene.Part{
		Slot: "rating-ground", Kind: scene.KindShape, Box: whole, Path: path.String(), Fill: ink, Stroke: math.Max(1, s/14),
	})
	// full as far as the voices say: between two stars nothing is counted
	full := math.Floor(t.in.Stars)
	filled := full*s*(1+ratingGap) + (t.in.Stars-full)*s
	if filled <= 0 {
		return true
	}
	lit := spec.Rect{X: x, Y: y, W: math.Min(all, filled), H: s}
	if t.rtl {
		lit.X = whole.Right() - lit.W
	}
	t.content = append(t.content, scene.Part{
		Slot: "rating-stars", Kind: scene.KindShape, Box: lit, Path: path.String(), Fill: ink, Clip: roundedPath(lit, 0),
	})
	return true
}

// starPath is a five-pointed star in a circle of r px; its inner points lie where the lines
// between its outer ones cross: at 1/φ² of the radius (geometry of the pentagram).
func starPath(cx, cy, r float64) string {
	var p strings.Builder
	for i := range 10 {
		at, far := math.Pi*(float64(i)/5-0.5), r
		if i%2 == 1 {
			far = r * starInner
		}
		cmd := "L"
		if i == 0 {
			cmd = "M"
		}
		p.WriteString(cmd + num(cx+far*math.Cos(at)) + " " + num(cy+far*math.Sin(at)))
	}
	return p.String() + "z"
}

// starInner is 1/φ², φ the golden ratio.
const starInner = 0.381966
