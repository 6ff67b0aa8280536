package web

import (
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"strconv"
	"time"

	"aspenridge/internal/app"
)

// jobView is a job as pages see it.
type jobView struct {
	ID    string          `json:"id"`
	State string          `json:"state"` // waiting, working, done, failed, stopped
	Over  bool            `json:"over"`
	Steps int             `json:"steps"`
	Of    int             `json:"of"`              // 0 while that is not known
	Ahead int             `json:"ahead,omitempty"` // jobs that are begun before it, while it waits
	Said  string          `json:"said,omitempty"`
	Got   json.RawMessage `json:"got,omitempty"`
}

// viewOf is a job with its place in line, where that can be told.
func (s *Server) viewOf(r *http.Request, j app.Job) jobView {
	ahead, _ := s.app.Work.Place(r.Context(), j)
	return jobView{j.ID.String(), string(j.State), j.State.Over(), j.Steps, j.Of, ahead, j.Said, j.Result}
}

func (s *Server) stopJob(w http.ResponseWriter, r *http.Request) error {
	m, id, err := about(r)
	if err == nil {
		err = s.app.Work.Stop(r.Context(), m, id)
	}
	if err != nil {
		return err
	}
	reply(w, http.StatusOK, map[string]any{})
	return nil
}

// streamJob tells how far a job is whenever that changes, until it is over.
func (s *Server) streamJob(w http.ResponseWriter, r *http.Request) error {
	m, id, err := about(r)
	if err != nil {
		return err
	}
	changes, stop := s.events.watch(map[app.ID]bool{id: true, m.ID: true, m.Session: true}) // before it is read: nothing is missed
	defer stop()
	j, err := s.app.Work.Job(r.Context(), m, id)
	if err != nil {
		return err
	}
	w.Header().Set("Content-Type", "text/event-stream")
	w.Header().Set("Cache-Control", "no-store")
	flush := http.NewResponseController(w)
	beat := time.NewTicker(5 * time.Second) // also where a notice was lost
	defer beat.Stop()
	for {
		data, err := json.Marshal(s.viewOf(r, j))
		if err != nil {
			return err
		}
		fmt.Fprintf(w, "retry: 1000\ndata: %s\n\n", data)
		if flush.Flush() != nil || j.State.Over() {
			return nil
		}
		select {
		case <-r.Context().Done():
			return nil
		case <-changes:
		case <-beat.C:
		}
		if !s.stillThere(r, m, nil) {
			return nil
		}
		if now, err := s.app.Work.Job(r.Context(), m, id); err == nil {
			j = now
		}
	}
}

// pack has the chosen files put into a parcel.
func (s *Server) pack(w http.ResponseWriter, r *http.Request) error {
	set, err := s.set(r)
	var id app.ID
	if err == nil {
		id, err = s.app.Files.Pack(r.Context(), member(r), set, handOverOf(r.URL.Query()))
	}
	if err != nil {
		return err
	}
	reply(w, http.StatusOK, map[string]any{"job": id})
	return nil
}

// parcel sends one.
func (s *Server) parcel(w http.ResponseWriter, r *http.Request) error {
	m, id, err := about(r)
	if err != nil {
		return err
	}
	p, body, err := s.app.Files.Parcel(r.Context(), m, id)
	if err != nil {
		return err
	}
	defer body.Close()
	w.Header().Set("Content-Type", mediaOf(p.Name))
	w.Header().Set("Content-Disposition", attachment(p.Name))
	w.Header().Set("Content-Length", strconv.FormatInt(p.Bytes, 10))
	if _, err := io.Copy(&patientWriter{w, http.NewResponseController(w)}, body); err != nil {
		s.log.Error("a parcel breaks off", "job", id, "error", err)
		panic(http.ErrAbortHandler)
	}
	return nil
}
