package app

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/plain"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/raster"
	"aspenridge/internal/store"
)

// Room is a set as it is shown to be judged.
type Room struct {
	Set      *Set
	Pieces   []ProofPiece
	Comments []Comment // the oldest first: of the threads that were begun last
	Earlier  bool      // there are threads before those
}

// Of a room so many threads are shown, each with so many answers; more are asked for.
const (
	ThreadsAtOnce = 50
	MostThreads   = 1000
	answersShown  = 50
)

// ProofPiece is a piece with what was decided about it.
type ProofPiece struct {
	Key   string // placement, with the card
	Piece *piece.Piece
	Hash  string     // of its drawing
	State string     // "" while nobody decided, [Approved], [Changes], [Changed]
	Last  []Decision // of each person
	Why   []string   // what is not as it was decided about
	Open  int        // threads that are not resolved
	// Unsigned says why it is approved and may not be handed over, "" where it may.
	Unsigned string
}

// Room opens a brief to be judged, with so many of the last threads.
func (a Proofs) Room(ctx context.Context, m Member, id ID, threads int) (*Room, error) {
	threads = min(max(threads, ThreadsAtOnce), MostThreads)
	s, err := a.sets.Set(ctx, m, id)
	if err != nil {
		return nil, err
	}
	r := &Room{Set: s}
	if r.Comments, err = a.store.Comments(ctx, m.Workspace, id, threads+1, answersShown); err != nil {
		return nil, err
	}
	r.without(threads)
	open, err := a.store.OpenComments(ctx, m.Workspace, id)
	if err != nil {
		return nil, err
	}
	decisions, err := a.store.Decisions(ctx, m.Workspace, id)
	if err != nil {
		return nil, err
	}
	var signs *signers
	for _, pc := range s.Pieces() {
		p := s.proofed(pc, decisions)
		p.Open = open[p.Key]
		p.judge()
		if s.Kit.Rails.SignOff && p.State == Approved {
			if signs == nil {
				if signs, err = a.signers(ctx, m, s, decisions); err != nil {
					return nil, err
				}
			}
			p.Unsigned = signs.unsigned(p)
		}
		r.Pieces = append(r.Pieces, p)
	}
	return r, nil
}

// without leaves out what was said before so many threads, and notes that there was such.
func (r *Room) without(threads int) {
	var first []ID
	for _, c := range r.Comments {
		if c.About == nil {
			first = append(first, c.ID)
		}
	}
	if r.Earlier = len(first) > threads; r.Earlier {
		gone := first[0]
		r.Comments = slices.DeleteFunc(r.Comments, func(c Comment) bool { return c.ID == gone || c.About != nil && *c.About == gone })
	}
}

// proofed is a piece with the last decision of each person about it.
func (s *Set) proofed(pc *piece.Piece, decisions []Decision) ProofPiece {
	p := ProofPiece{Key: pc.Placement.ID, Piece: pc, Hash: s.drawingHash(pc)}
	for _, d := range decisions {
		if d.Piece == p.Key {
			p.Last = append(slices.DeleteFunc(p.Last, func(o Decision) bool { return same(o.By, d.By) }), d)
		}
	}
	return p
}

// same reports whether two things were said by one person.
func same(a, b By) bool {
	switch {
	case a.Person != nil && b.Person != nil:
		return *a.Person == *b.Person
	case a.Link != nil && b.Link != nil:
		return *a.Link == *b.Link && strings.EqualFold(a.Name, b.Name)
	}
	return false
}

// judge says how a piece stands: who asks for changes outweighs who approves, and what was
// decided about another drawing does not count for this one.
func (p *ProofPiece) judge() {
	now := func(verdict string) bool {
		return slices.ContainsFunc(p.Last, func(d Decision) bool { return d.Verdict == verdict && d.Hash == p.Hash })
	}
	switch {
	case now(Changes):
		p.State = Changes
	case now(Approved):
		p.State = Approved
	case len(p.Last) > 0:
		p.State = Changed
		p.Why = since(p.Last[len(p.Last)-1], p.Piece)
	}
}

// drawingHash is the hash of a piece's drawing.
func (s *Set) drawingHash(pc *piece.Piece) string {
	return Once(s, "drawn "+PieceKey(pc.Look, pc.Placement.ID), func() string { return drawing(pc.Scene) })
}

// since says in words what is not as it was when a piece was decided about.
func since(d Decision, pc *piece.Piece) (out []string) {
	var was piece.PieceReport
	if json.Unmarshal(d.Was, &was) != nil {
		return nil
	}
	now := pc.Report()
	texts := func(r piece.PieceReport) map[string]string {
		m := map[string]string{}
		for _, e := range r.Elements {
			if e.Text != "" {
				m[e.Slot] = strings.Join(strings.Fields(m[e.Slot]+" "+e.Text), " ")
			}
		}
		return m
	}
	before, after := texts(was), texts(now)
	for _, slot := range slices.Sorted(keysOf(before, after)) {
		switch old, text := before[slot], after[slot]; {
		case old == text:
		case old == "":
			out = append(out, fmt.Sprintf("%s: “%s” is new", Label(slot), plain.Short(text)))
		case text == "":
			out = append(out, fmt.Sprintf("%s: “%s” is gone", Label(slot), plain.Short(old)))
		default:
			out = append(out, fmt.Sprintf("%s: “%s” was “%s”", Label(slot), plain.Short(text), plain.Short(old)))
		}
	}
	if was.Layout != now.Layout {
		out = append(out, "its layout")
	}
	pictures := func(r piece.PieceReport) (files []string) {
		for _, e := range r.Elements {
			if e.File != "" {
				files = append(files, e.File)
			}
		}
		return files
	}
	if !slices.Equal(pictures(was), pictures(now)) {
		out = append(out, "a picture")
	}
	for _, seat := range slices.Sorted(keysOf(was.Colourway, now.Colourway)) {
		if was.Colourway[seat] != now.Colourway[seat] {
			out = append(out, "its colours")
			break
		}
	}
	if len(out) == 0 {
		out = []string{"how it is set"}
	}
	return out
}

// Label is what people call a part of a piece.
func Label(slot string) string { return strings.ToLower(brief.PartOf(slot).Label) }

// keysOf are the keys of two maps, once each.
func keysOf(a, b map[string]string) func(yield func(string) bool) {
	return func(yield func(string) bool) {
		for k := range a {
			if !yield(k) {
				return
			}
		}
		for k := range b {
			if _, both := a[k]; !both && !yield(k) {
				return
			}
		}
	}
}

// Decide keeps a verdict about pieces: those that were seen, by their keys, each with the hash
// of the drawing that was seen ("" for whatever it is), all of them where none is named. What
// has changed since it was seen is not decided about.
func (a Proofs) Decide(ctx context.Context, m Member, by By, id ID, verdict string, seen map[string]string) error {
	if err := a.mayOn(ctx, m, roles.Decide, id); err != nil {
		return err
	}
	by, err := checkedBy(by)
	if err != nil {
		return err
	}
	if verdict != Approved && verdict != Changes {
		return fmt.Errorf("%w: %.60q: want %s or %s", ErrInvalid, verdict, Approved, Changes)
	}
	s, err := a.sets.Set(ctx, m, id)
	if err != nil {
		return err
	}
	var list []Decision
	for _, pc := range s.Pieces() {
		key := pc.Placement.ID
		hash, named := seen[key]
		if len(seen) > 0 && !named {
			continue
		}
		if hash != "" && hash != s.drawingHash(pc) {
			return fmt.Errorf("%w: %s has changed while you looked at it: look again, then decide", ErrInvalid, pc.Placement.Name)
		}
		shot, err := a.shotOf(ctx, pc)
		if err != nil {
			return err
		}
		list = append(list, Decision{Piece: key, Verdict: verdict, By: by, Hash: s.drawingHash(pc), Was: raw(pc.Report()), Shot: shot, Seq: s.Doc.Seq})
	}
	if len(list) == 0 || len(seen) > len(list) {
		return fmt.Errorf("%w: that is not in the set (any more)", ErrInvalid)
	}
	what := map[string]string{Approved: "approved", Changes: "asks for changes of"}[verdict]
	about := fmt.Sprintf("%d pieces", len(list))
	if len(list) == 1 {
		about = s.placeName(list[0].Piece)
	}
	err = a.store.PutDecisions(ctx, m, id, list, store.Note{User: by.Person, Name: by.Shown(), Kind: noteVerdict, Document: &id, Words: what + " " + about})
	if errors.Is(err, store.ErrRepeated) {
		err = nil
	}
	return err
}

// placeName is what the place of a piece is called.
func (s *Set) placeName(key string) string {
	if p, err := s.Channels.Parse(key); err == nil {
		return p.Name
	}
	return key
}

// How large pieces are drawn to be judged, px of the longer side.
const (
	sheetSide = 480
	largeSide = 1400
)

// shotOf keeps a picture of a piece as it is decided about, and says its hash.
func (a *house) shotOf(ctx context.Context, pc *piece.Piece) (string, error) {
	key := drawing(pc.Scene) // ten comments on a piece are about one picture
	data, ok := a.shots.Get(key)
	if !ok {
		var err error
		if data, err = a.drawForScreen(ctx, pc, largeSide); err != nil {
			return "", err
		}
		a.shots.Put(key, data)
	}
	return a.blobs.Put(ctx, data)
}

// drawForScreen draws a piece for a screen.
func (a *house) drawForScreen(ctx context.Context, pc *piece.Piece, side int) ([]byte, error) {
	k := min(1, float64(side)/float64(max(pc.Scene.W, pc.Scene.H)))
	return a.studio.Render(ctx, pc.Scene, raster.Output{Format: "webp", Scale: k, Quality: 82})
}

// Picture draws a piece of a brief to be judged, small on a sheet or large.
func (a Proofs) Picture(ctx context.Context, m Member, id ID, key string, large bool) ([]byte, error) {
	if err := a.mayOn(ctx, m, roles.Look, id); err != nil {
		return nil, err
	}
	s, err := a.sets.Set(ctx, m, id)
	if err != nil {
		return nil, err
	}
	pc, err := s.pieceAt(key)
	if err != nil {
		return nil, ErrNotFound
	}
	side := sheetSide
	if large {
		side = largeSide
	}
	return a.drawForScreen(ctx, pc, side)
}

// Then is the picture of a piece as a decision or a comment was about it, of whom it was.
func (a Proofs) Then(ctx context.Context, m Member, id ID, shot string) ([]byte, error) {
	if err := a.mayOn(ctx, m, roles.Look, id); err != nil {
		return nil, err
	}
	decisions, err := a.store.Decisions(ctx, m.Workspace, id)
	if err != nil {
		return nil, err
	}
	if !slices.ContainsFunc(decisions, func(d Decision) bool { return d.Shot == shot }) {
		if ok, err := a.store.CommentShot(ctx, m.Workspace, id, shot); err != nil || !ok {
			return nil, cmp.Or(err, ErrNotFound)
		}
	}
	return a.blobs.Get(ctx, shot)
}

// Waiting says how a brief stands: how many of its pieces are approved, and how many threads
// are open.
type Waiting struct {
	Pieces   int `json:"pieces"`
	Approved int `json:"approved"`
	Asked    int `json:"asked"` // with changes asked for
	Changed  int `json:"changed"`
	Open     int `json:"open"` // threads
}

// Waiting counts it.
func (r *Room) Waiting() (w Waiting) {
	w.Pieces = len(r.Pieces)
	for _, p := range r.Pieces {
		w.Open += p.Open
		switch p.State {
		case Approved:
			w.Approved++
		case Changes:
			w.Asked++
		case Changed:
			w.Changed++
		}
	}
	return w
}
