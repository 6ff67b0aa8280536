package web

import (
	"encoding/json"
	"net/http"

	"aspenridge/internal/core/piece"
)

// exportWorkspace streams all of the workspace as a ZIP.
func (s *Server) exportWorkspace(w http.ResponseWriter, r *http.Request) error {
	m := member(r)
	w.Header().Set("Content-Type", "application/zip")
	w.Header().Set("Content-Disposition", attachment(piece.FileName(m.WorkspaceName)+".zip"))
	if err := s.app.Team.ExportWorkspace(r.Context(), m, &patientWriter{w, http.NewResponseController(w)}); err != nil {
		s.log.Error("workspace", "workspace", m.Workspace, "error", err)
		panic(http.ErrAbortHandler) // nobody keeps half a ZIP
	}
	return nil
}

// importWorkspace makes a workspace of an uploaded archive and goes there.
func (s *Server) importWorkspace(w http.ResponseWriter, r *http.Request) error {
	return toDisk(r, func(path string) error {
		id, err := s.app.Team.ImportWorkspace(r.Context(), member(r), path)
		if err != nil {
			return err
		}
		s.sessions.Put(r.Context(), "workspace", id.String())
		reply(w, http.StatusOK, map[string]string{"go": "/desk"})
		return nil
	})
}

// myData answers with all that is kept about who asks.
func (s *Server) myData(w http.ResponseWriter, r *http.Request) error {
	d, err := s.app.People.MyData(r.Context(), member(r))
	if err != nil {
		return err
	}
	w.Header().Set("Content-Type", "application/json")
	w.Header().Set("Content-Disposition", attachment("account.json"))
	enc := json.NewEncoder(w)
	enc.SetIndent("", " ")
	return enc.Encode(d)
}

// deleteMe ends the account of who asks.
func (s *Server) deleteMe(w http.ResponseWriter, r *http.Request) error {
	m := member(r)
	err := s.guarded(r, guessAgain, m.ID.String(), func() error {
		return s.app.People.DeleteAccount(r.Context(), m, r.FormValue("password"))
	})
	if err != nil {
		return s.showMe(w, r, mePage{}, err)
	}
	if err := s.sessions.Destroy(r.Context()); err != nil {
		return err
	}
	http.Redirect(w, r, "/sign-in", http.StatusSeeOther)
	return nil
}
