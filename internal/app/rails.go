package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"aspenridge/internal/act"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/plain"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/store"
)

// Railed means a change goes beyond what its kit leaves to everybody.
type Railed struct {
	Rail  string // one of [brand.RailNames]
	Words string
	Ask   bool // an owner can be asked for it
}

func (r *Railed) Error() string { return r.Words }

// ErrAsked means a change was not made but asked for.
var ErrAsked = errors.New("an owner is asked")

// railed refuses what somebody who is no owner adds to a brief beyond the rails of its kit, and
// what they change of a kit, or of one it follows, that its rails leave to its owners. It is asked
// for every change, whichever way it comes: an edit, an undo, a version, a copy.
func (a *house) railed(ctx context.Context, r store.Reader, c store.Checked) error {
	switch {
	case c.By.May(roles.ManageWorkspace):
		return nil
	case c.Document.Kind == "kit":
		return a.railedKit(ctx, r, c)
	case c.Document.Kind != "brief" || c.Document.KitID == nil:
		return nil
	}
	k, err := a.kitIn(ctx, r, *c.Document.KitID)
	if err != nil {
		return fmt.Errorf("%w: its kit cannot be read, and so what it leaves to everybody: bring the kit back to its last good state first: %w", ErrInvalid, err)
	}
	if !k.Rails.Any() {
		return nil
	}
	is, err := parseBrief(c.After)
	if err != nil {
		return err
	}
	of, before := c.Document.ID, c.Before
	if before == nil && c.Like != nil { // a copy has what the one it is made of has
		d, err := r.Document(ctx, *c.Like)
		if err != nil {
			return err
		}
		if d.KitID != nil && *d.KitID == *c.Document.KitID {
			of = *c.Like
			if before, err = edit.ParseObject(d.Doc); err != nil {
				return err
			}
		}
	}
	var had []brief.Crossing
	if before != nil {
		if was, err := parseBrief(before); err == nil { // of one that could not be read nothing is known
			had = was.Crosses(k)
		}
	}
	return crosses(ctx, r, of, is, k, had)
}

// crosses refuses what a brief does beyond the rails of a kit and did not do before, unless an
// owner has lifted that rail from it.
func crosses(ctx context.Context, r store.Reader, of ID, is *brief.Brief, k *brand.Kit, had []brief.Crossing) error {
	more := slices.DeleteFunc(is.Crosses(k), func(c brief.Crossing) bool {
		return slices.ContainsFunc(had, func(o brief.Crossing) bool { return o.What == c.What })
	})
	if len(more) == 0 {
		return nil
	}
	lifted, err := r.Exceptions(ctx, of)
	if err != nil {
		return err
	}
	for _, c := range more {
		if !slices.Contains(lifted, c.Rail) {
			return &Railed{c.Rail, c.Words, true}
		}
	}
	return nil
}

// railedKit refuses what a change makes of a kit, or of those that follow it, that their rails
// leave to owners: the rails themselves, and while one is up what it is about.
func (a *house) railedKit(ctx context.Context, r store.Reader, c store.Checked) error {
	if c.Before == nil { // a new one, whose rails are as whoever makes it wants
		return nil
	}
	followers, err := r.Followers(ctx, c.Document.ID)
	if err != nil {
		return err
	}
	then := changed{r, c.Document.ID, c.Document}
	then.doc.Doc = raw(c.After)
	for _, d := range append([]store.Document{c.Document}, followers...) {
		own, err := edit.ParseObject(d.Doc)
		if err != nil {
			continue // nobody reads it
		}
		was, err := kitAs(ctx, r, d.ID, own)
		if err != nil {
			if isAboutDocument(err) && d.ID != c.Document.ID {
				continue
			}
			return ErrNotAllowed // what its rails are is not known
		}
		if d.ID == c.Document.ID {
			own = c.After
		}
		is, err := kitAs(ctx, then, d.ID, own)
		if err != nil {
			return err
		}
		if err := keeps(was, is); err != nil {
			return err
		}
	}
	return nil
}

// kitAs is what a kit says with its own document as it is given.
func kitAs(ctx context.Context, docs documents, id ID, own *edit.Object) (*brand.Kit, error) {
	s, err := joinParents(ctx, docs, id, own)
	if err != nil {
		return nil, err
	}
	k, err := s.kit()
	return k, wrong(err)
}

// keeps refuses a kit that is otherwise than it was in what its rails hold.
func keeps(was, is *brand.Kit) error {
	if string(raw(was.Rails)) != string(raw(is.Rails)) {
		return ErrNotAllowed
	}
	same := func(a, b any) bool { return string(raw(a)) == string(raw(b)) }
	switch r := was.Rails; {
	case r.Colours && !same(was.Palettes, is.Palettes):
		return &Railed{"colours", "the colours of this brand are its owners’ to change", false}
	case r.Faces && !(same(was.TypeSets, is.TypeSets) && same(was.Fonts, is.Fonts)):
		return &Railed{"faces", "the faces of this brand are its owners’ to change", false}
	case r.Logo && !same(was.Logos, is.Logos):
		return &Railed{"logo", "the logos of this brand are its owners’ to change", false}
	case r.Voice && !same(was.Voice, is.Voice):
		return &Railed{"voice", "the voice of this brand is its owners’ to change", false}
	}
	return nil
}

// mayMove refuses somebody who is no owner to take a brief out from under rails, and to put one
// under rails it goes beyond.
func (a *house) mayMove(ctx context.Context, r store.Reader, m Member, d store.Document, to ID) error {
	if m.May(roles.ManageWorkspace) || d.KitID != nil && *d.KitID == to {
		return nil
	}
	next, err := a.kitIn(ctx, r, to)
	if err != nil {
		return err
	}
	if d.KitID != nil {
		was, err := a.kitIn(ctx, r, *d.KitID)
		if err != nil {
			return ErrNotAllowed // what its rails are is not known
		}
		for _, name := range brand.RailNames {
			if was.Rails.On(name) && !next.Rails.On(name) {
				return &Railed{name, "this brand leaves some things to its owners, and the other one does not: an owner can give the brief another kit", false}
			}
		}
	}
	doc, err := edit.ParseObject(d.Doc)
	if err != nil {
		return err
	}
	b, err := parseBrief(doc)
	if err != nil {
		return err
	}
	return crosses(ctx, r, d.ID, b, next, nil)
}

// kitIn is what a kit says as it stands, from memory where that has not changed.
func (a *house) kitIn(ctx context.Context, docs store.Reader, id ID) (*brand.Kit, error) {
	if k, ok := a.seenKits.Get(id); ok {
		seqs, err := docs.Seqs(ctx, k.line()...)
		if err != nil {
			return nil, err
		}
		if k.current(seqs) {
			return k.Kit, nil
		}
	}
	d, err := docs.Document(ctx, id)
	if err != nil {
		return nil, err
	}
	own, err := edit.ParseObject(d.Doc)
	if err != nil {
		return nil, err
	}
	s, err := joinParents(ctx, docs, id, own)
	if err != nil {
		return nil, err
	}
	return s.kit()
}

// mostAsked is how many requests of a brief are open at a time.
const mostAsked = 40

// ask keeps a change that was refused as a request, with pictures of the piece it shows on.
func (a *house) ask(ctx context.Context, m Member, c store.Change, why string, rail *Railed) error {
	s, err := a.sets.Set(ctx, m, c.ID)
	if err != nil {
		return err
	}
	then, err := a.as(ctx, s, c.Op)
	if err != nil {
		return err
	}
	if len([]rune(why)) > 500 {
		return fmt.Errorf("%w: say why in up to 500 letters", ErrInvalid)
	}
	id := m.ChangeID() // asked twice by one request it is asked once
	if id == (ID{}) {
		id = uuid.New()
	}
	r := store.Request{ID: id, Brief: c.ID, Rail: rail.Rail, Words: rail.Words, Why: why, Ops: raw(c.Op), By: &m.ID, Name: m.Name}
	for _, p := range s.Placements() {
		was, is := s.Piece(s.CurrentLook(), p), then.Piece(then.CurrentLook(), p)
		if s.drawingHash(was) == drawing(is.Scene) {
			continue
		}
		if r.Pieces++; r.Pieces > 1 {
			continue
		}
		r.Placement = p.ID
		if r.Was, err = a.shotOf(ctx, was); err == nil {
			r.Becomes, err = a.shotOf(ctx, is)
		}
		if err != nil {
			return err
		}
	}
	fresh, err := a.store.PutRequest(ctx, m.Workspace, r, mostAsked)
	if errors.Is(err, store.ErrTaken) {
		return fmt.Errorf("%w: %d requests of this brief wait for an answer already", ErrInvalid, mostAsked)
	}
	if fresh {
		err = a.noteOf(ctx, m, noteRequest, c.ID, "requested: %s", rail.Words)
	}
	if err != nil {
		return err
	}
	return ErrAsked
}

// as is a set as a change would leave it.
func (a *house) as(ctx context.Context, s *Set, op edit.Op) (*Set, error) {
	doc, err := edit.ParseObject(s.Doc.Doc)
	if err != nil {
		return nil, err
	}
	if _, err := edit.Do(doc, op); err != nil {
		return nil, invalid(err)
	}
	return a.otherwise(ctx, s, doc)
}

// Request is that somebody asks for what a rail refuses.
type Request = store.Request

// How requests are listed.
const (
	mostRequests = 30
	answeredFor  = 7 * 24 * time.Hour // an answer is shown to who asked
)

// Asked are the requests somebody can answer, and those they made themselves that are open or
// were answered of late.
func (a Team) Asked(ctx context.Context, m Member) (ofMe, mine []Request, err error) {
	if act.May(m, roles.ManageWorkspace) == nil {
		if ofMe, err = a.store.OpenRequests(ctx, m.Workspace, mostRequests); err != nil {
			return nil, nil, err
		}
		return ofMe, nil, nil
	}
	if act.May(m, roles.WriteBriefs) == nil {
		mine, err = a.store.RequestsBy(ctx, m.Workspace, m.ID, a.now().Add(-answeredFor), mostRequests)
	}
	return nil, mine, err
}

// Snapshot is the picture of a request, before ("was") or after ("becomes") it, for whom it is
// about.
func (a Team) Snapshot(ctx context.Context, m Member, id ID, which string) ([]byte, error) {
	r, err := a.store.Request(ctx, m.Workspace, id)
	if err != nil {
		return nil, err
	}
	if act.May(m, roles.ManageWorkspace) != nil && (r.By == nil || *r.By != m.ID) {
		return nil, ErrNotFound
	}
	hash := map[string]string{"was": r.Was, "becomes": r.Becomes}[which]
	if hash == "" {
		return nil, ErrNotFound
	}
	return a.blobs.Get(ctx, hash)
}

// Answers are what can be said to a request: yes for the piece it shows on, yes for its whole
// brief, and no.
var Answers = []string{"piece", "brief", "no"}

// Answer answers a request, with something said or "": with a yes the change is made.
func (a Team) Answer(ctx context.Context, m Member, id ID, answer, said string) error {
	if err := act.May(m, roles.ManageWorkspace); err != nil {
		return err
	}
	said = plain.Line(said)
	if !slices.Contains(Answers, answer) || len([]rune(said)) > 500 {
		return fmt.Errorf("%w: say %s, and up to 500 letters", ErrInvalid, strings.Join(Answers, ", "))
	}
	r, err := a.store.Request(ctx, m.Workspace, id)
	if err != nil {
		return err
	}
	if r.Answer != "" {
		return ErrNotFound
	}
	if answer != "no" {
		var op edit.Op
		if err := json.Unmarshal(r.Ops, &op); err != nil {
			return err
		}
		if answer == "piece" && r.Placement != "" {
			s, err := a.sets.Set(ctx, m, r.Brief)
			if err != nil {
				return err
			}
			op = s.narrowed(op, r.Placement)
		}
		if _, err := a.documents.Edit(ctx, m, r.Brief, Change{Kind: "brief", Base: Latest, Client: "request", Op: op}); err != nil {
			if errors.Is(err, ErrInvalid) {
				return fmt.Errorf("%w: what it is about is not there any more: say no, or make the change by hand", ErrInvalid)
			}
			return err
		}
	}
	if err := a.store.AnswerRequest(ctx, m.Workspace, id, answer, said, m.Name); err != nil {
		return err
	}
	words := map[string]string{"piece": "said yes on one piece", "brief": "said yes in the brief", "no": "said no"}[answer] + " to: " + r.Words
	if err := a.noteOf(ctx, m, noteAnswer, r.Brief, "%s", words); err != nil || r.By == nil {
		return err
	}
	return a.noteTo(ctx, m, By{Name: m.Name, Person: &m.ID}, noteAnswer, r.Brief, *r.By, "%s", words)
}

// narrowed is a change of a set that shows on one piece alone, as far as there is such a one:
// what is written by hand gets that reach, copy becomes what is written on that piece.
func (s *Set) narrowed(op edit.Op, placement string) edit.Op {
	all := op.All
	if len(all) == 0 {
		all = []edit.Op{op}
	}
	reach := "piece:" + placement
	var out []edit.Op
	for _, one := range all {
		parts := strings.Split(strings.TrimPrefix(one.Path, "/"), "/")
		var adj brief.Adjustment
		switch {
		case parts[0] == "adjustments" && len(parts) == 2 && json.Unmarshal(one.Value, &adj) == nil && adj.Slot != "":
			adj.Reach, adj.ID = reach, ""
			out = append(out, s.adjustOps(adj)...)
		case parts[0] == "adjustments" && len(parts) == 3 && parts[2] == "value":
			i := slices.IndexFunc(s.Brief.Adjustments, func(a brief.Adjustment) bool { return "@"+a.ID == parts[1] })
			if i < 0 {
				out = append(out, one)
				continue
			}
			adj = s.Brief.Adjustments[i]
			adj.Reach, adj.ID, adj.Value = reach, "", one.Value
			out = append(out, s.adjustOps(adj)...)
		case parts[0] == "cards" && len(parts) == 3 && slices.Contains(brief.CopyFields, parts[2]) && one.Value != nil:
			out = append(out, s.adjustOps(brief.Adjustment{Reach: reach, Slot: parts[2], Property: "text", Value: one.Value})...)
		default:
			out = append(out, one)
		}
	}
	if len(out) == 1 {
		return out[0]
	}
	return edit.Op{All: out}
}
