// Package brief is what a piece says and where it goes: the copy of each card,
// the pictures, the signature and the placements, read from a brief document
// (docs/formats.md).
package brief

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strings"
	"time"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/edit"
)

// ErrBrief is wrapped by every error of [Parse].
var ErrBrief = errors.New("brief.json")

// Lists are the lists of a brief document whose members have ids.
var Lists = edit.Lists{"/cards", "/cards/*/pictures", "/cards/*/facts", "/pictures", "/facts", "/adjustments", "/looks", "/palette", "/video/shots"}

// Purposes lists what a brief can be for.
var Purposes = []string{"announce", "offer", "event", "quote", "tips", "product", "testimonial", "hiring", "hours", "question", "behind the scenes", "thanks", "shopfront", "hello"}

// Signatures lists how a piece can be signed.
var Signatures = []string{"address", "logo", "both", "none"}

// Brief is a job: its cards, its signature and where it goes.
type Brief struct {
	FormatVersion int      `json:"formatVersion"`
	Name          string   `json:"name"`
	Purpose       string   `json:"purpose"`
	OtherPurpose  string   `json:"-"`        // what it said where that is none of [Purposes]
	Language      string   `json:"language"` // of the copy, as BCP 47 has it; "" is the kit's, else guessed
	Cards         []Card   `json:"cards"`
	Signature     string   `json:"signature"`
	Edge          string   `json:"edge,omitempty"` // on or off: a frame along the edges of its pieces; "" as the kit has it
	Logo          string   `json:"logo"`           // file of the logo to use, empty for the rule
	Placements    []string `json:"-"`
	Looks         []any    `json:"looks"` // positions, or looks as a report prints them
	// Sample is copy that came with an example, by field: while a card still says
	// it, it is a line left in.
	Sample map[string]string `json:"sample"`
	// Palette are colours for this brief only, beside the kit's.
	Palette     []Swatch     `json:"palette"`
	OnlyPalette bool         `json:"onlyPalette,omitempty"` // they are used instead of the kit's
	Shown       string       `json:"shown"`                 // which of the kept looks the Mat shows, by its id
	Adjustments []Adjustment `json:"adjustments"`
	Video       *Video       `json:"video,omitempty"`
}

// Card is one page of a piece. A nil string means the kit's default, an empty
// one means none.
type Card struct {
	ID            string    `json:"id,omitempty"`
	Headline      *string   `json:"headline"`
	ShortHeadline *string   `json:"shortHeadline"`
	ShortOf       *string   `json:"shortOf,omitempty"` // the headline the short one was written for
	Subheading    *string   `json:"subheading"`
	Body          *string   `json:"body"`
	CallToAction  *string   `json:"callToAction"`
	Website       *string   `json:"website"`
	BusinessName  *string   `json:"businessName"`
	Tagline       *string   `json:"tagline"`
	Lines         []string  `json:"lines"`
	Hours         []string  `json:"hours,omitempty"` // opening hours, a row each, see [Openings]
	Facts         []Fact    `json:"facts"`
	Quote         *Quote    `json:"quote"`
	Person        *Person   `json:"person"`
	When          *When     `json:"when"`
	Where         *string   `json:"where"`
	Offer         *Offer    `json:"offer"`
	Terms         *string   `json:"terms"` // small print
	Rating        *Rating   `json:"rating"`
	Emphasis      []string  `json:"emphasis"`
	Pictures      []Picture `json:"pictures"`
}

// Fact is a short statement with an icon.
type Fact struct {
	ID   string `json:"id,omitempty"`
	Icon string `json:"icon"`
	Text string `json:"text"`
}

// Quote is somebody's words.
type Quote struct {
	Text   string `json:"text"`
	Source string `json:"source"`
}

// Person is who speaks or appears.
type Person struct {
	Name    string `json:"name"`
	Role    string `json:"role"`
	Picture string `json:"picture"`
}

// When is a date (ISO 8601) and hours ("18:00").
type When struct {
	Date    string `json:"date"`
	Weekday string `json:"weekday"`
	From    string `json:"from"`
	To      string `json:"to"`
}

// Offer is a reduction and its terms.
type Offer struct {
	Percent  float64 `json:"percent"`
	Price    string  `json:"price"`
	OldPrice string  `json:"oldPrice"`
	Code     string  `json:"code"`
	Until    string  `json:"until"`
}

// mostVoices is more than there are people to ask.
const mostVoices = 1_000_000_000

// Rating is what people gave: stars of five, by how many of them.
type Rating struct {
	Stars  float64 `json:"stars"`  // 0-5, 0 for none
	Voices int     `json:"voices"` // 0 where it is not said
}

// Picture is a picture file with what matters in it, 0-1 from the top left: a point,
// or a part that is kept whole.
type Picture struct {
	ID       string      `json:"id,omitempty"`
	File     string      `json:"file"`
	Focus    *[2]float64 `json:"focus,omitempty"`
	FocusBox *[4]float64 `json:"focusBox,omitempty"` // x, y, w, h; before Focus
	Alt      string      `json:"alt,omitempty"`
	Clip     string      `json:"clip,omitempty"` // the film File is a frame of; it runs where the picture is shown in a video
	At       float64     `json:"at,omitempty"`   // s into Clip: which frame
}

// CardMembers are the members a card has in a document; written as a single card, a brief has them
// itself.
var CardMembers = members(reflect.TypeFor[Card]())

// members are the names of a structure's fields in JSON.
func members(t reflect.Type) (out []string) {
	for i := range t.NumField() {
		if name, _, _ := strings.Cut(t.Field(i).Tag.Get("json"), ","); name != "" && name != "-" {
			out = append(out, name)
		}
	}
	return out
}

// Files are all files a brief names: pictures of its cards and of who speaks, those
// changes by hand brought, and those of shots; one may stand in it more than once.
func (b *Brief) Files() []string {
	var out []string
	add := func(file string) {
		if file != "" {
			out = append(out, file)
		}
	}
	for _, c := range b.Cards {
		for _, p := range c.Pictures {
			add(p.File)
		}
		if c.Person != nil {
			add(c.Person.Picture)
		}
	}
	for _, adj := range b.Adjustments {
		add(adj.Picture())
	}
	if b.Video != nil {
		for _, s := range b.Video.Shots {
			add(s.Picture)
		}
	}
	return out
}

// Clips are the films a brief names, by the file of the frame that stands for each.
func (b *Brief) Clips() map[string]string {
	out := map[string]string{}
	for _, c := range b.Cards {
		for _, p := range c.Pictures {
			if p.Clip != "" {
				out[p.File] = p.Clip
			}
		}
	}
	return out
}

// Swatch is a colour of a brief.
type Swatch struct {
	ID   string `json:"id,omitempty"`
	Name string `json:"name"`
	Hex  string `json:"hex"`
}

// Adjustment is a change by hand: a property of a slot, within a reach.
type Adjustment struct {
	ID       string          `json:"id,omitempty"`
	Reach    string          `json:"reach"` // set, channel:<id>, class:<aspect>, piece:<placement>
	Slot     string          `json:"slot"`
	Property string          `json:"property"`
	Value    json.RawMessage `json:"value"`
}

// Text is the value where it is words or a name; another one as JSON.
func (a Adjustment) Text() string {
	var s string
	if json.Unmarshal(a.Value, &s) == nil {
		return s
	}
	return string(a.Value)
}

// Key is an id made of what an adjustment is about, so that there is one of each.
func (a Adjustment) Key() string {
	sum := sha256.Sum256([]byte(a.Reach + "\x00" + a.Slot + "\x00" + a.Property))
	return hex.EncodeToString(sum[:6])
}

// Parse reads a brief document; a single card's fields may stand at the top.
// Errors wrap [ErrBrief].
func Parse(doc *edit.Object) (*Brief, error) {
	if err := Limits.Check(doc); err != nil {
		return nil, fmt.Errorf("%w: %v", ErrBrief, err)
	}
	var b Brief
	if err := edit.Decode(doc, &b); err != nil {
		return nil, fmt.Errorf("%w: %v", ErrBrief, err)
	}
	if b.FormatVersion != 1 {
		return nil, fmt.Errorf("%w: formatVersion %d: this version reads 1", ErrBrief, b.FormatVersion)
	}
	if len(b.Cards) == 0 {
		var c Card
		if err := edit.Decode(doc, &c); err != nil {
			return nil, fmt.Errorf("%w: %v", ErrBrief, err)
		}
		b.Cards = []Card{c}
	}
	switch p := doc.Get("placements").(type) {
	case nil:
	case string:
		b.Placements = []string{p}
	case []any:
		for i, v := range p {
			s, ok := v.(string)
			if !ok {
				return nil, fmt.Errorf("%w: placements[%d]: want an id or a size like \"1200x628\"", ErrBrief, i)
			}
			b.Placements = append(b.Placements, s)
		}
	default:
		return nil, fmt.Errorf("%w: placements: want a list, or \"all-images\"", ErrBrief)
	}
	if b.Purpose == "" {
		b.Purpose = "announce"
	}
	if !slices.Contains(Purposes, b.Purpose) { // of a later version
		b.OtherPurpose, b.Purpose = b.Purpose, "announce"
	}
	if b.Signature == "" {
		b.Signature = "both"
	}
	if !slices.Contains(Signatures, b.Signature) {
		return nil, fmt.Errorf("%w: signature %q: want address, logo, both or none", ErrBrief, b.Signature)
	}
	if b.Edge != "" && b.Edge != "on" && b.Edge != "off" {
		return nil, fmt.Errorf("%w: edge %q: want on, off or nothing", ErrBrief, b.Edge)
	}
	for i, s := range b.Palette {
		if _, err := colour.Parse(s.Hex); err != nil {
			return nil, fmt.Errorf("%w: palette[%d]: %v", ErrBrief, i, err)
		}
	}
	for i, a := range b.Adjustments {
		if err := a.Check(); err != nil {
			return nil, fmt.Errorf("%w: adjustments[%d].%v", ErrBrief, i, err)
		}
	}
	for i, c := range b.Cards {
		if err := c.check(); err != nil {
			return nil, fmt.Errorf("%w: cards[%d]: %v", ErrBrief, i, err)
		}
	}
	if err := b.Video.check(); err != nil {
		return nil, fmt.Errorf("%w: video.%v", ErrBrief, err)
	}
	return &b, nil
}

// Kit is the kit as this brief uses it: with the brief's own colours as one more
// palette, or with them alone.
func (b *Brief) Kit(k *brand.Kit) *brand.Kit {
	if len(b.Palette) == 0 {
		return k
	}
	own := brand.Palette{ID: "brief", Name: "this brief"}
	for i, s := range b.Palette {
		c, err := colour.Parse(s.Hex)
		if err != nil {
			continue // Parse lets none through
		}
		name := s.Name
		if name == "" {
			name = colour.PlainName(c)
		}
		own.Colours = append(own.Colours, brand.Colour{Token: fmt.Sprintf("brief.c%d", i+1), Name: name, Value: c, Role: brand.Extra})
	}
	out := *k
	if !b.OnlyPalette {
		out.Palettes = append(slices.Clone(k.Palettes), own)
		return &out
	}
	out.Palettes = []brand.Palette{own}
	if out.BestContrast() < brand.SmallText { // words have to read: the kit's grounds and inks help
		rest := brand.Palette{ID: "kit", Name: k.Name}
		for _, c := range k.Colours() {
			if c.Role == brand.Ground || c.Role == brand.Ink {
				rest.Colours = append(rest.Colours, c)
			}
		}
		out.Palettes = append(out.Palettes, rest)
	}
	return &out
}

// leastBox is the least width and height of a focus box, 0-1 of the picture.
const leastBox = 0.02

func (c Card) check() error {
	for i, p := range c.Pictures {
		if f := p.Focus; f != nil && (f[0] < 0 || f[0] > 1 || f[1] < 0 || f[1] > 1) {
			return fmt.Errorf("pictures[%d].focus %v: want two numbers from 0 to 1", i, *f)
		}
		if p.At < 0 || p.At > MostClip {
			return fmt.Errorf("pictures[%d].at %v: want 0 to %v s", i, p.At, MostClip)
		}
		if b := p.FocusBox; b != nil && (b[0] < 0 || b[1] < 0 || b[2] < leastBox || b[3] < leastBox || b[0]+b[2] > 1+1e-6 || b[1]+b[3] > 1+1e-6) {
			return fmt.Errorf("pictures[%d].focusBox %v: want x, y, width and height from 0 to 1 inside the picture, at least %v wide and high", i, *b, leastBox)
		}
	}
	if c.When != nil && c.When.Date != "" {
		if _, err := time.Parse(time.DateOnly, c.When.Date); err != nil {
			return fmt.Errorf("when.date %q: want a date that exists, like 2027-05-01", c.When.Date)
		}
	}
	if r := c.Rating; r != nil {
		if r.Stars < 0 || r.Stars > 5 {
			return fmt.Errorf("rating.stars %v: want 0 to 5", r.Stars)
		}
		if r.Voices < 0 || r.Voices > mostVoices {
			return fmt.Errorf("rating.voices %d: want 0 to %d", r.Voices, mostVoices)
		}
	}
	if c.Offer != nil {
		if c.Offer.Percent < 0 || c.Offer.Percent > 100 {
			return fmt.Errorf("offer.percent %v: want 0 to 100", c.Offer.Percent)
		}
		if c.Offer.Until != "" {
			if _, err := time.Parse(time.DateOnly, c.Offer.Until); err != nil {
				return fmt.Errorf("offer.until %q: want a date that exists, like 2027-05-01", c.Offer.Until)
			}
		}
	}
	return nil
}
