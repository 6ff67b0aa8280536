package layout

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/spec"
)

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
	for _, tree := range l.Trees {
		tree.nameRest()
	}
	if err := l.lint(); err != nil {
		at := strings.TrimRight(strings.Fields(err.Error())[0], ":")
		return nil, fmt.Errorf("layout %q, line %d: %w", l.ID, lineOf(data, at), err)
	}
	return &l, nil
}

// lint checks every rule of a layout. Its errors begin with the path of what
// breaks one.
func (l *Layout) lint() error {
	if l.ID == "" || l.Revision < 1 || l.Name == "" {
		return errors.New("id, name and revision are wanted")
	}
	if n := len(strings.Fields(l.Idea)); n == 0 || n > 5 {
		return fmt.Errorf("idea %q: want one to five words", l.Idea)
	}
	if l.Align != "left" && l.Align != "center" {
		return fmt.Errorf("align %q: want left or center", l.Align)
	}
	if l.ButtonOn != colourway.Ground && l.ButtonOn != colourway.Panel {
		return fmt.Errorf("buttonOn %q: want ground or panel", l.ButtonOn)
	}
	if l.Facts != "" && !slices.Contains(FactsAs, l.Facts) {
		return fmt.Errorf("facts %q: want one of %v", l.Facts, FactsAs)
	}
	for _, purpose := range l.For {
		if !slices.Contains(brief.Purposes, purpose) {
			return fmt.Errorf("for %q: want purposes (%s)", purpose, strings.Join(brief.Purposes, ", "))
		}
	}
	for _, move := range []struct{ name, value, may string }{
		{"over", l.Moves.Over, "cut, fade, wipe, push"}, {"words", l.Moves.Words, "rise, fade, wipe"}, {"out", l.Moves.Out, "fade"},
	} {
		if move.value != "" && !slices.Contains(strings.Split(move.may, ", "), move.value) {
			return fmt.Errorf("moves.%s %q: want one of %s", move.name, move.value, move.may)
		}
	}
	if len(l.Trees) == 0 {
		return errors.New("trees: there is none")
	}
	for _, class := range slices.Sorted(maps.Keys(l.Trees)) {
		tree := l.Trees[class]
		if !slices.Contains(spec.Classes, class) {
			return fmt.Errorf("trees.%s: no such class", class)
		}
		c := checker{layout: l, headline: 0}
		if err := c.region(tree, "trees."+string(class)); err != nil {
			return err
		}
		if c.headline != 1 {
			return fmt.Errorf("trees.%s: the headline stands %d times, want once", class, c.headline)
		}
	}
	return nil
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
		if o := n.Cell.On; o != nil {
			if err := o.lint(n.Cell); err != nil {
				return fmt.Errorf("%s.on: %w", at, err)
			}
		}
		return c.content(n.Cell.Content, at+".content", n.Cell.Seat, n.Cell.Picture > 0 && n.Cell.On == nil)
	}
	return fmt.Errorf("%s: want a split or a cell here, got %q", at, n.kind())
}

func (o *On) lint(c *Cell) error {
	if !slices.Contains([]string{"fade", "quiet", "toned"}, o.Way) {
		return fmt.Errorf("way %q: want fade, quiet or toned", o.Way)
	}
	if c.Picture == 0 {
		return errors.New("there is no picture to stand on")
	}
	if len(o.Sides) == 0 && o.Way != "toned" {
		return errors.New("want the sides the content may hang on")
	}
	for _, side := range o.Sides {
		if !slices.Contains([]string{"top", "right", "bottom", "left"}, side) {
			return fmt.Errorf("side %q: want top, right, bottom or left", side)
		}
	}
	if o.Width < 0 || o.Width > 1 || o.Most < 0 || o.Most > 1 {
		return fmt.Errorf("width %g, most %g: want shares up to 1", o.Width, o.Most)
	}
	return nil
}

func (c *checker) content(n *Node, at string, seat colourway.Seat, bare bool) error {
	p := n.part()
	switch {
	case p == nil:
		return fmt.Errorf("%s: not a content node", at)
	case bare && p.words():
		return fmt.Errorf("%s: %s on a bare picture; put it in a card, or say how it stands on it", at, p.name())
	case seat == colourway.Band && p.words():
		return fmt.Errorf("%s: a band carries no words", at)
	}
	return p.lint(c, n, at, seat, bare)
}

// each lints the children of a node.
func (c *checker) each(list []*Node, at string, seat colourway.Seat, bare bool) error {
	for i, child := range list {
		if err := c.content(child, fmt.Sprintf("%s[%d]", at, i), seat, bare); err != nil {
			return err
		}
	}
	return nil
}

// lineOf is the line of a layout file on which a path stands, or the nearest
// part of the path that is there: "trees.square.cells[1].cell".
func lineOf(data []byte, path string) int {
	best, length := 1, -1
	var walk func(dec *json.Decoder, at string)
	walk = func(dec *json.Decoder, at string) {
		line := 1 + bytes.Count(data[:min(int(dec.InputOffset()), len(data))], []byte("\n"))
		tok, err := dec.Token()
		if err != nil {
			return
		}
		if strings.HasPrefix(path, at) && len(at) > length {
			best, length = line, len(at)
		}
		switch tok {
		case json.Delim('{'):
			for dec.More() {
				key, err := dec.Token()
				if err != nil {
					return
				}
				name, _ := key.(string)
				if at != "" {
					name = at + "." + name
				}
				walk(dec, name)
			}
			_, _ = dec.Token()
		case json.Delim('['):
			for i := 0; dec.More(); i++ {
				walk(dec, fmt.Sprintf("%s[%d]", at, i))
			}
			_, _ = dec.Token()
		}
	}
	walk(json.NewDecoder(bytes.NewReader(data)), "")
	return best
}
