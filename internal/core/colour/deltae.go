package colour

import "math"

// DeltaE is the CIEDE2000 difference with kL = kC = kH = 1: G. Sharma, W. Wu,
// E. N. Dalal, "The CIEDE2000 color-difference formula: implementation notes,
// supplementary test data, and mathematical observations", 2005. About 1 is
// just noticeable side by side.
func (p Lab) DeltaE(q Lab) float64 {
	const rad = math.Pi / 180
	pow7 := func(v float64) float64 { return v * v * v * v * v * v * v }
	const k25 = 6103515625.0 // 25^7

	cBar := (math.Hypot(p.A, p.B) + math.Hypot(q.A, q.B)) / 2
	g := 0.5 * (1 - math.Sqrt(pow7(cBar)/(pow7(cBar)+k25)))
	a1, a2 := (1+g)*p.A, (1+g)*q.A
	c1, c2 := math.Hypot(a1, p.B), math.Hypot(a2, q.B)
	hue := func(a, b float64) float64 {
		if a == 0 && b == 0 {
			return 0
		}
		return positiveDegrees(math.Atan2(b, a))
	}
	h1, h2 := hue(a1, p.B), hue(a2, q.B)

	dL, dC := q.L-p.L, c2-c1
	dh := 0.0
	if c1*c2 != 0 {
		dh = h2 - h1
		if dh > 180 {
			dh -= 360
		} else if dh < -180 {
			dh += 360
		}
	}
	dH := 2 * math.Sqrt(c1*c2) * math.Sin(dh/2*rad)

	lBar, cBar := (p.L+q.L)/2, (c1+c2)/2
	hBar := h1 + h2
	if c1*c2 != 0 {
		switch {
		case math.Abs(h1-h2) <= 180:
			hBar /= 2
		case hBar < 360:
			hBar = (hBar + 360) / 2
		default:
			hBar = (hBar - 360) / 2
		}
	}
	t := 1 - 0.17*math.Cos((hBar-30)*rad) + 0.24*math.Cos(2*hBar*rad) +
		0.32*math.Cos((3*hBar+6)*rad) - 0.20*math.Cos((4*hBar-63)*rad)
	dTheta := 30 * math.Exp(-sq((hBar-275)/25))
	rC := 2 * math.Sqrt(pow7(cBar)/(pow7(cBar)+k25))
	sL := 1 + 0.015*sq(lBar-50)/math.Sqrt(20+sq(lBar-50))
	sC, sH := 1+0.045*cBar, 1+0.015*cBar*t
	rT := -math.Sin(2*dTheta*rad) * rC
	return math.Sqrt(sq(dL/sL) + sq(dC/sC) + sq(dH/sH) + rT*(dC/sC)*(dH/sH))
}

// DeltaE is the CIEDE2000 difference of two sRGB colours.
func DeltaE(a, b RGB) float64 { return a.Lab().DeltaE(b.Lab()) }
