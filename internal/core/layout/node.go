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
	"bytes"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/spec"
)

// Layout is a way to build a piece.
type Layout struct {
	ID       string `json:"id"`
	Name     string `json:"name"`
	Revision int    `json:"revision"`
	Idea     string `json:"idea"`   // at most five words
	Align    string `json:"align"`  // left or center, for every word of it
	Radius   string `json:"radius"` // of buttons and cards: none, small, full
	// HeadlineMax is the most a headline may be times the body; 0 means 3.
	HeadlineMax float64 `json:"headlineMax"`
	// Pictures is how well it goes with pictures: 0 shows none, 1 needs one to
	// live, 0.5 is as good without.
	Pictures float64 `json:"pictures"`
	// Wants are the copy slots (or "picture2", "portrait") the idea lives on:
	// without any of them another layout is proposed first.
	Wants    []string             `json:"wants,omitempty"`
	Areas    map[string]float64   `json:"areas"` // share (0-1) of ground and panel at 1:1
	ButtonOn colourway.Seat       `json:"buttonOn"`
	Trees    map[spec.Class]*Node `json:"trees"`
}

// Ref is "id@revision".
func (l *Layout) Ref() string { return fmt.Sprintf("%s@%d", l.ID, l.Revision) }

// Needs is what the layout asks of a colourway.
func (l *Layout) Needs() colourway.Needs {
	return colourway.Needs{GroundArea: l.Areas["ground"], PanelArea: l.Areas["panel"], ButtonOn: l.ButtonOn}
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

// Node is a part of a tree. Exactly one of Split, Cell, Stack, Row, Card,
// Words, Text, Figure, Button, Logo, Frame, Rule, Mark says what it is.
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

	// Words is a list of copy slots set one below the other.
	Words  []string `json:"words,omitempty"`
	Text   string   `json:"text,omitempty"`   // one copy slot
	Figure string   `json:"figure,omitempty"` // a slot with its telling part set large: when, offer
	Button bool     `json:"button,omitempty"` // the call to action
	Logo   string   `json:"logo,omitempty"`   // "wide" or "compact" room
	Frame  *Frame   `json:"frame,omitempty"`  // a picture inset among content
	Rule   *Rule    `json:"rule,omitempty"`   // a thin line
	Mark   string   `json:"mark,omitempty"`   // an ornament: quote

	If     []string `json:"if,omitempty"`     // only when one of these slots is shown
	Unless []string `json:"unless,omitempty"` // only when none of them is

	Gap    float64 `json:"gap,omitempty"`    // between children, in units; 0 means 2
	Before float64 `json:"before,omitempty"` // before this child, in units, instead of Gap
	V      string  `json:"v,omitempty"`      // start, center, end or spread
	Lines  int     `json:"lines,omitempty"`  // most lines of a text, instead of the level's own
	Flex   bool    `json:"flex,omitempty"`   // takes what a row has left
	Fill   bool    `json:"fill,omitempty"`   // a stack takes all the height it can get
	Ruled  bool    `json:"ruled,omitempty"`  // lines and facts have hairlines between them
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
	Seat    colourway.Seat `json:"seat"`
	Picture int            `json:"picture"`           // 1 for the first picture, 0 for none
	Pattern string         `json:"pattern,omitempty"` // drawn on the seat: swell, dots, basket, awning
	Content *Node          `json:"content,omitempty"`
	Edge    *Edge          `json:"edge,omitempty"`
	Min     float64        `json:"min,omitempty"` // least share (0-1) of the split
	Pad     float64        `json:"pad,omitempty"` // inner padding in margins; 0 means 1
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
}

// Rule is a line.
type Rule struct {
	Width     float64 `json:"width"`     // share (0-1) of what there is
	Thickness float64 `json:"thickness"` // units
}

func (n *Node) kind() string {
	switch {
	case n.Split != "":
		return "split"
	case n.Cell != nil:
		return "cell"
	case n.Stack != nil:
		return "stack"
	case n.Row != nil:
		return "row"
	case n.Card != nil:
		return "card"
	case n.Words != nil:
		return "words"
	case n.Text != "":
		return "text"
	case n.Figure != "":
		return "figure"
	case n.Button:
		return "button"
	case n.Logo != "":
		return "logo"
	case n.Frame != nil:
		return "frame"
	case n.Rule != nil:
		return "rule"
	case n.Mark != "":
		return "mark"
	}
	return ""
}

// Parse reads a layout file and refuses one that breaks a rule, naming the
// place.
func Parse(data []byte) (*Layout, error) {
	dec := json.NewDecoder(bytes.NewReader(data))
	dec.DisallowUnknownFields()
	var l Layout
	if err := dec.Decode(&l); err != nil {
		line := 1 + bytes.Count(data[:min(int(dec.InputOffset()), len(data))], []byte("\n"))
		return nil, fmt.Errorf("layout, near line %d: %v", line, err)
	}
	if l.ID == "" || l.Revision < 1 || l.Name == "" {
		return nil, fmt.Errorf("layout %q: want id, name and revision", l.ID)
	}
	if n := len(strings.Fields(l.Idea)); n == 0 || n > 5 {
		return nil, fmt.Errorf("layout %q: idea %q: want one to five words", l.ID, l.Idea)
	}
	if l.Align != "left" && l.Align != "center" {
		return nil, fmt.Errorf("layout %q: align %q: want left or center", l.ID, l.Align)
	}
	if !slices.Contains([]string{"none", "small", "full"}, l.Radius) {
		return nil, fmt.Errorf("layout %q: radius %q: want none, small or full", l.ID, l.Radius)
	}
	if l.ButtonOn != colourway.Ground && l.ButtonOn != colourway.Panel {
		return nil, fmt.Errorf("layout %q: buttonOn %q: want ground or panel", l.ID, l.ButtonOn)
	}
	if len(l.Trees) == 0 {
		return nil, fmt.Errorf("layout %q: it has no tree", l.ID)
	}
	for class, tree := range l.Trees {
		if !slices.Contains(spec.Classes, class) {
			return nil, fmt.Errorf("layout %q: trees.%s: no such class", l.ID, class)
		}
		c := checker{layout: &l, headline: 0}
		if err := c.region(tree, "trees."+string(class)); err != nil {
			return nil, fmt.Errorf("layout %q: %w", l.ID, err)
		}
		if c.headline != 1 {
			return nil, fmt.Errorf("layout %q: trees.%s: the headline stands %d times, want once", l.ID, class, c.headline)
		}
	}
	return &l, nil
}

// checker is the linter: it walks a tree as the solver does.
type checker struct {
	layout   *Layout
	headline int
}

func (c *checker) region(n *Node, at string) error {
	switch n.kind() {
	case "split":
		if n.Split != "x" && n.Split != "y" {
			return fmt.Errorf("%s.split %q: want x or y", at, n.Split)
		}
		if len(n.Cells) < 2 || len(n.At) != len(n.Cells) {
			return fmt.Errorf("%s: %d sizes for %d cells, want two or more of each", at, len(n.At), len(n.Cells))
		}
		for i, cell := range n.Cells {
			if n.Split == "x" && n.At[i] == 0 {
				return fmt.Errorf("%s.at[%d]: a column cannot fit its content, give it a weight", at, i)
			}
			if err := c.region(cell, fmt.Sprintf("%s.cells[%d]", at, i)); err != nil {
				return err
			}
		}
		return nil
	case "cell":
		at += ".cell"
		if n.Cell.Seat == "" {
			return fmt.Errorf("%s: want a seat, also under a picture", at)
		}
		if e := n.Cell.Edge; e != nil && (!slices.Contains([]string{"top", "right", "bottom", "left"}, e.Side) ||
			!slices.Contains([]string{"shore", "slant", "tear"}, e.Kind) || e.Depth <= 0 || e.Depth > 0.7) {
			return fmt.Errorf("%s.edge: want a side, a kind (shore, slant, tear) and a depth up to 0.7", at)
		}
		if p := n.Cell.Pattern; p != "" && !slices.Contains(patterns, p) {
			return fmt.Errorf("%s.pattern %q: want one of %s", at, p, strings.Join(patterns, ", "))
		}
		if n.Cell.Pattern != "" && n.Cell.Seat != colourway.Band {
			return fmt.Errorf("%s.pattern: a pattern stands on the band, which carries no words", at)
		}
		if n.Cell.Content == nil {
			return nil
		}
		return c.content(n.Cell.Content, at+".content", n.Cell.Seat, n.Cell.Picture > 0)
	}
	return fmt.Errorf("%s: want a split or a cell here, got %q", at, n.kind())
}

func (c *checker) content(n *Node, at string, seat colourway.Seat, bare bool) error {
	kind := n.kind()
	if bare && (kind == "text" || kind == "words" || kind == "figure" || kind == "button" || kind == "logo") {
		return fmt.Errorf("%s: %s on a bare picture; put it in a card", at, kind)
	}
	if seat == colourway.Band && kind != "frame" && kind != "rule" && kind != "stack" && kind != "row" && kind != "card" {
		return fmt.Errorf("%s: a band carries no words", at)
	}
	each := func(list []*Node, name string) error {
		for i, child := range list {
			if err := c.content(child, fmt.Sprintf("%s.%s[%d]", at, name, i), seat, bare); err != nil {
				return err
			}
		}
		return nil
	}
	switch kind {
	case "stack":
		return each(n.Stack, "stack")
	case "row":
		flex := 0
		for _, child := range n.Row {
			if child.Flex {
				flex++
			}
		}
		if flex > 1 {
			return fmt.Errorf("%s.row: %d flexible children, want at most one", at, flex)
		}
		return each(n.Row, "row")
	case "card":
		if n.Card.Content == nil || n.Card.Width <= 0 || n.Card.Width > 1 || !slices.Contains(cardShapes, n.Card.Shape) {
			return fmt.Errorf("%s.card: want content, a width up to 1 and a shape (%s)", at, strings.Join(cardShapes, ", "))
		}
		if n.Card.Stub != nil {
			if err := c.content(n.Card.Stub, at+".card.stub", n.Card.Seat, false); err != nil {
				return err
			}
		}
		return c.content(n.Card.Content, at+".card.content", n.Card.Seat, false)
	case "button":
		if seat != c.layout.ButtonOn {
			return fmt.Errorf("%s: the button stands on %s, the layout says %s", at, seat, c.layout.ButtonOn)
		}
	case "text":
		if n.Text == "headline" {
			c.headline++
		}
	case "figure":
		if n.Figure != "when" && n.Figure != "offer" {
			return fmt.Errorf("%s.figure %q: want when or offer", at, n.Figure)
		}
	case "mark":
		if n.Mark != "quote" {
			return fmt.Errorf("%s.mark %q: want quote", at, n.Mark)
		}
	case "frame":
		if s := n.Frame.Shape; s != "" && s != "arch" && s != "circle" {
			return fmt.Errorf("%s.frame.shape %q: want arch or circle", at, s)
		}
	case "words", "logo", "rule":
	default:
		return fmt.Errorf("%s: not a content node", at)
	}
	return nil
}
