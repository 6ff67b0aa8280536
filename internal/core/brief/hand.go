package brief

import (
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// Hand is what was changed by hand of one slot on one placement: of every property the
// value with the narrowest reach. The zero value changes nothing.
type Hand struct {
	// any part
	Offset  [2]float64 // from the solved place, in fractions of the short side
	Scale   float64    // times, about the middle of the solved place; 0 for 1
	Rotate  float64    // degrees clockwise, about the same
	Hidden  bool
	Opacity float64 // 0-1; 0 for 1
	Order   *int    // steps up (down, below 0) in the order of drawing
	Fill    string  // token or #hex; empty for the rule
	Flip    string  // across, down or both; empty for neither

	// words
	Level     string
	Family    string
	Weight    int
	Case      string  // upper or typed
	Align     string  // start, middle or end
	Tracking  float64 // em
	Leading   float64 // times the size
	Breaks    []Break
	Runs      []Run
	Highlight string // token or #hex of blocks behind the lines
	Outline   *Edge  // along the letters
	Shadow    *Shadow

	// pictures
	Crop    [4]float64 // x, y, w, h as fractions of the picture; no width for the rule
	Frame   string     // one of [Frames]
	Border  *Edge
	Dials   scene.Dials
	Duotone *Duotone

	Group string // what is taken hold of together

	reach map[string]string // by property
}

// Edge is a line around something: its colour and its width, in fractions of the type
// size around letters and of the short side around pictures.
type Edge struct {
	Fill  string  `json:"fill"`
	Width float64 `json:"width"`
}

// Shadow is a copy of letters cast aside, in fractions of the type size.
type Shadow struct {
	Fill string  `json:"fill"`
	X    float64 `json:"x"`
	Y    float64 `json:"y"`
}

// Duotone draws a picture in the colours between two.
type Duotone struct {
	Dark  string `json:"dark"`
	Light string `json:"light"`
}

// Break is where a line ends: after so many words. With the word it is after, it stays
// with that word when others come or go.
type Break struct {
	After int    `json:"after"`
	Word  string `json:"word"`
}

// UnmarshalJSON reads a break, or the number of words alone.
func (b *Break) UnmarshalJSON(data []byte) error {
	if json.Unmarshal(data, &b.After) == nil {
		return nil
	}
	type plain Break
	return json.Unmarshal(data, (*plain)(b))
}

// Frames are the shapes a picture can be cut to.
var Frames = []string{"rectangle", "rounded", "circle", "arch", "leaf", "ticket"}

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
	{"rotate", "angle", PerShape, true, func(h *Hand, v json.RawMessage) error {
		return number(&h.Rotate, v, -wholeTurn, wholeTurn, "degrees")
	}},
	{"crop", "crop", Anywhere, true, func(h *Hand, v json.RawMessage) (err error) { h.Crop, err = ParseCrop(v); return err }},
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
	{"outline", "outline", Anywhere, true, func(h *Hand, v json.RawMessage) error { return edge(&h.Outline, v, 0.3) }},
	{"shadow", "shadow", Anywhere, true, shadowOf},

	{"locked", "locked", Anywhere, false, func(_ *Hand, v json.RawMessage) error { var on bool; return value(&on, v, "true or false") }},
	{"group", "group", Anywhere, false, func(h *Hand, v json.RawMessage) error { return name(&h.Group, v) }},
	{"part", "part", Anywhere, false, func(_ *Hand, v json.RawMessage) error { _, err := addedOf(v); return err }},
	{"frame", "frame", Anywhere, true, func(h *Hand, v json.RawMessage) error { return oneOf(&h.Frame, v, Frames...) }},
	{"border", "border", Anywhere, true, func(h *Hand, v json.RawMessage) error { return edge(&h.Border, v, 0.2) }},
}

// mostOffset is how far a part may be moved, in short sides.
const mostOffset = 20

// Added is a part that was added by hand: the value of "part" of a slot of its own, whose
// other properties are those of any part.
type Added struct {
	Slot  string     `json:"-"`
	Kind  string     `json:"kind"`            // one of [AddedKinds]
	Name  string     `json:"name,omitempty"`  // of a shape, of an icon
	File  string     `json:"file,omitempty"`  // of a picture, of a logo
	Text  string     `json:"text,omitempty"`  // of words
	Level string     `json:"level,omitempty"` // of words
	Fill  string     `json:"fill,omitempty"`
	Count int        `json:"count,omitempty"` // of icons in a row
	Width float64    `json:"width,omitempty"` // of a frame's line, in fractions of the short side
	At    [2]float64 `json:"at"`              // its middle, in fractions of the canvas
	Size  [2]float64 `json:"size"`            // in fractions of the short side
}

// What can be added.
var (
	AddedKinds = []string{"words", "shape", "icon", "picture", "logo", "button", "badge", "row"}
	Shapes     = []string{"band", "panel", "circle", "line", "arrow", "burst", "wave", "corner", "frame"}
)

// AddedSlot begins the slots of what was added.
const AddedSlot = "added-"

// addedOf reads what is added.
func addedOf(v json.RawMessage) (Added, error) {
	var d Added
	if err := value(&d, v, "an object with kind, at and size"); err != nil {
		return d, err
	}
	if !slices.Contains(AddedKinds, d.Kind) {
		return d, fmt.Errorf("kind %.60q: want one of %s", d.Kind, strings.Join(AddedKinds, ", "))
	}
	if d.Kind == "shape" && !slices.Contains(Shapes, d.Name) {
		return d, fmt.Errorf("name %.60q: want one of %s", d.Name, strings.Join(Shapes, ", "))
	}
	if d.Kind == "row" && (d.Count < 1 || d.Count > 20) {
		return d, fmt.Errorf("count %d: want 1 to 20 icons in a row", d.Count)
	}
	if slices.Contains([]string{"words", "button", "badge"}, d.Kind) && (d.Text == "" || !slices.Contains(brand.Levels, brand.Level(d.Level))) {
		return d, fmt.Errorf("%s want a text and a level", d.Kind)
	}
	if min(d.At[0], d.At[1]) < -2 || max(d.At[0], d.At[1]) > 3 || min(d.Size[0], d.Size[1]) < 0.002 || max(d.Size[0], d.Size[1]) > 20 || d.Width < 0 || d.Width > 0.5 {
		return d, fmt.Errorf("at %v, size %v, width %v: want a place from -2 to 3 of the canvas, a size from 0.002 to 20 and a width up to 0.5 short sides", d.At, d.Size, d.Width)
	}
	if d.Fill != "" {
		raw, _ := json.Marshal(d.Fill)
		if err := paint(&d.Fill, raw); err != nil {
			return d, fmt.Errorf("fill: %w", err)
		}
	}
	return d, nil
}

// Picture is the file of a picture an adjustment puts on pieces, "" for none.
func (a Adjustment) Picture() string {
	switch {
	case a.Slot == "picture" && a.Property == "file":
		return a.Text()
	case a.Property == "part":
		if d, err := addedOf(a.Value); err == nil && d.Kind == "picture" {
			return d.File
		}
	}
	return ""
}

// Added are the parts added by hand on a placement, in the order they were.
func (b *Brief) Added(p spec.Placement) []Added {
	var out []Added
	for _, a := range b.Adjustments {
		if a.Property != "part" || !strings.HasPrefix(a.Slot, AddedSlot) || a.Reaches(p) == 0 || a.Reaches(p) < b.Narrow(p, a.Slot, "part") {
			continue
		}
		if d, err := addedOf(a.Value); err == nil {
			d.Slot = a.Slot
			out = append(out, d)
		}
	}
	return out
}

// Style is a style with what was changed by hand of it.
func (h *Hand) Style(s brand.Style) brand.Style {
	if h == nil {
		return s
	}
	if h.Family != "" {
		s.Family, s.Small = h.Family, nil
	}
	if h.Weight != 0 {
		s.Weight, s.Small = h.Weight, nil
	}
	if h.Case != "" {
		s.Upper = h.Case == "upper"
	}
	if h.Reach("tracking") != "" {
		s.Tracking = h.Tracking
	}
	if h.Leading != 0 {
		s.LineHeight = h.Leading
	}
	return s
}

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

// Reaches ranks how far an adjustment reaches, 0 for not to the placement; the narrowest
// wins.
func (a Adjustment) Reaches(p spec.Placement) int {
	kind, id, _ := strings.Cut(a.Reach, ":")
	switch {
	case kind == "set":
		return 1
	case kind == "channel" && id == p.Channel:
		return 2
	case kind == "class" && id == string(p.Class()):
		return 3
	case kind == "piece" && id == p.ID:
		return 4
	}
	return 0
}

// Narrow ranks how far what was written by hand for a property reaches, 0 for nothing.
func (b *Brief) Narrow(p spec.Placement, slot, property string) int {
	best := 0
	for _, a := range b.Adjustments {
		if a.Slot == slot && a.Property == property {
			best = max(best, a.Reaches(p))
		}
	}
	return best
}

// Adjusted is the value an adjustment gives a property of a slot on a placement, and how
// far the one that won reaches.
func (b *Brief) Adjusted(p spec.Placement, slot, property string) (value, reach string, ok bool) {
	best := 0
	for _, a := range b.Adjustments {
		if a.Slot == slot && a.Property == property {
			if r := a.Reaches(p); r >= best && r > 0 {
				best, value, reach, ok = r, a.Text(), a.Reach, true
			}
		}
	}
	return value, reach, ok
}

// Hands is what was changed by hand on a placement, by slot.
func (b *Brief) Hands(p spec.Placement) map[string]*Hand {
	type key struct{ slot, property string }
	won := map[key]Adjustment{}
	for _, a := range b.Adjustments {
		k := key{a.Slot, a.Property}
		if r := a.Reaches(p); r > 0 && r >= won[k].Reaches(p) {
			won[k] = a
		}
	}
	out := map[string]*Hand{}
	for k, a := range won {
		prop, ok := PropertyOf(k.property)
		if !ok || prop.set == nil {
			continue
		}
		h := out[k.slot]
		if h == nil {
			h = &Hand{reach: map[string]string{}}
			out[k.slot] = h
		}
		if prop.set(h, a.Value) == nil { // Parse lets no others through
			h.reach[k.property] = a.Reach
		}
	}
	return out
}

// Reach is how far the value of a property reaches, "" where it is the rule's.
func (h *Hand) Reach(property string) string {
	if h == nil {
		return ""
	}
	return h.reach[property]
}

// Colours are the colours that were chosen by hand, as their values say them.
func (h *Hand) Colours() []string {
	out := []string{h.Fill, h.Highlight}
	if h.Outline != nil {
		out = append(out, h.Outline.Fill)
	}
	if h.Shadow != nil {
		out = append(out, h.Shadow.Fill)
	}
	if h.Border != nil {
		out = append(out, h.Border.Fill)
	}
	if h.Duotone != nil {
		out = append(out, h.Duotone.Dark, h.Duotone.Light)
	}
	for _, r := range h.Runs {
		out = append(out, r.Fill)
	}
	return slices.DeleteFunc(out, func(s string) bool { return s == "" })
}

// Changed are the properties that were changed by hand, in their order.
func (h *Hand) Changed() []Property {
	var out []Property
	if h == nil {
		return nil
	}
	for _, p := range Properties {
		if h.Reach(p.Name) != "" {
			out = append(out, p)
		}
	}
	return out
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
	if *into == "" {
		return fmt.Errorf("it is empty: want a name")
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

// mostBreaks is how many lines may be ended by hand.
const mostBreaks = 20

func breaksOf(h *Hand, v json.RawMessage) error {
	const want = "a list of numbers of words after which a line ends"
	var list []Break
	if err := value(&list, v, want); err != nil {
		return err
	}
	if len(list) > mostBreaks {
		return fmt.Errorf("%d breaks: want at most %d", len(list), mostBreaks)
	}
	last := 0
	for _, b := range list {
		if b.After <= last || b.After > 2000 {
			return fmt.Errorf("%d after %d: want %s, growing", b.After, last, want)
		}
		last = b.After
	}
	h.Breaks = list
	return nil
}

// Run is a stretch of words with a style of its own: from one word to before another,
// counted from 0. With the words it is of it stays with them when others come or go.
type Run struct {
	From      int     `json:"from"`
	To        int     `json:"to"`
	Words     string  `json:"words,omitempty"`
	Bold      bool    `json:"bold,omitempty"`
	Italic    bool    `json:"italic,omitempty"`
	Underline bool    `json:"underline,omitempty"`
	Strike    bool    `json:"strike,omitempty"`
	Scale     float64 `json:"scale,omitempty"` // times; 0 for 1
	Fill      string  `json:"fill,omitempty"`
}

// mostRuns is how many stretches of a text have a style of their own.
const mostRuns = 40

func runsOf(h *Hand, v json.RawMessage) error {
	var list []Run
	if err := value(&list, v, "a list of runs with from, to and a style"); err != nil {
		return err
	}
	if len(list) > mostRuns {
		return fmt.Errorf("%d runs: want at most %d", len(list), mostRuns)
	}
	for _, r := range list {
		if r.From < 0 || r.To <= r.From || r.To > 2000 {
			return fmt.Errorf("from %d to %d: want words counted from 0, from before to", r.From, r.To)
		}
		if r.Scale != 0 && (r.Scale < 0.3 || r.Scale > 4) {
			return fmt.Errorf("scale %v: want 0.3 to 4 times", r.Scale)
		}
		if r.Fill != "" {
			raw, _ := json.Marshal(r.Fill)
			if err := paint(&r.Fill, raw); err != nil {
				return fmt.Errorf("fill: %w", err)
			}
		}
	}
	h.Runs = list
	return nil
}

// RunsOf tells of every rune of a text which run it is of, -1 for none; nil where no run
// finds its words.
func (h *Hand) RunsOf(text string) []int {
	runes := []rune(text)
	words, ends := wordsOf(runes)
	out := make([]int, len(runes))
	for i := range out {
		out[i] = -1
	}
	some := false
	for n, r := range h.Runs {
		from, to, ok := r.place(words)
		if !ok {
			continue
		}
		some = true
		for i := ends[from] - len([]rune(words[from])); i < ends[to-1]; i++ {
			out[i] = n
		}
	}
	if !some {
		return nil
	}
	return out
}

// LostRuns is how many runs have no words to be of in a text.
func (h *Hand) LostRuns(text string) (lost int) {
	if h == nil {
		return 0
	}
	words, _ := wordsOf([]rune(text))
	for _, r := range h.Runs {
		if _, _, ok := r.place(words); !ok {
			lost++
		}
	}
	return lost
}

// place is which words a run is of now: its own, the nearest where they come several times.
func (r Run) place(words []string) (from, to int, ok bool) {
	own := strings.Fields(r.Words)
	if len(own) == 0 {
		return r.From, min(r.To, len(words)), r.From < len(words)
	}
	best := -1
	for i := 0; i+len(own) <= len(words); i++ {
		if slices.EqualFunc(words[i:i+len(own)], own, strings.EqualFold) && (best < 0 || abs(i-r.From) < abs(best-r.From)) {
			best = i
		}
	}
	return best, best + len(own), best >= 0
}

// wordsOf are the words of a text, and where each ends.
func wordsOf(runes []rune) (words []string, ends []int) {
	space := func(r rune) bool { return r == ' ' || r == '\n' }
	for i := 0; i < len(runes); {
		from := i
		for i < len(runes) && !space(runes[i]) {
			i++
		}
		if i > from {
			words, ends = append(words, string(runes[from:i])), append(ends, i)
		}
		for i < len(runes) && space(runes[i]) {
			i++
		}
	}
	return words, ends
}

// Broken is a text with its lines ended where they were by hand, and how many of the
// breaks apply no more since their word is gone.
func (h *Hand) Broken(text string) (broken string, lost int) {
	if h == nil || len(h.Breaks) == 0 {
		return text, 0
	}
	runes := []rune(text)
	words, ends := wordsOf(runes)
	for _, b := range h.Breaks {
		at := b.place(words)
		if at <= 0 || at >= len(words) {
			lost++
			continue
		}
		runes[ends[at-1]] = '\n'
	}
	return string(runes), lost
}

// place is after how many words a break stands now: after its word, the one nearest to
// where it was; 0 where that is gone.
func (b Break) place(words []string) int {
	if b.Word == "" || b.After <= len(words) && strings.EqualFold(words[b.After-1], b.Word) {
		return b.After
	}
	best := 0
	for i, w := range words {
		if strings.EqualFold(w, b.Word) && (best == 0 || abs(i+1-b.After) < abs(best-b.After)) {
			best = i + 1
		}
	}
	return best
}

func abs(n int) int { return max(n, -n) }
