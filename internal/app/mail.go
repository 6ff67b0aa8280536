package app

import (
	"context"
	"errors"
	"fmt"
	"time"

	"aspenridge/internal/post"
	"aspenridge/internal/store"
)

// Mailer hands mail over to be delivered; [post.ErrRefused] for what never will be.
type Mailer interface {
	Send(ctx context.Context, to, subject, body string) error
}

// How mail is sent.
const (
	mailsAtOnce = 50
	mailTries   = 8 // with growing pauses, over some hours
	mailEvery   = 3 * time.Second
)

// Sends reports whether mail leaves the house; where it does not, it stays in a box to be
// looked at.
func (a People) Sends() bool { return a.mailer != nil }

// post writes what is to be written and sends what is due, as a routine of the workers.
func (a *house) post(ctx context.Context) error {
	if err := a.writeResets(ctx); err != nil {
		return err
	}
	if a.mailer == nil {
		return nil
	}
	due, err := a.store.TakeMails(ctx, a.now(), mailsAtOnce)
	if err != nil {
		return err
	}
	for _, m := range due {
		switch err := a.mailer.Send(ctx, m.To, m.Subject, m.Body); {
		case err == nil:
			err = a.store.MailSent(ctx, m.ID)
			if err != nil {
				return err
			}
		case ctx.Err() != nil:
			return ctx.Err()
		default:
			why := ""
			if errors.Is(err, post.ErrRefused) || m.Tries+1 >= mailTries {
				why = err.Error()
			}
			if err := a.store.MailFailed(ctx, m.ID, a.now().Add(time.Minute<<m.Tries), why); err != nil {
				return err
			}
		}
	}
	return nil
}

// How long links in mails are good, and how many of them somebody gets.
const (
	resetTime   = time.Hour
	confirmTime = 24 * time.Hour
	mostResets  = 3 // an hour, for an account
)

// Forgot notes that somebody forgot the password of an address; way is how the addresses of
// links begin. Nothing tells whether the address has an account: a worker looks that up.
func (a People) Forgot(ctx context.Context, email, way string) error {
	email, err := emailAddress(email)
	if err != nil {
		return err
	}
	return a.store.AskReset(ctx, store.ResetAsked{Email: email, Way: way})
}

// writeResets writes the mails by which people get another password: one for each account of
// an address.
func (a *house) writeResets(ctx context.Context) error {
	asked, err := a.store.ResetsAsked(ctx, mailsAtOnce)
	if err != nil {
		return err
	}
	for _, r := range asked {
		users, err := a.store.UsersByEmail(ctx, r.Email)
		if err != nil {
			return err
		}
		for _, u := range users {
			n, err := a.store.TokensSince(ctx, u.ID, "reset", a.now().Add(-resetTime))
			if err != nil {
				return err
			}
			if n >= mostResets {
				continue
			}
			token := newToken()
			mail := store.Mail{
				User: &u.ID, To: u.Email, Subject: "Another password for Aspenridge",
				Body: fmt.Sprintf("Somebody, most likely you, forgot the password of %s.\n\nA new one is set here, once, within an hour:\n%s%s\n\nIf it was not you, do nothing: the password stays as it is.", u.Name, r.Way, token),
			}
			if err := a.store.PutToken(ctx, store.Token{User: u.ID, Kind: "reset"}, hashOfToken(token), a.now().Add(resetTime), mail); err != nil {
				return err
			}
		}
	}
	return nil
}

// ResetName is whose password a token is for; [ErrNotFound] for one that is good no more.
func (a People) ResetName(ctx context.Context, token string) (string, error) {
	t, err := a.store.Token(ctx, hashOfToken(token), "reset", a.now())
	return t.Name, err
}

// Reset gives the account of a token another password, once; it is signed out everywhere.
func (a People) Reset(ctx context.Context, token, password string) error {
	if _, err := a.ResetName(ctx, token); err != nil { // before work is done for it
		return err
	}
	hash, err := a.hashed(ctx, password)
	if err != nil {
		return err
	}
	return a.store.ResetPassword(ctx, hashOfToken(token), a.now(), hash, passwordMail)
}

// ChangeEmail asks the owner of another address whether it is that of an account from now on;
// way is how the address of the link begins.
func (a People) ChangeEmail(ctx context.Context, m Member, password, email, way string) error {
	email, err := emailAddress(email)
	if err != nil {
		return err
	}
	if err := a.again(ctx, m, password); err != nil {
		return err
	}
	n, err := a.store.TokensSince(ctx, m.ID, "email", a.now().Add(-confirmTime))
	if err != nil {
		return err
	}
	if n >= 5 {
		return fmt.Errorf("%w: five addresses were asked of late: try again tomorrow", ErrInvalid)
	}
	token := newToken()
	mail := store.Mail{
		User: &m.ID, To: email, Subject: "Is this the address of your Aspenridge account?",
		Body: fmt.Sprintf("%s wants to sign in to Aspenridge with this address from now on.\n\nIf that is you, say so here, once, within a day:\n%s%s\n\nIf it is not, do nothing.", m.Name, way, token),
	}
	return a.store.PutToken(ctx, store.Token{User: m.ID, Kind: "email", Email: email}, hashOfToken(token), a.now().Add(confirmTime), mail)
}

// Confirmable is the address a token confirms, and whose account it is for; [ErrNotFound] for
// one that is good no more.
func (a People) Confirmable(ctx context.Context, token string) (name, email string, err error) {
	t, err := a.store.Token(ctx, hashOfToken(token), "email", a.now())
	return t.Name, t.Email, err
}

// Confirm makes the address of a token that of its account, once; the old one is told.
func (a People) Confirm(ctx context.Context, token string) error {
	err := a.store.ConfirmEmail(ctx, hashOfToken(token), a.now(), MaxAccounts, func(name, was, is string) store.Mail {
		return store.Mail{
			To: was, Subject: "Your Aspenridge account has another address",
			Body: fmt.Sprintf("%s signs in with another address from now on, not with this one. If that was not you, ask whoever runs Aspenridge for you.", name),
		}
	})
	if errors.Is(err, store.ErrTaken) {
		err = fmt.Errorf("%w: that address cannot be used", ErrInvalid)
	}
	return err
}

// AccountMails are what would have been sent about accounts, where no mail leaves the house.
func (a People) AccountMails(ctx context.Context) ([]Mail, error) {
	if a.mailer != nil {
		return nil, ErrNotFound
	}
	return a.store.AccountMails(ctx)
}
