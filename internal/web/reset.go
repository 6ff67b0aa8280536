package web

import (
	"errors"
	"fmt"
	"net/http"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"aspenridge/internal/app"
)

// mailedPage is one somebody comes to who asks for a mail, or comes from one.
type mailedPage struct {
	Email, Name, Problem string
	Token                string
	Done                 bool
	Box                  bool // what would be sent can be looked at
	Mails                []app.Mail
}

// errNoMail means a link cannot be sent.
var errNoMail = fmt.Errorf("%w: this installation sends no mail: ask the person who runs it", app.ErrInvalid)

// mailedWay is how addresses in mails begin: [Server.origin].
func (s *Server) mailedWay(r *http.Request, path string) (string, error) {
	if !s.app.People.Sends() && !s.mailbox {
		return "", errNoMail
	}
	return s.origin(r) + path, nil
}

// resetsAnHour is how often a network may ask for another password.
const resetsAnHour = 20

func (s *Server) forgotPage(w http.ResponseWriter, r *http.Request) {
	s.show(w, r, "forgot", frame{Title: "Another password", Page: mailedPage{Box: s.mailbox}})
}

// forgot has a link sent; the answer is the same whether the address has an account or not.
func (s *Server) forgot(w http.ResponseWriter, r *http.Request) error {
	p := mailedPage{Email: r.FormValue("email"), Done: true, Box: s.mailbox}
	way, err := s.mailedWay(r, "/reset/")
	if err == nil && s.app.People.Often(r.Context(), "forgot", s.network(r), resetsAnHour, time.Hour) { // nobody fills boxes of others
		err = errOften
	}
	if err == nil {
		err = s.app.People.Forgot(r.Context(), p.Email, way)
	}
	return s.mailed(w, r, "forgot", p, err)
}

// mailed shows a page of mails, with what came of something that was asked for.
func (s *Server) mailed(w http.ResponseWriter, r *http.Request, name string, p mailedPage, err error) error {
	status := http.StatusOK
	if err != nil {
		if !errors.Is(err, app.ErrInvalid) && !errors.Is(err, errOften) {
			return err
		}
		status, p.Problem, p.Done = http.StatusUnprocessableEntity, plainly(err), false
	}
	s.render(w, r, name, "page", status, frame{Title: "Another password", Page: p, Build: strings.Trim(buildTag, `"`)})
	return nil
}

func (s *Server) resetPage(w http.ResponseWriter, r *http.Request) error {
	p := mailedPage{Token: chi.URLParam(r, "token")}
	var err error
	if p.Name, err = s.app.People.ResetName(r.Context(), p.Token); err != nil {
		return err
	}
	return s.mailed(w, r, "reset", p, nil)
}

func (s *Server) reset(w http.ResponseWriter, r *http.Request) error {
	p := mailedPage{Token: chi.URLParam(r, "token"), Done: true}
	var err error
	if p.Name, err = s.app.People.ResetName(r.Context(), p.Token); err != nil {
		return err
	}
	return s.mailed(w, r, "reset", p, s.app.People.Reset(r.Context(), p.Token, r.FormValue("password")))
}

func (s *Server) confirmPage(w http.ResponseWriter, r *http.Request) error {
	p := mailedPage{Token: chi.URLParam(r, "token")}
	var err error
	if p.Name, p.Email, err = s.app.People.Confirmable(r.Context(), p.Token); err != nil {
		return err
	}
	return s.mailed(w, r, "confirm", p, nil)
}

func (s *Server) confirm(w http.ResponseWriter, r *http.Request) error {
	p := mailedPage{Token: chi.URLParam(r, "token"), Done: true}
	return s.mailed(w, r, "confirm", p, s.app.People.Confirm(r.Context(), p.Token))
}

// accountMails is what would have been sent, for whoever is at the machine of a demonstration.
func (s *Server) accountMails(w http.ResponseWriter, r *http.Request) error {
	if !s.mailbox {
		return app.ErrNotFound
	}
	mails, err := s.app.People.AccountMails(r.Context())
	if err != nil {
		return err
	}
	return s.mailed(w, r, "mailbox", mailedPage{Mails: mails}, nil)
}
