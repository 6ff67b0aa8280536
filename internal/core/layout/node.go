// Package layout computes how a piece is built. A layout is data: one idea and
// one tree of nodes per aspect class. [Solve] finds, for a placement, copy and
// a colourway, the largest type with which everything fits, and gives way in a
// fixed order where it cannot: shorter headline, tighter leading, the least
// important parts, breaks inside words, an ellipsis.
//
// Nothing overlaps by construction: words live only in cells that share no
// area, measured by their ink; and every word stands on one flat seat of the
// colourway, so its contrast is known before anything is drawn.
package layout

import (
	"encoding/json"
	"fmt"
	"slices"

	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/spec"
)

// Layout is a way to build a piece.
type Layout struct {
	ID       string `json:"id"`
	Name     string `json:"name"`
	Revision int    `json:"revision"`
	Idea     string `json:"idea"`  // at most five words
	Align    string `json:"align"` // left or center, for every word of it
	// HeadlineMax is the most a headline may be times the body; 0 means 3.
	HeadlineMax float64 `json:"headlineMax"`
	// Pictures is how well it goes with pictures: 0 shows none, 1 needs one to
	// live, 0.5 is as good without.
	Pictures float64 `json:"pictures"`
	// Wants are the copy slots (or "picture2", "portrait", "sections") the idea lives on:
	// without any of them another layout is proposed first.
	Wants []string `json:"wants,omitempty"`
	// For are the purposes it was made for: there it is proposed before others.
	For      []string           `json:"for,omitempty"`
	Facts    string             `json:"facts,omitempty"` // row or figures: how facts stand; empty is a list
	Areas    map[string]float64 `json:"areas"`           // share (0-1) of ground and panel at 1:1
	ButtonOn colourway.Seat     `json:"buttonOn"`
	Dark     bool               `json:"dark,omitempty"`  // a dark ground is wanted: words on photographs
	Motif    bool               `json:"motif,omitempty"` // the brand's sign stands large behind the words of its largest flat
	// Behind is figure for a piece's figure, where it has one, in place of the sign.
	Behind string               `json:"behind,omitempty"`
	Moves  Moves                `json:"moves,omitzero"`
	Trees  map[spec.Class]*Node `json:"trees"`
}

// Moves is how what is built comes and goes in moving pictures.
type Moves struct {
	Over  string `json:"over,omitempty"`  // what was there before: cut, fade, wipe or push; empty is a wipe
	Words string `json:"words,omitempty"` // rise (line by line), fade or wipe; empty is rise
	Out   string `json:"out,omitempty"`   // fade: the words leave before the next comes; empty stays
}

// Edge is the side what is built for a class comes from when it wipes or pushes over something
// else: along the line it is split at, "" where it is not.
func (l *Layout) Edge(c spec.Class) string {
	if t := l.Tree(c); t != nil {
		return map[string]string{"x": "right", "y": "bottom"}[t.Split]
	}
	return ""
}

// OnPicture reports whether words stand on the picture itself somewhere in it.
func (l *Layout) OnPicture() bool {
	return l.any(func(n *Node) bool { return n.Cell != nil && n.Cell.On != nil })
}

// any reports whether one of the nodes of one of its trees is something.
func (l *Layout) any(is func(*Node) bool) bool {
	found := false
	for _, tree := range l.Trees {
		tree.Walk(func(n *Node) { found = found || is(n) })
	}
	return found
}

// Fills reports whether the headline is set to the full measure, line by line.
func (l *Layout) Fills() bool { return l.any(func(n *Node) bool { return n.Fit }) }

// Shapes names the family of shapes a layout is built of: an edge, a card, a frame, a pattern,
// a fitted headline, words on a picture; "plain" for straight cells alone.
func (l *Layout) Shapes() string {
	out := "plain"
	l.Tree(spec.Square).Walk(func(n *Node) {
		switch {
		case out != "plain":
		case n.Cell != nil && n.Cell.Edge != nil:
			out = "edge " + n.Cell.Edge.Kind
		case n.Cell != nil && n.Cell.On != nil:
			out = "on"
		case n.Cell != nil && n.Cell.Pattern != "":
			out = "pattern"
		case n.Card != nil:
			out = "card " + n.Card.Shape
		case n.Frame != nil:
			out = "frame " + n.Frame.Shape
		case n.Fit:
			out = "fit"
		}
	})
	return out
}

// Ref is "id@revision".
func (l *Layout) Ref() string { return fmt.Sprintf("%s@%d", l.ID, l.Revision) }

// Needs is what the layout asks of a colourway.
func (l *Layout) Needs() colourway.Needs {
	return colourway.Needs{GroundArea: l.Areas["ground"], PanelArea: l.Areas["panel"], ButtonOn: l.ButtonOn, Dark: l.Dark}
}

// Dominant is the seat that covers most of a piece.
func (l *Layout) Dominant() colourway.Seat {
	if l.Areas["panel"] > l.Areas["ground"] {
		return colourway.Panel
	}
	return colourway.Ground
}

// Tree picks the tree for a class; a missing one falls back to the nearest
// along ribbon, wide, square, tall, tower.
func (l *Layout) Tree(c spec.Class) *Node {
	at := slices.Index(spec.Classes, c)
	for d := range spec.Classes {
		for _, i := range []int{at - d, at + d} {
			if i >= 0 && i < len(spec.Classes) {
				if t := l.Trees[spec.Classes[i]]; t != nil {
					return t
				}
			}
		}
	}
	return nil
}

// Node is a part of a tree. Exactly one of Split, Cell, Stack, Row, Card, Words,
// Text, Figure, Button, Logo, Frame, Rule, Mark, Facts, Sections, Rating, SignOff, Beside, Table,
// Tiles says what it is.
type Node struct {
	// Split divides a region along "x" or "y" into Cells of the sizes At:
	// numbers are weights, "fit" takes what its content needs.
	Split string  `json:"split,omitempty"`
	At    []Size  `json:"at,omitempty"`
	Cells []*Node `json:"cells,omitempty"`

	// Cell fills a region with a seat's colour or a picture and holds content.
	Cell *Cell `json:"cell,omitempty"`

	Stack []*Node `json:"stack,omitempty"` // one below the other
	Row   []*Node `json:"row,omitempty"`   // side by side, the flexible one takes the rest
	Card  *Card   `json:"card,omitempty"`  // a shape around content

	Words   Words  `json:"words,omitempty"`  // copy slots, set one below the other
	Text    string `json:"text,omitempty"`   // one copy slot
	Figure  string `json:"figure,omitempty"` // a slot with its telling part set large: when, offer
	Button  bool   `json:"button,omitempty"` // the call to action
	Logo    string `json:"logo,omitempty"`   // "wide" or "compact" room
	Frame   *Frame `json:"frame,omitempty"`  // a picture inset among content
	Rule    *Rule  `json:"rule,omitempty"`   // a thin line
	Mark    string `json:"mark,omitempty"`   // an ornament: quote
	Natural bool   `json:"-"`                // each child of a row may be as wide as the row: they are one line
	// Beside is a slot with its telling part large and the rest of it beside; no layout says it,
	// copy of the second rank is set so by itself.
	Beside  string `json:"-"`
	Tiles   string `json:"tiles,omitempty"`   // the items of lines or facts, each on a flat of its own
	Framed  bool   `json:"-"`                 // each in a frame instead, as the answers to a question are by themselves
	Table   string `json:"table,omitempty"`   // a slot whose lines have two columns: hours
	SignOff string `json:"signOff,omitempty"` // mark, address and button: line, ends, ruled, under or first
	Facts   string `json:"facts,omitempty"`   // facts side by side: row or figures
	// Sections is a longer body under headings, in so many columns.
	Sections int     `json:"sections,omitempty"`
	Rating   float64 `json:"rating,omitempty"` // stars of a rating, as high as so many times the body

	If     []string `json:"if,omitempty"`     // only when one of these slots is shown, or "picture"
	Unless []string `json:"unless,omitempty"` // only when none of them is

	Gap    float64 `json:"gap,omitempty"`    // between children, in units; 0 means 2
	Before float64 `json:"before,omitempty"` // before this child, in units, instead of Gap
	V      string  `json:"v,omitempty"`      // start, center, end or spread
	Lines  int     `json:"lines,omitempty"`  // most lines of a text, instead of the level's own
	Flex   bool    `json:"flex,omitempty"`   // takes what a row has left
	Fill   bool    `json:"fill,omitempty"`   // a stack, tiles or a table take all the height they can get
	Ruled  bool    `json:"ruled,omitempty"`  // lines, facts, words and the rows of a table have hairlines between them
	Fit    bool    `json:"fit,omitempty"`    // each line of the headline is set to the full measure
	Turned bool    `json:"turned,omitempty"` // a text of one line reads upwards, along the side of what it stands beside
	Scale  float64 `json:"scale,omitempty"`  // times the usual size, for logos, figures, marks and lists
}

// Size is a weight, or 0 for "fit".
type Size float64

// UnmarshalJSON reads a number or "fit".
func (s *Size) UnmarshalJSON(b []byte) error {
	if string(b) == `"fit"` {
		*s = 0
		return nil
	}
	var f float64
	if err := json.Unmarshal(b, &f); err != nil || f <= 0 {
		return fmt.Errorf("size %s: want a weight above 0 or \"fit\"", b)
	}
	*s = Size(f)
	return nil
}

// Cell is a region with a ground of its own.
type Cell struct {
	Seat     colourway.Seat `json:"seat"`
	Picture  int            `json:"picture"`            // 1 for the first picture, 0 for none
	Optional bool           `json:"optional,omitempty"` // it is there for its picture alone: without one it goes
	Pattern  string         `json:"pattern,omitempty"`  // drawn on the seat: swell, dots, basket, awning
	Content  *Node          `json:"content,omitempty"`
	On       *On            `json:"on,omitempty"` // the content stands on the picture itself
	Edge     *Edge          `json:"edge,omitempty"`
	Min      float64        `json:"min,omitempty"` // least share (0-1) of the split
	Pad      float64        `json:"pad,omitempty"` // inner padding in margins; 0 means 1
}

// Edge shapes the side of a cell that meets its neighbour. It only ever bulges
// outwards, over the neighbour, so the cell's own rectangle stays guaranteed.
type Edge struct {
	Side  string  `json:"side"`  // top, right, bottom, left
	Kind  string  `json:"kind"`  // shore, slant, tear
	Depth float64 `json:"depth"` // share (0-1) of the short side
}

// Card is a shape of a seat's colour around content.
type Card struct {
	Seat    colourway.Seat `json:"seat"`
	Shape   string         `json:"shape"` // plain, label, ticket, badge, tag, sheet, speech
	Width   float64        `json:"width"` // share (0-1) of what there is
	Side    string         `json:"side"`  // left, center or right of where it stands
	Content *Node          `json:"content"`
	Stub    *Node          `json:"stub,omitempty"` // a ticket's lower part
}

// Frame is a picture among content, as high as there is room.
type Frame struct {
	Picture  int     `json:"picture"`
	Min      float64 `json:"min"`                // least share (0-1) of the region's height (or width in a row)
	Shape    string  `json:"shape,omitempty"`    // arch or circle; empty is a rectangle
	Portrait bool    `json:"portrait,omitempty"` // the person's picture, if there is one
	V        string  `json:"v,omitempty"`        // end stands a circle on the bottom of its room; empty is the middle
	Side     string  `json:"side,omitempty"`     // right stands a circle at the end of its room
	Ring     bool    `json:"ring,omitempty"`     // an arch or a circle is the hole in a larger one of the same shape
}

// Rule is a line.
type Rule struct {
	Width     float64 `json:"width"`     // share (0-1) of what there is
	Thickness float64 `json:"thickness"` // units
}

// part is what stands in a cell: each kind of node is one, in a file of its own. A node
// says what it is about; the part says what is done with it.
type part interface {
	// name is what the kind is called in layout files.
	name() string
	// words reports whether it carries words, which need a seat of their own.
	words() bool
	// lint refuses a node that breaks a rule; at is its path, seat what it stands on, bare
	// whether that is a picture.
	lint(c *checker, n *Node, at string, seat colourway.Seat, bare bool) error
	// present reports whether there is anything to show.
	present(t *trial, n *Node) bool
	// measure is the natural size in a width of w px; false when it cannot be that narrow.
	measure(t *trial, n *Node, w float64) (box, bool)
	// place draws it into its rectangle; false when it does not fit.
	place(t *trial, n *Node, r spec.Rect, seat colourway.Seat) bool
}

// part is what a node is, nil for a region and for one that is nothing.
func (n *Node) part() part {
	switch {
	case n.Stack != nil:
		return stackPart{}
	case n.Row != nil:
		return rowPart{}
	case n.Card != nil:
		return cardPart{}
	case n.Words != nil:
		return wordsPart{}
	case n.Text != "":
		return textPart{}
	case n.Figure != "":
		return figurePart{}
	case n.Beside != "":
		return besidePart{}
	case n.Table != "":
		return tablePart{}
	case n.Tiles != "":
		return tilesPart{}
	case n.SignOff != "":
		return signOffPart{}
	case n.Button:
		return buttonPart{}
	case n.Logo != "":
		return logoPart{}
	case n.Frame != nil:
		return framePart{}
	case n.Rule != nil:
		return rulePart{}
	case n.Mark != "":
		return markPart{}
	case n.Rating != 0:
		return ratingPart{}
	case n.Facts != "":
		return factsPart{}
	case n.Sections != 0:
		return sectionsPart{}
	}
	return nil
}

// kind is the name of what a node is, "" for nothing.
func (n *Node) kind() string {
	switch p := n.part(); {
	case n.Split != "":
		return "split"
	case n.Cell != nil:
		return "cell"
	case p != nil:
		return p.name()
	}
	return ""
}

// holds reports whether a slot's words stand anywhere in the node.
func (n *Node) holds(slot string) bool {
	found := false
	n.Walk(func(n *Node) {
		found = found || n.Text == slot || n.Figure == slot || n.Tiles == slot || n.Table == slot || slices.Contains(n.Words, slot)
	})
	return found
}

// Walk calls do with a node and with all below it; nil is none.
func (n *Node) Walk(do func(*Node)) {
	if n == nil {
		return
	}
	do(n)
	if n.Cell != nil {
		n.Cell.Content.Walk(do)
	}
	if n.Card != nil {
		n.Card.Content.Walk(do)
		n.Card.Stub.Walk(do)
	}
	for _, list := range [][]*Node{n.Cells, n.Stack, n.Row} {
		for _, c := range list {
			c.Walk(do)
		}
	}
}
