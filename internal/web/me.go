package web

import (
	"encoding/base64"
	"errors"
	"net/http"
	"strings"
	"time"

	"rsc.io/qr"

	"aspenridge/internal/account"
	"aspenridge/internal/app"
	"aspenridge/internal/totp"
)

// guessAgain is the password of somebody who is signed in.
const guessAgain = "again"

// mePage is somebody's account.
type mePage struct {
	Codes account.Codes

	WantsCodes bool // the workspace demands codes of everybody
	Sessions   []account.Session
	Tells      string // how they hear of things in the workspace they are in
	Secret     string // of codes about to be asked for, as it is typed
	Picture    string // the same as a QR code
	Recovery   []string
	Problem    string
	Said       string // what was done
}

func (s *Server) me(w http.ResponseWriter, r *http.Request) error {
	return s.showMe(w, r, mePage{}, nil)
}

// showMe shows the account, with what came of something that was asked for.
func (s *Server) showMe(w http.ResponseWriter, r *http.Request, p mePage, problem error) error {
	status := http.StatusOK
	if errors.Is(problem, account.ErrSessionOver) {
		if err := s.sessions.Destroy(r.Context()); err != nil {
			return err
		}
		http.Redirect(w, r, "/sign-in", http.StatusSeeOther)
		return nil
	}
	if problem != nil {
		if !errors.Is(problem, app.ErrInvalid) && !errors.Is(problem, account.ErrTries) {
			return problem
		}
		status, p.Problem, p.Said = comeAgain(w, problem), plainly(problem), ""
	}
	m := member(r)
	var err error
	if p.Codes, err = s.app.People.Codes(r.Context(), m); err != nil {
		return err
	}
	p.WantsCodes = m.WantsCodes && !p.Codes.On
	if secret, ok := s.secret(r); ok && !p.Codes.On {
		p.Secret = totp.Written(secret)
		code, err := qr.Encode(totp.Address(secret, m.Email), qr.M)
		if err != nil {
			return err
		}
		p.Picture = qrSVG(code)
	}
	if p.Sessions, err = s.app.People.OpenSessions(r.Context(), m, time.Now().Add(-s.sessions.Lifetime)); err != nil {
		return err
	}
	if p.Tells, err = s.app.Team.NotifyMe(r.Context(), m); err != nil {
		return err
	}
	f := frame{Title: "Account", Screen: "account", Page: p}
	f.Member, f.Build = m, strings.Trim(buildTag, `"`)
	s.render(w, r, "account", "page", status, f)
	return nil
}

// secret is that of codes somebody is about to ask for.
func (s *Server) secret(r *http.Request) ([]byte, bool) {
	secret, err := base64.StdEncoding.DecodeString(s.sessions.GetString(r.Context(), "secret"))
	return secret, err == nil && len(secret) > 0
}

func (s *Server) renameMe(w http.ResponseWriter, r *http.Request) error {
	if err := s.app.People.Rename(r.Context(), member(r), r.FormValue("name")); err != nil {
		return s.showMe(w, r, mePage{}, err)
	}
	http.Redirect(w, r, "/account", http.StatusSeeOther)
	return nil
}

// changePassword ends the other sessions; this one goes on.
func (s *Server) changePassword(w http.ResponseWriter, r *http.Request) error {
	err := s.guarded(r, guessAgain, member(r).ID.String(), func() error {
		return s.app.People.ChangePassword(r.Context(), member(r), r.FormValue("now"), r.FormValue("next"))
	})
	if err == nil {
		err = s.sessions.RenewToken(r.Context())
	}
	return s.showMe(w, r, mePage{Said: "Your password is changed, and you are signed out everywhere else."}, err)
}

func (s *Server) signOutEverywhere(w http.ResponseWriter, r *http.Request) error {
	err := s.app.People.SignOutEverywhere(r.Context(), member(r))
	return s.showMe(w, r, mePage{Said: "You are signed out everywhere else."}, err)
}

// signOutThere ends one session.
func (s *Server) signOutThere(w http.ResponseWriter, r *http.Request) error {
	id, err := app.ParseID(r.FormValue("session"))
	if err != nil {
		return app.ErrNotFound
	}
	return s.showMe(w, r, mePage{Said: "You are signed out there."}, s.app.People.EndSession(r.Context(), member(r), id))
}

// changeEmail sends a link to another address.
func (s *Server) changeEmail(w http.ResponseWriter, r *http.Request) error {
	way, err := s.mailedWay(r, "/confirm/")
	if err == nil {
		err = s.guarded(r, guessAgain, member(r).ID.String(), func() error {
			return s.app.People.ChangeEmail(r.Context(), member(r), r.FormValue("password"), r.FormValue("email"), way)
		})
	}
	return s.showMe(w, r, mePage{Said: "A mail has gone to " + r.FormValue("email") + ": the link in it makes it your address."}, err)
}

// beginCodes makes a secret, for who says their password; nothing is asked for before a code of
// it was said.
func (s *Server) beginCodes(w http.ResponseWriter, r *http.Request) error {
	err := s.guarded(r, guessAgain, member(r).ID.String(), func() error {
		return s.app.People.Again(r.Context(), member(r), r.FormValue("password"))
	})
	if err != nil {
		return s.showMe(w, r, mePage{}, err)
	}
	s.sessions.Put(r.Context(), "secret", base64.StdEncoding.EncodeToString(totp.Secret()))
	http.Redirect(w, r, "/account", http.StatusSeeOther)
	return nil
}

func (s *Server) askCodes(w http.ResponseWriter, r *http.Request) error {
	secret, ok := s.secret(r)
	if !ok {
		http.Redirect(w, r, "/account", http.StatusSeeOther)
		return nil
	}
	recovery, err := s.app.People.AskCodes(r.Context(), member(r), secret, r.FormValue("code"))
	if err == nil {
		s.sessions.Remove(r.Context(), "secret")
	}
	return s.showMe(w, r, mePage{Recovery: recovery, Said: "From now on a code is asked for when you sign in."}, err)
}

func (s *Server) noCodes(w http.ResponseWriter, r *http.Request) error {
	err := s.guarded(r, guessAgain, member(r).ID.String(), func() error {
		return s.app.People.NoCodes(r.Context(), member(r), r.FormValue("password"))
	})
	return s.showMe(w, r, mePage{Said: "No code is asked for any more."}, err)
}
