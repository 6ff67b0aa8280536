package layout

import (
	"cmp"
	"maps"
	"math"
	"slices"
	"strings"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/typeset"
)

// Input is everything a piece is computed from.
type Input struct {
	Layout    *Layout
	Placement spec.Placement
	Words     map[string]string // by slot; "shortHeadline" stands in for the headline where it must
	Short     bool              // the shorter headline was written for this place and stands
	With      map[string]string // slots that say nothing without another: the source of a quote
	Purpose   string
	Types     brand.TypeSet
	Face      func(brand.Style) *typeset.Face
	Shaper    *typeset.Shaper
	Colours   colourway.Colourway
	Pictures  []photo.Picture
	Portrait  *photo.Picture    // of the person, nil for none
	Pattern   *photo.Picture    // the kit's own, for patterned grounds; nil for the drawn ones
	Figures   map[string]Figure // by slot: when, offer
	Stars     float64           // of a rating, 0-5; 0 for none
	Icons     []Icon            // one per fact, or none at all
	Emphasis  []string          // words or phrases of the copy set in another ink
	Kit       *brand.Kit
	Manner    brand.Manner           // an empty step is the middle one
	Language  string                 // whose words may be divided (package hyphen); "" for none
	Signature string                 // address, logo, both, none
	Hands     map[string]*brief.Hand // by slot: how words are set by hand
	Logo      string                 // file of the logo to use, empty for the rule
}

// Result is a solved piece.
type Result struct {
	Scene     *scene.Scene
	Dropped   []string // slots left out because there was no room, in order
	Shortened []string // slots that show fewer words than written
	Plain     bool     // the built-in plain layout had to step in
	First     string   // the slot whose words are the largest
	worth     float64
	harm      float64 // of what pictures show, 0-1
	headline  float64 // px
}

// state is what has been given up so far.
type state struct {
	class                   spec.Class // whose tree is used
	short, tight, emergency bool
	small                   bool    // words may be under [comfortable]
	yield                   bool    // pictures are at half their least share, those there may be are gone
	hyphens                 bool    // long words may be divided
	breaks                  breaks  // what lines a headline may have
	most                    float64 // px the headline is at most, 0 for any
	lean                    float64 // times the share of the cells that hold the headline, over the least of others; 0 for 1
	dropped                 map[string]bool
	cut                     int // words of the headline kept, 0 for all
	shrink                  float64
}

// breaks is how a headline of more than two lines may be broken.
type breaks int

const (
	anyLines  breaks = iota
	freeLines        // no line of a short word alone
	evenLines        // no line much shorter than the widest
)

// seenCap is the least cap height in px at the largest width a piece is seen
// at; tinyType the least type size on tiny pieces (craft.md).
const (
	seenCap  = 7.0
	tinyType = 11.0
)

// comfortable is how many px as seen words have in a feed at least, while there is any
// other way to make room: smaller ones are read by nobody who scrolls (common practice;
// craft.md asks 12 on a screen 390 px wide, the catalogue's are 375).
const comfortable = 12.1

// listComfort is how much larger than [comfortable] the points of a list of tips are: 14 px as seen.
const listComfort = 14.1 / comfortable

// Feed reports whether a placement has the shape of what people scroll through on a phone.
func Feed(p spec.Placement) bool {
	c := p.Class()
	return !p.Tiny() && !p.Advertisement() && (c == spec.Square || c == spec.Tall)
}

// comfort is the comfortable size in px of the canvas, 0 outside of feeds.
func (in *Input) comfort() float64 {
	if !Feed(in.Placement) {
		return 0
	}
	return comfortable / in.Placement.SeenScale()
}

// leastSize is the least size, px, of a slot's words in a face.
func (t *trial) leastSize(slot string, face *typeset.Face) float64 {
	least := seenCap / face.CapHeight / t.seen * 1.01 // the report measures caps; stay clear of rounding
	if !t.st.small && slot != "terms" && slot != "website" {
		least = math.Max(least, t.comfort)
		if t.in.Purpose == "tips" && (slot == "facts" || slot == "lines") { // they are what it is about
			least = math.Max(least, t.comfort*listComfort)
		}
	}
	return least * t.st.shrink
}

func (in *Input) dropList() []string {
	carries, vital := Carries(in.Purpose), Vital(in.Purpose)
	largest := First(in.Purpose, in.Words)
	ad := in.Placement.Advertisement()
	var plain, carried, least, action []string
	for _, s := range brief.DropOrder {
		switch {
		case s == largest: // what is first stays; the headline over it goes in its stead
			plain = append(plain, "headline")
		case s == "logo":
		case s == "callToAction":
			action = append(action, s)
		case slices.Contains(vital, s):
			least = append(least, s)
		case slices.Contains(carries, s) && s == "terms" && ad: // terms of an offer belong into its advertisement
			least = append(least, s)
		case slices.Contains(carries, s):
			carried = append(carried, s)
		default:
			plain = append(plain, s)
		}
	}
	// what carries the purpose goes after the plain copy; the most telling part of it after the
	// logo, and after the call to action where no advertisement asks for that
	order := [][]string{plain, carried, {"logo"}, action, least}
	switch {
	case len(vital) == 0 && len(carried) > 0:
		last := len(carried) - 1
		order = [][]string{plain, carried[:last], {"logo"}, carried[last:], action}
	case ad:
		order = [][]string{plain, carried, {"logo"}, least, action}
	}
	return slices.Concat(order...)
}

// Solve computes the piece. It always returns one: when a layout cannot hold
// the copy at all, the plain layout does. What other copy gave way to and that
// does not fit all the same takes nothing with it.
func Solve(in Input) Result {
	r := solve(in)
	last := in.gaveWayTo(r.Dropped)
	if len(last) == 0 || len(last) == len(r.Dropped) {
		return r
	}
	in.Words = maps.Clone(in.Words)
	for _, slot := range last {
		delete(in.Words, slot)
	}
	if again := solve(in); again.Plain == r.Plain {
		r = again
		r.Dropped = append(r.Dropped, last...)
	}
	return r
}

// gaveWayTo are the slots among those left out that others were left out for first.
func (in *Input) gaveWayTo(dropped []string) []string {
	vital := Vital(in.Purpose)
	var last []string
	for _, slot := range dropped {
		if slot == "terms" || slices.Contains(vital, slot) && slot != "headline" {
			last = append(last, slot)
		}
	}
	return last
}

func solve(in Input) Result {
	if in.Placement.Icon {
		return solveIcon(in)
	}
	if in.Words["headline"] == "" && len(in.Pictures) == 0 {
		if r, ok := solveMark(in); ok {
			return r
		}
	}
	box := in.Placement.SafeBox()
	class := in.Placement.Class()
	best, ok := attempt(in, class, false)
	for _, other := range siblings(class, box) {
		if ok && class != spec.Ribbon && (best.whole(in.Purpose) || in.Placement.Tiny()) {
			break
		}
		r, fits := attempt(in, other, false)
		if more := r.keeps(best, in.Purpose); fits && (!ok || more > 0 && r.headline > siblingLeast*best.headline || more == 0 && class == spec.Ribbon && r.worth > best.worth) {
			best, ok = r, true
		}
	}
	if ok {
		return best
	}
	in.Layout = Plain()
	if best, ok = attempt(in, class, false); !ok {
		best, _ = attempt(in, class, true)
	}
	best.Plain = true
	return best
}

// bothTrees is the ratio under which a ribbon is also tried with the wide tree:
// an e-mail header of 3:1 has height enough to set words in more than a line.
const bothTrees = 4.2

// siblings are the classes whose trees a placement takes where in its own something
// is left out or harmed.
func siblings(c spec.Class, box spec.Rect) []spec.Class {
	switch {
	case c == spec.Ribbon && box.W/box.H < bothTrees:
		return []spec.Class{spec.Wide}
	case c == spec.Square:
		return []spec.Class{spec.Tall, spec.Wide}
	case c == spec.Wide, c == spec.Tall:
		return []spec.Class{spec.Square}
	case c == spec.Tower:
		return []spec.Class{spec.Tall}
	}
	return nil
}

// siblingLeast is how much smaller a headline may be for what a sibling's tree keeps.
const siblingLeast = 0.85

// whole reports whether no picture is harmed and nothing was left out that the purpose
// lives on or that says whose piece it is and what to do.
func (r Result) whole(purpose string) bool {
	matters := func(slot string) bool {
		return slot == "logo" || slot == "callToAction" || slices.Contains(Carries(purpose), slot)
	}
	return !slices.ContainsFunc(r.Dropped, matters) && r.harm <= harmSlack
}

// keeps is over 0 where r keeps more of what the purpose lives on than o, else where it harms its
// pictures less or keeps more of the copy, under 0 where o does.
func (r Result) keeps(o Result, purpose string) int {
	harm := 0
	switch {
	case r.harm > o.harm+1e-3:
		harm = -1
	case r.harm < o.harm-spareGain:
		harm = 1
	}
	return cmp.Or(cmp.Compare(o.lost(purpose), r.lost(purpose)), harm, cmp.Compare(len(o.Dropped), len(r.Dropped)), cmp.Compare(len(o.Shortened), len(r.Shortened)))
}

// lost is how many of the slots a purpose lives on were left out.
func (r Result) lost(purpose string) (n int) {
	for _, slot := range Vital(purpose) {
		if slices.Contains(r.Dropped, slot) {
			n++
		}
	}
	return n
}

// attempt gives way step by step until everything fits.
func attempt(in Input, class spec.Class, anySize bool) (Result, bool) {
	st := state{class: class, dropped: map[string]bool{}, shrink: 1}
	var dropped []string
	drops, carries := in.dropList(), Carries(in.Purpose)
	short := in.Words["shortHeadline"]
	for range len(drops) + 7 {
		if t, ok := in.largest(st); ok {
			return in.restore(t).result(dropped), true
		}
		switch {
		case short != "" && !st.short && !in.Short && short != in.Words["headline"]:
			st.short = true
		case !st.tight:
			st.tight = true
		case !st.small && in.comfort() > 0:
			st.small = true
		case !st.hyphens && in.Language != "":
			st.hyphens = true
		case len(drops) > 0:
			for len(drops) > 0 && !in.shows(drops[0]) {
				drops = drops[1:]
			}
			switch {
			case len(drops) == 0:
			case !st.yield && slices.Contains(carries, drops[0]):
				st.yield = true
			default:
				st.dropped[drops[0]] = true
				dropped = append(dropped, drops[0])
				drops = drops[1:]
			}
		case !st.emergency:
			st.emergency = true
		default:
			if t, ok := in.shorten(st); ok {
				return t.result(dropped), true
			}
			if !anySize {
				return Result{}, false
			}
			for st.cut = 1; st.shrink > 0.2; st.shrink *= 0.9 {
				if t, ok := in.largest(st); ok {
					return t.result(dropped), true
				}
			}
			return Result{Scene: &scene.Scene{W: in.Placement.Width, H: in.Placement.Height}}, false
		}
	}
	return Result{}, false
}

// restore takes the whole headline, and words that are not divided, back where what was given
// up since leaves room for them at no less than 0.8 of the size.
func (in *Input) restore(t *trial) *trial {
	again := func(st state) {
		if whole, ok := in.largest(st); ok && whole.body*whole.ratio >= 0.8*t.body*t.ratio {
			t = whole
		}
	}
	if t.st.short {
		st := t.st
		st.short = false
		again(st)
	}
	if t.st.hyphens && len(t.st.dropped) > 0 {
		st := t.st
		st.hyphens = false
		again(st)
	}
	return t
}

// shows reports whether the slot has anything to show in the first place.
func (in *Input) shows(slot string) bool {
	switch slot {
	case "logo":
		return in.Signature == "logo" || in.Signature == "both"
	case "website":
		return in.Words["website"] != "" && (in.Signature == "address" || in.Signature == "both")
	}
	return in.Words[slot] != ""
}

// shorten finds the most words of the headline that fit, ended with an
// ellipsis, at a clause if one is near.
func (in *Input) shorten(st state) (*trial, bool) {
	n := len(strings.Fields(in.largestWords(st)))
	var best *trial
	lo, hi := 0, n
	for hi-lo > 1 {
		mid := (lo + hi) / 2
		s := st
		s.cut = mid
		if t, ok := in.largest(s); ok {
			best, lo = t, mid
		} else {
			hi = mid
		}
	}
	if best == nil { // not even one word: keep as many of its letters as fit
		s := st
		s.cut = -1
		for s.cut >= -24 {
			if t, ok := in.largest(s); ok {
				return t, true
			}
			s.cut--
		}
	}
	return best, best != nil
}

// largestWords are the words of what is first.
func (in *Input) largestWords(st state) string {
	if first := First(in.Purpose, in.Words); first != "headline" {
		return in.Words[first]
	}
	return in.headline(st)
}

func (in *Input) headline(st state) string { return in.Words[in.headlineField(st)] }

// headlineField is the copy field the headline comes from.
func (in *Input) headlineField(st state) string {
	if (st.short || in.Short) && in.Words["shortHeadline"] != "" {
		return "shortHeadline"
	}
	return "headline"
}

// cutWords keeps n words; negative n keeps 25+n letters of the first.
func cutWords(s string, n int) string {
	words := strings.Fields(s)
	if n < 0 {
		r := []rune(words[0])
		return string(r[:max(1, min(len(r), 25+n))]) + "…"
	}
	if n >= len(words) {
		return s
	}
	kept := words[:n]
	for i := n - 1; i >= max(1, n*6/10); i-- { // a clause that ends near
		if strings.ContainsAny(kept[i][len(kept[i])-1:], ",;:.") || strings.HasSuffix(kept[i], "–") {
			kept = kept[:i+1]
			break
		}
	}
	return strings.TrimRight(strings.Join(kept, " "), ",;:.–—- ") + "…"
}

// newTrial prepares what does not change while sizes are searched.
func (in *Input) newTrial(st state) *trial {
	p := in.Placement
	safe := p.SafeBox()
	short := math.Min(safe.W, safe.H)
	class := st.class
	t := &trial{
		in: in, st: st, class: class, safe: safe, seen: p.SeenScale(),
		unit:  math.Max(1, math.Round(short/40)),
		texts: map[*Node][]*Node{},
		logos: map[logoAsked]pickedLogo{},
		said:  map[string]string{},
		tiny:  p.Tiny(), comfort: in.comfort(), sign: in.Kit.Motif(),
	}
	switch class {
	case spec.Ribbon:
		t.margin = math.Max(6, math.Round(math.Min(p.Canvas().H, p.Canvas().W)*0.08))
		t.unit = math.Max(2, math.Round(short/24))
	default:
		t.margin = math.Max(6, math.Round(math.Min(p.Canvas().W, p.Canvas().H)*0.07))
	}
	if p.Tiny() {
		t.margin = math.Max(5, math.Round(short*0.1))
		t.unit = math.Max(2, math.Round(short/20))
	}
	t.first, t.ranks = First(in.Purpose, in.Words), in.ranks()
	t.tree = in.treeFor(in.Layout.Tree(class), t.first, class == spec.Ribbon)
	t.tree.Walk(func(n *Node) { t.turned = t.turned || n.Turned && n.Text == "website" && t.present(n) })
	t.rtl = typeset.RTL(in.Words[t.first])
	t.margin = math.Round(t.margin * t.airy())
	t.ratioMin, t.ratioMax = headlineLeast, 4
	if in.Layout.HeadlineMax > 0 {
		t.ratioMax = in.Layout.HeadlineMax
	}
	if in.caption() {
		t.ratioMax = math.Min(t.ratioMax, captionMost)
	}
	switch in.Manner.Contrast {
	case "quiet":
		t.ratioMax = math.Min(t.ratioMax, quietMost)
	case "loud":
		t.ratioMax *= loudMore
	}
	return t
}

// bodyRange is the largest and the smallest body size in px.
func (t *trial) bodyRange() (top, floor float64) {
	face := t.face(t.in.Types.Levels[brand.Body])
	floor = t.leastSize("body", face)
	if t.tiny {
		floor = math.Max(floor, 1.01*tinyType/t.seen*t.st.shrink)
	}
	w, h := 0.05, 0.065
	switch t.class {
	case spec.Ribbon:
		h = 0.115
	case spec.Tall, spec.Tower: // set for their height
		w = 0.053
	}
	top = math.Max(math.Min(w*t.safe.W, h*t.safe.H), floor*1.15)
	if t.in.caption() {
		top = math.Min(top, captionBody*floor)
	}
	return top, floor
}

func (t *trial) face(s brand.Style) *typeset.Face { return t.in.Face(s) }

func (t *trial) colour(s colourway.Seat) colour.RGB { return t.in.Colours.At(s).Value }
