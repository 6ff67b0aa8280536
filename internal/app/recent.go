package app

import "sync"

// recent keeps the things used last, up to a weight in all. Safe for concurrent
// use.
type recent[V any] struct {
	most  int         // bytes
	weigh func(V) int // bytes, which may grow while a thing is kept

	mu   sync.Mutex
	now  int
	kept map[ID]*used[V]
}

type used[V any] struct {
	thing V
	last  int
}

func newRecent[V any](most int, weigh func(V) int) *recent[V] {
	return &recent[V]{most: most, weigh: weigh, kept: map[ID]*used[V]{}}
}

// forget lets go of everything.
func (r *recent[V]) forget() {
	r.mu.Lock()
	defer r.mu.Unlock()
	clear(r.kept)
}

func (r *recent[V]) get(id ID) (v V, ok bool) {
	r.mu.Lock()
	defer r.mu.Unlock()
	u, ok := r.kept[id]
	if ok {
		r.now++
		u.last, v = r.now, u.thing
	}
	return v, ok
}

// put keeps a thing, and forgets those not used for longest while all weigh too
// much.
func (r *recent[V]) put(id ID, v V) {
	r.mu.Lock()
	defer r.mu.Unlock()
	r.now++
	r.kept[id] = &used[V]{v, r.now}
	total := 0
	for _, u := range r.kept {
		total += r.weigh(u.thing)
	}
	for total > r.most && len(r.kept) > 1 {
		oldest := id
		for id, u := range r.kept {
			if u.last < r.kept[oldest].last {
				oldest = id
			}
		}
		total -= r.weigh(r.kept[oldest].thing)
		delete(r.kept, oldest)
	}
}

// memo keeps what was computed of something that does not change.
type memo struct {
	mu    sync.Mutex
	known map[string]any
}

// maxMemo is how many things a memo keeps; one more forgets all of them.
const maxMemo = 200

func (m *memo) len() int {
	m.mu.Lock()
	defer m.mu.Unlock()
	return len(m.known)
}

// once computes a thing by its name, or says what came of it before. Two who ask
// at the same moment may both compute it.
func once[T any](m *memo, name string, compute func() T) T {
	m.mu.Lock()
	v, ok := m.known[name].(T)
	m.mu.Unlock()
	if ok {
		return v
	}
	v = compute()
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.known == nil || len(m.known) >= maxMemo {
		m.known = map[string]any{}
	}
	m.known[name] = v
	return v
}

// Once computes something of a set by its name, once.
func Once[T any](s *Set, name string, compute func() T) T { return once(&s.memo, name, compute) }
