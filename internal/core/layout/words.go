package layout

import (
	"encoding/json"
	"fmt"
	"slices"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/spec"
)

// Words is a list of copy slots. A layout file names them, or says "rest" for every slot that
// stands nowhere else in its tree, or "brief" for those of the rest that suit a strip: one
// word alone, or as the last of a list whose named slots come first. "second" among them stands for
// the slots the purpose puts second, wherever else they would stand. A new copy field is
// therefore in every layout once it is in [brief.Parts].
type Words []string

// What a layout file says for slots it does not name; second is for those the purpose of a piece puts
// second.
const (
	rest        = "rest"
	restInBrief = "brief"
	second      = "second"
)

// UnmarshalJSON reads a list of slots or one word.
func (w *Words) UnmarshalJSON(b []byte) error {
	var one string
	if json.Unmarshal(b, &one) == nil {
		*w = Words{one}
		return nil
	}
	var list []string
	if err := json.Unmarshal(b, &list); err != nil {
		return fmt.Errorf("words %.60s: want a list of copy slots, %q or %q", b, rest, restInBrief)
	}
	*w = list
	return nil
}

// nameRest puts the slots a tree has no other place for where it says "rest" or "brief".
func (n *Node) nameRest() {
	var placed []string
	n.Walk(func(n *Node) {
		placed = append(placed, n.Text, n.Figure, n.Tiles, n.Table)
		placed = append(placed, n.Words...)
		if n.Sections != 0 {
			placed = append(placed, "body")
		}
		if n.SignOff != "" {
			placed = append(placed, "website")
		}
	})
	n.Walk(func(n *Node) {
		if len(n.Words) == 0 {
			return
		}
		list := map[string][]string{rest: brief.Rest, restInBrief: brief.RestInBrief}[n.Words[len(n.Words)-1]]
		if list == nil {
			return
		}
		named := n.Words[: len(n.Words)-1 : len(n.Words)-1]
		for _, slot := range list {
			if !slices.Contains(placed, slot) {
				named = append(named, slot)
			}
		}
		n.Words = named
	})
}

// wordsPart is a list of slots, one below the other, those that have words.
type wordsPart struct{}

func (wordsPart) name() string { return "words" }
func (wordsPart) words() bool  { return true }
func (wordsPart) lint(_ *checker, n *Node, at string, _ colourway.Seat, _ bool) error {
	for _, slot := range n.Words {
		if slot != second && !slices.Contains(brief.Slots, slot) {
			return fmt.Errorf("%s.words: there is no copy slot %q; want slots, %q, %q or %q", at, slot, second, rest, restInBrief)
		}
	}
	return nil
}
func (wordsPart) present(t *trial, n *Node) bool {
	return slices.ContainsFunc(n.Words, func(slot string) bool { return t.words(slot) != "" })
}
func (wordsPart) alone(n *Node) *Node                                { return &Node{Stack: []*Node{n}, Gap: 1.6} }
func (p wordsPart) measure(t *trial, n *Node, w float64) (box, bool) { return t.measure(p.alone(n), w) }
func (p wordsPart) place(t *trial, n *Node, r spec.Rect, seat colourway.Seat) bool {
	return t.placeStack(p.alone(n), r, seat)
}
