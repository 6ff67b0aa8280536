package app

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/scene"
)

// Step is a move along one of the bench's ingredients.
type Step struct {
	What string // layout, colourway, type, picture, logo
	By   int    // +1 or -1
	At   *int   // instead of By: the place in the order, from 0

	Reach     string // set, channel:<id>, piece:<placement>; "" for the set
	Placement string // the placement it is asked for on
}

// Bench is what the current look is made of, with its place among the others.
type Bench struct {
	Layout              *layout.Layout
	LayoutAt, LayoutOf  int
	Colours             colourway.Colourway
	ColoursAt, ColourOf int
	TypeSet             brand.TypeSet
	TypeAt, TypeOf      int
}

const benchColourways = 24

// Bench describes the current look.
func (s *Set) Bench() Bench { return s.benchOf(s.CurrentLook()) }

func (s *Set) benchOf(look piece.Look) Bench {
	all := s.Job.Layouts
	b := Bench{LayoutOf: len(all), TypeOf: len(s.Kit.TypeSets), TypeSet: s.Kit.Kit.TypeSet(look.TypeSet)}
	id, _, _ := strings.Cut(look.Layout, "@")
	b.LayoutAt = max(0, slices.IndexFunc(all, func(l *layout.Layout) bool { return l.ID == id }))
	b.Layout = all[b.LayoutAt]
	ranked := s.ranked(b.Layout, look)
	b.ColourOf = len(ranked)
	b.ColoursAt = slices.IndexFunc(ranked, func(c colourway.Colourway) bool { return sameSeats(c, look) })
	b.Colours = ranked[max(0, b.ColoursAt)]
	b.TypeAt = max(0, slices.IndexFunc(s.Kit.TypeSets, func(t brand.TypeSet) bool { return t.ID == b.TypeSet.ID }))
	return b
}

// Colourways are the colourways the bench goes through for a look, in its order,
// and which of them the look has.
func (s *Set) Colourways(look piece.Look) (list []colourway.Colourway, at int) {
	b := s.benchOf(look)
	return s.ranked(b.Layout, look), max(0, b.ColoursAt)
}

// ranked lists a layout's colourways, the look's own first when it is not among
// them. Nobody may change the list: it is kept as long as the kit is as it is.
func (s *Set) ranked(l *layout.Layout, look piece.Look) []colourway.Colourway {
	return s.Kit.rankings.Once(l.ID+string(raw(look.Seats))+string(raw(s.Brief.Palette)), func() []colourway.Colourway { return s.rank(l, look) })
}

func (s *Set) rank(l *layout.Layout, look piece.Look) []colourway.Colourway {
	ranked := colourway.Rank(s.Job.Kit.Colours(), l.Needs(), benchColourways)
	var kept []colourway.Colourway // under a name in the kit: they come first
	for _, k := range s.Kit.KeptColourways {
		if c, ok := colourway.Resolve(s.Job.Kit, k.Seats, l.Needs()); ok {
			kept = append(kept, c)
			ranked = slices.DeleteFunc(ranked, func(o colourway.Colourway) bool { return maps.Equal(o.Tokens(), c.Tokens()) })
		}
	}
	ranked = append(kept, ranked...)
	if own, ok := colourway.Resolve(s.Job.Kit, look.Seats, l.Needs()); ok &&
		!slices.ContainsFunc(ranked, func(c colourway.Colourway) bool { return sameSeats(c, look) }) {
		ranked = append([]colourway.Colourway{own}, ranked...)
	}
	return ranked
}

func sameSeats(c colourway.Colourway, look piece.Look) bool {
	return c.Matches(look.Seats) == len(colourway.Seats)
}

// KeepColourway keeps the colours of the brief's look in its kit, under a name
// made of them; it can be renamed there.
func (a Sets) KeepColourway(ctx context.Context, m Member, id ID, client string) (name string, err error) {
	s, err := a.Set(ctx, m, id)
	if err != nil {
		return "", err
	}
	now := s.Bench().Colours
	for _, k := range s.Kit.KeptColourways {
		if now.Matches(k.Seats) == len(colourway.Seats) {
			return "", fmt.Errorf("%w: the kit keeps this colourway already, as %s", ErrInvalid, k.Name)
		}
	}
	name = now.At(colourway.Ground).Name
	for _, seat := range []colourway.Seat{colourway.Panel, colourway.Button} {
		if n := now.At(seat).Name; !strings.Contains(name, n) {
			name += " and " + n
		}
	}
	_, err = a.documents.Edit(ctx, m, s.Kit.ID, Change{Client: client, Base: Latest, Op: edit.Op{
		Path: "/$extensions/aspenridge/colourways/-", Value: raw(brand.KeptColourway{Name: name, Seats: now.Tokens()}),
	}})
	return name, err
}

// Turn moves along an ingredient and keeps the look that results; with a reach
// other than the set it changes only there (type does for the whole set alone).
func (a Sets) Turn(ctx context.Context, m Member, id ID, client string, step Step) (int64, error) {
	s, err := a.Set(ctx, m, id)
	if err != nil {
		return 0, err
	}
	here := step.Reach != "" && step.Reach != "set"
	look := s.CurrentLook()
	if here {
		p, err := s.Channels.Parse(step.Placement)
		if err != nil {
			return 0, fmt.Errorf("%w: %v", ErrInvalid, err)
		}
		look = s.Job.LookAt(look, p)
	}
	bench := s.benchOf(look)
	around := func(at, n int) int { return step.from(at, n) }
	adj := brief.Adjustment{Reach: step.Reach, Slot: "look"}
	switch step.What {
	case "layout":
		l := s.Job.Layouts[around(bench.LayoutAt, bench.LayoutOf)]
		look.Layout = l.Ref()
		if _, ok := colourway.Resolve(s.Job.Kit, look.Seats, l.Needs()); !ok && !here {
			look.Seats = colourway.Rank(s.Job.Kit.Colours(), l.Needs(), 1)[0].Tokens()
		}
		adj.Property, adj.Value = "layout", raw(look.Layout)
	case "colourway":
		ranked := s.ranked(bench.Layout, look)
		look.Seats = ranked[s.colourwayAfter(ranked, max(0, bench.ColoursAt), look, step)].Tokens()
		adj.Property, adj.Value = "seats", raw(look.Seats)
	case "type":
		look.TypeSet = s.Kit.TypeSets[around(bench.TypeAt, bench.TypeOf)].ID
	case "logo":
		return a.turnLogo(ctx, m, s, client, step, here)
	case "picture":
		return a.turnPicture(ctx, m, s, client, step, here)
	default:
		return 0, fmt.Errorf("%w: step %q", ErrInvalid, step.What)
	}
	if here {
		if adj.Property == "" {
			return 0, fmt.Errorf("%w: %s changes for the whole set", ErrInvalid, step.What)
		}
		return a.documents.Edit(ctx, m, id, Change{Client: client, Base: s.Doc.Seq, Op: s.adjustOps(adj)[0]})
	}
	return a.ChooseLook(ctx, m, id, client, s.Doc.Seq, look)
}

// SeenApart is how far two pieces look apart (CIEDE2000, mean over the piece) for both to be
// offered: a button in another colour does (set by eye).
const SeenApart = 0.25

// colourwayAfter is where a step from one of the colourways of a look leads: past those that
// differ from it where nobody sees them on the piece it is asked for on, the first of the set
// where there is none.
func (s *Set) colourwayAfter(ranked []colourway.Colourway, at int, look piece.Look, step Step) int {
	next := step.from(at, len(ranked))
	p, err := s.Channels.Parse(step.Placement)
	if err != nil {
		p = s.Placements()[0]
	}
	job := s.Job.Without("look", "seats") // what was chosen by hand would win
	drawn := func(i int) *scene.Scene {
		look.Seats = ranked[i].Tokens()
		return job.Compose(look, p, min(p.Card, len(s.Brief.Cards)-1)).Scene
	}
	if step.At != nil || step.By == 0 {
		return next
	}
	now := drawn(at)
	for i := next; i != at; i = step.from(i, len(ranked)) {
		if scene.Apart(now, drawn(i)) >= SeenApart {
			return i
		}
	}
	return next
}

// from is where a step leads in an order of n, from a place in it; -1 is before the
// first.
func (s Step) from(at, n int) int {
	if s.At != nil {
		return max(0, min(n-1, *s.At))
	}
	return ((at+s.By)%n + n) % n
}

// turnPicture goes through the kit's pictures and the brief's own: another one
// comes first, the others of the brief stay.
func (a *house) turnPicture(ctx context.Context, m Member, s *Set, client string, step Step, here bool) (int64, error) {
	var all []brief.Picture
	add := func(p brief.Picture) {
		if !slices.ContainsFunc(all, func(o brief.Picture) bool { return HashOf(o.File) == HashOf(p.File) }) {
			all = append(all, p)
		}
	}
	for _, p := range s.Kit.Pictures {
		if p.Kind == brand.PhotoPicture {
			add(brief.Picture{File: p.File, Alt: p.Alt})
		}
	}
	have := slices.Clone(s.Brief.Cards[0].Pictures)
	for _, p := range slices.SortedFunc(slices.Values(have), func(a, b brief.Picture) int { return strings.Compare(a.File, b.File) }) {
		add(p)
	}
	if len(all) == 0 || len(all) == 1 && len(have) == 1 {
		return 0, fmt.Errorf("%w: there is no other picture; drop one here, or add some to the kit", ErrInvalid)
	}
	at := -1
	if len(have) > 0 {
		at = slices.IndexFunc(all, func(p brief.Picture) bool { return HashOf(p.File) == HashOf(have[0].File) })
	}
	if here {
		p, err := s.Channels.Parse(step.Placement)
		if err != nil {
			return 0, fmt.Errorf("%w: %v", ErrInvalid, err)
		}
		if file, _, ok := s.Brief.Adjusted(p, "picture", "file"); ok {
			at = slices.IndexFunc(all, func(p brief.Picture) bool { return HashOf(p.File) == HashOf(file) })
		}
		return a.adjust(ctx, m, s.Doc.ID, Change{Client: client, Base: s.Doc.Seq}, brief.Adjustment{Reach: step.Reach, Slot: "picture", Property: "file", Value: raw(all[step.from(at, len(all))].File)})
	}
	next := all[step.from(at, len(all))]
	if len(have) == 0 {
		have = []brief.Picture{next}
	} else if i := slices.IndexFunc(have, func(p brief.Picture) bool { return HashOf(p.File) == HashOf(next.File) }); i >= 0 {
		have[0], have[i] = have[i], have[0]
	} else {
		have[0] = next
	}
	return a.documents.Edit(ctx, m, s.Doc.ID, Change{Client: client, Base: s.Doc.Seq, Op: edit.Op{Path: cardPath(s.Brief.Cards[0].ID, "pictures"), Value: raw(have)}})
}

// turnLogo goes through the kit's logos and "as the rule picks".
func (a *house) turnLogo(ctx context.Context, m Member, s *Set, client string, step Step, here bool) (int64, error) {
	options := []string{""}
	for _, l := range s.Kit.Logos {
		options = append(options, l.File)
	}
	at := max(0, slices.Index(options, s.Brief.Logo))
	if here {
		p, err := s.Channels.Parse(step.Placement)
		if err != nil {
			return 0, fmt.Errorf("%w: %v", ErrInvalid, err)
		}
		file, _, _ := s.Brief.Adjusted(p, "logo", "file")
		at = max(0, slices.Index(options, file))
		return a.sets.SetLogo(ctx, m, s.Doc.ID, client, step.Reach, options[step.from(at, len(options))])
	}
	next := options[step.from(at, len(options))]
	op := edit.Op{Path: "/logo", Value: raw(next)}
	if next == "" {
		op.Value = nil
	}
	return a.documents.Edit(ctx, m, s.Doc.ID, Change{Client: client, Base: s.Doc.Seq, Op: op})
}
