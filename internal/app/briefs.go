package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/raster"
	"aspenridge/internal/store"
	"aspenridge/layouts"
)

// DefaultPlacements is where a new brief goes until somebody says otherwise.
var DefaultPlacements = []string{
	"feed-square", "feed-tall", "board-tall", "feed-wide", "story", "video-thumbnail",
	"shop-banner", "email-header", "ad-300x250", "ad-728x90", "ad-160x600", "profile-picture",
}

// Set is a brief as it stands with its kit, and the pieces computed of it.
type Set struct {
	Brief *brief.Brief
	Doc   store.Document
	Kit   *Kit
	Job   *piece.Job
	Look  *piece.Look // the kept look, nil before one is chosen

	mu     sync.Mutex
	pieces map[string]*piece.Piece
}

func parseBrief(doc *edit.Object) (*brief.Brief, error) { return brief.Parse(doc) }

// NewBrief starts a job for a kit, with whatever is at hand.
func (a *App) NewBrief(ctx context.Context, m Member, kit ID) (ID, error) {
	doc := edit.NewObject()
	doc.Set("formatVersion", json.Number("1"))
	doc.Set("name", "")
	doc.Set("cards", []any{edit.NewObject()})
	list := make([]any, len(DefaultPlacements))
	for i, p := range DefaultPlacements {
		list[i] = p
	}
	doc.Set("placements", list)
	return a.putBrief(ctx, m, kit, doc)
}

// ImportBrief puts a brief document in.
func (a *App) ImportBrief(ctx context.Context, m Member, kit ID, doc []byte) (ID, error) {
	o, err := edit.ParseObject(doc)
	if err != nil {
		return ID{}, fmt.Errorf("%w: %v", ErrInvalid, err)
	}
	if o.Get("cards") == nil { // a single card's fields stand at the top: give them a card
		card := edit.NewObject()
		for _, k := range slices.Clone(o.Keys()) {
			if !slices.Contains([]string{"formatVersion", "name", "purpose", "signature", "placements", "looks", "logo", "adjustments"}, k) {
				card.Set(k, o.Get(k))
				o.Delete(k)
			}
		}
		o.Set("cards", []any{card})
	}
	return a.putBrief(ctx, m, kit, o)
}

func (a *App) putBrief(ctx context.Context, m Member, kit ID, doc *edit.Object) (ID, error) {
	if err := may(m, change); err != nil {
		return ID{}, err
	}
	b, err := parseBrief(doc)
	if err != nil {
		return ID{}, fmt.Errorf("%w: %v", ErrInvalid, err)
	}
	if _, err := a.Kit(ctx, m, kit); err != nil {
		return ID{}, err
	}
	d, err := a.Store.CreateDocument(ctx, store.Document{Workspace: m.Workspace, Kind: "brief", KitID: &kit, Name: b.Name, Doc: raw(doc)})
	return d.ID, err
}

// Set reads a brief and its kit as they stand now; a job with everything
// loaded comes from the cache while neither has changed.
func (a *App) Set(ctx context.Context, m Member, id ID) (*Set, error) {
	if err := may(m, view); err != nil {
		return nil, err
	}
	a.mu.Lock()
	s := a.sets[id]
	a.mu.Unlock()
	if s != nil && s.Doc.Workspace == m.Workspace {
		seqs, err := a.Store.Seqs(ctx, m.Workspace, id, s.Kit.ID)
		if err != nil {
			return nil, err
		}
		if seqs[0] == s.Doc.Seq && seqs[1] == s.Kit.Seq {
			return s, nil
		}
	}
	d, err := a.Store.Document(ctx, m.Workspace, id)
	if err != nil {
		return nil, err
	}
	if d.Kind != "brief" || d.KitID == nil {
		return nil, ErrNotFound
	}
	k, err := a.Kit(ctx, m, *d.KitID)
	if err != nil {
		return nil, err
	}
	if s, err = a.loadSet(ctx, d, k); err != nil {
		return nil, err
	}
	a.mu.Lock()
	if len(a.sets) > 200 {
		clear(a.sets)
	}
	a.sets[id] = s
	a.mu.Unlock()
	return s, nil
}

func (a *App) loadSet(ctx context.Context, d store.Document, k *Kit) (*Set, error) {
	doc, err := edit.ParseObject(d.Doc)
	if err != nil {
		return nil, err
	}
	b, err := parseBrief(doc)
	if err != nil {
		return nil, err
	}
	pics := map[string]photo.Picture{}
	for _, c := range b.Cards {
		for _, p := range c.Pictures {
			f, err := a.Store.File(ctx, d.Workspace, "picture", HashOf(p.File))
			if errors.Is(err, ErrNotFound) {
				continue
			}
			if err != nil {
				return nil, err
			}
			var facts pictureFacts
			if err := json.Unmarshal(f.Facts, &facts); err != nil {
				return nil, err
			}
			pics[p.File] = photo.Picture{Hash: f.Hash, W: facts.W, H: facts.H}
		}
	}
	s := &Set{Brief: b, Doc: d, Kit: k, pieces: map[string]*piece.Piece{}}
	s.Job = &piece.Job{Kit: k.Kit, Brief: b, Layouts: layouts.All(), Library: k.Library, Shaper: a.shaper, Pictures: pics}
	if len(b.Looks) > 0 {
		var l piece.Look
		if edit.Decode(b.Looks[0], &l) == nil && l.Layout != "" {
			s.Look = &l
		}
	}
	return s, nil
}

type pictureFacts struct {
	W, H  int
	Notes []string
}

// Briefs lists the jobs of the workspace, latest first.
func (a *App) Briefs(ctx context.Context, m Member) ([]*Set, error) {
	docs, err := a.Store.Documents(ctx, m.Workspace, "brief", 60)
	if err != nil {
		return nil, err
	}
	var out []*Set
	for _, d := range docs {
		s, err := a.Set(ctx, m, d.ID)
		if err != nil {
			return nil, err
		}
		out = append(out, s)
	}
	return out, nil
}

// Empty reports whether the brief says and shows nothing yet.
func (s *Set) Empty() bool {
	c := s.Brief.Cards[0]
	for _, f := range []*string{c.Headline, c.Subheading, c.Body, c.ShortHeadline} {
		if f != nil && strings.TrimSpace(*f) != "" {
			return false
		}
	}
	return len(c.Pictures) == 0 && c.Quote == nil && c.Offer == nil && len(c.Lines) == 0
}

// CurrentLook is the kept look, else the best proposed one.
func (s *Set) CurrentLook() piece.Look {
	if s.Look != nil {
		return *s.Look
	}
	return s.Job.Looks(1)[0]
}

// Placements is where the set goes.
func (s *Set) Placements() []spec.Placement {
	ids := s.Brief.Placements
	if len(ids) == 0 {
		ids = DefaultPlacements
	}
	var out []spec.Placement
	for _, id := range ids {
		list := []string{id}
		if id == "all-images" {
			list = spec.AllImages()
		}
		for _, id := range list {
			if p, err := spec.Parse(id); err == nil && p.Kind == "image" {
				out = append(out, p)
			}
		}
	}
	return out
}

// Piece computes a piece of the set in a look, once.
func (s *Set) Piece(look piece.Look, p spec.Placement) *piece.Piece {
	key := p.ID + string(raw(look))
	s.mu.Lock()
	pc := s.pieces[key]
	s.mu.Unlock()
	if pc != nil {
		return pc
	}
	made := s.Job.Compose(look, p, 0)
	s.mu.Lock()
	s.pieces[key] = &made
	s.mu.Unlock()
	return &made
}

// Pieces computes the whole set in its look, two at a time.
func (s *Set) Pieces() []*piece.Piece {
	look := s.CurrentLook()
	places := s.Placements()
	out := make([]*piece.Piece, len(places))
	var wg sync.WaitGroup
	for half := range 2 {
		wg.Go(func() {
			for i := half; i < len(places); i += 2 {
				out[i] = s.Piece(look, places[i])
			}
		})
	}
	wg.Wait()
	return out
}

// AddPicture takes a picture into the brief as its first one.
func (a *App) AddPicture(ctx context.Context, m Member, id ID, client, name string, data []byte) error {
	ref, err := a.KeepPicture(ctx, m, name, data)
	if err != nil {
		return err
	}
	_, err = a.Edit(ctx, m, id, Change{Client: client, Base: Latest, Op: edit.Op{
		Path: "/cards/0/pictures", Value: raw([]any{map[string]any{"file": ref, "focus": []float64{0.5, 0.5}}}),
	}})
	return err
}

// KeepPicture takes a picture into the workspace and returns how documents name
// it.
func (a *App) KeepPicture(ctx context.Context, m Member, name string, data []byte) (string, error) {
	if err := may(m, change); err != nil {
		return "", err
	}
	in, err := raster.Import(ctx, data)
	if err != nil {
		return "", fmt.Errorf("%s: %w", name, err)
	}
	if _, err := a.Blobs.Put(ctx, in.Data); err != nil {
		return "", err
	}
	err = a.Store.PutFile(ctx, store.File{
		Workspace: m.Workspace, Hash: in.Hash, Kind: "picture", Name: cleanName(name), Type: in.Type, Bytes: int64(len(in.Data)),
		Facts: raw(pictureFacts{in.W, in.H, in.Notes}),
	})
	return fileRef(in.Hash, name), err
}

// ChooseLook keeps a look for the brief.
func (a *App) ChooseLook(ctx context.Context, m Member, id ID, client string, base int64, look piece.Look) (int64, error) {
	return a.Edit(ctx, m, id, Change{Client: client, Base: base, Op: edit.Op{Path: "/looks", Value: raw([]piece.Look{look})}})
}

// Step is a move along one of the bench's ingredients.
type Step struct {
	What string // layout, colourway, type, logo
	By   int    // +1 or -1
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
func (s *Set) Bench() Bench {
	look := s.CurrentLook()
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

// ranked lists a layout's colourways, the look's own first when it is not among
// them.
func (s *Set) ranked(l *layout.Layout, look piece.Look) []colourway.Colourway {
	ranked := colourway.Rank(s.Kit.Colours(), l.Needs(), benchColourways)
	if own, ok := colourway.Resolve(s.Kit.Kit, look.Seats, l.Needs()); ok &&
		!slices.ContainsFunc(ranked, func(c colourway.Colourway) bool { return sameSeats(c, look) }) {
		ranked = append([]colourway.Colourway{own}, ranked...)
	}
	return ranked
}

func sameSeats(c colourway.Colourway, look piece.Look) bool {
	for seat, token := range c.Tokens() {
		if look.Seats[seat] != token {
			return false
		}
	}
	return true
}

// Turn moves along an ingredient and keeps the look that results.
func (a *App) Turn(ctx context.Context, m Member, id ID, client string, step Step) (int64, error) {
	s, err := a.Set(ctx, m, id)
	if err != nil {
		return 0, err
	}
	look, bench := s.CurrentLook(), s.Bench()
	around := func(at, n int) int { return ((at+step.By)%n + n) % n }
	switch step.What {
	case "layout":
		l := s.Job.Layouts[around(bench.LayoutAt, bench.LayoutOf)]
		look.Layout = l.Ref()
		if _, ok := colourway.Resolve(s.Kit.Kit, look.Seats, l.Needs()); !ok {
			look.Seats = colourway.Rank(s.Kit.Colours(), l.Needs(), 1)[0].Tokens()
		}
	case "colourway":
		ranked := s.ranked(bench.Layout, look)
		look.Seats = ranked[around(max(0, bench.ColoursAt), len(ranked))].Tokens()
	case "type":
		look.TypeSet = s.Kit.TypeSets[around(bench.TypeAt, bench.TypeOf)].ID
	case "logo":
		return a.turnLogo(ctx, m, s, client, step.By)
	default:
		return 0, fmt.Errorf("%w: step %q", ErrInvalid, step.What)
	}
	return a.ChooseLook(ctx, m, id, client, s.Doc.Seq, look)
}

// turnLogo goes through the kit's logos and "as the rule picks".
func (a *App) turnLogo(ctx context.Context, m Member, s *Set, client string, by int) (int64, error) {
	options := []string{""}
	for _, l := range s.Kit.Logos {
		options = append(options, l.File)
	}
	at := max(0, slices.Index(options, s.Brief.Logo))
	next := options[((at+by)%len(options)+len(options))%len(options)]
	op := edit.Op{Path: "/logo", Value: raw(next)}
	if next == "" {
		op.Value = nil
	}
	return a.Edit(ctx, m, s.Doc.ID, Change{Client: client, Base: s.Doc.Seq, Op: op})
}

// Write puts words into a field, for the whole set, a channel or one piece.
func (a *App) Write(ctx context.Context, m Member, id ID, c Change, field, reach, text string) (int64, error) {
	if !slices.Contains(brief.CopyFields, field) {
		return 0, fmt.Errorf("%w: %q is not a field of copy", ErrInvalid, field)
	}
	if reach == "" || reach == "set" {
		c.Op = edit.Op{Path: "/cards/0/" + field, Value: raw(text)}
		return a.Edit(ctx, m, id, c)
	}
	slot := field
	if field == "shortHeadline" {
		slot = "headline"
	}
	return a.adjust(ctx, m, id, c, brief.Adjustment{Reach: reach, Slot: slot, Property: "text", Value: text})
}

// adjust sets a property of a slot within a reach.
func (a *App) adjust(ctx context.Context, m Member, id ID, c Change, adj brief.Adjustment) (int64, error) {
	s, err := a.Set(ctx, m, id)
	if err != nil {
		return 0, err
	}
	at := slices.IndexFunc(s.Brief.Adjustments, func(o brief.Adjustment) bool {
		return o.Reach == adj.Reach && o.Slot == adj.Slot && o.Property == adj.Property
	})
	c.Op = edit.Op{Path: "/adjustments/-", Value: raw(adj)}
	if at >= 0 {
		c.Op = edit.Op{Path: fmt.Sprintf("/adjustments/%d/value", at), Value: raw(adj.Value)}
	}
	return a.Edit(ctx, m, id, c)
}

// Lift takes an adjustment back: "back to the rule".
func (a *App) Lift(ctx context.Context, m Member, id ID, client, reach, slot, property string) (int64, error) {
	s, err := a.Set(ctx, m, id)
	if err != nil {
		return 0, err
	}
	at := slices.IndexFunc(s.Brief.Adjustments, func(o brief.Adjustment) bool {
		return o.Reach == reach && o.Slot == slot && o.Property == property
	})
	if at < 0 {
		return 0, ErrNotFound
	}
	return a.Edit(ctx, m, id, Change{Client: client, Base: s.Doc.Seq, Op: edit.Op{Path: fmt.Sprintf("/adjustments/%d", at)}})
}

// SetLogo chooses the logo for a reach; an empty file gives it back to the
// rule.
func (a *App) SetLogo(ctx context.Context, m Member, id ID, client, reach, file string) (int64, error) {
	s, err := a.Set(ctx, m, id)
	if err != nil {
		return 0, err
	}
	c := Change{Client: client, Base: s.Doc.Seq}
	if reach == "" || reach == "set" {
		c.Op = edit.Op{Path: "/logo", Value: raw(file)}
		if file == "" {
			c.Op.Value = nil
		}
		return a.Edit(ctx, m, id, c)
	}
	if file == "" {
		return a.Lift(ctx, m, id, client, reach, "logo", "file")
	}
	return a.adjust(ctx, m, id, c, brief.Adjustment{Reach: reach, Slot: "logo", Property: "file", Value: file})
}

// SampleJob composes a card of sample copy in a kit, for showing the kit in
// use before there is a brief.
func (a *App) SampleJob(k *Kit, card brief.Card) *piece.Job {
	return &piece.Job{
		Kit: k.Kit, Brief: &brief.Brief{FormatVersion: 1, Purpose: "hello", Signature: "both", Cards: []brief.Card{card}},
		Layouts: layouts.All(), Library: k.Library, Shaper: a.shaper, Pictures: map[string]photo.Picture{},
	}
}
