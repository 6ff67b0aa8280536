package film

import (
	"math"
	"slices"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/motion"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// noteSubjects notes where what matters of pictures stands on the last take, and has pictures grow
// about it.
func (f *Film) noteSubjects(j *piece.Job) {
	t := &f.Takes[len(f.Takes)-1]
	for i := range t.Layers {
		p := &t.Layers[i].Drawing.Parts[0]
		for _, pic := range j.Pictures {
			if p.Kind != scene.KindPicture || pic.Hash != p.Picture {
				continue
			}
			kx, ky := p.Box.W/p.Crop.W, p.Box.H/p.Crop.H
			focus := [2]float64{p.Box.X + (pic.Focus[0]*float64(pic.W)-p.Crop.X)*kx, p.Box.Y + (pic.Focus[1]*float64(pic.H)-p.Crop.Y)*ky}
			if m := &t.Layers[i].Move; m.Kind == "drift" && focus[0] > p.Box.X && focus[0] < p.Box.Right() && focus[1] > p.Box.Y && focus[1] < p.Box.Bottom() {
				m.About = focus
			}
			for _, s := range pic.Subjects {
				b := spec.Rect{X: s.Box[0] * float64(pic.W), Y: s.Box[1] * float64(pic.H), W: s.Box[2] * float64(pic.W), H: s.Box[3] * float64(pic.H)}
				t.subjects = append(t.subjects, spec.Rect{X: p.Box.X + (b.X-p.Crop.X)*kx, Y: p.Box.Y + (b.Y-p.Crop.Y)*ky, W: b.W * kx, H: b.H * ky})
			}
			break
		}
	}
}

// mark puts the corner mark where the kit has it, or into the corner that is free over
// more takes; where it would lie on words, marks or what matters of a picture it is left
// out. What the channel covers is nobody's corner.
func (f *Film) mark(in motion.Input) {
	places := []string{in.Kit.Motion.Mark.Place}
	if slices.Contains(corners, places[0]) {
		places = append(places, slices.DeleteFunc(slices.Clone(corners), func(c string) bool { return c == places[0] })...)
	}
	best, covered := -1, 0
	for _, place := range places {
		kit := *in.Kit
		kit.Motion.Mark.Place = place
		at := in
		at.Kit = &kit
		parts := motion.MarkOver(at)
		if len(parts) == 0 {
			return
		}
		if slices.ContainsFunc(in.Placement.KeepOuts(), func(k spec.Rect) bool { return k.Overlaps(parts[0].Box, 0) }) {
			covered++
			continue
		}
		free := make([]bool, len(f.Takes))
		n := 0
		for i := range f.Takes {
			if free[i] = f.Takes[i].roomFor(parts[0].Box) && !(f.Takes[i].captioned && parts[0].Box.Overlaps(motion.CaptionRoom(in), 0)); free[i] {
				n++
			}
		}
		if n <= best {
			continue
		}
		best, f.Mark = n, nil
		plated := f.addMark(parts)
		flat := map[colour.RGB][]int{}
		for i := range f.Takes {
			t := &f.Takes[i]
			t.Mark, t.MarkIn = nil, 0
			if !free[i] {
				continue
			}
			t.Mark = plated
			if ground, ok := t.flatUnder(parts[0].Box); ok {
				if _, drawn := flat[ground]; !drawn {
					flat[ground] = f.addMark(motion.MarkOn(at, ground))
				}
				if len(flat[ground]) > 0 {
					t.Mark = flat[ground]
				}
			}
			// over the take before nothing but what is drawn alike stands
			if i > 0 && (t.In.Kind == "push" || !slices.Equal(f.Takes[i-1].Mark, t.Mark)) {
				t.MarkIn = t.In.For
			}
		}
	}
	if covered == len(places) {
		if k := slices.IndexFunc(f.Takes, func(t Take) bool { return t.Shot >= 0 }); k >= 0 {
			f.Takes[k].warn("mark-covered", "logo", 0, 0, "the channel covers the place of the kit’s corner mark, and every other corner: it is left out")
		}
	}
}

// addMark keeps a way to draw the mark, and says which layers it is.
func (f *Film) addMark(parts []scene.Part) (layers []int) {
	for _, part := range parts {
		layers = append(layers, len(f.Mark))
		f.Mark = append(f.Mark, layerOf(part, f.W, f.H))
	}
	return layers
}

// flatUnder is the one colour there is of a take in a box, but for what is faint; false where
// there are others, or a picture.
func (t *Take) flatUnder(box spec.Rect) (ground colour.RGB, ok bool) {
	for i := len(t.Layers) - 1; i >= 0; i-- {
		p := &t.Layers[i].Drawing.Parts[0]
		switch solid := p.Kind == scene.KindShape && p.Path == "" && p.Fade == nil && p.Stroke == 0 && p.Art == nil; {
		case !p.Box.Overlaps(box, 0), p.Slot == "ornament" && p.Alpha > 0 && p.Alpha < faintMark:
		case solid && (p.Alpha == 0 || p.Alpha == 1) && p.Box.Contains(box, 0):
			return p.Fill, true
		default:
			return ground, false
		}
	}
	return ground, false
}

// faintMark is the opacity under which an ornament is none for a mark on it.
const faintMark = 0.25

// corners are where a mark stands by rule.
var corners = []string{"top-right", "top-left", "bottom-right", "bottom-left"}

// roomFor reports whether nothing of a take that is looked at lies under a box. Takes of
// the kit, and those with a logo of their own, have none.
func (t *Take) roomFor(box spec.Rect) bool {
	if t.Shot < 0 {
		return false
	}
	room := box.Inset(-0.3 * math.Min(box.W, box.H))
	for i := range t.Layers {
		p := &t.Layers[i].Drawing.Parts[0]
		if p.Kind == scene.KindLogo {
			return false
		}
		way := p.Box // words come from below
		if m := t.Layers[i].Move; m.Kind == "rise" {
			way.H += m.By
		}
		if p.Kind != scene.KindShape && p.Kind != scene.KindPicture && way.Overlaps(room, 0) || p.Slot == "button" && p.Box.Overlaps(room, 0) {
			return false
		}
	}
	return !slices.ContainsFunc(t.subjects, func(s spec.Rect) bool { return s.Overlaps(room, 0) })
}
