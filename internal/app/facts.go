package app

import (
	"context"
	"encoding/json"
	"log/slog"

	"aspenridge/internal/core/photo"
	"aspenridge/internal/raster"
	"aspenridge/internal/store"
)

// factsRevision rises when more is found in pictures, or better: those that came in
// before are then looked at anew ([Work]).
const factsRevision = 4

// pictureFacts are what is known of a picture from the day it came in.
type pictureFacts struct {
	Revision int `json:"Version"` // under the name it always had
	W, H     int
	Notes    []string
	Focus    *[2]float64 // what matters most in it, guessed; nil in older ones
	// Subjects are what it shows, the main one first.
	Subjects []photo.Subject `json:",omitempty"`
	Light    string          `json:",omitempty"` // hash of its light map
}

// focus is the guessed focal point, 0-1 from the top left.
func (f pictureFacts) focus() [2]float64 {
	if f.Focus == nil {
		return [2]float64{0.5, 0.5}
	}
	return *f.Focus
}

// factsOf are what was found in a picture; its light map is stored beside it.
func (a *house) factsOf(ctx context.Context, in raster.Imported) (pictureFacts, error) {
	p := in.Picture()
	light, err := a.blobs.Put(ctx, raw(p.Light))
	return pictureFacts{factsRevision, in.W, in.H, in.Notes, &p.Focus, in.Subjects, light}, err
}

// light is a light map by its hash; of one that is not there nothing is known.
func (a *house) light(ctx context.Context, hash string) photo.Light {
	if hash == "" {
		return photo.Light{}
	}
	if l, ok := a.lights.Get(hash); ok {
		return l
	}
	var l photo.Light
	data, err := a.blobs.Get(ctx, hash)
	if err == nil {
		err = json.Unmarshal(data, &l)
	}
	if err != nil { // nothing is kept of it: it may be readable the next time
		slog.Warn("a picture's light map cannot be read", "hash", hash, "error", err)
		return photo.Light{}
	}
	a.lights.Put(hash, l)
	return l
}

// refreshPictures looks anew at the pictures that were last looked at by an older
// version, one after the other. One that cannot be read any more keeps what was known
// of it.
func (a *house) refreshPictures(ctx context.Context) error {
	for {
		old, err := a.store.OlderPictures(ctx, factsRevision, 20)
		if err != nil || len(old) == 0 {
			return err
		}
		for _, f := range old {
			if err := a.refresh(ctx, f); err != nil {
				return err
			}
		}
		a.seenSets.Forget() // they know the pictures as they were, here and elsewhere
		if err := a.store.Notify(ctx, ID{}); err != nil {
			return err
		}
	}
}

func (a *house) refresh(ctx context.Context, f store.File) error {
	var facts pictureFacts
	if err := json.Unmarshal(f.Facts, &facts); err != nil { // it is found anew
		slog.Warn("what was known of a picture cannot be read", "hash", f.Hash, "error", err)
	}
	data, err := a.blobs.Get(ctx, f.Hash)
	var in raster.Imported
	if err == nil {
		in, err = raster.Import(ctx, data)
	}
	if ctx.Err() != nil {
		return ctx.Err()
	}
	if err != nil {
		slog.Warn("a stored picture cannot be looked at", "hash", f.Hash, "error", err)
		facts.Revision = factsRevision
	} else {
		notes := facts.Notes
		if facts, err = a.factsOf(ctx, in); err != nil {
			return err
		}
		facts.Notes = notes
	}
	f.Facts = raw(facts)
	return a.store.PutFile(ctx, ID{}, f)
}
