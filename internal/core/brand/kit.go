// Package brand is the kit: who a business is, its logos, colours, type and
// words, read from a kit document (docs/formats.md). It knows nothing of
// placements or layouts; it answers what a layout asks of a brand: which
// colours there are, how a level is set, which logo fits a ground.
package brand

import (
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/motif"
	"aspenridge/internal/core/typeset"
	"strings"
	"sync"
)

// Role is what a colour is for.
type Role string

// The roles a kit colour can have.
const (
	Lead    Role = "lead"
	Support Role = "support"
	Accent  Role = "accent"
	Ground  Role = "ground"
	Ink     Role = "ink"
	Extra   Role = "extra"
)

// Roles lists them in the order of weight.
var Roles = []Role{Lead, Support, Accent, Ground, Ink, Extra}

// Colour is a kit colour.
type Colour struct {
	Token       string // "palette.token", unique in the kit
	Name        string
	Value       colour.RGB
	Role        Role
	NeverGround bool
	Proposed    string // the name that was proposed for it
	Guessed     bool   // made up for want of one, and not changed since
}

// Palette is a named, ordered list of colours.
type Palette struct {
	ID, Name string
	Colours  []Colour
}

// Level is a step of the type hierarchy.
type Level string

// The levels of a type set.
const (
	Headline   Level = "headline"
	Subheading Level = "subheading"
	Body       Level = "body"
	Caption    Level = "caption"
	Button     Level = "button"
)

// Levels lists them, largest first.
var Levels = []Level{Headline, Subheading, Body, Caption, Button}

// Style is how a level is set.
type Style struct {
	Family     string
	Weight     int
	Italic     bool
	SizePx     float64 // at a short side of 1080 px; only ratios to body count
	LineHeight float64 // times the size; 0 leaves it to the craft rules
	Tracking   float64 // em
	Upper      bool    // set in capitals
	Role       Role    // preferred colour role; empty leaves it to the colourway
	Small      *Style  // stand-in face for small sizes, nil for none
}

// DefaultFamily is the shipped family a kit without fonts is set in.
const DefaultFamily = "Libre Franklin"

// TypeSet is a named hierarchy.
type TypeSet struct {
	ID     string
	Name   string // as people call it; the ID when it has none
	Levels map[Level]Style
}

// Sets reports whether a family is that of one of its levels.
func (t TypeSet) Sets(family string) bool {
	for _, style := range t.Levels {
		if style.Family == family {
			return true
		}
	}
	return false
}

// Ratio is a level's size over the body's.
func (t TypeSet) Ratio(l Level) float64 {
	b := t.Levels[Body].SizePx
	if b <= 0 {
		return 1
	}
	return t.Levels[l].SizePx / b
}

// Logo is one file of the logo with what it is for.
type Logo struct {
	ID         string
	File       string
	Lockup     string   // horizontal, stacked, symbol, wordmark, with-tagline, badge
	Tone       string   // full-colour, for-light, for-dark, one-colour
	Lead       bool     // the one used when nothing speaks against it
	ClearSpace float64  // px at MinWidth's scale, as a share (0-1) of the logo's height; 0 = half
	MinWidth   float64  // px as seen, 0 for no limit
	Art        *Art     // nil until prepared
	OwnColours bool     // it is shown in its own colours alone, never in one
	Lost       []string // what of its file could not be taken, in words
}

// Art is a logo file made ready to draw: safe, upright, measured.
type Art struct {
	Hash   string         // of the original file
	SVG    string         // markup to nest inside an svg element, ids unique to Hash; empty for a bitmap
	Bitmap []byte         // PNG, empty for a vector logo
	View   [4]float64     // x, y, width, height of its ink in its own units
	Inks   []colour.Found // its colours, most used first
	Hosts  []int          // per ink: the ink it is a detail on, -1 for none
	Box    *colour.RGB    // the opaque ground it brings along, nil when transparent
	Cut    *Cut           `json:"-"` // the same in one colour, nil where it cannot be cut
	Motif  motif.Shape    `json:"-"` // what its outlines have in common
}

// Cut is a logo in one colour, its details cut out of it.
type Cut struct {
	SVG  string // as in [Art]; "currentColor" is its ink
	mu   sync.Mutex
	made map[colour.RGB]*Art
}

// Markup is the cut in an ink, as in [Art].
func (c *Cut) Markup(ink colour.RGB) string {
	return strings.ReplaceAll(c.SVG, "currentColor", ink.Hex())
}

// In is the art in one ink; nil where it cannot be cut.
func (a *Art) In(ink colour.RGB) *Art {
	if a == nil || a.Cut == nil {
		return nil
	}
	c := a.Cut
	c.mu.Lock()
	defer c.mu.Unlock()
	out, ok := c.made[ink]
	if !ok {
		out = &Art{
			Hash: a.Hash + ink.Hex(), SVG: c.Markup(ink), View: a.View,
			Inks: []colour.Found{{Colour: ink, Share: 1}}, Hosts: []int{-1},
		}
		if c.made == nil {
			c.made = map[colour.RGB]*Art{}
		}
		c.made[ink] = out
	}
	return out
}

// Symbol is the kit's sign without words, for drawing it in any one colour; nil for none.
func (k *Kit) Symbol() *Art {
	return k.sign(func(l *Logo) bool { return !l.OwnColours && l.Art.Cut != nil })
}

// Motif is what the outlines of the kit's sign have in common, the zero value where it has none.
func (k *Kit) Motif() motif.Shape {
	if a := k.sign(func(l *Logo) bool { return l.Art.Motif.Family() != motif.Unknown }); a != nil {
		return a.Motif
	}
	return motif.Shape{}
}

// sign is of the logos about as wide as high that will do one without words, one that is called a
// symbol before others; nil for none.
func (k *Kit) sign(do func(*Logo) bool) *Art {
	var found *Art
	for i := range k.Logos {
		l := &k.Logos[i]
		if a := l.Art.Aspect(); l.Art == nil || a < 0.6 || a > 1.6 || !do(l) {
			continue
		}
		if l.Lockup == "symbol" {
			return l.Art
		}
		if found == nil && l.Lockup != "stacked" && l.Lockup != "with-tagline" {
			found = l.Art
		}
	}
	return found
}

// Aspect is width over height of the logo's ink.
func (a *Art) Aspect() float64 {
	if a == nil || a.View[3] <= 0 || a.View[2] <= 0 {
		return 1
	}
	return a.View[2] / a.View[3]
}

// Font is a font file of the kit and the right to use it.
type Font struct {
	ID          string
	File        string
	Family      string // read from the file
	Facts       typeset.Facts
	ConfirmedBy string
	ConfirmedAt string
}

// PictureKind is what a picture of the brand is for.
type PictureKind string

// The kinds of pictures a kit holds.
const (
	PhotoPicture PictureKind = "picture"
	Portrait     PictureKind = "portrait"
	Pattern      PictureKind = "pattern"
	Icon         PictureKind = "icon"
	Clip         PictureKind = "clip"
)

// PictureKinds lists them.
var PictureKinds = []PictureKind{PhotoPicture, Portrait, Pattern, Icon, Clip}

// Picture is a picture (or clip) of the brand, apart from everyday files.
type Picture struct {
	ID     string
	File   string
	Alt    string
	Folder string // as people call it, empty for none
	Kind   PictureKind
	Focus  *[2]float64 // what matters most in it, 0-1 from the top left; nil for a guess
}

// Voice is how the brand speaks.
type Voice struct {
	Sounds    string   `json:"sounds"`
	Reader    string   `json:"reader"`
	Says      []string `json:"says"`
	NeverSays []string `json:"neverSays"`
	Sentences string   `json:"sentences"`
	Emoji     bool     `json:"emoji"`
	Text      string   `json:"text"`
}

// Kit is a brand kit as the pipeline uses it.
type Kit struct {
	Name           string
	Tagline        string
	Website        string
	Handles        []string
	Phone, Place   string
	CallsToAction  []string
	Hashtags       []string
	Values         []string
	Logos          []Logo
	Palettes       []Palette
	TypeSets       []TypeSet
	Fonts          []Font
	Pictures       []Picture
	KeptColourways []KeptColourway
	Motion         Motion
	Voice          Voice
	Language       string // of the copy, as BCP 47 has it; "" is guessed
	Rails          Rails
	Manner         Manner // as it is said; [Kit.MannerWith] fills it
	Warnings       []string
}

// Colours lists the colours of every palette, the first palette first, doubles
// (CIEDE2000 below 1) left out.
func (k *Kit) Colours() []Colour {
	var out []Colour
	for _, p := range k.Palettes {
	next:
		for _, c := range p.Colours {
			for _, have := range out {
				if nearBytes(have.Value, c.Value) && colour.DeltaE(have.Value, c.Value) < 1 {
					continue next
				}
			}
			out = append(out, c)
		}
	}
	return out
}

// nearBytes reports whether two colours could be the same to the eye: a cheap question before
// a dear one, for this list is asked for wherever something is drawn.
func nearBytes(a, b colour.RGB) bool {
	apart := func(x, y uint8) int { return max(int(x), int(y)) - min(int(x), int(y)) }
	return apart(a.R, b.R)+apart(a.G, b.G)+apart(a.B, b.B) < 64
}

// Colour finds a colour by its token.
func (k *Kit) Colour(token string) (Colour, bool) {
	for _, p := range k.Palettes {
		for _, c := range p.Colours {
			if c.Token == token {
				return c, true
			}
		}
	}
	return Colour{}, false
}

// TypeSet finds a set by id; the first when id is empty or gone.
func (k *Kit) TypeSet(id string) TypeSet {
	for _, t := range k.TypeSets {
		if t.ID == id {
			return t
		}
	}
	return k.TypeSets[0]
}

// DefaultTypeSet is what a kit without type is set in.
func DefaultTypeSet() TypeSet {
	head, text := DefaultFamily, DefaultFamily
	return TypeSet{ID: "main", Name: "main", Levels: map[Level]Style{
		Headline:   {Family: head, Weight: 900, SizePx: 98, Tracking: -0.012},
		Subheading: {Family: text, Weight: 700, SizePx: 46},
		Body:       {Family: text, Weight: 500, SizePx: 38},
		Caption:    {Family: text, Weight: 500, SizePx: 30},
		Button:     {Family: text, Weight: 700, SizePx: 36},
	}}
}
