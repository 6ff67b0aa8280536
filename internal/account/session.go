package account

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"

	"aspenridge/internal/act"
	"aspenridge/internal/store"
	"aspenridge/internal/totp"
)

// Rename calls somebody otherwise, in every workspace.
func (a *People) Rename(ctx context.Context, m Member, name string) error {
	name, err := personName(name)
	if err != nil {
		return err
	}
	return a.store.RenameUser(ctx, m.ID, name)
}

// errNotYours means a password is asked for again, and another one was said.
var errNotYours error = notYours{}

// notYours is a wrong guess ([ErrSignIn]) and a field that is wrong ([act.ErrInvalid]).
type notYours struct{}

func (notYours) Error() string        { return "that is not your password" }
func (notYours) Is(target error) bool { return target == act.ErrInvalid || target == ErrSignIn }

// mostInSession is how many wrong passwords may be said in a session before it ends.
const mostInSession = 5

// ErrSessionOver means that so many wrong passwords were said in a session that it has ended.
var ErrSessionOver = errors.New("too many wrong passwords: your session has ended, sign in again")

// again checks the password of somebody who is signed in. A session in which it is wrong five
// times ends.
func (a *People) again(ctx context.Context, m Member, password string) error {
	hash, err := a.store.PasswordHash(ctx, m.ID)
	if err != nil {
		return err
	}
	if m.Session != (ID{}) {
		open, err := a.store.FailInSession(ctx, m.Session, mostInSession)
		if err != nil {
			return err
		}
		if !open {
			return ErrSessionOver
		}
	}
	done, err := a.passwords.enter(ctx)
	if err != nil {
		return err
	}
	defer done()
	if ok, err := argon2id.ComparePasswordAndHash(password, hash); err == nil && ok {
		return a.store.RightInSession(ctx, m.Session)
	}
	ended, err := a.store.EndFailed(ctx, m.Session, mostInSession)
	switch {
	case err != nil:
		return err
	case ended:
		return ErrSessionOver
	}
	return errNotYours
}

// Again checks the password of somebody who is signed in.
func (a *People) Again(ctx context.Context, m Member, password string) error {
	return a.again(ctx, m, password)
}

// ChangePassword gives an account another password; whoever is signed in elsewhere is out.
func (a *People) ChangePassword(ctx context.Context, m Member, now, next string) error {
	if err := checkPassword(next); err != nil {
		return err
	}
	if err := a.again(ctx, m, now); err != nil {
		return err
	}
	hash, err := a.hashed(ctx, m.Email, next)
	if err != nil {
		return err
	}
	if err := a.store.SetPassword(ctx, m.ID, m.Session, hash); err != nil {
		return err
	}
	return a.store.PutMail(ctx, passwordMail(m.ID, m.Email))
}

// passwordMail tells somebody that their password is another one.
func passwordMail(user ID, email string) store.Mail {
	return store.Mail{
		User: &user, To: email, Subject: "Your Aspenridge password was changed",
		Body: "Your password was changed. If that was not you, set a new one with “Forgot the password?” on the page for signing in, and look at Account for where you are signed in.",
	}
}

// Session is a browser somebody is signed in with.
type Session = store.Session

// BeginSession notes that somebody signed in: with which kind of device, from which network.
func (a *People) BeginSession(ctx context.Context, user ID, device, network string) (ID, error) {
	return a.store.BeginSession(ctx, user, device, network)
}

// OpenSessions are where somebody is signed in since a time.
func (a *People) OpenSessions(ctx context.Context, m Member, since time.Time) ([]Session, error) {
	return a.store.OpenSessions(ctx, m.ID, since)
}

// EndSession signs somebody out in one place.
func (a *People) EndSession(ctx context.Context, m Member, id ID) error {
	return a.store.EndSession(ctx, m.ID, id)
}

// SignOutEverywhere ends every session of somebody but the one they are in.
func (a *People) SignOutEverywhere(ctx context.Context, m Member) error {
	return a.store.EndSessions(ctx, m.ID, m.Session)
}

// Codes are what an account asks for besides its password.
type Codes struct {
	On   bool
	Left int // codes that stand in for one
}

// Codes says whether an account asks for codes.
func (a *People) Codes(ctx context.Context, m Member) (c Codes, err error) {
	secret, _, err := a.store.Codes(ctx, m.ID)
	if err != nil || secret == nil {
		return c, err
	}
	c.On = true
	c.Left, err = a.store.RecoveryLeft(ctx, m.ID)
	return c, err
}

// recoveryCodes is how many codes stand in for one, each once.
const recoveryCodes = 10

// AskCodes has an account ask for codes of a secret, once somebody shows that they have it; it
// returns codes that stand in for one, told once.
func (a *People) AskCodes(ctx context.Context, m Member, secret []byte, code string) ([]string, error) {
	step, ok := totp.Find(secret, code, a.now())
	if !ok {
		return nil, fmt.Errorf("%w: that is not the code the application shows now", act.ErrInvalid)
	}
	var out []string
	var hashes [][]byte
	for range recoveryCodes {
		c := rand.Text()[:16] // 80 bits
		out = append(out, c[:4]+"-"+c[4:8]+"-"+c[8:12]+"-"+c[12:])
		hashes = append(hashes, hashOfRecovery(c))
	}
	return out, a.store.SetCodes(ctx, m.ID, secret, step, hashes)
}

// hashOfRecovery is how a code that stands in for one is kept, however it is typed.
func hashOfRecovery(said string) []byte {
	said = strings.ToUpper(strings.NewReplacer("-", "", " ", "").Replace(said))
	sum := sha256.Sum256([]byte(said))
	return sum[:]
}

// NoCodes has an account ask for no codes any more.
func (a *People) NoCodes(ctx context.Context, m Member, password string) error {
	if err := a.again(ctx, m, password); err != nil {
		return err
	}
	return a.store.SetCodes(ctx, m.ID, nil, 0, nil)
}

// CheckCode checks a code somebody signs in with, or one that stands in for it; each is good
// once. [ErrSignIn] where it is another one.
func (a *People) CheckCode(ctx context.Context, user ID, said string) error {
	secret, _, err := a.store.Codes(ctx, user)
	if err != nil {
		return err
	}
	if secret == nil {
		return errors.New("a code for an account that asks for none")
	}
	fresh := false
	if step, ok := totp.Find(secret, said, a.now()); ok {
		fresh, err = a.store.UseStep(ctx, user, step)
	} else {
		fresh, err = a.store.UseRecovery(ctx, user, hashOfRecovery(said))
	}
	if err == nil && !fresh {
		err = ErrSignIn
	}
	return err
}

// Sessions is where sessions of browsers are kept.
func (a *People) Sessions() store.Sessions { return a.store.Sessions() }

// Member finds a person's place in a workspace, in their first where they are not in that one.
func (a *People) Member(ctx context.Context, user, workspace ID) (Member, error) {
	return a.store.Member(ctx, user, workspace)
}

// MemberIn is [People.Member] of somebody signed in with a browser; [act.ErrNotFound] once that
// session is over.
func (a *People) MemberIn(ctx context.Context, user, workspace, session ID) (Member, error) {
	return a.store.MemberIn(ctx, user, workspace, session)
}

// Belongs reports whether somebody is still in the workspace they came with.
func (a *People) Belongs(ctx context.Context, m Member) (bool, error) {
	return a.store.Belongs(ctx, m.Workspace, m.ID)
}
