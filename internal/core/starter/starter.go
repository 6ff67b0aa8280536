// Package starter finds a character for a brand that has nothing yet. A person
// looks at pairs of sample pieces and says which is more like them; four such
// answers, and what the business says of itself, place it among the
// directions of directions.json, each a palette, two families, a manner and a layout that show it well.
package starter

import (
	"cmp"
	_ "embed"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"
	"sync"

	"aspenridge/internal/core/brand"
)

// Direction is a character a brand can start from. The four numbers, from -1 to
// 1, place it: cool to warm, quiet to loud, classic to new, hard to soft.
type Direction struct {
	ID      string `json:"id"`
	Words   string `json:"words"`
	Palette string `json:"palette"` // a starter palette, by name
	Head    string `json:"head"`    // a shipped family
	Text    string `json:"text"`
	Layout  string `json:"layout"` // what it is shown in
	// Manner is how its pieces are built; the pictures and the edge are left to the rule.
	Manner brand.Manner `json:"manner"`
	Warm   float64      `json:"warm"`
	Loud   float64      `json:"loud"`
	New    float64      `json:"new"`
	Soft   float64      `json:"soft"`
}

type vector [4]float64

func (d Direction) vector() vector { return vector{d.Warm, d.Loud, d.New, d.Soft} }

//go:embed directions.json
var file []byte

// Directions lists them.
var Directions = sync.OnceValue(func() []Direction {
	var out []Direction
	if err := json.Unmarshal(file, &out); err != nil {
		panic(fmt.Errorf("internal/core/starter/directions.json: %w", err)) // embedded; a test reads it
	}
	return out
})

// Find finds a direction by its id.
func Find(id string) (Direction, bool) {
	for _, d := range Directions() {
		if d.ID == id {
			return d, true
		}
	}
	return Direction{}, false
}

// Rounds is how many pairs are shown: with four answers along four axes every
// direction can still come out first.
const Rounds = 4

// Pick is an answer: one direction was more like them than the other, or neither
// was like them.
type Pick struct {
	More, Less string
	Neither    bool
}

// enough is how many answers are asked for at most, those that chose neither with
// them.
const enough = 3 * Rounds

// chosen is how many answers chose one.
func chosen(picks []Pick) (n int) {
	for _, p := range picks {
		if !p.Neither {
			n++
		}
	}
	return n
}

// leanings are what words a business uses of itself say about its character.
var leanings = map[string]vector{
	"warm": {0.6, 0, 0, 0.2}, "cosy": {0.6, -0.3, -0.2, 0.4}, "honest": {0.2, -0.1, -0.3, -0.1}, "bread": {0.6, 0, -0.3, 0.2}, "bakery": {0.6, 0, -0.3, 0.2}, "kitchen": {0.4, 0.1, 0, 0.2}, "food": {0.4, 0.2, 0, 0.2}, "farm": {0.3, 0, -0.3, 0.2},
	"calm": {-0.2, -0.6, 0, 0.2}, "quiet": {-0.2, -0.6, 0, 0.1}, "patience": {0, -0.5, -0.2, 0.2}, "patient": {0, -0.5, -0.2, 0.2}, "clear": {-0.3, 0, 0.2, -0.1}, "water": {-0.4, -0.1, 0.1, 0.2}, "river": {-0.3, -0.1, 0, 0.2}, "yoga": {0, -0.5, 0.2, 0.6}, "care": {0.2, -0.3, 0, 0.5}, "health": {-0.1, -0.2, 0.2, 0.3},
	"fun": {0.3, 0.6, 0.1, 0.3}, "play": {0.2, 0.6, 0.2, 0.4}, "bold": {0.2, 0.7, 0.1, -0.3}, "loud": {0.2, 0.8, 0, -0.3}, "music": {0.1, 0.5, 0.2, 0}, "party": {0.3, 0.7, 0, 0.1}, "sport": {0, 0.6, 0.3, -0.3}, "speed": {0, 0.6, 0.5, -0.5}, "kids": {0.3, 0.5, 0.1, 0.6}, "children": {0.3, 0.4, 0, 0.6},
	"craft": {0.4, -0.1, -0.5, 0}, "tradition": {0.3, -0.2, -0.7, 0}, "history": {0.2, -0.2, -0.7, 0}, "heritage": {0.2, -0.2, -0.7, 0}, "books": {0.2, -0.2, -0.5, 0}, "law": {-0.3, -0.3, -0.2, -0.6}, "trust": {-0.2, -0.2, -0.1, -0.3}, "finance": {-0.4, -0.2, 0.1, -0.6}, "repair": {0.2, 0, -0.3, -0.4}, "tools": {0.2, 0.1, -0.3, -0.4}, "wood": {0.4, 0, -0.4, -0.1},
	"modern": {-0.2, 0.1, 0.7, -0.2}, "new": {0, 0.1, 0.5, 0}, "software": {-0.4, 0, 0.8, -0.3}, "data": {-0.4, 0, 0.8, -0.4}, "science": {-0.4, 0, 0.6, -0.3}, "design": {-0.1, 0.1, 0.5, -0.1}, "precise": {-0.3, -0.1, 0.3, -0.5}, "exact": {-0.3, -0.1, 0.3, -0.5},
	"gentle": {0.1, -0.5, 0, 0.7}, "soft": {0.1, -0.3, 0, 0.7}, "friendly": {0.3, 0.2, 0, 0.5}, "company": {0.2, 0.1, 0, 0.3}, "community": {0.3, 0.2, 0, 0.4}, "local": {0.3, 0.1, -0.2, 0.3}, "wild": {0, 0.3, 0, 0}, "garden": {0.2, 0, -0.1, 0.4}, "flowers": {0.2, 0.1, -0.1, 0.6},
}

// wish is where the words a business uses of itself point.
func wish(about string) vector {
	var v vector
	for w := range strings.FieldsFuncSeq(strings.ToLower(about), func(r rune) bool { return (r < 'a' || r > 'z') && r < 0x80 }) {
		for i, d := range leanings[w] {
			v[i] += d
		}
	}
	return v
}

// apart is the squared distance of two directions.
func apart(a, b Direction) float64 {
	sum := 0.0
	for i, v := range a.vector() {
		sum += (v - b.vector()[i]) * (v - b.vector()[i])
	}
	return sum
}

// fit is how well a direction goes where a wish points: the cosine of the angle
// between them, and a little for the direction's own strength.
func fit(d Direction, w vector) float64 {
	dot, a, b := 0.0, 0.0, 0.0
	for i, x := range d.vector() {
		dot += x * w[i]
		a += x * x
		b += w[i] * w[i]
	}
	if a == 0 || b == 0 {
		return 0
	}
	return dot / math.Sqrt(a*b)
}

// Ranked lists the directions, the best for the answers and the words first: an
// answer speaks for a direction as far as it is nearer to what was picked than
// to what was not.
func Ranked(picks []Pick, about string) []Direction {
	w := wish(about)
	out := append([]Direction{}, Directions()...)
	score := map[string]float64{}
	for _, d := range out {
		score[d.ID] = 0.8 * fit(d, w)
		for _, p := range picks {
			more, ok := Find(p.More)
			less, ok2 := Find(p.Less)
			switch {
			case !ok || !ok2:
			case p.Neither: // what is far from both is liked a little
				score[d.ID] += 0.5 * math.Tanh((min(apart(d, less), apart(d, more))-1)/1.5)
			default:
				score[d.ID] += math.Tanh((apart(d, less) - apart(d, more)) / 1.5)
			}
		}
	}
	slices.SortStableFunc(out, func(a, b Direction) int { return cmp.Compare(score[b.ID], score[a.ID]) })
	return out
}

// Nearest lists the directions by how near they are to a place, each coordinate
// from -1 to 1, nearest first.
func Nearest(warm, loud, new, soft float64) []Direction {
	at := Direction{Warm: warm, Loud: loud, New: new, Soft: soft}
	out := append([]Direction{}, Directions()...)
	slices.SortStableFunc(out, func(a, b Direction) int { return cmp.Compare(apart(a, at), apart(b, at)) })
	return out
}

// Next is the pair to show after the answers so far: of the better half, the two
// directions not both seen yet that differ most; ok is false when enough was
// asked.
func Next(picks []Pick, about string) (a, b Direction, ok bool) {
	answered := chosen(picks)
	if answered >= Rounds || len(picks) >= enough {
		return a, b, false
	}
	seen := map[string]int{}
	for _, p := range picks {
		seen[p.More]++
		seen[p.Less]++
		if p.Neither { // not again while there is anything else
			seen[p.More] += 4
			seen[p.Less] += 4
		}
	}
	list := Ranked(picks, about)
	if answered == len(picks) {
		list = list[:max(5, len(list)*(2*Rounds-answered)/(2*Rounds))]
	}
	best := -1.0
	for i, x := range list {
		for _, y := range list[i+1:] {
			if worth := apart(x, y) - 1.6*float64(seen[x.ID]+seen[y.ID]); worth > best || !ok {
				best, a, b, ok = worth, x, y, true
			}
		}
	}
	return a, b, ok
}
