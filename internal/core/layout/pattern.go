package layout

import (
	"math"
	"strings"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// patterns are the drawn grounds a cell may ask for.
var patterns = []string{"swell", "dots", "basket", "awning"}

// patternColour is the colour a pattern is drawn in on a base: the quietest of the kit
// that is still told apart from it, or for stripes the boldest of the
// colourway.
func (t *trial) patternColour(base colour.RGB, bold bool) colour.RGB {
	best, found := math.Inf(1), t.colour(colourway.InkOn(colourway.Ground))
	try := func(c colour.RGB) {
		d := colour.DeltaE(base, c)
		if d < 7 {
			return
		}
		if bold {
			d = -d
		}
		if d < best {
			best, found = d, c
		}
	}
	for _, s := range []colourway.Seat{colourway.Ground, colourway.Panel, colourway.Rule, colourway.Button} {
		try(t.colour(s))
	}
	if !bold {
		for _, c := range t.in.Kit.Colours() {
			try(c.Value)
		}
	}
	return found
}

// pattern is a ground that is drawn once its trial is the one that is kept.
type pattern struct {
	kind string
	box  spec.Rect
	at   int // how many parts are drawn under it
}

// paintPatterns draws the patterns of a trial where they belong.
func (t *trial) paintPatterns() {
	if len(t.patterns) == 0 {
		return
	}
	under := t.under
	t.under = make([]scene.Part, 0, len(under)+2*len(t.patterns))
	from := 0
	for _, p := range t.patterns {
		t.under = append(t.under, under[from:p.at]...)
		from = p.at
		t.paintPattern(p.kind, p.box)
	}
	t.under = append(t.under, under[from:]...)
	t.patterns = nil
}

// paintPattern covers b with a pattern on the band colour, or with the kit's
// own pattern picture.
func (t *trial) paintPattern(kind string, b spec.Rect) {
	base := t.colour(colourway.Band)
	if p := t.in.Pattern; p != nil && kind != "awning" {
		t.under = append(t.under, scene.Part{Slot: "pattern", Kind: scene.KindPicture, Box: b, Picture: p.Hash, Crop: p.Crop(b.W/b.H, [2]float64{0.5, 0.5})})
		return
	}
	t.under = append(t.under, scene.Part{Slot: "band", Kind: scene.KindShape, Box: b, Fill: base})
	part := scene.Part{Slot: "band", Kind: scene.KindShape, Box: b, Clip: roundedPath(b, 0), Fill: t.patternColour(base, kind == "awning")}
	u := math.Max(3, math.Min(b.W, b.H)/40)
	if tiles := t.repeated(b, u); tiles != nil && kind != "awning" {
		tiles.Slot, tiles.Fill, tiles.Alpha = "band", part.Fill, 1
		t.under = append(t.under, *tiles)
		return
	}
	switch kind {
	case "dots":
		part.Path = dots(b, 1.1*u, 5*u, 1)
	case "basket":
		part.Path, part.Stroke = basket(b, u)
	case "awning":
		t.under = t.under[:len(t.under)-1]
		t.awning(b)
		return
	default:
		t.contours(b)
		return
	}
	t.under = append(t.under, part)
}

// PatternPath is a drawn pattern that covers a box, in units of u px: dots, basket or
// bars, as path data and the width of its lines, 0 for filled shapes; "" for one there is
// not. It reaches over the edges of the box.
func PatternPath(kind string, b spec.Rect, u float64) (path string, stroke float64) {
	switch kind {
	case "dots":
		return dots(b, 1.1*u, 5*u, 1), 0
	case "basket":
		return basket(b, u)
	case "bars":
		return bars(b, u), 0
	}
	return "", 0
}

// dots in rows that alternate, the first of them half a step further for lead 1.
func dots(b spec.Rect, r, step float64, lead int) string {
	var p strings.Builder
	for row, y := 0, b.Y+step/2; y < b.Bottom()+r; row, y = row+1, y+0.87*step {
		for x := b.X + step/2*float64(lead+row%2); x < b.Right()+r; x += step {
			p.WriteString(circlePath(x, y, r))
		}
	}
	return p.String()
}

func basket(b spec.Rect, u float64) (path string, stroke float64) {
	var p strings.Builder
	step := 6 * u
	for row, y := 0, b.Y; y < b.Bottom(); row, y = row+1, y+step {
		for col, x := 0, b.X; x < b.Right(); col, x = col+1, x+step {
			p.WriteString(weave(x, y, step, (row+col)%2 == 0))
		}
	}
	return p.String(), math.Max(1, 0.8*u)
}

// bars that slant.
func bars(b spec.Rect, u float64) string {
	var p strings.Builder
	for x := b.X - b.H; x < b.Right(); x += 3.2 * u {
		p.WriteString("M" + num(x) + " " + num(b.Bottom()) + "L" + num(x+b.H) + " " + num(b.Y) + "L" + num(x+b.H+u) + " " + num(b.Y) + "L" + num(x+u) + " " + num(b.Bottom()) + "Z")
	}
	return p.String()
}

// awning draws stripes that end in half rounds; between them one sees what the
// neighbouring cell stands on.
func (t *trial) awning(b spec.Rect) {
	base := t.colour(colourway.Band)
	n := math.Max(5, 2*math.Round(b.W/(b.H*0.9)/2)+1)
	w := b.W / n
	r := math.Min(w/2, b.H*0.42)
	t.under = append(t.under, scene.Part{Slot: "ground", Kind: scene.KindShape, Box: b, Fill: t.colour(colourway.Ground)})
	for k, fill := range []colour.RGB{base, t.patternColour(base, true)} {
		if colour.DeltaE(fill, t.colour(colourway.Ground)) < 3 {
			fill = t.colour(colourway.InkOn(colourway.Ground))
		}
		var p strings.Builder
		for i := k; i < int(n); i += 2 {
			x := b.X + float64(i)*w
			p.WriteString("M" + num(x) + " " + num(b.Y) + "h" + num(w) + "V" + num(b.Bottom()-r) +
				"A" + num(w/2) + " " + num(r) + " 0 0 1 " + num(x) + " " + num(b.Bottom()-r) + "Z")
		}
		t.under = append(t.under, scene.Part{Slot: "band", Kind: scene.KindShape, Box: b, Path: p.String(), Fill: fill})
	}
}

func circlePath(x, y, r float64) string {
	a := "a" + num(r) + " " + num(r) + " 0 1 0 "
	return "M" + num(x-r) + " " + num(y) + a + num(2*r) + " 0" + a + num(-2*r) + " 0Z"
}

// weave is one crossing of a basket's strips: three lines side by side.
func weave(x, y, step float64, across bool) (path string) {
	for k := range 3 {
		d := step * (0.25 + 0.25*float64(k))
		if across {
			path += "M" + num(x+0.15*step) + " " + num(y+d) + "h" + num(0.7*step)
		} else {
			path += "M" + num(x+d) + " " + num(y+0.15*step) + "v" + num(0.7*step)
		}
	}
	return path
}
