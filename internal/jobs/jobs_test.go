package jobs_test

import (
	"context"
	"encoding/json"
	"errors"
	"log/slog"
	"os"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"aspenridge/internal/jobs"
	"aspenridge/internal/raster"
	"aspenridge/internal/store"
	"aspenridge/test/stage"
)

func TestMain(m *testing.M) {
	raster.ChildMain()
	os.Exit(m.Run())
}

const beat = 50 * time.Millisecond

// house is a database with somebody in it, and queues over it.
type house struct {
	t *testing.T
	s *store.Store
	m store.Member
}

func open(t *testing.T) *house {
	t.Helper()
	s, _, drop, err := stage.NewStore(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(drop)
	m, err := s.CreateUser(t.Context(), "nell@larkmoor.example", "Nell", "", "Nell", time.Time{})
	if err != nil {
		t.Fatal(err)
	}
	return &house{t, s, m}
}

func (h *house) queue(kinds map[string]jobs.Work, routines ...jobs.Routine) *jobs.Queue {
	h.t.Helper()
	q, err := jobs.New(h.s.Pool.Pool, jobs.Options{Kinds: kinds, Routines: routines, Beat: beat, Log: slog.New(slog.DiscardHandler)})
	if err != nil {
		h.t.Fatal(err)
	}
	return q
}

// run does a queue's jobs until stop is called, or the test ends.
func (h *house) run(q *jobs.Queue) (stop func()) {
	ctx, cancel := context.WithCancel(h.t.Context())
	var running sync.WaitGroup
	running.Go(func() {
		if err := q.Run(ctx, 2); err != nil {
			h.t.Error(err)
		}
	})
	stop = sync.OnceFunc(func() { cancel(); running.Wait() })
	h.t.Cleanup(stop)
	return stop
}

func (h *house) add(q *jobs.Queue, kind string, args any) jobs.ID {
	h.t.Helper()
	data, err := json.Marshal(args)
	if err != nil {
		h.t.Fatal(err)
	}
	id, err := q.Add(h.t.Context(), jobs.Job{Workspace: h.m.Workspace, Person: h.m.ID, Kind: kind, Args: data})
	if err != nil {
		h.t.Fatal(err)
	}
	return id
}

// until waits for a job to be as somebody wants it.
func (h *house) until(q *jobs.Queue, id jobs.ID, what string, is func(jobs.Job) bool) jobs.Job {
	h.t.Helper()
	for end := time.Now().Add(30 * time.Second); ; time.Sleep(5 * time.Millisecond) {
		j, err := q.Job(h.t.Context(), h.m.Workspace, id)
		if err != nil {
			h.t.Fatal(err)
		}
		if is(j) {
			return j
		}
		if time.Now().After(end) {
			h.t.Fatalf("%s: it is %+v", what, j)
		}
	}
}

func state(s jobs.State) func(jobs.Job) bool { return func(j jobs.Job) bool { return j.State == s } }

func TestAJobIsDone(t *testing.T) {
	t.Parallel()
	h := open(t)
	var told atomic.Int64
	q := h.queue(map[string]jobs.Work{"add": func(_ context.Context, j jobs.Job, tell func(steps, of int)) (any, error) {
		var list []int
		if err := json.Unmarshal(j.Args, &list); err != nil {
			return nil, err
		}
		sum := 0
		for i, n := range list {
			sum += n
			tell(i+1, len(list))
		}
		return map[string]int{"sum": sum}, nil
	}})
	ctx, cancel := context.WithCancel(t.Context())
	defer cancel()
	go h.s.Listen(ctx, func(jobs.ID, int64) { told.Add(1) }, func(jobs.ID, string) {})
	id := h.add(q, "add", []int{3, 4, 5})
	if again := h.add(q, "add", []int{3, 4, 5}); again != id {
		t.Error("the same job is added twice")
	}
	named := jobs.Job{ID: jobs.ID{7}, Workspace: h.m.Workspace, Person: h.m.ID, Kind: "add", Args: json.RawMessage("[1]")}
	for range 2 {
		if got, err := q.Add(t.Context(), named); err != nil || got != named.ID {
			t.Errorf("with an id of its own: %s %v", got, err)
		}
	}
	if other := h.add(q, "add", []int{3}); other == id {
		t.Error("another job is taken for it")
	}
	if j := h.until(q, id, "nobody works", state(jobs.Waiting)); j.Attempt != 0 {
		t.Errorf("before anybody works on it: %+v", j)
	}
	h.run(q)
	j := h.until(q, id, "done", state(jobs.Done))
	if string(j.Result) != `{"sum": 12}` || j.Steps != 3 || j.Of != 3 || j.Attempt != 1 {
		t.Errorf("%+v %s", j, j.Result)
	}
	h.until(q, named.ID, "done", state(jobs.Done))
	if got, err := q.Add(t.Context(), named); err != nil || got != named.ID {
		t.Errorf("added again when it is done: %s %v", got, err)
	}
	if h.add(q, "add", []int{3, 4, 5}) == id {
		t.Error("asked for anew, it is the one that was done")
	}
	if told.Load() == 0 {
		t.Error("nobody is told")
	}
	if _, err := q.Job(t.Context(), jobs.ID{1}, id); !errors.Is(err, jobs.ErrNotFound) {
		t.Errorf("seen from another workspace: %v", err)
	}
}

func TestWhatFailsIsTriedAgain(t *testing.T) {
	t.Parallel()
	h := open(t)
	var tries atomic.Int64
	q := h.queue(map[string]jobs.Work{
		"shaky": func(context.Context, jobs.Job, func(steps, of int)) (any, error) {
			if tries.Add(1) == 1 {
				panic("a fault")
			}
			return "whole", nil
		},
		"hopeless": func(context.Context, jobs.Job, func(steps, of int)) (any, error) {
			return nil, jobs.Hopeless(errors.New("the brief is gone"))
		},
	})
	shaky, hopeless := h.add(q, "shaky", 1), h.add(q, "hopeless", 1)
	h.run(q)
	if j := h.until(q, hopeless, "failed", state(jobs.Failed)); j.Said != "the brief is gone" || j.Attempt != 1 {
		t.Errorf("hopeless: %+v", j)
	}
	if j := h.until(q, shaky, "done", state(jobs.Done)); j.Attempt != 2 || tries.Load() != 2 {
		t.Errorf("shaky: %+v after %d tries", j, tries.Load())
	}
}

func TestStopping(t *testing.T) {
	t.Parallel()
	h := open(t)
	ended := make(chan error, 1)
	q := h.queue(map[string]jobs.Work{"long": func(ctx context.Context, _ jobs.Job, tell func(steps, of int)) (any, error) {
		tell(1, 1)
		<-ctx.Done()
		ended <- context.Cause(ctx)
		return nil, ctx.Err()
	}})
	id := h.add(q, "long", 1)
	early := h.add(q, "long", 2)
	if err := q.Stop(t.Context(), h.m.Workspace, early); err != nil {
		t.Fatal(err)
	}
	h.run(q)
	h.until(q, id, "working", func(j jobs.Job) bool { return j.Steps == 1 })
	other := h.queue(nil) // another process
	if err := other.Stop(t.Context(), h.m.Workspace, id); err != nil {
		t.Fatal(err)
	}
	<-ended
	for _, id := range []jobs.ID{id, early} {
		if j := h.until(q, id, "stopped", state(jobs.Stopped)); j.Result != nil {
			t.Errorf("%+v", j)
		}
	}
	if err := q.Stop(t.Context(), h.m.Workspace, id); err != nil {
		t.Errorf("stopped twice: %v", err)
	}
	if err := q.Stop(t.Context(), jobs.ID{1}, id); !errors.Is(err, jobs.ErrNotFound) {
		t.Errorf("stopped from another workspace: %v", err)
	}
}

// TestAWorkerThatFallsSilent: what a worker did that was taken for dead is not taken when
// it comes after all, and the job is done once by another.
func TestAWorkerThatFallsSilent(t *testing.T) {
	t.Parallel()
	h := open(t)
	let, lost := make(chan struct{}), make(chan struct{})
	var tries atomic.Int64
	q := h.queue(map[string]jobs.Work{"parcel": func(ctx context.Context, _ jobs.Job, _ func(steps, of int)) (any, error) {
		if tries.Add(1) > 1 {
			return "in time", nil
		}
		<-let
		<-ctx.Done() // it finds out by its next beat
		close(lost)
		return "late", nil
	}})
	id := h.add(q, "parcel", 1)
	stop := h.run(q)
	h.until(q, id, "working", state(jobs.Working))
	// its beats do not arrive any more
	if _, err := h.s.Pool.Exec(t.Context(), `update jobs set beat_at = now() - interval '1 hour', attempt = attempt + 1 where id = $1`, id); err != nil {
		t.Fatal(err)
	}
	h.until(q, id, "done by another", state(jobs.Done))
	close(let)
	<-lost
	stop()
	if j := h.until(q, id, "still done", state(jobs.Done)); string(j.Result) != `"in time"` || tries.Load() != 2 {
		t.Errorf("result %s, tried %d times", j.Result, tries.Load())
	}
}

// TestAnEntryThatWasTaken by a worker that died before it began: the job gets another one.
func TestAnEntryThatWasTaken(t *testing.T) {
	t.Parallel()
	h := open(t)
	q := h.queue(map[string]jobs.Work{"parcel": func(context.Context, jobs.Job, func(steps, of int)) (any, error) { return 1, nil }})
	taken, used := h.add(q, "parcel", 1), h.add(q, "parcel", 2)
	for id, sql := range map[jobs.ID]string{
		taken: `update river_job set state = 'running', attempt = 1, attempted_by = array['somebody'], attempted_at = now() - interval '1 hour' where id = (select entry from jobs where id = $1)`,
		used:  `update river_job set state = 'completed', finalized_at = now() where id = (select entry from jobs where id = $1)`,
	} {
		if _, err := h.s.Pool.Exec(t.Context(), sql, id); err != nil {
			t.Fatal(err)
		}
	}
	h.run(q)
	for _, id := range []jobs.ID{taken, used} {
		if j := h.until(q, id, "done all the same", state(jobs.Done)); j.Attempt != 1 {
			t.Errorf("%+v", j)
		}
	}
}

// TestAWorkerThatStops leaves what it is at to others at once.
func TestAWorkerThatStops(t *testing.T) {
	t.Parallel()
	h := open(t)
	began := make(chan struct{}, 1)
	first := h.queue(map[string]jobs.Work{"parcel": func(ctx context.Context, _ jobs.Job, _ func(steps, of int)) (any, error) {
		began <- struct{}{}
		<-ctx.Done()
		return nil, ctx.Err()
	}})
	id := h.add(first, "parcel", 1)
	stop := h.run(first)
	<-began
	stop()
	second := h.queue(map[string]jobs.Work{"parcel": func(context.Context, jobs.Job, func(steps, of int)) (any, error) { return 1, nil }})
	h.run(second)
	if j := h.until(second, id, "done by the next", state(jobs.Done)); j.Attempt != 1 {
		t.Errorf("stopping counted as a failure: %+v", j)
	}
}

// TestAnOlderWorkerLeavesWhatItDoesNotKnow for one that does.
func TestAnOlderWorkerLeavesWhatItDoesNotKnow(t *testing.T) {
	t.Parallel()
	h := open(t)
	older := h.queue(map[string]jobs.Work{"parcel": func(context.Context, jobs.Job, func(steps, of int)) (any, error) { return "older", nil }})
	video, parcel := h.add(older, "video", 1), h.add(older, "parcel", 1)
	h.run(older)
	h.until(older, parcel, "what it knows is done", state(jobs.Done))
	if j := h.until(older, video, "waiting", state(jobs.Waiting)); j.Attempt != 0 {
		t.Errorf("it was tried: %+v", j)
	}
	newer := h.queue(map[string]jobs.Work{"video": func(context.Context, jobs.Job, func(steps, of int)) (any, error) { return "newer", nil }})
	h.run(newer)
	h.until(newer, video, "done by the newer", state(jobs.Done))
}

func TestRoutinesAndForgetting(t *testing.T) {
	t.Parallel()
	h := open(t)
	did := make(chan struct{}, 10)
	q := h.queue(map[string]jobs.Work{"parcel": func(context.Context, jobs.Job, func(steps, of int)) (any, error) {
		return map[string]string{"file": strings.Repeat("ab", 32)}, nil
	}}, jobs.Routine{Name: "tidy", Every: time.Hour, Do: func(context.Context) error { did <- struct{}{}; return nil }})
	id := h.add(q, "parcel", 1)
	if n, err := q.Waiting(t.Context(), h.m.Workspace); n != 1 || err != nil {
		t.Errorf("%d jobs wait, %v", n, err)
	}
	h.run(q)
	<-did
	h.until(q, id, "done", state(jobs.Done))
	if n, err := q.Naming(t.Context(), strings.Repeat("ab", 32)); n != 1 || err != nil {
		t.Errorf("%d jobs name the file, %v", n, err)
	}
	if list, err := q.Forget(t.Context(), time.Now().Add(-time.Hour), ""); len(list) != 0 || err != nil {
		t.Errorf("%d young jobs are forgotten, %v", len(list), err)
	}
	list, err := q.Forget(t.Context(), time.Now().Add(time.Hour), "")
	if err != nil || len(list) != 1 || list[0].ID != id || list[0].Result == nil {
		t.Errorf("forgotten: %+v, %v", list, err)
	}
	if _, err := q.Job(t.Context(), h.m.Workspace, id); !errors.Is(err, jobs.ErrNotFound) {
		t.Error("it is still there")
	}
}

// other is somebody in a workspace of their own on the same database.
func (h *house) other(email string) *house {
	h.t.Helper()
	m, err := h.s.CreateUser(h.t.Context(), email, "Other", "", "Other", time.Time{})
	if err != nil {
		h.t.Fatal(err)
	}
	return &house{h.t, h.s, m}
}

// addIn puts a job into a line.
func (h *house) addIn(q *jobs.Queue, kind string, line jobs.Line, n int) (jobs.ID, error) {
	data, err := json.Marshal(n)
	if err != nil {
		h.t.Fatal(err)
	}
	return q.Add(h.t.Context(), jobs.Job{Workspace: h.m.Workspace, Person: h.m.ID, Kind: kind, Args: data, Line: line})
}

// TestWorkspacesTakeTurns: of one that fills every line two jobs are worked on, one of them long,
// and so many wait; another one's job is the next that is begun, and routines go on.
func TestWorkspacesTakeTurns(t *testing.T) {
	t.Parallel()
	h := open(t)
	calm := h.other("calm@larkmoor.example")
	var mu sync.Mutex
	working, most := map[string]int{}, map[string]int{}
	var begun []string // by whom
	goOn := make(chan struct{})
	whose := func(j jobs.Job) string {
		if j.Workspace == h.m.Workspace {
			return "hostile"
		}
		return "calm"
	}
	count := func(key string, by int) {
		mu.Lock()
		defer mu.Unlock()
		working[key] += by
		most[key] = max(most[key], working[key])
	}
	work := func(ctx context.Context, j jobs.Job, _ func(steps, of int)) (any, error) {
		key := whose(j)
		mu.Lock()
		if j.Attempt == 1 { // one that is begun again has had its turn
			begun = append(begun, key)
		}
		mu.Unlock()
		count(key, 1)
		count(key+" "+string(j.Line), 1)
		defer count(key, -1)
		defer count(key+" "+string(j.Line), -1)
		if key == "hostile" {
			select {
			case <-goOn:
			case <-ctx.Done():
				return nil, ctx.Err()
			}
		}
		return nil, nil
	}
	var beats atomic.Int64
	q := h.queue(map[string]jobs.Work{"short": work, "long": work}, jobs.Routine{Name: "post", Every: time.Second, Do: func(context.Context) error { beats.Add(1); return nil }})
	// before anything is worked on: so many may wait
	var ids []jobs.ID
	full := 0
	for i := range 40 {
		id, err := h.addIn(q, []string{"short", "long"}[i%2], []jobs.Line{jobs.Short, jobs.Long}[i%2], i)
		switch {
		case errors.Is(err, jobs.ErrFull):
			full++
		case err != nil:
			t.Fatal(err)
		default:
			ids = append(ids, id)
		}
	}
	if len(ids) != jobs.MostWaiting || full != 20 {
		t.Fatalf("%d wait, %d were refused", len(ids), full)
	}
	places := map[int]int{}
	for _, id := range ids {
		j, err := q.Job(t.Context(), h.m.Workspace, id)
		if err != nil {
			t.Fatal(err)
		}
		n, err := q.Place(t.Context(), j)
		if err != nil {
			t.Fatal(err)
		}
		places[n]++
	}
	for n := range 10 { // ten in each of two lines
		if places[n] != 2 {
			t.Errorf("places in line: %v", places)
			break
		}
	}
	ctx, cancel := context.WithCancel(t.Context())
	var running sync.WaitGroup
	running.Go(func() { _ = q.Run(ctx, 3) })
	defer func() { cancel(); running.Wait() }()
	for end := time.Now().Add(30 * time.Second); ; time.Sleep(10 * time.Millisecond) { // two of its jobs, of whichever line
		mu.Lock()
		n := working["hostile"]
		mu.Unlock()
		if n == 2 {
			break
		}
		if time.Now().After(end) {
			t.Fatalf("%d of its jobs are worked on", n)
		}
	}
	before := beats.Load()
	for i, kind := range []jobs.Line{jobs.Short, jobs.Long} { // while all of the other's are held
		if kind == jobs.Long {
			continue // the only long place is taken, for as long as it takes
		}
		id, err := calm.addIn(q, string(kind), kind, 100+i)
		if err != nil {
			t.Fatal(err)
		}
		if j, err := q.Job(t.Context(), calm.m.Workspace, id); err == nil {
			if n, err := q.Place(t.Context(), j); err != nil || n > 1 {
				t.Errorf("its place is %d, %v", n, err)
			}
		}
		calm.until(q, id, "the calm one's", state(jobs.Done))
	}
	for end := time.Now().Add(30 * time.Second); beats.Load() < before+2; time.Sleep(10 * time.Millisecond) {
		if time.Now().After(end) {
			t.Fatal("routines wait for jobs")
		}
	}
	id, err := calm.addIn(q, "long", jobs.Long, 200)
	if err != nil {
		t.Fatal(err)
	}
	close(goOn)
	calm.until(q, id, "the calm one's long one", state(jobs.Done))
	for _, id := range ids {
		h.until(q, id, "all of them", state(jobs.Done))
	}
	mu.Lock()
	defer mu.Unlock()
	if most["hostile"] > 2 || most["hostile long"] > 1 {
		t.Errorf("at a time: %v", most)
	}
	// after the two or three that were begun the calm one's came
	for i, w := range begun {
		if w == "calm" {
			if i > 3 {
				t.Errorf("begun by turns: %v", begun)
			}
			break
		}
	}
}

// TestAJobThatTakesTooLong ends, with words, and is not tried again.
func TestAJobThatTakesTooLong(t *testing.T) {
	t.Parallel()
	h := open(t)
	var begun atomic.Int64
	q := h.queue(map[string]jobs.Work{"slow": func(ctx context.Context, _ jobs.Job, _ func(steps, of int)) (any, error) {
		begun.Add(1)
		<-ctx.Done()
		return nil, ctx.Err()
	}})
	h.run(q)
	id, err := q.Add(t.Context(), jobs.Job{Workspace: h.m.Workspace, Person: h.m.ID, Kind: "slow", Args: []byte(`1`), Limit: 50 * time.Millisecond})
	if err != nil {
		t.Fatal(err)
	}
	j := h.until(q, id, "it ends", state(jobs.Failed))
	if begun.Load() != 1 || !strings.Contains(j.Said, "longer") {
		t.Errorf("begun %d times, says %q", begun.Load(), j.Said)
	}
}
