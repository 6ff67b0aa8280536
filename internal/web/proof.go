package web

import (
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/google/uuid"

	"aspenridge/internal/app"
	"aspenridge/internal/core/spec"
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
	return judge{Member: g.Member, brief: g.Link.Brief, base: "/see/" + token, link: &g}, err
}

// unlocked reports whether a link has no password, or it was said in this browser.
func (s *Server) unlocked(r *http.Request, j judge) bool {
	return j.link.Link.Password == "" || s.sessions.GetBool(r.Context(), "proof "+j.link.Link.ID.String())
}

// proofRoutes are what both kinds of judges can ask for.
func (s *Server) proofRoutes(r, saying chi.Router, by func(judged) http.HandlerFunc) {
	r.Get("/state", by(s.proofState))
	r.Get("/events", by(s.proofEvents))
	r.Get("/pieces/{size}/{key}", by(s.proofPicture))
	r.Get("/then/{shot}", by(s.proofThen))
	saying.Post("/say", by(s.say))
	saying.Post("/settle", by(s.settle))
	saying.Post("/decide", by(s.decide))
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
}

type proofChannel struct {
	Name   string
	Pieces []proofPiece
}

type proofState struct {
	Base    string        `json:"base"`
	Me      string        `json:"me"` // "" for a guest
	Guest   bool          `json:"guest"`
	MaySay  bool          `json:"maySay"`
	MayTake bool          `json:"mayTake"`
	Brief   string        `json:"brief,omitempty"` // where the set is worked on, for those who may
	Pieces  []proofPiece  `json:"pieces"`
	Threads []proofThread `json:"threads"`
	Waiting app.Waiting   `json:"waiting"`
}

type proofPiece struct {
	Key     string      `json:"key"`
	Name    string      `json:"name"`
	Channel string      `json:"channel"`
	W       int         `json:"w"`
	H       int         `json:"h"`
	FitW    int         `json:"-"` // px it takes on the sheet
	FitH    int         `json:"-"`
	Class   spec.Class  `json:"-"`
	Alt     string      `json:"alt"`
	Hash    string      `json:"hash"` // of its drawing
	State   string      `json:"state"`
	Why     []string    `json:"why"`
	By      []proofVote `json:"by"`
	Src     string      `json:"src"`
	Large   string      `json:"large"`
	Then    string      `json:"then,omitempty"` // its picture as it was decided about, where it has changed
	Open    int         `json:"open"`
	Words   []proofWord `json:"words"` // that could be others
}

type proofWord struct {
	Slot string     `json:"slot"`
	Text string     `json:"text"`
	Box  [4]float64 `json:"box"` // 0-1 of the piece
}

type proofVote struct {
	Name    string    `json:"name"`
	Verdict string    `json:"verdict"`
	At      time.Time `json:"at"`
	Now     bool      `json:"now"` // it is about the piece as it is
}

type proofSaid struct {
	ID    app.ID    `json:"id"`
	Name  string    `json:"name"`
	Words string    `json:"words"`
	At    time.Time `json:"at"`
}

type proofThread struct {
	proofSaid
	Piece    string      `json:"piece"`
	Spot     *[4]float64 `json:"spot"` // middle, width and height, 0-1 of the piece
	Slot     string      `json:"slot"` // of the part it is about
	Part     string      `json:"part"` // what that is called
	Word     string      `json:"word,omitempty"`
	Gone     bool        `json:"gone"` // the part it was about is
	Older    bool        `json:"older"`
	Resolved string      `json:"resolved"` // by whom, "" while it is open
	Replies  []proofSaid `json:"replies"`
	Suggests string      `json:"suggests,omitempty"`
	Taken    bool        `json:"taken"`
}

// hereOf is how an address names what a picture shows: another drawing, another address.
func hereOf(j judge, size string, p app.ProofPiece) string {
	return j.base + "/pieces/" + size + "/" + url.PathEscape(p.Key) + "?" + p.Hash[:12]
}

// sheetFit is how large pieces lie on the sheet, px of the longer side.
const sheetFit = 260.0

func (s *Server) proofStateOf(j judge, room *app.Room) proofState {
	st := proofState{Base: j.base, Guest: j.link != nil, MaySay: j.Role != "viewer", Pieces: []proofPiece{}, Threads: []proofThread{}, Waiting: room.Waiting()}
	if j.link == nil && app.May(j.Member, "change") {
		st.MayTake, st.Brief = true, "/briefs/"+j.brief.String()
	}
	if j.link == nil {
		st.Me = s.app.Proofs.Who(j.Member).Name
	}
	at := map[string]int{}
	for i, p := range room.Pieces {
		at[p.Key] = i
		pl := p.Piece.Placement
		one := proofPiece{Key: p.Key, Name: pl.Name, Channel: pl.ChannelName, W: p.Piece.Scene.W, H: p.Piece.Scene.H, Alt: p.Piece.Scene.Alt, Hash: p.Hash, State: p.State, Why: append([]string{}, p.Why...), By: []proofVote{}, Src: hereOf(j, "small", p), Large: hereOf(j, "large", p), Open: p.Open}
		k := min(1, sheetFit/float64(max(one.W, one.H)))
		one.FitW, one.FitH, one.Class = int(k*float64(one.W)), int(k*float64(one.H)), spec.ClassOf(float64(one.W)/float64(one.H))
		one.Words = []proofWord{}
		for _, w := range app.WritablesOf(p.Piece) {
			one.Words = append(one.Words, proofWord{w.Slot, w.Text, w.Box})
		}
		for _, d := range p.Last {
			one.By = append(one.By, proofVote{d.By.Name, d.Verdict, d.At, d.Hash == p.Hash})
		}
		if p.State == app.Changed {
			one.Then = j.base + "/then/" + p.Last[len(p.Last)-1].Shot
		}
		st.Pieces = append(st.Pieces, one)
	}
	thread := map[app.ID]int{}
	for _, c := range room.Comments {
		said := proofSaid{c.ID, c.By.Name, c.Words, c.At}
		if c.About != nil {
			if i, ok := thread[*c.About]; ok {
				st.Threads[i].Replies = append(st.Threads[i].Replies, said)
			}
			continue
		}
		i, there := at[c.Piece]
		if !there { // the piece is out of the set
			continue
		}
		t := proofThread{proofSaid: said, Piece: c.Piece, Slot: c.Part, Word: c.Word, Part: app.Label(c.Part), Older: c.Seq < room.Set.Doc.Seq, Replies: []proofSaid{}, Suggests: c.Suggests, Taken: c.Taken != nil}
		if c.Resolved != nil {
			t.Resolved = c.Resolver
		}
		if at, ok := app.SpotOf(room.Pieces[i].Piece, c); ok {
			t.Spot = &at
		} else {
			t.Gone = c.Part != ""
		}
		thread[c.ID] = len(st.Threads)
		st.Threads = append(st.Threads, t)
	}
	return st
}

func (s *Server) proofPageOf(r *http.Request, j judge) (proofPage, *app.Set, error) {
	room, err := s.app.Proofs.Room(r.Context(), j.Member, j.brief)
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
		p.Links, p.MayLink = links, true
	case !errors.Is(err, app.ErrNotAllowed):
		return err
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
	_, err = s.guarded(r, "proof "+j.link.Link.ID.String(), func() (app.Member, error) {
		return app.Member{}, s.app.Proofs.Unlock(r.Context(), *j.link, r.FormValue("password"))
	})
	switch {
	case errors.Is(err, app.ErrSignIn):
		http.Redirect(w, r, j.base+"/?wrong", http.StatusSeeOther)
		return nil
	case errors.Is(err, errTries):
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
	room, err := s.app.Proofs.Room(r.Context(), j.Member, j.brief)
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
	return s.stream(w, r, ids, false, func() bool {
		if j.link == nil {
			return s.belongs(r, j.Member)
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
	}
	if err := readJSON(r, &q); err != nil {
		return err
	}
	token, err := s.app.Proofs.Link(r.Context(), j.Member, j.brief, app.WishedLink{For: q.For, Password: q.Password, Days: q.Days})
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
	id, err := uuid.Parse(q.Link)
	if err != nil {
		return app.ErrNotFound
	}
	if err := s.app.Proofs.End(r.Context(), j.Member, j.brief, id); err != nil {
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

// origin is how addresses of the house begin.
func (s *Server) origin(r *http.Request) string {
	if s.address != "" {
		return s.address
	}
	if s.secure {
		return "https://" + r.Host
	}
	return "http://" + r.Host
}
