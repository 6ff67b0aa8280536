package layout

import (
	"fmt"
	"math"

	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// windowSide is the part of a shaped window's sides and top in which heads do not stand.
const windowSide = 0.1

// ringWide is how wide a ring around a window is, of its short side.
const ringWide = 0.07

// framePart is a picture inset among content.
type framePart struct{}

func (framePart) name() string { return "frame" }
func (framePart) words() bool  { return false }
func (framePart) lint(_ *checker, n *Node, at string, _ colourway.Seat, _ bool) error {
	if s := n.Frame.Shape; s != "" && s != "arch" && s != "circle" {
		return fmt.Errorf("%s.frame.shape %q: want arch or circle", at, s)
	}
	if n.Frame.Ring && n.Frame.Shape == "" {
		return fmt.Errorf("%s.frame.ring: want a shape, arch or circle", at)
	}
	return nil
}
func (framePart) present(t *trial, n *Node) bool {
	return n.Frame.Picture <= len(t.in.Pictures) || n.Frame.Portrait && t.in.Portrait != nil || n.Frame.Shape == "arch"
}
func (framePart) measure(t *trial, n *Node, w float64) (box, bool) {
	return box{w, math.Max(4*t.unit, t.least(n.Frame.Min)*t.safe.H)}, true
}
func (framePart) place(t *trial, n *Node, r spec.Rect, seat colourway.Seat) bool {
	t.placeFrame(n.Frame, r, seat)
	return true
}

// placeFrame draws a picture among content; shapes are cut from it.
func (t *trial) placeFrame(f *Frame, r spec.Rect, seat colourway.Seat) {
	at := spec.Rect{X: math.Round(r.X), Y: math.Round(r.Y), W: math.Round(r.W), H: math.Round(r.H)}
	clip := ""
	switch f.Shape {
	case "circle":
		d := math.Min(at.W, at.H)
		y := at.Y + (at.H-d)/2
		if f.V == "end" {
			y = at.Bottom() - d
		}
		at = spec.Rect{X: at.X, Y: math.Round(y), W: d, H: d}
		if t.align() == "center" {
			at.X = math.Round(r.X + (r.W-d)/2)
		} else if f.Side == "right" && !t.rtl {
			at.X = math.Round(r.Right() - d)
		}
		clip = t.window(f.Shape, at)
	case "arch":
		clip = t.window(f.Shape, at)
	}
	n := len(t.cards)
	if clip == "" && t.cardRadius() > 0 {
		clip = roundedPath(at, t.cardRadius())
	}
	if f.Shape != "" && clip != "" && f.Picture > len(t.in.Pictures) && (!f.Portrait || t.in.Portrait == nil) {
		// nothing to look at through it: the archway itself stands
		t.cards = append(t.cards, scene.Part{Slot: "band", Kind: scene.KindShape, Box: at, Path: clip, Fill: t.colour(colourway.Band)})
		return
	}
	if f.Ring && clip != "" {
		t.cards = append(t.cards, scene.Part{Slot: "band", Kind: scene.KindShape, Box: at, Path: clip, Fill: t.ruleColour(seat)})
		n, at = len(t.cards), at.Inset(math.Round(ringWide*math.Min(at.W, at.H)))
		clip = t.window(f.Shape, at)
	}
	if f.Portrait && t.in.Portrait != nil {
		p := t.in.Portrait
		t.cards = append(t.cards, scene.Part{Slot: "portrait", Kind: scene.KindPicture, Box: at, Picture: p.Hash, Crop: p.CropFor(photo.Frame{W: at.W, H: at.H, Shoulders: true})})
	} else {
		seen := at
		if f.Shape != "" { // nobody's head in a corner that is cut off
			seen = spec.Rect{X: at.X + windowSide*at.W, Y: at.Y + windowSide*at.H, W: (1 - 2*windowSide) * at.W, H: (1 - windowSide) * at.H}
		}
		t.cards = t.drawPicture(t.cards, f.Picture, at, seen)
	}
	for i := n; i < len(t.cards); i++ {
		t.cards[i].Clip = clip
	}
}
