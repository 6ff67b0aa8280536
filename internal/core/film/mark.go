package film

import (
	"math"
	"slices"

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
// out.
func (f *Film) mark(in motion.Input) {
	places := []string{in.Kit.Motion.Mark.Place}
	if slices.Contains(corners, places[0]) {
		places = append(places, slices.DeleteFunc(slices.Clone(corners), func(c string) bool { return c == places[0] })...)
	}
	best := -1
	for _, place := range places {
		kit := *in.Kit
		kit.Motion.Mark.Place = place
		at := in
		at.Kit = &kit
		parts := motion.MarkOver(at)
		if len(parts) == 0 {
			return
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
		for _, part := range parts {
			f.Mark = append(f.Mark, layerOf(part, f.W, f.H))
		}
		for i := range f.Takes {
			f.Takes[i].Marked = free[i]
			f.Takes[i].MarkIn = 0
			if in := f.Takes[i].In; i > 0 && (!free[i-1] || in.Kind == "push") {
				f.Takes[i].MarkIn = in.For
			}
		}
	}
}

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
		if p.Kind != scene.KindShape && p.Kind != scene.KindPicture && p.Box.Overlaps(room, 0) || p.Slot == "button" && p.Box.Overlaps(room, 0) {
			return false
		}
	}
	return !slices.ContainsFunc(t.subjects, func(s spec.Rect) bool { return s.Overlaps(room, 0) })
}
