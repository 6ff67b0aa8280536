package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"slices"

	"aspenridge/internal/act"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/store"
)

// Several briefs at once: begun from a list, looked at on one wall, handed over together.

// MostTogether is how many briefs stand on a wall at most.
const MostTogether = brief.MaxRows

// Begin begins a brief of a kit for every row, all with the same places.
func (a Briefs) Begin(ctx context.Context, m Member, kit ID, places []string, rows []brief.Row) ([]ID, error) {
	if err := a.mayOn(ctx, m, roles.WriteBriefs, kit); err != nil {
		return nil, err
	}
	var out []ID
	if was, made, err := a.store.Made(ctx, m); err != nil {
		return nil, err
	} else if made {
		return out, json.Unmarshal([]byte(was), &out)
	}
	if len(rows) == 0 || len(rows) > MostTogether {
		return nil, fmt.Errorf("%w: %d briefs: 1 to %d are begun at once, a line for each", ErrInvalid, len(rows), MostTogether)
	}
	if len(places) == 0 {
		return nil, fmt.Errorf("%w: choose one place at least", ErrInvalid)
	}
	where, err := a.channels(ctx, m.Workspace)
	if err != nil {
		return nil, err
	}
	list := make([]any, len(places))
	for i, p := range places {
		if _, err := where.Parse(p); err != nil {
			return nil, fmt.Errorf("%w: %v", ErrInvalid, err)
		}
		list[i] = p
	}
	out = make([]ID, len(rows))
	for i, r := range slices.Backward(rows) { // the first of them is the latest, and leads the Desk
		doc := r.Doc()
		doc.Set("formatVersion", json.Number("1"))
		doc.Set("placements", list)
		if out[i], err = a.putBrief(ctx, m.Sending(""), kit, newBrief{doc: doc, hidden: true}); err != nil {
			return nil, fmt.Errorf("row %d: %w", i+1, err)
		}
	}
	return out, a.store.ShowAll(ctx, m, string(raw(out)), out...) // all at once: sent again, none is there twice
}

// Together are the sets of several briefs, in the order they are named; one that is not
// there any more, or cannot be read, is left out.
func (a Sets) Together(ctx context.Context, m Member, ids []ID) ([]*Set, error) {
	if len(ids) > MostTogether {
		return nil, fmt.Errorf("%w: %d briefs: up to %d stand together", ErrInvalid, len(ids), MostTogether)
	}
	var out []*Set
	for _, id := range ids {
		s, err := a.Set(ctx, m, id)
		switch {
		case err == nil:
			out = append(out, s)
		case !isAboutDocument(err) && !errors.Is(err, ErrNotFound):
			return nil, err
		}
	}
	return out, nil
}

// Seen is where a brief is seen among others: the first of its places.
func (s *Set) Seen() (p spec.Placement, ok bool) {
	list := s.Placements()
	if len(list) == 0 {
		return p, false
	}
	return list[0], true
}

// looksTried is how many looks are tried for a brief on a wall.
const looksTried = 16

// lastPosts is how many of a kit's latest briefs count as standing before a wall.
const lastPosts = 3

// LookOnWall gives a brief a look that repeats as little as can be of what stands beside it on
// a wall: before it, after it, and the last briefs of the kit before the first. By is 0 for a
// brief that has no look yet (one that has keeps it), 1 for the next best look, -1 for the one
// before.
func (a Sets) LookOnWall(ctx context.Context, m Member, client string, wall []ID, id ID, by int) error {
	sets, err := a.Together(ctx, m, wall)
	if err != nil {
		return err
	}
	at := slices.IndexFunc(sets, func(s *Set) bool { return s.Doc.ID == id })
	if at < 0 {
		return ErrNotFound
	}
	s := sets[at]
	if by == 0 && s.Look != nil {
		return nil
	}
	near, err := a.sightsBeside(ctx, m, sets, at)
	if err != nil {
		return err
	}
	view, ok := s.Seen()
	if !ok {
		return fmt.Errorf("%w: it goes to no place that is a picture", ErrInvalid)
	}
	looks := s.Job.Beside(Once(s, "looks for a wall", func() []piece.Look { return s.Job.LooksFor(piece.Wish{}, looksTried) }), near, view)
	now := slices.IndexFunc(looks, func(l piece.Look) bool { return s.Look != nil && l.Same(*s.Look) })
	next := 0
	if by != 0 && now >= 0 {
		next = ((now+by)%len(looks) + len(looks)) % len(looks)
	}
	_, err = a.ChooseLook(ctx, m, id, client, Latest, looks[next])
	return err
}

// BackOnWall gives a brief the look it had before a step on a wall, where it still has the one the
// step gave it.
func (a Sets) BackOnWall(ctx context.Context, m Member, client string, id ID, given *piece.Look, look piece.Look) error {
	s, err := a.Set(ctx, m, id)
	if err != nil {
		return err
	}
	if given == nil || s.Look == nil || !given.Same(*s.Look) {
		return fmt.Errorf("%w: “%s” was given another look meanwhile; it keeps that one", ErrInvalid, s.Title())
	}
	if !slices.ContainsFunc(s.Job.Layouts, func(l *layout.Layout) bool { return l.Ref() == look.Layout }) {
		return fmt.Errorf("%w: there is no layout %q", ErrInvalid, look.Layout)
	}
	_, err = a.ChooseLook(ctx, m, id, client, s.Doc.Seq, look)
	return err
}

// sightsBeside is what one sees beside a brief of a wall, nearest first.
func (a *house) sightsBeside(ctx context.Context, m Member, sets []*Set, at int) ([]piece.Sight, error) {
	var near []piece.Sight
	add := func(s *Set) {
		if view, ok := s.Seen(); ok && s.Look != nil {
			near = append(near, s.Piece(*s.Look, view).Sight())
		}
	}
	for far := 1; far < max(at+1, len(sets)-at) && len(near) < 5; far++ {
		if at-far >= 0 {
			add(sets[at-far])
		}
		if at+far < len(sets) {
			add(sets[at+far])
		}
	}
	if at >= lastPosts {
		return near, nil
	}
	docs, err := a.store.BriefsOf(ctx, m.Workspace, sets[at].Kit.ID, len(sets)+lastPosts)
	if err != nil {
		return nil, err
	}
	docs = slices.DeleteFunc(docs, func(d store.Document) bool {
		return slices.ContainsFunc(sets, func(s *Set) bool { return s.Doc.ID == d.ID }) || !sees(m, d.ID, sets[at].Kit.ID)
	})
	last, _, err := a.setsOf(ctx, m, docs[:min(lastPosts, len(docs))])
	for _, s := range last {
		add(s)
	}
	return near, err
}

// bundling is the kind of jobs that pack several briefs into one parcel.
const bundling = "bundle"

// toBundle is what such a parcel is made of.
type toBundle struct {
	Briefs []ID
	Choice HandOver
}

// Bundle has the files of several briefs drawn and put into one parcel, a folder for each.
func (a Files) Bundle(ctx context.Context, m Member, sets []*Set, h HandOver) (ID, error) {
	if err := act.May(m, roles.Look); err != nil {
		return ID{}, err
	}
	if len(sets) == 0 {
		return ID{}, fmt.Errorf("%w: no brief is chosen", ErrInvalid)
	}
	if err := h.check(); err != nil {
		return ID{}, err
	}
	of := toBundle{Choice: h}
	pixels := 0.0
	for _, s := range sets { // composed they are by the job: here nobody waits for hundreds of pieces
		for _, p := range s.Placements() {
			k := h.times(p)
			pixels += k * k * float64(p.Width) * float64(p.Height)
		}
		of.Briefs = append(of.Briefs, s.Doc.ID)
	}
	return a.add(ctx, m, bundling, sets[0].Doc.ID, of, pixels, shortParcel, drawnPerSecond)
}

func (a *house) bundle(ctx context.Context, m Member, j Job, tell func(steps, of int)) (any, error) {
	var of toBundle
	if err := json.Unmarshal(j.Args, &of); err != nil {
		return nil, err
	}
	sets, err := a.sets.Together(ctx, m, of.Briefs)
	if err == nil && len(sets) == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return nil, err
	}
	name := piece.FileName(sets[0].Title())
	if n := len(sets) - 1; n > 0 {
		name += fmt.Sprintf("-and-%d-more", n)
	}
	p, err := a.parcelOf(ctx, name+".zip", func(f *os.File, count func(steps, of int)) error {
		return a.writeArchive(ctx, m, sets, f, of.Choice, count)
	}, tell)
	if err != nil {
		return nil, err
	}
	for _, s := range sets {
		if err := a.noteOf(ctx, m, noteFiles, s.Doc.ID, "packed together with %d other briefs", len(sets)-1); err != nil {
			return nil, err
		}
	}
	return p, nil
}
