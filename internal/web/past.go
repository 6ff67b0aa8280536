package web

import (
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"

	"github.com/go-chi/chi/v5"

	"aspenridge/internal/app"
)

// pastPage is what was done to a brief.
type pastPage struct {
	List []app.Past
	Now  int64 // the last change that is done, 0 for none
	More int   // how many to ask for to see earlier ones, 0 where there are none
}

// past answers with the list of what was done to a brief.
func (s *Server) past(w http.ResponseWriter, r *http.Request) error {
	set, err := s.set(r)
	if err != nil {
		return err
	}
	p := pastPage{}
	most, _ := strconv.Atoi(r.URL.Query().Get("most"))
	most = max(app.PastAtOnce, most)
	if p.List, err = s.app.Documents.Past(r.Context(), member(r), set, most); err != nil {
		return err
	}
	if len(p.List) == most {
		p.More = most + app.PastAtOnce
	}
	if i := slices.IndexFunc(p.List, func(c app.Past) bool { return !c.Undone }); i >= 0 {
		p.Now = p.List[i].Seq
	}
	return s.replyPart(w, r, "mat", "past", p, map[string]any{"seq": set.Doc.Seq})
}

// pastWide is how large a piece is drawn in the list of what was done, px.
const pastWide = 64

// pastPiece answers with a piece as it was when a change was the last that was done.
func (s *Server) pastPiece(w http.ResponseWriter, r *http.Request) error {
	set, err := s.set(r)
	if err != nil {
		return err
	}
	seq, err := strconv.ParseInt(chi.URLParam(r, "seq"), 10, 64)
	if err != nil {
		return fmt.Errorf("%w: %q is no change of this brief", app.ErrInvalid, chi.URLParam(r, "seq"))
	}
	p, err := set.Channels.Parse(r.URL.Query().Get("placement"))
	if err != nil {
		return fmt.Errorf("%w: %v", app.ErrInvalid, err)
	}
	then, err := s.app.Sets.AtPast(r.Context(), member(r), set, seq)
	if errors.Is(err, app.ErrInvalid) { // the list on the page is older than what was done since
		reply(w, http.StatusOK, map[string]any{"html": ""})
		return nil
	}
	if err != nil {
		return err
	}
	m := miniOf(then.Piece(then.CurrentLook(), p).Scene, p, fmt.Sprintf("past%d-", seq), pastWide, 0)
	reply(w, http.StatusOK, map[string]any{"html": m.SVG})
	return nil
}

// goTo takes changes back, or puts them back, until one is the last that is done.
func (s *Server) goTo(w http.ResponseWriter, r *http.Request) error {
	m, id, err := about(r)
	var q struct {
		Client string `json:"client"`
		Seq    int64  `json:"seq"`
		Base   int64  `json:"base"` // number of the brief whose past was seen
	}
	if err == nil {
		err = readJSON(r, &q)
	}
	if err == nil {
		err = s.once(r, func() error { return s.app.Documents.GoTo(r.Context(), m, id, q.Client, q.Seq, q.Base) })
	}
	if err != nil {
		return err
	}
	reply(w, http.StatusOK, map[string]any{"seq": q.Seq})
	return nil
}
