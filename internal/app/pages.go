package app

import (
	"context"
	"errors"

	"aspenridge/internal/blob"
	"aspenridge/internal/core/plain"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/store"
)

// What pages say about documents as they are kept.
type (
	Document = store.Document
	Steps    = store.Steps
	Conflict = store.Conflict // somebody changed the same part meanwhile
	KitQuery = store.KitQuery
	KitName  = store.KitName
	Sessions = store.Sessions
)

// ErrFilesAway means that the place where files are kept does not answer.
var ErrFilesAway = blob.ErrAway

// ErrRepeated means a change has been made already.
var ErrRepeated = store.ErrRepeated

// Away reports whether an error says that the database does not answer, Unstorable that
// it cannot keep what it was given.
var (
	Away       = store.Away
	Unstorable = store.Unstorable
)

// Made reports whether the change somebody sends has been made, and what it answered
// with.
func (a *App) Made(ctx context.Context, m Member) (result string, made bool, err error) {
	return a.store.Made(ctx, m)
}

// Presence is who is on a brief, in one of their tabs.
type Presence struct {
	Client string `json:"client"`
	Person ID     `json:"person"`
	Name   string `json:"name"`
	Piece  string `json:"piece,omitempty"`  // they look at, or "shot 3" of a video
	Field  string `json:"field,omitempty"`  // they are in
	Typing bool   `json:"typing,omitempty"` // just now
	Gone   bool   `json:"gone,omitempty"`
}

// Here tells the others on a brief that somebody is there too.
func (a Briefs) Here(ctx context.Context, m Member, id ID, p Presence) error {
	if err := a.mayOn(ctx, m, roles.Look, id); err != nil {
		return err
	}
	there, err := a.documents.There(ctx, m, id)
	if err != nil {
		return err
	}
	if !there[id] {
		return ErrNotFound
	}
	p.Person, p.Name = m.ID, plain.Short(m.Name)
	p.Client, p.Piece, p.Field = plain.Short(plain.Line(p.Client)), plain.Short(plain.Line(p.Piece)), plain.Short(plain.Line(p.Field))
	return a.store.SayHere(ctx, id, string(raw(p)))
}

// Listen calls f for every change of any document, and every step of any job, and here for
// whoever says that they are on one ([Presence] as JSON), until ctx ends.
func (a *App) Listen(ctx context.Context, f func(id ID, seq int64), here func(id ID, who string)) {
	a.store.Listen(ctx, func(id ID, seq int64) {
		if id == (ID{}) { // pictures were looked at anew: sets know them as they were
			a.seenSets.Forget()
			return
		}
		f(id, seq)
	}, here)
}

// Ready reports whether the database answers.
func (a *App) Ready(ctx context.Context) error { return a.store.Pool.Ping(ctx) }

// There are those of some documents that are in the workspace.
func (a Documents) There(ctx context.Context, m Member, ids ...ID) (map[ID]bool, error) {
	seqs, err := a.store.Seqs(ctx, m.Workspace, ids...)
	out := map[ID]bool{}
	for id := range seqs {
		if a.mayOn(ctx, m, roles.Look, id) == nil {
			out[id] = true
		}
	}
	return out, err
}

// Reach is how much hangs on a kit: pieces finished with it, briefs that follow it, and
// pieces of those that are open.
type Reach struct{ Finished, Briefs, Open int }

// ReachOf counts it.
func (a Kits) ReachOf(ctx context.Context, m Member, kit ID) (r Reach, err error) {
	if r.Finished, err = a.store.CountFinished(ctx, m.Workspace, kit); err != nil {
		return r, err
	}
	r.Briefs, r.Open, err = a.store.Following(ctx, m.Workspace, kit, len(DefaultPlacements))
	return r, err
}

// Cut is a part of a picture of the workspace, w x h px, with its content type.
func (a Files) Cut(ctx context.Context, m Member, p scene.PictureRef, w, h int) (data []byte, kind string, err error) {
	_, err = a.store.File(ctx, m.Workspace, "picture", p.Hash)
	if errors.Is(err, ErrNotFound) { // or the frame that stands for a clip of the kit
		if still, e := a.store.IsStill(ctx, m.Workspace, p.Hash); e == nil && still {
			err = nil
		}
	}
	if err != nil {
		return nil, "", err
	}
	return a.studio.Crop(ctx, p, w, h)
}

// FoundAt is where people find the installation, as it was said last; "" before that.
func (a *App) FoundAt(ctx context.Context) (string, error) { return a.store.Address(ctx) }

// Found keeps where people find the installation.
func (a *App) Found(ctx context.Context, address string) error {
	return a.store.SetAddress(ctx, address)
}
