package piece

import (
	"math"
	"strconv"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// How wide the frame along the edges of a piece is, of its short side, and at least, px (set by
// eye; fine is seen as a line on a phone, bold as a frame).
const (
	fineEdge  = 0.018
	boldEdge  = 0.045
	leastEdge = 2
)

// edgeWidth is how wide the frame of a piece is, px; 0 for none. The brief says whether there is
// one, else the kit; icons and round pieces have none.
func (j *Job) edgeWidth(m brand.Manner, p spec.Placement, hands map[string]*brief.Hand) float64 {
	on := m.Edge != "none" && m.Edge != ""
	switch j.Brief.Edge {
	case "on":
		on = true
	case "off":
		on = false
	}
	if !on || p.Icon || p.Shape == "circle" || hands["edge"] != nil && hands["edge"].Hidden {
		return 0
	}
	share := fineEdge
	if m.Edge == "bold" {
		share = boldEdge
	}
	return math.Max(leastEdge, math.Round(share*float64(min(p.Width, p.Height))))
}

// edgeClear is how far content keeps clear of a frame, of the piece's short side.
const edgeClear = 0.035

// withinEdge is a placement whose content keeps clear of a frame of a width, px; 0 for none.
func withinEdge(p spec.Placement, width float64) spec.Placement {
	if width == 0 {
		return p
	}
	for i, inset := range p.Safe {
		p.Safe[i] = math.Max(inset, width+math.Round(edgeClear*float64(min(p.Width, p.Height))))
	}
	return p
}

// edgeApart is how far (CIEDE2000) the frame's colour is at least from what covers most of a piece.
const edgeApart = 12

// edge is the frame along the edges of a drawing, in the colour of the kit's role, or the next
// one that is seen on it.
func (j *Job) edge(sc *scene.Scene, m brand.Manner, width float64) scene.Part {
	ground := sc.MostSeen()
	ink := colour.Black
	for _, role := range []brand.Role{brand.Role(m.EdgeColour), brand.Lead, brand.Accent, brand.Ink, brand.Ground} {
		c, ok := j.Kit.OfRole(role)
		if ok && colour.DeltaE(c.Value, ground) >= edgeApart {
			ink = c.Value
			break
		}
	}
	w, h, half := float64(sc.W), float64(sc.H), width/2
	n := func(v float64) string { return strconv.FormatFloat(v, 'f', -1, 64) }
	return scene.Part{
		Slot: "edge", Kind: scene.KindShape, Box: spec.Rect{W: w, H: h}, Fill: ink, Stroke: width,
		Path: "M" + n(half) + " " + n(half) + "H" + n(w-half) + "V" + n(h-half) + "H" + n(half) + "Z",
	}
}
