package jobs

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"maps"
	"slices"
	"syscall"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivertype"
)

// entry is a job's place in the queue; its kind there is the job's, so that a process
// that does not know a kind (one of an older version) leaves it to others.
type entry struct {
	Job ID     `json:"job"`
	Of  string `json:"of"`
}

func (e entry) Kind() string { return e.Of }

// routineKind tells routines from jobs in the queue.
const routineKind = "routine-"

// Why the work on a job ends before it is done.
var (
	errLost = errors.New("somebody else does the job now, or it was stopped")
)

// routineLine is the line of routines; older the one entries were in before there were several.
const (
	routineLine = "routines"
	older       = river.QueueDefault
)

// Run does short jobs, n at a time but always one more than one workspace may have worked on, and
// half as many long ones, and routines, until ctx ends; what is in work then has five seconds to
// become done, and is left to others after that.
func (q *Queue) Run(ctx context.Context, n int) error {
	workers := river.NewWorkers()
	for kind := range q.o.Kinds {
		river.AddWorkerArgs(workers, entry{Of: kind}, worker{q: q})
	}
	var periodic []*river.PeriodicJob
	for _, r := range q.o.Routines {
		args := entry{Of: routineKind + r.Name}
		river.AddWorkerArgs(workers, args, worker{q: q, routine: r.Do})
		periodic = append(periodic, river.NewPeriodicJob(river.PeriodicInterval(r.Every), func() (river.JobArgs, *river.InsertOpts) {
			return args, &river.InsertOpts{Queue: routineLine, MaxAttempts: 1, UniqueOpts: river.UniqueOpts{ByArgs: true, ByPeriod: r.Every}}
		}, &river.PeriodicJobOpts{RunOnStart: true}))
	}
	c, err := river.NewClient(riverpgxv5.New(q.pool), &river.Config{
		Logger: quiet(q.o.Log), Workers: workers, PeriodicJobs: periodic, FetchOnlyKnownKinds: true,
		Queues: map[string]river.QueueConfig{string(Short): {MaxWorkers: max(n, mostWorking+1)}, string(Long): {MaxWorkers: max(1, n/2)}, routineLine: {MaxWorkers: max(2, len(periodic))}, older: {MaxWorkers: 1}},
		// silence of workers is noticed here, by beats
		JobTimeout: longest, SoftStopTimeout: 5 * time.Second,
	})
	if err != nil {
		return err
	}
	for err = c.Start(ctx); err != nil; err = c.Start(ctx) { // the database may be away just now
		q.o.Log.Warn("the queue cannot be reached", "error", err)
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(time.Second):
		}
	}
	watching := time.NewTicker(q.o.Beat)
	defer watching.Stop()
	for {
		select {
		case <-ctx.Done():
			<-c.Stopped()
			return nil
		case <-watching.C:
			if err := q.takeOver(ctx); err != nil && ctx.Err() == nil {
				q.o.Log.Warn("looking for jobs that were cut short", "error", err)
			}
		}
	}
}

// takeOver puts jobs whose workers have fallen silent into the queue anew: those that are
// worked on without a beat, and those that wait with an entry somebody took and did
// nothing about, or that is used up.
func (q *Queue) takeOver(ctx context.Context) error {
	return pgx.BeginFunc(ctx, q.pool, func(tx pgx.Tx) error {
		rows, err := tx.Query(ctx, `select `+columns+` from jobs j where beat_at < now() - $1::interval and (state = 'working' or state = 'waiting' and not exists (
			select from river_job r where r.id = j.entry and (r.state in ('available', 'scheduled', 'retryable', 'pending') or r.state = 'running' and r.attempted_at > now() - $1::interval)))
			for update skip locked`, 5*q.o.Beat)
		if err != nil {
			return err
		}
		silent, err := pgx.CollectRows(rows, func(r pgx.CollectableRow) (Job, error) { return scan(r) })
		if err != nil {
			return err
		}
		for _, j := range silent {
			q.o.Log.Info("a job was cut short", "job", j.ID, "kind", j.Kind, "attempt", j.Attempt)
			if j.Attempt >= begun && j.State == Working {
				err = over(ctx, tx, j, Failed, nil, "It was cut short every time it was tried.")
			} else if _, err = tx.Exec(ctx, `update jobs set state = 'waiting', steps = 0, beat_at = now() where id = $1`, j.ID); err == nil {
				err = q.enter(ctx, tx, j.ID, j.Kind, j.Line)
			}
			if err != nil {
				return err
			}
		}
		return nil
	})
}

// worker does what an entry of the queue stands for: a job or a routine.
type worker struct {
	river.WorkerDefaults[entry]
	q       *Queue
	routine func(context.Context) error
}

// again is how long a job that has failed so often waits: 2 s, then 8 s.
func again(failures int) time.Duration { return time.Second << (2*failures - 1) }

// errNoTurn means that jobs wait and it is none of theirs to be begun now.
var errNoTurn = errors.New("it is nobody's turn")

// Timeout is what a job says itself; river's own would be the same for all.
func (w worker) Timeout(*river.Job[entry]) time.Duration { return longest }

// Work does the job whose turn it is: an entry is a ticket for its line, not for the job it was
// made for.
func (w worker) Work(ctx context.Context, r *river.Job[entry]) error {
	if w.routine != nil {
		return w.routine(ctx)
	}
	j, err := w.q.next(ctx, r)
	if errors.Is(err, ErrNotFound) { // done or stopped
		return nil
	}
	if errors.Is(err, errNoTurn) {
		return river.JobSnooze(w.q.o.Beat / 6)
	}
	if err != nil {
		return err
	}
	work := w.q.o.Kinds[j.Kind]
	ctx, stop := context.WithTimeout(ctx, j.Limit)
	defer stop()
	working, cancel := context.WithCancelCause(ctx)
	defer cancel(nil)
	go w.q.beats(working, j, cancel)
	result, err := w.do(working, work, j, cancel)
	after := context.WithoutCancel(ctx)
	switch why := context.Cause(working); {
	case err == nil:
		err = over(after, w.q.pool, j, Done, result, "")
		if errors.Is(err, errLost) {
			return nil
		}
		if err != nil {
			w.q.o.Log.Error("a job is done and that cannot be written", "job", j.ID, "kind", j.Kind, "error", err)
		}
		return err
	case errors.Is(why, errLost), errors.Is(why, rivertype.ErrJobCancelledRemotely):
		return nil
	case ctx.Err() != nil && !errors.Is(ctx.Err(), context.DeadlineExceeded): // this process stops: others go on at once
		if lerr := w.q.letGo(after, j, -1); lerr != nil {
			return lerr
		}
		return river.JobSnooze(0)
	case errors.Is(ctx.Err(), context.DeadlineExceeded):
		w.q.o.Log.Warn("job", "job", j.ID, "kind", j.Kind, "longer than", j.Limit)
		return river.JobCancel(errors.Join(err, over(after, w.q.pool, j, Failed, nil, "It took longer than there is for what there was to do. Make less of it at once.")))
	case errors.As(err, new(hopeless)):
		w.q.o.Log.Info("job", "job", j.ID, "kind", j.Kind, "refused", err)
		return river.JobCancel(errors.Join(err, over(after, w.q.pool, j, Failed, nil, err.Error())))
	case j.failures+1 >= attempts:
		w.q.o.Log.Error("job", "job", j.ID, "kind", j.Kind, "error", err)
		return errors.Join(err, over(after, w.q.pool, j, Failed, nil, givenUp(err)))
	}
	w.q.o.Log.Warn("job, to be tried again", "job", j.ID, "kind", j.Kind, "attempt", j.Attempt, "error", err)
	pause := again(j.failures + 1)
	if err := w.q.failed(after, j, pause); err != nil {
		return err
	}
	return river.JobSnooze(pause)
}

// givenUp is what people are told of a job that was tried in vain.
func givenUp(err error) string {
	if errors.Is(err, syscall.ENOSPC) {
		return "There is no room left on the server. Nothing of it was kept; tell whoever runs it, and try again."
	}
	return "It failed each of the times it was tried, on our side. Try again later."
}

// do works on a job; a fault in it is an error like others.
func (w worker) do(ctx context.Context, work Work, j Job, cancel context.CancelCauseFunc) (result any, err error) {
	defer func() {
		if fault := recover(); fault != nil {
			err = fmt.Errorf("fault: %v", fault)
		}
	}()
	var told time.Time
	return work(ctx, j, func(steps, of int) {
		if steps < of && time.Since(told) < 100*time.Millisecond {
			return
		}
		told = time.Now()
		if err := w.q.report(ctx, j, steps, of); errors.Is(err, errLost) {
			cancel(errLost)
		}
	})
}

// next takes the job on whose turn it is, in the line of an entry: from here on only this attempt
// writes to it. [ErrNotFound] where nothing waits that the entry stands for, [errNoTurn] where it
// has to wait.
func (q *Queue) next(ctx context.Context, r *river.Job[entry]) (j Job, err error) {
	line := Line(r.Queue)
	if r.Queue == older {
		line = Short
	}
	err = pgx.BeginFunc(ctx, q.pool, func(tx pgx.Tx) error {
		// one at a time, so that none sees what another is about to begin as waiting
		if _, err := tx.Exec(ctx, `select pg_advisory_xact_lock(hashtextextended('turns', 19))`); err != nil {
			return err
		}
		var id ID
		var had *int64
		err := tx.QueryRow(ctx, `select j.id, j.entry from jobs j
			left join lateral (select count(*) filter (where state = 'working') as working, count(*) filter (where state = 'working' and line = 'long') as long, max(begun_at) as last from jobs o
				where o.workspace_id = j.workspace_id and (o.state = 'working' or o.begun_at > now() - interval '1 hour')) w on true
			where j.state = 'waiting' and j.line = $1 and j.kind = any($2) and j.not_before <= now() and w.working < $3 and (j.line = 'short' or w.long < $4)
			order by w.working, w.last nulls first, j.created_at, j.id limit 1 for update of j skip locked`, line, q.kinds(), mostWorking, mostLong).Scan(&id, &had)
		if errors.Is(err, pgx.ErrNoRows) {
			return q.idle(ctx, tx, r.ID)
		}
		if err != nil {
			return err
		}
		if had == nil || *had != r.ID { // the one this entry was made for has the other's from now on
			if _, err := tx.Exec(ctx, `update jobs set entry = $1 where entry = $2 and state = 'waiting'`, had, r.ID); err != nil {
				return err
			}
		}
		j, err = scan(tx.QueryRow(ctx, `with j as (
				update jobs set state = 'working', attempt = attempt + 1, steps = 0, of_steps = 0, beat_at = now(), begun_at = now(), entry = $2 where id = $1 returning *)
			select `+columns+` from j, pg_notify('document', (select id || ' 0' from j))`, id, r.ID))
		return err
	})
	return j, err
}

// idle says what becomes of an entry for which there is nothing to do: it waits where the job it
// belongs to does, and is gone with it.
func (q *Queue) idle(ctx context.Context, tx pgx.Tx, entry int64) error {
	var waits bool
	if err := tx.QueryRow(ctx, `select exists (select from jobs where entry = $1 and state = 'waiting')`, entry).Scan(&waits); err != nil {
		return err
	}
	if waits {
		return errNoTurn
	}
	return ErrNotFound
}

// kinds are the kinds of jobs this process knows.
func (q *Queue) kinds() []string { return slices.Sorted(maps.Keys(q.o.Kinds)) }

// failed puts a job back for a while that has failed once more.
func (q *Queue) failed(ctx context.Context, j Job, pause time.Duration) error {
	_, err := q.pool.Exec(ctx, `update jobs set state = 'waiting', steps = 0, failures = failures + 1, not_before = now() + $3::interval, beat_at = now() where id = $1 and attempt = $2 and state = 'working'`, j.ID, j.Attempt, pause)
	return err
}

// beats says that the job is worked on, until ctx ends, and ends the work where it is
// somebody else's by now.
func (q *Queue) beats(ctx context.Context, j Job, cancel context.CancelCauseFunc) {
	beat := time.NewTicker(q.o.Beat)
	defer beat.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-beat.C:
			tag, err := q.pool.Exec(ctx, `update jobs set beat_at = now() where id = $1 and attempt = $2 and state = 'working'`, j.ID, j.Attempt)
			if err == nil && tag.RowsAffected() == 0 {
				cancel(errLost)
			}
		}
	}
}

// report writes how far a job is.
func (q *Queue) report(ctx context.Context, j Job, steps, of int) error {
	tag, err := q.pool.Exec(ctx, `with j as (
			update jobs set steps = $3, of_steps = $4, beat_at = now() where id = $1 and attempt = $2 and state = 'working' returning id)
		select pg_notify('document', id || ' ' || $3::int) from j`, j.ID, j.Attempt, steps, of)
	return lost(tag.RowsAffected(), err)
}

// letGo puts a job back; counted is added to its attempts.
func (q *Queue) letGo(ctx context.Context, j Job, counted int) error {
	_, err := q.pool.Exec(ctx, `update jobs set state = 'waiting', steps = 0, attempt = attempt + $3, beat_at = now() where id = $1 and attempt = $2 and state = 'working'`, j.ID, j.Attempt, counted)
	return err
}

// over ends a job.
func over(ctx context.Context, db interface {
	QueryRow(ctx context.Context, sql string, args ...any) pgx.Row
}, j Job, state State, result any, said string) error {
	data, err := json.Marshal(result)
	if err != nil {
		return err
	}
	if result == nil {
		data = nil
	}
	n := 0
	err = db.QueryRow(ctx, `with j as (
			update jobs set state = $3, result = $4, said = $5, ended_at = now() where id = $1 and attempt = $2 and state = 'working' returning id, steps)
		select count(pg_notify('document', id || ' ' || steps)) from j`, j.ID, j.Attempt, state, data, said).Scan(&n)
	return lost(int64(n), err)
}

func lost(rows int64, err error) error {
	if err == nil && rows == 0 {
		return errLost
	}
	return err
}

// quiet keeps the queue's own notes to warnings.
func quiet(log *slog.Logger) *slog.Logger { return slog.New(louder{log.Handler()}) }

type louder struct{ slog.Handler }

func (l louder) Enabled(ctx context.Context, level slog.Level) bool {
	return level >= slog.LevelWarn && l.Handler.Enabled(ctx, level)
}

func (l louder) WithAttrs(a []slog.Attr) slog.Handler { return louder{l.Handler.WithAttrs(a)} }
func (l louder) WithGroup(name string) slog.Handler   { return louder{l.Handler.WithGroup(name)} }
