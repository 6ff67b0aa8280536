package store

import (
	"bytes"
	"context"
	"crypto/sha256"
	"math"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
)

// TryRule says how tries of a secret are slowed. Every try counts as failed until it is said to
// be right.
type TryRule struct {
	Free int           // failures before tries are slowed
	Step time.Duration // what the first slow try waits; each doubles it
	Most time.Duration // it waits at most
}

func (r TryRule) delay(failures int) time.Duration {
	if failures < r.Free {
		return 0
	}
	d := float64(r.Step) * math.Pow(2, float64(min(failures-r.Free, 30)))
	return time.Duration(min(d, float64(r.Most)))
}

// TryKey is what tries are counted under: what is guessed (a space of its own for each kind of
// secret, so that none can be reset by way of another) and whose.
func TryKey(space string, of ...string) []byte {
	sum := sha256.Sum256([]byte(space + "\x00" + strings.Join(of, "\x00")))
	return sum[:]
}

// Trying is a try that is to be made.
type Trying struct {
	Keys [][]byte // it counts under all of them, or where it is refused under none
	// Rules are those of the keys, made of the failures there were before.
	Rules   func(failures []int) []TryRule
	Longest time.Duration // a try that would wait longer is refused
	Forget  time.Duration // after the last failure all are forgotten
}

// Try counts a try and says how long it has to wait before it is made. A refused one is not
// counted: again is when one may come again. Tries that come at once are given times one after
// the other, on whichever server they arrive.
func (s *Store) Try(ctx context.Context, t Trying, now time.Time) (wait, again time.Duration, err error) {
	err = s.tx(ctx, func(tx pgx.Tx) error {
		// rows are there before they are read, so that two first tries wait for each other; in one
		// order, so that none waits for one that waits for it
		if _, err := tx.Exec(ctx, `insert into tries (key, failures, next_at, last_at) select k, 0, $2, $2 from unnest($1::bytea[]) k order by k on conflict do nothing`, t.Keys, now); err != nil {
			return err
		}
		rows, err := tx.Query(ctx, `select key, failures, next_at, last_at from tries where key = any($1) order by key for update`, t.Keys)
		if err != nil {
			return err
		}
		failures, next := make([]int, len(t.Keys)), make([]time.Time, len(t.Keys))
		var key []byte
		var n int
		var due, last time.Time
		_, err = pgx.ForEachRow(rows, []any{&key, &n, &due, &last}, func() error {
			i := slices.IndexFunc(t.Keys, func(k []byte) bool { return bytes.Equal(k, key) })
			if failures[i], next[i] = n, due; now.Sub(last) > t.Forget {
				failures[i], next[i] = 0, now
			}
			return nil
		})
		if err != nil {
			return err
		}
		for i, r := range t.Rules(failures) {
			if next[i] = next[i].Add(r.delay(failures[i])); next[i].Before(now) {
				next[i] = now
			}
			wait = max(wait, next[i].Sub(now))
			failures[i]++
		}
		if wait > t.Longest {
			wait, again = 0, wait
			return nil
		}
		_, err = tx.Exec(ctx, `update tries t set failures = n.failures, next_at = n.next_at, last_at = $4
			from unnest($1::bytea[], $2::int[], $3::timestamptz[]) n (key, failures, next_at) where t.key = n.key`, t.Keys, failures, next, now)
		return err
	})
	return wait, again, err
}

// TryWasRight forgets the failures under a key; those under the others are what they were before
// this try.
func (s *Store) TryWasRight(ctx context.Context, key []byte, others ...[]byte) error {
	if _, err := s.Pool.Exec(ctx, `delete from tries where key = $1`, key); err != nil {
		return err
	}
	return s.TryWasNone(ctx, others...)
}

// TryWasNone takes a try back that was not made after all.
func (s *Store) TryWasNone(ctx context.Context, keys ...[]byte) error {
	_, err := s.Pool.Exec(ctx, `update tries set failures = greatest(0, failures - 1) where key = any($1)`, keys)
	return err
}

// ClaimTriesMail reports, once a day, that there were so many failures under a key.
func (s *Store) ClaimTriesMail(ctx context.Context, key []byte, failures int, now time.Time) (tell bool, err error) {
	tag, err := s.Pool.Exec(ctx, `update tries set told_at = $3 where key = $1 and failures >= $2 and (told_at is null or told_at < $4)`, key, failures, now, now.AddDate(0, 0, -1))
	return tag.RowsAffected() == 1, err
}

// Visit counts that something is asked for under a key and says how often it was since a time.
func (s *Store) Visit(ctx context.Context, key []byte, since time.Time) (n int, err error) {
	err = s.Pool.QueryRow(ctx, `insert into visits (key, since, n) values ($1, $2, 1) on conflict (key, since) do update set n = visits.n + 1 returning n`, key, since).Scan(&n)
	return n, err
}

// Address is where people find this installation, as it was said last; "" before that.
func (s *Store) Address(ctx context.Context) (address string, err error) {
	err = s.Pool.QueryRow(ctx, `select address from installation`).Scan(&address)
	return address, err
}

// SetAddress keeps where people find this installation.
func (s *Store) SetAddress(ctx context.Context, address string) error {
	_, err := s.Pool.Exec(ctx, `update installation set address = $1 where address <> $1`, address)
	return err
}

// Secret is this installation's own.
func (s *Store) Secret(ctx context.Context) (secret []byte, err error) {
	err = s.Pool.QueryRow(ctx, `select secret from installation`).Scan(&secret)
	return secret, err
}
