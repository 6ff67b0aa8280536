package brief

import (
	"fmt"
	"slices"
	"strings"
)

// Video is how a brief runs as moving pictures. Without shots a running order is proposed.
type Video struct {
	Shots     []Shot `json:"shots"`
	Music     string `json:"music,omitempty"`     // a piece of the shelf by its id, "none", or empty for the mood of the kit
	NoOpening bool   `json:"noOpening,omitempty"` // it does not open as the kit's videos do
	NoClosing bool   `json:"noClosing,omitempty"`
	NoMark    bool   `json:"noMark,omitempty"` // without the kit's corner mark
}

// Shot is one stretch of a video.
type Shot struct {
	ID       string  `json:"id,omitempty"`
	Role     string  `json:"role"` // one of [Roles]
	Headline string  `json:"headline,omitempty"`
	Body     string  `json:"body,omitempty"`
	Picture  string  `json:"picture,omitempty"` // file
	Seconds  float64 `json:"seconds,omitempty"` // 0 for as long as its words take to read
}

// Roles are what shots are for, in the order they run: what stops people, things to know,
// who says so, what it costs, what to do.
var Roles = []string{"hook", "point", "proof", "offer", "call"}

// How long a shot may be said to run, s.
const (
	LeastSeconds = 0.5
	MostSeconds  = 60.0
)

func (v *Video) check() error {
	if v == nil {
		return nil
	}
	for i, s := range v.Shots {
		if !slices.Contains(Roles, s.Role) {
			return fmt.Errorf("shots[%d].role %.60q: want one of %s", i, s.Role, strings.Join(Roles, ", "))
		}
		if s.Seconds != 0 && (s.Seconds < LeastSeconds || s.Seconds > MostSeconds) {
			return fmt.Errorf("shots[%d].seconds %v: want %v to %v, or 0 for as long as it takes to read", i, s.Seconds, LeastSeconds, MostSeconds)
		}
	}
	return nil
}
