package app

import (
	"context"
	"errors"
	"fmt"
	"net/mail"
	"strings"

	"github.com/alexedwards/argon2id"

	"aspenridge/internal/store"
)

// ErrSignIn is the one answer to a wrong address and a wrong password.
var ErrSignIn = errors.New("that address and password do not go together")

// hashing is argon2id at the parameters RFC 9106 recommends second (64 MiB).
var hashing = &argon2id.Params{Memory: 64 * 1024, Iterations: 3, Parallelism: 2, SaltLength: 16, KeyLength: 32}

// MinPassword is the least length of a password in characters.
const MinPassword = 10

// SignUp makes an account and a workspace of its own.
func (a *App) SignUp(ctx context.Context, name, email, password string) (Member, error) {
	name, email = strings.TrimSpace(name), strings.TrimSpace(email)
	if addr, err := mail.ParseAddress(email); err != nil || addr.Address != email || len(email) > 200 {
		return Member{}, fmt.Errorf("%w: %q is not an e-mail address", ErrInvalid, email)
	}
	if name == "" || len(name) > 100 {
		return Member{}, fmt.Errorf("%w: say your name, in up to 100 letters", ErrInvalid)
	}
	if n := len([]rune(password)); n < MinPassword || n > 200 {
		return Member{}, fmt.Errorf("%w: a password needs at least %d characters", ErrInvalid, MinPassword)
	}
	hash, err := argon2id.CreateHash(password, hashing)
	if err != nil {
		return Member{}, err
	}
	return a.Store.CreateUser(ctx, email, name, hash, name)
}

// SignIn checks a password.
func (a *App) SignIn(ctx context.Context, email, password string) (Member, error) {
	u, err := a.Store.UserByEmail(ctx, strings.TrimSpace(email))
	if errors.Is(err, store.ErrNotFound) {
		// spend the same time, so that nobody learns which addresses exist
		_, _ = argon2id.CreateHash(password, hashing)
		return Member{}, ErrSignIn
	}
	if err != nil {
		return Member{}, err
	}
	ok, err := argon2id.ComparePasswordAndHash(password, u.PasswordHash)
	if err != nil || !ok {
		return Member{}, ErrSignIn
	}
	return a.Store.Member(ctx, u.ID)
}
