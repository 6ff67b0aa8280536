package layout

import (
	"math"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// What is set by eye on sheets of photographs.
const (
	panelLeast = 0.25 // of the cell's side that is left to the picture beside a panel
	veilMost   = 0.72 // opacity from which a quiet place is none: a veil would only muddy it
	hazeMost   = 0.3  // the same of a picture that can go over into the colour of the veil
	seam       = 2    // px a panel lies over the joint
	bulge      = 0.14 // of the side a pool of colour rises by in its corner
	fadeMore   = 0.1  // how much stronger a weak fade is at the edge it starts from
	jointMost  = 0.5  // of a picture beside words that goes over into their colour, at most
)

// veil is how strong the fade under a cell's words has to be, and whether the picture stands
// beside them instead since that would take too much of its light.
func (t *trial) veil(s *arrangement, c *Cell, r region) {
	ink, ground := t.colour(colourway.InkOn(c.Seat)), t.colour(c.Seat)
	least, _ := t.boundsUnder(*s, s.under).Veil(ink, ground, math.Min(onContrast, colour.Contrast(ink, ground)))
	s.alpha, s.edge = least, least
	if c.On.Way == "fade" {
		s.alpha, s.edge = math.Max(least, fadeLeast), math.Max(least, fadeEdge)
	}
	if s.fog = t.fog(*s, c, r); s.fog > 0 && least <= hazeMost && least < s.alpha {
		s.alpha, s.edge = least, math.Min(1, least+fadeMore)
		s.fog = t.fog(*s, c, r)
	}
	muddy := c.On.Way == "quiet" && s.alpha > veilMost || c.On.Way == "toned" && s.alpha > hazeMost
	if s.side != "" && (s.fog > 0 || muddy) {
		t.besides(s, c, r.bleed)
	}
}

// fogSteps is in how many places a side of a picture is looked at while sizes are tried.
const fogSteps = 6

// fog is how much more of its picture's light a stand's fade takes than it may.
func (t *trial) fog(s arrangement, c *Cell, r region) float64 {
	if s.alpha == 0 {
		return 0
	}
	over := [1]scene.Part{t.fade(c, r, s, s.alpha, s.edge)}
	subject, rest := veiledIn(s.picture.Box, t.subjectsIn(s.picture), over[:], fogSteps)
	return math.Max(0, subject-lightKept.Subject) + math.Max(0, rest-lightKept.Rest)
}

// missing is how much of its subjects a picture beside words does not show.
func (t *trial) missing(s arrangement) float64 {
	p := t.in.PictureBy(s.picture.Picture)
	lost := facesLost(p.FacesIn(s.picture.Crop, s.picture.Box), s.picture, nil)
	if thing, ok := p.ThingIn(s.picture.Crop, s.picture.Box); ok {
		lost = math.Max(lost, thingHarm*(1-thing.Share(s.picture.Box)-thingSlack))
	}
	return math.Max(0, lost-harmSlack)
}

// subjectsIn are the faces a picture shows, else the thing, as they lie in the piece.
func (t *trial) subjectsIn(part scene.Part) []spec.Rect {
	return subjects(t.in.PictureBy(part.Picture), part)
}

// besides puts a stand's words on a flat panel and the picture beside it, which goes over into
// its colour but where the way is to be quiet.
func (t *trial) besides(s *arrangement, c *Cell, b spec.Rect) {
	free, panel, pad := b, b, math.Round(t.margin*0.8)
	switch s.side {
	case "top":
		panel.H = math.Round(s.at.Bottom()+pad) - b.Y
		free.Y, free.H = panel.Bottom(), b.H-panel.H
	case "bottom":
		panel.Y = math.Round(s.at.Y - pad)
		panel.H = b.Bottom() - panel.Y
		free.H -= panel.H
	case "left":
		panel.W = math.Round(s.at.Right()+pad) - b.X
		free.X, free.W = panel.Right(), b.W-panel.W
	case "right":
		panel.X = math.Round(s.at.X - pad)
		panel.W = b.Right() - panel.X
		free.W -= panel.W
	}
	if free.W < panelLeast*b.W || free.H < panelLeast*b.H {
		return
	}
	tone := s.picture.Tone
	draw := func(seen spec.Rect) {
		s.picture = t.picture(c.Picture, free, seen)
		s.picture.Tone = tone
	}
	s.alpha, s.fog = 1, 0
	if c.On.Way == "quiet" {
		s.panel = panel
		draw(free)
		return
	}
	s.panel = panel.Inset(-seam).Intersect(b) // where the two meet nothing shines through at any scale
	for _, part := range joints {             // a shorter one where somebody would be under it
		var seen spec.Rect
		s.joint, seen = t.jointOf(s.side, free, c, part)
		draw(seen)
		subject, _ := veiledIn(free, t.subjectsIn(s.picture), []scene.Part{*s.joint}, fogSteps)
		if s.fog = math.Max(0, subject-lightKept.Subject); s.fog == 0 {
			return
		}
	}
}

// joints are the parts of the longest joint that are tried.
var joints = []float64{1, 0.6, 0.3}

// jointOf is what grades a picture beside a panel from the panel's colour to clear, along a part
// (0-1) of the longest way, and what of the picture is seen beyond most of it.
func (t *trial) jointOf(side string, free spec.Rect, c *Cell, part float64) (*scene.Part, spec.Rect) {
	f, seen := &scene.Fade{X0: free.X, Y0: free.Y, X1: free.X, Y1: free.Y, Edge: 1}, free
	flat := side == "left" || side == "right"
	deep, across := free.H, free.W
	if flat {
		deep, across = across, deep
	}
	long := math.Round(part * math.Min(jointMost*deep, math.Max(3*t.margin, 0.36*across)))
	if flat {
		seen.W -= long / 2
	} else {
		seen.H -= long / 2
	}
	switch side {
	case "top":
		f.Y1 = free.Y + long
		seen.Y += long / 2
	case "bottom":
		f.Y0, f.Y1 = free.Bottom(), free.Bottom()-long
	case "left":
		f.X1 = free.X + long
		seen.X += long / 2
	case "right":
		f.X0, f.X1 = free.Right(), free.Right()-long
	}
	if c.On.Round {
		f = t.pool(side, free, long, part)
	}
	return &scene.Part{Slot: "fade", Kind: scene.KindShape, Box: free, Fill: t.colour(c.Seat), Alpha: 1, Fade: f}, seen
}

// pool is a joint, a part (0-1) of the largest, that rises into a picture at the corner reading
// starts from: an arc through the other end of the panel's edge.
func (t *trial) pool(side string, free spec.Rect, long, part float64) *scene.Fade {
	across, up := free.W, part*bulge*free.H
	if side == "left" || side == "right" {
		across, up = free.H, part*bulge*free.W
	}
	deep := (across*across - up*up) / (2 * up) // from the panel's edge to the middle of the arc
	x, y := free.X, free.Y
	if t.rtl {
		x = free.Right()
	}
	switch side {
	case "top":
		y -= deep
	case "bottom":
		y = free.Bottom() + deep
	case "left":
		x, y = free.X-deep, free.Bottom()
	case "right":
		x, y = free.Right()+deep, free.Bottom()
	}
	return &scene.Fade{X0: x, Y0: y, Radius: deep + up + long, Hold: (deep + up) / (deep + up + long), Edge: 1}
}
