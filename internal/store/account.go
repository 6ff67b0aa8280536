package store

import (
	"context"

	"github.com/jackc/pgx/v5"
)

// RenameUser calls a person otherwise.
func (s *Store) RenameUser(ctx context.Context, user ID, name string) error {
	_, err := s.Pool.Exec(ctx, `update users set name = $2 where id = $1`, user, name)
	return err
}

// PasswordHash is that of a person's account.
func (s *Store) PasswordHash(ctx context.Context, user ID) (hash string, err error) {
	err = s.Pool.QueryRow(ctx, `select password_hash from users where id = $1`, user).Scan(&hash)
	return hash, notFound(err)
}

// SetPassword gives an account another password; sessions that have begun end.
func (s *Store) SetPassword(ctx context.Context, user ID, hash string) error {
	_, err := s.Pool.Exec(ctx, `update users set password_hash = $2, signed_out_at = clock_timestamp() where id = $1`, user, hash)
	return err
}

// EndSessions ends all sessions of a person that have begun.
func (s *Store) EndSessions(ctx context.Context, user ID) error {
	_, err := s.Pool.Exec(ctx, `update users set signed_out_at = clock_timestamp() where id = $1`, user)
	return err
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
