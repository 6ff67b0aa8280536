package app

import (
	"context"
	"errors"
	"strings"

	"aspenridge/internal/act"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/store"
)

// Broken is a document that cannot be read, as a list shows it.
type Broken struct {
	ID   ID
	Kind string
	Name string
	Why  string
}

func broken(d store.Document, err error) Broken {
	return Broken{d.ID, d.Kind, d.Name, strings.TrimPrefix(err.Error(), ErrInvalid.Error()+": ")}
}

// maxFound is how many briefs are listed at once.
const maxFound = 60

// maxSearch is how many words of a search count.
const maxSearch = 8

// FindBriefs lists a page of the briefs in which every word of a search occurs:
// in what they say, what their kit is called, where they go. Latest first; those
// that cannot be read, or whose kit cannot, apart. more is whether others follow.
func (a Briefs) FindBriefs(ctx context.Context, m Member, find string, from int) (sets []*Set, unread []Broken, more bool, err error) {
	if err := act.May(m, roles.Look); err != nil {
		return nil, nil, false, err
	}
	words := strings.Fields(strings.ToLower(find))
	var where *Channels
	if len(words) > 0 {
		if where, err = a.channels(ctx, m.Workspace); err != nil {
			return nil, nil, false, err
		}
	}
	q := store.BriefQuery{Find: words[:min(len(words), maxSearch)], Offset: max(0, from), Limit: maxFound, In: m.Scope}
	for _, w := range q.Find {
		ids := []string{}
		for _, c := range where.Search(w) {
			for _, p := range c.Placements {
				ids = append(ids, p.ID)
			}
		}
		q.Places = append(q.Places, ids)
	}
	docs, more, err := a.store.FindBriefs(ctx, m.Workspace, q)
	if err != nil {
		return nil, nil, false, err
	}
	sets, unread, err = a.setsOf(ctx, m, docs)
	return sets, unread, more, err
}

// setsOf reads the sets of briefs.
func (a *house) setsOf(ctx context.Context, m Member, docs []store.Document) (sets []*Set, unread []Broken, err error) {
	kept := make([]*Set, len(docs)) // as they were
	var ask []ID
	for i, d := range docs {
		if s := a.known(m, d.ID); s != nil {
			kept[i], ask = s, append(ask, append(s.Kit.line(), d.ID)...)
		}
	}
	at, err := a.store.ProgressOf(ctx, m.Workspace, ask...)
	if err != nil {
		return nil, nil, err
	}
	where, err := a.channelsAt(ctx, m.Workspace, at)
	if err != nil {
		return nil, nil, err
	}
	for i, d := range docs {
		s, err := kept[i], error(nil)
		if s == nil || !a.current(s, where, at.Seqs) {
			s, err = a.setOf(ctx, m, d, where, at.Seqs)
		}
		switch {
		case err == nil:
			sets = append(sets, s)
		case isAboutDocument(err) || errors.Is(err, ErrInvalid):
			unread = append(unread, broken(d, err))
		default:
			return nil, nil, err
		}
	}
	return sets, unread, nil
}
