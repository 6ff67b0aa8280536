// Package account keeps accounts: who somebody is, how they sign in and stay signed in, the mails
// about it, and how guesses at their secrets are slowed down. It knows no kits and no briefs.
//
//	people := account.New(store, account.Options{Mailer: mailer})
//	m, err := people.SignUp(ctx, "Nell Tarn", "nell@larkmoor.example", "quiet water 2027")
package account

import (
	"cmp"
	"context"
	"time"

	"github.com/alexedwards/argon2id"

	"aspenridge/internal/act"
	"aspenridge/internal/store"
)

// The words all packages of things people do share.
type (
	ID     = act.ID
	Member = act.Member
)

// People are all accounts. Safe for concurrent use.
type People struct {
	Mailer Mailer                                           // nil: mails are kept to be looked at instead
	Pause  func(ctx context.Context, d time.Duration) error // a slowed guess waits with it

	store     *store.Store
	hashing   *argon2id.Params
	now       func() time.Time
	passwords turnstile // a check of a password takes 64 MB and a quarter of a second
	forget    func(ctx context.Context, hash string) error
}

// Options say how accounts are kept. The zero value is for people; tests set more.
type Options struct {
	Mailer  Mailer           // nil: mails are kept to be looked at instead
	Hashing *argon2id.Params // of new passwords, nil for [Hashing]
	Now     func() time.Time // nil for the clock
	// Forget deletes a file by its hash where nobody has it any more: the files of workspaces
	// that end with an account. nil keeps them.
	Forget func(ctx context.Context, hash string) error
}

// New opens the accounts of a store.
func New(s *store.Store, o Options) *People {
	p := &People{
		Mailer: o.Mailer, Pause: pause, store: s, hashing: cmp.Or(o.Hashing, Hashing), now: o.Now, forget: o.Forget,
		passwords: newTurnstile(2, 200, 10*time.Second),
	}
	if p.now == nil {
		p.now = time.Now
	}
	if p.forget == nil {
		p.forget = func(context.Context, string) error { return nil }
	}
	return p
}
