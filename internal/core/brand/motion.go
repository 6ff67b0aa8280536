package brand

import (
	"fmt"
	"path"
	"slices"
	"strings"
)

// KeptColourway is a colourway that worked, under a name: kit colours by the
// seat they take.
type KeptColourway struct {
	ID    string            `json:"id,omitempty"`
	Name  string            `json:"name"`
	Seats map[string]string `json:"seats"` // seat -> "color.<palette>.<token>"
	// Layout is the id of a layout it was chosen in; looks propose the two together
	// first. "" for any.
	Layout string `json:"layout,omitempty"`
}

// Motion is how the brand moves: what a video opens and closes with, its corner
// mark and its captions. The zero value is the rule for all of it.
type Motion struct {
	Opening  Bookend  `json:"opening"`
	Closing  Bookend  `json:"closing"`
	Mark     Mark     `json:"mark"`
	Captions Captions `json:"captions"`
	Music    string   `json:"music"`         // a mood: calm, bright, driving; empty for none
	Song     Song     `json:"song,omitzero"` // music of one's own, instead of a mood
	Voice    string   `json:"voice"`         // who speaks: low, middle, high; empty for nobody
	Speed    float64  `json:"speed"`         // of the voice: times the usual, 0.7 to 1.5; 0 for 1
	Says     []Says   `json:"says"`          // words that are spoken otherwise than written
}

// Song is a file of music.
type Song struct {
	File string `json:"file"`
}

// Name is what the file is called, without what it is: "river" of "<hash>/river.flac"; "" for none.
func (s Song) Name() string {
	base := path.Base("/" + s.File)
	return strings.TrimSuffix(strings.TrimPrefix(base, "/"), path.Ext(base))
}

// Says is how a word is spoken: written as it sounds.
type Says struct {
	Word string `json:"word"`
	As   string `json:"as"`
}

// How fast a voice may speak, times the usual.
const (
	LeastSpeed = 0.7
	MostSpeed  = 1.5
)

// Bookend is what a video opens or closes with.
type Bookend struct {
	From     string  `json:"from"`     // one of [BookendKinds]; empty for the usual
	Clip     string  `json:"clip"`     // a file of the kit's clips, when From is clip
	Picture  string  `json:"picture"`  // a file of the kit's pictures, when From is picture
	Duration float64 `json:"duration"` // s, 0 for 2
	ByRule   bool    `json:"-"`        // the kit does not say what: From is the usual
}

// Mark is the corner mark: the logo over a running video.
type Mark struct {
	Place string     `json:"place"` // top-left, top-right (or empty), bottom-left, bottom-right, free, none
	At    [2]float64 `json:"at"`    // its middle as a share (0-1) of width and height, when Place is free
	Size  float64    `json:"size"`  // width as a share (0-1) of the short side, 0 for 0.14
}

// Captions is the style of spoken words on screen.
type Captions struct {
	Level   Level   `json:"level"`   // subheading when empty
	Colour  string  `json:"colour"`  // colour token, empty for the best ink
	Ground  string  `json:"ground"`  // colour token, empty for the darkest colour
	Opacity float64 `json:"opacity"` // 0-1 of the ground, 0 for 0.85
	Spoken  string  `json:"spoken"`  // colour token of the word being said, empty for the accent
	Place   string  `json:"place"`   // "foot" (or empty) or "head" of the frame
	Lines   int     `json:"lines"`   // at most, 1 or 2; 0 for 2
}

// The accepted values of motion.
var (
	BookendKinds  = []string{"logo", "tagline", "address", "callToAction", "picture", "clip", "none"}
	MarkPlaces    = []string{"top-left", "top-right", "bottom-left", "bottom-right", "free", "none"}
	CaptionPlaces = []string{"foot", "head"}
	Moods         = []string{"", "calm", "bright", "driving"}
	Speakers      = []string{"", "low", "middle", "high"}
)

// checked fills defaults in and refuses what is out of range.
func (m Motion) checked() (Motion, error) {
	bad := func(what string, v any, want string) error {
		return fmt.Errorf("%w: motion.%s %v: want %s", ErrKit, what, v, want)
	}
	for name, b := range map[string]*Bookend{"opening": &m.Opening, "closing": &m.Closing} {
		if b.ByRule = b.From == ""; b.ByRule {
			b.From = map[string]string{"opening": "logo", "closing": "address"}[name]
		}
		if b.Duration == 0 {
			b.Duration = 2
		}
		if !slices.Contains(BookendKinds, b.From) {
			return m, bad(name+".from", b.From, strings.Join(BookendKinds, ", "))
		}
		if b.Duration < 0.5 || b.Duration > 10 {
			return m, bad(name+".duration", b.Duration, "0.5 to 10 s")
		}
	}
	if m.Mark.Place == "" {
		m.Mark.Place = "top-right"
	}
	if m.Mark.Size == 0 {
		m.Mark.Size = 0.14
	}
	if m.Captions.Level == "" {
		m.Captions.Level = Subheading
	}
	if m.Captions.Opacity == 0 {
		m.Captions.Opacity = 0.85
	}
	switch c := m.Captions; {
	case !slices.Contains(MarkPlaces, m.Mark.Place):
		return m, bad("mark.place", m.Mark.Place, strings.Join(MarkPlaces, ", "))
	case m.Mark.Size < 0.04 || m.Mark.Size > 0.5:
		return m, bad("mark.size", m.Mark.Size, "0.04 to 0.5")
	case m.Mark.At[0] < 0 || m.Mark.At[0] > 1 || m.Mark.At[1] < 0 || m.Mark.At[1] > 1:
		return m, bad("mark.at", m.Mark.At, "shares from 0 to 1")
	case !slices.Contains(Levels, c.Level):
		return m, bad("captions.level", c.Level, "a level of the type set")
	case c.Opacity < 0 || c.Opacity > 1:
		return m, bad("captions.opacity", c.Opacity, "0 to 1")
	case c.Place != "" && !slices.Contains(CaptionPlaces, c.Place):
		return m, bad("captions.place", c.Place, strings.Join(CaptionPlaces, ", "))
	case c.Lines < 0 || c.Lines > 2:
		return m, bad("captions.lines", c.Lines, "1 or 2")
	case !slices.Contains(Moods, m.Music):
		return m, bad("music", m.Music, "calm, bright, driving or nothing")
	case !slices.Contains(Speakers, m.Voice):
		return m, bad("voice", m.Voice, "low, middle, high or nothing")
	case m.Speed != 0 && (m.Speed < LeastSpeed || m.Speed > MostSpeed):
		return m, bad("speed", m.Speed, "0.7 to 1.5")
	}
	for i, s := range m.Says {
		if s.Word == "" || strings.ContainsAny(s.Word, " \t\n") {
			return m, bad(fmt.Sprintf("says[%d].word", i), s.Word, "one word")
		}
	}
	return m, nil
}
