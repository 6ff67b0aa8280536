package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"aspenridge/internal/act"
	"aspenridge/internal/cache"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/core/typeset"
	"aspenridge/internal/kitfile"
	"aspenridge/internal/raster"
	"aspenridge/internal/store"
)

// Kit is a kit as it stands, ready to compose with.
type Kit struct {
	*brand.Kit
	ID      ID
	Seq     int64
	Library *typeset.Library
	// Offers are colours found in the logos that are neither in the kit nor
	// turned down yet.
	Offers []Offer

	// Neutrals are colours without which no two of the kit carry small text.
	Neutrals []colour.RGB

	sizes    map[string][2]int // of its pictures, px, by file
	tones    *cache.Cache[string, madeTone]
	rankings *cache.Cache[string, []colourway.Colourway]
	stands   lineage // its document and its parents'

	Steps store.Steps // that can be taken back and put back
}

// What kits take in memory, bytes: all that are kept, and one.
const (
	allKits = 60 << 20
	oneKit  = 200 << 10

	mostRankings = 40 // of colourways, by layout
)

func (k *Kit) weight() int { return oneKit }

// PictureSize is the width and height of one of the kit's pictures in px; ok is
// false for a clip and for one whose file is missing.
func (k *Kit) PictureSize(file string) (w, h int, ok bool) {
	s, ok := k.sizes[file]
	return s[0], s[1], ok
}

// Offer is a colour proposed for the kit.
type Offer struct {
	Colour colour.RGB
	Name   string
	Ground bool // it is the ground a logo stands on, not its ink
}

// NewKit starts a kit; naming it may come later.
func (a Kits) NewKit(ctx context.Context, m Member, name string) (ID, error) {
	if err := act.MayAll(m, roles.WriteKits); err != nil {
		return ID{}, err
	}
	return a.putKit(ctx, m, emptyKit(strings.TrimSpace(name)))
}

func emptyKit(name string) *edit.Object {
	doc, ext, own := edit.NewObject(), edit.NewObject(), edit.NewObject()
	own.Set("formatVersion", json.Number("1"))
	own.Set("name", name)
	ext.Set("aspenridge", own)
	doc.Set("$extensions", ext)
	return doc
}

// ImportKit puts a whole kit document in, as a copy of somebody's file.
func (a Kits) ImportKit(ctx context.Context, m Member, doc []byte) (ID, error) {
	if err := act.MayAll(m, roles.WriteKits); err != nil {
		return ID{}, err
	}
	o, err := edit.ParseObject(doc)
	if err != nil {
		return ID{}, fmt.Errorf("%w: %v", ErrInvalid, err)
	}
	return a.putKit(ctx, m, o)
}

// putKit puts a kit document in with the files it names, both or neither.
func (a *house) putKit(ctx context.Context, m Member, doc *edit.Object, files ...store.File) (ID, error) {
	setSafeName(ownOf(doc))
	d, err := a.store.CreateDocument(ctx, m, store.Document{Workspace: m.Workspace, Kind: "kit", Name: kitName(doc), Doc: raw(doc)}, nil, files...)
	return d.ID, err
}

func kitName(doc *edit.Object) string { s, _ := ownOf(doc).Get("name").(string); return s }

// Kit reads a kit with its logos and fonts.
func (a Kits) Kit(ctx context.Context, m Member, id ID) (*Kit, error) {
	if err := act.May(m, roles.Look); err != nil {
		return nil, err
	}
	if !seesKit(m, id) {
		return nil, ErrNotFound
	}
	if k, ok := a.seenKits.Get(id); ok {
		seqs, err := a.store.Seqs(ctx, m.Workspace, k.line()...)
		if err != nil {
			return nil, err
		}
		if k.current(seqs) {
			return k, nil
		}
	}
	d, stands, err := a.kitDocument(ctx, m, id)
	if err != nil {
		return nil, err
	}
	k, err := a.loadKit(ctx, d, stands)
	if err != nil {
		return nil, err
	}
	a.seenKits.Put(id, k)
	return k, nil
}

// line are the kit and the kits it follows.
func (k *Kit) line() []ID {
	out := []ID{k.ID}
	for _, p := range k.stands.chain {
		out = append(out, p.ID)
	}
	return out
}

// current reports whether the kit and every kit it follows are as they were read,
// by how far they have come.
func (k *Kit) current(seqs map[ID]int64) bool {
	seq, ok := seqs[k.ID]
	for _, p := range k.stands.chain {
		at, there := seqs[p.ID]
		ok = ok && there && at == p.Seq
	}
	return ok && seq == k.Seq
}

func (a *house) loadKit(ctx context.Context, d store.Document, stands lineage) (*Kit, error) {
	b, err := stands.kit()
	if err != nil {
		return nil, wrong(err)
	}
	k := &Kit{tones: a.tones, rankings: cache.Some[string, []colourway.Colourway](mostRankings), Kit: b, ID: d.ID, Seq: d.Seq, stands: stands, Steps: d.Steps()}
	if k.Library, err = a.loadFonts(ctx, d.Workspace, b); err != nil {
		return nil, err
	}
	if err := kitfile.CheckFonts(b, k.Library, true); err != nil {
		return nil, err
	}
	var pictures, logos []string // their files, asked for at once
	for _, p := range b.Pictures {
		if p.Kind != brand.Clip {
			pictures = append(pictures, p.File)
		}
	}
	for _, l := range b.Logos {
		logos = append(logos, l.File)
	}
	files, err := a.filesNamed(ctx, d.Workspace, "picture", pictures)
	if err != nil {
		return nil, err
	}
	drawn, err := a.filesNamed(ctx, d.Workspace, "logo", logos)
	if err != nil {
		return nil, err
	}
	k.sizes = map[string][2]int{}
	for _, file := range pictures {
		f, ok := files[HashOf(file)]
		if !ok {
			b.Warnings = append(b.Warnings, "the file of a picture is missing: "+file)
			continue
		}
		var facts pictureFacts
		if err := json.Unmarshal(f.Facts, &facts); err != nil {
			return nil, err
		}
		k.sizes[file] = [2]int{facts.W, facts.H}
	}
	declined := map[string]bool{}
	if list, ok := ownOf(stands.own).Get("declinedColours").([]any); ok {
		for _, v := range list {
			declined[fmt.Sprint(v)] = true
		}
	}
	for _, c := range b.Neutrals() {
		if !declined[c.Hex()] {
			k.Neutrals = append(k.Neutrals, c)
		}
	}
	have := b.Colours()
	for i := range b.Logos {
		l := &b.Logos[i]
		f, ok := drawn[HashOf(l.File)]
		if !ok {
			b.Warnings = append(b.Warnings, "the file of a logo is missing: "+l.File)
			continue
		}
		var in raster.ImportedLogo
		if err := json.Unmarshal(f.Facts, &in); err != nil {
			return nil, err
		}
		l.Art, l.Lost = &in.Art, in.Notes
		raster.Derive(l.Art)
		offer := func(c colour.RGB, ground bool) {
			if declined[c.Hex()] || slices.ContainsFunc(have, func(h brand.Colour) bool { return colour.DeltaE(h.Value, c) < 3 }) ||
				slices.ContainsFunc(k.Offers, func(o Offer) bool { return colour.DeltaE(o.Colour, c) < 3 }) {
				return
			}
			k.Offers = append(k.Offers, Offer{c, colour.PlainName(c), ground})
		}
		for _, ink := range in.Art.Inks {
			if ink.Share > 0.01 {
				offer(ink.Colour, false)
			}
		}
		if in.Art.Box != nil {
			offer(*in.Art.Box, true)
		}
	}
	return k, nil
}

// filesNamed are files documents name, those that are there, by their hashes.
func (a *house) filesNamed(ctx context.Context, workspace ID, kind string, refs []string) (map[string]store.File, error) {
	if len(refs) == 0 {
		return nil, nil
	}
	hashes := make([]string, len(refs))
	for i, ref := range refs {
		hashes[i] = HashOf(ref)
	}
	return a.store.Files(ctx, workspace, kind, hashes)
}

// MaxNames is how many kits a list of names holds.
const MaxNames = 2000

// KitNames lists the kits of the workspace by name.
func (a Kits) KitNames(ctx context.Context, m Member) ([]store.KitName, error) {
	if err := act.May(m, roles.Look); err != nil {
		return nil, err
	}
	return a.store.KitNames(ctx, m.Workspace, m.Scope, MaxNames)
}

// KitCard is a kit in a list: what its own document says, read without its
// files.
type KitCard struct {
	*brand.Kit // with its name alone when it cannot be read
	ID         ID
	Broken     string // why it cannot be read
}

// FindKits lists a page of kits and how many there are in all.
func (a Kits) FindKits(ctx context.Context, m Member, q store.KitQuery) (page []KitCard, total int, err error) {
	if err := act.May(m, roles.Look); err != nil {
		return nil, 0, err
	}
	q.In = m.Scope
	docs, total, err := a.store.FindKits(ctx, m.Workspace, q)
	if err != nil {
		return nil, 0, err
	}
	for _, d := range docs {
		k, err := a.card(ctx, d)
		card := KitCard{k, d.ID, ""}
		if err != nil && (isAboutDocument(err) || errors.Is(err, ErrInvalid)) {
			card, err = KitCard{&brand.Kit{Name: d.Name}, d.ID, broken(d, err).Why}, nil
		}
		if err != nil {
			return nil, 0, err
		}
		page = append(page, card)
	}
	return page, total, nil
}

// card reads what a kit's document says. Kits that follow nobody are kept in
// mind as long as they do not change: their number says so.
func (a *house) card(ctx context.Context, d store.Document) (*brand.Kit, error) {
	if c, ok := a.cards.Get(d.ID); ok && c.seq == d.Seq {
		return c.kit, nil
	}
	own, err := edit.ParseObject(d.Doc)
	if err != nil {
		return nil, wrong(err)
	}
	s, err := joinParents(ctx, a.store.Reading(d.Workspace), d.ID, own)
	if err != nil {
		return nil, err
	}
	k, err := s.kit()
	if err == nil && s.parent == nil {
		a.cards.Put(d.ID, cachedCard{d.Seq, k})
	}
	return k, wrong(err)
}

type cachedCard struct {
	seq int64
	kit *brand.Kit
}

// Desk is what lies on the desk beside the briefs.
type Desk struct {
	Kits    []*Kit
	Unread  []Broken         // kits that cannot be read
	Away    []store.Document // put away, to be brought back
	Default ID               // the kit new briefs start with, zero for none
}

// mostAway is how many things that were put away are listed.
const mostAway = 100

// Desk reads the desk, with up to n kits, latest first.
func (a Documents) Desk(ctx context.Context, m Member, n int) (d Desk, err error) {
	if err := act.May(m, roles.Look); err != nil {
		return d, err
	}
	lies, err := a.store.Desk(ctx, m.Workspace, m.Scope, n, mostAway)
	if err != nil {
		return d, err
	}
	d.Away, d.Default = lies.Away, lies.Default
	d.Kits, d.Unread, err = a.kitsOf(ctx, m, lies.Kits)
	return d, err
}

// kitsOf reads kits from their documents.
func (a *house) kitsOf(ctx context.Context, m Member, docs []store.Document) (kits []*Kit, unread []Broken, err error) {
	seqs := map[ID]int64{}
	var more []ID // that kits follow
	for _, d := range docs {
		seqs[d.ID] = d.Seq
		if k, ok := a.seenKits.Get(d.ID); ok {
			more = append(more, k.line()[1:]...)
		}
	}
	if len(more) > 0 {
		of, err := a.store.Seqs(ctx, m.Workspace, more...)
		if err != nil {
			return nil, nil, err
		}
		maps.Copy(seqs, of)
	}
	for _, d := range docs {
		k, ok := a.seenKits.Get(d.ID)
		var err error
		if !ok || !k.current(seqs) {
			k, err = a.kits.Kit(ctx, m, d.ID)
		}
		switch {
		case err == nil:
			kits = append(kits, k)
		case isAboutDocument(err) || errors.Is(err, ErrInvalid):
			unread = append(unread, broken(d, err))
		default:
			return nil, nil, err
		}
	}
	return kits, unread, nil
}

// DefaultKit is the kit new briefs start with; ErrNotFound when there is none.
func (a Kits) DefaultKit(ctx context.Context, m Member) (ID, error) {
	if err := act.May(m, roles.Look); err != nil {
		return ID{}, err
	}
	return a.store.DefaultKit(ctx, m.Workspace)
}

// SetDefaultKit chooses the kit new briefs start with.
func (a Kits) SetDefaultKit(ctx context.Context, m Member, kit ID) error {
	if err := act.MayAll(m, roles.WriteKits); err != nil {
		return err
	}
	return a.store.SetDefaultKit(ctx, m.Workspace, kit)
}

// UseKit gives a brief another kit. Its look stays: what the new kit cannot
// resolve follows the rules.
func (a Briefs) UseKit(ctx context.Context, m Member, brief, kit ID) error {
	if err := a.mayOn(ctx, m, roles.WriteBriefs, brief); err != nil {
		return err
	}
	if !seesKit(m, kit) {
		return ErrNotFound
	}
	return a.store.UseKit(ctx, m, brief, kit, func(r store.Reader, d store.Document) error { return a.mayMove(ctx, r, m, d, kit) })
}
