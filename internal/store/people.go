package store

import (
	"context"
	"errors"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
)

// ErrTaken means the e-mail address already has an account.
var ErrTaken = errors.New("that e-mail address already has an account")

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
}

// CreateUser makes an account with a workspace of its own.
func (s *Store) CreateUser(ctx context.Context, email, name, hash, workspace string) (m Member, err error) {
	m = Member{User: User{Email: email, Name: name, PasswordHash: hash}, WorkspaceName: workspace, Role: "owner"}
	err = s.tx(ctx, func(tx pgx.Tx) error {
		if err := tx.QueryRow(ctx, `insert into users (email, name, password_hash) values ($1, $2, $3) returning id`, email, name, hash).Scan(&m.ID); err != nil {
			return err
		}
		if err := tx.QueryRow(ctx, `insert into workspaces (name) values ($1) returning id`, workspace).Scan(&m.Workspace); err != nil {
			return err
		}
		_, err := tx.Exec(ctx, `insert into members (workspace_id, user_id, role) values ($1, $2, 'owner')`, m.Workspace, m.ID)
		return err
	})
	var pg *pgconn.PgError
	if errors.As(err, &pg) && pg.Code == "23505" {
		err = ErrTaken
	}
	return m, err
}

// UserByEmail finds an account.
func (s *Store) UserByEmail(ctx context.Context, email string) (u User, err error) {
	err = s.Pool.QueryRow(ctx, `select id, email, name, password_hash from users where lower(email) = lower($1)`, email).
		Scan(&u.ID, &u.Email, &u.Name, &u.PasswordHash)
	return u, notFound(err)
}

// Member finds a person's place in their (first) workspace.
func (s *Store) Member(ctx context.Context, user ID) (m Member, err error) {
	err = s.Pool.QueryRow(ctx, `
		select u.id, u.email, u.name, w.id, w.name, m.role
		from members m join users u on u.id = m.user_id join workspaces w on w.id = m.workspace_id
		where m.user_id = $1 order by w.created_at limit 1`, user).
		Scan(&m.ID, &m.Email, &m.Name, &m.Workspace, &m.WorkspaceName, &m.Role)
	return m, notFound(err)
}

// AddMember puts an account into a workspace with a role.
func (s *Store) AddMember(ctx context.Context, workspace, user ID, role string) error {
	_, err := s.Pool.Exec(ctx, `insert into members (workspace_id, user_id, role) values ($1, $2, $3)
		on conflict (workspace_id, user_id) do update set role = excluded.role`, workspace, user, role)
	return err
}
