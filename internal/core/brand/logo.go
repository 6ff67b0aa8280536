package brand

import (
	"cmp"
	"math"
	"slices"
	"sync"

	"aspenridge/internal/core/colour"
)

// Shape is the room a layout has for a logo.
type Shape string

// Rooms for a logo.
const (
	WideRoom    Shape = "wide"    // a line or a footer: horizontal lockups
	CompactRoom Shape = "compact" // a corner or a badge: symbols and stacks
)

// LogoFit is how a logo goes on a ground.
type LogoFit struct {
	Logo  *Logo
	Cut   bool       // no tone reads on the ground: it is drawn in one colour
	Ink   colour.RGB // which one
	Plate bool       // it cannot be cut either: put it on a plate
}

// Art is what is drawn.
func (f LogoFit) Art() *Art {
	if f.Cut {
		return f.Logo.Art.In(f.Ink)
	}
	return f.Logo.Art
}

// logoContrast is what a part of a logo needs to be told from its ground (WCAG 2.2,
// 1.4.11, graphical objects).
const logoContrast = 3

// wholeLogo is how much of a logo, 0-1, has to read for all of it to be there.
const wholeLogo = 0.9

// readable is the share (0-1) of what a logo draws on its ground that reads on anything
// between two colours, the same for a flat ground.
func (l *Logo) readable(lo, hi colour.RGB) float64 {
	if l.Art == nil || len(l.Art.Inks) == 0 {
		return 1
	}
	dark, light := lo.Luminance(), hi.Luminance()
	sum, all := 0.0, 0.0
	for i, ink := range l.Art.Inks {
		if i < len(l.Art.Hosts) && l.Art.Hosts[i] >= 0 {
			continue // a detail stands on another ink of the logo, not on the ground
		}
		all += ink.Share
		own := ink.Colour.Luminance()
		if own > dark && own < light { // something in between is as light
			continue
		}
		if min(colour.ContrastLuminance(own, dark), colour.ContrastLuminance(own, light)) >= logoContrast {
			sum += ink.Share
		}
	}
	if all == 0 {
		return 1
	}
	return sum / all
}

// Fits reports whether all of the logo reads on a flat ground. A logo in a box does
// on the colour of its box alone.
func (l *Logo) Fits(ground colour.RGB) bool {
	if l.Art != nil && l.Art.Box != nil {
		return colour.DeltaE(*l.Art.Box, ground) < 1
	}
	return l.readable(ground, ground) >= wholeLogo
}

// FitsBetween reports whether the logo reads on all of a picture whose colours lie
// between two, channel by channel. A logo in a box never does.
func (l *Logo) FitsBetween(lo, hi colour.RGB) bool {
	return (l.Art == nil || l.Art.Box == nil) && l.readable(lo, hi) >= wholeLogo
}

// darkGround is the luminance up to which a ground asks for the tone for dark ones.
const darkGround = 0.18

// PickLogo chooses the logo for a flat ground and a room: a tone that fits first,
// then a lockup made for the room, then the leading one, then order. When no tone
// fits, the best for the room comes back in one colour of the kit, and where that cannot
// be done, to stand on a plate.
func (k *Kit) PickLogo(ground colour.RGB, room Shape, only string) (LogoFit, bool) {
	return k.pickLogo(func(l *Logo) bool { return l.Fits(ground) }, ground, ground, room, only)
}

// PickLogoBetween is PickLogo for a picture whose colours lie between two.
func (k *Kit) PickLogoBetween(lo, hi colour.RGB, room Shape, only string) (LogoFit, bool) {
	return k.pickLogo(func(l *Logo) bool { return l.FitsBetween(lo, hi) }, lo, hi, room, only)
}

func (k *Kit) pickLogo(fits func(*Logo) bool, lo, hi colour.RGB, room Shape, only string) (LogoFit, bool) {
	dark := hi.Luminance() <= darkGround
	cut := sync.OnceValues(func() (colour.RGB, bool) { return k.cutInk(lo, hi) }) // seldom asked for
	var best LogoFit
	bestScore := math.Inf(-1)
	for i := range k.Logos {
		l := &k.Logos[i]
		if l.Art == nil || (only != "" && l.File != only) {
			continue
		}
		fit := LogoFit{Logo: l}
		score := -0.01*float64(i) + roomScore(l, room)
		switch {
		case fits(l):
			score += 100
			if (l.Tone == "for-dark") == dark && l.Tone != "one-colour" {
				score += 2
			}
		default:
			if !l.OwnColours && l.Art.Cut != nil {
				fit.Ink, fit.Cut = cut()
			}
			if fit.Plate = !fit.Cut; fit.Cut {
				score += 50
			}
		}
		if l.Lead {
			score++
		}
		if score > bestScore {
			best, bestScore = fit, score
		}
	}
	return best, best.Logo != nil
}

// cutInk is the colour for a logo in one: an ink of the kit, or its darkest or lightest
// colour, that reads best on anything between two colours; false where none does.
func (k *Kit) cutInk(lo, hi colour.RGB) (ink colour.RGB, ok bool) {
	list := k.Colours()
	if len(list) == 0 {
		return ink, false
	}
	byLight := func(a, b Colour) int { return cmp.Compare(a.Value.Luminance(), b.Value.Luminance()) }
	inks := []Colour{slices.MinFunc(list, byLight), slices.MaxFunc(list, byLight)}
	for _, c := range list {
		if c.Role == Ink {
			inks = append(inks, c)
		}
	}
	best := logoContrast - 0.001
	for _, c := range inks {
		one := Logo{Art: &Art{Inks: []colour.Found{{Colour: c.Value, Share: 1}}, Hosts: []int{-1}}}
		least := min(colour.Contrast(c.Value, lo), colour.Contrast(c.Value, hi))
		if least > best && one.readable(lo, hi) == 1 {
			ink, ok, best = c.Value, true, least
		}
	}
	return ink, ok
}

func roomScore(l *Logo, room Shape) float64 {
	wide := l.Art.Aspect()
	if room == CompactRoom {
		switch {
		case l.Lockup == "symbol" || l.Lockup == "badge":
			return 10
		case wide < 1.6:
			return 6
		}
		return 0
	}
	switch {
	case l.Lockup == "horizontal":
		return 10
	case l.Lockup == "with-tagline" || l.Lockup == "wordmark":
		return 8
	case wide >= 1.6:
		return 6
	case l.Lockup == "stacked":
		return 3
	}
	return 0
}

// PlateFor is the quietest kit colour a logo reads on: grounds first, accents
// last, for a plate is not what a piece is about. A logo in a box gets its box'
// own colour.
func (k *Kit) PlateFor(l *Logo) colour.RGB {
	if l.Art != nil && l.Art.Box != nil {
		return *l.Art.Box
	}
	loud := func(c Colour) int {
		switch c.Role {
		case Ground:
			return 0
		case Accent:
			return 2
		}
		return 1
	}
	list := slices.Clone(k.Colours())
	slices.SortStableFunc(list, func(a, b Colour) int { return loud(a) - loud(b) })
	for _, c := range list {
		if !c.NeverGround && l.Fits(c.Value) {
			return c.Value
		}
	}
	if !l.Fits(colour.White) && l.Fits(colour.Black) {
		return colour.Black
	}
	return colour.White
}

// InkOn is the kit colour that reads best on a ground; black or white where none
// reaches 4.5:1 (WCAG 2.2, 1.4.3).
func (k *Kit) InkOn(ground colour.RGB) colour.RGB {
	ink, best := colour.Black, 4.5
	if colour.Contrast(colour.White, ground) > colour.Contrast(colour.Black, ground) {
		ink = colour.White
	}
	for _, c := range k.Colours() {
		if r := colour.Contrast(c.Value, ground); r >= best {
			best, ink = r, c.Value
		}
	}
	return ink
}
