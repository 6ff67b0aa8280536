package brief

import (
	"aspenridge/internal/core/colour"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"
)

// Frames are the shapes a picture can be cut to.
var Frames = []string{"rectangle", "rounded", "circle", "arch", "leaf", "ticket"}

// IconFrame begins the name of a frame that has the outline of a shipped icon.
const IconFrame = "icon:"

// How far an adjustment of a property may reach.
const (
	Anywhere  = "set"
	PerShape  = "class" // what is measured on the canvas makes sense in like shapes alone
	wholeTurn = 360
)

// Property is something of a slot that can be changed by hand.
type Property struct {
	Name   string
	Label  string                             // as people call it
	Widest string                             // how far it may reach: [Anywhere] or [PerShape]
	Drawn  bool                               // it changes what is drawn, not what is solved
	set    func(*Hand, json.RawMessage) error // nil for what a [Hand] does not hold
}

// Properties are all of them, in the order they are listed in. Those that choose
// something else to be solved (text, file, layout, seats) come first; a [Hand] does not
// hold them.
var Properties = []Property{
	{"text", "words", Anywhere, false, nil},
	{"file", "file", Anywhere, false, nil},
	{"layout", "layout", Anywhere, false, nil},
	{"seats", "colourway", Anywhere, false, nil},

	{"offset", "place", PerShape, true, func(h *Hand, v json.RawMessage) error { return pair(&h.Offset, v, -mostOffset, mostOffset) }},
	{"scale", "size", PerShape, true, func(h *Hand, v json.RawMessage) error { return number(&h.Scale, v, 0.05, 20, "times") }},
	{"sides", "width and height", PerShape, true, func(h *Hand, v json.RawMessage) error { return pair(&h.Sides, v, 0.05, 20) }},
	{"fit", "edges it reaches to", Anywhere, true, func(h *Hand, v json.RawMessage) error {
		return oneOf(&h.Fit, v, "whole", "wide", "high")
	}},
	{"rotate", "angle", PerShape, true, func(h *Hand, v json.RawMessage) error {
		return number(&h.Rotate, v, -wholeTurn, wholeTurn, "degrees")
	}},
	{"crop", "crop", Anywhere, true, func(h *Hand, v json.RawMessage) (err error) { h.Crop, err = ParseCrop(v); return err }},
	{"whole", "what is kept whole", Anywhere, false, func(h *Hand, v json.RawMessage) (err error) { h.Whole, err = ParseCrop(v); return err }},
	{"hidden", "left out", Anywhere, false, func(h *Hand, v json.RawMessage) error { return value(&h.Hidden, v, "true or false") }},
	{"opacity", "opacity", Anywhere, true, func(h *Hand, v json.RawMessage) error { return number(&h.Opacity, v, 0.02, 1, "of 1") }},
	{"order", "order", Anywhere, true, func(h *Hand, v json.RawMessage) error { return whole(&h.Order, v, 100) }},
	{"fill", "colour", Anywhere, true, func(h *Hand, v json.RawMessage) error { return paint(&h.Fill, v) }},
	{"flip", "mirrored", Anywhere, true, func(h *Hand, v json.RawMessage) error { return oneOf(&h.Flip, v, "across", "down", "both") }},

	{"level", "level", Anywhere, false, func(h *Hand, v json.RawMessage) error {
		return oneOf(&h.Level, v, "headline", "subheading", "body", "caption", "button")
	}},
	{"family", "face", Anywhere, false, func(h *Hand, v json.RawMessage) error { return name(&h.Family, v) }},
	{"weight", "weight", Anywhere, false, func(h *Hand, v json.RawMessage) error {
		f := float64(h.Weight)
		err := number(&f, v, 1, 1000, "as CSS counts weights")
		h.Weight = int(math.Round(f))
		return err
	}},
	{"case", "case", Anywhere, false, func(h *Hand, v json.RawMessage) error { return oneOf(&h.Case, v, "upper", "typed") }},
	{"align", "alignment", Anywhere, false, func(h *Hand, v json.RawMessage) error { return oneOf(&h.Align, v, "start", "middle", "end") }},
	{"tracking", "tracking", Anywhere, false, func(h *Hand, v json.RawMessage) error { return number(&h.Tracking, v, -0.1, 1, "em") }},
	{"leading", "leading", Anywhere, false, func(h *Hand, v json.RawMessage) error { return number(&h.Leading, v, 0.6, 3, "times the size") }},
	{"arrange", "how facts stand", Anywhere, false, func(h *Hand, v json.RawMessage) error {
		return oneOf(&h.FactsAs, v, "list", "row", "figures")
	}},
	{"breaks", "line breaks", PerShape, true, breaksOf},
	{"dials", "light and colour", Anywhere, true, func(h *Hand, v json.RawMessage) error {
		if err := value(&h.Dials, v, `{"brightness": a number, "contrast", "saturation", "warmth"}`); err != nil {
			return err
		}
		return h.Dials.Check()
	}},
	{"duotone", "two colours", Anywhere, true, duotoneOf},
	{"runs", "words in them", Anywhere, true, runsOf},
	{"highlight", "highlight", Anywhere, true, func(h *Hand, v json.RawMessage) error { return paint(&h.Highlight, v) }},
	{"band", "band", Anywhere, true, func(h *Hand, v json.RawMessage) error { return paint(&h.Band, v) }},
	{"outline", "outline", Anywhere, true, func(h *Hand, v json.RawMessage) error { return edge(&h.Outline, v, 0.3) }},
	{"shadow", "shadow", Anywhere, true, shadowOf},

	{"locked", "locked", Anywhere, false, func(_ *Hand, v json.RawMessage) error { var on bool; return value(&on, v, "true or false") }},
	{"name", "name", Anywhere, false, func(_ *Hand, v json.RawMessage) error { var s string; return name(&s, v) }},
	{"group", "group", Anywhere, false, func(h *Hand, v json.RawMessage) error { return name(&h.Group, v) }},
	{"part", "part", Anywhere, false, func(_ *Hand, v json.RawMessage) error { _, err := addedOf(v); return err }},
	{"frame", "frame", Anywhere, true, frameOf},
	{"moving", "movement", Anywhere, false, func(h *Hand, v json.RawMessage) error {
		var m Movement
		if err := value(&m, v, `{"seconds": a number, "loop": true or false}`); err != nil {
			return err
		}
		h.Moving = &m
		return m.Check()
	}},
	{"border", "border", Anywhere, true, func(h *Hand, v json.RawMessage) error { return edge(&h.Border, v, 0.2) }},
}

// Styles reports whether it is of how words are set, or of what is left out.
func (p Property) Styles() bool {
	return slices.Contains([]string{"level", "family", "weight", "case", "align", "tracking", "leading", "hidden"}, p.Name)
}

// mostName is how long a name may be, in bytes.
const mostName = 200

// mostOffset is how far a part may be moved, in short sides.
const mostOffset = 20

// PropertyOf finds a property by its name.
func PropertyOf(name string) (Property, bool) {
	i := slices.IndexFunc(Properties, func(p Property) bool { return p.Name == name })
	if i < 0 {
		return Property{}, false
	}
	return Properties[i], true
}

// Check reports what is wrong with an adjustment; properties of another version are let
// be.
func (a Adjustment) Check() error {
	p, ok := PropertyOf(a.Property)
	if !ok {
		return nil
	}
	kind, _, _ := strings.Cut(a.Reach, ":")
	if p.Widest == PerShape && kind != "class" && kind != "piece" {
		return fmt.Errorf("reach %q: the %s of a part is changed for a shape (class:…) or a piece (piece:…)", a.Reach, p.Label)
	}
	if p.set == nil {
		return nil
	}
	if err := p.set(&Hand{}, a.Value); err != nil {
		return fmt.Errorf("value: %s: %w", a.Property, err)
	}
	return nil
}

// ParseCrop reads the value of a crop: [x, y, w, h] as fractions of a picture.
func ParseCrop(v json.RawMessage) (w [4]float64, err error) {
	var inside string // as earlier versions wrote it
	if json.Unmarshal(v, &inside) == nil {
		v = json.RawMessage(inside)
	}
	if err = json.Unmarshal(v, &w); err != nil {
		return w, fmt.Errorf("%s: want [x, y, w, h] as fractions of the picture", v)
	}
	if w[0] < 0 || w[1] < 0 || w[2] < 0.02 || w[3] < 0.02 || w[0]+w[2] > 1.0001 || w[1]+w[3] > 1.0001 {
		return w, fmt.Errorf("%s: want a part of the picture, each side at least 0.02 of it", v)
	}
	return w, nil
}

func value[T any](into *T, v json.RawMessage, want string) error {
	if err := json.Unmarshal(v, into); err != nil {
		return fmt.Errorf("%.60s: want %s", v, want)
	}
	return nil
}

func number(into *float64, v json.RawMessage, least, most float64, unit string) error {
	want := fmt.Sprintf("a number from %v to %v %s", least, most, unit)
	if err := value(into, v, want); err != nil {
		return err
	}
	if *into < least || *into > most {
		return fmt.Errorf("%v: want %s", *into, want)
	}
	return nil
}

func whole(into **int, v json.RawMessage, most int) error {
	var n int
	if err := value(&n, v, "a whole number"); err != nil {
		return err
	}
	if n < -most || n > most {
		return fmt.Errorf("%d: want a whole number from %d to %d", n, -most, most)
	}
	*into = &n
	return nil
}

func pair(into *[2]float64, v json.RawMessage, least, most float64) error {
	var list []float64
	if err := value(&list, v, "[x, y]"); err != nil {
		return err
	}
	if len(list) != 2 || min(list[0], list[1]) < least || max(list[0], list[1]) > most {
		return fmt.Errorf("%.60s: want [x, y], each from %v to %v", v, least, most)
	}
	copy(into[:], list)
	return nil
}

func oneOf(into *string, v json.RawMessage, choices ...string) error {
	if err := value(into, v, "one of "+strings.Join(choices, ", ")); err != nil {
		return err
	}
	if !slices.Contains(choices, *into) {
		return fmt.Errorf("%.60q: want one of %s", *into, strings.Join(choices, ", "))
	}
	return nil
}

func name(into *string, v json.RawMessage) error {
	if err := value(into, v, "a name"); err != nil {
		return err
	}
	if *into == "" || len(*into) > mostName {
		return fmt.Errorf("%d bytes: want a name of 1 to %d", len(*into), mostName)
	}
	return nil
}

// paint reads a colour: a token of the kit ("color.main.river") or one in hex.
func paint(into *string, v json.RawMessage) error {
	const want = "a colour of the kit, like color.main.river, or #RRGGBB"
	if err := value(into, v, want); err != nil {
		return err
	}
	if strings.HasPrefix(*into, "color.") && len(*into) > len("color.") {
		return nil
	}
	if _, err := colour.Parse(*into); err != nil || !strings.HasPrefix(*into, "#") {
		return fmt.Errorf("%.60q: want %s", *into, want)
	}
	return nil
}

func edge(into **Edge, v json.RawMessage, most float64) error {
	var e Edge
	if err := value(&e, v, `{"fill": a colour, "width": a number}`); err != nil {
		return err
	}
	if e.Width <= 0 || e.Width > most {
		return fmt.Errorf("width %v: want more than 0, at most %v", e.Width, most)
	}
	raw, _ := json.Marshal(e.Fill)
	if err := paint(&e.Fill, raw); err != nil {
		return fmt.Errorf("fill: %w", err)
	}
	*into = &e
	return nil
}

// frameOf reads the name of a frame: one of [Frames], or icon: and that of an icon.
func frameOf(h *Hand, v json.RawMessage) error {
	if name(&h.Frame, v) == nil && strings.HasPrefix(h.Frame, IconFrame) && len(h.Frame) > len(IconFrame) {
		return nil
	}
	if oneOf(&h.Frame, v, Frames...) != nil {
		return fmt.Errorf("%.60s: want one of %s, or %s and the name of an icon", v, strings.Join(Frames, ", "), IconFrame)
	}
	return nil
}

func shadowOf(h *Hand, v json.RawMessage) error {
	var s Shadow
	if err := value(&s, v, `{"fill": a colour, "x": a number, "y": a number}`); err != nil {
		return err
	}
	if math.Abs(s.X) > 1 || math.Abs(s.Y) > 1 || s.X == 0 && s.Y == 0 {
		return fmt.Errorf("x %v, y %v: want from -1 to 1 of the type size, not both 0", s.X, s.Y)
	}
	raw, _ := json.Marshal(s.Fill)
	if err := paint(&s.Fill, raw); err != nil {
		return fmt.Errorf("fill: %w", err)
	}
	h.Shadow = &s
	return nil
}

func duotoneOf(h *Hand, v json.RawMessage) error {
	var d Duotone
	if err := value(&d, v, `{"dark": a colour, "light": a colour}`); err != nil {
		return err
	}
	for _, c := range []*string{&d.Dark, &d.Light} {
		raw, _ := json.Marshal(*c)
		if err := paint(c, raw); err != nil {
			return err
		}
	}
	h.Duotone = &d
	return nil
}
