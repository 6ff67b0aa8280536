package app

import (
	"context"
	"slices"
	"time"

	"aspenridge/internal/act"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/store"
)

// Today is what of a workspace needs somebody now.
type Today struct {
	Asked   []Request   // requests they can answer
	Mine    []Request   // requests of theirs, open or answered of late
	ForMe   []News      // where they were named
	Said    []Discussed // of briefs, and nobody is done with
	Waiting []Waits     // for somebody's verdict
	Passed  []Passed    // briefs that say what is over
	Unseen  []Unseen    // finished pieces that have not seen a change of their kit
	Lately  []Entry     // what was done, by anybody
}

type (
	// News is what was said to somebody.
	News = store.News
	// Unseen is a brief with finished pieces its kit has changed since.
	Unseen = store.Unseen
)

// Waits is a brief that is shown to be judged, and how far that is.
type Waits struct {
	Brief    ID
	Name     string
	Changes  int      // pieces somebody asks for changes of
	Lost     int      // that were approved, and have changed since
	Open     int      // nobody has decided about
	Approved int      // as they are
	For      []string // who has a link and has not decided
}

// Passed is a brief that says something that is over.
type Passed struct {
	Brief ID
	Name  string
	What  string // offer or date
	On    time.Time
}

// How much of each is listed.
const (
	mostToday  = 6
	mostRead   = 240 // that are read to find so many
	mostLately = 8
	namedFor   = 14 * 24 * time.Hour
)

// Today gathers it.
func (a Team) Today(ctx context.Context, m Member) (t Today, err error) {
	if err := act.May(m, roles.Look); err != nil {
		return t, err
	}
	if t.Asked, t.Mine, err = a.Asked(ctx, m); err != nil {
		return t, err
	}
	if t.ForMe, err = a.store.ForMe(ctx, m.Workspace, m.ID, a.now().Add(-namedFor), mostToday); err != nil {
		return t, err
	}
	if t.Said, err = a.store.Waiting(ctx, m.Workspace, m.Scope, mostSaid); err != nil {
		return t, err
	}
	if t.Waiting, err = a.waiting(ctx, m); err != nil {
		return t, err
	}
	if act.May(m, roles.WriteBriefs) != nil {
		return t, nil
	}
	if t.Passed, err = a.passed(ctx, m); err != nil {
		return t, err
	}
	if t.Unseen, err = a.store.UnseenChanges(ctx, m.Workspace, m.Scope, mostToday); err != nil {
		return t, err
	}
	t.Lately, err = a.Record(ctx, m, RecordQuery{Limit: mostLately})
	return t, err
}

// waiting are the briefs whose sign-off is not whole.
func (a *house) waiting(ctx context.Context, m Member) (out []Waits, err error) {
	for from := 0; len(out) < mostToday && from < mostRead; from += mostToday {
		shown, err := a.store.ShownBriefs(ctx, m.Workspace, m.Scope, from, mostToday)
		if err != nil || len(shown) == 0 {
			return out, err
		}
		some, err := a.waitingOf(ctx, m, shown)
		if err != nil {
			return nil, err
		}
		out = append(out, some...)
	}
	return out[:min(len(out), mostToday)], nil
}

func (a *house) waitingOf(ctx context.Context, m Member, shown []store.Shown) (out []Waits, err error) {
	for _, b := range shown {
		s, err := a.sets.Set(ctx, m, b.Brief)
		if err != nil {
			if isAboutDocument(err) {
				continue
			}
			return nil, err
		}
		decisions, err := a.store.Decisions(ctx, m.Workspace, b.Brief)
		if err != nil {
			return nil, err
		}
		w := Waits{Brief: b.Brief, Name: s.Title(), For: b.Links}
		for _, pc := range s.Pieces() {
			p := s.proofed(pc, decisions)
			p.judge()
			switch p.State {
			case Approved:
				w.Approved++
			case Changes:
				w.Changes++
			case Changed:
				w.Lost++
			default:
				w.Open++
			}
		}
		if w.Changes+w.Lost+w.Open > 0 {
			out = append(out, w)
		}
	}
	return out, nil
}

// passed are the briefs whose offer has ended, or whose date is over.
func (a *house) passed(ctx context.Context, m Member) (out []Passed, err error) {
	today := a.today()
	dated, err := a.store.DatedBriefs(ctx, m.Workspace, m.Scope, today, mostToday)
	if err != nil {
		return nil, err
	}
	for _, id := range dated {
		s, err := a.sets.Set(ctx, m, id)
		if isAboutDocument(err) {
			continue
		}
		if err != nil {
			return nil, err
		}
		if what, on, ok := s.Brief.Over(today); ok {
			out = append(out, Passed{s.Doc.ID, s.Title(), what, on})
		}
	}
	slices.SortFunc(out, func(x, y Passed) int { return y.On.Compare(x.On) })
	return out[:min(len(out), mostToday)], nil
}
