package app

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"aspenridge/internal/account"
	"aspenridge/internal/act"
	"aspenridge/internal/core/plain"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/secret"
	"aspenridge/internal/store"
)

// What a team is made of.
type (
	Workspace  = store.Workspace
	Teammate   = store.Teammate
	Invitation = store.Invitation
	Mail       = store.Mail
)

// What a team may have.
const (
	MostWorkspaces  = 50  // a person may own
	MostTeam        = 200 // people and open invitations
	InvitationDays  = 14  // an invitation can be used
	MostInvitations = 50  // open at a time
)

// Workspaces are those a person may go to.
func (a Team) Workspaces(ctx context.Context, m Member) ([]Workspace, error) {
	return a.store.Workspaces(ctx, m.ID)
}

// NewWorkspace makes a workspace somebody owns.
func (a Team) NewWorkspace(ctx context.Context, m Member, name string) (ID, error) {
	return a.newWorkspace(ctx, m, name, false)
}

// newWorkspace makes one, on no list while it is filled from a file.
func (a Team) newWorkspace(ctx context.Context, m Member, name string, arriving bool) (ID, error) {
	name, err := workspaceName(name)
	if err != nil {
		return ID{}, err
	}
	id, err := a.store.CreateWorkspace(ctx, m, name, MostWorkspaces, arriving)
	if errors.Is(err, store.ErrTaken) {
		err = fmt.Errorf("%w: you own %d workspaces, as many as anybody may", ErrInvalid, MostWorkspaces)
	}
	return id, err
}

func workspaceName(name string) (string, error) {
	if strings.ContainsRune(name, 0) || !utf8.ValidString(name) {
		return "", account.ErrBroken
	}
	name = plain.Line(name)
	if n := len([]rune(name)); n == 0 || n > 100 {
		return "", fmt.Errorf("%w: a workspace has a name of up to 100 letters", ErrInvalid)
	}
	return name, nil
}

// Rename calls the workspace otherwise.
func (a Team) Rename(ctx context.Context, m Member, name string) error {
	if err := act.May(m, roles.ManageWorkspace); err != nil {
		return err
	}
	name, err := workspaceName(name)
	if err != nil {
		return err
	}
	if err := a.store.RenameWorkspace(ctx, m.Workspace, name); err != nil {
		return err
	}
	return a.noteOf(ctx, m, noteTeam, ID{}, "renamed the workspace to %s", name)
}

// People are those of the workspace.
func (a Team) People(ctx context.Context, m Member) ([]Teammate, error) {
	if err := act.May(m, roles.Look); err != nil {
		return nil, err
	}
	return a.store.Team(ctx, m.Workspace)
}

// SetRole gives somebody another role: ownership is handed over so, too.
func (a Team) SetRole(ctx context.Context, m Member, person ID, role string) error {
	if err := act.May(m, roles.ManagePeople); err != nil {
		return err
	}
	if !slices.Contains(roles.Names(), role) {
		return fmt.Errorf("%w: role %.40q: want %s", ErrInvalid, role, strings.Join(roles.Names(), ", "))
	}
	return a.noted(ctx, m, person, owned(a.store.SetRole(ctx, m.Workspace, person, role)), "made %s "+role)
}

// owned says in words what hinders a change of a team.
func owned(err error) error {
	if errors.Is(err, store.ErrLastOwner) {
		return fmt.Errorf("%w: a workspace needs an owner: make someone else one first", ErrInvalid)
	}
	return err
}

// noted keeps in the record what was done with the place of somebody, once it is done.
func (a *house) noted(ctx context.Context, m Member, person ID, err error, words string) error {
	if err != nil {
		return err
	}
	name, err := a.store.UserName(ctx, person)
	if err != nil {
		return err
	}
	return a.noteOf(ctx, m, noteTeam, ID{}, words, name)
}

// Suspend keeps somebody out until that is lifted.
func (a Team) Suspend(ctx context.Context, m Member, person ID, out bool) error {
	if err := act.May(m, roles.ManagePeople); err != nil {
		return err
	}
	words := "let %s in again"
	if out {
		words = "keeps %s out"
	}
	return a.noted(ctx, m, person, owned(a.store.Suspend(ctx, m.Workspace, person, out)), words)
}

// Remove takes somebody out of the workspace, or oneself; what they made stays.
func (a Team) Remove(ctx context.Context, m Member, person ID) error {
	if person != m.ID {
		if err := act.May(m, roles.ManagePeople); err != nil {
			return err
		}
	}
	name, err := a.store.UserName(ctx, person)
	if err != nil {
		return err
	}
	if err := owned(a.store.RemoveMember(ctx, m.Workspace, person)); err != nil {
		return err
	}
	if person == m.ID {
		return a.noteOf(ctx, m, noteTeam, ID{}, "left")
	}
	return a.noteOf(ctx, m, noteTeam, ID{}, "removed %s from the team", name)
}

// Asked is who is asked into a workspace.
type Asked struct {
	Email string // "" for whoever has the link
	Role  string
	Only  []ID // the kits and briefs they will see, nil for everything

	Network string // where the invitation is made, "" for no limit by it
}

// How many invitations are made: few until somebody has come by one. An address that has not
// answered gets no second mail within a day, whoever asks, and only so many in a month.
const (
	mostAsksFresh   = 20  // of a workspace and of a network, a day
	mostAsks        = 200 // of a workspace, once somebody has come in
	mostMailsUnread = 4   // to an address, in 30 days
)

// Invite asks somebody into the workspace: by an address, to which a mail goes, or whoever has
// the link. way is how addresses of invitations begin. The token is told once, and not kept.
func (a Team) Invite(ctx context.Context, m Member, who Asked, way string) (string, error) {
	if err := act.May(m, roles.ManagePeople); err != nil {
		return "", err
	}
	email, role := strings.TrimSpace(who.Email), who.Role
	if email != "" {
		var err error
		if email, err = account.EmailAddress(email); err != nil {
			return "", err
		}
	}
	switch {
	case !slices.Contains(roles.Names(), role):
		return "", fmt.Errorf("%w: role %.40q: want %s", ErrInvalid, role, strings.Join(roles.Names(), ", "))
	case role == roles.Owner && who.Only != nil:
		return "", fmt.Errorf("%w: an owner sees everything", ErrInvalid)
	}
	only, err := a.scopeOf(ctx, m, who.Only)
	if err != nil {
		return "", err
	}
	now := a.now()
	id, token, err := a.once(ctx, m, "invitation")
	if err != nil {
		return "", err
	}
	if made, err := a.store.Invited(ctx, m.Workspace, id); err != nil || made {
		return token, err
	}
	open, err := a.store.Invitations(ctx, m.Workspace, now)
	if err != nil {
		return "", err
	}
	team, err := a.store.Team(ctx, m.Workspace)
	if err != nil {
		return "", err
	}
	switch {
	case len(open) >= MostInvitations:
		return "", fmt.Errorf("%w: %d invitations are open: take one back first", ErrInvalid, len(open))
	case len(open)+len(team) >= MostTeam:
		return "", fmt.Errorf("%w: a workspace has at most %d people", ErrInvalid, MostTeam)
	case email != "" && slices.ContainsFunc(team, func(t Teammate) bool { return strings.EqualFold(t.Email, email) }):
		return "", fmt.Errorf("%w: %s is in the team already", ErrInvalid, email)
	}
	mailed := false
	if email != "" {
		if mailed, err = a.mayInviteByMail(ctx, open, email); err != nil {
			return "", err
		}
	}
	if err := a.invitedOften(ctx, m, who.Network); err != nil {
		return "", err
	}
	i := Invitation{ID: id, Workspace: m.Workspace, Email: email, Role: role, Only: only, Made: now, Expires: now.AddDate(0, 0, InvitationDays)}
	var tell *Mail
	if mailed {
		tell = &Mail{
			Workspace: &m.Workspace, To: email, Kind: "invitation", Subject: "You are invited to a workspace on Aspenridge",
			Body: fmt.Sprintf("%s, who signs in as %s, invites you to the workspace %s on Aspenridge as %s.\n\nIf you know them and expect this, join here. The link works once, until %s:\n%s%s\n\nIf not, do nothing. Aspenridge never asks for a password by mail.",
				plain.Quoted(m.Name), plain.Unlinked(m.Email), plain.Quoted(m.WorkspaceName), role, i.Expires.UTC().Format("2 January 2006"), way, token),
		}
	}
	if err := a.store.PutInvitation(ctx, i, secret.Hash(token), m.ID, tell); err != nil {
		return "", err
	}
	return token, a.noteOf(ctx, m, noteTeam, ID{}, "invited %s as %s", cmp.Or(email, "anyone with the link"), role)
}

// mayInviteByMail reports whether an invitation goes out by mail; one that waits for an answer
// in this workspace since less than a day is refused.
func (a *house) mayInviteByMail(ctx context.Context, open []Invitation, email string) (bool, error) {
	now := a.now()
	for _, i := range open {
		if strings.EqualFold(i.Email, email) && now.Sub(i.Made) < 24*time.Hour {
			return false, fmt.Errorf("%w: %s was invited less than a day ago and has not answered yet: give them that link, or take that invitation back and wait", ErrInvalid, email)
		}
	}
	lately, err := a.store.MailsTo(ctx, email, "invitation", now.AddDate(0, 0, -1))
	if err != nil {
		return false, err
	}
	unread, err := a.store.MailsTo(ctx, email, "invitation", now.AddDate(0, 0, -30))
	return lately == 0 && unread < mostMailsUnread, err
}

// invitedOften refuses one invitation too many of a workspace or a network.
func (a *house) invitedOften(ctx context.Context, m Member, network string) error {
	made, used, err := a.store.InvitationsSince(ctx, m.Workspace, a.now().AddDate(0, 0, -1))
	if err != nil {
		return err
	}
	most := mostAsksFresh
	if used {
		most = mostAsks
	}
	if made >= most || !used && network != "" && a.people.Often(ctx, "invite", network, mostAsksFresh, 24*time.Hour) {
		return fmt.Errorf("%w: at most %d invitations are made in a day: go on tomorrow", ErrInvalid, most)
	}
	return nil
}

// DemandCodes has everybody in the workspace set up two-step sign-in before they go on, or ends
// that; who demands it has it.
func (a Team) DemandCodes(ctx context.Context, m Member, on bool) error {
	if err := act.May(m, roles.ManageWorkspace); err != nil {
		return err
	}
	if on {
		codes, err := a.people.Codes(ctx, m)
		if err != nil {
			return err
		}
		if !codes.On {
			return fmt.Errorf("%w: set up two-step sign-in for yourself first, under Account", ErrInvalid)
		}
	}
	if err := a.store.DemandCodes(ctx, m.Workspace, on); err != nil {
		return err
	}
	return a.noteOf(ctx, m, noteTeam, ID{}, "%s", map[bool]string{true: "demands two-step sign-in of everybody", false: "no longer demands two-step sign-in"}[on])
}

// CodesDemanded reports whether the workspace demands two-step sign-in, and how many people in it
// have none yet.
func (a Team) CodesDemanded(ctx context.Context, m Member) (on bool, lack int, err error) {
	if err := act.May(m, roles.Look); err != nil {
		return false, 0, err
	}
	return a.store.CodesDemanded(ctx, m.Workspace)
}

// Invitations are those nobody has used yet.
func (a Team) Invitations(ctx context.Context, m Member) ([]Invitation, error) {
	if err := act.May(m, roles.ManagePeople); err != nil {
		return nil, err
	}
	return a.store.Invitations(ctx, m.Workspace, a.now())
}

// EndInvitation takes an invitation back.
func (a Team) EndInvitation(ctx context.Context, m Member, id ID) error {
	if err := act.May(m, roles.ManagePeople); err != nil {
		return err
	}
	return a.store.EndInvitation(ctx, m.Workspace, id)
}

// Invitation is one by its token; [ErrNotFound] for one that was used, taken back, or is over.
func (a Team) Invitation(ctx context.Context, token string) (Invitation, error) {
	return a.store.Invitation(ctx, secret.Hash(token), a.now())
}

// Join uses an invitation: whoever it is for is in the workspace then.
func (a Team) Join(ctx context.Context, m Member, token string) (workspace ID, err error) {
	i, err := a.Invitation(ctx, token)
	if err != nil {
		return ID{}, err
	}
	if i.Email != "" && !strings.EqualFold(i.Email, m.Email) {
		return ID{}, fmt.Errorf("%w: this invitation is for someone else: sign in with the address it was sent to", ErrInvalid)
	}
	err = a.store.Join(ctx, i.ID, m.ID)
	if errors.Is(err, store.ErrUsed) {
		err = ErrNotFound
	}
	if err == nil {
		in := m
		in.Workspace = i.Workspace
		err = a.noteOf(ctx, in, noteTeam, ID{}, "joined as %s", i.Role)
	}
	return i.Workspace, err
}

// Mailbox is what was sent from the workspace, or would have been.
func (a Team) Mailbox(ctx context.Context, m Member) ([]Mail, error) {
	if err := act.May(m, roles.ManagePeople); err != nil {
		return nil, err
	}
	return a.store.Mails(ctx, m.Workspace)
}
