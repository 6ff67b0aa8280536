package web

import (
	"net/url"
	"time"

	"aspenridge/internal/app"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/core/spec"
)

type proofChannel struct {
	Name   string
	Pieces []proofPiece
}

type proofState struct {
	Base    string        `json:"base"`
	Me      string        `json:"me"`      // "" for a guest
	Earlier bool          `json:"earlier"` // there are threads before those
	Guest   bool          `json:"guest"`
	MaySay  bool          `json:"maySay"`
	MayTake bool          `json:"mayTake"`
	Brief   string        `json:"brief,omitempty"` // where the set is worked on, for those who may
	Team    []string      `json:"team,omitempty"`  // names an @ reaches, where the page is made for somebody of it
	Pieces  []proofPiece  `json:"pieces"`
	Threads []proofThread `json:"threads"`
	Waiting app.Waiting   `json:"waiting"`
}

type proofPiece struct {
	Key     string     `json:"key"`
	Name    string     `json:"name"`
	Channel string     `json:"channel"`
	W       int        `json:"w"`
	H       int        `json:"h"`
	FitW    int        `json:"-"` // px it takes on the sheet
	FitH    int        `json:"-"`
	Class   spec.Class `json:"-"`
	Alt     string     `json:"alt"`
	Hash    string     `json:"hash"` // of its drawing
	State   string     `json:"state"`
	Why     []string   `json:"why"`
	// Unsigned says why it is approved and may not be handed over, "" where it may.
	Unsigned string      `json:"unsigned,omitempty"`
	By       []proofVote `json:"by"`
	Src      string      `json:"src"`
	Large    string      `json:"large"`
	Then     string      `json:"then,omitempty"` // its picture before it changed: as it was decided or spoken about
	Open     int         `json:"open"`
	Words    []proofWord `json:"words"` // that could be others
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
	Under string    `json:"under,omitempty"` // the name it was said under, where this page may delete it
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

// mayUnsay reports whether who asks may delete a comment: their own, and an owner anybody's. Of
// those said by one link each name deletes its own.
func (j judge) mayUnsay(c app.Comment) bool {
	if j.link != nil {
		return c.By.Link != nil && *c.By.Link == j.link.Link.ID
	}
	return j.Member.May(roles.ManageWorkspace) || c.By.Person != nil && *c.By.Person == j.ID
}

// hereOf is how an address names what a picture shows: another drawing, another address.
func hereOf(j judge, size string, p app.ProofPiece) string {
	return j.base + "/pieces/" + size + "/" + url.PathEscape(p.Key) + "?" + p.Hash[:12]
}

// sheetFit is how large pieces lie on the sheet, px of the longer side.
const sheetFit = 260.0

// shotThen is the picture of a piece before it changed: as it was last decided about, where nothing
// was as it was when somebody last began to speak of it; "" where it is as it was.
func shotThen(room *app.Room, p app.ProofPiece) (shot string) {
	if n := len(p.Last); n > 0 {
		if last := p.Last[n-1]; last.Hash != p.Hash {
			shot = last.Shot
		}
		return shot
	}
	for _, c := range room.Comments {
		if c.Piece == p.Key && c.About == nil && c.Hash != "" && c.Hash != p.Hash {
			shot = c.Shot
		}
	}
	return shot
}

func (s *Server) proofStateOf(j judge, room *app.Room) proofState {
	st := proofState{Base: j.base, Guest: j.link != nil, MaySay: j.Member.May(roles.Comment), Pieces: []proofPiece{}, Threads: []proofThread{}, Waiting: room.Waiting(), Earlier: room.Earlier}
	if j.link == nil && j.Member.May(roles.WriteBriefs) {
		st.MayTake, st.Brief = true, "/briefs/"+j.brief.String()
	}
	if j.link == nil {
		st.Me = s.app.Proofs.Who(j.Member).Name
	}
	at := map[string]int{}
	for i, p := range room.Pieces {
		at[p.Key] = i
		pl := p.Piece.Placement
		one := proofPiece{Key: p.Key, Name: pl.Name, Channel: pl.ChannelName, W: p.Piece.Scene.W, H: p.Piece.Scene.H, Alt: p.Piece.Scene.Alt, Hash: p.Hash, State: p.State, Unsigned: p.Unsigned, Why: append([]string{}, p.Why...), By: []proofVote{}, Src: hereOf(j, "small", p), Large: hereOf(j, "large", p), Open: p.Open}
		k := min(1, sheetFit/float64(max(one.W, one.H)))
		one.FitW, one.FitH, one.Class = int(k*float64(one.W)), int(k*float64(one.H)), spec.ClassOf(float64(one.W)/float64(one.H))
		one.Words = []proofWord{}
		for _, w := range app.WritablesOf(p.Piece) {
			one.Words = append(one.Words, proofWord{w.Slot, w.Text, w.Box})
		}
		for _, d := range p.Last {
			one.By = append(one.By, proofVote{d.By.Shown(), d.Verdict, d.At, d.Hash == p.Hash})
		}
		if shot := shotThen(room, p); shot != "" {
			one.Then = j.base + "/then/" + shot
		}
		st.Pieces = append(st.Pieces, one)
	}
	thread := map[app.ID]int{}
	for _, c := range room.Comments {
		said := proofSaid{ID: c.ID, Name: c.By.Shown(), Words: c.Words, At: c.At}
		if j.mayUnsay(c) {
			said.Under = c.By.Name
		}
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
