package piece

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/spec"
)

// Wish narrows the looks that are proposed. The zero Wish asks for any.
type Wish struct {
	Layout     string                // id every look has
	Seats      map[string]string     // colours every look has, as far as its layout reads in them
	TypeSet    *string               // id of the type set every look has
	Crops      map[string][2]float64 // focal points every look has, by picture; nil for any
	Palette    string                // id of the palette colours come from, "" for all of them
	NotLayouts []string              // ids
	NotGrounds []string              // tokens of colours no look has as its ground
	Quick      bool                  // in the layouts' own order: no piece is solved to judge them
}

// Looks proposes up to limit whole alternatives, best first.
func (j *Job) Looks(limit int) []Look { return j.LooksFor(Wish{}, limit) }

// First is the look of a brief that names none. With words alone it goes by the
// layouts' own order, for the look not to change with every word that is typed; the
// best of [Job.Looks] may be another.
func (j *Job) First() Look {
	return j.LooksFor(Wish{Quick: len(j.pictures(j.Brief.Cards[0], Look{})) == 0}, 1)[0]
}

// LooksFor proposes up to limit whole alternatives that keep to a wish, best
// first and each different from those before it: the layouts that suit the copy
// and the pictures take turns, each time with the colourway that differs most
// from what was proposed lately, and round by round with the next type set and
// the next crop.
func (j *Job) LooksFor(w Wish, limit int) []Look {
	var layouts []*layout.Layout
	for _, l := range j.ranked(w.Layout == "" && !w.Quick) {
		if (w.Layout == "" || l.ID == w.Layout) && !slices.Contains(w.NotLayouts, l.ID) {
			layouts = append(layouts, l)
		}
	}
	sets := j.Kit.TypeSets
	if w.TypeSet != nil {
		sets = sets[:1]
		if i := slices.IndexFunc(j.Kit.TypeSets, func(t brand.TypeSet) bool { return t.ID == *w.TypeSet }); i >= 0 {
			sets = j.Kit.TypeSets[i : i+1]
		}
	}
	colours := j.Kit.Colours()
	if w.Palette != "" {
		if only := slices.DeleteFunc(slices.Clone(colours), func(c brand.Colour) bool { return !strings.HasPrefix(c.Token, w.Palette+".") }); len(only) > 0 {
			colours = only
		}
	}
	ranked := make([][]colourway.Colourway, len(layouts)) // as far as they are asked for
	seen := map[string]bool{}
	var out []Look
	var chosen []faces
	for round := 0; len(out) < limit; round++ {
		some := false
		for i, l := range layouts {
			if len(out) == limit {
				break
			}
			if round == 0 {
				ranked[i] = j.wished(l, w, colours, colourway.Rank(colours, l.Needs(), 36))
			}
			// held colours stay: it is type and crop that change
			if len(ranked[i]) == 0 || w.Seats != nil && round >= len(sets)*len(cropShifts) {
				continue
			}
			some = true
			at := pick(l, ranked[i], chosen)
			if round == 0 && w.Seats == nil {
				ranked[i], at = j.preferKept(l, w, ranked[i], at)
			}
			cw := ranked[i][at]
			if w.Seats == nil {
				ranked[i] = slices.Delete(ranked[i], at, at+1)
			}
			look := Look{Layout: l.Ref(), Seats: cw.Tokens(), TypeSet: sets[round%len(sets)].ID, Crops: j.crops(w, l, round)}
			if key := look.key(); !seen[key] {
				seen[key] = true
				chosen = append(chosen, facesOf(l, cw))
				out = append(out, look)
			}
		}
		if !some {
			break
		}
	}
	return out
}

// preferKept puts the colourway the kit keeps for a layout in the place of the one at at,
// where it may be wished for.
func (j *Job) preferKept(l *layout.Layout, w Wish, ranked []colourway.Colourway, at int) ([]colourway.Colourway, int) {
	kept, ok := j.keptIn(l)
	if !ok {
		return ranked, at
	}
	if n := slices.IndexFunc(ranked, func(c colourway.Colourway) bool { return maps.Equal(c.Tokens(), kept.Tokens()) }); n >= 0 {
		return ranked, n
	}
	if !slices.Contains(w.NotGrounds, kept.At(l.Dominant()).Token) && w.Palette == "" {
		return append(ranked, kept), len(ranked)
	}
	return ranked, at
}

// keptIn is the colourway the kit keeps together with a layout.
func (j *Job) keptIn(l *layout.Layout) (colourway.Colourway, bool) {
	for _, k := range j.Kit.KeptColourways {
		if k.Layout == l.ID {
			return colourway.Resolve(j.Kit, k.Seats, l.Needs())
		}
	}
	return colourway.Colourway{}, false
}

// cropShifts move a focal point (0-1 of the picture's width) round by round: the
// subject stands where it is seen best, then about on the right third of its
// frame, then on the left one (set by eye on the demo's pictures).
var cropShifts = [...]float64{0, -0.11, 0.11}

// crops are the focal points of a look in a round.
func (j *Job) crops(w Wish, l *layout.Layout, round int) map[string][2]float64 {
	out := map[string][2]float64{}
	if w.Crops != nil {
		return maps.Clone(w.Crops)
	}
	shift := cropShifts[round%len(cropShifts)]
	if shift == 0 || l.Pictures == 0 {
		return out
	}
	for _, p := range j.Brief.Cards[0].Pictures {
		if pic, ok := j.picture(p, Look{}); ok {
			out[p.File] = [2]float64{math.Round(1000*math.Max(0, math.Min(1, pic.Focus[0]+shift))) / 1000, pic.Focus[1]}
		}
	}
	return out
}

// wished keeps the colourways a wish allows; when it names colours, the one
// nearest to them.
func (j *Job) wished(l *layout.Layout, w Wish, colours []brand.Colour, ranked []colourway.Colourway) []colourway.Colourway {
	if w.Seats != nil {
		return []colourway.Colourway{j.colours(l, Look{Seats: w.Seats})}
	}
	if len(w.NotGrounds) == 0 {
		return ranked
	}
	if len(ranked) == 36 { // there may be more
		ranked = colourway.Rank(colours, l.Needs(), colourway.MaxRanked)
	}
	return slices.DeleteFunc(ranked, func(c colourway.Colourway) bool {
		return slices.Contains(w.NotGrounds, c.At(l.Dominant()).Token)
	})
}

// Blend puts the layout and crops of one look together with the colours and the
// type set of another, as far as the layout reads in them.
func (j *Job) Blend(a, b Look) Look {
	l := j.layoutByRef(a.Layout)
	return Look{Layout: a.Layout, Seats: j.colours(l, b).Tokens(), TypeSet: b.TypeSet, Crops: maps.Clone(a.Crops)}
}

// key is what makes a look another one.
func (l Look) key() string {
	s := l.Layout + " " + l.TypeSet
	for _, k := range slices.Sorted(maps.Keys(l.Seats)) {
		s += " " + l.Seats[k]
	}
	for _, k := range slices.Sorted(maps.Keys(l.Crops)) {
		s += fmt.Sprint(k, l.Crops[k])
	}
	return s
}

// Same reports whether two looks show the same, whatever they are called.
func (l Look) Same(o Look) bool { return l.key() == o.key() }

// faces are the colours one sees first in a look: the one that covers most, the
// one beside it, the button.
type faces [3]string

func facesOf(l *layout.Layout, c colourway.Colourway) faces {
	most, other := colourway.Ground, colourway.Panel
	if l.Dominant() == colourway.Panel {
		most, other = other, most
	}
	return faces{c.At(most).Token, c.At(other).Token, c.At(colourway.Button).Token}
}

// pick weighs a colourway's rank against how near it is to those chosen lately,
// so that neighbours on the sheet do not look alike (the weights were set by
// eye on the demo's sheet: with them the lead colour covers about every third).
func pick(l *layout.Layout, ranked []colourway.Colourway, chosen []faces) int {
	recent := chosen
	if len(recent) > 6 {
		recent = recent[len(recent)-6:]
	}
	grounds := map[string]bool{}
	for _, f := range chosen {
		grounds[f[0]] = true
	}
	fresh := len(chosen) >= freshFrom && len(chosen) < firstLooks && len(grounds) < freshGrounds
	best, at := math.Inf(-1), 0
	for i, c := range ranked[:min(24, len(ranked))] {
		v := c.Score - 0.04*float64(i)
		f := facesOf(l, c)
		if fresh && !grounds[f[0]] {
			v += overAll
		}
		for n, r := range recent {
			near := float64(n+1) / float64(len(recent))
			for k, w := range [3]float64{0.9, 0.3, 0.15} {
				if f[k] == r[k] {
					v -= w * near
				}
			}
		}
		if v > best {
			best, at = v, i
		}
	}
	return at
}

// Among the first looks there are at least freshGrounds different grounds, wanted from the
// freshFrom-th on.
const (
	freshGrounds = 3
	freshFrom    = 4
)

// Shapes are the three placements a look is shown in.
var Shapes = []string{"feed-tall", "story", "feed-wide"}

// Sheet composes looks in their three shapes, for showing them side by side.
func (j *Job) Sheet(looks []Look) [][]Piece {
	out := make([][]Piece, len(looks))
	for i, l := range looks {
		for _, id := range Shapes {
			p, _ := spec.Find(id)
			out[i] = append(out[i], j.Compose(l, p, 0))
		}
	}
	return out
}
