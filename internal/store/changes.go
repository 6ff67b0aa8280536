package store

import (
	"context"
	"errors"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// ErrRepeated means a change has been made already: its request arrived before,
// and the answer was lost on the way.
var ErrRepeated = errors.New("this change has been made already")

type changeKey struct{}

// requested is the change a request makes.
type requested struct {
	id      string
	claimed bool // in a transaction of this request already
}

// AsChange says that what is changed under the context is the change of this id,
// made once however often it arrives. A request changes things in one
// transaction; the id goes into it.
func AsChange(ctx context.Context, id string) context.Context {
	return context.WithValue(ctx, changeKey{}, &requested{id: id})
}

func asked(ctx context.Context) *requested {
	if r, ok := ctx.Value(changeKey{}).(*requested); ok {
		return r
	}
	return &requested{}
}

// ChangeID is an id made of the change of the context, zero where there is none: what is
// made under it is made once.
func ChangeID(ctx context.Context, workspace ID) ID {
	if id := asked(ctx).id; id != "" {
		return uuid.NewSHA1(workspace, []byte(id))
	}
	return ID{}
}

// changing is a transaction that makes the change of the context; when it fails nothing
// has been made.
func (s *Store) changing(ctx context.Context, f func(pgx.Tx) error) error {
	r := asked(ctx)
	was := r.claimed
	err := s.tx(ctx, f)
	if err != nil {
		r.claimed = was
	}
	return err
}

// claim notes the change of the context in its own transaction; ErrRepeated when
// it was there already.
func claim(ctx context.Context, tx pgx.Tx, workspace ID, result string) error {
	r := asked(ctx)
	if r.id == "" || r.claimed {
		return nil
	}
	tag, err := tx.Exec(ctx, `insert into changes (workspace_id, id, result) values ($1, $2, $3) on conflict do nothing`, workspace, r.id, result)
	if err == nil && tag.RowsAffected() == 0 {
		err = ErrRepeated
	}
	r.claimed = err == nil
	return err
}

// Claim notes the change of the context, made in several steps, as made; with
// what it answers.
func (s *Store) Claim(ctx context.Context, workspace ID, result string) error {
	return s.tx(ctx, func(tx pgx.Tx) error { return claim(ctx, tx, workspace, result) })
}

// Made reports whether the change of the context has been made, and what it
// answered with.
func (s *Store) Made(ctx context.Context, workspace ID) (result string, made bool, err error) {
	id := asked(ctx).id
	if id == "" {
		return "", false, nil
	}
	err = s.Pool.QueryRow(ctx, `select result from changes where workspace_id = $1 and id = $2`, workspace, id).Scan(&result)
	if errors.Is(err, pgx.ErrNoRows) {
		return "", false, nil
	}
	return result, err == nil, err
}

// Tidy forgets what is kept for a while only: changes whose senders have long
// stopped asking, sessions that are over.
func (s *Store) Tidy(ctx context.Context) error {
	if _, err := s.Pool.Exec(ctx, `delete from changes where at < now() - interval '14 days'`); err != nil {
		return err
	}
	for _, old := range []string{
		`delete from sessions where expiry < now()`,
		`delete from user_sessions where seen_at < now() - interval '90 days'`,
		`delete from account_tokens where expires_at < now() - interval '7 days'`,
		`delete from mails where at < now() - interval '90 days'`,
		`delete from tries where last_at < now() - interval '2 days'`,
		`delete from visits where since < now() - interval '2 days'`,
	} {
		if _, err := s.Pool.Exec(ctx, old); err != nil {
			return err
		}
	}
	return nil
}
