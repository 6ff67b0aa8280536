package layout

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/photo"
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
	"arrow", // under, with an arrow drawn to the button by hand where the brand is not a sharp one
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
	return buttonPart{}.present(t, nil) || logoPart{}.present(t, nil) || !t.turned && t.words("website") != ""
}
func (signOffPart) measure(t *trial, n *Node, w float64) (box, bool) {
	_, b, ok := t.signOff(n, w)
	return b, ok
}
func (signOffPart) place(t *trial, n *Node, r spec.Rect, seat colourway.Seat) bool {
	made, _, ok := t.signOff(n, r.W)
	return ok && t.place(made, r, seat)
}

// What a sign-off is arranged of, besides its mark.
var (
	signButton  = &Node{Button: true}
	signAddress = &Node{Text: "website", Lines: 1}
	signArrow   = &Node{Mark: arrowMark}
	signRule    = &Node{Rule: &Rule{Width: 1, Thickness: ruleThick}}
)

// signOffAsked is what an arrangement depends on within one trial.
type signOffAsked struct {
	n               *Node
	w               float64
	lifted, centred bool
	logoOn          *photo.Bounds
}

// arranged is a sign-off in one of its arrangements; made is nil where none fits.
type arranged struct {
	signOffAsked
	made *Node
	box  box
}

// signOff is a sign-off as a stack or a row that fits a width: as the layout has it, else its
// lines below each other. What was asked for last is kept: it is measured before it is placed.
func (t *trial) signOff(n *Node, w float64) (*Node, box, bool) {
	asked := signOffAsked{n, w, t.lifted, t.centred, t.logoOn}
	if t.signed.signOffAsked != asked {
		t.signed = arranged{signOffAsked: asked}
		mark := t.mark()
		address := signAddress
		if t.turned { // it stands along a side already
			address = &Node{}
		}
		who := &Node{Row: []*Node{mark, address}, Gap: markGap, V: "center", Natural: true}
		for _, arrange := range []func() *Node{
			func() *Node { return t.asLaidOut(n, who) },
			func() *Node { return &Node{Stack: []*Node{signButton, who}, Gap: 2} },
			func() *Node { return &Node{Stack: []*Node{signButton, mark, address}, Gap: 1.8} },
		} {
			if made := arrange(); made != nil && t.present(made) {
				if b, ok := t.fits(made, w); ok {
					t.signed.made, t.signed.box = made, b
					break
				}
			}
		}
	}
	return t.signed.made, t.signed.box, t.signed.made != nil
}

// asLaidOut is the arrangement the layout asks for, nil where it asks for the plain one.
func (t *trial) asLaidOut(n, who *Node) *Node {
	shape := n.SignOff
	switch {
	case t.align() == "center" && shape != "first":
		shape = "line"
	case shape == "ruled" && t.in.Placement.Advertisement(): // no room to spare for a rule
		shape = "ends"
	}
	ends := &Node{Row: []*Node{who, signButton}, V: "spread", Natural: true}
	switch shape {
	case "line":
		return &Node{Row: []*Node{signButton, who}, Gap: signGapUnits, V: "center", Natural: true}
	case "ends":
		return ends
	case "ruled":
		return &Node{Stack: []*Node{signRule, ends}, Gap: 1.6}
	case "first":
		return &Node{Stack: []*Node{who, signButton}, Gap: 2}
	case "arrow":
		if t.in.Manner.Corners == "sharp" || !(buttonPart{}).present(t, nil) {
			return nil
		}
		pointed := &Node{Row: []*Node{signButton, signArrow}, Gap: 0.8, V: "start", Natural: true}
		return &Node{Stack: []*Node{pointed, who}, Gap: 2}
	}
	return nil
}

// fits measures an arrangement of a sign-off. A row with its ends apart breaks into lines by
// itself: not here.
func (t *trial) fits(made *Node, w float64) (box, bool) {
	if made.V == "spread" {
		_, b, ok := t.rowWidths(made, w)
		return b, ok && b.w <= w+0.01
	}
	b, ok := t.measure(made, w)
	return b, ok && b.w <= w+0.01
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
