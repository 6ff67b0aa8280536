package app

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"aspenridge/internal/act"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/plain"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/core/scene"
)

// Remark is something that is said about a piece.
type Remark struct {
	ID    ID     // chosen by who says it: said once, however often it arrives
	Piece string // key
	X, Y  float64
	W, H  float64
	Spot  bool // it is about the spot at X, Y (0-1 of the piece), or the area W by H about it, not the piece as a whole
	About *ID  // the thread it answers
	Words string
	// Suggests are other words for the part that is there, which the editor can take.
	Suggests string
}

// MostWords is how long a comment may be, letters.
const MostWords = 2000

// saidAnHour is how much is said by a link in an hour.
const saidAnHour = 200

// Say keeps a comment. A spot is kept as one of the part that is there, with which it moves.
func (a Proofs) Say(ctx context.Context, m Member, by By, id ID, r Remark) error {
	if err := a.mayOn(ctx, m, roles.Comment, id); err != nil {
		return err
	}
	by, err := checkedBy(by)
	if err != nil {
		return err
	}
	r.Words, r.Suggests = plain.Text(r.Words), plain.Text(r.Suggests)
	if r.Words == "" && r.Suggests != "" {
		r.Words = "Other words:"
	}
	if by.Link != nil {
		n, err := a.store.CommentsBy(ctx, *by.Link, a.now().Add(-time.Hour))
		if err != nil {
			return err
		}
		if n >= saidAnHour {
			return fmt.Errorf("%w: %d comments were made by this link within an hour: go on later", ErrInvalid, n)
		}
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
		if r.W < 0 || r.H < 0 || r.W > 1 || r.H > 1 {
			return fmt.Errorf("%w: an area lies on the piece, 0 to 1 each way", ErrInvalid)
		}
		c.Part, c.X, c.Y = spotOn(pc, r.X, r.Y)
		k := boxOf(pc, c.Part)
		c.W, c.H = r.W/k[2], r.H/k[3]
		if w, on := wordAt(pc, c.Part, r.X, r.Y); on && r.W == 0 {
			c.Word, c.Nth = w.text, w.nth
		}
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
		c.ID = m.ChangeID()
	}
	if c.ID == (ID{}) {
		c.ID = uuid.New()
	}
	if c.About == nil { // how it was is seen beside how it is, once it has changed; what is said matters more
		if shot, err := a.shotOf(ctx, pc); err == nil {
			c.Hash, c.Shot = s.drawingHash(pc), shot
		}
	}
	fresh, err := a.store.PutComment(ctx, m.Workspace, id, c)
	if err != nil || !fresh {
		return err
	}
	if err := a.note(ctx, m, by, noteComment, id, "commented on %s: %s", pc.Placement.Name, plain.Short(c.Words)); err != nil || !strings.Contains(c.Words, "@") {
		return err
	}
	team, err := a.store.Team(ctx, m.Workspace)
	if err != nil {
		return err
	}
	for _, who := range mentioned(team, c.Words) {
		if err := a.noteTo(ctx, m, by, noteMention, id, who, "named you on %s: %s", pc.Placement.Name, plain.Short(c.Words)); err != nil {
			return err
		}
	}
	return nil
}

// Unsay takes a comment out: its author's own, or by an owner anybody's. The record keeps it.
func (a Proofs) Unsay(ctx context.Context, m Member, by By, id, which ID) error {
	if err := a.mayOn(ctx, m, roles.Comment, id); err != nil {
		return err
	}
	by, err := checkedBy(by)
	if err != nil {
		return err
	}
	words, err := a.store.DeleteComment(ctx, m.Workspace, id, which, by, by.Person != nil && act.May(m, roles.ManageWorkspace) == nil)
	if err != nil {
		return err
	}
	return a.note(ctx, m, by, noteComment, id, "deleted a comment: %s", plain.Short(words))
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

// boxOf is where a part is on a piece, 0-1 each way: x, y, width, height; no width for one that
// is not there.
func boxOf(pc *piece.Piece, slot string) [4]float64 {
	if slot == Whole {
		return [4]float64{0, 0, 1, 1}
	}
	w, h := float64(pc.Scene.W), float64(pc.Scene.H)
	for i := len(pc.Scene.Parts) - 1; i >= 0; i-- {
		if p := &pc.Scene.Parts[i]; p.Slot == slot && p.Box.W > 0 && p.Box.H > 0 {
			return [4]float64{p.Box.X / w, p.Box.Y / h, p.Box.W / w, p.Box.H / h}
		}
	}
	return [4]float64{}
}

// SpotOf is where what a comment is about lies on a piece as it is now, 0-1 each way: its middle,
// and how wide and high it is (0 for a spot). A word is found where it is said now, a spot or an
// area goes with its part; false where it is about all of the piece, or its part is gone.
func SpotOf(pc *piece.Piece, c Comment) (at [4]float64, ok bool) {
	box := boxOf(pc, c.Part)
	if c.Part == "" || box[2] == 0 {
		return at, false
	}
	if w, said := wordBox(pc, c); c.Word != "" && said {
		return [4]float64{w[0] + w[2]/2, w[1] + w[3]/2, w[2], w[3]}, true
	}
	in := func(v float64) float64 { return min(1, max(0, v)) }
	return [4]float64{in(box[0] + c.X*box[2]), in(box[1] + c.Y*box[3]), in(c.W * box[2]), in(c.H * box[3])}, true
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
	if err := a.mayOn(ctx, m, roles.WriteBriefs, id); err != nil {
		return err
	}
	r, err := a.Room(ctx, m, id, MostThreads)
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
	by.Name = plain.Line(by.Name)
	if n := len([]rune(by.Name)); n == 0 || n > 80 {
		return by, fmt.Errorf("%w: say your name, in up to 80 letters", ErrInvalid)
	}
	return by, nil
}
