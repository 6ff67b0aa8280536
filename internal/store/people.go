package store

import (
	"context"
	"errors"

	"github.com/jackc/pgx/v5"
)

// ErrTaken means an e-mail address has as many accounts as it may have.
var ErrTaken = errors.New("that e-mail address has as many accounts as it may have")

// User is a person with an account.
type User struct {
	ID           ID
	Email, Name  string
	PasswordHash string
}

// Member is a person in a workspace.
type Member struct {
	User
	Workspace     ID
	WorkspaceName string
	Role          string // owner, editor, commenter, viewer
	Scope
	Session ID // of the browser they are signed in with, zero for none
}

// lockEmail has the accounts of an address made and moved one after the other.
const lockEmail = `select pg_advisory_xact_lock(hashtextextended(lower($1), 11))`

// CreateUser makes an account with a workspace of its own; ErrTaken when the
// address has most of them already.
func (s *Store) CreateUser(ctx context.Context, email, name, hash, workspace string, most int) (m Member, err error) {
	m = Member{User: User{Email: email, Name: name, PasswordHash: hash}, WorkspaceName: workspace, Role: "owner"}
	err = s.tx(ctx, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, lockEmail, email); err != nil {
			return err
		}
		var have int
		if err := tx.QueryRow(ctx, `select count(*) from users where lower(email) = lower($1)`, email).Scan(&have); err != nil {
			return err
		}
		if have >= most {
			return ErrTaken
		}
		if err := tx.QueryRow(ctx, `insert into users (email, name, password_hash) values ($1, $2, $3) returning id`, email, name, hash).Scan(&m.ID); err != nil {
			return err
		}
		if err := tx.QueryRow(ctx, `insert into workspaces (name) values ($1) returning id`, workspace).Scan(&m.Workspace); err != nil {
			return err
		}
		_, err := tx.Exec(ctx, `insert into members (workspace_id, user_id, role) values ($1, $2, 'owner')`, m.Workspace, m.ID)
		return err
	})
	return m, err
}

// UsersByEmail finds the accounts of an address, oldest first.
func (s *Store) UsersByEmail(ctx context.Context, email string) ([]User, error) {
	rows, err := s.Pool.Query(ctx, `select id, email, name, password_hash from users where lower(email) = lower($1) order by created_at`, email)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[User])
}

const member = `
	select u.id, u.email, u.name, w.id, w.name, m.role, ` + scope + `
	from members m join users u on u.id = m.user_id join workspaces w on w.id = m.workspace_id
	where m.user_id = $1 and m.suspended_at is null`

const firstMember = ` order by w.id = $2 desc, w.created_at limit 1`

// Member finds a person's place in a workspace, in their first where they are not in that one
// (any more).
func (s *Store) Member(ctx context.Context, user, workspace ID) (Member, error) {
	return s.member(ctx, member+firstMember, user, workspace)
}

// MemberIn is [Store.Member] of somebody signed in with a browser; [ErrNotFound] where that
// session is over.
func (s *Store) MemberIn(ctx context.Context, user, workspace, session ID) (m Member, err error) {
	m, err = s.member(ctx, `with seen as (update user_sessions set seen_at = now() where id = $3 and seen_at < now() - interval '5 minutes')`+member+
		` and exists (select from user_sessions where id = $3 and user_id = $1 and ended_at is null)`+firstMember, user, workspace, session)
	m.Session = session
	return m, err
}

func (s *Store) member(ctx context.Context, query string, args ...any) (m Member, err error) {
	err = s.Pool.QueryRow(ctx, query, args...).Scan(&m.ID, &m.Email, &m.Name, &m.Workspace, &m.WorkspaceName, &m.Role, &m.Narrowed, &m.Only, &m.Through)
	return m, notFound(err)
}

// Belongs reports whether a person is in a workspace.
func (s *Store) Belongs(ctx context.Context, workspace, user ID) (in bool, err error) {
	err = s.Pool.QueryRow(ctx, `select exists (select from members where workspace_id = $1 and user_id = $2 and suspended_at is null)`, workspace, user).Scan(&in)
	return in, err
}

// AddMember puts an account into a workspace with a role.
func (s *Store) AddMember(ctx context.Context, workspace, user ID, role string) error {
	_, err := s.Pool.Exec(ctx, `insert into members (workspace_id, user_id, role) values ($1, $2, $3)
		on conflict (workspace_id, user_id) do update set role = excluded.role`, workspace, user, role)
	return err
}
