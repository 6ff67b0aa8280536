package spec

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"reflect"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"aspenridge/internal/core/edit"
)

// Directory is every channel pieces can go to: the catalogue and a workspace's
// own.
type Directory []Channel

// Own is the channel custom sizes belong to.
var Own = Channel{ID: "own", Name: "Own sizes"}

// label writes on each placement which channel it is in.
func label(channels []Channel) {
	for i := range channels {
		for j := range channels[i].Placements {
			p := &channels[i].Placements[j]
			p.Channel, p.ChannelName = channels[i].ID, channels[i].Name
		}
	}
}

// Find looks a placement up by its id.
func (d Directory) Find(id string) (Placement, bool) {
	for _, c := range d {
		for _, p := range c.Placements {
			if p.ID == id {
				return p, true
			}
		}
	}
	return Placement{}, false
}

// The sides a custom size may have, in px.
const (
	MinSide = 40
	MaxSide = 8192
)

// Parse finds a placement by its id, or makes one of a custom size written
// "1200x628".
func (d Directory) Parse(s string) (Placement, error) {
	if base, letter, ok := strings.Cut(s, variantMark); ok {
		if !slices.Contains(Variants, letter) {
			return Placement{}, fmt.Errorf("placement %q: want one of the letters %s after the %s", s, strings.Join(Variants, ", "), variantMark)
		}
		p, err := d.Parse(base)
		return p.AsVariant(letter), err
	}
	if base, n, ok := strings.Cut(s, "+"); ok {
		card, err := strconv.Atoi(n)
		if err != nil || card < 2 || card > 20 {
			return Placement{}, fmt.Errorf("placement %q: want the number of a card, 2 to 20, after the +", s)
		}
		p, err := d.Parse(base)
		return p.OfCard(card - 1), err
	}
	if p, ok := d.Find(s); ok {
		return p, nil
	}
	var w, h int
	if n, err := fmt.Sscanf(s, "%dx%d", &w, &h); err != nil || n != 2 || fmt.Sprintf("%dx%d", w, h) != s {
		return Placement{}, fmt.Errorf("placement %q: want an id of the catalogue (feed-square, story ...) or a size like 1200x628", s)
	}
	if w < MinSide || h < MinSide || w > MaxSide || h > MaxSide {
		return Placement{}, fmt.Errorf("placement %q: each side must be %d to %d px", s, MinSide, MaxSide)
	}
	return Placement{
		ID: s, Name: fmt.Sprintf("%d × %d", w, h), Width: w, Height: h, Kind: "image", Shape: "rectangle",
		Seen: []float64{math.Min(float64(w), 600)}, Formats: []string{"png", "jpeg"}, Channel: Own.ID, ChannelName: Own.Name,
	}, nil
}

// variantMark stands before the letter of a variant in the id of a placement.
const variantMark = "~"

// Variants are the letters of variants of a piece beside it; the piece itself is A.
var Variants = []string{"b", "c", "d", "e", "f"}

// AsVariant is the same place for another try at its piece, to be compared with it.
func (p Placement) AsVariant(letter string) Placement {
	p.Variant = letter
	p.ID += variantMark + letter
	p.Name += ", " + strings.ToUpper(letter)
	return p
}

// First is the id of the piece a variant stands beside, its own for one that is none.
func (p Placement) First() string {
	id, _, _ := strings.Cut(p.ID, variantMark)
	return id
}

// OfCard is the placement for one page of a several-page piece, from 0.
func (p Placement) OfCard(card int) Placement {
	if card > 0 {
		p.ID = fmt.Sprintf("%s+%d", p.ID, card+1)
		p.Name = fmt.Sprintf("%s, card %d", p.Name, card+1)
		p.Card = card
	}
	return p
}

// Find looks a placement of the catalogue up by id.
func Find(id string) (Placement, bool) { return Directory(Catalogue()).Find(id) }

// EndOf looks up what closes a video of the catalogue, by the id of the video.
func EndOf(video string) (Placement, bool) {
	for _, c := range Catalogue() {
		for _, p := range c.Placements {
			if p.End == video && video != "" {
				return p, true
			}
		}
	}
	return Placement{}, false
}

// Parse is [Directory.Parse] with the catalogue alone.
func Parse(s string) (Placement, error) { return Directory(Catalogue()).Parse(s) }

var ratioText = regexp.MustCompile(`^([0-9]+(?:\.[0-9]+)?):([0-9]+(?:\.[0-9]+)?)$`)

// Search lists the placements every word of a query fits: words begin one of
// the placement's or channel's name, numbers are a side in px, "3:2" is a ratio
// (within 3%). An empty query finds all.
func (d Directory) Search(query string) Directory {
	words := strings.Fields(strings.ToLower(strings.NewReplacer("×", " ", ",", " ").Replace(query)))
	var out Directory
	for _, c := range d {
		found := c
		found.Placements = nil
		for _, p := range c.Placements {
			if !slices.ContainsFunc(words, func(w string) bool { return !p.fits(w) }) {
				found.Placements = append(found.Placements, p)
			}
		}
		if len(found.Placements) > 0 {
			out = append(out, found)
		}
	}
	return out
}

func (p Placement) fits(word string) bool {
	if m := ratioText.FindStringSubmatch(word); m != nil {
		a, _ := strconv.ParseFloat(m[1], 64)
		b, _ := strconv.ParseFloat(m[2], 64)
		return b > 0 && a > 0 && math.Abs(float64(p.Width)/float64(p.Height)/(a/b)-1) < 0.03
	}
	if w, h, ok := strings.Cut(word, "x"); ok {
		a, err1 := strconv.Atoi(w)
		b, err2 := strconv.Atoi(h)
		if err1 == nil && err2 == nil {
			return a == p.Width && b == p.Height
		}
	}
	if n, err := strconv.Atoi(word); err == nil {
		return n == p.Width || n == p.Height
	}
	text := strings.ToLower(p.ID + " " + p.Name + " " + p.ChannelName + " " + p.Kind + " " + string(p.Class()) + " " + p.Shape)
	for _, t := range strings.FieldsFunc(text, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }) {
		if strings.HasPrefix(t, word) {
			return true
		}
	}
	return false
}

var ownID = regexp.MustCompile(`^[a-z0-9][a-z0-9-]{0,59}$`)

// Lists are the lists of a document of channels whose members have ids.
var Lists = edit.Lists{"/channels", "/channels/*/placements"}

// ParseChannels reads channels of one's own: {"channels": [...]}. Errors name the
// channel, the place and the field as people see them, and what is accepted; ids
// are unique, also among those of the catalogue.
func ParseChannels(data []byte) ([]Channel, error) {
	var doc struct {
		Channels []json.RawMessage `json:"channels"`
	}
	if err := json.Unmarshal(data, &doc); err != nil {
		return nil, fmt.Errorf("channels: %s", inWords(err))
	}
	if len(doc.Channels) > 100 {
		return nil, fmt.Errorf("there are %d channels, at most 100 are taken", len(doc.Channels))
	}
	channels, places := map[string]bool{Own.ID: true}, map[string]bool{}
	for _, c := range Catalogue() {
		channels[c.ID] = true
		for _, p := range c.Placements {
			places[p.ID] = true
		}
	}
	out := make([]Channel, len(doc.Channels))
	for i, data := range doc.Channels {
		c, err := parseChannel(data, i)
		switch {
		case err != nil:
			return nil, err
		case channels[c.ID]:
			return nil, fmt.Errorf("%s: its id %q is there twice", c.Name, c.ID)
		}
		channels[c.ID] = true
		for j := range c.Placements {
			p := &c.Placements[j]
			if places[p.ID] {
				return nil, fmt.Errorf("%s: its id %q is there twice", placeInWords(c.Name, j, p.Name), p.ID)
			}
			places[p.ID] = true
			if err := p.complete(); err != nil {
				return nil, fmt.Errorf("%s: %w", placeInWords(c.Name, j, p.Name), err)
			}
		}
		out[i] = c
	}
	label(out)
	return out, nil
}

// parseChannel reads channel i of a document.
func parseChannel(data []byte, i int) (Channel, error) {
	var c struct {
		Channel
		Placements []json.RawMessage `json:"placements"`
	}
	at := ordinal(i) + " channel"
	if err := json.Unmarshal(data, &c); err != nil {
		return Channel{}, fmt.Errorf("%s: %s", at, inWords(err))
	}
	if c.Name = strings.TrimSpace(c.Name); c.Name == "" || len(c.Name) > 80 {
		return Channel{}, fmt.Errorf("%s: its name is missing or too long; 1 to 80 characters are taken", at)
	}
	if !ownID.MatchString(c.ID) {
		return Channel{}, fmt.Errorf("%s: its id %q has other than small letters, digits and dashes", c.Name, c.ID)
	}
	if len(c.Placements) > 100 {
		return Channel{}, fmt.Errorf("%s has %d places, at most 100 are taken", c.Name, len(c.Placements))
	}
	out := c.Channel
	out.Placements = make([]Placement, len(c.Placements))
	for j, data := range c.Placements {
		p := &out.Placements[j]
		if err := json.Unmarshal(data, p); err != nil {
			return out, fmt.Errorf("%s: %s", placeInWords(c.Name, j, p.Name), inWords(err))
		}
		if tree, err := edit.Parse(data); err == nil {
			if err := edit.Fits(tree, p); err != nil {
				return out, fmt.Errorf("%s: %w; insets are top, right, bottom, left, and boxes x, y, width, height", placeInWords(c.Name, j, p.Name), err)
			}
		}
		if !ownID.MatchString(p.ID) {
			return out, fmt.Errorf("%s: its id %q has other than small letters, digits and dashes", placeInWords(c.Name, j, p.Name), p.ID)
		}
	}
	return out, nil
}

// placeInWords says which place of a channel is meant: "Boathouse, second place
// (Newsletter head)".
func placeInWords(channel string, n int, name string) string {
	s := channel + ", " + ordinal(n) + " place"
	if name = strings.TrimSpace(name); name != "" {
		s += " (" + name + ")"
	}
	return s
}

// ordinal says which one of a list is meant, from 0.
func ordinal(n int) string {
	if words := []string{"first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth", "ninth", "tenth"}; n < len(words) {
		return words[n]
	}
	return fmt.Sprintf("%dth", n+1)
}

// fieldNames are the fields of a place as the screen calls them.
var fieldNames = map[string]string{
	"name": "name", "width": "width", "height": "height", "safe": "safe insets", "keepOut": "covered", "keepIn": "middle that is always seen",
	"seen": "seen", "formats": "formats", "maxBytes": "at most, kB", "maxSeconds": "at most, s", "needs": "needs", "shape": "shape", "kind": "kind", "placements": "places", "cards": "cards",
}

// inWords says what JSON has in place of what is wanted, by the field's name.
func inWords(err error) string {
	var wrong *json.UnmarshalTypeError
	if !errors.As(err, &wrong) {
		return "this is no JSON: " + err.Error()
	}
	field := wrong.Field[strings.LastIndexByte(wrong.Field, '.')+1:]
	if name, ok := fieldNames[field]; ok {
		field = name
	}
	want := "a list"
	switch wrong.Type.Kind() {
	case reflect.String:
		want = "text"
	case reflect.Int, reflect.Float64:
		want = "a number"
	case reflect.Struct, reflect.Map:
		want = "an object"
	}
	if field == "" {
		return fmt.Sprintf("it is a %s, want %s", wrong.Value, want)
	}
	return fmt.Sprintf("%s is a %s, want %s", field, wrong.Value, want)
}

// complete fills in what a placement may leave out and checks the rest.
func (p *Placement) complete() error {
	for _, side := range []struct {
		name string
		px   int
	}{{"width", p.Width}, {"height", p.Height}} {
		if side.px == 0 {
			return fmt.Errorf("%s is missing; want %d to %d px", side.name, MinSide, MaxSide)
		}
		if side.px < MinSide || side.px > MaxSide {
			return fmt.Errorf("%s is %d px; want %d to %d px", side.name, side.px, MinSide, MaxSide)
		}
	}
	if p.Name = strings.TrimSpace(p.Name); p.Name == "" {
		p.Name = fmt.Sprintf("%d × %d", p.Width, p.Height)
	}
	p.Kind = or(p.Kind, "image")
	if p.Kind != "image" && p.Kind != "video" {
		return fmt.Errorf("kind %q: want image or video", p.Kind)
	}
	p.Shape = or(p.Shape, "rectangle")
	if p.Shape != "rectangle" && p.Shape != "circle" {
		return fmt.Errorf("shape %q: want rectangle or circle", p.Shape)
	}
	for _, v := range p.Safe {
		if v < 0 {
			return fmt.Errorf("safe insets %s: want 0 px or more", list(p.Safe[:]))
		}
	}
	if b := p.SafeBox(); b.W < MinSide/2 || b.H < MinSide/2 {
		return fmt.Errorf("safe insets %s leave %.0f × %.0f px; at least %d are needed", list(p.Safe[:]), b.W, b.H, MinSide/2)
	}
	if err := p.covered(); err != nil {
		return err
	}
	if len(p.Seen) == 0 {
		p.Seen = []float64{math.Min(float64(p.Width), 600)}
	}
	for _, v := range p.Seen {
		if v < 16 || v > MaxSide {
			return fmt.Errorf("seen %s: widths are 16 to %d px", list(p.Seen), MaxSide)
		}
	}
	slices.SortFunc(p.Seen, func(a, b float64) int { return int(b - a) })
	return p.files()
}

// covered checks what a channel puts over a piece and what of it is always seen.
func (p *Placement) covered() error {
	inside := func(r [4]float64) bool {
		return r[2] > 0 && r[3] > 0 && p.Canvas().Contains(Rect{r[0], r[1], r[2], r[3]}, 0)
	}
	free := p.SafeBox()
	for i, k := range p.KeepOut {
		if !inside(k) {
			return fmt.Errorf("covered, %s box, %s: want x, y, width, height inside the piece", ordinal(i), list(k[:]))
		}
		if o := free.Intersect(Rect{k[0], k[1], k[2], k[3]}); o.W*o.H > 0.6*free.W*free.H {
			return fmt.Errorf("covered, %s box, %s: it leaves too little to put anything in", ordinal(i), list(k[:]))
		}
	}
	if p.KeepIn != nil && !inside(*p.KeepIn) {
		return fmt.Errorf("the middle that is always seen, %s: want x, y, width, height inside the piece", list(p.KeepIn[:]))
	}
	return nil
}

// files completes and checks what is sent there and what it has to have.
func (p *Placement) files() error {
	if len(p.Formats) == 0 {
		p.Formats = []string{"png", "jpeg"}
	}
	for _, f := range p.Formats {
		if _, ok := FormatOf(f); !ok && f != "mp4" {
			return fmt.Errorf("formats: %q is none of %s", f, strings.Join(FormatNames(nil), ", "))
		}
	}
	if p.Kind == "image" && !slices.ContainsFunc(p.Formats, func(f string) bool { return f != "mp4" }) {
		return fmt.Errorf("formats: a place for pictures takes at least one of %s", strings.Join(FormatNames(nil), ", "))
	}
	if p.MaxBytes < 0 || p.MaxBytes > 0 && p.MaxBytes < 1000 {
		return fmt.Errorf("at most, kB: %g is too little; want 1 or more, or nothing for no limit", float64(p.MaxBytes)/1000)
	}
	if p.MaxSeconds != 0 && (p.MaxSeconds < 1 || p.MaxSeconds > 3600) {
		return fmt.Errorf("at most, s: %g; want 1 to 3600, or nothing for no limit", p.MaxSeconds)
	}
	if p.End != "" {
		if v, ok := Find(p.End); !ok || v.Kind != "video" || v.Width != p.Width || v.Height != p.Height {
			return fmt.Errorf("end: %q is no video of the catalogue in %d × %d px", p.End, p.Width, p.Height)
		}
	}
	for _, n := range p.Needs {
		if n != "action" && n != "address-or-action" {
			return fmt.Errorf("needs: %q is neither action nor address-or-action", n)
		}
	}
	return nil
}

// list writes numbers as people type them.
func list(v []float64) string {
	out := make([]string, len(v))
	for i, n := range v {
		out[i] = strconv.FormatFloat(n, 'f', -1, 64)
	}
	return strings.Join(out, " ")
}

func or(s, def string) string {
	if s == "" {
		return def
	}
	return s
}
