package brief

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
)

// Video is how a brief runs as moving pictures. Without shots a running order is proposed.
type Video struct {
	Shots     []Shot `json:"shots"`
	Music     string `json:"music,omitempty"`     // a piece of the shelf by its id, "none", or empty for the mood of the kit
	NoOpening bool   `json:"noOpening,omitempty"` // it does not open as the kit's videos do
	NoClosing bool   `json:"noClosing,omitempty"`
	NoMark    bool   `json:"noMark,omitempty"`   // without the kit's corner mark
	Calm      bool   `json:"calm,omitempty"`     // nothing moves: parts and shots fade in, pictures stand (for people whom motion harms)
	NoBeat    bool   `json:"noBeat,omitempty"`   // shots do not wait for the bars and beats of the music
	OnBeat    bool   `json:"onBeat,omitempty"`   // shots of a length of their own wait as well
	CountUp   bool   `json:"countUp,omitempty"`  // numbers count up from nothing as they come
	Voice     string `json:"voice,omitempty"`    // who speaks: low, middle, high, "none", or empty for the kit's
	Song      string `json:"song,omitempty"`     // file: music of one's own, instead of a piece of the shelf
	Captions  string `json:"captions,omitempty"` // one of [CaptionWays]
	Cues      []Cue  `json:"cues,omitempty"`     // captions of one's own, instead of those of what is said
}

// Cue is a caption of one's own.
type Cue struct {
	From float64 `json:"from"` // s of the video
	To   float64 `json:"to"`   // s
	Text string  `json:"text"`
}

// CaptionWays are how captions are shown: where what is said does not stand on the screen
// anyway (and as files), always, only as files, not at all.
var CaptionWays = []string{"", "all", "beside", "none"}

// Voices are who may speak.
var Voices = []string{"", "low", "middle", "high", "none"}

// MostCueSeconds is when a caption may end at the latest, s.
const MostCueSeconds = 3600.0

// Shot is one stretch of a video.
type Shot struct {
	ID        string  `json:"id,omitempty"`
	Role      string  `json:"role"` // one of [Roles]
	Headline  string  `json:"headline,omitempty"`
	Body      string  `json:"body,omitempty"`
	Picture   string  `json:"picture,omitempty"`   // file
	Icon      string  `json:"icon,omitempty"`      // beside its words, by name
	Seconds   float64 `json:"seconds,omitempty"`   // 0 for as long as its words take to read, and to say
	Say       string  `json:"say,omitempty"`       // what is said; empty for its words
	Silent    bool    `json:"silent,omitempty"`    // nobody speaks
	From      float64 `json:"from,omitempty"`      // s into the clip its picture is of: where it begins
	Mute      bool    `json:"mute,omitempty"`      // the clip is not heard
	Recording string  `json:"recording,omitempty"` // file: somebody who says it, instead of a voice
	Begins    float64 `json:"begins,omitempty"`    // s into the recording at which it is heard
	Till      float64 `json:"till,omitempty"`      // s into the recording at which it ends; 0 for its end
	Whole     bool    `json:"whole,omitempty"`     // its picture is shown whole, on a ground of the kit
	Layout    string  `json:"layout,omitempty"`    // id of the layout its words and picture are set in; empty for the look's
	Card      string  `json:"card,omitempty"`      // a card, as its pieces show it, by its id or its number from 1; words and picture are then the card's
}

// CardAt is which card of the brief a shot shows as its pieces do; false for none.
func (b *Brief) CardAt(named string) (int, bool) {
	if named == "" {
		return 0, false
	}
	if i := slices.IndexFunc(b.Cards, func(c Card) bool { return c.ID == named }); i >= 0 {
		return i, true
	}
	n, err := strconv.Atoi(named)
	return n - 1, err == nil && n >= 1 && n <= len(b.Cards)
}

// Roles are what shots are for, in the order they run: what stops people, things to know,
// who says so, what it costs, what to do.
var Roles = []string{"hook", "point", "proof", "offer", "call"}

// How long a shot may be said to run, s.
const (
	LeastSeconds = 0.5
	MostSeconds  = 60.0
)

// Sounds are the files of sound a video names: of each shot the recording, and its song.
func (v *Video) Sounds() []string {
	if v == nil {
		return nil
	}
	var out []string
	for _, s := range v.Shots {
		if s.Recording != "" {
			out = append(out, s.Recording)
		}
	}
	if v.Song != "" {
		out = append(out, v.Song)
	}
	return out
}

// MostClip is how long a clip may be, s.
const MostClip = 900.0

func (v *Video) check() error {
	if v == nil {
		return nil
	}
	if !slices.Contains(Voices, v.Voice) {
		return fmt.Errorf("voice %.60q: want one of %s", v.Voice, strings.Join(Voices[1:], ", "))
	}
	if !slices.Contains(CaptionWays, v.Captions) {
		return fmt.Errorf("captions %.60q: want one of %s", v.Captions, strings.Join(CaptionWays[1:], ", "))
	}
	for i, c := range v.Cues {
		if c.From < 0 || c.To <= c.From || c.To > MostCueSeconds {
			return fmt.Errorf("cues[%d] from %v to %v: want times in s, the end after the beginning, at most %v", i, c.From, c.To, MostCueSeconds)
		}
		if strings.TrimSpace(c.Text) == "" {
			return fmt.Errorf("cues[%d]: it says nothing", i)
		}
	}
	for i, s := range v.Shots {
		if !slices.Contains(Roles, s.Role) {
			return fmt.Errorf("shots[%d].role %.60q: want one of %s", i, s.Role, strings.Join(Roles, ", "))
		}
		if s.From < 0 || s.From > MostClip {
			return fmt.Errorf("shots[%d].from %v: want 0 to %v s", i, s.From, MostClip)
		}
		if s.Begins < 0 || s.Begins > MostClip || s.Till != 0 && (s.Till <= s.Begins || s.Till > MostClip) {
			return fmt.Errorf("shots[%d] is heard from %v to %v: want s of its recording, the end after the beginning", i, s.Begins, s.Till)
		}
		if s.Seconds != 0 && (s.Seconds < LeastSeconds || s.Seconds > MostSeconds) {
			return fmt.Errorf("shots[%d].seconds %v: want %v to %v, or 0 for as long as it takes to read", i, s.Seconds, LeastSeconds, MostSeconds)
		}
	}
	return nil
}
