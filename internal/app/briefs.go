package app

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
	"sync"

	"aspenridge/assets"
	"aspenridge/internal/act"
	"aspenridge/internal/cache"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/store"
	"aspenridge/layouts"
)

// What sets take in memory, bytes as measured: all that are kept, one, a piece of
// it, and a thing computed of it for a page.
const (
	allSets  = 160 << 20
	oneSet   = 40 << 10
	onePiece = 115 << 10
	oneThing = 16 << 10

	allWritten  = 16 << 20 // documents of briefs
	allChannels = 8 << 20
	allTones    = 8 << 20
	allShots    = 16 << 20

	mostThings = 200 // of a set
)

func (s *Set) weight() int {
	s.mu.Lock()
	defer s.mu.Unlock()
	return oneSet + len(s.pieces)*onePiece + s.memo.Len()*oneThing
}

// Once computes something of a set by its name, once.
func Once[T any](s *Set, name string, compute func() T) T {
	v, _ := s.memo.Once(name, func() any { return compute() }).(T)
	return v
}

// Set is a brief as it stands with its kit, and the pieces computed of it.
type Set struct {
	Brief    *brief.Brief
	Doc      store.Document
	Kit      *Kit
	Job      *piece.Job
	Looks    []piece.Look // the looks kept so far
	Channels *Channels    // where pieces can go
	Look     *piece.Look  // the one of them that is shown, nil before one is kept

	files  []string           // of its pictures
	clips  map[string]string  // by the frame that stands for each
	sounds map[string]float64 // s, of the files of sound its video names

	mu     sync.Mutex
	pieces map[string]*piece.Piece
	memo   *cache.Cache[string, any] // what was computed of it for pages
}

func parseBrief(doc *edit.Object) (*brief.Brief, error) { return brief.Parse(doc) }

// NewBrief starts a job for a kit, with whatever is at hand.
func (a Briefs) NewBrief(ctx context.Context, m Member, kit ID) (ID, error) {
	return a.newBrief(ctx, m, kit, false)
}

// newBrief is NewBrief; a hidden one is on no list until it is shown.
func (a *house) newBrief(ctx context.Context, m Member, kit ID, hidden bool) (ID, error) {
	doc := edit.NewObject()
	doc.Set("formatVersion", json.Number("1"))
	doc.Set("name", "")
	doc.Set("cards", []any{edit.NewObject()})
	list, err := a.lastPlaces(ctx, m, kit)
	if err != nil {
		return ID{}, err
	}
	doc.Set("placements", list)
	return a.putBrief(ctx, m, kit, newBrief{doc: doc, hidden: hidden})
}

// ImportBrief puts a brief document in.
func (a Briefs) ImportBrief(ctx context.Context, m Member, kit ID, doc []byte) (ID, error) {
	o, err := edit.ParseObject(doc)
	if err != nil {
		return ID{}, fmt.Errorf("%w: %v", ErrInvalid, err)
	}
	if o.Get("cards") == nil { // a single card's fields stand at the top: give them a card
		card := edit.NewObject()
		for _, k := range slices.Clone(o.Keys()) {
			if slices.Contains(brief.CardMembers, k) {
				card.Set(k, o.Get(k))
				o.Delete(k)
			}
		}
		o.Set("cards", []any{card})
	}
	return a.putBrief(ctx, m, kit, newBrief{doc: o})
}

// newBrief is a brief that is about to be put in.
type newBrief struct {
	doc    *edit.Object
	hidden bool // on no list until it is shown
	like   *ID  // the one it is a copy of, nil for none
}

func (a *house) putBrief(ctx context.Context, m Member, kit ID, b newBrief) (ID, error) {
	if err := a.mayOn(ctx, m, roles.WriteBriefs, kit); err != nil {
		return ID{}, err
	}
	if _, err := a.kits.Kit(ctx, m, kit); err != nil {
		return ID{}, err
	}
	setSafeName(b.doc)
	name, _ := b.doc.Get("name").(string)
	d, err := a.store.CreateDocument(ctx, m, store.Document{Workspace: m.Workspace, Kind: "brief", KitID: &kit, Name: name, Doc: raw(b.doc), Hidden: b.hidden}, b.like)
	return d.ID, err
}

// Set reads a brief and its kit as they stand now; a job with everything
// loaded comes from memory while neither has changed.
func (a Sets) Set(ctx context.Context, m Member, id ID) (*Set, error) {
	if err := act.May(m, roles.Look); err != nil {
		return nil, err
	}
	s := a.known(m, id)
	ask := []ID{id}
	if s != nil {
		ask = append(ask, s.Kit.line()...)
	}
	at, err := a.store.ProgressOf(ctx, m.Workspace, ask...)
	if err != nil {
		return nil, err
	}
	where, err := a.channelsAt(ctx, m.Workspace, at)
	if err != nil {
		return nil, err
	}
	if s != nil && a.current(s, where, at.Seqs) {
		if !sees(m, id, s.Kit.ID) {
			return nil, ErrNotFound
		}
		return s, nil
	}
	d, err := a.document(ctx, m.Workspace, id, at.Seqs[id])
	if err != nil {
		return nil, err
	}
	if d.KitID != nil && !sees(m, id, *d.KitID) {
		return nil, ErrNotFound
	}
	return a.setOf(ctx, m, d, where, at.Seqs)
}

// current reports whether a set is as it was, by how far the documents have come
// that it is made of.
func (a *house) current(s *Set, where *Channels, seqs map[ID]int64) bool {
	seq, ok := seqs[s.Doc.ID]
	return ok && seq == s.Doc.Seq && s.Kit.current(seqs) && where.Doc.Seq == s.Channels.Doc.Seq && s.Job.Today.Equal(a.today())
}

// setOf puts the set of a brief's document together, to be kept in memory; seqs are how
// far documents have come, as far as they are known.
func (a *house) setOf(ctx context.Context, m Member, d store.Document, where *Channels, seqs map[ID]int64) (*Set, error) {
	if d.Kind != "brief" || d.KitID == nil {
		return nil, ErrNotFound
	}
	before := a.known(m, d.ID)
	var k *Kit
	if before != nil && before.Kit.ID == *d.KitID && before.Kit.current(seqs) {
		k = before.Kit
	} else {
		var err error
		if k, err = a.kits.Kit(ctx, m, *d.KitID); err != nil {
			return nil, err
		}
	}
	s, err := a.loadSet(ctx, d, k, before)
	if err != nil {
		return nil, err
	}
	s.Channels = where
	a.seenSets.Put(d.ID, s)
	return s, nil
}

// loadSet reads a brief's document; pictures that were there before are not asked for
// again.
func (a *house) loadSet(ctx context.Context, d store.Document, k *Kit, before *Set) (*Set, error) {
	doc, err := edit.ParseObject(d.Doc)
	if err != nil {
		return nil, wrong(err)
	}
	b, err := parseBrief(doc)
	if err != nil {
		return nil, wrong(err)
	}
	files, clips := b.Files(), b.Clips()
	s := &Set{Brief: b, Doc: d, Kit: k, files: files, clips: clips, pieces: map[string]*piece.Piece{}, memo: cache.Some[string, any](mostThings)}
	if before != nil && before.Kit == k && slices.Equal(before.files, files) && maps.Equal(before.clips, clips) && len(before.Job.Pictures) == distinct(files) {
		s.Job = a.bareJob(k, b)
		s.Job.Pictures, s.Job.KitPictures, s.Job.KitClips, s.Job.Today = before.Job.Pictures, before.Job.KitPictures, before.Job.KitClips, a.today()
	} else {
		pics, err := a.pictures(ctx, d.Workspace, files, true)
		if err != nil {
			return nil, err
		}
		if err := a.withClips(ctx, d.Workspace, pics, clips); err != nil {
			return nil, err
		}
		if s.Job, err = a.job(ctx, d.Workspace, k, b, pics); err != nil {
			return nil, err
		}
	}
	if s.sounds, err = a.soundsOf(ctx, d.Workspace, heardFiles(b.Video, k.Kit)...); err != nil {
		return nil, err
	}
	s.Looks = keptLooks(b)
	for i := range s.Looks {
		if s.Look == nil || s.Looks[i].ID == b.Shown {
			s.Look = &s.Looks[i]
		}
	}
	return s, nil
}

// distinct is how many files a list names.
func distinct(files []string) int {
	seen := map[string]bool{}
	for _, f := range files {
		if f != "" {
			seen[f] = true
		}
	}
	return len(seen)
}

// InUse is the latest brief of a kit that is as it is wanted, nil for none of the
// kit's last ones.
func (a Kits) InUse(ctx context.Context, m Member, kit ID, wanted func(*Set) bool) (*Set, error) {
	if err := a.mayOn(ctx, m, roles.Look, kit); err != nil {
		return nil, err
	}
	docs, err := a.store.BriefsOf(ctx, m.Workspace, kit, 20)
	if err != nil {
		return nil, err
	}
	sets, _, err := a.setsOf(ctx, m, docs) // what cannot be read says so on its own card
	if i := slices.IndexFunc(sets, wanted); err == nil && i >= 0 {
		return sets[i], nil
	}
	return nil, err
}

// nearShape is how far a place's shape may be from one that is looked for, as the logarithm of
// how many times wider it is.
const nearShape = 0.45

// Views are places of the set's own to see it by: of each shape (width by height) the nearest,
// where there is one; what is missing is made up with the least extreme others.
func (s *Set) Views(shapes ...float64) []spec.Placement {
	rest := s.Placements()
	var out []spec.Placement
	take := func(far func(shape float64) float64, most float64) {
		best, least := -1, most
		for i, p := range rest {
			if d := far(math.Log(float64(p.Width) / float64(p.Height))); d < least {
				best, least = i, d
			}
		}
		if best >= 0 {
			out = append(out, rest[best])
			rest = slices.Delete(slices.Clone(rest), best, best+1)
		}
	}
	for _, w := range shapes {
		take(func(v float64) float64 { return math.Abs(v - math.Log(w)) }, nearShape)
	}
	for len(out) < len(shapes) && len(rest) > 0 {
		take(math.Abs, math.Inf(1))
	}
	return out
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

// CurrentLook is the kept look that is shown, else the one a brief has that names none.
func (s *Set) CurrentLook() piece.Look {
	if s.Look != nil {
		return *s.Look
	}
	return Once(s, "look", func() piece.Look { return s.Job.First() })
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
			p, err := s.Channels.Parse(id)
			if err != nil || p.Kind != "image" {
				continue
			}
			out = append(out, p)
		}
	}
	return piece.Expand(out, len(s.Brief.Cards))
}

// maxPieces is how many computed pieces a set keeps: several looks of all there
// are; stepping through many more forgets the first.
const maxPieces = 150

// Piece computes a piece of the set in a look, once.
func (s *Set) Piece(look piece.Look, p spec.Placement) *piece.Piece {
	key := p.ID + string(raw(look))
	s.mu.Lock()
	pc := s.pieces[key]
	s.mu.Unlock()
	if pc != nil {
		return pc
	}
	made := s.Job.Compose(look, p, min(p.Card, len(s.Brief.Cards)-1))
	s.mu.Lock()
	if len(s.pieces) >= maxPieces {
		clear(s.pieces)
	}
	s.pieces[key] = &made
	s.mu.Unlock()
	return &made
}

// Pieces computes the whole set in the look that is shown.
func (s *Set) Pieces() []*piece.Piece { return s.PiecesIn(s.CurrentLook()) }

// AllLooks are the kept looks, or the one proposed before any is kept.
func (s *Set) AllLooks() []piece.Look {
	if len(s.Looks) == 0 {
		return []piece.Look{s.CurrentLook()}
	}
	return s.Looks
}

// PiecesIn computes the whole set in each of the looks, two pieces at a time.
func (s *Set) PiecesIn(looks ...piece.Look) []*piece.Piece {
	places := s.Placements()
	out := make([]*piece.Piece, len(places)*len(looks))
	var wg sync.WaitGroup
	for half := range 2 {
		wg.Go(func() {
			for i := half; i < len(out); i += 2 {
				out[i] = s.Piece(looks[i/len(places)], places[i%len(places)])
			}
		})
	}
	wg.Wait()
	return out
}

// SampleJob composes a card of sample copy in a kit, for showing the kit in
// use before there is a brief.
func (a Kits) SampleJob(k *Kit, card brief.Card) *piece.Job {
	return a.bareJob(k, &brief.Brief{FormatVersion: 1, Purpose: "hello", Signature: "both", Cards: []brief.Card{card}})
}

// Manner is how a kit's pieces are built, every step of it.
func (a Kits) Manner(k *Kit) brand.Manner {
	return a.bareJob(k, &brief.Brief{}).Manner()
}

// bareJob puts a kit and a brief together without any pictures.
func (a *house) bareJob(k *Kit, b *brief.Brief) *piece.Job {
	return &piece.Job{
		Kit: b.Kit(k.Kit), Brief: b, Layouts: layouts.All(), Library: k.Library, Shaper: a.shaper, Icons: assets.Icons(),
		Pictures: map[string]photo.Picture{}, KitPictures: map[string]photo.Picture{},
	}
}

// job puts a kit and a brief together, with the pictures of both.
func (a *house) job(ctx context.Context, workspace ID, k *Kit, b *brief.Brief, pics map[string]photo.Picture) (*piece.Job, error) {
	j := a.bareJob(k, b)
	j.Pictures, j.Today = pics, a.today()
	var files []string
	for _, p := range k.Pictures {
		if p.Kind != brand.Clip {
			files = append(files, p.File)
		}
	}
	var err error
	if j.KitPictures, err = a.pictures(ctx, workspace, files, false); err != nil {
		return nil, err
	}
	if j.KitClips, err = a.kitClips(ctx, workspace, k); err != nil {
		return nil, err
	}
	for _, p := range k.Pictures { // what matters most in them is the kit's to say, wherever they show
		for _, pics := range []map[string]photo.Picture{j.KitPictures, j.Pictures} {
			if ph, ok := pics[p.File]; ok && p.Focus != nil {
				pics[p.File] = ph.FocusedOn(*p.Focus)
			}
		}
	}
	return j, nil
}

// pictures reads what is known of picture files, with or without how light they are;
// one that is not there is left out.
func (a *house) pictures(ctx context.Context, workspace ID, files []string, lit bool) (map[string]photo.Picture, error) {
	var hashes []string
	for _, file := range files {
		if file != "" {
			hashes = append(hashes, HashOf(file))
		}
	}
	known, err := a.store.Files(ctx, workspace, "picture", hashes)
	if err != nil {
		return nil, err
	}
	out := map[string]photo.Picture{}
	for _, file := range files {
		f, ok := known[HashOf(file)]
		if !ok || file == "" {
			continue
		}
		var facts pictureFacts
		if err := json.Unmarshal(f.Facts, &facts); err != nil {
			return nil, err
		}
		p := photo.Picture{Hash: f.Hash, W: facts.W, H: facts.H, Focus: facts.focus(), Subjects: facts.Subjects}
		if lit {
			p.Light = a.light(ctx, facts.Light)
		}
		out[file] = p
	}
	return out, nil
}
