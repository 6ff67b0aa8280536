package photo

// Over is what is known of a film by several of its frames; the zero value knows nothing.
type Over struct {
	Focus    [2]float64 // 0-1 from the top left
	Subjects []Subject  // where what matters goes: each kind in one box
	Light    Light      // how light and dark each part gets
}

// OverFrames puts together what is known of frames of one film.
func OverFrames(frames []Picture) (o Over) {
	for i, f := range frames {
		o.Focus[0] += f.Focus[0] / float64(len(frames))
		o.Focus[1] += f.Focus[1] / float64(len(frames))
		if i == 0 {
			o.Light = f.Light
		} else {
			o.Light = o.Light.with(f.Light)
		}
	}
	for _, kind := range []string{Face, Thing} {
		if s, ok := over(frames, kind); ok {
			o.Subjects = append(o.Subjects, s)
		}
	}
	if len(o.Subjects) > 0 {
		b := o.Subjects[0].Box
		o.Focus = [2]float64{b[0] + b[2]/2, b[1] + b[3]/2}
	}
	return o
}

// over is the box in which what is of a kind goes: of each frame the main one.
func over(frames []Picture, kind string) (s Subject, ok bool) {
	for _, f := range frames {
		for _, one := range f.Subjects {
			if one.Kind != kind {
				continue
			}
			if !ok {
				s, ok = one, true
				break
			}
			x, y := min(s.Box[0], one.Box[0]), min(s.Box[1], one.Box[1])
			right, bottom := max(s.Box[0]+s.Box[2], one.Box[0]+one.Box[2]), max(s.Box[1]+s.Box[3], one.Box[1]+one.Box[3])
			s.Box = [4]float64{x, y, right - x, bottom - y}
			s.Weight = max(s.Weight, one.Weight)
			break
		}
	}
	return s, ok
}

// with is the light of two frames of the same size: nothing is known where they differ in
// size.
func (l Light) with(o Light) Light {
	if !l.known() || !o.known() || l.Cols != o.Cols || l.Rows != o.Rows {
		return Light{}
	}
	out := Light{l.Cols, l.Rows, append([]byte(nil), l.Tiles...)}
	for t := 0; t < len(out.Tiles); t += tileBytes {
		a, b := out.Tiles[t:t+tileBytes], o.Tiles[t:t+tileBytes]
		for i := range 3 {
			a[i], a[3+i] = min(a[i], b[i]), max(a[3+i], b[3+i])
		}
		a[6], a[7] = byte((int(a[6])+int(b[6]))/2), max(a[7], b[7])
	}
	return out
}
