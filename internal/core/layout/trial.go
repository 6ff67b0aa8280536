package layout

import (
	"slices"
	"strings"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/motif"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// trial lays the tree out at one body size and headline ratio.
type trial struct {
	in    *Input
	st    state
	tree  *Node
	class spec.Class
	safe  spec.Rect
	seen  float64 // canvas px to px as seen

	tiny               bool    // as the placement says
	comfort            float64 // px of words in a feed, see [Input.comfort]
	unit, margin       float64 // px
	body, ratio        float64 // px, times
	ratioMin, ratioMax float64

	first string // the slot that is seen first: headline or quote
	ranks ranks  // of the purpose

	sign motif.Shape // of the kit's sign

	rtl bool // the piece reads from right to left, as its headline does

	centred bool    // inside a shape whose content stands in its middle
	here    region  // the cell whose content is being placed
	inCard  bool    // inside a card of it
	taken   float64 // px of the cell's height the card around takes

	logoOn *photo.Bounds // what the logo stands on where that is a picture, nil on flat ground
	lifted bool          // the logo has left the content for a corner of its picture

	signed arranged // the sign-off asked for last
	turned bool     // the address stands along a side of something, not in the sign-off

	texts map[*Node][]*Node        // see wordsOf, for all trials of one search
	logos map[logoAsked]pickedLogo // see pickLogo, for the same
	said  map[string]string        // see words, for the same

	placed
}

// placed is what a trial has placed so far.
type placed struct {
	under, shapes, cards, content []scene.Part
	buttons                       []spec.Rect
	patterns                      []pattern
}

// emptied is the room of what was drawn, to be drawn in anew.
func (d placed) emptied() placed {
	return placed{d.under[:0], d.shapes[:0], d.cards[:0], d.content[:0], d.buttons[:0], d.patterns[:0]}
}

// run lays everything out; false when something does not fit.
func (t *trial) run() bool {
	return t.placeRegion(t.tree, region{bleed: t.in.Placement.Canvas(), safe: t.safe})
}

func (t *trial) placeCell(c *Cell, r region) bool {
	t.here = r
	if c.On != nil && c.Picture <= len(t.in.Pictures) && c.Content != nil && t.present(c.Content) {
		return t.placeOn(c, r)
	}
	if c.Picture > 0 {
		c = t.anchored(c, r)
		t.coverCard(c, &r)
	}
	t.paintCell(c, r)
	if c.Content == nil || !t.present(c.Content) {
		return true
	}
	rect := t.contentRect(c, r)
	size, ok := t.measure(c.Content, rect.W)
	if !ok || size.h > rect.H+0.01 {
		return false
	}
	return t.placeAligned(c.Content, rect, size, c.Seat, t.away(c))
}

// away resolves a cell's vertical alignment: "away" leaves the subject of the
// picture under it uncovered.
func (t *trial) away(c *Cell) string {
	v := c.Content.V
	if v != "away" {
		return v
	}
	if c.Picture > 0 && c.Picture <= len(t.in.Pictures) && t.in.Pictures[c.Picture-1].Focus[1] > 0.5 {
		return "start"
	}
	return "end"
}

// placeAligned puts content into a rectangle that may be higher than it.
func (t *trial) placeAligned(n *Node, r spec.Rect, size box, seat colourway.Seat, v string) bool {
	if n.Fill || v == "spread" {
		return t.place(n, r, seat)
	}
	at := spec.Rect{X: r.X, Y: r.Y, W: r.W, H: size.h}
	switch v {
	case "center":
		at.Y += (r.H - size.h) / 2
	case "end":
		at.Y += r.H - size.h
	}
	return t.place(n, at, seat)
}

// align is how content is set here.
func (t *trial) align() string {
	if t.centred {
		return "center"
	}
	return t.in.Layout.Align
}

// side is a side of a layout as it lies here: left and right change places where the
// piece reads from right to left.
func (t *trial) side(s string) string {
	if t.rtl {
		switch s {
		case "left":
			return "right"
		case "right":
			return "left"
		}
	}
	return s
}

// startX is where something w px wide begins to read in a rectangle.
func (t *trial) startX(r spec.Rect, w float64) float64 {
	switch {
	case t.align() == "center":
		return r.X + (r.W-w)/2
	case t.rtl:
		return r.Right() - w
	}
	return r.X
}

// inTheMiddle places content in the middle of its shape, whatever the layout's
// own alignment.
func (t *trial) inTheMiddle(n *Node, r spec.Rect, seat colourway.Seat) bool {
	was := t.centred
	t.centred = true
	ok := t.place(n, r, seat)
	t.centred = was
	return ok
}

// present reports whether a node has anything to show.
func (t *trial) present(n *Node) bool {
	shown := func(slot string) bool {
		return slot == "picture" && len(t.in.Pictures) > 0 || t.words(slot) != ""
	}
	if len(n.If) > 0 && !slices.ContainsFunc(n.If, shown) || slices.ContainsFunc(n.Unless, shown) {
		return false
	}
	p := n.part()
	return p != nil && p.present(t, n)
}

// some reports whether any of the nodes has.
func (t *trial) some(list []*Node) bool { return slices.ContainsFunc(list, t.present) }

// words is the copy of a slot as it is shown now, the same in all trials of one search.
func (t *trial) words(slot string) string {
	s, known := t.said[slot]
	if !known {
		s = t.wordsNow(slot)
		t.said[slot] = s
	}
	return s
}

func (t *trial) wordsNow(slot string) string {
	switch {
	case t.st.dropped[slot], t.st.dropped[t.in.With[slot]]:
		return ""
	case slot == "website" && !t.in.shows("website"):
		return ""
	}
	s := t.in.Words[slot]
	if slot == "headline" {
		s = t.in.headline(t.st)
	}
	if slot == t.first && t.st.cut != 0 && s != "" {
		s = cutWords(s, t.st.cut)
	}
	if t.runsOn() && (slot == "lines" || slot == "facts" || slot == "hours") {
		s = strings.ReplaceAll(strings.ReplaceAll(s, "\t", " "), "\n", " · ") // no room for one below the other
	}
	return t.cased(slot, s)
}

// runsOn reports whether the items of a list stand in one line: there is no room for one below
// the other.
func (t *trial) runsOn() bool { return t.class == spec.Ribbon || t.tiny }

func (t *trial) cased(slot, s string) string {
	if t.in.Hands[slot].Style(t.in.Types.Levels[t.partOf(slot).Level]).Upper {
		return strings.ToUpper(s)
	}
	return s
}

// result turns the trial into a scene.
func (t *trial) result(dropped []string) Result {
	p := t.in.Placement
	s := &scene.Scene{W: p.Width, H: p.Height}
	s.Parts = append(s.Parts, scene.Part{Slot: "ground", Kind: scene.KindShape, Box: p.Canvas(), Fill: t.colour(colourway.Ground)})
	t.paintPatterns()
	t.ornament()
	joinFlats(t.shapes)
	for _, layer := range [][]scene.Part{t.under, t.shapes, t.cards, t.content} {
		s.Parts = append(s.Parts, layer...)
	}
	r := Result{Scene: s, Dropped: dropped, First: t.first, worth: t.worth(), harm: t.harm(), headline: t.headline()}
	switch {
	case t.st.cut != 0:
		r.Shortened = []string{t.first}
	case t.st.short:
		r.Shortened = []string{"headline"}
	}
	// what the tree has no place for is left out as well
	for _, slot := range append([]string{"headline"}, brief.DropOrder...) {
		drawn := func(p scene.Part) bool { return p.Slot == slot || slot == "logo" && p.Slot == "businessName" }
		if t.in.shows(slot) && !slices.Contains(dropped, slot) && !slices.ContainsFunc(s.Parts, drawn) && (slot != "logo" || len(t.in.Kit.Logos) > 0) {
			r.Dropped = append(r.Dropped, slot)
		}
	}
	return r
}
