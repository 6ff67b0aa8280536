package layout

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/spec"
)

// signOffPart is who says it and what to do: mark, address and button as one block.
type signOffPart struct{}

// signOffs are the ways it can be arranged.
var signOffs = []string{
	"line",  // the button, then mark and address, on one line from the words' edge
	"ends",  // mark and address at the words' edge, the button at the other end of the line
	"ruled", // the same under a rule
	"under", // the button, mark and address below it
	"first", // mark and address, the button below them
}

func (signOffPart) name() string { return "signOff" }
func (signOffPart) words() bool  { return true }
func (signOffPart) lint(c *checker, n *Node, at string, seat colourway.Seat, bare bool) error {
	if !slices.Contains(signOffs, n.SignOff) {
		return fmt.Errorf("%s.signOff %q: want %s", at, n.SignOff, strings.Join(signOffs, ", "))
	}
	return buttonPart{}.lint(c, n, at, seat, bare)
}
func (signOffPart) present(t *trial, _ *Node) bool {
	return buttonPart{}.present(t, nil) || logoPart{}.present(t, nil) || t.words("website") != ""
}
func (signOffPart) measure(t *trial, n *Node, w float64) (box, bool) {
	_, b, ok := t.signOff(n, w)
	return b, ok
}
func (signOffPart) place(t *trial, n *Node, r spec.Rect, seat colourway.Seat) bool {
	made, _, ok := t.signOff(n, r.W)
	return ok && t.place(made, r, seat)
}

// signOff is a sign-off as a stack or a row that fits a width: as the layout has it, else its
// lines below each other.
func (t *trial) signOff(n *Node, w float64) (*Node, box, bool) {
	button := &Node{Button: true}
	who := &Node{Row: []*Node{t.mark(), {Text: "website", Lines: 1}}, Gap: markGap, V: "center", Natural: true}
	shape := n.SignOff
	if t.align() == "center" && shape != "first" {
		shape = "line"
	}
	var list []*Node
	if shape == "ruled" && t.in.Placement.Advertisement() { // no room to spare for a rule
		shape = "ends"
	}
	switch shape {
	case "line":
		list = append(list, &Node{Row: []*Node{button, who}, Gap: signGapUnits, V: "center", Natural: true})
	case "ends":
		list = append(list, &Node{Row: []*Node{who, button}, V: "spread", Natural: true})
	case "ruled":
		list = append(list, &Node{Stack: []*Node{{Rule: &Rule{Width: 1, Thickness: ruleThick}}, {Row: []*Node{who, button}, V: "spread", Natural: true}}, Gap: 1.6})
	case "first":
		list = append(list, &Node{Stack: []*Node{who, button}, Gap: 2})
	}
	list = append(list, &Node{Stack: []*Node{button, who}, Gap: 2}, &Node{Stack: []*Node{button, t.mark(), {Text: "website", Lines: 1}}, Gap: 1.8})
	for _, made := range list {
		if !t.present(made) {
			continue
		}
		if len(made.Row) > 0 && made.V == "spread" { // a row with its ends apart breaks into lines by itself: not here
			if _, _, ok := t.rowWidths(made, w); !ok {
				continue
			}
		}
		if b, ok := t.measure(made, w); ok && b.w <= w+0.01 {
			return made, b, true
		}
	}
	return nil, box{}, false
}

// What is set by eye on sheets, in units of the piece.
const (
	markGap      = 1.1
	signGapUnits = 2.6
	ruleThick    = 0.12
	markOver     = 1.25 // times the button's height a compact mark may be
	wideMarkOver = 0.95
	markAlone    = 3.2 // times the body where there is no button
)

// mark is the logo of a sign-off: it keeps to the height of the line it stands on.
func (t *trial) mark() *Node {
	n := &Node{Logo: "wide"}
	fit, w, h, ok := t.pickLogo(t.seatForLogo(n), n.Logo)
	if !ok || h == 0 {
		return n
	}
	most := markAlone * t.body
	if _, _, padY, ok := t.buttonSize(t.safe.W); ok && t.words("callToAction") != "" {
		size := t.body * t.in.Types.Ratio(brand.Button)
		most = markOver * (t.face(t.in.Types.Levels[brand.Button]).CapHeight*size + 2*padY)
		if w > 1.6*h {
			most *= wideMarkOver / markOver
		}
	}
	n.Scale = math.Min(1, most/h)
	if least := fit.Logo.MinWidth / t.seen; w*n.Scale < least { // as its owner wants it
		n.Scale = math.Min(1, least/w)
	}
	return n
}
