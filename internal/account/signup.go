package account

import (
	"bytes"
	"context"
	"crypto/hmac"
	"crypto/rand"
	"crypto/sha256"
	"crypto/subtle"
	"encoding/base64"
	"errors"
	"fmt"
	"net/mail"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/alexedwards/argon2id"
	"golang.org/x/crypto/argon2"

	"aspenridge/internal/act"
	"aspenridge/internal/core/plain"
	"aspenridge/internal/store"
)

// ErrSignIn is the one answer to a wrong address and a wrong password.
var ErrSignIn = errors.New("that address and password do not go together")

// Hashing is argon2id at the parameters RFC 9106 recommends second (64 MiB).
var Hashing = &argon2id.Params{Memory: 64 * 1024, Iterations: 3, Parallelism: 2, SaltLength: 16, KeyLength: 32}

// MinPassword is the least length of a password in characters.
const MinPassword = 10

// LapseTime is how long an account is kept whose address is not confirmed, where mail can be sent.
const LapseTime = 24 * time.Hour

// SignUp makes a new account and a workspace of its own, whether the address has an account or
// not: it never lets anybody into one that is there. The address belongs to whoever confirms it
// ([People.AskConfirm]); the account lapses in a day unless that is done, where mail can be sent.
func (a *People) SignUp(ctx context.Context, name, email, password string) (Member, error) {
	name, err := personName(name)
	if err != nil {
		return Member{}, err
	}
	if email, err = EmailAddress(email); err != nil {
		return Member{}, err
	}
	hash, err := a.hashed(ctx, email, password)
	if err != nil {
		return Member{}, err
	}
	lapses := time.Time{}
	if a.Mailer != nil {
		lapses = a.now().Add(LapseTime)
	}
	return a.store.CreateUser(ctx, email, name, hash, name, lapses)
}

// ErrBroken means that a text has something in it that is no character.
var ErrBroken = fmt.Errorf("%w: there is a character in it that is none (NUL, or broken UTF-8): take it out", act.ErrInvalid)

// MostName is how long the name of a person may be, letters.
const MostName = 80

// personName is a name as it is kept: one line, which cannot turn what stands beside it around.
func personName(name string) (string, error) {
	if strings.ContainsRune(name, 0) || !utf8.ValidString(name) {
		return "", ErrBroken
	}
	name = plain.Line(name)
	if n := len([]rune(name)); n == 0 || n > MostName {
		return "", fmt.Errorf("%w: say your name, in up to %d letters", act.ErrInvalid, MostName)
	}
	return name, nil
}

// EmailAddress is an e-mail address as people type it.
func EmailAddress(s string) (string, error) {
	s = strings.TrimSpace(s)
	if addr, err := mail.ParseAddress(s); err != nil || addr.Address != s || len(s) > 200 || plain.Line(s) != s {
		return "", fmt.Errorf("%w: %.60q is not an e-mail address", act.ErrInvalid, s)
	}
	return s, nil
}

// SignIn checks a password; [ErrSignIn] where it is another one. One hash is computed, whether
// the address has no account, one, or several that say it is theirs.
func (a *People) SignIn(ctx context.Context, email, password string) (Member, error) {
	email = strings.TrimSpace(email)
	users, err := a.store.UsersByEmail(ctx, email, mostUnconfirmed)
	if err != nil {
		return Member{}, err
	}
	p, salt := a.hashing, make([]byte, a.hashing.SaltLength)
	if len(users) > 0 {
		if p, salt, _, err = argon2id.DecodeHash(users[0].PasswordHash); err != nil {
			return Member{}, err
		}
	}
	done, err := a.passwords.enter(ctx)
	if err != nil {
		return Member{}, err
	}
	key := argon2.IDKey([]byte(password), salt, p.Iterations, p.Memory, p.Parallelism, p.KeyLength)
	done()
	found := ID{}
	for _, u := range users {
		_, s, k, err := argon2id.DecodeHash(u.PasswordHash)
		if err == nil && bytes.Equal(s, salt) && subtle.ConstantTimeCompare(k, key) == 1 {
			found = u.ID
		}
	}
	if found == (ID{}) {
		return Member{}, ErrSignIn
	}
	return a.store.Member(ctx, found, ID{})
}

// mostUnconfirmed is how many accounts that only say an address is theirs a password is held
// against.
const mostUnconfirmed = 1000

// hashed is a password as it is kept for an address; [act.ErrInvalid] for one nobody should have. All
// accounts that say an address is theirs have one salt: signing in computes one hash.
func (a *People) hashed(ctx context.Context, email, password string) (string, error) {
	if err := checkPassword(password); err != nil {
		return "", err
	}
	secret, err := a.store.Secret(ctx)
	if err != nil {
		return "", err
	}
	of := hmac.New(sha256.New, secret)
	of.Write([]byte("salt " + strings.ToLower(email)))
	done, err := a.passwords.enter(ctx)
	if err != nil {
		return "", err
	}
	defer done()
	return hashWith(password, of.Sum(nil)[:a.hashing.SaltLength], a.hashing), nil
}

// hashWith writes a password as [argon2id.CreateHash] does, with a given salt.
func hashWith(password string, salt []byte, p *argon2id.Params) string {
	key := argon2.IDKey([]byte(password), salt, p.Iterations, p.Memory, p.Parallelism, p.KeyLength)
	return fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=%d$%s$%s", argon2.Version, p.Memory, p.Iterations, p.Parallelism,
		base64.RawStdEncoding.EncodeToString(salt), base64.RawStdEncoding.EncodeToString(key))
}

// HashApart is a password that belongs to no address, as it is kept.
func (a *People) HashApart(ctx context.Context, password string) (string, error) {
	done, err := a.passwords.enter(ctx)
	if err != nil {
		return "", err
	}
	defer done()
	salt := make([]byte, a.hashing.SaltLength)
	if _, err := rand.Read(salt); err != nil {
		return "", err
	}
	return hashWith(password, salt, a.hashing), nil
}

// CheckApart checks a password that [People.HashApart] made a hash of; [ErrSignIn] where it is
// another one.
func (a *People) CheckApart(ctx context.Context, password, hash string) error {
	done, err := a.passwords.enter(ctx)
	if err != nil {
		return err
	}
	defer done()
	if ok, err := argon2id.ComparePasswordAndHash(password, hash); err != nil || !ok {
		return ErrSignIn
	}
	return nil
}

// ErrBusy means more is asked for than can be done now.
var ErrBusy = errors.New("too much is asked for at once; try again in a moment")

// turnstile lets a few in at a time, lets some more wait for a while and turns
// the others away.
type turnstile struct {
	in      chan struct{}
	waiting chan struct{}
	wait    time.Duration
}

func newTurnstile(atOnce, waiting int, wait time.Duration) turnstile {
	return turnstile{make(chan struct{}, atOnce), make(chan struct{}, waiting), wait}
}

func (t turnstile) enter(ctx context.Context) (leave func(), err error) {
	select {
	case t.waiting <- struct{}{}:
	default:
		return nil, ErrBusy
	}
	defer func() { <-t.waiting }()
	late := time.NewTimer(t.wait)
	defer late.Stop()
	select {
	case t.in <- struct{}{}:
		return func() { <-t.in }, nil
	case <-late.C:
		return nil, ErrBusy
	case <-ctx.Done():
		return nil, ctx.Err()
	}
}

// Lapse takes accounts away whose addresses were not confirmed in time. One that others depend on
// stays, and is looked at again a day later.
func (a *People) Lapse(ctx context.Context) error {
	now := a.now()
	gone, err := a.store.Lapsed(ctx, now, 200)
	if err != nil {
		return err
	}
	for _, id := range gone {
		err := a.deleteUser(ctx, id)
		if left := (*store.LeftBehind)(nil); errors.As(err, &left) {
			err = a.store.Postpone(ctx, id, now.Add(LapseTime))
		}
		if err != nil && !errors.Is(err, act.ErrNotFound) {
			return err
		}
	}
	return nil
}
