package store

import (
	"context"
	"errors"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"aspenridge/internal/core/roles"
)

// Workspace is one a person is in.
type Workspace struct {
	ID   ID
	Name string
	Role string
}

// Teammate is a person in a workspace.
type Teammate struct {
	ID        ID
	Name      string
	Email     string
	Role      string
	Joined    time.Time
	Suspended *time.Time
	Scope
}

// Invitation asks somebody into a workspace.
type Invitation struct {
	ID        ID
	Workspace ID
	Name      string // of the workspace
	Email     string // whom it is for, "" for whoever has the link
	Role      string
	By        string // name of who asks
	Made      time.Time
	Expires   time.Time
	Only      []ID // what they will see, nil for everything
}

// Whatever hinders a change of a team.
var (
	ErrLastOwner = errors.New("a workspace needs an owner")
	ErrUsed      = errors.New("that invitation has been used")
)

// Workspaces are those a person may go to, by name.
func (s *Store) Workspaces(ctx context.Context, user ID) ([]Workspace, error) {
	rows, err := s.Pool.Query(ctx, `select w.id, w.name, m.role from members m join workspaces w on w.id = m.workspace_id
		where m.user_id = $1 and m.suspended_at is null and w.arriving_since is null order by lower(w.name), w.created_at`, user)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Workspace])
}

// CreateWorkspace makes a workspace with its owner; most is how many a person may own. One that is
// arriving is on no list before [Store.Arrived]. Made by a change that arrives again it is the one
// that is there.
func (s *Store) CreateWorkspace(ctx context.Context, by Member, name string, most int, arriving bool) (id ID, err error) {
	owner := by.ID
	if id = by.changeIn(owner); id == (ID{}) { // whichever workspace they are in
		id = uuid.New()
	}
	err = s.tx(ctx, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `select from users where id = $1 for update`, owner); err != nil {
			return err
		}
		var made bool
		if err := tx.QueryRow(ctx, `select exists (select from members where workspace_id = $1 and user_id = $2)`, id, owner).Scan(&made); err != nil || made {
			return err
		}
		var have int
		if err := tx.QueryRow(ctx, `select count(*) from members where user_id = $1 and role = 'owner'`, owner).Scan(&have); err != nil {
			return err
		}
		if have >= most {
			return ErrTaken
		}
		if _, err := tx.Exec(ctx, `insert into workspaces (id, name, arriving_since) values ($3, $1, case when $2 then now() end)`, name, arriving, id); err != nil {
			return err
		}
		_, err := tx.Exec(ctx, `insert into members (workspace_id, user_id, role) values ($1, $2, 'owner')`, id, owner)
		return err
	})
	return id, err
}

// Arrived puts a workspace that was filled from a file on the lists.
func (s *Store) Arrived(ctx context.Context, id ID) error {
	_, err := s.Pool.Exec(ctx, `update workspaces set arriving_since = null where id = $1`, id)
	return err
}

// Stranded are workspaces whose filling was cut short.
func (s *Store) Stranded(ctx context.Context, before time.Time) ([]ID, error) {
	rows, err := s.Pool.Query(ctx, `select id from workspaces where arriving_since < $1`, before)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowTo[ID])
}

// FilesOf are the hashes of the files of a workspace.
func (s *Store) FilesOf(ctx context.Context, id ID) ([]string, error) {
	rows, err := s.Pool.Query(ctx, `select distinct hash from files where workspace_id = $1`, id)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowTo[string])
}

// RenameWorkspace calls a workspace otherwise.
func (s *Store) RenameWorkspace(ctx context.Context, workspace ID, name string) error {
	_, err := s.Pool.Exec(ctx, `update workspaces set name = $2 where id = $1`, workspace, name)
	return err
}

// Team are the people of a workspace, owners first.
func (s *Store) Team(ctx context.Context, workspace ID) ([]Teammate, error) {
	rows, err := s.Pool.Query(ctx, `select u.id, u.name, u.email, m.role, m.joined_at, m.suspended_at, `+scope+` from members m join users u on u.id = m.user_id
		where m.workspace_id = $1 order by array_position($2::text[], m.role), lower(u.name), u.id`, workspace, roles.Names())
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (t Teammate, err error) {
		return t, r.Scan(&t.ID, &t.Name, &t.Email, &t.Role, &t.Joined, &t.Suspended, &t.Narrowed, &t.Only, &t.Through)
	})
}

// ChangeTeam changes one person's place in a workspace by a statement over $1 (workspace) and
// $2 (person), and what else it takes; [ErrLastOwner] where nobody would own it then.
func (s *Store) changeTeam(ctx context.Context, statement string, workspace, user ID, more ...any) error {
	return s.tx(ctx, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `select from workspaces where id = $1 for update`, workspace); err != nil {
			return err
		}
		tag, err := tx.Exec(ctx, statement, append([]any{workspace, user}, more...)...)
		if err != nil {
			return err
		}
		if tag.RowsAffected() == 0 {
			return ErrNotFound
		}
		var owned bool
		if err := tx.QueryRow(ctx, `select exists (select from members where workspace_id = $1 and role = 'owner' and suspended_at is null)`, workspace).Scan(&owned); err != nil {
			return err
		}
		if !owned {
			return ErrLastOwner
		}
		return tellPerson(ctx, tx, user)
	})
}

// tellPerson has pages somebody has open ask anew what they may.
func tellPerson(ctx context.Context, tx pgx.Tx, user ID) error {
	_, err := tx.Exec(ctx, `select pg_notify('document', $1::text || ' 0')`, user)
	return err
}

// SetRole gives a person of a workspace another role; an owner sees everything.
func (s *Store) SetRole(ctx context.Context, workspace, user ID, role string) error {
	return s.changeTeam(ctx, `update members set role = $3, narrowed = narrowed and $3 <> 'owner' where workspace_id = $1 and user_id = $2`, workspace, user, role)
}

// Suspend keeps a person out of a workspace until that is lifted.
func (s *Store) Suspend(ctx context.Context, workspace, user ID, out bool) error {
	return s.changeTeam(ctx, `update members set suspended_at = case when $3 then now() end where workspace_id = $1 and user_id = $2`, workspace, user, out)
}

// RemoveMember takes a person out of a workspace; what they made stays.
func (s *Store) RemoveMember(ctx context.Context, workspace, user ID) error {
	return s.changeTeam(ctx, `delete from members where workspace_id = $1 and user_id = $2`, workspace, user)
}

// PutInvitation keeps an invitation by the hash of its token, with the mail that tells of it
// (nil for none).
func (s *Store) PutInvitation(ctx context.Context, i Invitation, token []byte, by ID, mail *Mail) error {
	return s.tx(ctx, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `insert into invitations (id, workspace_id, email, role, token_hash, made_by, expires_at, scope, made_at) values ($1, $2, $3, $4, $5, $6, $7, $8, $9)`,
			i.ID, i.Workspace, i.Email, i.Role, token, by, i.Expires, i.Only, i.Made); err != nil {
			return err
		}
		if mail == nil {
			return nil
		}
		return putMail(ctx, tx, *mail)
	})
}

// Invited reports whether an invitation of an id was made.
func (s *Store) Invited(ctx context.Context, workspace, id ID) (made bool, err error) {
	err = s.Pool.QueryRow(ctx, `select exists (select from invitations where workspace_id = $1 and id = $2)`, workspace, id).Scan(&made)
	return made, err
}

const invitation = `i.id, i.workspace_id, w.name, i.email, i.role, coalesce(u.name, 'somebody'), i.made_at, i.expires_at, i.scope from invitations i join workspaces w on w.id = i.workspace_id left join users u on u.id = i.made_by`

// Invitations are those of a workspace nobody has used, the newest first.
func (s *Store) Invitations(ctx context.Context, workspace ID, now time.Time) ([]Invitation, error) {
	rows, err := s.Pool.Query(ctx, `select `+invitation+` where i.workspace_id = $1 and i.used_at is null and i.ended_at is null and i.expires_at > $2 order by i.made_at desc`, workspace, now)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Invitation])
}

// Invitation finds one that can be used, by the hash of its token.
func (s *Store) Invitation(ctx context.Context, token []byte, now time.Time) (Invitation, error) {
	rows, err := s.Pool.Query(ctx, `select `+invitation+` where i.token_hash = $1 and i.used_at is null and i.ended_at is null and i.expires_at > $2`, token, now)
	if err != nil {
		return Invitation{}, err
	}
	i, err := pgx.CollectExactlyOneRow(rows, pgx.RowToStructByPos[Invitation])
	return i, notFound(err)
}

// Join uses an invitation, once: the person is in the workspace then, in the role it has; one
// who is in it with another role keeps that.
func (s *Store) Join(ctx context.Context, invitation, user ID) error {
	return s.tx(ctx, func(tx pgx.Tx) error {
		var workspace ID
		var role string
		var only []ID
		err := tx.QueryRow(ctx, `update invitations set used_at = now(), used_by = $2 where id = $1 and used_at is null and ended_at is null returning workspace_id, role, scope`, invitation, user).Scan(&workspace, &role, &only)
		if errors.Is(err, pgx.ErrNoRows) {
			return ErrUsed
		}
		if err != nil {
			return err
		}
		tag, err := tx.Exec(ctx, `insert into members (workspace_id, user_id, role, narrowed) values ($1, $2, $3, $4) on conflict (workspace_id, user_id) do nothing`, workspace, user, role, only != nil)
		if err != nil || tag.RowsAffected() == 0 {
			return err
		}
		return putScope(ctx, tx, workspace, user, only)
	})
}

// InvitationsSince counts the invitations of a workspace that were made since a time, and says
// whether one of it was ever used.
func (s *Store) InvitationsSince(ctx context.Context, workspace ID, since time.Time) (made int, used bool, err error) {
	err = s.Pool.QueryRow(ctx, `select count(*) filter (where made_at > $2), coalesce(bool_or(used_at is not null), false) from invitations where workspace_id = $1`, workspace, since).Scan(&made, &used)
	return made, used, err
}

// DemandCodes says whether a workspace demands codes of everybody.
func (s *Store) DemandCodes(ctx context.Context, workspace ID, on bool) error {
	_, err := s.Pool.Exec(ctx, `update workspaces set demands_codes = $2 where id = $1`, workspace, on)
	return err
}

// CodesDemanded reports whether a workspace demands codes, and how many in it have none.
func (s *Store) CodesDemanded(ctx context.Context, workspace ID) (on bool, lack int, err error) {
	err = s.Pool.QueryRow(ctx, `select w.demands_codes, (select count(*) from members m join users u on u.id = m.user_id where m.workspace_id = w.id and m.suspended_at is null and u.totp_secret is null) from workspaces w where w.id = $1`, workspace).Scan(&on, &lack)
	return on, lack, err
}

// EndInvitation takes an invitation back.
func (s *Store) EndInvitation(ctx context.Context, workspace, id ID) error {
	_, err := s.Pool.Exec(ctx, `update invitations set ended_at = now() where workspace_id = $1 and id = $2 and used_at is null and ended_at is null`, workspace, id)
	return err
}

// DeleteWorkspace takes a workspace away for good, with all that is in it.
func (s *Store) DeleteWorkspace(ctx context.Context, id ID) error {
	return s.tx(ctx, func(tx pgx.Tx) error { return deleteWorkspace(ctx, tx, id) })
}

func deleteWorkspace(ctx context.Context, tx pgx.Tx, id ID) error {
	for _, of := range []string{"finished", "edits", "jobs"} { // what does not go with the workspace by itself
		if _, err := tx.Exec(ctx, `delete from `+of+` where workspace_id = $1`, id); err != nil {
			return err
		}
	}
	_, err := tx.Exec(ctx, `delete from workspaces where id = $1`, id)
	return err
}
