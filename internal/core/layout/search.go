package layout

import (
	"math"
	"slices"
	"strings"
	"unicode/utf8"

	"aspenridge/internal/core/spec"
)

// largest finds the best sizes with which everything fits: with an even headline
// and the layout's own shares where that makes no small one, else with lines of
// any length or with more of the piece for the headline.
func (in *Input) largest(st state) (*trial, bool) {
	st.breaks = evenLines
	best, ok := in.search(st)
	small := func() bool { return !ok || best.headline() < largeEnough*in.presence()*best.short() }
	consider := func(st state, gain float64) {
		if t, found := in.search(st); found && (!ok || t.headline() > gain*best.headline()) {
			best, ok = t, true
		}
	}
	if small() {
		uneven := st
		uneven.breaks = freeLines
		consider(uneven, clearGain)
	}
	if !ok {
		st.breaks = anyLines
		consider(st, clearGain)
	}
	for _, lean := range leans {
		if in.caption() {
			break
		}
		under := lean.under
		if st.class == spec.Ribbon || st.class == spec.Wide { // where words stand beside a picture
			under = 1
		}
		if ok && best.headline() >= under*in.presence()*best.short() {
			break
		}
		if ok {
			st = best.st
		}
		st.lean = lean.share
		consider(st, leanGain)
	}
	// a word is divided only where it does not fit otherwise, or would be too small to be seen
	if (!ok || best.headline() < smallest*in.presence()*best.short()) && !st.hyphens && in.Language != "" && longWord(in.largestWords(st)) {
		divided := st
		if ok {
			divided = best.st
		}
		divided.hyphens, divided.breaks = true, freeLines
		consider(divided, hyphenGain)
	}
	if ok && !best.st.tight && best.headline() < smallest*in.presence()*best.short() {
		st = best.st
		st.tight = true
		consider(st, clearGain)
	}
	if ok {
		best = in.spare(best)
	}
	return best, ok
}

// spare makes room for what pictures show where it would be cut or covered: cells of
// words and the headline give way a little, as long as it stays large.
func (in *Input) spare(t *trial) *trial {
	harm := t.harm()
	if harm <= harmSlack {
		return t
	}
	st, best := t.st, t
	floor := spareLeast * in.presence() * t.short()
	for _, give := range []float64{0.85, 0.7} {
		st.lean, st.most = give*math.Max(1, t.st.lean), give*t.headline()
		if st.most < floor {
			break
		}
		if next, ok := in.search(st); ok {
			if h := next.harm(); h < harm-spareGain || h <= harmSlack {
				best, harm = next, h
			}
		}
		if harm <= harmSlack {
			return best
		}
	}
	if st = t.st; !st.small && in.comfort() > 0 { // sooner small words than a face under them
		st.small = true
		if next, ok := in.search(st); ok && next.harm() < harm-spareGain && next.headline() >= floor {
			best = next
		}
	}
	return best
}

const (
	spareLeast = 0.7  // of what the placement asks of a headline
	spareGain  = 0.08 // less harm a smaller headline has to be worth
)

// harm is what the trial does to the subjects of its pictures, 0 to 1.
func (t *trial) harm() float64 {
	if len(t.in.Pictures) == 0 {
		return 0
	}
	return Harm(slices.Concat(t.under, t.cards, t.content), t.in.PictureBy)
}

// longWord reports whether a text has a word that keeps it small in a narrow place.
func longWord(s string) bool {
	return slices.ContainsFunc(strings.Fields(s), func(w string) bool { return utf8.RuneCountInString(w) >= 12 })
}

// Presence is what a headline's size is at least to be, over the short side of the
// placement, for a piece to be seen in a feed (craft.md).
func Presence(p spec.Placement) float64 {
	switch {
	case p.Class() == spec.Ribbon:
		return 0.32
	case p.Class() == spec.Wide:
		return 0.14
	case Story(p), p.Class() == spec.Tower && p.Width >= 400:
		return 0.12
	}
	return 0.1
}

// Story reports whether a placement is so tall that a piece is set for its height.
func Story(p spec.Placement) bool { return p.Class() == spec.Tall && 10*p.Height > 16*p.Width }

// A headline under largeEnough times what its placement asks for is compared with
// other ways to set it, which have to make it clearGain times as large (set by eye on
// the contact sheets).
const (
	largeEnough = 1.2
	smallest    = 0.72 // times what its placement asks for: less is tightened
	clearGain   = 1.12
	leanGain    = 1.1
	hyphenGain  = 1.35 // a divided word in a headline has to be worth it
)

// leans are times the headline's share of the piece, each tried under so many times
// what its placement asks for: the pictures pay for it.
var leans = []struct{ share, under float64 }{{1.35, 1}, {1.8, smallest}}

// search solves the headline first: the largest with which everything fits while
// the body is at its floor. The other levels then grow into what is left: of a few
// body sizes up from there, each with the largest headline it leaves, the one of
// most worth.
func (in *Input) search(st state) (*trial, bool) {
	base := in.newTrial(st)
	try := func(body, ratio float64) (*trial, bool) {
		t := *base
		t.body, t.ratio = body, ratio
		if !t.run() {
			base.placed = t.emptied() // nobody keeps what does not fit: the next draws there
			return nil, false
		}
		base.placed = placed{}
		return &t, true
	}
	top, floor := base.bodyRange()
	best, ok := try(floor, base.ratioMin)
	if !ok {
		return nil, false
	}
	limit := func(body float64) float64 {
		if st.most > 0 {
			return math.Min(base.ratioMax, st.most/body)
		}
		return base.ratioMax
	}
	grow := func(t *trial) *trial { // to the largest headline at its body
		low, high := t.ratio, math.Max(t.ratio, limit(t.body))
		if all, ok := try(t.body, high); ok {
			return all
		}
		for range 6 {
			mid := (low + high) / 2
			if more, ok := try(t.body, mid); ok {
				t, low = more, mid
			} else {
				high = mid
			}
		}
		return t
	}
	best = grow(best)
	for i := 1; i <= bodySteps; i++ {
		body := floor * math.Pow(top/floor, float64(i)/bodySteps)
		// the least headline with which this body is worth more
		least := math.Max(base.ratioMin, 1.01*math.Exp((best.worth()-bodyWeight*math.Log(body))/2)/body)
		if least > limit(body) {
			continue
		}
		if t, ok := try(body, least); ok {
			if t = grow(t); t.worth() > best.worth() {
				best = t
			}
		}
	}
	return best, true
}

// bodySteps is how many body sizes are tried between the floor and the top.
const bodySteps = 6

// headline is the headline's size in px, short the canvas' short side.
func (t *trial) headline() float64 { return t.body * t.ratio }
func (t *trial) short() float64    { return math.Min(t.safe.W, t.safe.H) }

// worth weighs headline against body. The headline counts most, until it is plenty;
// a body that is more than bodyMost of it takes away from it (common practice; set by
// eye on the contact sheets).
func (t *trial) worth() float64 {
	w := 2*math.Log(t.headline()) + bodyWeight*math.Log(t.body)
	if over := t.headline() / (plenty * t.in.presence() * t.short()); over > 1 {
		w -= 1.4 * math.Log(over)
	}
	if over := t.body / t.headline() / bodyMost; over > 1 {
		w -= 2 * math.Log(over)
	}
	return w
}

const (
	plenty         = 1.3 // times what the placement asks for
	bodyMost       = 0.42
	bodyWeight     = 0.75
	subheadingMost = 0.46 // of the headline: it is 2.2 times the next size (craft.md)
	headlineLeast  = 1.4  // times the body: under that nothing is seen first
)
