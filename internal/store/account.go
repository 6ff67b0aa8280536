package store

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5"
)

// RenameUser calls a person otherwise.
func (s *Store) RenameUser(ctx context.Context, user ID, name string) error {
	_, err := s.Pool.Exec(ctx, `update users set name = $2 where id = $1`, user, name)
	return err
}

// UserName is what a person is called.
func (s *Store) UserName(ctx context.Context, user ID) (name string, err error) {
	err = s.Pool.QueryRow(ctx, `select name from users where id = $1`, user).Scan(&name)
	return name, notFound(err)
}

// PasswordHash is that of a person's account.
func (s *Store) PasswordHash(ctx context.Context, user ID) (hash string, err error) {
	err = s.Pool.QueryRow(ctx, `select password_hash from users where id = $1`, user).Scan(&hash)
	return hash, notFound(err)
}

// SetPassword gives an account another password; its sessions end but the one that stays (zero
// for none), and links that would have given it another one are good no more.
func (s *Store) SetPassword(ctx context.Context, user, stays ID, hash string) error {
	return s.tx(ctx, func(tx pgx.Tx) error { return setPassword(ctx, tx, user, stays, hash) })
}

func setPassword(ctx context.Context, tx pgx.Tx, user, stays ID, hash string) error {
	if _, err := tx.Exec(ctx, `update users set password_hash = $2 where id = $1`, user, hash); err != nil {
		return err
	}
	if _, err := tx.Exec(ctx, `update account_tokens set used_at = now() where user_id = $1 and kind = 'reset' and used_at is null`, user); err != nil {
		return err
	}
	_, err := tx.Exec(ctx, endOthers, user, stays)
	return err
}

// endOthers ends sessions and tells pages that are open in them.
const endOthers = `with gone as (update user_sessions set ended_at = now() where user_id = $1 and id <> $2 and ended_at is null returning id)
	select pg_notify('document', id || ' 0') from gone`

// Session is a browser somebody is signed in with.
type Session struct {
	ID              ID
	Begun, Seen     time.Time
	Device, Network string
}

// BeginSession notes that somebody signed in with a browser.
func (s *Store) BeginSession(ctx context.Context, user ID, device, network string) (id ID, err error) {
	err = s.Pool.QueryRow(ctx, `insert into user_sessions (user_id, device, network) values ($1, $2, $3) returning id`, user, device, network).Scan(&id)
	return id, err
}

// OpenSessions are those of a person that are not over, the one seen last first.
func (s *Store) OpenSessions(ctx context.Context, user ID, since time.Time) ([]Session, error) {
	rows, err := s.Pool.Query(ctx, `select id, begun_at, seen_at, device, network from user_sessions where user_id = $1 and ended_at is null and begun_at > $2 order by seen_at desc limit 100`, user, since)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Session])
}

// EndSession ends one of a person.
func (s *Store) EndSession(ctx context.Context, user, id ID) error {
	_, err := s.Pool.Exec(ctx, `with gone as (update user_sessions set ended_at = now() where user_id = $1 and id = $2 and ended_at is null returning id)
		select pg_notify('document', id || ' 0') from gone`, user, id)
	return err
}

// EndSessions ends those of a person but the one that stays.
func (s *Store) EndSessions(ctx context.Context, user, stays ID) error {
	_, err := s.Pool.Exec(ctx, endOthers, user, stays)
	return err
}

// Token is what a link in a mail is good for.
type Token struct {
	User  ID
	Name  string // of the user
	Kind  string // reset, email or sign-up
	Email string // the one that is confirmed
}

// PutToken keeps a token by its hash, with the mail that has it.
func (s *Store) PutToken(ctx context.Context, t Token, hash []byte, expires time.Time, mail Mail) error {
	return s.tx(ctx, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `insert into account_tokens (hash, user_id, kind, email, expires_at) values ($1, $2, $3, $4, $5)`, hash, t.User, t.Kind, t.Email, expires); err != nil {
			return err
		}
		return putMail(ctx, tx, mail)
	})
}

// TokensSince counts the tokens of a kind that were made for a person.
func (s *Store) TokensSince(ctx context.Context, user ID, kind string, since time.Time) (n int, err error) {
	err = s.Pool.QueryRow(ctx, `select count(*) from account_tokens where user_id = $1 and kind = $2 and made_at > $3`, user, kind, since).Scan(&n)
	return n, err
}

const openToken = `t.hash = $1 and t.kind = $2 and t.used_at is null and t.expires_at > $3`

// Token finds one that can be used, by its hash.
func (s *Store) Token(ctx context.Context, hash []byte, kind string, now time.Time) (t Token, err error) {
	err = s.Pool.QueryRow(ctx, `select t.user_id, u.name, t.kind, t.email from account_tokens t join users u on u.id = t.user_id where `+openToken, hash, kind, now).Scan(&t.User, &t.Name, &t.Kind, &t.Email)
	return t, notFound(err)
}

// useToken uses a token, once.
func useToken(ctx context.Context, tx pgx.Tx, hash []byte, kind string, now time.Time) (t Token, err error) {
	err = tx.QueryRow(ctx, `update account_tokens t set used_at = now() where `+openToken+` returning t.user_id, t.kind, t.email`, hash, kind, now).Scan(&t.User, &t.Kind, &t.Email)
	return t, notFound(err)
}

// ResetPassword uses a token for another password; all sessions end, and a mail tells of it.
func (s *Store) ResetPassword(ctx context.Context, token []byte, now time.Time, hash string, mail func(user ID, email string) Mail) error {
	return s.tx(ctx, func(tx pgx.Tx) error {
		t, err := useToken(ctx, tx, token, "reset", now)
		if err != nil {
			return err
		}
		if err := setPassword(ctx, tx, t.User, ID{}, hash); err != nil {
			return err
		}
		var email string
		if err := tx.QueryRow(ctx, `select email from users where id = $1`, t.User).Scan(&email); err != nil {
			return err
		}
		if err := confirm(ctx, tx, t.User, email, now); err != nil { // who has the link has the mailbox
			return err
		}
		return putMail(ctx, tx, mail(t.User, email))
	})
}

// ConfirmEmail uses a token of a kind: its address is that of its account from then on, and no
// other's; [ErrTaken] where another account has confirmed it. Accounts that only say that it is
// theirs lapse. mail is told what the address was and is now, and to whom.
func (s *Store) ConfirmEmail(ctx context.Context, token []byte, kind string, now time.Time, mail func(name, was, is string) Mail) error {
	return s.tx(ctx, func(tx pgx.Tx) error {
		t, err := useToken(ctx, tx, token, kind, now)
		if err != nil {
			return err
		}
		var name, was string
		if err := tx.QueryRow(ctx, `select name, email from users where id = $1 for update`, t.User).Scan(&name, &was); err != nil {
			return err
		}
		if err := confirm(ctx, tx, t.User, t.Email, now); err != nil {
			return err
		}
		if was == t.Email {
			return nil
		}
		m := mail(name, was, t.Email)
		m.User = &t.User
		return putMail(ctx, tx, m)
	})
}

// lapseTime is how long an account is there whose address another one has confirmed.
const lapseTime = 24 * time.Hour

// confirm makes an address that of an account; [ErrTaken] where another account has confirmed it.
func confirm(ctx context.Context, tx pgx.Tx, user ID, email string, now time.Time) error {
	if _, err := tx.Exec(ctx, `select pg_advisory_xact_lock(hashtextextended(lower($1), 11))`, email); err != nil {
		return err
	}
	var taken bool
	if err := tx.QueryRow(ctx, `select exists (select from users where lower(email) = lower($2) and id <> $1 and confirmed_at is not null)`, user, email).Scan(&taken); err != nil {
		return err
	}
	if taken {
		return ErrTaken
	}
	if _, err := tx.Exec(ctx, `update users set email = $2, confirmed_at = coalesce(case when lower(email) = lower($2) then confirmed_at end, $3), lapses_at = null where id = $1`, user, email, now); err != nil {
		return err
	}
	_, err := tx.Exec(ctx, `update users set lapses_at = least(lapses_at, $3) where lower(email) = lower($2) and id <> $1`, user, email, now.Add(lapseTime))
	return err
}

// FailInSession counts a wrong password said in a session before it is looked at, so that none
// said at the same moment goes uncounted; false where the session is over.
func (s *Store) FailInSession(ctx context.Context, session ID, most int) (open bool, err error) {
	tag, err := s.Pool.Exec(ctx, `update user_sessions set failures = failures + 1 where id = $1 and ended_at is null and failures < $2`, session, most)
	return tag.RowsAffected() == 1, err
}

// RightInSession forgets the wrong passwords said in a session.
func (s *Store) RightInSession(ctx context.Context, session ID) error {
	_, err := s.Pool.Exec(ctx, `update user_sessions set failures = 0 where id = $1`, session)
	return err
}

// EndFailed ends a session in which so many wrong passwords were said; true where it did.
func (s *Store) EndFailed(ctx context.Context, session ID, most int) (ended bool, err error) {
	err = s.Pool.QueryRow(ctx, `with gone as (update user_sessions set ended_at = now() where id = $1 and failures >= $2 and ended_at is null returning id)
		select count(pg_notify('document', id || ' 0')) > 0 from gone`, session, most).Scan(&ended)
	return ended, err
}

// Codes are what an account needs besides a password: the secret of its time-based codes, nil
// for none, and the last step one of them was used in.
func (s *Store) Codes(ctx context.Context, user ID) (secret []byte, step int64, err error) {
	err = s.Pool.QueryRow(ctx, `select totp_secret, totp_step from users where id = $1`, user).Scan(&secret, &step)
	return secret, step, notFound(err)
}

// SetCodes has an account ask for codes of a secret from now on, with the hashes of codes that
// stand in for one; nil ends it.
func (s *Store) SetCodes(ctx context.Context, user ID, secret []byte, step int64, recovery [][]byte) error {
	return s.tx(ctx, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `update users set totp_secret = $2, totp_step = $3 where id = $1`, user, secret, step); err != nil {
			return err
		}
		if _, err := tx.Exec(ctx, `delete from recovery_codes where user_id = $1`, user); err != nil {
			return err
		}
		for _, hash := range recovery {
			if _, err := tx.Exec(ctx, `insert into recovery_codes (user_id, hash) values ($1, $2)`, user, hash); err != nil {
				return err
			}
		}
		return nil
	})
}

// UseStep notes that the code of a step was used; false where it, or a later one, had been.
func (s *Store) UseStep(ctx context.Context, user ID, step int64) (bool, error) {
	tag, err := s.Pool.Exec(ctx, `update users set totp_step = $2 where id = $1 and totp_step < $2`, user, step)
	return tag.RowsAffected() == 1, err
}

// UseRecovery uses a code that stands in for one, by its hash; false where there is none (any
// more).
func (s *Store) UseRecovery(ctx context.Context, user ID, hash []byte) (bool, error) {
	tag, err := s.Pool.Exec(ctx, `delete from recovery_codes where user_id = $1 and hash = $2`, user, hash)
	return tag.RowsAffected() == 1, err
}

// RecoveryLeft counts the codes that stand in for one.
func (s *Store) RecoveryLeft(ctx context.Context, user ID) (n int, err error) {
	err = s.Pool.QueryRow(ctx, `select count(*) from recovery_codes where user_id = $1`, user).Scan(&n)
	return n, err
}

// UserSince is when an account was made.
func (s *Store) UserSince(ctx context.Context, user ID) (at time.Time, err error) {
	err = s.Pool.QueryRow(ctx, `select created_at from users where id = $1`, user).Scan(&at)
	return at, notFound(err)
}

// Mine is something somebody said.
type Mine struct {
	At    time.Time `json:"at"`
	About string    `json:"about"` // the brief
	Words string    `json:"words"`
}

// SaidBy is what a person has said at Proof, decided there, and asked for.
func (s *Store) SaidBy(ctx context.Context, user ID) (comments, verdicts, requests []Mine, err error) {
	for into, query := range map[*[]Mine]string{
		&comments: `select c.at, d.name, c.words from proof_comments c join documents d on d.id = c.brief_id where c.user_id = $1 order by c.at`,
		&verdicts: `select p.at, d.name, p.verdict || ' ' || p.piece from proof_decisions p join documents d on d.id = p.brief_id where p.user_id = $1 order by p.at`,
		&requests: `select r.at, d.name, r.words || coalesce(nullif(': ' || r.why, ': '), '') from requests r join documents d on d.id = r.brief_id where r.user_id = $1 order by r.at`,
	} {
		rows, err := s.Pool.Query(ctx, query, user)
		if err != nil {
			return nil, nil, nil, err
		}
		list, err := pgx.CollectRows(rows, pgx.RowToStructByPos[Mine])
		if err != nil {
			return nil, nil, nil, err
		}
		*into = append([]Mine{}, list...)
	}
	return comments, verdicts, requests, nil
}

// LeftBehind are workspaces that would have no owner.
type LeftBehind struct{ Workspaces []string }

func (l *LeftBehind) Error() string { return "workspaces would have no owner" }

// DeleteUser ends an account, with the workspaces nobody else is in; [*LeftBehind] where others
// would be left without an owner. It returns the hashes of the files those workspaces had.
func (s *Store) DeleteUser(ctx context.Context, user ID) (hashes []string, err error) {
	err = s.tx(ctx, func(tx pgx.Tx) error {
		rows, err := tx.Query(ctx, `select w.id, w.name, (select count(*) from members o where o.workspace_id = w.id and o.user_id <> $1)::int,
				exists (select from members o where o.workspace_id = w.id and o.user_id <> $1 and o.role = 'owner' and o.suspended_at is null)
			from workspaces w join members m on m.workspace_id = w.id where m.user_id = $1 for update of w`, user)
		if err != nil {
			return err
		}
		type place struct {
			ID     ID
			Name   string
			Others int
			Owned  bool
		}
		places, err := pgx.CollectRows(rows, pgx.RowToStructByPos[place])
		if err != nil {
			return err
		}
		var left []string
		for _, p := range places {
			if p.Others > 0 && !p.Owned {
				left = append(left, p.Name)
			}
		}
		if len(left) > 0 {
			return &LeftBehind{left}
		}
		for _, p := range places {
			if p.Others > 0 {
				continue
			}
			rows, err := tx.Query(ctx, `select distinct hash from files where workspace_id = $1`, p.ID)
			if err != nil {
				return err
			}
			of, err := pgx.CollectRows(rows, pgx.RowTo[string])
			if err != nil {
				return err
			}
			hashes = append(hashes, of...)
			if err := deleteWorkspace(ctx, tx, p.ID); err != nil {
				return err
			}
		}
		tag, err := tx.Exec(ctx, `delete from users where id = $1`, user)
		if err == nil && tag.RowsAffected() == 0 {
			err = ErrNotFound
		}
		return err
	})
	return hashes, err
}
