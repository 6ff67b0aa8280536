package app_test

import (
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"aspenridge/internal/app"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/store"
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
	token, err := a.Team.Invite(ctx, m, app.Asked{Email: "ida@two.example", Role: "editor"}, "http://x/join/")
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
		"invitations": func(p app.Member) error { _, err := a.Team.Invite(ctx, p, app.Asked{Role: "owner"}, ""); return err },
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
	invite := func(email, role string) (string, error) {
		return a.Team.Invite(ctx, m, app.Asked{Email: email, Role: role}, "")
	}
	first, err := invite("", "viewer")
	if err != nil {
		t.Fatal(err)
	}
	now = now.Add(time.Second)
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
}

// TestWhoSeesOnlySome: somebody narrowed to a kit sees it, the briefs of it and nothing else, and
// changes those; narrowed to a brief they see its kit without changing it; where what they saw
// is gone they see nothing. An owner sees everything.
func TestWhoSeesOnlySome(t *testing.T) {
	a, m, kit, brief := open(t)
	ctx := t.Context()
	other, err := a.Kits.NewKit(ctx, m, "Heron")
	if err != nil {
		t.Fatal(err)
	}
	second, err := a.Briefs.NewBrief(ctx, m, other)
	if err != nil {
		t.Fatal(err)
	}
	come := func(email string, who app.Asked) app.Member {
		t.Helper()
		p, err := a.People.SignUp(ctx, "Ida", email, "quiet water 2027")
		if err != nil {
			t.Fatal(err)
		}
		token, err := a.Team.Invite(ctx, m, who, "")
		if err != nil {
			t.Fatal(err)
		}
		if _, err := a.Team.Join(ctx, p, token); err != nil {
			t.Fatal(err)
		}
		if p, err = a.People.Member(ctx, p.ID, m.Workspace); err != nil {
			t.Fatal(err)
		}
		return p
	}
	ofKit := come("kit@two.example", app.Asked{Role: "editor", Only: []app.ID{kit}})
	ofBrief := come("brief@two.example", app.Asked{Role: "editor", Only: []app.ID{second}})
	edit := func(p app.Member, id app.ID, path string) error {
		_, err := a.Documents.Edit(ctx, p, id, app.Change{Base: app.Latest, Op: edit.Op{Path: path, Value: []byte(`"Otter"`)}})
		return err
	}
	const tagline = "/$extensions/aspenridge/tagline"
	for name, c := range map[string]struct{ got, want error }{
		"its kit changes":            {edit(ofKit, kit, tagline), nil},
		"a brief of it changes":      {edit(ofKit, brief, "/name"), nil},
		"another kit":                {edit(ofKit, other, tagline), app.ErrNotFound},
		"a brief of another":         {edit(ofKit, second, "/name"), app.ErrNotFound},
		"a brief of it, with a kit":  {a.Briefs.UseKit(ctx, ofKit, brief, other), app.ErrNotFound},
		"a new brief of it":          {func() error { _, err := a.Briefs.NewBrief(ctx, ofKit, kit); return err }(), nil},
		"a new brief of another":     {func() error { _, err := a.Briefs.NewBrief(ctx, ofKit, other); return err }(), app.ErrNotFound},
		"a new kit":                  {func() error { _, err := a.Kits.NewKit(ctx, ofKit, "x"); return err }(), app.ErrNotAllowed},
		"channels are everybody's":   {a.Places.ChangeChannels(ctx, ofKit, "x", opOf("/channels", "[]")), app.ErrNotAllowed},
		"its brief changes":          {edit(ofBrief, second, "/name"), nil},
		"the kit of it is looked at": {func() error { _, err := a.Kits.Kit(ctx, ofBrief, other); return err }(), nil},
		"and not changed":            {edit(ofBrief, other, tagline), app.ErrNotAllowed},
		"another brief's set":        {func() error { _, err := a.Sets.Set(ctx, ofBrief, brief); return err }(), app.ErrNotFound},
		"a link to another brief":    {func() error { _, err := a.Proofs.Link(ctx, ofBrief, brief, app.WishedLink{For: "x"}); return err }(), app.ErrNotFound},
		"it cannot be put away":      {a.Documents.Archive(ctx, ofBrief, brief, true), app.ErrNotFound},
	} {
		if !errors.Is(c.got, c.want) {
			t.Errorf("%s: %v, want %v", name, c.got, c.want)
		}
	}
	seen := func(p app.Member) (kits, briefs []string) {
		t.Helper()
		names, err := a.Kits.KitNames(ctx, p)
		if err != nil {
			t.Fatal(err)
		}
		for _, n := range names {
			kits = append(kits, n.ID.String())
		}
		desk, err := a.Documents.Desk(ctx, p, 10)
		if err != nil || len(desk.Kits) != len(kits) {
			t.Errorf("%d kits on the desk, %d by name, %v", len(desk.Kits), len(kits), err)
		}
		_, total, err := a.Kits.FindKits(ctx, p, store.KitQuery{Limit: 10})
		if err != nil || total != len(kits) {
			t.Errorf("%d kits are found, %d by name, %v", total, len(kits), err)
		}
		sets, _, more, err := a.Briefs.FindBriefs(ctx, p, "", 0)
		if err != nil || more {
			t.Errorf("%d briefs, more: %v, %v", len(sets), more, err)
		}
		for _, s := range sets {
			briefs = append(briefs, s.Kit.ID.String())
		}
		return kits, briefs
	}
	if kits, briefs := seen(ofKit); !slices.Equal(kits, []string{kit.String()}) || len(briefs) != 2 || slices.Contains(briefs, other.String()) {
		t.Errorf("of a kit: %v, %v", kits, briefs)
	}
	if kits, briefs := seen(ofBrief); !slices.Equal(kits, []string{other.String()}) || len(briefs) != 1 {
		t.Errorf("of a brief: %v, %v", kits, briefs)
	}
	if err := a.Team.SetScope(ctx, m, m.ID, []app.ID{kit}); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("an owner is narrowed: %v", err)
	}
	if err := a.Team.SetScope(ctx, m, ofBrief.ID, []app.ID{uuid.New()}); !errors.Is(err, app.ErrNotFound) {
		t.Errorf("to what is not there: %v", err)
	}
	if err := a.Team.SetScope(ctx, ofKit, ofBrief.ID, nil); !errors.Is(err, app.ErrNotAllowed) {
		t.Errorf("by an editor: %v", err)
	}
	if err := a.Team.SetScope(ctx, m, ofBrief.ID, nil); err != nil {
		t.Fatal(err)
	}
	again := func(p app.Member) app.Member {
		t.Helper()
		p, err := a.People.Member(ctx, p.ID, m.Workspace)
		if err != nil {
			t.Fatal(err)
		}
		return p
	}
	if kits, _ := seen(again(ofBrief)); len(kits) < 2 {
		t.Errorf("not narrowed any more: %v", kits)
	}
	if err := a.Team.SetScope(ctx, m, ofBrief.ID, []app.ID{}); err != nil {
		t.Fatal(err)
	}
	if kits, briefs := seen(again(ofBrief)); len(kits)+len(briefs) > 0 {
		t.Errorf("narrowed to nothing: %v, %v", kits, briefs)
	}
	if err := a.Team.SetRole(ctx, m, ofBrief.ID, "owner"); err != nil {
		t.Fatal(err)
	}
	if again(ofBrief).Narrowed {
		t.Error("an owner is narrowed")
	}
}

func opOf(path, value string) edit.Op { return edit.Op{Path: path, Value: []byte(value)} }
