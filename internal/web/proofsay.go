package web

import (
	"fmt"
	"net/http"

	"aspenridge/internal/app"
)

// answered answers with how things stand after something was said.
func (s *Server) answered(w http.ResponseWriter, r *http.Request, j judge, err error) error {
	if err != nil {
		return err
	}
	return s.proofState(w, r, j)
}

func (s *Server) say(w http.ResponseWriter, r *http.Request, j judge) error {
	var q struct {
		ID       app.ID    `json:"id"`
		Piece    string    `json:"piece"`
		Spot     []float64 `json:"spot"` // x, y, and of an area its width and height
		About    *app.ID   `json:"about"`
		Words    string    `json:"words"`
		Suggests string    `json:"suggests"`
		Name     string    `json:"name"`
	}
	if err := readJSON(r, &q); err != nil {
		return err
	}
	said := app.Remark{ID: q.ID, Piece: q.Piece, About: q.About, Words: q.Words, Suggests: q.Suggests}
	switch len(q.Spot) {
	case 0:
	case 4:
		said.W, said.H = q.Spot[2], q.Spot[3]
		fallthrough
	case 2:
		said.Spot, said.X, said.Y = true, q.Spot[0], q.Spot[1]
	default:
		return fmt.Errorf("%w: a spot has two numbers, an area four", app.ErrInvalid)
	}
	return s.answered(w, r, j, s.app.Proofs.Say(r.Context(), j.Member, s.who(j, q.Name), j.brief, said))
}

func (s *Server) settle(w http.ResponseWriter, r *http.Request, j judge) error {
	var q struct {
		Thread app.ID `json:"thread"`
		Done   bool   `json:"done"`
		Name   string `json:"name"`
	}
	if err := readJSON(r, &q); err != nil {
		return err
	}
	return s.answered(w, r, j, s.app.Proofs.Settle(r.Context(), j.Member, s.who(j, q.Name), j.brief, q.Thread, q.Done))
}

// unsay deletes a comment.
func (s *Server) unsay(w http.ResponseWriter, r *http.Request, j judge) error {
	var q struct {
		Comment app.ID `json:"comment"`
		Name    string `json:"name"`
	}
	if err := readJSON(r, &q); err != nil {
		return err
	}
	return s.answered(w, r, j, s.app.Proofs.Unsay(r.Context(), j.Member, s.who(j, q.Name), j.brief, q.Comment))
}

// takeWords takes the words a comment suggests.
func (s *Server) takeWords(w http.ResponseWriter, r *http.Request, j judge) error {
	var q struct {
		Thread app.ID `json:"thread"`
		Client string `json:"client"`
	}
	if err := readJSON(r, &q); err != nil {
		return err
	}
	return s.answered(w, r, j, s.app.Proofs.Take(r.Context(), j.Member, j.brief, q.Thread, q.Client))
}

func (s *Server) decide(w http.ResponseWriter, r *http.Request, j judge) error {
	var q struct {
		Seen    map[string]string `json:"seen"` // hashes of drawings by piece
		Verdict string            `json:"verdict"`
		Name    string            `json:"name"`
	}
	if err := readJSON(r, &q); err != nil {
		return err
	}
	if len(q.Seen) == 0 {
		return fmt.Errorf("%w: say which pieces were seen", app.ErrInvalid)
	}
	return s.answered(w, r, j, s.app.Proofs.Decide(r.Context(), j.Member, s.who(j, q.Name), j.brief, q.Verdict, q.Seen))
}

// newLink makes a link and tells its address, once.
func (s *Server) newLink(w http.ResponseWriter, r *http.Request, j judge) error {
	var q struct {
		For      string `json:"for"`
		Password string `json:"password"`
		Days     int    `json:"days"`
		Closed   bool   `json:"closed"`
		Approves bool   `json:"approves"`
	}
	if err := readJSON(r, &q); err != nil {
		return err
	}
	token, err := s.app.Proofs.Link(r.Context(), j.Member, j.brief, app.WishedLink{For: q.For, Password: q.Password, Days: q.Days, Closed: q.Closed, Approves: q.Approves})
	if err != nil {
		return err
	}
	return s.proofLinks(w, r, j, s.origin(r)+"/see/"+token+"/")
}

func (s *Server) endLink(w http.ResponseWriter, r *http.Request, j judge) error {
	var q struct {
		Link string `json:"link"`
	}
	if err := readJSON(r, &q); err != nil {
		return err
	}
	id, err := app.ParseID(q.Link)
	if err != nil {
		return app.ErrNotFound
	}
	if err := s.app.Proofs.End(r.Context(), j.Member, j.brief, id); err != nil {
		return err
	}
	return s.proofLinks(w, r, j, "")
}

// closeLink has nothing more said by a link, or lets it be said again.
func (s *Server) closeLink(w http.ResponseWriter, r *http.Request, j judge) error {
	var q struct {
		Link   string `json:"link"`
		Closed bool   `json:"closed"`
	}
	if err := readJSON(r, &q); err != nil {
		return err
	}
	id, err := app.ParseID(q.Link)
	if err != nil {
		return app.ErrNotFound
	}
	if err := s.app.Proofs.Close(r.Context(), j.Member, j.brief, id, q.Closed); err != nil {
		return err
	}
	return s.proofLinks(w, r, j, "")
}

// proofLinks answers with the links there are, and the address of a new one.
func (s *Server) proofLinks(w http.ResponseWriter, r *http.Request, j judge, address string) error {
	links, err := s.app.Proofs.Links(r.Context(), j.Member, j.brief)
	if err != nil {
		return err
	}
	return s.replyPart(w, r, "proof", "links", links, map[string]any{"address": address})
}
