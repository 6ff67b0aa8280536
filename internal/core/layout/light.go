package layout

import (
	"math"
	"slices"

	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// Light is what a piece leaves of its photographs' own light.
type Light struct {
	Subject float64 // 0-1: mean opacity of what veils the faces, or the thing, they show
	Rest    float64 // 0-1: the same of all else of them that is seen
	Range   float64 // 0-1: the least tonal range over that of the photograph, 1 where none is toned
}

// lightKept is what of a photograph's light may be taken, and the least tonal range it keeps (set by
// eye on sheets: a darker one is seen as fog).
var lightKept = Light{Subject: 0.15, Rest: 0.45, Range: 0.6}

// Worth is 1 where a piece keeps what it should, less the more it takes beyond that.
func (l Light) Worth() float64 {
	over := math.Max(0, l.Subject-lightKept.Subject) + math.Max(0, l.Rest-lightKept.Rest)
	return math.Max(0, 1-2*over) * math.Min(1, l.Range/lightKept.Range)
}

// lightSteps is in how many places a side of a picture is looked at.
const lightSteps = 24

// LightOf is the light of the pictures among the parts of a piece, the worst of each; zero
// opacities where there is none.
func LightOf(parts []scene.Part, picture func(hash string) photo.Picture) Light {
	out := Light{Range: 1}
	for i, p := range parts {
		pic := photo.Picture{}
		if p.Kind == scene.KindPicture && p.Slot != "pattern" {
			pic = picture(p.Picture)
		}
		if pic.W == 0 {
			continue
		}
		subject, rest := veiledIn(p.Box, subjects(pic, p), parts[i+1:], lightSteps)
		out.Subject, out.Rest = math.Max(out.Subject, subject), math.Max(out.Rest, rest)
		if p.Tone.On() {
			out.Range = math.Min(out.Range, tonalRange(p.Tone))
		}
	}
	return out
}

// subjects are the faces a picture shows, else the thing, as they lie in a part that draws it.
func subjects(pic photo.Picture, part scene.Part) []spec.Rect {
	list := pic.FacesIn(part.Crop, part.Box)
	if thing, ok := pic.ThingIn(part.Crop, part.Box); ok && len(list) == 0 {
		list = append(list, thing)
	}
	return list
}

// veiledIn is the mean opacity of what is over the subjects a frame shows and over the rest of
// it, where nothing solid covers it; a side is looked at in a number of places.
func veiledIn(frame spec.Rect, subjects []spec.Rect, over []scene.Part, steps int) (subject, rest float64) {
	all, seen := 0.0, 0
	for _, s := range subjects {
		if part := s.Intersect(frame); !part.Empty() {
			sum, n := opacityIn(part, over, nil, max(3, steps/4))
			all, seen = all+sum, seen+n
		}
	}
	sum, n := opacityIn(frame, over, subjects, steps)
	return all / math.Max(1, float64(seen)), sum / math.Max(1, float64(n))
}

// opacityIn adds up the opacity of what is over a box, in n places: those that nothing solid
// covers and that lie in none of the boxes left out.
func opacityIn(box spec.Rect, over []scene.Part, leftOut []spec.Rect, steps int) (sum float64, n int) {
	for i := range steps * steps {
		x, y := box.X+(float64(i%steps)+0.5)/float64(steps)*box.W, box.Y+(float64(i/steps)+0.5)/float64(steps)*box.H
		opacity, counts := 0.0, !slices.ContainsFunc(leftOut, func(b spec.Rect) bool { return b.Holds(x, y) })
		for k := 0; counts && k < len(over); k++ {
			o := &over[k]
			switch {
			case !o.Box.Holds(x, y):
			case o.Slot == "fade":
				opacity = 1 - (1-opacity)*(1-o.Opacity(x, y))
			case o.Kind == scene.KindPicture, o.Kind == scene.KindShape && o.Stroke == 0 && o.Path == "":
				counts = false
			}
		}
		if counts {
			sum, n = sum+opacity, n+1
		}
	}
	return sum, n
}

// tonalRange is how far apart in lightness (CIELAB L*) a tone draws the black and the white of a
// picture, over how far apart they are in it; at most 1.
func tonalRange(t scene.Tone) float64 {
	grey := func(v float64) float64 { return lightness(math.Pow(v, 2.2)) }
	own := grey(t.White) - grey(t.Black)
	if own <= 0 {
		return 1
	}
	return math.Min(1, math.Abs(lightness(t.Light.Luminance())-lightness(t.Dark.Luminance()))/own)
}

// lightness is CIELAB's L* over 100 of a relative luminance (CIE 15:2004).
func lightness(y float64) float64 {
	if y > 0.008856 {
		return 1.16*math.Cbrt(y) - 0.16
	}
	return 9.033 * y
}
