package store

import (
	"context"
	"slices"
	"time"

	"github.com/jackc/pgx/v5"
)

// Mail is something to be sent.
type Mail struct {
	ID                ID
	Workspace, User   *ID    // what it is about, nil for neither
	Kind              string // invitation, sign-up, guesses: of what there are limits; "" for others
	To, Subject, Body string
	At                time.Time
	Sent              *time.Time
	Tries             int
	Why               string // it could not be sent
}

const mailColumns = `id, workspace_id, user_id, kind, recipient, subject, body, at, sent_at, tries, why`

// PutMail has a mail wait to be sent.
func (s *Store) PutMail(ctx context.Context, m Mail) error { return putMail(ctx, s.Pool, m) }

func putMail(ctx context.Context, db execer, m Mail) error {
	_, err := db.Exec(ctx, `insert into mails (workspace_id, user_id, kind, recipient, subject, body) values ($1, $2, $3, $4, $5, $6)`, m.Workspace, m.User, m.Kind, m.To, m.Subject, m.Body)
	return err
}

// Mails are those of a workspace of late, the newest first.
func (s *Store) Mails(ctx context.Context, workspace ID) ([]Mail, error) {
	return s.mails(ctx, `where workspace_id = $1 order by at desc limit 50`, workspace)
}

// AccountMails are those about accounts of late, the newest first.
func (s *Store) AccountMails(ctx context.Context) ([]Mail, error) {
	return s.mails(ctx, `where workspace_id is null order by at desc limit 20`)
}

// mailPatience is how long somebody who took a mail to send it has for that before another may.
const mailPatience = 5 * time.Minute

// TakeMails takes those that are to be sent by now, the oldest first: nobody else gets them for
// some minutes.
func (s *Store) TakeMails(ctx context.Context, now time.Time, most int) ([]Mail, error) {
	rows, err := s.Pool.Query(ctx, `update mails set next_at = $2 where id in
		(select id from mails where sent_at is null and next_at <= $1 and why = '' order by at limit $3 for update skip locked) returning `+mailColumns, now, now.Add(mailPatience), most)
	if err != nil {
		return nil, err
	}
	list, err := pgx.CollectRows(rows, pgx.RowToStructByPos[Mail])
	slices.SortFunc(list, func(a, b Mail) int { return a.At.Compare(b.At) })
	return list, err
}

func (s *Store) mails(ctx context.Context, which string, args ...any) ([]Mail, error) {
	rows, err := s.Pool.Query(ctx, `select `+mailColumns+` from mails `+which, args...)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Mail])
}

// MailSent notes that a mail was sent.
func (s *Store) MailSent(ctx context.Context, id ID) error {
	_, err := s.Pool.Exec(ctx, `update mails set sent_at = now() where id = $1`, id)
	return err
}

// MailFailed notes that a mail could not be sent; it is tried again at next, or with why never.
func (s *Store) MailFailed(ctx context.Context, id ID, next time.Time, why string) error {
	_, err := s.Pool.Exec(ctx, `update mails set tries = tries + 1, next_at = $2, why = $3 where id = $1`, id, next, why)
	return err
}

// MailsTo counts the mails of a kind to an address since a time.
func (s *Store) MailsTo(ctx context.Context, to, kind string, since time.Time) (n int, err error) {
	err = s.Pool.QueryRow(ctx, `select count(*) from mails where lower(recipient) = lower($1) and kind = $2 and at > $3`, to, kind, since).Scan(&n)
	return n, err
}

// ResetAsked is that somebody forgot their password, or wants the address of their new account
// confirmed.
type ResetAsked struct {
	Email, Way string
	User       *ID // whose address is to be confirmed, nil for a password
}

// AskReset notes that somebody forgot their password, whoever it is.
func (s *Store) AskReset(ctx context.Context, r ResetAsked) error {
	_, err := s.Pool.Exec(ctx, `insert into resets_asked (email, way, user_id) values ($1, $2, $3)`, r.Email, r.Way, r.User)
	return err
}

// ResetsAsked takes what was asked of late, the oldest first.
func (s *Store) ResetsAsked(ctx context.Context, most int) ([]ResetAsked, error) {
	rows, err := s.Pool.Query(ctx, `delete from resets_asked where id in (select id from resets_asked order by id limit $1 for update skip locked) returning email, way, user_id`, most)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[ResetAsked])
}
