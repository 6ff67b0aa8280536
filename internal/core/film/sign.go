package film

import (
	"encoding/json"
	"math"
	"slices"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// How large a shot's icon is: so many sizes of its headline, within shares of the short side,
// with so much of itself free around it.
const (
	signSize  = 1.5
	leastSign = 0.09
	mostSign  = 0.22
	keptSign  = 0.15 // where room is kept for it
	signGap   = 0.3
)

// sign puts the icon of a shot above or below its words, within the safe area; where they
// leave no room for it they are composed again with some kept free above them, then below.
// A shot without an icon, or with no room all the same, stays as it is.
func sign(j *piece.Job, look piece.Look, p spec.Placement, icon string, shot piece.Piece) piece.Piece {
	if icon == "" {
		return shot
	}
	drawn := brief.Added{Kind: "icon", Name: icon}
	if file := j.IconFile(icon); file != "" {
		drawn = brief.Added{Kind: "picture", File: file}
	}
	short := math.Min(float64(p.Width), float64(p.Height))
	kept := (1 + 2*signGap) * keptSign * short
	above, below := p, p
	above.Safe[0] += kept
	below.Safe[2] += kept
	for i, within := range []spec.Placement{p, above, below} {
		if i > 0 {
			shot = j.Compose(look, within, 0)
		}
		if at, ok := signRoom(shot.Scene, p.SafeBox()); ok {
			w, h := float64(p.Width), float64(p.Height)
			drawn.At, drawn.Size = [2]float64{(at.X + at.W/2) / w, (at.Y + at.H/2) / h}, [2]float64{at.W / short, at.H / short}
			part, _ := json.Marshal(drawn)
			b := *j.Brief
			b.Adjustments = append(slices.Clone(b.Adjustments), brief.Adjustment{Reach: "set", Slot: brief.AddedSlot + "sign", Property: "part", Value: part})
			with := *j
			with.Brief = &b
			if signed := with.Compose(look, within, 0); clearOfWords(signed.Scene, at) {
				return signed
			}
		}
	}
	return j.Compose(look, p, 0)
}

// signRoom is a square above the words of a shot, aligned with them, or below them: as large
// as goes with the headline, else smaller.
func signRoom(s *scene.Scene, safe spec.Rect) (spec.Rect, bool) {
	top, bottom := math.Inf(1), 0.0 // of all words, with the lines that go with them
	var head *scene.Part
	for i := range s.Parts {
		if q := &s.Parts[i]; q.Words() || q.Slot == "rule" {
			if q.Slot == "headline" {
				head = q
			}
			top, bottom = math.Min(top, q.Box.Y), math.Max(bottom, q.Box.Bottom())
		}
	}
	if head == nil || len(head.Lines) == 0 {
		return spec.Rect{}, false
	}
	short := math.Min(float64(s.W), float64(s.H))
	side := math.Max(leastSign*short, math.Min(mostSign*short, signSize*head.SizePx))
	for ; side >= leastSign*short; side *= 0.85 {
		if r, ok := signBeside(s, safe, head, side, top, bottom); ok {
			return r, true
		}
	}
	return spec.Rect{}, false
}

func signBeside(s *scene.Scene, safe spec.Rect, head *scene.Part, side, top, bottom float64) (spec.Rect, bool) {
	x := head.Box.X
	if middle := head.Box.X + head.Box.W/2; len(head.Lines) > 1 && centred(head) {
		x = middle - side/2
	}
	gap := signGap * side
	free := func(r spec.Rect) bool {
		if r.X < safe.X-1 || r.Y < safe.Y-1 || r.Right() > safe.Right()+1 || r.Bottom() > safe.Bottom()+1 {
			return false
		}
		at := onto(s, r, true)
		return at >= 0 && at == onto(s, head.Box, false) && clearOfWords(s, r.Inset(-gap/2))
	}
	for _, y := range []float64{top - gap - side, bottom + gap} {
		if r := (spec.Rect{X: x, Y: y, W: side, H: side}); free(r) {
			return r, true
		}
	}
	return spec.Rect{}, false
}

func clearOfWords(s *scene.Scene, r spec.Rect) bool {
	return !slices.ContainsFunc(s.Parts, func(q scene.Part) bool {
		return (q.Words() || q.Kind == scene.KindLogo) && q.Box.Overlaps(r, 0)
	})
}

// centred reports whether the lines of words have their middles above one another.
func centred(p *scene.Part) bool {
	middle := func(l scene.TextLine) float64 { return l.X + (l.Line.Ink.X0+l.Line.Ink.X1)/2*p.SizePx }
	first := middle(p.Lines[0])
	return !slices.ContainsFunc(p.Lines[1:], func(l scene.TextLine) bool { return math.Abs(middle(l)-first) > 0.1*p.SizePx })
}

// onto is the number of the part of the ground all of a rectangle stands on, the topmost one;
// -1 where it lies across an edge. Words stand clear of ornament already, though their boxes
// may share a corner.
func onto(s *scene.Scene, r spec.Rect, ornament bool) int {
	for i, q := range slices.Backward(s.Parts) {
		if q.Words() || q.Kind == scene.KindLogo || !q.Box.Overlaps(r, 0) || q.Slot == "button" || q.Slot == "ornament" && !ornament {
			continue
		}
		if !q.Box.Contains(r, 1) {
			return -1
		}
		return i
	}
	return -1
}
