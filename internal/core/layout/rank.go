package layout

import (
	"slices"
	"sync"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
)

// captionMost is the most a headline is over the body where the picture is seen first.
const captionMost = 1.7

// captionPresence is what a placement asks of a headline (see [Presence]) that is a caption.
const captionPresence = 0.6

// captionBody is how much larger than the least size the words under it may be.
const captionBody = 1.3

// pictureLeast is the least share (0-1) of a piece its picture has there.
const pictureLeast = 0.56

// ranks say what of a purpose's copy is seen first, second and third. What is in none of
// them is small.
type ranks struct {
	first, second []string // slots; the first of first that has words is the largest type
	carries       []string // what the purpose lives on, the most telling last: it goes after plain copy
	picture       bool     // the picture is seen first, the headline is a caption
	vital         []string // those of it without which a piece says nothing: they stay longer than the call to action
}

// byPurpose is the rank of copy by purpose; a purpose that is not named here has the zero ranks
// with the subheading second (common practice; the sizes of ranks are in [trial.sized]).
var byPurpose = map[string]ranks{
	"announce":          {first: []string{"headline"}, second: []string{"subheading"}},
	"offer":             {first: []string{"headline"}, second: []string{"offer"}, carries: []string{"terms", "offer"}, vital: []string{"offer"}},
	"event":             {first: []string{"headline"}, second: []string{"when", "where"}, carries: []string{"where", "when"}, vital: []string{"when"}},
	"tips":              {first: []string{"headline"}, second: nil, carries: []string{"lines", "facts"}, vital: []string{"facts", "lines"}},
	"quote":             {first: []string{"quote", "headline"}, second: []string{"source", "person"}, carries: []string{"source", "quote"}, vital: []string{"quote"}},
	"testimonial":       {first: []string{"quote", "headline"}, second: []string{"source", "person"}, carries: []string{"quote", "person"}},
	"product":           {first: []string{"headline"}, second: []string{"offer"}, carries: []string{"facts", "offer"}, vital: []string{"offer"}},
	"hiring":            {first: []string{"headline"}, second: []string{"where", "offer", "subheading"}, carries: []string{"facts", "lines", "where"}},
	"hours":             {first: []string{"headline"}, second: []string{"hours"}, carries: []string{"where", "hours"}, vital: []string{"hours"}},
	"question":          {first: []string{"headline"}, second: []string{"lines"}, carries: []string{"lines"}, vital: []string{"lines"}},
	"behind the scenes": {first: []string{"headline"}, second: []string{"subheading"}, picture: true},
	"shopfront":         {first: []string{"headline"}, second: []string{"tagline", "where"}, carries: []string{"tagline", "website"}},
}

func (in *Input) ranks() ranks {
	r, ok := byPurpose[in.Purpose]
	if !ok {
		r = byPurpose["announce"]
	}
	return r
}

// PictureFirst reports whether the picture is what is seen first on pieces of a purpose.
func PictureFirst(purpose string) bool { return byPurpose[purpose].picture }

// caption reports whether the headline is a caption to a picture.
func (in *Input) caption() bool { return len(in.Pictures) > 0 && PictureFirst(in.Purpose) }

// presence is what the placement asks of the headline's size, over the short side.
func (in *Input) presence() float64 {
	if in.caption() {
		return captionPresence * Presence(in.Placement)
	}
	return Presence(in.Placement)
}

// Carries are the slots a purpose lives on.
func Carries(purpose string) []string { return byPurpose[purpose].carries }

// First is the slot whose words are the largest on a piece of a purpose, "headline" or "quote".
func First(purpose string, words map[string]string) string {
	for _, slot := range byPurpose[purpose].first {
		if words[slot] != "" {
			return slot
		}
	}
	return "headline"
}

// Vital are the slots without which a piece of a purpose says nothing.
func Vital(purpose string) []string { return byPurpose[purpose].vital }

// Second reports whether a slot is of the second rank on pieces of a purpose.
func Second(purpose, slot string) bool {
	in := Input{Purpose: purpose}
	return slices.Contains(in.ranks().second, slot)
}

// isSecond reports whether a slot is of the second rank here.
func (t *trial) isSecond(slot string) bool { return slices.Contains(t.ranks.second, slot) }

// ranked are slots in the order of their ranks: the second before the rest.
func (t *trial) ranked(slots []string) []string {
	if !slices.ContainsFunc(slots, t.isSecond) {
		return slots
	}
	out := make([]string, 0, len(slots))
	for _, s := range slots {
		if t.isSecond(s) {
			out = append(out, s)
		}
	}
	for _, s := range slots {
		if !t.isSecond(s) {
			out = append(out, s)
		}
	}
	return out
}

// partOf is what is known of a slot, in the level it is set in here: what is first has the
// headline's, and a headline that is not first stands over it, small.
func (t *trial) partOf(slot string) brief.Part {
	part := brief.PartOf(slot)
	if t.first != "headline" {
		switch slot {
		case t.first:
			part.Level = brand.Headline
		case "headline", "shortHeadline":
			part.Level = brand.Body
		}
	}
	if h := t.in.Hands[slot]; h != nil && h.Level != "" {
		part.Level = brand.Level(h.Level)
	}
	return part
}

// endsInFirst reports whether the last thing a node shows is what is seen first, which is not so
// where its source stands under it.
func (t *trial) endsInFirst(n *Node) bool {
	if len(n.Stack) > 0 {
		return !t.present(&Node{Text: "source"}) && slices.ContainsFunc(n.Stack, t.endsInFirst)
	}
	return n.Text == t.first
}

// rankedTrees are trees by the ranks of copy they were made for.
var rankedTrees sync.Map // ranked to *Node

// ranked is a tree as it was made for ranks of copy.
type ranked struct {
	tree    *Node
	first   string
	purpose string
	ribbon  bool
}

// treeFor is a layout's tree with the slots of the second rank where it says "second", and what is
// first in the headline's place; made once.
func (in *Input) treeFor(tree *Node, first string, ribbon bool) *Node {
	if tree == nil || first == "headline" && !tree.namesSecond() {
		return tree
	}
	key := ranked{tree, first, in.Purpose, ribbon}
	if made, ok := rankedTrees.Load(key); ok {
		return made.(*Node)
	}
	made := tree
	if tree.namesSecond() {
		made = made.withSecond(tree.without(in.ranks().second))
	}
	if first != "headline" {
		made = made.withFirst(first, ribbon)
	}
	rankedTrees.Store(key, made)
	return made
}

// namesSecond reports whether a tree has a place for what is of the second rank.
func (n *Node) namesSecond() bool {
	found := false
	n.Walk(func(n *Node) { found = found || slices.Contains(n.Words, second) })
	return found
}

// without are those of the slots that have no place by name in a tree.
func (n *Node) without(slots []string) []string {
	slots = slices.Clone(slots)
	n.Walk(func(n *Node) {
		slots = slices.DeleteFunc(slots, func(s string) bool {
			return s == n.Text || s == n.Figure || s == n.Tiles || s == n.Table || s == n.Beside
		})
	})
	return slots
}

// withSecond is a copy of a node with slots where it lists "second", and nowhere else.
func (n *Node) withSecond(slots []string) *Node {
	if n == nil {
		return nil
	}
	c := n.copied(func(child *Node) *Node { return child.withSecond(slots) })
	if len(n.Words) == 0 {
		return c
	}
	c.Words = Words{}
	for _, s := range n.Words {
		switch {
		case s == second:
			c.Words = append(c.Words, slots...)
		case !slices.Contains(slots, s):
			c.Words = append(c.Words, s)
		}
	}
	return c
}

// withFirst is a copy of a node in which a slot stands where the headline does. The headline is
// a line above it, but in a ribbon, where it has no room.
func (n *Node) withFirst(first string, ribbon bool) *Node {
	if n == nil {
		return nil
	}
	c := n.copied(func(child *Node) *Node { return child.withFirst(first, ribbon) })
	if c.Text == "headline" {
		c.Text = first
		if ribbon {
			return c
		}
		source := &Node{Text: "source", Before: sourceGap} // directly under it, wherever the rest stands
		whole := Node{Stack: []*Node{{Text: "headline", Lines: 2}, c, source}, Gap: eyebrowGap, Before: n.Before, V: n.V, Flex: n.Flex, If: n.If, Unless: n.Unless}
		c.Before, c.V, c.Flex, c.If, c.Unless = 0, "", false, nil, nil
		return &whole
	}
	c.Words = slices.DeleteFunc(slices.Clone(n.Words), func(s string) bool { return s == first || s == "source" && !ribbon })
	return c
}

// copied is a copy of a node with other children.
func (n *Node) copied(each func(*Node) *Node) *Node {
	c := *n
	all := func(list []*Node) []*Node {
		var out []*Node
		for _, child := range list {
			out = append(out, each(child))
		}
		return out
	}
	c.Cells, c.Stack, c.Row = all(n.Cells), all(n.Stack), all(n.Row)
	if n.Cell != nil {
		cell := *n.Cell
		cell.Content = each(n.Cell.Content)
		c.Cell = &cell
	}
	if n.Card != nil {
		card := *n.Card
		card.Content, card.Stub = each(n.Card.Content), each(n.Card.Stub)
		c.Card = &card
	}
	return &c
}

// Gaps in units: between a small headline and what is first under it, between that and its source.
const (
	eyebrowGap = 1.2
	sourceGap  = 1.8
)
