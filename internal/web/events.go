package web

import (
	"errors"
	"fmt"
	"maps"
	"net/http"
	"slices"
	"strings"
	"sync"
	"time"

	"aspenridge/internal/app"
)

// hub hands changes of documents to the pages that watch them.
type hub struct {
	mu       sync.Mutex
	watchers map[app.ID]map[chan change]bool // of each document
}

type change struct {
	id   app.ID
	seq  int64
	here string // who is there, as JSON; "" for a change of the document
}

func newHub() *hub { return &hub{watchers: map[app.ID]map[chan change]bool{}} }

// publish never waits: a page that is slow misses a number, and the next one
// tells it as much.
func (h *hub) publish(id app.ID, seq int64) { h.tell(change{id: id, seq: seq}) }

// present tells who watches a document that somebody is there.
func (h *hub) present(id app.ID, who string) { h.tell(change{id: id, here: who}) }

func (h *hub) tell(c change) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for ch := range h.watchers[c.id] {
		select {
		case ch <- c:
		default:
		}
	}
}

func (h *hub) watch(ids map[app.ID]bool) (<-chan change, func()) {
	ids = maps.Clone(ids)
	ch := make(chan change, 16)
	h.mu.Lock()
	defer h.mu.Unlock()
	for id := range ids {
		if h.watchers[id] == nil {
			h.watchers[id] = map[chan change]bool{}
		}
		h.watchers[id][ch] = true
	}
	return ch, func() {
		h.mu.Lock()
		defer h.mu.Unlock()
		for id := range ids {
			if delete(h.watchers[id], ch); len(h.watchers[id]) == 0 {
				delete(h.watchers, id)
			}
		}
	}
}

// stillThere reports whether somebody is signed in still, in the workspace they came with, and
// whether the documents they watch are still there for them; that they may no longer be seen ends
// what is told of them. When it cannot be told just now, it stands as it was.
func (s *Server) stillThere(r *http.Request, m app.Member, ids map[app.ID]bool) bool {
	now, err := s.app.People.MemberIn(r.Context(), m.ID, m.Workspace, m.Session)
	switch {
	case errors.Is(err, app.ErrNotFound), err == nil && (now.Workspace != m.Workspace || now.WantsCodes):
		return false
	case err != nil || !now.Narrowed:
		return true
	}
	there, err := s.app.Documents.There(r.Context(), now, slices.Collect(maps.Keys(ids))...)
	return err != nil || len(there) == len(ids)
}

// streamEvents tells a page when one of the documents it names has changed.
func (s *Server) streamEvents(w http.ResponseWriter, r *http.Request) error {
	m := member(r)
	var asked []app.ID
	for _, v := range strings.Split(r.URL.Query().Get("watch"), ",") {
		if id, err := app.ParseID(v); err == nil && len(asked) < 8 {
			asked = append(asked, id)
		}
	}
	ids, err := s.app.Documents.There(r.Context(), m, asked...)
	if err != nil {
		return err
	}
	return s.stream(w, r, ids, m, func() bool { return s.stillThere(r, m, ids) })
}

// here tells the others on a brief that who asks is there too.
func (s *Server) here(w http.ResponseWriter, r *http.Request) error {
	m, id, err := about(r)
	var p app.Presence
	if err == nil {
		err = readJSON(r, &p)
	}
	if err == nil {
		err = s.app.Briefs.Here(r.Context(), m, id, p)
	}
	if err != nil {
		return err
	}
	w.WriteHeader(http.StatusNoContent)
	return nil
}

// stream tells of changes of documents as they come, and somebody with an account of who is
// there, as long as whoever hears it may: that is asked before everything that is told, and at
// once when their session or their place in the workspace changes.
func (s *Server) stream(w http.ResponseWriter, r *http.Request, ids map[app.ID]bool, m app.Member, may func() bool) error {
	people := m.ID != app.ID{}
	watched := maps.Clone(ids)
	if people {
		watched[m.ID], watched[m.Session] = true, true
	}
	changes, stop := s.events.watch(watched)
	defer stop()
	w.Header().Set("Content-Type", "text/event-stream")
	w.Header().Set("Cache-Control", "no-store")
	flush := http.NewResponseController(w)
	fmt.Fprint(w, "retry: 1000\n: hello\n\n")
	if flush.Flush() != nil {
		return nil
	}
	beat := time.NewTicker(20 * time.Second)
	defer beat.Stop()
	for {
		select {
		case <-r.Context().Done():
			return nil
		case c := <-changes:
			if c.here != "" && !people {
				continue
			}
			if !may() {
				return nil
			}
			if !ids[c.id] { // it was about who hears this
				continue
			}
			if c.here != "" {
				fmt.Fprintf(w, "event: here\ndata: %s\n\n", c.here)
				break
			}
			fmt.Fprintf(w, "data: {\"id\":%q,\"seq\":%d}\n\n", c.id, c.seq)
		case <-beat.C:
			if !may() {
				return nil
			}
			fmt.Fprint(w, ": here\n\n")
		}
		if flush.Flush() != nil {
			return nil
		}
	}
}
