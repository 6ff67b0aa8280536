package layout

import (
	"cmp"
	"math"
	"slices"

	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// Somebody wholly outside the frame is missed a little; a face the edge goes through,
// or that is covered, is harmed.
const (
	outside    = 0.85 // share (0-1) of a face beyond the edge from which it is not shown at all
	missed     = 0.25
	leftOut    = 0.06 // the same where others are shown whole
	harmed     = 1.5
	harmSlack  = 0.03 // boxes are a little larger than faces
	thingSlack = 0.15 // of a thing may be lost
	thingHarm  = 0.6  // of a thing counts, against a face
	veiled     = 0.3  // opacity of a fade from which what is under it is lost little by little
)

// Harm is how much is lost, 0 to 1, of what the pictures among the parts of a piece show,
// by the edges of their frames and by what lies over them: of the faces, the largest one
// as much as all of them together, or of the thing.
func Harm(parts []scene.Part, picture func(hash string) photo.Picture) float64 {
	worst := 0.0
	for i, p := range parts {
		if p.Kind != scene.KindPicture || p.Slot == "pattern" {
			continue
		}
		pic := picture(p.Picture)
		if pic.W == 0 {
			continue
		}
		worst = math.Max(worst, facesLost(pic.FacesIn(p.Crop, p.Box), p, parts[i+1:]))
		if thing, ok := pic.ThingIn(p.Crop, p.Box); ok {
			worst = math.Max(worst, thingHarm*(math.Max(1-thing.Share(p.Box), covered(thing, p, parts[i+1:]))-thingSlack))
		}
	}
	return math.Min(1, harmed*math.Max(0, worst-harmSlack))
}

// What of a face (0-1) the edge of its picture or something over it may take before it is seen
// to be cut, or covered.
const (
	cutFrom     = 0.06
	coveredFrom = 0.1
)

// HarmsFaces reports whether a face is cut by the edge of a picture, is missing from a body that is
// in it, or is covered by what lies over it.
func HarmsFaces(parts []scene.Part, picture func(hash string) photo.Picture) bool {
	for i, p := range parts {
		if p.Kind != scene.KindPicture || p.Slot == "pattern" {
			continue
		}
		for _, f := range subjectFaces(picture(p.Picture).FacesIn(p.Crop, p.Box)) {
			lost := 1 - f.Share(p.Box)
			if lost > outside && photo.Headless(f, p.Box) || lost <= outside && (lost > cutFrom || covered(f, p, parts[i+1:]) > coveredFrom) {
				return true
			}
		}
	}
	return false
}

// subjectFaces are the faces that are not of bystanders, the largest first.
func subjectFaces(faces []spec.Rect) []spec.Rect {
	slices.SortFunc(faces, func(a, b spec.Rect) int { return cmp.Compare(b.W*b.H, a.W*a.H) })
	return slices.DeleteFunc(faces, func(f spec.Rect) bool { return f.W*f.H < photo.Bystander*faces[0].W*faces[0].H })
}

// facesLost is how much is lost of the faces in a picture, 0 to 1.
func facesLost(faces []spec.Rect, p scene.Part, over []scene.Part) float64 {
	if faces = subjectFaces(faces); len(faces) == 0 {
		return 0
	}
	sum, all, first := 0.0, 0.0, 0.0
	gone := missed
	if slices.ContainsFunc(faces, func(f spec.Rect) bool { return 1-f.Share(p.Box) <= harmSlack }) {
		gone = leftOut
	}
	for n, f := range faces {
		area := f.W * f.H
		lost := 1 - f.Share(p.Box)
		if lost > outside {
			lost = gone
		}
		lost = math.Max(lost, covered(f, p, over))
		if n == 0 {
			first = lost
		}
		sum, all = sum+lost*area, all+area
	}
	return (first + sum/all) / 2
}

// covered is the share of a box in a picture that something solid lies over, or a fade
// hides.
func covered(box spec.Rect, p scene.Part, over []scene.Part) float64 {
	most, shown := 0.0, box.Intersect(p.Box)
	for _, o := range over {
		switch {
		case o.Solid():
			most = math.Max(most, shown.Share(o.Box))
		case o.Slot == "fade":
			veil := o.Opacity(box.X+box.W/2, box.Y+box.H/2)
			most = math.Max(most, math.Min(1, (veil-veiled)/(1-veiled))*shown.Share(o.Box))
		}
	}
	return most
}
