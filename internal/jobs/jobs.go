// Package jobs does what nobody should wait for in a request: drawing many files,
// tidying up, looking at pictures anew. A [Job] is a row that people see; its entry in
// the queue (river, in the same database) wakes a worker in this process or another
// ("aspenridge work").
//
// A worker says every few seconds that it is still there. Where one falls silent
// (killed, its machine lost) the job is put into the queue anew, and whatever the silent
// one may still write is refused: every write names the attempt it belongs to. A result
// is written at once with the state "done", so nobody sees half of one. What fails is
// tried again with growing pauses, three times in all; what cannot succeed
// ([Hopeless]) is not, and what ended its worker ten times is not begun once more.
//
// There are two lines, of short jobs and of long ones, and routines have workers of their
// own, so that a mail is not kept by films. In a line workspaces take turns: next is a job of
// the one of which least is worked on, then of the one that was served longest ago. Two jobs of
// a workspace are worked on at a time, one of them long; [MostWaiting] of one may wait.
//
// The package knows nothing of kits or pieces: package app says what the kinds of jobs
// are.
package jobs

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
)

// ID is the identity of a job, a person, a workspace, a document.
type ID = uuid.UUID

// ErrNotFound means no such job in the workspace.
var ErrNotFound = errors.New("no such job")

// ErrFull means that so many jobs of the workspace wait that one more is not taken.
var ErrFull = fmt.Errorf("%d jobs wait already: try again when some of them are done", MostWaiting)

// How many jobs of a workspace may wait, and are worked on at a time.
const (
	MostWaiting = 20
	mostWorking = 2
	mostLong    = 1 // of them
)

// Line is one of the lines jobs wait in.
type Line string

// The lines.
const (
	Short Line = "short" // done in a minute or two
	Long  Line = "long"
)

// State is how far a job is.
type State string

// The states of a job; the last three are final.
const (
	Waiting State = "waiting"
	Working State = "working"
	Done    State = "done"
	Failed  State = "failed"
	Stopped State = "stopped" // by a person
)

// Over reports whether nothing more will happen to the job.
func (s State) Over() bool { return s == Done || s == Failed || s == Stopped }

// Job is something to do on somebody's behalf.
type Job struct {
	ID        ID
	Workspace ID
	Person    ID
	Kind      string
	About     ID // the document it is about, zero for none
	Args      json.RawMessage
	State     State
	Steps, Of int             // how far it is, of how many; 0 of 0 while that is not known
	Attempt   int             // 1 for the first
	Result    json.RawMessage // once it is done
	Said      string          // why it failed, for people
	CreatedAt time.Time
	Line      Line          // "" for [Short]
	Limit     time.Duration // one attempt may take, by the work there is to do; 0 for [DefaultLimit]
	failures  int
}

// Work does a job. It calls tell as it goes on, ends soon after ctx does, and returns
// what comes of it.
type Work func(ctx context.Context, j Job, tell func(steps, of int)) (result any, err error)

// Routine is done over and over, by one process of all of them.
type Routine struct {
	Name  string // letters, digits and hyphens
	Every time.Duration
	Do    func(ctx context.Context) error
}

// Hopeless marks an error that trying again does not help; its words are for people.
func Hopeless(err error) error { return hopeless{err} }

type hopeless struct{ error }

func (h hopeless) Unwrap() error { return h.error }

// Options say what a queue does. The zero value only takes jobs in.
type Options struct {
	Kinds    map[string]Work // by the kind of job
	Routines []Routine
	Beat     time.Duration // how often a worker says that it is there, 0 for 3 s; after five it is silent
	Log      *slog.Logger  // nil for the default
}

// attempts is how often a job that fails is tried, begun how often one is begun that ends
// its workers, or whose workers are ended.
const (
	attempts = 3
	begun    = 10
)

// DefaultLimit is how long one attempt of a job may take that does not say it, longest how long
// one may take that does.
const (
	DefaultLimit = 20 * time.Minute
	longest      = 4 * time.Hour
)

// Queue takes jobs in and, with [Queue.Run], does them. Safe for concurrent use.
type Queue struct {
	pool  *pgxpool.Pool
	o     Options
	river *river.Client[pgx.Tx] // takes in
}

// New makes a queue over a database.
func New(pool *pgxpool.Pool, o Options) (*Queue, error) {
	if o.Beat == 0 {
		o.Beat = 3 * time.Second
	}
	if o.Log == nil {
		o.Log = slog.Default()
	}
	c, err := river.NewClient(riverpgxv5.New(pool), &river.Config{Logger: quiet(o.Log)})
	return &Queue{pool: pool, o: o, river: c}, err
}

// Add takes a job in. The same job of the same person that is still to be done is not
// added twice: its id is returned. Nor is one with an id of its own that was added before.
func (q *Queue) Add(ctx context.Context, j Job) (id ID, err error) {
	err = pgx.BeginFunc(ctx, q.pool, func(tx pgx.Tx) error {
		var about *ID
		if j.About != (ID{}) {
			about = &j.About
		}
		if j.ID == (ID{}) {
			j.ID = uuid.New()
		}
		if j.Line == "" {
			j.Line = Short
		}
		if _, err := tx.Exec(ctx, `select pg_advisory_xact_lock(hashtextextended($1, 19))`, j.Workspace.String()); err != nil {
			return err
		}
		err := tx.QueryRow(ctx, `insert into jobs (id, workspace_id, person_id, kind, about, args, line, limit_ms) values ($1, $2, $3, $4, $5, $6, $7, $8) on conflict do nothing returning id`,
			j.ID, j.Workspace, j.Person, j.Kind, about, j.Args, j.Line, min(j.Limit, longest).Milliseconds()).Scan(&id)
		if errors.Is(err, pgx.ErrNoRows) {
			return tx.QueryRow(ctx, `select id from jobs where workspace_id = $2 and person_id = $3 and kind = $4
				and (id = $1 or md5(args::text) = md5($5::jsonb::text) and state in ('waiting', 'working')) order by id = $1 desc limit 1`,
				j.ID, j.Workspace, j.Person, j.Kind, j.Args).Scan(&id)
		}
		if err != nil {
			return err
		}
		var waiting int
		if err := tx.QueryRow(ctx, `select count(*) from jobs where workspace_id = $1 and state = 'waiting'`, j.Workspace).Scan(&waiting); err != nil {
			return err
		}
		if waiting > MostWaiting {
			return ErrFull
		}
		return q.enter(ctx, tx, id, j.Kind, j.Line)
	})
	return id, err
}

// Place is how many jobs are begun before one that waits, if nothing else comes.
func (q *Queue) Place(ctx context.Context, j Job) (n int, err error) {
	if j.State != Waiting {
		return 0, nil
	}
	err = q.pool.QueryRow(ctx, `with own as (select count(*) as n from jobs where state = 'waiting' and line = $1 and workspace_id = $2 and (created_at, id) < ($3, $4)),
			others as (select count(*) as n from jobs where state = 'waiting' and line = $1 and workspace_id <> $2 group by workspace_id)
		select own.n + coalesce((select sum(least(others.n, own.n + 1)) from others), 0) from own`, j.Line, j.Workspace, j.CreatedAt, j.ID).Scan(&n)
	return n, err
}

// Waiting is how many jobs of a workspace wait.
func (q *Queue) Waiting(ctx context.Context, workspace ID) (n int, err error) {
	err = q.pool.QueryRow(ctx, `select count(*) from jobs where state = 'waiting' and workspace_id = $1`, workspace).Scan(&n)
	return n, err
}

// enter gives a job an entry in the queue.
func (q *Queue) enter(ctx context.Context, tx pgx.Tx, id ID, kind string, line Line) error {
	r, err := q.river.InsertTx(ctx, tx, entry{Job: id, Of: kind}, &river.InsertOpts{Queue: string(line), MaxAttempts: 100})
	if err != nil {
		return fmt.Errorf("queue: %w", err)
	}
	_, err = tx.Exec(ctx, `update jobs set entry = $2 where id = $1`, id, r.Job.ID)
	return err
}

const columns = `id, workspace_id, person_id, kind, coalesce(about, '00000000-0000-0000-0000-000000000000'), args, state, steps, of_steps, attempt, result, said, created_at, line, limit_ms, failures`

func scan(row pgx.Row) (j Job, err error) {
	var limit int64
	err = row.Scan(&j.ID, &j.Workspace, &j.Person, &j.Kind, &j.About, &j.Args, &j.State, &j.Steps, &j.Of, &j.Attempt, &j.Result, &j.Said, &j.CreatedAt, &j.Line, &limit, &j.failures)
	if j.Limit = time.Duration(limit) * time.Millisecond; j.Limit == 0 {
		j.Limit = DefaultLimit
	}
	if errors.Is(err, pgx.ErrNoRows) {
		err = ErrNotFound
	}
	return j, err
}

// Job finds a job of a workspace.
func (q *Queue) Job(ctx context.Context, workspace, id ID) (Job, error) {
	return scan(q.pool.QueryRow(ctx, `select `+columns+` from jobs where workspace_id = $1 and id = $2`, workspace, id))
}

// Latest is the job somebody asked for last about a document, of a kind.
func (q *Queue) Latest(ctx context.Context, workspace, person, about ID, kind string) (Job, error) {
	return scan(q.pool.QueryRow(ctx, `select `+columns+` from jobs where workspace_id = $1 and person_id = $2 and about = $3 and kind = $4 order by created_at desc limit 1`, workspace, person, about, kind))
}

// Listed are the jobs of a kind about a document, whoever asked for them, the last first.
func (q *Queue) Listed(ctx context.Context, workspace, about ID, kind string) ([]Job, error) {
	rows, err := q.pool.Query(ctx, `select `+columns+` from jobs where workspace_id = $1 and about = $2 and kind = $3 order by created_at desc, id limit 60`, workspace, about, kind)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (Job, error) { return scan(r) })
}

// Stop ends a job for good, wherever it is worked on. A job that is over stays as it is.
func (q *Queue) Stop(ctx context.Context, workspace, id ID) error {
	var entry *int64
	err := q.pool.QueryRow(ctx, `update jobs set state = 'stopped', ended_at = now() where workspace_id = $1 and id = $2 and state in ('waiting', 'working')
		returning entry, pg_notify('document', id || ' ' || steps)::text`, workspace, id).Scan(&entry, nil)
	if errors.Is(err, pgx.ErrNoRows) {
		_, err = q.Job(ctx, workspace, id) // over, or never there
		return err
	}
	if err != nil || entry == nil {
		return err
	}
	if _, err = q.river.JobCancel(ctx, *entry); errors.Is(err, river.ErrNotFound) {
		err = nil
	}
	return err
}

// Forget removes jobs that were over before a time, and returns their results, for what
// they name to be removed too.
// A done one of the kind kept stays; [Queue.Kept] lists those, [Queue.Drop] lets them go.
func (q *Queue) Forget(ctx context.Context, before time.Time, kept string) ([]Job, error) {
	rows, err := q.pool.Query(ctx, `delete from jobs where ended_at < $1 and not (kind = $2 and state = 'done') returning `+columns, before, kept)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (Job, error) { return scan(r) })
}

// Kept are the jobs of a kind that were done before a time, in all workspaces, the latest first.
func (q *Queue) Kept(ctx context.Context, before time.Time, kind string) ([]Job, error) {
	rows, err := q.pool.Query(ctx, `select `+columns+` from jobs where ended_at < $1 and kind = $2 and state = 'done' order by created_at desc, id`, before, kind)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (Job, error) { return scan(r) })
}

// Drop forgets jobs that are over.
func (q *Queue) Drop(ctx context.Context, ids ...ID) error {
	_, err := q.pool.Exec(ctx, `delete from jobs where id = any($1) and ended_at is not null`, ids)
	return err
}

// Naming is how many jobs have a file of a hash as what they made or what they work on.
func (q *Queue) Naming(ctx context.Context, hash string) (n int, err error) {
	err = q.pool.QueryRow(ctx, `select count(*) from jobs where result->>'file' = $1 or args->>'File' = $1`, hash).Scan(&n)
	return n, err
}
