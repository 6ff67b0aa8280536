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

// Once is a change somebody sends, made once however often its request arrives: its id goes into
// the transaction that makes it.
type Once struct {
	id      string
	claimed bool // in a transaction of this request already
}

// Sending is somebody with the change of this id, "" for one that may be made again.
func (m Member) Sending(id string) Member {
	m.once = nil
	if id != "" {
		m.once = &Once{id: id}
	}
	return m
}

// Asking is somebody who asks an owner, with a reason, for what a rail refuses them.
func (m Member) Asking(why string) Member {
	m.why = &why
	return m
}

// Asks is the reason somebody asks an owner with; false where they do not ask.
func (m Member) Asks() (why string, asks bool) {
	if m.why == nil {
		return "", false
	}
	return *m.why, true
}

// ChangeID is an id made of the change somebody sends, zero where it has none: what is made under
// it is made once.
func (m Member) ChangeID() ID { return m.changeIn(m.Workspace) }

// changeIn is [Member.ChangeID] in what the change is about, where that is not the workspace.
func (m Member) changeIn(space ID) ID {
	if m.once == nil {
		return ID{}
	}
	return uuid.NewSHA1(space, []byte(m.once.id))
}

// changing is a transaction that makes the change somebody sends, in turn with others about the
// same things; when it fails nothing has been made.
func (s *Store) changing(ctx context.Context, by Member, things []string, f func(pgx.Tx) error) error {
	was := by.once != nil && by.once.claimed
	err := s.inTurn(ctx, things, f)
	if err != nil && by.once != nil {
		by.once.claimed = was
	}
	return err
}

// claim notes the change somebody sends in its own transaction; ErrRepeated when it was there
// already.
func claim(ctx context.Context, tx pgx.Tx, by Member, result string) error {
	if by.once == nil || by.once.claimed {
		return nil
	}
	tag, err := tx.Exec(ctx, `insert into changes (workspace_id, id, result) values ($1, $2, $3) on conflict do nothing`, by.Workspace, by.once.id, result)
	if err == nil && tag.RowsAffected() == 0 {
		err = ErrRepeated
	}
	by.once.claimed = err == nil
	return err
}

// Claim notes the change somebody sends, made in several steps, as made; with what it answers.
func (s *Store) Claim(ctx context.Context, by Member, result string) error {
	return s.changing(ctx, by, nil, func(tx pgx.Tx) error { return claim(ctx, tx, by, result) })
}

// Made reports whether the change somebody sends has been made, and what it answered with.
func (s *Store) Made(ctx context.Context, by Member) (result string, made bool, err error) {
	if by.once == nil {
		return "", false, nil
	}
	err = s.Pool.QueryRow(ctx, `select result from changes where workspace_id = $1 and id = $2`, by.Workspace, by.once.id).Scan(&result)
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
