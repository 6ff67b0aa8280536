package app_test

import (
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"aspenridge/internal/app"
)

// TestATeam: somebody is asked in by mail and comes in once, with the address it was for; roles
// are changed, ownership handed over, people kept out, let in again and taken out, and the last
// owner stays.
func TestATeam(t *testing.T) {
	a, m := newcomer(t)
	ctx := t.Context()
	sign := func(name, email string) app.Member {
		t.Helper()
		out, err := a.People.SignUp(ctx, name, email, "ten or more letters")
		if err != nil {
			t.Fatal(err)
		}
		return out
	}
	ida, other := sign("Ida", "Ida@two.example"), sign("Other", "other@three.example")
	token, err := a.Team.Invite(ctx, m, "ida@two.example", "editor", "http://x/join/")
	if err != nil || len(token) < 22 {
		t.Fatal(token, err)
	}
	mails, err := a.Team.Mailbox(ctx, m)
	if err != nil || len(mails) != 1 || mails[0].To != "ida@two.example" || !strings.Contains(mails[0].Body, "http://x/join/"+token) {
		t.Fatalf("%+v, %v", mails, err)
	}
	if i, err := a.Team.Invitation(ctx, token); err != nil || i.By != "Nell" || i.Role != "editor" || i.Name != m.WorkspaceName {
		t.Errorf("%+v, %v", i, err)
	}
	if _, err := a.Team.Join(ctx, other, token); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("somebody else uses it: %v", err)
	}
	if in, err := a.Team.Join(ctx, ida, token); err != nil || in != m.Workspace {
		t.Fatal(in, err)
	}
	if _, err := a.Team.Join(ctx, ida, token); !errors.Is(err, app.ErrNotFound) {
		t.Errorf("it is used twice: %v", err)
	}
	here := func(p app.Member) app.Member {
		t.Helper()
		out, err := a.People.Member(ctx, p.ID, m.Workspace)
		if err != nil {
			t.Fatal(err)
		}
		return out
	}
	if got := here(ida); got.Workspace != m.Workspace || got.Role != "editor" {
		t.Errorf("%+v", got)
	}
	if spaces, err := a.Team.Workspaces(ctx, ida); err != nil || len(spaces) != 2 {
		t.Errorf("%+v, %v", spaces, err)
	}
	// an editor does not manage
	for name, act := range map[string]func(app.Member) error{
		"roles":       func(p app.Member) error { return a.Team.SetRole(ctx, p, m.ID, "viewer") },
		"invitations": func(p app.Member) error { _, err := a.Team.Invite(ctx, p, "", "owner", ""); return err },
		"keeping out": func(p app.Member) error { return a.Team.Suspend(ctx, p, m.ID, true) },
		"taking out":  func(p app.Member) error { return a.Team.Remove(ctx, p, m.ID) },
		"the name":    func(p app.Member) error { return a.Team.Rename(ctx, p, "Mine") },
		"the mailbox": func(p app.Member) error { _, err := a.Team.Mailbox(ctx, p); return err },
		"taking back": func(p app.Member) error { return a.Team.EndInvitation(ctx, p, uuid.New()) },
	} {
		if err := act(here(ida)); !errors.Is(err, app.ErrNotAllowed) {
			t.Errorf("an editor and %s: %v", name, err)
		}
	}
	// the last owner stays
	for name, err := range map[string]error{
		"leaves":    a.Team.Remove(ctx, m, m.ID),
		"steps":     a.Team.SetRole(ctx, m, m.ID, "editor"),
		"keeps out": a.Team.Suspend(ctx, m, m.ID, true),
	} {
		if !errors.Is(err, app.ErrInvalid) {
			t.Errorf("the last owner %s: %v", name, err)
		}
	}
	if err := a.Team.Suspend(ctx, m, ida.ID, true); err != nil {
		t.Fatal(err)
	}
	if got := here(ida); got.Workspace == m.Workspace {
		t.Error("who is kept out is in")
	}
	if in, err := a.People.Belongs(ctx, app.Member{User: ida.User, Workspace: m.Workspace}); err != nil || in {
		t.Errorf("who is kept out belongs: %v, %v", in, err)
	}
	if err := a.Team.Suspend(ctx, m, ida.ID, false); err != nil {
		t.Fatal(err)
	}
	// ownership is handed over
	if err := a.Team.SetRole(ctx, m, ida.ID, "owner"); err != nil {
		t.Fatal(err)
	}
	kit, err := a.Kits.NewKit(ctx, m, "Otter")
	if err != nil {
		t.Fatal(err)
	}
	if err := a.Team.Remove(ctx, m, m.ID); err != nil {
		t.Errorf("with another owner one cannot leave: %v", err)
	}
	if k, err := a.Kits.Kit(ctx, here(ida), kit); err != nil || k.Name != "Otter" {
		t.Errorf("what was made went with who made it: %v", err)
	}
	people, err := a.Team.People(ctx, here(ida))
	if err != nil || len(people) != 1 || people[0].ID != ida.ID {
		t.Errorf("%+v, %v", people, err)
	}
	if err := a.Team.SetRole(ctx, here(ida), other.ID, "editor"); !errors.Is(err, app.ErrNotFound) {
		t.Errorf("somebody of another workspace: %v", err)
	}
}

// TestInvitationsEnd: by themselves after some days, or taken back; one without an address is
// for whoever has it; what cannot be is refused.
func TestInvitationsEnd(t *testing.T) {
	now := time.Now()
	a, m := newcomerAt(t, func() time.Time { return now })
	ctx := t.Context()
	invite := func(email, role string) (string, error) { return a.Team.Invite(ctx, m, email, role, "") }
	first, err := invite("", "viewer")
	if err != nil {
		t.Fatal(err)
	}
	second, err := invite("", "commenter")
	if err != nil {
		t.Fatal(err)
	}
	list, err := a.Team.Invitations(ctx, m)
	if err != nil || len(list) != 2 || list[0].Role != "commenter" {
		t.Fatalf("%+v, %v", list, err)
	}
	if err := a.Team.EndInvitation(ctx, m, list[0].ID); err != nil {
		t.Fatal(err)
	}
	if _, err := a.Team.Invitation(ctx, second); !errors.Is(err, app.ErrNotFound) {
		t.Errorf("one that was taken back: %v", err)
	}
	now = now.AddDate(0, 0, app.InvitationDays+1)
	if _, err := a.Team.Invitation(ctx, first); !errors.Is(err, app.ErrNotFound) {
		t.Errorf("one that is over: %v", err)
	}
	if mails, err := a.Team.Mailbox(ctx, m); err != nil || len(mails) != 0 {
		t.Errorf("%d mails about links, %v", len(mails), err)
	}
	for name, c := range map[string][2]string{"no address": {"ida", "editor"}, "no role": {"", "king"}, "oneself": {"NELL@larkmoor.example", "editor"}, "a header": {"a@b.example\r\nBcc: c@d.example", "editor"}} {
		if _, err := invite(c[0], c[1]); !errors.Is(err, app.ErrInvalid) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if _, err := a.Team.NewWorkspace(ctx, m, " \u202e "); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("a workspace without a name: %v", err)
	}
	id, err := a.Team.NewWorkspace(ctx, m, "Pellow & Finch")
	if err != nil {
		t.Fatal(err)
	}
	there, err := a.People.Member(ctx, m.ID, id)
	if err != nil || there.WorkspaceName != "Pellow & Finch" || there.Role != "owner" {
		t.Errorf("%+v, %v", there, err)
	}
	if kits, err := a.Kits.KitNames(ctx, there); err != nil || len(kits) != 0 {
		t.Errorf("%d kits in a new workspace, %v", len(kits), err)
	}
	if !slices.Equal(app.Roles, []string{"owner", "editor", "commenter", "viewer"}) {
		t.Error(app.Roles)
	}
}
