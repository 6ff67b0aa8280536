package piece

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"sync"
	"unicode/utf8"

	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// ranked lists the layouts, those that suit the copy and the pictures first; judged
// looks at what their pieces are worth as well.
func (j *Job) ranked(judged bool) []*layout.Layout {
	card := j.Brief.Cards[0]
	words := card.Words(j.Kit, j.Brief.Language)
	pictures := j.pictures(card, Look{})
	there := func(what string) bool {
		switch what {
		case "picture2":
			return len(pictures) > 1
		case "person":
			return words["person"] != ""
		case "sections":
			return layout.Sections(words["body"])
		}
		return words[what] != ""
	}
	fit := func(l *layout.Layout) float64 {
		_, kept := j.keptIn(l)
		v := l.Pictures
		if len(pictures) == 0 {
			if v = 1 - l.Pictures; l.Pictures > livesOnPicture && !kept {
				v -= underFloor * worthGain
			}
		}
		switch {
		case slices.Contains(l.For, j.Brief.Purpose):
			v += 1
		case slices.ContainsFunc(l.Wants, there):
			v += 0.8
		case len(l.Wants) > 0:
			v -= 0.8
		}
		if kept { // first of all with words alone, and where a picture has as much room
			v += 0.5
			if len(pictures) == 0 {
				v += 1
			}
		}
		return v
	}
	made := map[*layout.Layout]tried{}
	judged = judged && len(j.Layouts) > 1
	if judged {
		made = j.tried()
	}
	value := map[*layout.Layout]float64{}
	for _, l := range j.Layouts {
		value[l] = fit(l) + worthGain*made[l].worth
	}
	out := slices.Clone(j.Layouts)
	slices.SortStableFunc(out, func(a, b *layout.Layout) int { return cmp.Compare(value[b], value[a]) })
	if judged {
		apart(out, value, made)
	}
	return out
}

// apart orders layouts, best first, so that those near each other are composed differently: one
// that puts the same things into the same places as one of the last few comes later, one of the
// same shapes as its neighbour only where nothing as good is left. The first ones are a choice
// (see [dues]).
func apart(list []*layout.Layout, value map[*layout.Layout]float64, made map[*layout.Layout]tried) {
	good := math.Inf(-1)
	for _, m := range made {
		good = math.Max(good, m.worth-nearlyAsGood)
	}
	for i := range list {
		wanted := due(list[:i], made)
		best, at := math.Inf(-1), i
		for k := i; k < len(list); k++ {
			m, v := made[list[k]], value[list[k]]
			for n := max(0, i-nearLooks); n < i; n++ {
				v -= alikeCost * m.alike(made[list[n]])
			}
			if m.worth > good && i < firstLooks {
				if wanted != nil && wanted(m) && !m.lacks {
					v += overAll
				}
				if i > 0 && m.shape == made[list[i-1]].shape {
					v -= overAll
				}
			}
			if v > best {
				best, at = v, k
			}
		}
		l := list[at]
		copy(list[i+1:at+1], list[i:at])
		list[i] = l
	}
}

// What is set by eye on sheets.
const (
	nearLooks    = 7
	alikeCost    = 0.9
	firstLooks   = 8    // how many are seen at once
	nearlyAsGood = 0.38 // less worth than the best a layout may have to be preferred for what it is
	overAll      = 10   // more than anything else counts
)

// dues say what is among the first looks and by which of them: words on a picture twice, type that
// fills the piece, the brand's own shapes.
var dues = []struct {
	by int // the index of the look from which on it is due
	is func(tried) bool
	n  int // how many there are by then
}{
	{2, func(t tried) bool { return t.on }, 1},
	{4, func(t tried) bool { return t.fills }, 1},
	{5, func(t tried) bool { return t.motif }, 1},
	{6, func(t tried) bool { return t.on }, 2},
}

// due is what the next of the first looks has to be, nil for anything.
func due(before []*layout.Layout, made map[*layout.Layout]tried) func(tried) bool {
	for _, d := range dues {
		n := 0
		for _, l := range before {
			if d.is(made[l]) {
				n++
			}
		}
		if len(before) >= d.by && n < d.n {
			return d.is
		}
	}
	return nil
}

// livesOnPicture is how well a layout goes with pictures (0-1) from which it is little without.
const livesOnPicture = 0.61

// worthGain is how much what the pieces are worth counts against how well a layout
// suits what there is, at 0 to 1.
const worthGain = 3

// A piece that cuts, covers or veils what its picture shows, whose headline of at most
// longHeadline letters is small, or that has no room for the logo or the call to action in a
// feed, comes after all others: it is worth underFloor less.
const (
	subjectFloor = 0.97
	lightFloor   = 0.9
	sizeFloor    = 0.07 // of the short side (common practice; craft.md)
	longHeadline = 60
	underFloor   = 0.3
	lostFloor    = 1.5 // where what the purpose lives on was left out: behind all others
	faceFloor    = 1.5 // where a face is cut or covered in any of them
)

// tried is what a layout makes of the brief's own picture and words: of its pieces in a few
// shapes the mean worth and the least, and how the first square one is composed.
type tried struct {
	worth  float64
	places [3]string // the thirds of the piece headline, logo and button stand in
	on     bool      // words stand on the picture
	fills  bool      // its headline is set to the full measure
	motif  bool      // it shows shapes of the brand's own
	lacks  bool      // a feed has no room for the logo or the call to action
	shape  string    // the family of shapes it is built of
}

// alike is how much two are composed alike, 0 to 1.
func (a tried) alike(b tried) float64 {
	switch {
	case a.places != b.places:
		return 0
	case a.on != b.on:
		return 0.7
	}
	return 1
}

// thirdsOf says in which thirds of a piece its headline, logo and button stand.
func thirdsOf(s *scene.Scene, first string) (out [3]string) {
	for _, p := range s.Parts {
		at := -1
		switch p.Slot {
		case first:
			at = 0
		case "logo":
			at = 1
		case "button":
			at = 2
		}
		if at >= 0 && out[at] == "" {
			third := func(v, whole float64) int { return int(3 * v / whole) }
			out[at] = fmt.Sprint(third(p.Box.X+p.Box.W/2, float64(s.W)), third(p.Box.Y+p.Box.H/2, float64(s.H)))
		}
	}
	return out
}

// tried solves a few pieces of every layout.
func (j *Job) tried() map[*layout.Layout]tried {
	places := j.shapes()
	square := max(0, slices.IndexFunc(places, func(p spec.Placement) bool { return p.Class() == spec.Square }))
	words := j.Brief.Cards[0].Words(j.Kit, j.Brief.Language)
	short := utf8.RuneCountInString(words["headline"]) <= longHeadline
	vital := layout.Vital(j.Brief.Purpose)
	pictures := len(j.pictures(j.Brief.Cards[0], Look{})) > 0
	out := make([]tried, len(j.Layouts))
	var wg sync.WaitGroup
	for i, l := range j.Layouts {
		wg.Go(func() {
			look := Look{Layout: l.Ref(), Seats: colourway.Rank(j.Kit.Colours(), l.Needs(), 1)[0].Tokens(), TypeSet: j.Kit.TypeSets[0].ID}
			sum, least, harms := 0.0, 1.0, false
			made := tried{on: l.OnPicture() && pictures, fills: l.Fills(), motif: l.Motif, shape: l.Shapes()}
			for n, p := range places {
				pc, in, _, plain := j.solve(look, p, 0)
				v := pc.Worth.Total
				if plain {
					v /= 2
				}
				gone := func(slot string) bool { return layout.Feed(p) && slices.Contains(pc.Dropped, slot) }
				lacks := gone("logo") || gone("callToAction")
				made.lacks = made.lacks || lacks
				if lacks || pc.Worth.Subject < subjectFloor || pc.Worth.Light < lightFloor || short && pc.Worth.Presence*layout.Presence(p) < sizeFloor {
					v -= underFloor
				}
				harms = harms || layout.HarmsFaces(pc.Scene.Parts, in.PictureBy)
				if slices.ContainsFunc(vital, func(slot string) bool { return slices.Contains(pc.Dropped, slot) }) {
					v -= lostFloor
				}
				if n == square {
					made.places = thirdsOf(pc.Scene, layout.First(j.Brief.Purpose, words))
				}
				sum, least = sum+v, min(least, v)
			}
			if made.worth = 0.5*sum/float64(len(places)) + 0.5*least; harms {
				made.worth -= faceFloor
			}
			out[i] = made
		})
	}
	wg.Wait()
	made := map[*layout.Layout]tried{}
	for i, l := range j.Layouts {
		made[l] = out[i]
	}
	return made
}

// shapes are up to five placements of the brief that differ in class, stories apart from what is
// merely tall, and what is seen small apart from what is seen large; the three [Shapes] and a
// square where it names none.
func (j *Job) shapes() []spec.Placement {
	var out []spec.Placement
	for _, id := range slices.Concat(j.Brief.Placements, Shapes, []string{"feed-square"}) {
		p, err := spec.Parse(id)
		alike := func(o spec.Placement) bool {
			return o.Class() == p.Class() && layout.Story(o) == layout.Story(p) && seenSmall(o) == seenSmall(p)
		}
		if err != nil || p.Icon || p.Tiny() || p.Class() == spec.Ribbon || slices.ContainsFunc(out, alike) {
			continue
		}
		if out = append(out, p); len(out) == 5 {
			break
		}
	}
	return out
}

// seenSmall reports whether a placement is seen under 300 px wide, as thumbnails are.
func seenSmall(p spec.Placement) bool { return p.SeenScale()*float64(p.Width) < 300 }
