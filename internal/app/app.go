// Package app states what a person can do in Aspenridge, with what their role
// allows, one file per thing they do it to. The web pages and the command line
// call it; it calls the core, the store, the blobs and the raster.
package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"strings"
	"sync"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/google/uuid"

	"aspenridge/assets"
	"aspenridge/internal/blob"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/typeset"
	"aspenridge/internal/raster"
	"aspenridge/internal/store"
)

// Errors people can do something about.
var (
	ErrNotAllowed = errors.New("your role in this workspace does not allow that")
	ErrNotFound   = store.ErrNotFound
	ErrNothing    = store.ErrNothing // to undo
	ErrInvalid    = errors.New("that cannot be used")
)

// ID is the identity of a kit, a brief, a person.
type ID = store.ID

// App is the application. Safe for concurrent use.
type App struct {
	// Hashing is how new passwords are hashed; [Hashing] but where tests make
	// many accounts.
	Hashing *argon2id.Params

	// Now tells the time, for tests that cannot wait; nil is the clock.
	Now func() time.Time

	store     *store.Store
	blobs     *blob.Store
	studio    *raster.Studio
	shaper    *typeset.Shaper
	passwords turnstile // a check of a password takes 64 MB and a quarter of a second
	mu        sync.Mutex
	kits      *recent[*Kit]
	sets      *recent[*Set]
	written   *recent[store.Document] // briefs as this process left them
	where     *recent[*Channels]      // by workspace
	cards     map[ID]cachedCard
	lights    memo // light maps, by hash
}

// New puts the application together. From then on the store asks it before
// anything changes.
func New(s *store.Store, b *blob.Store) *App {
	a := &App{
		store: s, blobs: b,
		studio:  raster.NewStudio(func(hash string) ([]byte, error) { return b.Get(context.Background(), hash) }),
		Hashing: Hashing, shaper: assets.Shaper(), passwords: newTurnstile(2, 60, 8*time.Second),
		kits: newRecent(allKits, (*Kit).weight), sets: newRecent(allSets, (*Set).weight),
		written: newRecent(allWritten, func(d store.Document) int { return len(d.Doc) }), where: newRecent(allChannels, func(c *Channels) int { return oneThing + len(c.Doc.Doc) }), cards: map[ID]cachedCard{},
	}
	s.Check = a.check
	return a
}

func (a *App) now() time.Time {
	if a.Now != nil {
		return a.Now()
	}
	return time.Now()
}

// today is the day it is, in UTC.
func (a *App) today() time.Time { return a.now().UTC().Truncate(24 * time.Hour) }

// Member is who acts, in which workspace, as what.
type Member = store.Member

// right is a thing a role may do.
type right int

const (
	view right = iota
	comment
	change
	manage
)

var rights = map[string]right{"viewer": view, "commenter": comment, "editor": change, "owner": manage}

func may(m Member, r right) error {
	if have, ok := rights[m.Role]; !ok || have < r {
		return ErrNotAllowed
	}
	return nil
}

// MayChange reports whether the person may change kits and briefs.
func MayChange(m Member) bool { return may(m, change) == nil }

// Change is a change to a document on behalf of somebody.
type Change struct {
	Kind   string // what the document must be, "" for any
	Op     edit.Op
	Base   int64
	Client string
	Typing bool
	Files  []store.File // it brings along
	Seen   *int64       // the seq it was made up from, nil for any
}

// Latest as a base means the change is meant whatever stands there now.
const Latest = math.MaxInt64

// Edit changes a kit or a brief. A change that would leave a document that
// cannot be read, or a kit that follows it, is refused with ErrInvalid.
func (a *App) Edit(ctx context.Context, m Member, id ID, c Change) (int64, error) {
	docs, err := a.edit(ctx, m, c.of(m, id))
	if err != nil {
		return 0, err
	}
	return docs[0].Seq, nil
}

func (c Change) of(m Member, id ID) store.Change {
	return store.Change{ID: id, Kind: c.Kind, Op: c.Op, Base: c.Base, Client: c.Client, Actor: m.ID, Typing: c.Typing, Files: c.Files, Seen: c.Seen}
}

// edit makes changes to several documents as one.
func (a *App) edit(ctx context.Context, m Member, changes ...store.Change) ([]store.Document, error) {
	if err := may(m, change); err != nil {
		return nil, err
	}
	for _, c := range changes {
		if c.Kind == "brief" { // only kits keep versions
			continue
		}
		if err := a.keepQuiet(ctx, m, c.ID); err != nil {
			return nil, err
		}
	}
	docs, err := a.store.Edit(ctx, m.Workspace, changes...)
	for _, d := range docs {
		if err == nil && d.Kind == "brief" {
			a.written.put(d.ID, d)
		}
	}
	return docs, invalid(err)
}

// invalid says of an operation that does not fit its document that it cannot be
// used.
func invalid(err error) error {
	if errors.Is(err, edit.ErrPath) && !errors.Is(err, ErrInvalid) {
		return fmt.Errorf("%w: %w", ErrInvalid, err)
	}
	return err
}

// Undo takes back the last change of a document, or with redo puts back the
// last one taken back. It returns the path that changed.
func (a *App) Undo(ctx context.Context, m Member, id ID, client string, redo bool) (string, int64, error) {
	if err := may(m, change); err != nil {
		return "", 0, err
	}
	path, seq, err := a.store.Revert(ctx, m.Workspace, id, m.ID, client, redo)
	return path, seq, invalid(err)
}

// Mend brings a document that cannot be read back to the last state that can;
// ErrNotFound when there is none.
func (a *App) Mend(ctx context.Context, m Member, id ID) error {
	if err := may(m, change); err != nil {
		return err
	}
	return a.store.Mend(ctx, m.Workspace, id, m.ID, "mend", func(ctx context.Context, r store.Reader, d store.Document, doc *edit.Object) error {
		return a.readable(ctx, r, d, doc)
	})
}

// Archive takes a kit or brief off the desk, or puts it back.
func (a *App) Archive(ctx context.Context, m Member, id ID, away bool) error {
	if err := may(m, change); err != nil {
		return err
	}
	return a.store.Archive(ctx, m.Workspace, id, away)
}

// Delete takes a kit or brief away for good, or takes that back. What uses a
// deleted kit keeps it.
func (a *App) Delete(ctx context.Context, m Member, id ID, away bool) error {
	if err := may(m, change); err != nil {
		return err
	}
	return a.store.Delete(ctx, m.Workspace, id, away)
}

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

// ParseID reads an id as addresses write it.
func ParseID(s string) (ID, error) { return uuid.Parse(s) }
