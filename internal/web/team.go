package web

import (
	"cmp"
	"errors"
	"fmt"
	"net/http"
	"regexp"
	"slices"
	"strings"

	"github.com/go-chi/chi/v5"

	"aspenridge/internal/app"
	"aspenridge/internal/core/roles"
)

// teamPage is who is in a workspace, and what they may do.
type teamPage struct {
	People      []app.Teammate
	Invitations []app.Invitation
	Mails       []app.Mail
	Workspaces  []app.Workspace
	Roles       []roleRow
	Fresh       string // address of an invitation just made, shown once
	FreshFor    string
	Problem     string
	Manages     bool
	Sends       bool // mail leaves the house
	Names       []app.Named
	Codes       bool // two-step sign-in is demanded of everybody
	LackCodes   int  // people without it
}

type roleRow struct{ ID, Says string }

// seesForm is what somebody sees, to be chosen.
type seesForm struct {
	Narrowed bool
	Names    []seesRow
	Of       string // tells forms of a page apart
}

type seesRow struct {
	app.Named
	On bool
}

// Sees is what somebody of the team sees.
func (p teamPage) Sees(t app.Teammate) seesForm {
	out := seesForm{Narrowed: t.Narrowed, Of: t.ID.String()}
	for _, n := range p.Names {
		out.Names = append(out.Names, seesRow{n, slices.Contains(t.Only, n.ID)})
	}
	return out
}

// Everything is what somebody sees who is asked in, before anything is chosen.
func (p teamPage) Everything() seesForm { return p.Sees(app.Teammate{}) }

// SeesWords is what somebody sees, in words: "" for everything.
func (p teamPage) SeesWords(narrowed bool, only []app.ID) string {
	if !narrowed {
		return ""
	}
	var names []string
	for _, n := range p.Names {
		if slices.Contains(only, n.ID) {
			names = append(names, cmp.Or(n.Name, "a "+n.Kind))
		}
	}
	switch {
	case len(names) == 0:
		return "sees nothing: what they saw is gone"
	case len(names) > 2:
		return fmt.Sprintf("sees only %s and %d more", names[0], len(names)-1)
	}
	return "sees only " + strings.Join(names, " and ")
}

// roleRows are what roles may do, in words.
func roleRows() (out []roleRow) {
	for _, name := range roles.Names() {
		out = append(out, roleRow{name, roles.Words(name)})
	}
	return out
}

func (s *Server) team(w http.ResponseWriter, r *http.Request) error {
	return s.showTeam(w, r, teamPage{}, nil)
}

// showTeam shows the team, with what came of something that was asked for.
func (s *Server) showTeam(w http.ResponseWriter, r *http.Request, p teamPage, problem error) error {
	status := http.StatusOK
	if problem != nil {
		if !errors.Is(problem, app.ErrInvalid) {
			return problem
		}
		status, p.Problem = http.StatusUnprocessableEntity, plainly(problem)
	}
	m, ctx := member(r), r.Context()
	p.Roles, p.Manages, p.Sends = roleRows(), m.May(roles.ManagePeople), s.app.People.Sends()
	var err error
	if p.People, err = s.app.Team.People(ctx, m); err != nil {
		return err
	}
	if p.Workspaces, err = s.app.Team.Workspaces(ctx, m); err != nil {
		return err
	}
	if p.Codes, p.LackCodes, err = s.app.Team.CodesDemanded(ctx, m); err != nil {
		return err
	}
	if p.Manages {
		if p.Invitations, err = s.app.Team.Invitations(ctx, m); err != nil {
			return err
		}
		if p.Mails, err = s.app.Team.Mailbox(ctx, m); err != nil {
			return err
		}
		if p.Names, err = s.app.Team.Names(ctx, m); err != nil {
			return err
		}
	}
	f := frame{Title: "Team", Screen: "team", Page: p}
	f.Member, f.Build = m, strings.Trim(buildTag, `"`)
	s.render(w, r, "team", "page", status, f)
	return nil
}

// onTeam makes a change of the team and shows it.
func (s *Server) onTeam(act func(r *http.Request, m app.Member, person app.ID) error) http.HandlerFunc {
	return s.do(func(w http.ResponseWriter, r *http.Request) error {
		person, err := app.ParseID(r.FormValue("person"))
		if err != nil {
			return app.ErrNotFound
		}
		if err := act(r, member(r), person); err != nil {
			return s.showTeam(w, r, teamPage{}, err)
		}
		to := "/team"
		if person == member(r).ID { // one's own place has changed: one may see less
			to = "/desk"
		}
		http.Redirect(w, r, to, http.StatusSeeOther)
		return nil
	})
}

func (s *Server) setRole(r *http.Request, m app.Member, person app.ID) error {
	return s.app.Team.SetRole(r.Context(), m, person, r.FormValue("role"))
}

// setScope narrows somebody to what is chosen, or lets them see everything.
func (s *Server) setScope(r *http.Request, m app.Member, person app.ID) error {
	only, err := chosenScope(r)
	if err != nil {
		return err
	}
	return s.app.Team.SetScope(r.Context(), m, person, only)
}

// chosenScope is what somebody is to see, nil for everything.
func chosenScope(r *http.Request) ([]app.ID, error) {
	if r.FormValue("sees") != "some" {
		return nil, nil
	}
	only := []app.ID{}
	for _, v := range r.Form["only"] {
		id, err := app.ParseID(v)
		if err != nil {
			return nil, app.ErrNotFound
		}
		only = append(only, id)
	}
	if len(only) == 0 {
		return nil, fmt.Errorf("%w: choose what they see", app.ErrInvalid)
	}
	return only, nil
}

func (s *Server) suspend(r *http.Request, m app.Member, person app.ID) error {
	return s.app.Team.Suspend(r.Context(), m, person, r.FormValue("back") == "")
}

func (s *Server) removePerson(r *http.Request, m app.Member, person app.ID) error {
	return s.app.Team.Remove(r.Context(), m, person)
}

func (s *Server) invite(w http.ResponseWriter, r *http.Request) error {
	way := s.origin(r) + "/join/"
	only, err := chosenScope(r)
	var token string
	if err == nil {
		token, err = s.app.Team.Invite(r.Context(), member(r), app.Asked{Email: r.FormValue("email"), Role: r.FormValue("role"), Only: only, Network: s.network(r)}, way)
	}
	p := teamPage{FreshFor: r.FormValue("email")}
	if err == nil {
		p.Fresh = way + token
	}
	return s.showTeam(w, r, p, err)
}

func (s *Server) endInvitation(w http.ResponseWriter, r *http.Request) error {
	id, err := app.ParseID(r.FormValue("invitation"))
	if err != nil {
		return app.ErrNotFound
	}
	if err := s.app.Team.EndInvitation(r.Context(), member(r), id); err != nil {
		return err
	}
	http.Redirect(w, r, "/team", http.StatusSeeOther)
	return nil
}

func (s *Server) renameWorkspace(w http.ResponseWriter, r *http.Request) error {
	if err := s.app.Team.Rename(r.Context(), member(r), r.FormValue("name")); err != nil {
		return s.showTeam(w, r, teamPage{}, err)
	}
	http.Redirect(w, r, "/team", http.StatusSeeOther)
	return nil
}

// demandCodes has everybody in the workspace set up two-step sign-in, or ends that.
func (s *Server) demandCodes(w http.ResponseWriter, r *http.Request) error {
	if err := s.app.Team.DemandCodes(r.Context(), member(r), r.FormValue("on") != ""); err != nil {
		return s.showTeam(w, r, teamPage{}, err)
	}
	http.Redirect(w, r, "/team", http.StatusSeeOther)
	return nil
}

func (s *Server) newWorkspace(w http.ResponseWriter, r *http.Request) error {
	id, err := s.app.Team.NewWorkspace(r.Context(), member(r), r.FormValue("name"))
	if err != nil {
		return s.showTeam(w, r, teamPage{}, err)
	}
	return s.atHome(w, r, id)
}

// openWorkspace goes to another workspace; the session remembers it.
func (s *Server) openWorkspace(w http.ResponseWriter, r *http.Request) error {
	id, err := app.ParseID(r.FormValue("workspace"))
	if err != nil {
		return app.ErrNotFound
	}
	return s.atHome(w, r, id)
}

func (s *Server) atHome(w http.ResponseWriter, r *http.Request, workspace app.ID) error {
	s.sessions.Put(r.Context(), "workspace", workspace.String())
	http.Redirect(w, r, "/desk", http.StatusSeeOther)
	return nil
}

// workspaces are those one may go to, for the menu of one's account.
func (s *Server) workspaces(w http.ResponseWriter, r *http.Request) error {
	list, err := s.app.Team.Workspaces(r.Context(), member(r))
	if err != nil {
		return err
	}
	type row struct {
		ID   app.ID `json:"id"`
		Name string `json:"name"`
		Here bool   `json:"here"`
	}
	out := []row{}
	for _, one := range list {
		out = append(out, row{one.ID, one.Name, one.ID == member(r).Workspace})
	}
	reply(w, http.StatusOK, out)
	return nil
}

// joinPage is an invitation, to who has an account and to who has none.
type joinPage struct {
	Invitation app.Invitation
	Way        string
	In         *app.Member // who is signed in
	Other      bool        // it is for somebody else
	Problem    string
}

// invited is the page of an invitation.
func (s *Server) invited(w http.ResponseWriter, r *http.Request) error {
	token := chi.URLParam(r, "token")
	i, err := s.app.Team.Invitation(r.Context(), token)
	if err != nil {
		return err
	}
	p := joinPage{Invitation: i, Way: "/join/" + token}
	m, err := s.whoseSession(r)
	switch {
	case err == nil:
		p.In, p.Other = &m, i.Email != "" && !strings.EqualFold(i.Email, m.Email)
	case !errors.Is(err, app.ErrNotFound):
		return err
	}
	w.Header().Set("Referrer-Policy", "no-referrer")
	s.show(w, r, "join", frame{Title: "An invitation", Screen: "join", Page: p})
	return nil
}

// join uses an invitation.
func (s *Server) join(w http.ResponseWriter, r *http.Request) error {
	m, err := s.whoseSession(r)
	if errors.Is(err, app.ErrNotFound) {
		http.Redirect(w, r, "/join/"+chi.URLParam(r, "token"), http.StatusSeeOther)
		return nil
	}
	if err != nil {
		return err
	}
	workspace, err := s.app.Team.Join(r.Context(), m, chi.URLParam(r, "token"))
	if err != nil {
		return err
	}
	return s.atHome(w, r, workspace)
}

// inReach lets somebody through to a kit or a brief that is there for them, to be changed where
// they may; what may only be looked at is led from the pages on which it is changed to those on
// which it is looked at.
func (s *Server) inReach(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		m, kind := member(r), ofDocument.FindString(r.URL.Path)
		what := roles.WriteBriefs
		if kind == "/kits/" {
			what = roles.WriteKits
		}
		may := m.May(what)
		if id, err := app.ParseID(chi.URLParam(r, "id")); err == nil && m.Narrowed && kind != "" {
			err := s.app.Documents.MayOn(r.Context(), m, what, id)
			if may = err == nil; errors.Is(err, app.ErrNotAllowed) { // and is it there for them at all?
				if err = s.app.Documents.MayOn(r.Context(), m, roles.Look, id); err == nil && r.Method != http.MethodGet && m.May(what) {
					err = app.ErrNotAllowed // their role would let them, not with this one
				}
			}
			if err != nil {
				s.problem(w, r, err)
				return
			}
		}
		if r.Method == http.MethodGet && !may {
			if to := lookedAt(r.URL.Path); to != "" {
				http.Redirect(w, r, to, http.StatusSeeOther)
				return
			}
		}
		next.ServeHTTP(w, r)
	})
}

// ofDocument are the addresses whose id is that of a kit or a brief.
var ofDocument = regexp.MustCompile(`^/(briefs|kits|documents)/`)

var (
	briefEdited = regexp.MustCompile(`^/briefs/([0-9a-f-]{36})/(start|looks|mat|video|handover|forward)$`)
	kitEdited   = regexp.MustCompile(`^/kits/([0-9a-f-]{36})(/compare|/forward)?$`)
)

// lookedAt is where a page is looked at by who may change nothing, "" for one that changes
// nothing.
func lookedAt(path string) string {
	if m := briefEdited.FindStringSubmatch(path); m != nil {
		return "/briefs/" + m[1] + "/proof/"
	}
	if m := kitEdited.FindStringSubmatch(path); m != nil {
		return "/kits/" + m[1] + "/guidelines"
	}
	switch path {
	case "/kits", "/kits/new", "/kits/begin", "/channels":
		return "/desk"
	}
	return ""
}
