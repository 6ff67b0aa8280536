package app

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/google/uuid"

	"aspenridge/internal/store"
)

// What a team is made of.
type (
	Workspace  = store.Workspace
	Teammate   = store.Teammate
	Invitation = store.Invitation
	Mail       = store.Mail
)

// Roles are what somebody may be, from who may most on.
var Roles = []string{"owner", "editor", "commenter", "viewer"}

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
	name, err := workspaceName(name)
	if err != nil {
		return ID{}, err
	}
	id, err := a.store.CreateWorkspace(ctx, m.ID, name, MostWorkspaces)
	if errors.Is(err, store.ErrTaken) {
		err = fmt.Errorf("%w: you own %d workspaces, as many as anybody may", ErrInvalid, MostWorkspaces)
	}
	return id, err
}

func workspaceName(name string) (string, error) {
	name = oneLine(name)
	if n := len([]rune(name)); n == 0 || n > 100 {
		return "", fmt.Errorf("%w: a workspace has a name of up to 100 letters", ErrInvalid)
	}
	return name, nil
}

// Rename calls the workspace otherwise.
func (a Team) Rename(ctx context.Context, m Member, name string) error {
	if err := may(m, manage); err != nil {
		return err
	}
	name, err := workspaceName(name)
	if err != nil {
		return err
	}
	if err := a.store.RenameWorkspace(ctx, m.Workspace, name); err != nil {
		return err
	}
	return a.noteOf(ctx, m, noteTeam, ID{}, "calls the workspace %s", name)
}

// People are those of the workspace.
func (a Team) People(ctx context.Context, m Member) ([]Teammate, error) {
	if err := may(m, view); err != nil {
		return nil, err
	}
	return a.store.Team(ctx, m.Workspace)
}

// SetRole gives somebody another role: ownership is handed over so, too.
func (a Team) SetRole(ctx context.Context, m Member, person ID, role string) error {
	if err := may(m, manage); err != nil {
		return err
	}
	if !slices.Contains(Roles, role) {
		return fmt.Errorf("%w: role %.40q: want %s", ErrInvalid, role, strings.Join(Roles, ", "))
	}
	return a.noted(ctx, m, person, owned(a.store.SetRole(ctx, m.Workspace, person, role)), "made %s "+role)
}

// owned says in words what hinders a change of a team.
func owned(err error) error {
	if errors.Is(err, store.ErrLastOwner) {
		return fmt.Errorf("%w: a workspace needs an owner: make somebody else one first", ErrInvalid)
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
	if err := may(m, manage); err != nil {
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
		if err := may(m, manage); err != nil {
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
	return a.noteOf(ctx, m, noteTeam, ID{}, "took %s out of the team", name)
}

// Asked is who is asked into a workspace.
type Asked struct {
	Email string // "" for whoever has the link
	Role  string
	Only  []ID // the kits and briefs they will see, nil for everything
}

// Invite asks somebody into the workspace: by an address, to which a mail goes, or whoever has
// the link. way is how addresses of invitations begin. The token is told once, and not kept.
func (a Team) Invite(ctx context.Context, m Member, who Asked, way string) (token string, err error) {
	if err := may(m, manage); err != nil {
		return "", err
	}
	email, role := strings.TrimSpace(who.Email), who.Role
	if email != "" {
		if email, err = emailAddress(email); err != nil {
			return "", err
		}
	}
	switch {
	case !slices.Contains(Roles, role):
		return "", fmt.Errorf("%w: role %.40q: want %s", ErrInvalid, role, strings.Join(Roles, ", "))
	case role == "owner" && who.Only != nil:
		return "", fmt.Errorf("%w: an owner sees everything", ErrInvalid)
	}
	only, err := a.scopeOf(ctx, m, who.Only)
	if err != nil {
		return "", err
	}
	now := a.now()
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
	token = newToken()
	i := Invitation{ID: uuid.New(), Workspace: m.Workspace, Email: email, Role: role, Only: only, Expires: now.AddDate(0, 0, InvitationDays)}
	var tell *Mail
	if email != "" {
		tell = &Mail{
			Workspace: &m.Workspace, To: email, Subject: fmt.Sprintf("%s asks you into %s", m.Name, m.WorkspaceName),
			Body: fmt.Sprintf("%s asks you into the workspace %s as %s.\n\n%s%s\n\nThe link can be used once, until %s.", m.Name, m.WorkspaceName, role, way, token, i.Expires.UTC().Format("2 January 2006")),
		}
	}
	if err := a.store.PutInvitation(ctx, i, hashOfToken(token), m.ID, tell); err != nil {
		return "", err
	}
	return token, a.noteOf(ctx, m, noteTeam, ID{}, "asked %s in as %s", cmp.Or(email, "whoever has a link"), role)
}

// Invitations are those nobody has used yet.
func (a Team) Invitations(ctx context.Context, m Member) ([]Invitation, error) {
	if err := may(m, manage); err != nil {
		return nil, err
	}
	return a.store.Invitations(ctx, m.Workspace, a.now())
}

// EndInvitation takes an invitation back.
func (a Team) EndInvitation(ctx context.Context, m Member, id ID) error {
	if err := may(m, manage); err != nil {
		return err
	}
	return a.store.EndInvitation(ctx, m.Workspace, id)
}

// Invitation is one by its token; [ErrNotFound] for one that was used, taken back, or is over.
func (a Team) Invitation(ctx context.Context, token string) (Invitation, error) {
	return a.store.Invitation(ctx, hashOfToken(token), a.now())
}

// Join uses an invitation: whoever it is for is in the workspace then.
func (a Team) Join(ctx context.Context, m Member, token string) (workspace ID, err error) {
	i, err := a.Invitation(ctx, token)
	if err != nil {
		return ID{}, err
	}
	if i.Email != "" && !strings.EqualFold(i.Email, m.Email) {
		return ID{}, fmt.Errorf("%w: this invitation is for somebody else: sign in with the address it was sent to", ErrInvalid)
	}
	err = a.store.Join(ctx, i.ID, m.ID)
	if errors.Is(err, store.ErrUsed) {
		err = ErrNotFound
	}
	if err == nil {
		in := m
		in.Workspace = i.Workspace
		err = a.noteOf(ctx, in, noteTeam, ID{}, "came in as %s", i.Role)
	}
	return i.Workspace, err
}

// Mailbox is what was sent from the workspace, or would have been.
func (a Team) Mailbox(ctx context.Context, m Member) ([]Mail, error) {
	if err := may(m, manage); err != nil {
		return nil, err
	}
	return a.store.Mails(ctx, m.Workspace)
}
