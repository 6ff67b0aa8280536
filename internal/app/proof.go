package app

import (
	"cmp"
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"unicode"

	"github.com/alexedwards/argon2id"
	"github.com/google/uuid"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/raster"
	"aspenridge/internal/store"
)

// What is shown to people without an account, and what they say of it.
type (
	ProofLink = store.ProofLink
	Comment   = store.Comment
	Decision  = store.Decision
	By        = store.By
)

// The verdicts.
const (
	Approved = "approved"
	Changes  = "changes" // asked for
)

// Changed is how a piece stands that was approved, and is not what it was then.
const Changed = "changed"

// Guest is who came by a link: somebody who may look at one brief, and say what they think of
// it.
type Guest struct {
	Member
	Link ProofLink
}

// WishedLink is how a link is to be.
type WishedLink struct {
	For      string // whom it is for
	Password string // "" for none
	Days     int    // it lives, 0 for as long as nobody ends it
}

// What a link may be.
const (
	MostLinks    = 40 // of a brief, at a time
	MostLinkDays = 365
	leastSecret  = 4 // letters of a link's password
)

// Link makes a secret way to a brief: whoever has it looks at the set and says what they think,
// without an account. The token is told once, and not kept.
func (a Proofs) Link(ctx context.Context, m Member, id ID, w WishedLink) (token string, err error) {
	if err := may(m, change); err != nil {
		return "", err
	}
	w.For = oneLine(w.For)
	switch n := len([]rune(w.Password)); {
	case w.For == "" || len([]rune(w.For)) > 80:
		return "", fmt.Errorf("%w: say whom the link is for, in up to 80 letters", ErrInvalid)
	case n > 0 && n < leastSecret || n > 200:
		return "", fmt.Errorf("%w: a password for a link has %d to 200 letters, or there is none", ErrInvalid, leastSecret)
	case w.Days < 0 || w.Days > MostLinkDays:
		return "", fmt.Errorf("%w: a link lives for up to %d days, or until it is ended", ErrInvalid, MostLinkDays)
	}
	have, err := a.store.ProofLinks(ctx, m.Workspace, id)
	if err != nil {
		return "", err
	}
	if len(have) >= MostLinks {
		return "", fmt.Errorf("%w: this brief has %d links: end one that is not needed any more", ErrInvalid, MostLinks)
	}
	l := ProofLink{ID: uuid.New(), Workspace: m.Workspace, Brief: id, Name: w.For}
	if w.Days > 0 {
		until := a.now().AddDate(0, 0, w.Days)
		l.Expires = &until
	}
	if w.Password != "" {
		done, err := a.passwords.enter(ctx)
		if err != nil {
			return "", err
		}
		l.Password, err = argon2id.CreateHash(w.Password, a.hashing)
		done()
		if err != nil {
			return "", err
		}
	}
	token = rand.Text() // 128 bits and more
	return token, a.store.PutProofLink(ctx, l, hashOfToken(token), m.ID)
}

// hashOfToken is how tokens are kept: they are random enough not to be guessed from it.
func hashOfToken(token string) []byte {
	sum := sha256.Sum256([]byte(token))
	return sum[:]
}

// Links are the ways to a brief that are open, the newest first.
func (a Proofs) Links(ctx context.Context, m Member, id ID) ([]ProofLink, error) {
	if err := may(m, change); err != nil {
		return nil, err
	}
	list, err := a.store.ProofLinks(ctx, m.Workspace, id)
	now := a.now()
	return slices.DeleteFunc(list, func(l ProofLink) bool { return l.Expires != nil && l.Expires.Before(now) }), err
}

// End ends a link; what was said by it stays.
func (a Proofs) End(ctx context.Context, m Member, id, link ID) error {
	if err := may(m, change); err != nil {
		return err
	}
	return a.store.EndProofLink(ctx, m.Workspace, id, link)
}

// Guest is who comes by a token; [ErrNotFound] for one that is not, or no longer, good.
func (a Proofs) Guest(ctx context.Context, token string) (Guest, error) {
	l, err := a.store.ProofLink(ctx, hashOfToken(token), a.now())
	return Guest{Member{Workspace: l.Workspace, Role: "commenter"}, l}, err
}

// Unlock checks the password of a link; [ErrSignIn] where it is another one.
func (a Proofs) Unlock(ctx context.Context, g Guest, password string) error {
	done, err := a.passwords.enter(ctx)
	if err != nil {
		return err
	}
	defer done()
	if ok, err := argon2id.ComparePasswordAndHash(password, g.Link.Password); err != nil || !ok {
		return ErrSignIn
	}
	return nil
}

// Room is a set as it is shown to be judged.
type Room struct {
	Set      *Set
	Pieces   []ProofPiece
	Comments []Comment // the oldest first
}

// ProofPiece is a piece with what was decided about it.
type ProofPiece struct {
	Key   string // placement, with the card
	Piece *piece.Piece
	Hash  string     // of its drawing
	State string     // "" while nobody decided, [Approved], [Changes], [Changed]
	Last  []Decision // of each person
	Why   []string   // what is not as it was decided about
	Open  int        // threads that are not resolved
}

// Room opens a brief to be judged.
func (a Proofs) Room(ctx context.Context, m Member, id ID) (*Room, error) {
	s, err := a.sets.Set(ctx, m, id)
	if err != nil {
		return nil, err
	}
	r := &Room{Set: s}
	if r.Comments, err = a.store.Comments(ctx, m.Workspace, id); err != nil {
		return nil, err
	}
	decisions, err := a.store.Decisions(ctx, m.Workspace, id)
	if err != nil {
		return nil, err
	}
	for _, pc := range s.Pieces() {
		p := ProofPiece{Key: pc.Placement.ID, Piece: pc, Hash: s.drawn(pc)}
		for _, d := range decisions {
			if d.Piece == p.Key {
				p.Last = append(slices.DeleteFunc(p.Last, func(o Decision) bool { return same(o.By, d.By) }), d)
			}
		}
		for _, c := range r.Comments {
			if c.Piece == p.Key && c.About == nil && c.Resolved == nil {
				p.Open++
			}
		}
		p.judge()
		r.Pieces = append(r.Pieces, p)
	}
	return r, nil
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

// drawn is the hash of a piece's drawing.
func (s *Set) drawn(pc *piece.Piece) string {
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
			out = append(out, fmt.Sprintf("%s: “%s” is new", Label(slot), short(text)))
		case text == "":
			out = append(out, fmt.Sprintf("%s: “%s” is gone", Label(slot), short(old)))
		default:
			out = append(out, fmt.Sprintf("%s: “%s” was “%s”", Label(slot), short(text), short(old)))
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

// short is the beginning of a text that is long.
func short(s string) string {
	if r := []rune(s); len(r) > 60 {
		return strings.TrimSpace(string(r[:58])) + " …"
	}
	return s
}

// Remark is something that is said about a piece.
type Remark struct {
	ID    ID     // chosen by who says it: said once, however often it arrives
	Piece string // key
	X, Y  float64
	Spot  bool // it is about the spot at X, Y (0-1 of the piece), not the piece as a whole
	About *ID  // the thread it answers
	Words string
	// Suggests are other words for the part that is there, which the editor can take.
	Suggests string
}

// MostWords is how long a comment may be, letters.
const MostWords = 4000

// Say keeps a comment. A spot is kept as one of the part that is there, with which it moves.
func (a Proofs) Say(ctx context.Context, m Member, by By, id ID, r Remark) error {
	if err := may(m, comment); err != nil {
		return err
	}
	by, err := checkedBy(by)
	if err != nil {
		return err
	}
	r.Words, r.Suggests = safeText(r.Words), safeText(r.Suggests)
	if r.Words == "" && r.Suggests != "" {
		r.Words = "Other words:"
	}
	if n := len([]rune(r.Words)); n == 0 || n > MostWords {
		return fmt.Errorf("%w: a comment has 1 to %d letters, this one has %d", ErrInvalid, MostWords, n)
	}
	s, err := a.sets.Set(ctx, m, id)
	if err != nil {
		return err
	}
	pc, err := s.pieceAt(r.Piece)
	if err != nil {
		return err
	}
	c := Comment{ID: r.ID, Piece: r.Piece, About: r.About, By: by, Words: r.Words, Seq: s.Doc.Seq}
	if r.Spot {
		if r.X < 0 || r.X > 1 || r.Y < 0 || r.Y > 1 {
			return fmt.Errorf("%w: a spot lies on the piece, 0 to 1 each way", ErrInvalid)
		}
		c.Part, c.X, c.Y = spotOn(pc, r.X, r.Y)
	}
	if r.Suggests != "" {
		if _, ok := writable(pc, c.Part); !ok {
			return fmt.Errorf("%w: there are no words there that could be others", ErrInvalid)
		}
		if len([]rune(r.Suggests)) > brief.MaxCopy {
			return fmt.Errorf("%w: other words have at most %d letters", ErrInvalid, brief.MaxCopy)
		}
		c.Suggests = r.Suggests
	}
	if c.ID == (ID{}) {
		c.ID = uuid.New()
	}
	return a.store.PutComment(ctx, m.Workspace, id, c)
}

// Whole is the part of a spot that lies on nothing in particular.
const Whole = "piece"

// spotOn is the part of a piece a spot lies on, and where on it (0-1 of its box).
func spotOn(pc *piece.Piece, x, y float64) (part string, px, py float64) {
	w, h := float64(pc.Scene.W), float64(pc.Scene.H)
	for i := len(pc.Scene.Parts) - 1; i >= 0; i-- {
		p := &pc.Scene.Parts[i]
		near := 0.02 * min(w, h) // words are meant by who presses beside them
		if p.Kind == scene.KindPicture {
			near = 0
		}
		box := p.Box.Inset(-near)
		if p.Kind == scene.KindShape || p.Box.W <= 0 || p.Box.H <= 0 || x*w < box.X || x*w > box.Right() || y*h < box.Y || y*h > box.Bottom() {
			continue
		}
		return p.Slot, (x*w - p.Box.X) / p.Box.W, (y*h - p.Box.Y) / p.Box.H
	}
	return Whole, x, y
}

// SpotOf is where a comment's spot lies on a piece as it is now, 0-1 each way; false where it
// has none, or its part is gone.
func SpotOf(pc *piece.Piece, c Comment) (x, y float64, ok bool) {
	switch c.Part {
	case "":
		return 0, 0, false
	case Whole:
		return c.X, c.Y, true
	}
	w, h := float64(pc.Scene.W), float64(pc.Scene.H)
	for i := len(pc.Scene.Parts) - 1; i >= 0; i-- {
		if p := &pc.Scene.Parts[i]; p.Slot == c.Part {
			x, y = (p.Box.X+c.X*p.Box.W)/w, (p.Box.Y+c.Y*p.Box.H)/h
			return min(1, max(0, x)), min(1, max(0, y)), true
		}
	}
	return 0, 0, false
}

// Writable is a part of a piece whose words can be others.
type Writable struct {
	Slot  string
	Field string // of the card
	Text  string
	Box   [4]float64 // 0-1 of the piece
}

// writable is the part of a slot whose words can be others; false for none.
func writable(pc *piece.Piece, slot string) (w Writable, ok bool) {
	for i := len(pc.Scene.Parts) - 1; i >= 0; i-- {
		p := &pc.Scene.Parts[i]
		if p.Slot == slot && p.Words() && slices.Contains(brief.CopyFields, p.Field) {
			width, height := float64(pc.Scene.W), float64(pc.Scene.H)
			text := strings.ReplaceAll(p.Text, "\u00a0", " ") // glued by rule, not by whoever typed it
			return Writable{slot, p.Field, text, [4]float64{p.Box.X / width, p.Box.Y / height, p.Box.W / width, p.Box.H / height}}, true
		}
	}
	return w, false
}

// WritablesOf are the parts of a piece whose words can be others.
func WritablesOf(pc *piece.Piece) (out []Writable) {
	for i := range pc.Scene.Parts {
		if w, ok := writable(pc, pc.Scene.Parts[i].Slot); ok && !slices.ContainsFunc(out, func(o Writable) bool { return o.Slot == w.Slot }) {
			out = append(out, w)
		}
	}
	return out
}

// Take takes the words a comment suggests: they are those of the set from then on, a change
// like any other, and the comment is done with.
func (a Proofs) Take(ctx context.Context, m Member, id, thread ID, client string) error {
	if err := may(m, change); err != nil {
		return err
	}
	r, err := a.Room(ctx, m, id)
	if err != nil {
		return err
	}
	i := slices.IndexFunc(r.Comments, func(c Comment) bool { return c.ID == thread })
	if i < 0 || r.Comments[i].Suggests == "" {
		return ErrNotFound
	}
	c := r.Comments[i]
	if c.Taken != nil {
		return nil
	}
	pc, err := r.Set.pieceAt(c.Piece)
	if err != nil {
		return err
	}
	w, ok := writable(pc, c.Part)
	if !ok {
		return fmt.Errorf("%w: the words it is about are not on the piece any more", ErrInvalid)
	}
	card := r.Set.Brief.Cards[min(pc.Card, len(r.Set.Brief.Cards)-1)]
	if _, err := a.briefs.EditBrief(ctx, m, id, Change{Client: client, Base: Latest, Op: edit.Op{Path: cardPath(card.ID, w.Field), Value: raw(c.Suggests)}}); err != nil {
		return err
	}
	return a.store.TakeComment(ctx, m.Workspace, id, thread, a.Who(m).Name)
}

// checkedBy is who says something, with a name.
func checkedBy(by By) (By, error) {
	by.Name = oneLine(by.Name)
	if n := len([]rune(by.Name)); n == 0 || n > 80 {
		return by, fmt.Errorf("%w: say your name, in up to 80 letters", ErrInvalid)
	}
	return by, nil
}

// oneLine is a text without breaks, and without signs that turn around what stands beside it.
func oneLine(s string) string { return strings.Join(strings.Fields(safeText(s)), " ") }

// safeText is a text without control characters and without the signs of Unicode that turn
// the direction of what follows (UAX #9: embeddings, overrides and isolates).
func safeText(s string) string {
	return strings.TrimSpace(strings.Map(func(r rune) rune {
		switch {
		case r == '\n':
			return r
		case unicode.IsControl(r), r >= '\u202a' && r <= '\u202e', r >= '\u2066' && r <= '\u2069':
			return -1
		}
		return r
	}, strings.ReplaceAll(s, "\r\n", "\n")))
}

// Settle says that a thread is done with, or is not.
func (a Proofs) Settle(ctx context.Context, m Member, by By, id, thread ID, done bool) error {
	if err := may(m, comment); err != nil {
		return err
	}
	by, err := checkedBy(by)
	if err != nil {
		return err
	}
	return a.store.ResolveComment(ctx, m.Workspace, id, thread, by.Name, done)
}

// Decide keeps a verdict about pieces by their keys, all of them where none is named.
func (a Proofs) Decide(ctx context.Context, m Member, by By, id ID, verdict string, keys ...string) error {
	if err := may(m, comment); err != nil {
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
		if len(keys) > 0 && !slices.Contains(keys, key) {
			continue
		}
		shot, err := a.shotOf(ctx, pc)
		if err != nil {
			return err
		}
		list = append(list, Decision{Piece: key, Verdict: verdict, By: by, Hash: s.drawn(pc), Was: raw(pc.Report()), Shot: shot, Seq: s.Doc.Seq})
	}
	if len(list) == 0 || len(keys) > len(list) {
		return fmt.Errorf("%w: that is not in the set (any more)", ErrInvalid)
	}
	return a.store.PutDecisions(ctx, m.Workspace, id, list)
}

// How large pieces are drawn to be judged, px of the longer side.
const (
	sheetSide = 480
	largeSide = 1400
)

// shotOf keeps a picture of a piece as it is decided about, and says its hash.
func (a *house) shotOf(ctx context.Context, pc *piece.Piece) (string, error) {
	data, err := a.drawnFor(ctx, pc, largeSide)
	if err != nil {
		return "", err
	}
	return a.blobs.Put(ctx, data)
}

// drawnFor draws a piece for a screen.
func (a *house) drawnFor(ctx context.Context, pc *piece.Piece, side int) ([]byte, error) {
	k := min(1, float64(side)/float64(max(pc.Scene.W, pc.Scene.H)))
	return a.studio.Render(ctx, pc.Scene, raster.Output{Format: "webp", Scale: k, Quality: 82})
}

// Picture draws a piece of a brief to be judged, small on a sheet or large.
func (a Proofs) Picture(ctx context.Context, m Member, id ID, key string, large bool) ([]byte, error) {
	if err := may(m, view); err != nil {
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
	return a.drawnFor(ctx, pc, side)
}

// Then is the picture of a piece as the last decision was about it, of whom it was.
func (a Proofs) Then(ctx context.Context, m Member, id ID, shot string) ([]byte, error) {
	if err := may(m, view); err != nil {
		return nil, err
	}
	decisions, err := a.store.Decisions(ctx, m.Workspace, id)
	if err != nil {
		return nil, err
	}
	if !slices.ContainsFunc(decisions, func(d Decision) bool { return d.Shot == shot }) {
		return nil, ErrNotFound
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

// OpenComments are the threads of a brief that are not resolved, counted by piece.
func (a Proofs) OpenComments(ctx context.Context, m Member, id ID) (map[string]int, error) {
	if err := may(m, view); err != nil {
		return nil, err
	}
	return a.store.OpenComments(ctx, m.Workspace, id)
}

// Said is what is said of a brief and nobody is done with.
type Said = store.Said

// mostSaid is how many briefs the Desk says something was said of.
const mostSaid = 8

// Said is what waits on the Desk: what was said of briefs, the last first.
func (a Proofs) Said(ctx context.Context, m Member) ([]Said, error) {
	if err := may(m, view); err != nil {
		return nil, err
	}
	return a.store.Waiting(ctx, m.Workspace, mostSaid)
}

// Who is who says something with an account.
func (a Proofs) Who(m Member) By { return By{Name: cmp.Or(m.Name, m.Email), Person: &m.ID} }

// Who is who says something having come by the link, under a name.
func (g Guest) Who(name string) By { return By{Name: name, Link: &g.Link.ID} }
