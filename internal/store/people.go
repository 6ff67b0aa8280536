package store

import (
	"context"
	"errors"
	"time"

	"github.com/jackc/pgx/v5"

	"aspenridge/internal/core/roles"
)

// ErrTaken means that there are as many of something as there may be.
var ErrTaken = errors.New("there are as many as there may be")

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
	Role          string     // one of [roles.Names]
	WantsCodes    bool       // the workspace demands codes of everybody, and they have none
	Lapses        *time.Time // the account, unless its address is confirmed before; nil for never
	Scope
	Session ID // of the browser they are signed in with, zero for none

	once *Once   // the change they send, nil for none
	why  *string // what they ask an owner with where a rail refuses it
}

// May reports whether somebody's role has a capability.
func (m Member) May(c roles.Capability) bool { return roles.May(m.Role, c) }

// CreateUser makes an account with a workspace of its own, whose address is not confirmed: it
// lapses at a time (zero for never) unless that is done before.
func (s *Store) CreateUser(ctx context.Context, email, name, hash, workspace string, lapses time.Time) (m Member, err error) {
	m = Member{User: User{Email: email, Name: name, PasswordHash: hash}, WorkspaceName: workspace, Role: roles.Owner}
	err = s.tx(ctx, func(tx pgx.Tx) error {
		var until *time.Time
		if !lapses.IsZero() {
			until = &lapses
		}
		if err := tx.QueryRow(ctx, `insert into users (email, name, password_hash, lapses_at) values ($1, $2, $3, $4) returning id`, email, name, hash, until).Scan(&m.ID); err != nil {
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

// UsersByEmail finds the account that has confirmed an address; where none has, all that say it
// is theirs, the oldest first, at most so many.
func (s *Store) UsersByEmail(ctx context.Context, email string, most int) ([]User, error) {
	rows, err := s.Pool.Query(ctx, `select u.id, u.email, u.name, u.password_hash from users u where lower(u.email) = lower($1)
		and (u.confirmed_at is not null or not exists (select from users o where lower(o.email) = lower($1) and o.confirmed_at is not null))
		order by u.created_at, u.id limit $2`, email, most)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[User])
}

// Holder is the account that has confirmed an address, or is of an id; [ErrNotFound] for none.
func (s *Store) Holder(ctx context.Context, whose string) (u User, err error) {
	err = s.Pool.QueryRow(ctx, `select id, email, name, password_hash from users where lower(email) = lower($1) and confirmed_at is not null or id::text = $1`, whose).Scan(&u.ID, &u.Email, &u.Name, &u.PasswordHash)
	return u, notFound(err)
}

// Confirming is an account whose address is not confirmed.
type Confirming struct {
	User   User
	Lapses *time.Time // nil for never
}

// Unconfirmed finds an account whose address is not confirmed; [ErrNotFound] for one whose is.
func (s *Store) Unconfirmed(ctx context.Context, user ID) (c Confirming, err error) {
	err = s.Pool.QueryRow(ctx, `select id, email, name, lapses_at from users where id = $1 and confirmed_at is null`, user).Scan(&c.User.ID, &c.User.Email, &c.User.Name, &c.Lapses)
	return c, notFound(err)
}

// Lapsed are accounts whose addresses were not confirmed in time.
func (s *Store) Lapsed(ctx context.Context, now time.Time, most int) ([]ID, error) {
	rows, err := s.Pool.Query(ctx, `select id from users where lapses_at < $1 and confirmed_at is null order by lapses_at limit $2`, now, most)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowTo[ID])
}

// Postpone has an account lapse later.
func (s *Store) Postpone(ctx context.Context, user ID, until time.Time) error {
	_, err := s.Pool.Exec(ctx, `update users set lapses_at = $2 where id = $1 and lapses_at is not null`, user, until)
	return err
}

// SignedInBefore reports whether a session was one of an account, by its address or its id.
func (s *Store) SignedInBefore(ctx context.Context, session ID, whose string) (was bool, err error) {
	err = s.Pool.QueryRow(ctx, `select exists (select from user_sessions s join users u on u.id = s.user_id where s.id = $1 and (lower(u.email) = $2 or u.id::text = $2))`, session, whose).Scan(&was)
	return was, err
}

const member = `
	select u.id, u.email, u.name, w.id, w.name, m.role, w.demands_codes and u.totp_secret is null, u.lapses_at, ` + scope + `
	from members m join users u on u.id = m.user_id join workspaces w on w.id = m.workspace_id
	where m.user_id = $1 and m.suspended_at is null and (w.arriving_since is null or w.id = $2)`

const firstMember = ` order by w.id = $2 desc, w.created_at limit 1`

// Member finds a person's place in a workspace, in their first where they are not in that one
// (any more).
func (s *Store) Member(ctx context.Context, user, workspace ID) (Member, error) {
	return s.member(ctx, member+firstMember, user, workspace)
}

// idle is how long somebody signed in may do nothing before their session is over: who owns a
// workspace and has codes asked for is asked again the next day.
const idle = `case when u.totp_secret is not null and exists (select from members o where o.user_id = u.id and o.role = 'owner' and o.suspended_at is null)
	then interval '12 hours' else interval '30 days' end`

// MemberIn is [Store.Member] of somebody signed in with a browser; [ErrNotFound] where that
// session is over.
func (s *Store) MemberIn(ctx context.Context, user, workspace, session ID) (m Member, err error) {
	m, err = s.member(ctx, `with seen as (update user_sessions set seen_at = now() where id = $3 and seen_at < now() - interval '5 minutes')`+member+
		` and exists (select from user_sessions where id = $3 and user_id = $1 and ended_at is null and seen_at > now() - `+idle+`)`+firstMember, user, workspace, session)
	m.Session = session
	return m, err
}

func (s *Store) member(ctx context.Context, query string, args ...any) (m Member, err error) {
	err = s.Pool.QueryRow(ctx, query, args...).Scan(&m.ID, &m.Email, &m.Name, &m.Workspace, &m.WorkspaceName, &m.Role, &m.WantsCodes, &m.Lapses, &m.Narrowed, &m.Only, &m.Through)
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
