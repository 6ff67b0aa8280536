package demo

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"

	"aspenridge/internal/core/typeset"
)

var num = typeset.Num

// light is the colours of one hour on the river.
type light struct {
	sky            [3]string // top, middle, horizon
	disc, glow     string
	hills          [4]string // far to near
	trees          string
	water          [2]string // at the horizon, at the bottom
	glint, ripple  string
	hull, deck     string
	figure, shadow string
}

var (
	dawn = light{
		sky: [3]string{"#F9D9B0", "#F6A57E", "#E9785F"}, disc: "#FFF1D6", glow: "#FFE9C4",
		hills: [4]string{"#D98C80", "#B9707A", "#7C5A72", "#3E4A5E"}, trees: "#22333F",
		water: [2]string{"#D98F7C", "#17414F"}, glint: "#FFE3B4", ripple: "#FFFFFF",
		hull: "#F3B23E", deck: "#F9D48A", figure: "#14222A", shadow: "#0B1C22",
	}
	noon = light{
		sky: [3]string{"#BFE3E6", "#DDF0EA", "#F5F3E0"}, disc: "#FFF8E4", glow: "#FFFFFF",
		hills: [4]string{"#B7D3CB", "#8FBBA6", "#5E9478", "#35664F"}, trees: "#234A3C",
		water: [2]string{"#8FC4C4", "#155A68"}, glint: "#F4FFFB", ripple: "#FFFFFF",
		hull: "#F2694B", deck: "#F7A48E", figure: "#16302F", shadow: "#0B2B30",
	}
	dusk = light{
		sky: [3]string{"#16233F", "#3A3F6B", "#8C5A78"}, disc: "#F7D78A", glow: "#F7D78A",
		hills: [4]string{"#4A4470", "#353A62", "#222B4C", "#161F38"}, trees: "#0E1629",
		water: [2]string{"#4A4474", "#0B1222"}, glint: "#F7D78A", ripple: "#B9C4F0",
		hull: "#F2694B", deck: "#F7A48E", figure: "#080D1A", shadow: "#05080F",
	}
)

const pw, ph = 2000.0, 1600.0

// river draws a landscape of pw x ph px as SVG: sky, sun, four ranges of hills,
// a wooded shore and water with glints, and whatever scene adds on it.
func river(l light, seed uint64, discX, discY, horizon float64, scene func(*strings.Builder, light, *rand.Rand)) string {
	rng := rand.New(rand.NewPCG(seed, seed*7+1))
	var b strings.Builder
	fmt.Fprintf(&b, `<svg xmlns="http://www.w3.org/2000/svg" width="%g" height="%g" viewBox="0 0 %g %g">`, pw, ph, pw, ph)
	fmt.Fprintf(&b, `<defs><linearGradient id="s" x2="0" y2="1"><stop offset="0" stop-color="%s"/><stop offset=".55" stop-color="%s"/><stop offset="1" stop-color="%s"/></linearGradient><linearGradient id="w" x2="0" y2="1"><stop offset="0" stop-color="%s"/><stop offset="1" stop-color="%s"/></linearGradient></defs>`,
		l.sky[0], l.sky[1], l.sky[2], l.water[0], l.water[1])
	fmt.Fprintf(&b, `<rect width="%g" height="%g" fill="url(#s)"/>`, pw, horizon+40)
	for i, r := range []float64{250, 190, 132} {
		fmt.Fprintf(&b, `<circle cx="%g" cy="%g" r="%g" fill="%s" fill-opacity="%s"/>`, discX, discY, r, l.glow, []string{".12", ".18", "1"}[i])
		if i == 2 {
			fmt.Fprintf(&b, `<circle cx="%g" cy="%g" r="%g" fill="%s"/>`, discX, discY, r, l.disc)
		}
	}
	for i, c := range l.hills {
		base := horizon - 330 + float64(i)*88
		ridge(&b, rng, c, base, 120-float64(i)*22, horizon+60)
	}
	shore(&b, rng, l.trees, horizon)
	fmt.Fprintf(&b, `<rect y="%s" width="%g" height="%s" fill="url(#w)"/>`, num(horizon), pw, num(ph-horizon))
	// the disc's road of light
	var road, swell strings.Builder
	for y := horizon + 16; y < ph; y += 7 + (y-horizon)/70 {
		t := (y - horizon) / (ph - horizon)
		w := (60 + 420*t) * (0.35 + rng.Float64())
		x := discX + rng.NormFloat64()*(40+190*t) - w/2
		fmt.Fprintf(&road, "M%s %sh%s", num(x), num(y), num(w*0.5))
		if rng.Float64() < 0.6 {
			fmt.Fprintf(&swell, "M%s %sh%s", num(rng.Float64()*pw), num(y+3), num(80+260*t*rng.Float64()))
		}
	}
	fmt.Fprintf(&b, `<path d="%s" stroke="%s" stroke-width="6" stroke-linecap="round" stroke-opacity=".6" fill="none"/>`, road.String(), l.glint)
	fmt.Fprintf(&b, `<path d="%s" stroke="%s" stroke-width="4" stroke-linecap="round" stroke-opacity=".16" fill="none"/>`, swell.String(), l.ripple)
	scene(&b, l, rng)
	b.WriteString(`</svg>`)
	return b.String()
}

// ridge is a range of hills: four sines of falling length.
func ridge(b *strings.Builder, rng *rand.Rand, fill string, base, height, bottom float64) {
	phase := [4]float64{rng.Float64() * 7, rng.Float64() * 7, rng.Float64() * 7, rng.Float64() * 7}
	fmt.Fprintf(b, `<path fill="%s" d="M0 %s`, fill, num(bottom))
	for x := 0.0; x <= pw; x += 16 {
		y := math.Sin(x/410+phase[0])*0.55 + math.Sin(x/190+phase[1])*0.28 + math.Sin(x/83+phase[2])*0.12 + math.Sin(x/37+phase[3])*0.05
		fmt.Fprintf(b, "L%s %s", num(x), num(base-y*height))
	}
	fmt.Fprintf(b, `L%g %sZ"/>`, pw, num(bottom))
}

// shore is a line of firs, thicker towards both sides.
func shore(b *strings.Builder, rng *rand.Rand, fill string, y float64) {
	fmt.Fprintf(b, `<path fill="%s" d="M0 %s`, fill, num(y+6))
	for x := 0.0; x <= pw; x += 40 {
		fmt.Fprintf(b, "L%s %s", num(x), num(y-14-10*math.Sin(x/160)))
	}
	fmt.Fprintf(b, "L%g %sZ", pw, num(y+6))
	for range 190 {
		x := rng.Float64() * pw
		edge := math.Abs(x/pw-0.5) * 2
		if rng.Float64() > 0.25+0.75*edge {
			continue
		}
		h, w := 44+rng.Float64()*(50+70*edge), 12+rng.Float64()*10
		fmt.Fprintf(b, "M%s %sL%s %sL%s %sZ", num(x-w), num(y), num(x), num(y-h), num(x+w), num(y))
	}
	b.WriteString(`"/>`)
}

// kayak draws a paddler seen from the side, the boat's waterline at (x, y).
func kayak(b *strings.Builder, l light, x, y, scale float64, lift float64) {
	fmt.Fprintf(b, `<g transform="translate(%s %s) scale(%s)">`, num(x), num(y), num(scale))
	fmt.Fprintf(b, `<path fill="%s" fill-opacity=".3" d="M-300 30C-150 64 170 64 320 22C210 98 -180 100 -300 30Z"/>`, l.shadow)
	fmt.Fprintf(b, `<path fill="%s" d="M-290 -8C-190 44 190 44 312 -14C200 66 -170 72 -290 -8Z"/>`, l.hull)
	fmt.Fprintf(b, `<path fill="%s" d="M-290 -8C-150 22 150 22 312 -14C190 -30 -170 -32 -290 -8Z"/>`, l.deck)
	fmt.Fprintf(b, `<ellipse cx="4" cy="-8" rx="58" ry="11" fill="%s"/>`, l.figure)
	fmt.Fprintf(b, `<path fill="%s" d="M-44 -6C-50 -62 -34 -112 2 -116C40 -112 54 -58 50 -6Z"/>`, l.figure)
	fmt.Fprintf(b, `<circle cx="6" cy="-150" r="32" fill="%s"/><path fill="%s" d="M-27 -156C-24 -190 34 -192 40 -156Z"/>`, l.figure, l.hull)
	dy := 42 * lift
	fmt.Fprintf(b, `<path d="M-196 %sL208 %s" stroke="%s" stroke-width="11" stroke-linecap="round"/>`, num(-112-dy), num(-52+dy), l.figure)
	fmt.Fprintf(b, `<path fill="%s" d="M-268 %sC-250 %s -196 %s -180 %sC-206 %s -252 %s -268 %sZ"/>`, l.figure,
		num(-124-dy), num(-148-dy), num(-136-dy), num(-110-dy), num(-92-dy), num(-98-dy), num(-124-dy))
	fmt.Fprintf(b, `<path fill="%s" d="M280 %sC262 %s 212 %s 194 %sC218 %s 264 %s 280 %sZ"/>`, l.figure,
		num(-40+dy), num(-18+dy), num(-30+dy), num(-54+dy), num(-72+dy), num(-64+dy), num(-40+dy))
	fmt.Fprintf(b, `<path d="M-40 -92C-74 -86 -100 -92 -120 -100M44 -88C70 -74 92 -68 116 -66" stroke="%s" stroke-width="17" stroke-linecap="round" fill="none"/>`, l.figure)
	b.WriteString(`</g>`)
}

// lanterns sets paper lights on the water in a loose line.
func lanterns(b *strings.Builder, rng *rand.Rand, y0, y1 float64, n int) {
	for i := range n {
		t := float64(i) / float64(n-1)
		x := 180 + t*1560 + rng.NormFloat64()*40
		y := y0 + (y1-y0)*(0.5+0.5*math.Sin(t*5.1)) + rng.NormFloat64()*12
		s := 0.55 + 0.8*(y-y0)/(y1-y0+1)
		fmt.Fprintf(b, `<g transform="translate(%s %s) scale(%s)"><circle r="74" cy="-34" fill="#F3B23E" fill-opacity=".16"/><circle r="46" cy="-34" fill="#F3B23E" fill-opacity=".25"/><path d="M-22 0L-17 -62H17L22 0Z" fill="#F9C860"/><path d="M-17 -62H17L18 -50H-18Z" fill="#F2894B"/><path d="M-30 2H30L20 12H-20Z" fill="#1A1C36"/><path d="M-18 22h36M-12 34h24M-8 46h16" stroke="#F7D78A" stroke-width="5" stroke-linecap="round" stroke-opacity=".6"/></g>`,
			num(x), num(y), num(s))
	}
}

// Pictures are the demo's own illustrations, SVG by file name.
func Pictures() map[string]string {
	return map[string]string{
		"dawn-on-the-bend.svg": river(dawn, 11, 1380, 470, 860, func(b *strings.Builder, l light, rng *rand.Rand) {
			kayak(b, l, 800, 1180, 1.25, 0.1)
		}),
		"noon-slack-water.svg": river(noon, 23, 560, 360, 800, func(b *strings.Builder, l light, rng *rand.Rand) {
			kayak(b, noonFriend(l), 640, 960, 0.62, 0.6)
			kayak(b, l, 1180, 1130, 1.12, -0.5)
		}),
		"lanterns-after-dark.svg": river(dusk, 37, 1420, 380, 840, func(b *strings.Builder, l light, rng *rand.Rand) {
			lanterns(b, rng, 930, 1420, 11)
			kayak(b, l, 900, 1110, 0.95, 0.2)
		}),
	}
}

func noonFriend(l light) light {
	l.hull, l.deck = "#0F3D4C", "#2C6674"
	return l
}
