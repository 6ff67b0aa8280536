package web

import (
	"context"
	"errors"
	"net/http"
	"strings"
	"time"

	"aspenridge/internal/account"
	"aspenridge/internal/app"
	"aspenridge/internal/gate"
)

type memberKey struct{}

func member(r *http.Request) app.Member {
	m, _ := r.Context().Value(memberKey{}).(app.Member)
	return m
}

// sending is somebody with the change a request sends, made once however often it arrives, and with
// the reason they ask an owner with for what a rail refuses.
func sending(r *http.Request, m app.Member) app.Member {
	if r.Method != http.MethodPost {
		return m
	}
	id := r.Header.Get("X-Change")
	if kind := r.Header.Get("Content-Type"); id == "" && strings.HasPrefix(kind, "application/x-www-form-urlencoded") {
		id = r.FormValue("change") // a form of a page
	}
	if len(id) <= 64 {
		m = m.Sending(id)
	}
	if q := r.URL.Query(); q.Has("ask") {
		m = m.Asking(q.Get("ask"))
	}
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
		if m.WantsCodes && !withoutCodes(r.URL.Path) {
			if wantsJSON(r) || r.Method != http.MethodGet {
				reply(w, http.StatusForbidden, map[string]string{"error": errCodes.Error()})
				return
			}
			http.Redirect(w, r, "/account?codes", http.StatusSeeOther)
			return
		}
		m = sending(r, m)
		ctx := gate.OwnedBy(r.Context(), m.Workspace.String())
		next.ServeHTTP(w, r.WithContext(context.WithValue(ctx, memberKey{}, m)))
	})
}

// whoseSession is who has signed in here, in the workspace they were in last;
// [app.ErrNotFound] for nobody.
func (s *Server) whoseSession(r *http.Request) (app.Member, error) {
	id, err := app.ParseID(s.sessions.GetString(r.Context(), "user"))
	if err != nil {
		return app.Member{}, app.ErrNotFound
	}
	session, err := app.ParseID(s.sessions.GetString(r.Context(), "session"))
	if err != nil {
		return app.Member{}, app.ErrNotFound
	}
	workspace, _ := app.ParseID(s.sessions.GetString(r.Context(), "workspace")) // of none the first one
	return s.app.People.MemberIn(r.Context(), id, workspace, session)
}

// errCodes means that a workspace wants what somebody has not set up.
var errCodes = errors.New("this workspace wants two-step sign-in of everybody: set it up under Account")

// withoutCodes are the addresses where somebody sets up the codes their workspace demands, or goes
// elsewhere.
func withoutCodes(path string) bool {
	return path == "/account" || strings.HasPrefix(path, "/account/") || path == "/account.json" || path == "/sign-out" || path == "/workspaces" || path == "/workspaces/open"
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
	var m app.Member
	err := s.guarded(r, account.GuessPassword, email, func() (err error) {
		m, err = s.app.People.SignIn(r.Context(), email, r.FormValue("password"))
		return err
	})
	if err != nil {
		if !errors.Is(err, account.ErrSignIn) && !errors.Is(err, account.ErrTries) {
			return err
		}
		status := comeAgain(w, err)
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
	if err := s.begin(w, r, m); err != nil {
		return err
	}
	if wantsJSON(r) {
		reply(w, http.StatusOK, map[string]bool{"ok": true})
		return nil
	}
	http.Redirect(w, r, next(r), http.StatusSeeOther)
	return nil
}

// guarded tries a secret, slowed down where tries keep failing ([app.People.Try]).
func (s *Server) guarded(r *http.Request, of, whose string, try func() error) error {
	g := account.Guess{Of: of, Whose: whose, Network: s.network(r), Browser: s.browser(r), Free: s.signIns, Slow: s.slow}
	err := s.app.People.Try(r.Context(), g, try)
	if errors.Is(err, account.ErrSignIn) || errors.Is(err, account.ErrTries) {
		s.log.Warn("refused", "path", redactToken(r.URL.Path), "network", g.Network)
	}
	return err
}

// comeAgain is the status of a wrong guess, and of one that is not taken now.
func comeAgain(w http.ResponseWriter, err error) int {
	if many := (*account.TooManyTries)(nil); errors.As(err, &many) {
		w.Header().Set("Retry-After", itoa(int(many.Again.Seconds())+1))
		return http.StatusTooManyRequests
	}
	return http.StatusUnprocessableEntity
}

// signUpsAnHour is how many accounts are made from one network.
const signUpsAnHour = 40

// signUp makes the account; the Desk of somebody who has nothing yet asks for
// what there is.
func (s *Server) signUp(w http.ResponseWriter, r *http.Request) error {
	email := r.FormValue("email")
	var m app.Member
	err := error(nil)
	if s.app.People.Often(r.Context(), "sign-up", s.network(r), max(signUpsAnHour, s.signIns), time.Hour) {
		err = errOften
	} else {
		m, err = s.app.People.SignUp(r.Context(), r.FormValue("name"), email, r.FormValue("password"))
	}
	if err != nil {
		if !errors.Is(err, app.ErrInvalid) && !errors.Is(err, errOften) {
			return err
		}
		words := plainly(err)
		f := frame{Title: "Sign up", Page: accountForm{Name: r.FormValue("name"), Email: email, Problem: words, Next: nextOf(r)}}
		s.render(w, r, "signup", "page", http.StatusUnprocessableEntity, f)
		return nil
	}
	if way, err := s.mailedWay(r, "/confirm/"); err == nil {
		if err := s.app.People.AskConfirm(r.Context(), m, way); err != nil {
			return err
		}
	}
	if err := s.begin(w, r, m); err != nil {
		return err
	}
	http.Redirect(w, r, next(r), http.StatusSeeOther)
	return nil
}

// confirmAgain sends the link once more that confirms the address of a new account.
func (s *Server) confirmAgain(w http.ResponseWriter, r *http.Request) error {
	way, err := s.mailedWay(r, "/confirm/")
	if err == nil {
		err = s.app.People.AskConfirm(r.Context(), member(r), way)
	}
	return s.showMe(w, r, mePage{Said: "A mail is on its way to " + member(r).Email + "."}, err)
}

// browserCookie remembers which session somebody had last in this browser: guesses of others do
// not slow down whoever was let in here before.
func (s *Server) browserCookie() string {
	if s.secure {
		return "__Host-aspenridge-before"
	}
	return "aspenridge-before"
}

func (s *Server) browser(r *http.Request) app.ID {
	c, err := r.Cookie(s.browserCookie())
	if err != nil {
		return app.ID{}
	}
	id, _ := app.ParseID(c.Value)
	return id
}

func (s *Server) begin(w http.ResponseWriter, r *http.Request, m app.Member) error {
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
	http.SetCookie(w, &http.Cookie{Name: s.browserCookie(), Value: session.String(), Path: "/", MaxAge: 180 * 24 * 3600, HttpOnly: true, Secure: s.secure, SameSite: http.SameSiteLaxMode})
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
	id, err := app.ParseID(s.sessions.GetString(r.Context(), "pending"))
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
	err := s.guarded(r, account.GuessCode, id.String(), func() error { return s.app.People.CheckCode(r.Context(), id, r.FormValue("code")) })
	if errors.Is(err, account.ErrSignIn) || errors.Is(err, account.ErrTries) {
		words := "that is not the code now, or it was used"
		if errors.Is(err, account.ErrTries) {
			words = account.ErrTries.Error()
		}
		s.render(w, r, "code", "page", comeAgain(w, err), frame{Title: "A code", Page: accountForm{Problem: words}, Build: strings.Trim(buildTag, `"`)})
		return nil
	}
	if err != nil {
		return err
	}
	m, err := s.app.People.Member(r.Context(), id, app.ID{})
	if err != nil {
		return err
	}
	to := s.sessions.PopString(r.Context(), "next")
	if err := s.begin(w, r, m); err != nil {
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
