package brand

import "aspenridge/internal/core/colour"

// SmallText is the contrast at which any text reads for anybody (WCAG 2.2,
// success criterion 1.4.6).
const SmallText = 7.0

// BestContrast is the highest contrast between two colours of the kit, one of
// which may be a ground; 1 when there is none.
func (k *Kit) BestContrast() float64 {
	best := 1.0
	list := k.Colours()
	for i, a := range list {
		for _, b := range list[:i] {
			if !a.NeverGround || !b.NeverGround {
				best = max(best, colour.Contrast(a.Value, b.Value))
			}
		}
	}
	return best
}

// Neutrals are what a kit lacks to carry any text: nothing when two of its
// colours reach 7:1, else one near-black or near-white in the hue of its first
// colour that reaches it against a colour that may be a ground, else both.
func (k *Kit) Neutrals() []colour.RGB {
	list := k.Colours()
	if len(list) == 0 || k.BestContrast() >= SmallText {
		return nil
	}
	hue := list[0].Value.OKLCh()
	tint := min(hue.C, 0.02)
	ink := colour.OKLCh{L: 0.2, C: tint, H: hue.H}.RGB()
	paper := colour.OKLCh{L: 0.975, C: tint / 2, H: hue.H}.RGB()
	best, one := 0.0, ink
	for _, c := range list {
		if c.NeverGround {
			continue
		}
		for _, n := range []colour.RGB{ink, paper} {
			if r := colour.Contrast(c.Value, n); r > best {
				best, one = r, n
			}
		}
	}
	if best >= SmallText {
		return []colour.RGB{one}
	}
	return []colour.RGB{ink, paper}
}
