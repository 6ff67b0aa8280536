// Package colourway seats a kit's colours in a layout: which colour is ground,
// panel, band and button, and which ink stands on each, so that every word is
// readable before anything is drawn.
//
// The hard edges: ink on what it stands on reaches [InkContrast]; a button
// stands out from its surface by [ButtonContrast]. White and black join only
// when the kit leaves no other way; any colour reaches 4.58:1 against one of
// them, so there always is an assignment.
package colourway

import (
	"math"
	"sort"
	"strings"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
)

// The contrast every colourway keeps (WCAG 2.2, 1.4.3; and common practice for
// the shape of a button).
const (
	InkContrast    = 4.5
	ButtonContrast = 1.5
)

// Seat is a place for a colour in a layout.
type Seat string

// The seats. A band is a strip or fill without words on it.
const (
	Ground    Seat = "ground"
	Panel     Seat = "panel"
	Band      Seat = "band"
	Button    Seat = "button"
	Rule      Seat = "rule"
	InkGround Seat = "inkGround"
	InkPanel  Seat = "inkPanel"
	InkButton Seat = "inkButton"
)

// Seats lists them in the order reports print them.
var Seats = []Seat{Ground, Panel, Band, Button, Rule, InkGround, InkPanel, InkButton}

// InkOn names the seat of the ink that stands on a seat.
func InkOn(s Seat) Seat {
	switch s {
	case Panel:
		return InkPanel
	case Button:
		return InkButton
	}
	return InkGround
}

// Needs is what a layout asks: how much of the piece (0-1) the seats cover and
// on which of them the button stands.
type Needs struct {
	GroundArea, PanelArea float64
	ButtonOn              Seat
	Dark                  bool // light words on a dark ground are wanted, as on photographs
}

// Colourway is an assignment of colours to seats.
type Colourway struct {
	Colours [8]brand.Colour // in the order of Seats
	Score   float64
}

var seatIndex = map[Seat]int{Ground: 0, Panel: 1, Band: 2, Button: 3, Rule: 4, InkGround: 5, InkPanel: 6, InkButton: 7}

// At returns the colour in a seat.
func (c Colourway) At(s Seat) brand.Colour { return c.Colours[seatIndex[s]] }

// Tokens maps every seat to its colour's token as documents write it:
// "color.<palette>.<token>", or one of the neutrals.
func (c Colourway) Tokens() map[string]string {
	m := map[string]string{}
	for i, s := range Seats {
		m[string(s)] = c.Colours[i].Token
		if !strings.HasPrefix(c.Colours[i].Token, "neutral.") {
			m[string(s)] = tokenPrefix + c.Colours[i].Token
		}
	}
	return m
}

const tokenPrefix = "color."

// Token is a colour's token in its kit, of a token as documents write it, with
// or without "color." in front.
func Token(s string) string { return strings.TrimPrefix(s, tokenPrefix) }

// Matches counts the seats that have the colours tokens name.
func (c Colourway) Matches(tokens map[string]string) int {
	n := 0
	for i, s := range Seats {
		if Token(tokens[string(s)]) == c.Colours[i].Token {
			n++
		}
	}
	return n
}

// Legal reports whether the hard edges hold.
func (c Colourway) Legal(n Needs) bool {
	ok := func(a, b Seat, min float64) bool {
		return colour.Contrast(c.At(a).Value, c.At(b).Value) >= min
	}
	return ok(InkGround, Ground, InkContrast) && ok(InkPanel, Panel, InkContrast) &&
		ok(InkButton, Button, InkContrast) && ok(Button, n.ButtonOn, ButtonContrast)
}

// White and Black are the neutrals that join when a kit needs them.
var (
	White = brand.Colour{Token: "neutral.white", Name: "White", Value: colour.White, Role: brand.Ground}
	Black = brand.Colour{Token: "neutral.black", Name: "Black", Value: colour.Black, Role: brand.Ink}
)

// Resolve rebuilds a colourway from tokens, as a kept look stores them. It
// fails when a token is gone or a hard edge no longer holds.
func Resolve(k *brand.Kit, tokens map[string]string, n Needs) (Colourway, bool) {
	var c Colourway
	for i, s := range Seats {
		token := Token(tokens[string(s)])
		col, ok := k.Colour(token)
		switch {
		case ok:
		case token == White.Token:
			col = White
		case token == Black.Token:
			col = Black
		default:
			return c, false
		}
		c.Colours[i] = col
	}
	return c, c.Legal(n)
}

// MaxPool is how many assignments are compared; MaxRanked how many come back.
const (
	MaxPool   = 1500
	MaxRanked = 200
)

// table holds the colours with everything the search asks about a pair.
type table struct {
	colours  []brand.Colour
	contrast [][]float64
	distance [][]float64 // OKLab
	chroma   []float64
	light    []float64
}

func newTable(colours []brand.Colour) *table {
	t := &table{colours: colours}
	labs := make([]colour.OKLab, len(colours))
	for i, c := range colours {
		labs[i] = c.Value.OKLab()
		t.chroma = append(t.chroma, math.Hypot(labs[i].A, labs[i].B))
		t.light = append(t.light, labs[i].L)
	}
	for i, a := range colours {
		cr, di := make([]float64, len(colours)), make([]float64, len(colours))
		for j, b := range colours {
			cr[j], di[j] = colour.Contrast(a.Value, b.Value), labs[i].Distance(labs[j])
		}
		t.contrast, t.distance = append(t.contrast, cr), append(t.distance, di)
	}
	return t
}

// Rank lists up to limit (at most [MaxRanked]) legal colourways of the kit's
// colours for a layout, best first, each clearly different from those before
// it. It is never empty.
func Rank(colours []brand.Colour, n Needs, limit int) []Colourway {
	base := dedupe(colours)
	for _, extra := range [][]brand.Colour{nil, {White}, {Black}, {White, Black}} {
		t := newTable(append(append([]brand.Colour{}, base...), missing(base, extra)...))
		if pool := t.enumerate(n); len(pool) > 0 {
			return diverse(t, pool, min(limit, MaxRanked))
		}
	}
	return nil // unreachable: white and black alone are legal
}

func missing(base, extra []brand.Colour) []brand.Colour {
	var out []brand.Colour
next:
	for _, e := range extra {
		for _, b := range base {
			if b.Value == e.Value {
				continue next
			}
		}
		out = append(out, e)
	}
	return out
}

func dedupe(colours []brand.Colour) []brand.Colour {
	var out []brand.Colour
next:
	for _, c := range colours {
		for _, o := range out {
			if colour.DeltaE(o.Value, c.Value) < 1 {
				continue next
			}
		}
		out = append(out, c)
		if len(out) == 16 {
			break // what a palette holds beyond that does not change the best seats
		}
	}
	return out
}

// choice is an assignment by index into the table.
type choice struct {
	at    [8]int
	score float64
}

func (t *table) enumerate(n Needs) []choice {
	inks := make([][]int, len(t.colours))
	for g := range t.colours {
		inks[g] = t.inksOn(g)
	}
	var pool []choice
	for g := range t.colours {
		if len(inks[g]) == 0 || t.colours[g].NeverGround {
			continue
		}
		for p := range t.colours {
			if len(inks[p]) == 0 || t.colours[p].NeverGround || (len(t.colours) > 2 && t.distance[g][p] < 0.06) {
				continue
			}
			surface := g
			if n.ButtonOn == Panel {
				surface = p
			}
			for b := range t.colours {
				if len(inks[b]) == 0 || t.contrast[b][surface] < ButtonContrast {
					continue
				}
				for _, ig := range inks[g] {
					c := choice{at: [8]int{g, p, t.band(g, p), b, t.rule(g, p, b, ig, n), ig, inks[p][0], inks[b][0]}}
					c.score = t.score(c, n)
					pool = append(pool, c)
				}
			}
		}
	}
	sort.SliceStable(pool, func(i, j int) bool { return pool[i].score > pool[j].score })
	if len(pool) > MaxPool {
		pool = pool[:MaxPool]
	}
	return pool
}

// inksOn lists the two best inks for a ground: the role asks first, then the
// contrast.
func (t *table) inksOn(g int) []int {
	var legal []int
	for i := range t.colours {
		if t.contrast[i][g] >= InkContrast {
			legal = append(legal, i)
		}
	}
	rank := func(i int) float64 {
		r := math.Min(t.contrast[i][g], 14) / 14
		switch t.colours[i].Role {
		case brand.Ink:
			r += 0.35
		case brand.Ground:
			r += 0.3
		case brand.Lead:
			r += 0.32
		case brand.Accent:
			r -= 0.1
		}
		return r
	}
	sort.SliceStable(legal, func(a, b int) bool { return rank(legal[a]) > rank(legal[b]) })
	return legal[:min(2, len(legal))]
}

// band is the colour for a strip or a fill without words: supporting, and told
// apart from both neighbours.
func (t *table) band(g, p int) int {
	best, at := math.Inf(-1), p
	for i := range t.colours {
		if t.colours[i].NeverGround {
			continue
		}
		d := math.Min(t.distance[i][g], t.distance[i][p])
		s := math.Min(d, 0.3) * 3
		switch t.colours[i].Role {
		case brand.Support:
			s += 0.4
		case brand.Ground, brand.Lead:
			s += 0.2
		case brand.Ink:
			s -= 0.2
		}
		if s > best {
			best, at = s, i
		}
	}
	return at
}

// rule is the colour of thin lines: the accent where it shows, else the ink.
func (t *table) rule(g, p, b, ink int, n Needs) int {
	surface := g
	if n.ButtonOn == Panel {
		surface = p
	}
	for i, c := range t.colours {
		if c.Role == brand.Accent && t.contrast[i][surface] >= 2 {
			return i
		}
	}
	if t.contrast[b][surface] >= 2 {
		return b
	}
	return ink
}

func (t *table) score(c choice, n Needs) float64 {
	g, p, b := c.at[0], c.at[1], c.at[3]
	area := func(i int, a float64) float64 {
		switch t.colours[i].Role {
		case brand.Lead:
			return 3 * a
		case brand.Ground:
			return 2.4 * a
		case brand.Support:
			return 1.9 * a
		case brand.Accent:
			return 0.9 * a
		case brand.Ink:
			return 1.2 * a
		}
		return a
	}
	s := area(g, n.GroundArea) + area(p, n.PanelArea)
	switch t.colours[b].Role {
	case brand.Accent:
		s += 1.6
	case brand.Lead, brand.Support:
		s += 0.8
	}
	s += 0.5 * math.Min(t.contrast[c.at[5]][g], 10) / 10
	s += 0.5 * math.Min(t.contrast[c.at[6]][p], 10) / 10
	s += 0.3 * math.Min(t.contrast[c.at[7]][b], 8) / 8
	surface := g
	if n.ButtonOn == Panel {
		surface = p
	}
	s += 0.4 * math.Min(t.contrast[b][surface], 3) / 3
	for _, pair := range [][2]int{{g, p}, {b, surface}} {
		// two strong colours of like lightness side by side vibrate
		if t.chroma[pair[0]] > 0.11 && t.chroma[pair[1]] > 0.11 && math.Abs(t.light[pair[0]]-t.light[pair[1]]) < 0.14 {
			s -= 1.5
		}
	}
	s += 0.4 * math.Min(t.distance[g][p], 0.5)
	if n.Dark {
		s += darkGain * (0.5 - t.light[g])
	}
	return s
}

// darkGain is what a ground of OKLab lightness 0 is worth where a dark one is wanted,
// over one of 0.5, twice: enough that a dark ink is preferred to a light lead colour
// (set by eye on sheets of photographs).
const darkGain = 4

// seatWeight is how much a seat counts when two colourways are compared.
var seatWeight = [8]float64{0.4, 0.3, 0.05, 0.15, 0.02, 0.05, 0.02, 0.01}

func (t *table) similarity(a, b choice) float64 {
	s := 0.0
	for i, w := range seatWeight {
		s += w * (1 - math.Min(1, t.distance[a.at[i]][b.at[i]]/0.35))
	}
	return s
}

// diverse picks by greedy maximal marginal relevance (Carbonell and Goldstein
// 1998); ties go to the earlier token.
func diverse(t *table, pool []choice, limit int) []Colourway {
	top := pool[0].score
	nearest := make([]float64, len(pool)) // similarity to the nearest one picked
	used := make([]bool, len(pool))
	var out []Colourway
	for len(out) < limit && len(out) < len(pool) {
		best, at := math.Inf(-1), -1
		for i, c := range pool {
			if used[i] {
				continue
			}
			if v := 0.62*(c.score/math.Max(top, 0.1)) - 0.38*nearest[i]; v > best+1e-12 {
				best, at = v, i
			}
		}
		used[at] = true
		var cw Colourway
		for i, idx := range pool[at].at {
			cw.Colours[i] = t.colours[idx]
		}
		cw.Score = pool[at].score
		out = append(out, cw)
		for i := range pool {
			if !used[i] {
				nearest[i] = math.Max(nearest[i], t.similarity(pool[i], pool[at]))
			}
		}
	}
	return out
}
