package store

import (
	"context"
	"errors"
	"time"

	"github.com/jackc/pgx/v5"
)

// Sessions keeps what is known of signed-in browsers, as the session manager of
// the web pages asks for it (scs.CtxStore): every question has the time of the
// request it belongs to, so that a database that does not answer fails the request in time.
type Sessions struct{ store *Store }

// Sessions is where sessions are kept.
func (s *Store) Sessions() Sessions { return Sessions{s} }

// FindCtx reads a session; found is false when there is none, or it is over.
func (s Sessions) FindCtx(ctx context.Context, token string) (data []byte, found bool, err error) {
	err = s.store.Pool.QueryRow(ctx, `select data from sessions where token = $1 and expiry > now()`, token).Scan(&data)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, false, nil
	}
	return data, err == nil, err
}

// CommitCtx keeps a session until its expiry.
func (s Sessions) CommitCtx(ctx context.Context, token string, data []byte, expiry time.Time) error {
	_, err := s.store.Pool.Exec(ctx, `insert into sessions (token, data, expiry) values ($1, $2, $3)
		on conflict (token) do update set data = excluded.data, expiry = excluded.expiry`, token, data, expiry)
	return err
}

// DeleteCtx ends a session.
func (s Sessions) DeleteCtx(ctx context.Context, token string) error {
	_, err := s.store.Pool.Exec(ctx, `delete from sessions where token = $1`, token)
	return err
}

// sessionTime is how long a question without a request may take.
const sessionTime = 10 * time.Second

// Find is [Sessions.FindCtx] outside of a request.
func (s Sessions) Find(token string) ([]byte, bool, error) {
	ctx, cancel := context.WithTimeout(context.Background(), sessionTime)
	defer cancel()
	return s.FindCtx(ctx, token)
}

// Commit is [Sessions.CommitCtx] outside of a request.
func (s Sessions) Commit(token string, data []byte, expiry time.Time) error {
	ctx, cancel := context.WithTimeout(context.Background(), sessionTime)
	defer cancel()
	return s.CommitCtx(ctx, token, data, expiry)
}

// Delete is [Sessions.DeleteCtx] outside of a request.
func (s Sessions) Delete(token string) error {
	ctx, cancel := context.WithTimeout(context.Background(), sessionTime)
	defer cancel()
	return s.DeleteCtx(ctx, token)
}
