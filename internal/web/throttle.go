package web

import (
	"context"
	"net"
	"net/http"
	"net/netip"
	"strings"
	"sync"
	"time"

	"github.com/go-chi/httprate"
)

// throttle slows down whoever guesses passwords: after a few failures each
// further try under the same key waits longer, one at a time. It refuses only
// when too many wait already. What is right is never refused for being late.
type throttle struct {
	free int           // failures before tries are slowed
	step time.Duration // what the first slow try waits; each doubles it
	most time.Duration
	now  func() time.Time

	mu   sync.Mutex
	keys map[string]*tries
}

// tries is what is known of a key.
type tries struct {
	failures int
	last     time.Time
	waiting  int
	turn     chan struct{} // one at a time, while slowed
}

const (
	throttleQueue = 4               // tries of a key that wait at once
	forgiveness   = 5 * time.Minute // after which failures count half
	throttleKeys  = 50_000
)

func newThrottle(free int, step time.Duration) *throttle {
	return &throttle{free: free, step: step, most: 8 * time.Second, now: time.Now, keys: map[string]*tries{}}
}

// enter waits until a try may be made under a key; false means too many wait.
// leave ends the try and says whether it failed.
func (t *throttle) enter(ctx context.Context, key string) (leave func(failed bool), ok bool) {
	t.mu.Lock()
	k := t.keys[key]
	if k == nil {
		if len(t.keys) >= throttleKeys {
			t.forget()
		}
		k = &tries{turn: make(chan struct{}, 1)}
		t.keys[key] = k
	}
	for ; k.failures > 0 && t.now().Sub(k.last) > forgiveness; k.last = k.last.Add(forgiveness) {
		k.failures /= 2
	}
	wait := t.delay(k.failures + k.waiting) // those under way may all fail
	if wait > 0 && k.waiting >= throttleQueue {
		t.mu.Unlock()
		return nil, false
	}
	k.waiting++
	t.mu.Unlock()
	leave = func(failed bool) {
		t.mu.Lock()
		defer t.mu.Unlock()
		if wait > 0 {
			<-k.turn
		}
		k.waiting--
		if k.last = t.now(); failed {
			k.failures++
		} else {
			k.failures = 0
		}
	}
	if wait == 0 {
		return leave, true
	}
	gone := func() (func(bool), bool) {
		t.mu.Lock()
		k.waiting--
		t.mu.Unlock()
		return nil, false
	}
	select {
	case k.turn <- struct{}{}:
	case <-ctx.Done():
		return gone()
	}
	timer := time.NewTimer(wait)
	defer timer.Stop()
	select {
	case <-timer.C:
		return leave, true
	case <-ctx.Done():
		<-k.turn
		return gone()
	}
}

func (t *throttle) delay(failures int) time.Duration {
	if failures < t.free {
		return 0
	}
	return min(t.most, t.step<<min(failures-t.free, 10))
}

// forget drops keys nobody waits under whose failures are long over, or, where
// that is not enough, all of them; t.mu must be held.
func (t *throttle) forget() {
	for key, k := range t.keys {
		if k.waiting == 0 && (k.failures < t.free || t.now().Sub(k.last) > forgiveness) {
			delete(t.keys, key)
		}
	}
	if len(t.keys) >= throttleKeys {
		for key, k := range t.keys {
			if k.waiting == 0 {
				delete(t.keys, key)
			}
		}
	}
}

// network is where a request comes from: the connection, or behind one of our
// proxies the last address that proxy did not make up itself. Addresses of
// version 6 count by their network of 64 bits.
func (s *Server) network(r *http.Request) string {
	host, _, err := net.SplitHostPort(r.RemoteAddr)
	if err != nil {
		host = r.RemoteAddr
	}
	forwarded := strings.Split(strings.Join(r.Header.Values("X-Forwarded-For"), ","), ",")
	for i := len(forwarded) - 1; i >= 0 && s.isProxy(host); i-- {
		if next := strings.TrimSpace(forwarded[i]); next != "" {
			host = next
		}
	}
	return httprate.CanonicalizeIP(host)
}

func (s *Server) isProxy(host string) bool {
	a, err := netip.ParseAddr(host)
	if err != nil {
		return false
	}
	for _, p := range s.proxies {
		if p.Contains(a.Unmap()) {
			return true
		}
	}
	return false
}
