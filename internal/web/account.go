package web

import (
	"context"
	"errors"
	"net/http"
	"strings"
	"time"

	"github.com/google/uuid"

	"aspenridge/internal/app"
	"aspenridge/internal/gate"
)

type memberKey struct{}

func member(r *http.Request) app.Member {
	m, _ := r.Context().Value(memberKey{}).(app.Member)
	return m
}

// about is who asks and the document the address names.
func about(r *http.Request) (app.Member, app.ID, error) {
	id, err := pathID(r)
	return member(r), id, err
}

// signedIn lets only people with a session through and remembers who they are.
func (s *Server) signedIn(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		m, err := s.whoseSession(r)
		if err != nil && !errors.Is(err, app.ErrNotFound) {
			s.problem(w, r, err)
			return
		}
		if err != nil {
			if wantsJSON(r) || r.Method != http.MethodGet {
				reply(w, http.StatusUnauthorized, map[string]string{"error": "your session has ended; sign in again"})
				return
			}
			http.Redirect(w, r, "/sign-in", http.StatusSeeOther)
			return
		}
		ctx := gate.OwnedBy(r.Context(), m.Workspace.String())
		next.ServeHTTP(w, r.WithContext(context.WithValue(ctx, memberKey{}, m)))
	})
}

// whoseSession is who has signed in here, in the workspace they were in last;
// [app.ErrNotFound] for nobody.
func (s *Server) whoseSession(r *http.Request) (app.Member, error) {
	id, err := uuid.Parse(s.sessions.GetString(r.Context(), "user"))
	if err != nil {
		return app.Member{}, app.ErrNotFound
	}
	session, err := uuid.Parse(s.sessions.GetString(r.Context(), "session"))
	if err != nil {
		return app.Member{}, app.ErrNotFound
	}
	workspace, _ := uuid.Parse(s.sessions.GetString(r.Context(), "workspace")) // of none the first one
	return s.app.People.MemberIn(r.Context(), id, workspace, session)
}

type accountForm struct {
	Name, Email, Problem string
	Next                 string // where one goes on to
}

// next is where somebody goes on to who has signed in: to an invitation, else the Desk.
func next(r *http.Request) string {
	if to := r.FormValue("next"); strings.HasPrefix(to, "/join/") && !strings.ContainsAny(to[len("/join/"):], "/\\?#") {
		return to
	}
	return "/desk"
}

// nextOf is the same as forms carry it, "" for the Desk.
func nextOf(r *http.Request) string {
	if to := next(r); to != "/desk" {
		return to
	}
	return ""
}

func (s *Server) signInPage(w http.ResponseWriter, r *http.Request) {
	s.show(w, r, "signin", frame{Title: "Sign in", Page: accountForm{Next: nextOf(r)}})
}

func (s *Server) signUpPage(w http.ResponseWriter, r *http.Request) {
	s.show(w, r, "signup", frame{Title: "Sign up", Page: accountForm{Next: nextOf(r)}})
}

func (s *Server) signIn(w http.ResponseWriter, r *http.Request) error {
	email := r.FormValue("email")
	m, err := s.guarded(r, email, func() (app.Member, error) { return s.app.People.SignIn(r.Context(), email, r.FormValue("password")) })
	if err != nil {
		if !errors.Is(err, app.ErrSignIn) && !errors.Is(err, errTries) {
			return err
		}
		status := http.StatusUnprocessableEntity
		if errors.Is(err, errTries) {
			w.Header().Set("Retry-After", "30")
			status = http.StatusTooManyRequests
		}
		if wantsJSON(r) {
			reply(w, status, map[string]string{"error": err.Error()})
			return nil
		}
		s.render(w, r, "signin", "page", status, frame{Title: "Sign in", Page: accountForm{Email: email, Problem: err.Error(), Next: nextOf(r)}})
		return nil
	}
	codes, err := s.app.People.Codes(r.Context(), m)
	if err != nil {
		return err
	}
	if codes.On {
		return s.askCode(w, r, m)
	}
	if err := s.begin(r, m); err != nil {
		return err
	}
	if wantsJSON(r) {
		reply(w, http.StatusOK, map[string]bool{"ok": true})
		return nil
	}
	http.Redirect(w, r, next(r), http.StatusSeeOther)
	return nil
}

// errTries means so many tries wait already that one more is not taken.
var errTries = errors.New("too many tries at once from where you are; wait half a minute and try again")

// guarded tries a password, slowed down where tries keep failing: those of an
// account from one network, and those of a network over all accounts.
func (s *Server) guarded(r *http.Request, email string, try func() (app.Member, error)) (app.Member, error) {
	network := s.network(r)
	leaveNetwork, ok := s.networks.enter(r.Context(), network)
	if !ok {
		return app.Member{}, errTries
	}
	failed := true
	defer func() { leaveNetwork(failed) }()
	leave, ok := s.guesses.enter(r.Context(), network+" "+strings.ToLower(strings.TrimSpace(email)))
	if !ok {
		return app.Member{}, errTries
	}
	defer func() { leave(failed) }()
	m, err := try()
	if failed = errors.Is(err, app.ErrSignIn); failed {
		s.log.Warn("refused", "path", untold(r.URL.Path), "network", network)
	}
	return m, err
}

// signUp makes the account; the Desk of somebody who has nothing yet asks for
// what there is.
func (s *Server) signUp(w http.ResponseWriter, r *http.Request) error {
	email := r.FormValue("email")
	m, err := s.guarded(r, email, func() (app.Member, error) {
		return s.app.People.SignUp(r.Context(), r.FormValue("name"), email, r.FormValue("password"))
	})
	if err != nil {
		if !errors.Is(err, app.ErrInvalid) && !errors.Is(err, app.ErrSignIn) && !errors.Is(err, errTries) {
			return err
		}
		words := plainly(err)
		f := frame{Title: "Sign up", Page: accountForm{Name: r.FormValue("name"), Email: email, Problem: words, Next: nextOf(r)}}
		s.render(w, r, "signup", "page", http.StatusUnprocessableEntity, f)
		return nil
	}
	if err := s.begin(r, m); err != nil {
		return err
	}
	http.Redirect(w, r, next(r), http.StatusSeeOther)
	return nil
}

func (s *Server) begin(r *http.Request, m app.Member) error {
	if err := s.sessions.RenewToken(r.Context()); err != nil {
		return err
	}
	session, err := s.app.People.BeginSession(r.Context(), m.ID, deviceOf(r), s.network(r))
	if err != nil {
		return err
	}
	s.sessions.Remove(r.Context(), "pending")
	s.sessions.Put(r.Context(), "user", m.ID.String())
	s.sessions.Put(r.Context(), "session", session.String())
	return nil
}

// deviceOf is the kind of device a request comes from, as far as it says.
func deviceOf(r *http.Request) string {
	agent := r.UserAgent()
	for _, kind := range [][2]string{{"iPad", "a tablet"}, {"Tablet", "a tablet"}, {"Mobi", "a phone"}, {"Mozilla/", "a computer"}} {
		if strings.Contains(agent, kind[0]) {
			return kind[1]
		}
	}
	return "a program"
}

// codeTime is how long a password that was said is good for the code to follow.
const codeTime = 10 * time.Minute

// askCode has somebody who said their password say a code as well.
func (s *Server) askCode(w http.ResponseWriter, r *http.Request, m app.Member) error {
	if wantsJSON(r) { // of a page that is open: it has no room for a code
		reply(w, http.StatusUnprocessableEntity, map[string]string{"error": "your account asks for a code: sign in on a page of its own, then try again here"})
		return nil
	}
	if err := s.sessions.RenewToken(r.Context()); err != nil {
		return err
	}
	s.sessions.Put(r.Context(), "pending", m.ID.String())
	s.sessions.Put(r.Context(), "pendingAt", time.Now().Unix())
	s.sessions.Put(r.Context(), "next", nextOf(r))
	http.Redirect(w, r, "/sign-in/code", http.StatusSeeOther)
	return nil
}

// pending is who has said their password and not yet a code.
func (s *Server) pending(r *http.Request) (app.ID, bool) {
	id, err := uuid.Parse(s.sessions.GetString(r.Context(), "pending"))
	return id, err == nil && time.Since(time.Unix(s.sessions.GetInt64(r.Context(), "pendingAt"), 0)) < codeTime
}

func (s *Server) codePage(w http.ResponseWriter, r *http.Request) {
	if _, ok := s.pending(r); !ok {
		http.Redirect(w, r, "/sign-in", http.StatusSeeOther)
		return
	}
	s.show(w, r, "code", frame{Title: "A code", Page: accountForm{}})
}

// signInCode takes the code that follows a password.
func (s *Server) signInCode(w http.ResponseWriter, r *http.Request) error {
	id, ok := s.pending(r)
	if !ok {
		http.Redirect(w, r, "/sign-in", http.StatusSeeOther)
		return nil
	}
	m, err := s.guarded(r, "code "+id.String(), func() (app.Member, error) {
		if err := s.app.People.CheckCode(r.Context(), id, r.FormValue("code")); err != nil {
			return app.Member{}, err
		}
		return s.app.People.Member(r.Context(), id, app.ID{})
	})
	if errors.Is(err, app.ErrSignIn) || errors.Is(err, errTries) {
		words := "that is not the code now, or it was used"
		if errors.Is(err, errTries) {
			words = errTries.Error()
		}
		s.render(w, r, "code", "page", http.StatusUnprocessableEntity, frame{Title: "A code", Page: accountForm{Problem: words}, Build: strings.Trim(buildTag, `"`)})
		return nil
	}
	if err != nil {
		return err
	}
	to := s.sessions.PopString(r.Context(), "next")
	if err := s.begin(r, m); err != nil {
		return err
	}
	if to == "" {
		to = "/desk"
	}
	http.Redirect(w, r, to, http.StatusSeeOther)
	return nil
}

func (s *Server) signOut(w http.ResponseWriter, r *http.Request) error {
	m := member(r)
	if err := s.app.People.EndSession(r.Context(), m, m.Session); err != nil {
		return err
	}
	if err := s.sessions.Destroy(r.Context()); err != nil {
		return err
	}
	http.Redirect(w, r, "/sign-in", http.StatusSeeOther)
	return nil
}
