package preflight

import (
	"fmt"
	"math"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// Near misses are colours that are almost, but not, one of the kit's
// (CIEDE2000; under the lower bound nobody sees a difference).
const (
	NearFrom = 0.5
	NearTo   = 5
)

// Nearest is the kit colour nearest to c and how far it is (CIEDE2000).
func Nearest(k *brand.Kit, c colour.RGB) (near brand.Colour, distance float64) {
	distance = math.Inf(1)
	for _, o := range k.Colours() {
		if d := colour.DeltaE(o.Value, c); d < distance {
			near, distance = o, d
		}
	}
	return near, distance
}

// offKit finds a part in a colour the kit does not have. White and black join
// where a kit leaves no other way, a plate has the colour of its
// logo's box, and what is drawn in a picture stands on its own ground.
func offKit(k *brand.Kit, part scene.Part, add adder) {
	if part.Kind == scene.KindPicture || part.Kind == scene.KindLogo || part.Kind == scene.KindIcon || part.Slot == "plate" || part.Slot == scene.PictureGround || len(k.Colours()) == 0 {
		return
	}
	if part.Fill == colour.White || part.Fill == colour.Black {
		return
	}
	for _, p := range k.Palettes {
		for _, c := range p.Colours {
			if c.Value == part.Fill && p.ID == "brief" {
				add("brief-colour", Note, "", c.Name+" "+c.Value.Hex()+" is a colour of this brief only", 0, 0, "addColour")
			}
			if c.Value == part.Fill {
				return
			}
		}
	}
	judge(k, part.Slot, part.Fill, add)
}

// judge reports a colour that is not the kit's, or nearly is.
func judge(k *brand.Kit, slot string, c colour.RGB, add adder) {
	near, d := Nearest(k, c)
	switch {
	case d < NearFrom:
	case d < NearTo:
		add("near-miss", Warning, slot, fmt.Sprintf("%s is nearly, but not quite, %s %s", c.Hex(), near.Name, near.Value.Hex()), d, NearFrom, "nearest", "addColour")
	default:
		add("off-kit-colour", Warning, slot, fmt.Sprintf("%s is not a colour of the kit; the nearest is %s %s", c.Hex(), near.Name, near.Value.Hex()), d, NearFrom, "nearest", "addColour")
	}
}

// sliver finds a part that meant to reach an edge of the piece and misses it by
// under 1% of the short side; the thinnest margins are wider.
func sliver(s *scene.Scene, part scene.Part, add adder) {
	if part.Kind != scene.KindShape && part.Kind != scene.KindPicture || part.Stroke > 0 || part.Path != "" {
		return
	}
	w, h := float64(s.W), float64(s.H)
	b := part.Box
	if b.W < 0.3*w && b.H < 0.3*h { // a small part means nothing by its place
		return
	}
	most := 0.01 * math.Min(w, h)
	for _, gap := range []float64{b.X, w - b.Right(), b.Y, h - b.Bottom()} {
		if gap > 0.5 && gap < most {
			add("sliver", Warning, part.Slot, fmt.Sprintf("it misses the edge by %.0f px; what is behind it shows as a sliver", gap), gap, most)
			return
		}
	}
}

// pictures checks a picture's pixels, proportions and subject.
func pictures(in Input, at int, add adder) {
	part := in.Scene.Parts[at]
	if part.Crop.W <= 0 || part.Crop.H <= 0 {
		return
	}
	if part.Box.W > part.Crop.W*1.02 {
		add("enlarged", Warning, part.Slot, "the picture has fewer pixels than its place here", part.Crop.W, part.Box.W, "picture")
	}
	if k := (part.Box.W / part.Box.H) / (part.Crop.W / part.Crop.H); k > 1.02 || k < 1/1.02 {
		add("stretched", Warning, part.Slot, "the picture is stretched", math.Max(k, 1/k), 1.02)
	}
	for _, p := range in.Pictures {
		if p.Hash != part.Picture || p.W == 0 {
			continue
		}
		if faces := p.FacesIn(part.Crop, part.Box); len(faces) > 0 {
			cutFaces(part, faces, add)
			coveredFaces(in.Scene, at, faces, add)
			return
		}
		if thing, ok := p.ThingIn(part.Crop, part.Box); ok {
			if p.Subjects[0].Kind == photo.Drawn {
				add("picture-drawn", Note, part.Slot, "the picture looks like a logo or a page of words, not like a photograph", 0, 0, "picture")
			}
			lostThing(in.Scene, at, thing, p.Subjects[0].Kind, add)
			return
		}
		x, y := p.Focus[0]*float64(p.W), p.Focus[1]*float64(p.H)
		// a subject is more than a point: a tenth of what is shown around it
		mx, my := 0.1*part.Crop.W, 0.1*part.Crop.H
		if x < part.Crop.X+mx && part.Crop.X > 0.5 || x > part.Crop.Right()-mx && part.Crop.Right() < float64(p.W)-0.5 ||
			y < part.Crop.Y+my && part.Crop.Y > 0.5 || y > part.Crop.Bottom()-my && part.Crop.Bottom() < float64(p.H)-0.5 {
			add("subject-cut", Warning, part.Slot, "the subject of the picture is cut by the edge", 0, 0, "focus")
		}
		return
	}
}

// faceSlack is the share (0-1) of a face that may lie beyond an edge or under
// something: the boxes found are a little larger than what they are drawn around.
const faceSlack = 0.05

// cutFaces finds a face the edge of a picture goes through.
func cutFaces(part scene.Part, faces []spec.Rect, add adder) {
	for _, f := range faces {
		if v := f.Share(part.Box); v > faceSlack && v < 1-faceSlack {
			add("subject-cut", Warning, part.Slot, "a face in the picture is cut by the edge", 1-v, faceSlack, "focus")
			return
		}
	}
}

// coveredFaces finds a face of the picture at an index under something solid.
func coveredFaces(s *scene.Scene, at int, faces []spec.Rect, add adder) {
	picture := s.Parts[at]
	for _, over := range s.Parts[at+1:] {
		if !over.Solid() {
			continue
		}
		for _, f := range faces {
			if v := f.Intersect(picture.Box).Share(over.Box); v > faceSlack {
				add("subject-covered", Warning, picture.Slot, "a face in the picture is covered by "+shapeName(over.Slot), v, faceSlack, "focus")
				return
			}
		}
	}
}

// thingSlack is the share (0-1) of a thing that may be lost: cut by less it looks meant.
const thingSlack = 0.15

// lostThing finds what matters of the picture at an index cut or under something solid:
// a warning where somebody said what matters or it is a logo or a page, a note where it was guessed.
func lostThing(s *scene.Scene, at int, thing spec.Rect, kind string, add adder) {
	picture, severity, what := s.Parts[at], Note, "what the picture shows"
	switch kind {
	case photo.Said:
		severity, what = Warning, "what matters in the picture"
	case photo.Drawn:
		severity, what = Warning, "the logo or page in the picture"
	}
	if v := thing.Share(picture.Box); v < 1-thingSlack {
		add("subject-cut", severity, picture.Slot, what+" is cut by the edge", 1-v, thingSlack, "focus")
		return
	}
	for _, over := range s.Parts[at+1:] {
		if v := thing.Intersect(picture.Box).Share(over.Box); over.Solid() && v > thingSlack {
			add("subject-covered", severity, picture.Slot, what+" is covered by "+shapeName(over.Slot), v, thingSlack, "focus")
			return
		}
	}
}

// shapeName is what people call a part that covers something.
func shapeName(slot string) string {
	if slot == "card" || slot == "plate" {
		return "a shape"
	}
	return slot
}

func uses(t brand.TypeSet, family string) bool {
	for _, s := range t.Levels {
		if s.Family == family || s.Small != nil && s.Small.Family == family {
			return true
		}
	}
	return false
}
