package account

import (
	"context"
	"errors"
	"fmt"
	"math"
	"strings"
	"time"

	"aspenridge/internal/act"
	"aspenridge/internal/store"
)

// ErrTries means that so many guesses were wrong that one more is not taken now.
var ErrTries = errors.New("too many tries from where you are; wait a little and try again")

// TooManyTries is [ErrTries] with when to come again.
type TooManyTries struct{ Again time.Duration }

func (t *TooManyTries) Error() string { return ErrTries.Error() }
func (t *TooManyTries) Unwrap() error { return ErrTries }

// What is guessed. Each has counters of its own.
const (
	GuessPassword = "password"
	GuessCode     = "code"
	GuessLink     = "link" // the password of a proof link
	GuessReset    = "reset"
)

// Guess is a try of a secret.
type Guess struct {
	Of      string // what is guessed: one of the constants
	Whose   string // an e-mail address, the id of an account or of a link
	Network string // where it comes from
	// Browser is a session of this account that ended, or goes on, in the same browser: whoever
	// has it was let in before, and others' guesses do not slow them. Zero for none.
	Browser ID
	Free    int           // wrong guesses of a network before further ones are slowed, 0 for 20
	Slow    time.Duration // what the first slow one waits, 0 for half a second
}

// How guesses are slowed. An account is guessed at from one network 5 times, and then ever more
// slowly; once it is guessed at from many networks, each new one has a single free guess. Who
// knows the secret is let in at the first.
const (
	guessesFree    = 5
	guessesMost    = 15 * time.Minute
	codesMost      = 2 * time.Hour // of six digits: whoever guesses at them has the password
	networkMost    = 8 * time.Second
	guessWait      = 8 * time.Second // in a request
	guessesForgot  = 24 * time.Hour
	pressed        = 50 // failures of an account over all networks, from when on it is pressed
	tellPasswords  = 10 // failures after which the owner is told
	tellCodes      = 5
	guessesPressed = 1
)

// Try makes a guess and counts it, over all servers. guess returns [ErrSignIn] for a wrong one;
// with any other error nothing was guessed. Where too many were wrong it is [*TooManyTries] and
// guess is not asked.
func (a *People) Try(ctx context.Context, g Guess, guess func() error) error {
	whose := strings.ToLower(strings.TrimSpace(g.Whose))
	if g.Free == 0 {
		g.Free = 20
	}
	if g.Slow == 0 {
		g.Slow = 500 * time.Millisecond
	}
	own, account := store.TryKey(g.Of+" by", whose, g.Network), store.TryKey(g.Of+" of", whose)
	keys := [][]byte{own, account, store.TryKey("network", g.Network)}
	if g.Browser != (ID{}) {
		known, err := a.store.SignedInBefore(ctx, g.Browser, whose)
		if err != nil {
			return err
		}
		if known {
			own = store.TryKey(g.Of+" in", whose, g.Browser.String())
			keys = [][]byte{own, account}
		}
	}
	rules := func(failures []int) []store.TryRule {
		free := min(guessesFree, g.Free)
		if failures[1] > pressed && len(keys) == 3 {
			free = guessesPressed
		}
		most := guessesMost
		if g.Of == GuessCode {
			most = codesMost
		}
		return []store.TryRule{{Free: free, Step: g.Slow, Most: most}, {Free: math.MaxInt}, {Free: g.Free, Step: g.Slow, Most: networkMost}}[:len(keys)]
	}
	now := a.now()
	wait, again, err := a.store.Try(ctx, store.Trying{Keys: keys, Rules: rules, Longest: guessWait, Forget: guessesForgot}, now)
	switch {
	case err != nil:
		return err
	case again > 0:
		return &TooManyTries{again}
	}
	after := context.WithoutCancel(ctx)
	if wait > 0 {
		if err := a.Pause(ctx, wait); err != nil {
			return errors.Join(err, a.store.TryWasNone(after, keys...))
		}
	}
	switch err := guess(); {
	case err == nil:
		return a.store.TryWasRight(after, own, keys[1:]...)
	case errors.Is(err, ErrSignIn):
		return errors.Join(err, a.warn(after, g, whose, account, now))
	default:
		return errors.Join(err, a.store.TryWasNone(after, keys...))
	}
}

// pause waits for a while.
func pause(ctx context.Context, d time.Duration) error {
	timer := time.NewTimer(d)
	defer timer.Stop()
	select {
	case <-timer.C:
		return nil
	case <-ctx.Done():
		return ctx.Err()
	}
}

// warn tells the owner of an account, once a day, that somebody guesses at it.
func (a *People) warn(ctx context.Context, g Guess, whose string, account []byte, now time.Time) error {
	most, what, advice := tellPasswords, "passwords", "Your password still holds. If it is short or used elsewhere, change it under Account, and have codes asked for as well."
	if g.Of == GuessCode {
		most, what, advice = tellCodes, "codes", "They know your password: change it now, under Account or with “Forgot the password?” on the sign-in page."
	}
	if g.Of != GuessPassword && g.Of != GuessCode {
		return nil
	}
	tell, err := a.store.ClaimTriesMail(ctx, account, most, now)
	if err != nil || !tell {
		return err
	}
	user, err := a.store.Holder(ctx, whose)
	if errors.Is(err, act.ErrNotFound) {
		return nil
	}
	if err != nil {
		return err
	}
	return a.store.PutMail(ctx, store.Mail{
		User: &user.ID, To: user.Email, Kind: "guesses", Subject: "Failed sign-in attempts on your Aspenridge account",
		Body: fmt.Sprintf("More than %d wrong %s were tried for your account within a day. Further tries are slowed down.\n\nIf that was you, do nothing. If not: %s", most, what, advice),
	})
}

// Often counts that a network asks for something and reports whether it did more than most times
// in a while, over all servers. Where that cannot be told it did not.
func (a *People) Often(ctx context.Context, what, network string, most int, while time.Duration) bool {
	n, err := a.store.Visit(ctx, store.TryKey("often "+what, network), a.now().UTC().Truncate(while))
	return err == nil && n > most
}
