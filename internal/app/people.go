package app

import (
	"context"
	"errors"
	"fmt"
	"net/mail"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"

	"aspenridge/internal/store"
)

// ErrSignIn is the one answer to a wrong address and a wrong password.
var ErrSignIn = errors.New("that address and password do not go together")

// Hashing is argon2id at the parameters RFC 9106 recommends second (64 MiB).
var Hashing = &argon2id.Params{Memory: 64 * 1024, Iterations: 3, Parallelism: 2, SaltLength: 16, KeyLength: 32}

// MinPassword is the least length of a password in characters.
const MinPassword = 10

// SignUp makes an account and a workspace of its own.
func (a People) SignUp(ctx context.Context, name, email, password string) (Member, error) {
	name = strings.TrimSpace(name)
	email, err := emailAddress(email)
	if err != nil {
		return Member{}, err
	}
	if name == "" || len(name) > 100 {
		return Member{}, fmt.Errorf("%w: say your name, in up to 100 letters", ErrInvalid)
	}
	if err := checkPassword(password); err != nil {
		return Member{}, err
	}
	done, err := a.passwords.enter(ctx)
	if err != nil {
		return Member{}, err
	}
	defer done()
	// somebody who has forgotten that they have an account is let into it
	m, err := a.whose(ctx, email, password)
	if !errors.Is(err, ErrSignIn) {
		return m, err
	}
	hash, err := argon2id.CreateHash(password, a.hashing)
	if err != nil {
		return Member{}, err
	}
	m, err = a.store.CreateUser(ctx, email, name, hash, name, MaxAccounts)
	if errors.Is(err, store.ErrTaken) {
		return m, ErrSignIn
	}
	return m, err
}

// emailAddress is an e-mail address as people type it.
func emailAddress(s string) (string, error) {
	s = strings.TrimSpace(s)
	if addr, err := mail.ParseAddress(s); err != nil || addr.Address != s || len(s) > 200 {
		return "", fmt.Errorf("%w: %.60q is not an e-mail address", ErrInvalid, s)
	}
	return s, nil
}

// MaxAccounts is how many accounts an address may have until it is confirmed;
// signing up does not tell that there is one.
const MaxAccounts = 3

// SignIn checks a password.
func (a People) SignIn(ctx context.Context, email, password string) (Member, error) {
	done, err := a.passwords.enter(ctx)
	if err != nil {
		return Member{}, err
	}
	defer done()
	return a.whose(ctx, strings.TrimSpace(email), password)
}

// whose finds the account an address and a password belong to; ErrSignIn when
// there is none. It takes as long whether the address has an account or not.
func (a *house) whose(ctx context.Context, email, password string) (Member, error) {
	users, err := a.store.UsersByEmail(ctx, email)
	if err != nil {
		return Member{}, err
	}
	if len(users) == 0 {
		_, _ = argon2id.CreateHash(password, a.hashing)
	}
	for _, u := range users {
		if ok, err := argon2id.ComparePasswordAndHash(password, u.PasswordHash); err == nil && ok {
			return a.store.Member(ctx, u.ID, ID{})
		}
	}
	return Member{}, ErrSignIn
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
