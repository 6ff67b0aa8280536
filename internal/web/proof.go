package web

import (
	"errors"
	"net/http"
	"net/url"
	"strconv"

	"github.com/go-chi/chi/v5"

	"aspenridge/internal/account"
	"aspenridge/internal/app"
	"aspenridge/internal/core/roles"
)

// judge is who looks at a set and says what they think: somebody with an account, or whoever
// came by a link.
type judge struct {
	app.Member
	brief app.ID
	base  string // of addresses
	link  *app.Guest
}

// who says something, under a name where there is no account.
func (s *Server) who(j judge, name string) app.By {
	if j.link != nil {
		return j.link.Who(name)
	}
	return s.app.Proofs.Who(j.Member)
}

type judged func(w http.ResponseWriter, r *http.Request, j judge) error

// byPerson has somebody with an account judge.
func (s *Server) byPerson(h judged) http.HandlerFunc {
	return s.do(func(w http.ResponseWriter, r *http.Request) error {
		m, id, err := about(r)
		if err != nil {
			return err
		}
		return h(w, r, judge{Member: m, brief: id, base: "/briefs/" + id.String() + "/proof"})
	})
}

// errLocked means a link asks for its password first.
var errLocked = errors.New("this link asks for a password")

// byLinkOf has whoever came by a link judge, once they have said its password.
func (s *Server) byLinkOf(h judged) http.HandlerFunc {
	return s.do(func(w http.ResponseWriter, r *http.Request) error {
		j, err := s.guest(r)
		if err != nil {
			return err
		}
		if !s.unlocked(r, j) {
			if wantsJSON(r) {
				reply(w, http.StatusForbidden, map[string]string{"error": errLocked.Error()})
				return nil
			}
			http.Redirect(w, r, j.base+"/", http.StatusSeeOther)
			return nil
		}
		return h(w, r, j)
	})
}

func (s *Server) guest(r *http.Request) (judge, error) {
	token := chi.URLParam(r, "token")
	g, err := s.app.Proofs.Guest(r.Context(), token)
	return judge{Member: sending(r, g.Member), brief: g.Link.Brief, base: "/see/" + token, link: &g}, err
}

// unlocked reports whether a link has no password, or it was said in this browser.
func (s *Server) unlocked(r *http.Request, j judge) bool {
	return j.link.Link.Password == "" || s.sessions.GetBool(r.Context(), "proof "+j.link.Link.ID.String())
}

// proofRoutes are what both kinds of judges can ask for; needs lets those through who have a
// capability. Of guests it is asked further in.
func (s *Server) proofRoutes(p pace, at string, needs func(roles.Capability) func(http.Handler) http.Handler, by func(judged) http.HandlerFunc) {
	p.quick.Get(at+"/state", by(s.proofState))
	p.long.Get(at+"/events", by(s.proofEvents))
	p.long.Get(at+"/pieces/{size}/{key}", by(s.proofPicture))
	p.quick.Get(at+"/then/{shot}", by(s.proofThen))
	saying := p.quick.With(needs(roles.Comment))
	saying.Post(at+"/say", by(s.say))
	saying.Post(at+"/settle", by(s.settle))
	saying.Post(at+"/unsay", by(s.unsay))
	p.long.With(needs(roles.Decide)).Post(at+"/decide", by(s.decide))
}

// threadsOf is how many threads a page asks for.
func threadsOf(r *http.Request) int {
	n, _ := strconv.Atoi(r.URL.Query().Get("threads"))
	return n
}

// proofPage is a set to be judged.
type proofPage struct {
	Base     string
	Title    string
	By       string // whose it is
	Guest    bool
	For      string // whom the link is for
	Links    []app.ProofLink
	Channels []proofChannel
	State    proofState
	Locked   bool
	Wrong    bool
	MaySay   bool
	MayLink  bool
	Signs    bool // an owner, of a kit that wants pieces signed off: a link can be made for that
}

func (s *Server) proofPageOf(r *http.Request, j judge) (proofPage, *app.Set, error) {
	room, err := s.app.Proofs.Room(r.Context(), j.Member, j.brief, threadsOf(r))
	if err != nil {
		return proofPage{}, nil, err
	}
	p := proofPage{Base: j.base, Title: room.Set.Title(), By: room.Set.Kit.Name, Guest: j.link != nil, State: s.proofStateOf(j, room)}
	p.MaySay = p.State.MaySay
	for _, one := range p.State.Pieces {
		if n := len(p.Channels); n == 0 || p.Channels[n-1].Name != one.Channel {
			p.Channels = append(p.Channels, proofChannel{Name: one.Channel})
		}
		c := &p.Channels[len(p.Channels)-1]
		c.Pieces = append(c.Pieces, one)
	}
	return p, room.Set, nil
}

// proof is the screen on which a set is shown to others and what they say is worked through.
func (s *Server) proof(w http.ResponseWriter, r *http.Request, j judge) error {
	p, set, err := s.proofPageOf(r, j)
	if err != nil {
		return err
	}
	links, err := s.app.Proofs.Links(r.Context(), j.Member, j.brief)
	switch {
	case err == nil:
		p.Links, p.MayLink, p.Signs = links, true, set.Kit.Rails.SignOff && j.Member.May(roles.ManageWorkspace)
	case !errors.Is(err, app.ErrNotAllowed):
		return err
	}
	if p.MaySay {
		if p.State.Team, err = s.app.Proofs.Hearers(r.Context(), j.Member, set); err != nil {
			return err
		}
	}
	f := briefFrame(set, "proof")
	f.Undoes = "" // what was said is not taken back like a change
	f.Page = p
	s.show(w, r, "proof", f)
	return nil
}

// see is the page of whoever came by a link.
func (s *Server) see(w http.ResponseWriter, r *http.Request) error {
	j, err := s.guest(r)
	if err != nil {
		return err
	}
	w.Header().Set("Referrer-Policy", "no-referrer") // the address is the right to the page
	if !s.unlocked(r, j) {
		s.show(w, r, "see", frame{Title: "For you", Screen: "see", Page: proofPage{Base: j.base, Guest: true, Locked: true, Wrong: r.URL.Query().Has("wrong")}})
		return nil
	}
	p, _, err := s.proofPageOf(r, j)
	if err != nil {
		return err
	}
	p.For = j.link.Link.Name
	s.show(w, r, "see", frame{Title: p.Title, Screen: "see", Page: p})
	return nil
}

// unlock checks the password of a link.
func (s *Server) unlock(w http.ResponseWriter, r *http.Request) error {
	j, err := s.guest(r)
	if err != nil {
		return err
	}
	err = s.guarded(r, account.GuessLink, j.link.Link.ID.String(), func() error {
		return s.app.Proofs.Unlock(r.Context(), *j.link, r.FormValue("password"))
	})
	switch {
	case errors.Is(err, account.ErrSignIn):
		http.Redirect(w, r, j.base+"/?wrong", http.StatusSeeOther)
		return nil
	case errors.Is(err, account.ErrTries):
		return errOften
	case err != nil:
		return err
	}
	if err := s.sessions.RenewToken(r.Context()); err != nil {
		return err
	}
	s.sessions.Put(r.Context(), "proof "+j.link.Link.ID.String(), true)
	http.Redirect(w, r, j.base+"/", http.StatusSeeOther)
	return nil
}

func (s *Server) proofState(w http.ResponseWriter, r *http.Request, j judge) error {
	room, err := s.app.Proofs.Room(r.Context(), j.Member, j.brief, threadsOf(r))
	if err != nil {
		return err
	}
	reply(w, http.StatusOK, s.proofStateOf(j, room))
	return nil
}

// proofEvents tells a page when the brief has changed, or something was said.
func (s *Server) proofEvents(w http.ResponseWriter, r *http.Request, j judge) error {
	set, err := s.app.Sets.Set(r.Context(), j.Member, j.brief)
	if err != nil {
		return err
	}
	ids := map[app.ID]bool{j.brief: true, set.Kit.ID: true}
	for _, p := range set.Kit.Ancestors() {
		ids[p.ID] = true
	}
	return s.stream(w, r, ids, j.Member, func() bool {
		if j.link == nil {
			return s.stillThere(r, j.Member, ids)
		}
		_, err := s.app.Proofs.Guest(r.Context(), chi.URLParam(r, "token"))
		return !errors.Is(err, app.ErrNotFound)
	})
}

func (s *Server) proofPicture(w http.ResponseWriter, r *http.Request, j judge) error {
	key, err := url.PathUnescape(chi.URLParam(r, "key"))
	if err != nil {
		return app.ErrNotFound
	}
	data, err := s.app.Proofs.Picture(r.Context(), j.Member, j.brief, key, chi.URLParam(r, "size") == "large")
	return webp(w, data, err)
}

func (s *Server) proofThen(w http.ResponseWriter, r *http.Request, j judge) error {
	data, err := s.app.Proofs.Then(r.Context(), j.Member, j.brief, chi.URLParam(r, "shot"))
	return webp(w, data, err)
}

// webp answers with a picture that is named by what it shows.
func webp(w http.ResponseWriter, data []byte, err error) error {
	if err != nil {
		return err
	}
	w.Header().Set("Content-Type", "image/webp")
	w.Header().Set("Cache-Control", "private, max-age=86400")
	_, err = w.Write(data)
	return err
}
