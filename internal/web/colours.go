package web

import (
	"cmp"
	"fmt"
	"net/http"
	"path"
	"slices"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/colourway"
)

// colourSlip is the card beside a swatch: where the colour lies, what goes with
// it, how others write it.
type colourSlip struct {
	swatch
	Dials    []dial
	Plane    plane
	Copies   []copyAs
	Ramp     []colour.RGB
	Related  []colour.Related
	On, Of   int // place among the palette's colours, from 1
	Earlier  []string
	Later    []string
	Readable int // kit colours it can be read on
}

// Group is where the colour's palette stands in the document.
func (c colourSlip) Group() string { return path.Dir(c.Path) }

// dial is a slider through OKLCh with the colours it passes. Outside of sRGB the
// stops of hue and lightness are as colourful as can be, and say so; those of
// colourfulness are gaps.
type dial struct {
	ID, Name       string
	Min, Max, Step float64
	Value          float64
	Stops          []stop
	Text           string
}

// stop is a colour a dial passes, nil where there is none.
type stop struct {
	Colour *colour.RGB
	Less   bool // less colourful than the dial asks for
}

// plane is lightness (up) by colourfulness (to the right) at a hue: the colours
// of sRGB there, row by row from the top.
type plane struct {
	Rows [][]*colour.RGB
	X, Y float64 // the corner of a cell around the colour
}

// The cells of a plane, and how colourful its right edge is.
const (
	planeW, planeH = 26, 14
	mostChroma     = 0.33
)

func planeOf(c colour.RGB) plane {
	o := c.OKLCh()
	p := plane{X: planeW*min(1, o.C/mostChroma) - 0.5, Y: planeH*(1-o.L) - 0.5}
	for y := range planeH {
		row := make([]*colour.RGB, planeW)
		for x := range planeW {
			at := colour.OKLCh{L: 1 - (float64(y)+0.5)/planeH, C: (float64(x) + 0.5) / planeW * mostChroma, H: o.H}
			if at.C <= colour.MaxChroma(at.L, at.H) {
				v := at.RGB()
				row[x] = &v
			}
		}
		p.Rows = append(p.Rows, row)
	}
	return p
}

type copyAs struct{ Name, Text string }

// dialStops is how many colours a dial shows.
const dialStops = 36

func dialsOf(c colour.RGB) []dial {
	o := c.OKLCh()
	// how far outside of sRGB a stop may lie and still be what was asked for: rounding
	const slack = 0.004
	at := func(o colour.OKLCh, gives bool) stop {
		less := o.C > colour.MaxChroma(o.L, o.H)+slack
		if less && !gives {
			return stop{}
		}
		v := o.RGB()
		return stop{&v, less}
	}
	light := dial{ID: "l", Name: "Lightness", Max: 1, Step: 0.005, Value: o.L, Text: fmt.Sprintf("%.0f %%", 100*o.L)}
	chroma := dial{ID: "c", Name: "Colour", Max: mostChroma, Step: 0.002, Value: o.C, Text: fmt.Sprintf("%.3f", o.C)}
	hue := dial{ID: "h", Name: "Hue", Max: 360, Step: 1, Value: o.H, Text: fmt.Sprintf("%.0f°", o.H)}
	for i := range dialStops {
		f := (float64(i) + 0.5) / dialStops
		light.Stops = append(light.Stops, at(colour.OKLCh{L: f, C: o.C, H: o.H}, true))
		chroma.Stops = append(chroma.Stops, at(colour.OKLCh{L: o.L, C: f * chroma.Max, H: o.H}, false))
		hue.Stops = append(hue.Stops, at(colour.OKLCh{L: o.L, C: o.C, H: f * 360}, true))
	}
	return []dial{light, chroma, hue}
}

// slipColour is the slip of a colour, by its token.
func slipColour(_ *Server, _ *http.Request, k *app.Kit, p kitPage, token string) (string, any, error) {
	c, ok := k.Colour(token)
	if !ok {
		return "", nil, app.ErrNotFound
	}
	out := slipOf(k.Kit, c)
	out.origin = originOf(k, out.Path)
	return "colour-slip", out, nil
}

func slipOf(k *brand.Kit, c brand.Colour) colourSlip {
	out := colourSlip{swatch: swatch{Colour: c, Path: tokenPath(c.Token)}, Dials: dialsOf(c.Value), Plane: planeOf(c.Value), Ramp: colour.Ramp(c.Value, 9), Related: colour.Harmonies(c.Value)}
	n := c.Value.Notations()
	for _, name := range []string{"hex", "rgb", "hsl", "oklch"} {
		out.Copies = append(out.Copies, copyAs{name, n[name]})
	}
	for _, p := range k.Palettes {
		var tokens []string
		at := -1
		for i, o := range p.Colours {
			tokens = append(tokens, tokenOf(o.Token))
			if o.Token == c.Token {
				at = i
			} else if colour.Contrast(o.Value, c.Value) >= 4.5 {
				out.Readable++
			}
		}
		if at < 0 {
			continue
		}
		out.On, out.Of = at+1, len(tokens)
		swapped := func(i, j int) []string {
			list := slices.Clone(tokens)
			list[i], list[j] = list[j], list[i]
			return list
		}
		if at > 0 {
			out.Earlier = swapped(at, at-1)
		}
		if at+1 < len(tokens) {
			out.Later = swapped(at, at+1)
		}
	}
	return out
}

// double is a pair of kit colours hardly anybody tells apart.
type double struct {
	A, B  swatch
	Apart float64 // CIEDE2000
}

// doubles finds pairs closer than CIEDE2000 5, where a designer would ask which
// of the two was meant (common practice).
func doubles(list []swatch) []double {
	var out []double
	for i, b := range list {
		for _, a := range list[:i] {
			if d := colour.DeltaE(a.Value, b.Value); d < 5 {
				out = append(out, double{a, b, d})
			}
		}
	}
	slices.SortStableFunc(out, func(a, b double) int { return cmp.Compare(a.Apart, b.Apart) })
	return out
}

// seenRow is the palette as people with a colour vision deficiency see it, with
// the pairs that then look alike.
type seenRow struct {
	Kind    colour.Deficiency
	Words   string
	Colours []colour.RGB
	Alike   []string
}

func seenBy(list []swatch) []seenRow {
	words := map[colour.Deficiency]string{colour.Deutan: "green-weak", colour.Protan: "red-weak", colour.Tritan: "blue-weak"}
	var out []seenRow
	for _, d := range colour.Deficiencies {
		row := seenRow{Kind: d, Words: words[d]}
		for i, b := range list {
			sb := colour.Simulate(b.Value, d)
			row.Colours = append(row.Colours, sb)
			for _, a := range list[:i] {
				// clearly two colours to most, hardly two to them
				if colour.DeltaE(a.Value, b.Value) > 15 && colour.DeltaE(colour.Simulate(a.Value, d), sb) < 6 {
					row.Alike = append(row.Alike, a.Name+" and "+b.Name)
				}
			}
		}
		out = append(out, row)
	}
	return out
}

// keptRow is a colourway the kit keeps under a name.
type keptRow struct {
	Index   int
	Name    string
	Path    string
	Colours []colour.RGB // ground, panel, button
}

func keptRows(k *app.Kit) []keptRow {
	var out []keptRow
	for i, kept := range k.Kit.KeptColourways {
		row := keptRow{Index: i, Name: kept.Name, Path: "/$extensions/aspenridge/colourways/@" + kept.ID}
		for _, seat := range []colourway.Seat{colourway.Ground, colourway.Panel, colourway.Button} {
			if c, ok := k.Colour(colourway.Token(kept.Seats[string(seat)])); ok {
				row.Colours = append(row.Colours, c.Value)
			}
		}
		out = append(out, row)
	}
	return out
}
