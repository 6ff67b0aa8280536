package brief

import (
	"fmt"

	"aspenridge/internal/core/spec"
)

// WholePiece is the slot of what is said of a piece as a whole.
const WholePiece = "piece"

// Movement is how a still piece moves: for how many seconds, 0 for not at all, and whether it
// ends as it began, to be played over and over.
type Movement struct {
	Seconds float64 `json:"seconds"`
	Loop    bool    `json:"loop,omitempty"`
}

// How long a piece may move, s, and one that ends as it began; UsualMovement where nobody
// said.
const (
	leastMovement, MostMovement = 3.0, 15.0
	leastLoop, mostLoop         = 4.0, 8.0
	UsualMovement               = 6.0
)

// Check says what is wrong with a movement: it is too short or too long.
func (m Movement) Check() error {
	least, most, what := leastMovement, MostMovement, "a piece moves"
	if m.Loop {
		least, most, what = leastLoop, mostLoop, "a piece that ends as it began moves"
	}
	if m.Seconds != 0 && (m.Seconds < least || m.Seconds > most) {
		return fmt.Errorf("%v s: %s for %v to %v: want that many seconds, or 0 for standing still", m.Seconds, what, least, most)
	}
	return nil
}

// Moves is how the piece of a placement moves besides standing still; false where it does not.
func (b *Brief) Moves(p spec.Placement) (Movement, bool) {
	h := b.Hands(p)[WholePiece]
	if h == nil || h.Moving == nil || h.Moving.Seconds == 0 {
		return Movement{}, false
	}
	return *h.Moving, true
}
