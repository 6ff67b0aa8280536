package scene

import "aspenridge/internal/core/colour"

// apartGrid is how many points of each side two drawings are held against each other at.
const apartGrid = 36

// inkShare is how much (0-1) of the box of words is ink, about.
const inkShare = 0.25

// Apart is how far two drawings of the same parts in other colours look apart: the mean
// difference (CIEDE2000) over the piece of the flat colours on top, 0 for none. Pictures count as
// the same.
func Apart(a, b *Scene) float64 {
	sum, known := 0.0, map[[2]colour.RGB]float64{} // there are few colours
	far := func(a, b colour.RGB) float64 {
		if a == b {
			return 0
		}
		d, ok := known[[2]colour.RGB{a, b}]
		if !ok {
			d = colour.DeltaE(a, b)
			known[[2]colour.RGB{a, b}] = d
		}
		return d
	}
	for i := range apartGrid {
		for k := range apartGrid {
			x, y := (float64(i)+0.5)/apartGrid, (float64(k)+0.5)/apartGrid
			ca, inA := a.onTop(x*float64(a.W), y*float64(a.H))
			cb, inB := b.onTop(x*float64(b.W), y*float64(b.H))
			sum += (1-inkShare)*far(ca, cb) + inkShare*far(inA, inB)
		}
	}
	return sum / (apartGrid * apartGrid)
}

// MostSeen is the flat colour that covers most of a piece, mid grey for pictures.
func (s *Scene) MostSeen() colour.RGB {
	count := map[colour.RGB]int{}
	var most colour.RGB
	for i := range apartGrid {
		for k := range apartGrid {
			c, _ := s.onTop((float64(i)+0.5)/apartGrid*float64(s.W), (float64(k)+0.5)/apartGrid*float64(s.H))
			if count[c]++; count[c] > count[most] {
				most = c
			}
		}
	}
	return most
}

// onTop is the colour seen at a point, px, and that of the ink of words there, the same where
// there are none. A picture is mid grey.
func (s *Scene) onTop(x, y float64) (ground, ink colour.RGB) {
	ground = colour.White
	words := false
	for i := range s.Parts {
		p := &s.Parts[i]
		if x < p.Box.X || x >= p.Box.X+p.Box.W || y < p.Box.Y || y >= p.Box.Y+p.Box.H {
			continue
		}
		switch p.Kind {
		case KindPicture:
			ground, words = colour.RGB{R: 128, G: 128, B: 128}, false
		case KindText, KindButton, KindIcon, KindLogo:
			ink, words = p.Fill, true
		default:
			if p.Stroke > 0 {
				continue
			}
			if opacity := p.Opacity(x, y); opacity > 0 && opacity < 1 {
				ground = p.Fill.Over(ground, opacity)
			} else {
				ground = p.Fill
			}
			words = false
		}
	}
	if !words {
		ink = ground
	}
	return ground, ink
}
