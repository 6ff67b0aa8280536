// Package app states what a person can do in Aspenridge, with what their role
// allows. [App] has a service for each kind of thing people do (app.go lists them), in
// files named after what it is done to. The web pages and the command line call the services;
// behind them are the core, the store, the blobs, the raster and the jobs.
package app

import (
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"runtime"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/google/uuid"

	"aspenridge/assets"
	"aspenridge/internal/account"
	"aspenridge/internal/act"
	"aspenridge/internal/blob"
	"aspenridge/internal/cache"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/typeset"
	"aspenridge/internal/gate"
	"aspenridge/internal/jobs"
	"aspenridge/internal/raster"
	"aspenridge/internal/store"
)

// Errors people can do something about.
var (
	ErrNotAllowed = act.ErrNotAllowed
	ErrNotFound   = act.ErrNotFound
	ErrNothing    = store.ErrNothing // to undo
	ErrInvalid    = act.ErrInvalid
)

// ID is the identity of a kit, a brief, a person.
type ID = store.ID

// App is the application: a service for each kind of thing people do. Safe for concurrent use.
type App struct {
	People     *account.People // accounts, and how people sign in
	Team       Team            // workspaces, and who does what in them
	Documents  Documents       // what kits and briefs have in common: changes, undo, away and back
	Kits       Kits            // whole kits: made, found, followed, kept in versions
	Brand      Brand           // what is in a kit: colours, type, logos, pictures, motion
	Guidelines Guidelines      // a kit for others to read
	Briefs     Briefs          // what is to be said, with its pictures
	Sets       Sets            // what comes of a brief: looks, pieces, adjustments, finishing
	Files      Files           // what leaves the house, and files that came into it
	Places     Places          // channels and their placements
	Proofs     Proofs          // a set shown to others, and what they say of it
	Work       Work            // jobs done beside requests

	// Composing is passed by whatever composes many pieces in this process: requests, and jobs.
	Composing *gate.Gate

	*house
}

// house is what all services share: the store, the files, the drawing, and the caches.
type house struct {
	clock     func() time.Time
	store     *store.Store
	blobs     *blob.Store
	studio    *raster.Studio
	shaper    *typeset.Shaper
	queue     *jobs.Queue
	composing *gate.Gate

	seenKits *cache.Cache[ID, *Kit]
	seenSets *cache.Cache[ID, *Set]
	written  *cache.Cache[ID, store.Document] // briefs as this process left them
	where    *cache.Cache[ID, *Channels]      // by workspace
	cards    *cache.Cache[ID, cachedCard]
	lights   *cache.Cache[string, photo.Light] // by hash
	shots    *cache.Cache[string, []byte]      // pictures of pieces as they were spoken of, by their drawing
	tones    *cache.Cache[string, madeTone]    // logos drawn in another tone: the Kit proposes one with every look at it

	people     *account.People
	documents  Documents // the services again, for each other
	kits       Kits
	brand      Brand
	guidelines Guidelines
	briefs     Briefs
	sets       Sets
	files      Files
	places     Places
	work       Work
}

// The services; their methods say what they can do.
type (
	Team       struct{ *house }
	Documents  struct{ *house }
	Kits       struct{ *house }
	Brand      struct{ *house }
	Guidelines struct{ *house }
	Briefs     struct{ *house }
	Sets       struct{ *house }
	Files      struct{ *house }
	Places     struct{ *house }
	Proofs     struct{ *house }
	Work       struct{ *house }
)

// Options say how the application runs. The zero value is how it does for people.
type Options struct {
	Hashing *argon2id.Params // of new passwords, nil for [account.Hashing]; tests make many accounts
	Now     func() time.Time // nil for the clock; tests cannot wait
	Log     *slog.Logger     // of jobs, nil for the default
	Beat    time.Duration    // see [jobs.Options]
	Mailer  account.Mailer   // nil: mails are kept to be looked at instead
}

// New puts the application together. From then on the store asks it before
// anything changes.
func New(s *store.Store, b *blob.Store, o Options) (*App, error) {
	h := &house{
		composing: gate.New(max(2, runtime.NumCPU()), 0),
		clock:     o.Now, store: s, blobs: b,
		studio: raster.NewStudio(func(hash string) ([]byte, error) { return b.Get(context.Background(), hash) }),
		shaper: assets.Shaper(),
	}
	if o.Now == nil {
		h.clock = time.Now
	}
	h.seenKits, h.seenSets = cache.New[ID](allKits, (*Kit).weight), cache.New[ID](allSets, (*Set).weight)
	h.written = cache.New[ID](allWritten, func(d store.Document) int { return len(d.Doc) })
	h.where = cache.New[ID](allChannels, func(c *Channels) int { return oneThing + len(c.Doc.Doc) })
	h.shots = cache.New[string](allShots, func(data []byte) int { return len(data) })
	h.cards, h.lights = cache.Some[ID, cachedCard](5000), cache.Some[string, photo.Light](1000)
	h.tones = cache.New[string](allTones, func(t madeTone) int { return len(t.data) + 100 })
	h.people = account.New(s, account.Options{Mailer: o.Mailer, Hashing: o.Hashing, Now: h.now, Forget: h.forget})
	h.documents, h.kits, h.brand, h.guidelines = Documents{h}, Kits{h}, Brand{h}, Guidelines{h}
	h.briefs, h.sets, h.files, h.places, h.work = Briefs{h}, Sets{h}, Files{h}, Places{h}, Work{h}
	var err error
	if h.queue, err = jobs.New(s.Pool.Pool, h.jobs(o)); err != nil {
		return nil, err
	}
	s.Check = h.check
	return &App{
		Composing: h.composing,
		People:    h.people, Team: Team{h}, Documents: h.documents, Kits: h.kits, Brand: h.brand, Guidelines: h.guidelines,
		Briefs: h.briefs, Sets: h.sets, Files: h.files, Places: h.places, Proofs: Proofs{h}, Work: h.work, house: h,
	}, nil
}

func (h *house) now() time.Time { return h.clock() }

// today is the day it is, in UTC.
func (h *house) today() time.Time { return h.now().UTC().Truncate(24 * time.Hour) }

// Member is who acts, in which workspace, as what.
type Member = act.Member

// fileRef is how documents name an uploaded file: its hash and its own name.
func fileRef(hash, name string) string { return hash + "/" + cleanName(name) }

// refOf is how documents name a file.
func refOf(f store.File) string { return fileRef(f.Hash, f.Name) }

// HashOf is the content a file reference points to.
func HashOf(ref string) string {
	hash, _, _ := strings.Cut(ref, "/")
	return hash
}

func cleanName(s string) string {
	s = strings.Map(func(r rune) rune {
		if r < ' ' || strings.ContainsRune(`/\:*?"<>|`, r) {
			return '-'
		}
		return r
	}, s)
	if len(s) > 80 {
		s = s[len(s)-80:]
	}
	if s == "" {
		s = "file"
	}
	return s
}

func raw(v any) json.RawMessage {
	b, err := edit.Marshal(v)
	if err != nil {
		panic(err) // values made here are JSON
	}
	return b
}

// ParseID reads an id in the one form in which addresses write it: 36 characters in small letters.
func ParseID(s string) (ID, error) {
	id, err := uuid.Parse(s)
	if err == nil && id.String() != s {
		err = fmt.Errorf("%q is no id: want the form %s", s, id)
	}
	if err != nil {
		return ID{}, err
	}
	return id, nil
}
