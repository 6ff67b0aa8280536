package account

import (
	"context"
	"errors"
	"fmt"
	"time"

	"aspenridge/internal/act"
	"aspenridge/internal/core/plain"
	"aspenridge/internal/post"
	"aspenridge/internal/secret"
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
	MailEvery   = 3 * time.Second
)

// Sends reports whether mail leaves the house; where it does not, it stays in a box to be
// looked at.
func (a *People) Sends() bool { return a.Mailer != nil }

// Post writes what is to be written and sends what is due, as a routine of the workers.
func (a *People) Post(ctx context.Context) error {
	if err := a.writeResets(ctx); err != nil {
		return err
	}
	if a.Mailer == nil {
		return nil
	}
	due, err := a.store.TakeMails(ctx, a.now(), mailsAtOnce)
	if err != nil {
		return err
	}
	for _, m := range due {
		switch err := a.Mailer.Send(ctx, m.To, m.Subject, m.Body); {
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
func (a *People) Forgot(ctx context.Context, email, way string) error {
	email, err := EmailAddress(email)
	if err != nil {
		return err
	}
	return a.store.AskReset(ctx, store.ResetAsked{Email: email, Way: way})
}

// AskConfirm has the address of a new account confirmed by mail; way is how the address of the
// link begins. A worker writes the mail: that takes as long whether the address has an account.
func (a *People) AskConfirm(ctx context.Context, m Member, way string) error {
	return a.store.AskReset(ctx, store.ResetAsked{Email: m.Email, Way: way, User: &m.ID})
}

// writeResets writes the mails by which people get another password, and those by which they
// confirm their address.
func (a *People) writeResets(ctx context.Context) error {
	asked, err := a.store.ResetsAsked(ctx, mailsAtOnce)
	if err != nil {
		return err
	}
	for _, r := range asked {
		if r.User != nil {
			err = a.writeConfirm(ctx, r)
		} else {
			err = a.writeReset(ctx, r)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// writeReset writes a mail for the account of an address, or for the first of those that say it
// is theirs.
func (a *People) writeReset(ctx context.Context, r store.ResetAsked) error {
	users, err := a.store.UsersByEmail(ctx, r.Email, 1)
	if err != nil || len(users) == 0 {
		return err
	}
	u := users[0]
	n, err := a.store.TokensSince(ctx, u.ID, "reset", a.now().Add(-resetTime))
	if err != nil || n >= mostResets {
		return err
	}
	token := secret.New()
	mail := store.Mail{
		User: &u.ID, To: u.Email, Subject: "Reset your Aspenridge password",
		Body: fmt.Sprintf("Someone, most likely you, asked to reset the password of the Aspenridge account with this address.\n\nSet a new password here. The link works once, within an hour:\n%s%s\n\nIf it was not you, do nothing: your password stays as it is.", r.Way, token),
	}
	return a.store.PutToken(ctx, store.Token{User: u.ID, Kind: "reset"}, secret.Hash(token), a.now().Add(resetTime), mail)
}

// mostConfirms is how many mails about new accounts go to an address in a day.
const mostConfirms = 3

// writeConfirm writes the mail to the address of a new account: with the link that confirms it,
// or where another account has, saying so.
func (a *People) writeConfirm(ctx context.Context, r store.ResetAsked) error {
	c, err := a.store.Unconfirmed(ctx, *r.User)
	if errors.Is(err, act.ErrNotFound) {
		return nil
	}
	if err != nil {
		return err
	}
	n, err := a.store.MailsTo(ctx, c.User.Email, "sign-up", a.now().Add(-LapseTime))
	if err != nil || n >= mostConfirms {
		return err
	}
	mail := store.Mail{User: &c.User.ID, To: c.User.Email, Kind: "sign-up", Subject: "Confirm your e-mail address"}
	_, err = a.store.Holder(ctx, c.User.Email)
	if err == nil {
		mail.Body = "Someone, perhaps you, signed up for Aspenridge with this address. You already have an account with it: sign in to that one. If you have forgotten its password, choose “Forgot the password?” on the sign-in page.\n\nThe new account is not connected with yours and is deleted in a day. If it was not you, do nothing."
		return a.store.PutMail(ctx, mail)
	}
	if !errors.Is(err, act.ErrNotFound) {
		return err
	}
	token := secret.New()
	mail.Body = fmt.Sprintf("Someone, most likely you, signed up for Aspenridge with this address.\n\nIf it was you, confirm the address here, within a day:\n%s%s\n\nIf it was not you, do nothing: the account is deleted in a day, and you can still use the address.", r.Way, token)
	return a.store.PutToken(ctx, store.Token{User: c.User.ID, Kind: "sign-up", Email: c.User.Email}, secret.Hash(token), a.now().Add(confirmTime), mail)
}

// ResetName is whose password a token is for; [act.ErrNotFound] for one that is good no more.
func (a *People) ResetName(ctx context.Context, token string) (string, error) {
	t, err := a.store.Token(ctx, secret.Hash(token), "reset", a.now())
	return t.Name, err
}

// Reset gives the account of a token another password, once; it is signed out everywhere. Whoever
// has the token has the mailbox: the address is confirmed with it.
func (a *People) Reset(ctx context.Context, token, password string) error {
	t, err := a.store.Token(ctx, secret.Hash(token), "reset", a.now()) // before work is done for it
	if err != nil {
		return err
	}
	u, err := a.store.Holder(ctx, t.User.String())
	if err != nil {
		return err
	}
	hash, err := a.hashed(ctx, u.Email, password)
	if err != nil {
		return err
	}
	err = a.store.ResetPassword(ctx, secret.Hash(token), a.now(), hash, passwordMail)
	if errors.Is(err, store.ErrTaken) {
		err = act.ErrNotFound
	}
	return err
}

// ChangeEmail asks the owner of another address whether it is that of an account from now on;
// way is how the address of the link begins.
func (a *People) ChangeEmail(ctx context.Context, m Member, password, email, way string) error {
	email, err := EmailAddress(email)
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
		return fmt.Errorf("%w: five addresses were asked of late: try again tomorrow", act.ErrInvalid)
	}
	token := secret.New()
	mail := store.Mail{
		User: &m.ID, To: email, Subject: "Confirm your new e-mail address",
		Body: fmt.Sprintf("%s, who signs in to Aspenridge as %s, wants to change to this address.\n\nIf that is you, confirm it here. The link works once, within a day:\n%s%s\n\nIf it is not you, do nothing.", plain.Quoted(m.Name), plain.Unlinked(m.Email), way, token),
	}
	return a.store.PutToken(ctx, store.Token{User: m.ID, Kind: "email", Email: email}, secret.Hash(token), a.now().Add(confirmTime), mail)
}

// confirming are the kinds of tokens that confirm an address.
var confirming = []string{"email", "sign-up"}

// Confirmable is the address a token confirms, and whose account it is for; [act.ErrNotFound] for
// one that is good no more.
func (a *People) Confirmable(ctx context.Context, token string) (name, email string, err error) {
	for _, kind := range confirming {
		t, err := a.store.Token(ctx, secret.Hash(token), kind, a.now())
		if err == nil || !errors.Is(err, act.ErrNotFound) {
			return t.Name, t.Email, err
		}
	}
	return "", "", act.ErrNotFound
}

// Confirm makes the address of a token that of its account, once; where it had another, that one
// is told.
func (a *People) Confirm(ctx context.Context, token string) error {
	told := func(name, was, is string) store.Mail {
		return store.Mail{
			To: was, Subject: "Your e-mail address was changed",
			Body: "Your Aspenridge account now has another e-mail address. If you did not change it, contact whoever runs Aspenridge for you.",
		}
	}
	for _, kind := range confirming {
		err := a.store.ConfirmEmail(ctx, secret.Hash(token), kind, a.now(), told)
		if errors.Is(err, act.ErrNotFound) {
			continue
		}
		if errors.Is(err, store.ErrTaken) {
			err = fmt.Errorf("%w: another account has that address: sign in with that one", act.ErrInvalid)
		}
		return err
	}
	return act.ErrNotFound
}

// AccountMails are what would have been sent about accounts, where no mail leaves the house.
func (a *People) AccountMails(ctx context.Context) ([]store.Mail, error) {
	if a.Mailer != nil {
		return nil, act.ErrNotFound
	}
	return a.store.AccountMails(ctx)
}
