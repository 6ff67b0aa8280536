package web

import (
	"errors"
	"fmt"
	"net"
	"net/http"
	"strings"

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
var errNoMail = fmt.Errorf("%w: this installation sends no mail: ask whoever runs it", app.ErrInvalid)

// mailedWay is how addresses in mails begin. They are made of the address the installation is
// said to have, not of what a request says: else whoever asks could have links sent that lead
// elsewhere. On the machine itself nobody can.
func (s *Server) mailedWay(r *http.Request, path string) (string, error) {
	if !s.app.People.Sends() && !s.mailbox {
		return "", errNoMail
	}
	if s.address != "" {
		return s.address + path, nil
	}
	host := r.Host
	if h, _, err := net.SplitHostPort(host); err == nil {
		host = h
	}
	if ip := net.ParseIP(strings.Trim(host, "[]")); host != "localhost" && (ip == nil || !ip.IsLoopback()) {
		return "", errNoMail
	}
	return s.origin(r) + path, nil
}

func (s *Server) forgotPage(w http.ResponseWriter, r *http.Request) {
	s.show(w, r, "forgot", frame{Title: "Another password", Page: mailedPage{Box: s.mailbox}})
}

// forgot has a link sent; the answer is the same whether the address has an account or not.
func (s *Server) forgot(w http.ResponseWriter, r *http.Request) error {
	p := mailedPage{Email: r.FormValue("email"), Done: true, Box: s.mailbox}
	way, err := s.mailedWay(r, "/reset/")
	if err == nil {
		_, err = s.guarded(r, "reset", func() (app.Member, error) {
			err := s.app.People.Forgot(r.Context(), p.Email, way)
			if err == nil {
				return app.Member{}, app.ErrSignIn // it counts as a try: nobody fills boxes of others
			}
			return app.Member{}, err
		})
		if errors.Is(err, app.ErrSignIn) {
			err = nil
		}
	}
	return s.mailed(w, r, "forgot", p, err)
}

// mailed shows a page of mails, with what came of something that was asked for.
func (s *Server) mailed(w http.ResponseWriter, r *http.Request, name string, p mailedPage, err error) error {
	status := http.StatusOK
	if err != nil {
		if !errors.Is(err, app.ErrInvalid) && !errors.Is(err, errTries) {
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
