package app

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/film"
	"aspenridge/internal/core/roles"
)

// SetVideo says how a brief runs as moving pictures, whatever stood there.
func (a Briefs) SetVideo(ctx context.Context, m Member, id ID, c Change, v brief.Video) (int64, error) {
	if err := showsSomething(v); err != nil {
		return 0, err
	}
	c.Kind, c.Op = "brief", edit.Op{Path: "/video", Value: raw(v)}
	return a.documents.Edit(ctx, m, id, c)
}

// ChangeVideo makes of a brief's video what somebody changed of it, from how it was at the
// change's base: what others changed of it meanwhile stays, and is a conflict where both changed
// the same.
func (a Briefs) ChangeVideo(ctx context.Context, m Member, id ID, c Change, was, v brief.Video) (int64, error) {
	if err := showsSomething(v); err != nil {
		return 0, err
	}
	from, err := edit.ParseObject(fmt.Appendf(nil, `{"video":%s}`, raw(was)))
	if err != nil {
		return 0, err
	}
	to, err := edit.ParseObject(fmt.Appendf(nil, `{"video":%s}`, raw(v)))
	if err != nil {
		return 0, err
	}
	c.Kind, c.Op = "brief", edit.Op{All: brief.Lists.Diff(from, to)}
	switch len(c.Op.All) {
	case 0:
		return 0, nil
	case 1: // the keys of a word are one step only where they are one change
		c.Op = c.Op.All[0]
	}
	return a.documents.Edit(ctx, m, id, c)
}

func showsSomething(v brief.Video) error {
	for i := range v.Shots {
		if strings.TrimSpace(v.Shots[i].Headline+v.Shots[i].Body+v.Shots[i].Picture+v.Shots[i].Card) == "" && v.Shots[i].Role != film.Offer {
			return fmt.Errorf("%w: shot %d shows nothing: give it words or a picture, or take it out", ErrInvalid, i+1)
		}
	}
	return nil
}

// SplitShot makes two shots of one of a brief's video, behind so many letters of its words.
func (a Briefs) SplitShot(ctx context.Context, m Member, id ID, c Change, shot string, letters int) (int64, error) {
	return a.recut(ctx, m, id, c, shot, func(s *Set, shots []brief.Shot, i int) ([]brief.Shot, error) {
		var said film.Spoken
		if all := s.Spoken(); i < len(all) {
			said = all[i]
		}
		two, err := film.Split(shots[i], letters, s.runs(i), said)
		return slices.Replace(slices.Clone(shots), i, i+1, two[:]...), err
	})
}

// JoinShots makes one shot of one of a brief's video and the next.
func (a Briefs) JoinShots(ctx context.Context, m Member, id ID, c Change, shot string) (int64, error) {
	return a.recut(ctx, m, id, c, shot, func(s *Set, shots []brief.Shot, i int) ([]brief.Shot, error) {
		if i+1 == len(shots) {
			return nil, fmt.Errorf("%w: it is the last shot: there is none to join it with", ErrInvalid)
		}
		one, err := film.Join(shots[i], shots[i+1], s.runs(i), film.Speaker(s.Brief, s.Job.Kit) != film.Nobody)
		return slices.Replace(slices.Clone(shots), i, i+2, one), err
	})
}

// runs is how long a shot runs, s, in the first shape the video comes in.
func (s *Set) runs(shot int) float64 {
	for _, t := range s.Film(s.VideoPlaces()[0]).Takes {
		if t.Shot == shot {
			return t.To - t.From
		}
	}
	return 0
}

// recut changes the order of shots of a video about one of them, by its id.
func (a *house) recut(ctx context.Context, m Member, id ID, c Change, shot string, how func(s *Set, shots []brief.Shot, i int) ([]brief.Shot, error)) (int64, error) {
	if err := a.mayOn(ctx, m, roles.WriteBriefs, id); err != nil { // before work is done for it
		return 0, err
	}
	s, err := a.sets.Set(ctx, m, id)
	if err != nil {
		return 0, err
	}
	var was brief.Video
	if s.Brief.Video != nil {
		was = *s.Brief.Video
	}
	i := slices.IndexFunc(was.Shots, func(s brief.Shot) bool { return s.ID == shot && shot != "" })
	if i < 0 {
		return 0, fmt.Errorf("%w: this shot is not there any more", ErrNotFound)
	}
	next := was
	if next.Shots, err = how(s, was.Shots, i); errors.Is(err, film.ErrCut) {
		err = fmt.Errorf("%w: %w", ErrInvalid, err)
	}
	if err != nil {
		return 0, err
	}
	c.Base = s.Doc.Seq
	return a.briefs.ChangeVideo(ctx, m, id, c, was, next)
}
