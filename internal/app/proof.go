package app

import (
	"cmp"
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base32"
	"fmt"
	"slices"

	"github.com/google/uuid"

	"aspenridge/internal/act"
	"aspenridge/internal/core/plain"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/secret"
	"aspenridge/internal/store"
)

// What is shown to people without an account, and what they say of it.
type (
	ProofLink = store.ProofLink
	Comment   = store.Comment
	Decision  = store.Decision
	By        = store.By
)

// The verdicts.
const (
	Approved = "approved"
	Changes  = "changes" // asked for
)

// Changed is how a piece stands that was approved, and is not what it was then.
const Changed = "changed"

// Guest is who came by a link: somebody who may look at one brief, and say what they think of
// it.
type Guest struct {
	Member
	Link ProofLink
}

// WishedLink is how a link is to be.
type WishedLink struct {
	For      string // whom it is for
	Password string // "" for none
	Days     int    // it lives, 0 for as long as nobody ends it
	Closed   bool   // nothing is said by it, it is only looked at
	Approves bool   // what is approved by it is signed off: an owner says so
}

// What a link may be.
const (
	MostLinks    = 40 // of a brief, at a time
	MostLinkDays = 365
	leastSecret  = 4 // letters of a link's password
)

// Link makes a secret way to a brief: whoever has it looks at the set and says what they think,
// without an account. The token is told once, and not kept.
func (a Proofs) Link(ctx context.Context, m Member, id ID, w WishedLink) (token string, err error) {
	if err := a.mayOn(ctx, m, roles.ShareOutside, id); err != nil {
		return "", err
	}
	if w.Approves {
		if err := act.May(m, roles.ManageWorkspace); err != nil {
			return "", err
		}
	}
	w.For = plain.Line(w.For)
	switch n := len([]rune(w.Password)); {
	case w.For == "" || len([]rune(w.For)) > 80:
		return "", fmt.Errorf("%w: say whom the link is for, in up to 80 letters", ErrInvalid)
	case n > 0 && n < leastSecret || n > 200:
		return "", fmt.Errorf("%w: a password for a link has %d to 200 letters, or there is none", ErrInvalid, leastSecret)
	case w.Days < 0 || w.Days > MostLinkDays:
		return "", fmt.Errorf("%w: a link lives for up to %d days, or until it is ended", ErrInvalid, MostLinkDays)
	}
	have, err := a.store.ProofLinks(ctx, m.Workspace, id)
	if err != nil {
		return "", err
	}
	if len(have) >= MostLinks {
		return "", fmt.Errorf("%w: this brief has %d links: end one that is not needed any more", ErrInvalid, MostLinks)
	}
	l := ProofLink{Workspace: m.Workspace, Brief: id, Name: w.For, Closed: w.Closed, Approves: w.Approves}
	if w.Days > 0 {
		until := a.now().AddDate(0, 0, w.Days)
		l.Expires = &until
	}
	if w.Password != "" {
		if l.Password, err = a.people.HashApart(ctx, w.Password); err != nil {
			return "", err
		}
	}
	if l.ID, token, err = a.once(ctx, m, "link"); err != nil {
		return "", err
	}
	if err := a.store.PutProofLink(ctx, l, secret.Hash(token), m.ID); err != nil {
		return "", err
	}
	return token, a.noteOf(ctx, m, noteLink, id, "created a link for %s", l.Name)
}

// once is the id and the token of something that is made by this change: the same however often
// its request arrives, since the token is told in the answer and not kept.
func (a *house) once(ctx context.Context, m Member, what string) (id ID, token string, err error) {
	change := m.ChangeID()
	if change == (ID{}) {
		return uuid.New(), secret.New(), nil
	}
	secret, err := a.store.Secret(ctx)
	if err != nil {
		return id, "", err
	}
	of := hmac.New(sha256.New, secret)
	fmt.Fprint(of, "token ", what, m.ID, change)
	sum := of.Sum(nil)
	return uuid.NewSHA1(change, []byte(what)), base32.StdEncoding.EncodeToString(sum[:20])[:26], nil // 130 bits
}

// Links are the ways to a brief that are open, the newest first.
func (a Proofs) Links(ctx context.Context, m Member, id ID) ([]ProofLink, error) {
	if err := a.mayOn(ctx, m, roles.ShareOutside, id); err != nil {
		return nil, err
	}
	list, err := a.store.ProofLinks(ctx, m.Workspace, id)
	now := a.now()
	return slices.DeleteFunc(list, func(l ProofLink) bool { return l.Expires != nil && l.Expires.Before(now) }), err
}

// End ends a link; what was said by it stays.
func (a Proofs) End(ctx context.Context, m Member, id, link ID) error {
	if err := a.mayOn(ctx, m, roles.ShareOutside, id); err != nil {
		return err
	}
	if err := a.store.EndProofLink(ctx, m.Workspace, id, link); err != nil {
		return err
	}
	return a.noteOf(ctx, m, noteLink, id, "ended a link")
}

// Close has nothing more said by a link, or lets it be said again.
func (a Proofs) Close(ctx context.Context, m Member, id, link ID, closed bool) error {
	if err := a.mayOn(ctx, m, roles.ShareOutside, id); err != nil {
		return err
	}
	if err := a.store.CloseProofLink(ctx, m.Workspace, id, link, closed); err != nil {
		return err
	}
	return a.noteOf(ctx, m, noteLink, id, "%s", map[bool]string{true: "closed a link to comments", false: "opened a link to comments"}[closed])
}

// Guest is who comes by a token; [ErrNotFound] for one that is not, or no longer, good.
func (a Proofs) Guest(ctx context.Context, token string) (Guest, error) {
	l, err := a.store.ProofLink(ctx, secret.Hash(token), a.now())
	role := roles.Commenter
	if l.Closed {
		role = roles.Viewer
	}
	return Guest{Member{Workspace: l.Workspace, Role: role}, l}, err
}

// Unlock checks the password of a link; [account.ErrSignIn] where it is another one.
func (a Proofs) Unlock(ctx context.Context, g Guest, password string) error {
	return a.people.CheckApart(ctx, password, g.Link.Password)
}

// Settle says that a thread is done with, or is not.
func (a Proofs) Settle(ctx context.Context, m Member, by By, id, thread ID, done bool) error {
	if err := a.mayOn(ctx, m, roles.Comment, id); err != nil {
		return err
	}
	by, err := checkedBy(by)
	if err != nil {
		return err
	}
	return a.store.ResolveComment(ctx, m.Workspace, id, thread, by.Shown(), done)
}

// OpenComments are the threads of a brief that are not resolved, counted by piece.
func (a Proofs) OpenComments(ctx context.Context, m Member, id ID) (map[string]int, error) {
	if err := a.mayOn(ctx, m, roles.Look, id); err != nil {
		return nil, err
	}
	return a.store.OpenComments(ctx, m.Workspace, id)
}

// Discussed is what is said of a brief and nobody is done with.
type Discussed = store.Discussed

// mostSaid is how many briefs the Desk says something was said of.
const mostSaid = 8

// Hearers are the names of those an @ in a comment on a brief reaches, who says it left
// out: the team, as far as the brief is there for them.
func (a Proofs) Hearers(ctx context.Context, m Member, s *Set) ([]string, error) {
	team, err := a.store.Team(ctx, m.Workspace)
	if err != nil {
		return nil, err
	}
	var out []string
	for _, t := range team {
		if t.ID != m.ID && t.Suspended == nil && t.Name != "" && sees(Member{Scope: t.Scope}, s.Doc.ID, s.Kit.ID) {
			out = append(out, t.Name)
		}
	}
	return out, nil
}

// Who is who says something with an account.
func (a Proofs) Who(m Member) By { return By{Name: cmp.Or(m.Name, m.Email), Person: &m.ID} }

// Who is who says something having come by the link, under a name.
func (g Guest) Who(name string) By { return By{Name: name, Link: &g.Link.ID} }
