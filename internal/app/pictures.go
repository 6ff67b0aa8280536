package app

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/raster"
	"aspenridge/internal/store"
)

type pictureFacts struct {
	W, H  int
	Notes []string
	Focus *[2]float64 // what matters most in it, guessed; nil in older ones
}

// focus is the guessed focal point, 0-1 from the top left.
func (f pictureFacts) focus() [2]float64 {
	if f.Focus == nil {
		return [2]float64{0.5, 0.5}
	}
	return *f.Focus
}

// AddPicture takes a picture into a card of the brief, after those it has.
func (a *App) AddPicture(ctx context.Context, m Member, id ID, client string, card int, name string, data []byte) error {
	ref, err := a.KeepPicture(ctx, m, name, data)
	if err != nil {
		return err
	}
	s, err := a.Set(ctx, m, id)
	if err != nil {
		return err
	}
	if card < 0 || card >= len(s.Brief.Cards) {
		return ErrNotFound
	}
	if n := len(s.Brief.Cards[card].Pictures); n >= MaxPictures {
		return fmt.Errorf("%w: the brief has %d pictures already; take one away first", ErrInvalid, n)
	}
	_, err = a.Edit(ctx, m, id, Change{Client: client, Base: Latest, Op: edit.Op{Path: cardPath(card, "pictures/-"), Value: raw(map[string]any{"file": ref})}})
	return err
}

// MaxPictures is how many pictures a card has at most.
const MaxPictures = 12

// AddPortrait takes a picture in as that of the person who speaks.
func (a *App) AddPortrait(ctx context.Context, m Member, id ID, client string, card int, name string, data []byte) error {
	ref, err := a.KeepPicture(ctx, m, name, data)
	if err != nil {
		return err
	}
	_, err = a.Edit(ctx, m, id, Change{Client: client, Base: Latest, Op: edit.Op{Path: cardPath(card, "person/picture"), Value: raw(ref)}})
	return err
}

// PlacePicture takes a picture in for a piece or a channel alone.
func (a *App) PlacePicture(ctx context.Context, m Member, id ID, client, reach, name string, data []byte) error {
	ref, err := a.KeepPicture(ctx, m, name, data)
	if err != nil {
		return err
	}
	return a.ChoosePicture(ctx, m, id, client, reach, ref)
}

// ChoosePicture shows a picture of the workspace as the first one within a
// reach.
func (a *App) ChoosePicture(ctx context.Context, m Member, id ID, client, reach, ref string) error {
	if reach == "" || reach == "set" {
		return a.UsePicture(ctx, m, id, client, 0, ref, "")
	}
	if _, err := a.Store.File(ctx, m.Workspace, "picture", HashOf(ref)); err != nil {
		return err
	}
	_, err := a.adjust(ctx, m, id, Change{Client: client, Base: Latest}, brief.Adjustment{Reach: reach, Slot: "picture", Property: "file", Value: ref})
	return err
}

// UsePicture makes a picture of the workspace a card's first one; the card's
// other pictures stay.
func (a *App) UsePicture(ctx context.Context, m Member, id ID, client string, card int, ref, alt string) error {
	if _, err := a.Store.File(ctx, m.Workspace, "picture", HashOf(ref)); err != nil {
		return err
	}
	pic := map[string]any{"file": ref}
	if alt != "" {
		pic["alt"] = alt
	}
	s, err := a.Set(ctx, m, id)
	if err != nil {
		return err
	}
	if card < 0 || card >= len(s.Brief.Cards) {
		return ErrNotFound
	}
	op := edit.Op{Path: cardPath(card, "pictures/0"), Value: raw(pic)}
	if len(s.Brief.Cards[card].Pictures) == 0 {
		op = edit.Op{Path: cardPath(card, "pictures"), Value: raw([]any{pic})}
	}
	_, err = a.Edit(ctx, m, id, Change{Client: client, Base: Latest, Op: op})
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
	return a.keepImported(ctx, m, name, in)
}

func (a *App) keepImported(ctx context.Context, m Member, name string, in raster.Imported) (string, error) {
	if _, err := a.Blobs.Put(ctx, in.Data); err != nil {
		return "", err
	}
	// the name says what the file is now
	if ext := map[string]string{"image/jpeg": ".jpg", "image/png": ".png"}[in.Type]; !strings.HasSuffix(name, ext) {
		if i := strings.LastIndexByte(name, '.'); i > 0 {
			name = name[:i]
		}
		name += ext
	}
	focus := photo.FindFocus(in.Thumb)
	err := a.Store.PutFile(ctx, store.File{
		Workspace: m.Workspace, Hash: in.Hash, Kind: "picture", Name: cleanName(name), Type: in.Type, Bytes: int64(len(in.Data)),
		Facts: raw(pictureFacts{in.W, in.H, in.Notes, &focus}),
	})
	return fileRef(in.Hash, name), err
}

// clipType tells a film by its first bytes: the media type, "" for none.
func clipType(data []byte) string {
	switch {
	case len(data) > 12 && string(data[4:8]) == "ftyp":
		return "video/mp4"
	case bytes.HasPrefix(data, []byte("\x1a\x45\xdf\xa3")):
		return "video/webm"
	}
	return ""
}

func (a *App) keepClip(ctx context.Context, m Member, name string, data []byte) (string, error) {
	if len(data) > raster.MaxBytes {
		return "", fmt.Errorf("%w: %s has %d MB, at most %d MB are taken", ErrInvalid, name, len(data)>>20, raster.MaxBytes>>20)
	}
	hash, err := a.Blobs.Put(ctx, data)
	if err != nil {
		return "", err
	}
	err = a.Store.PutFile(ctx, store.File{Workspace: m.Workspace, Hash: hash, Kind: "clip", Name: cleanName(name), Type: clipType(data), Bytes: int64(len(data)), Facts: raw(struct{}{})})
	return fileRef(hash, name), err
}

// takePicture reads a picture or clip of an archive.
func (a *App) takePicture(ctx context.Context, m Member, name string, data []byte, set func(ref string)) (func() error, error) {
	if clipType(data) != "" {
		return func() error {
			ref, err := a.keepClip(ctx, m, name, data)
			set(ref)
			return err
		}, nil
	}
	in, err := raster.Import(ctx, data)
	return func() error {
		ref, err := a.keepImported(ctx, m, name, in)
		set(ref)
		return err
	}, err
}

// AddBrandPicture takes a picture or clip into a kit. What it is for is guessed:
// a drawing with a transparent ground is an icon, a film a clip.
func (a *App) AddBrandPicture(ctx context.Context, m Member, kit ID, client, name string, data []byte) error {
	if err := may(m, change); err != nil {
		return err
	}
	if clipType(data) != "" {
		ref, err := a.keepClip(ctx, m, name, data)
		if err != nil {
			return err
		}
		return a.Promote(ctx, m, kit, client, ref, "", brand.Clip)
	}
	in, err := raster.Import(ctx, data)
	if err != nil {
		return fmt.Errorf("%s: %w", name, err)
	}
	ref, err := a.keepImported(ctx, m, name, in)
	if err != nil {
		return err
	}
	kind := brand.PhotoPicture
	if raster.Kind(data) == "svg" && in.Type == "image/png" { // a drawing one sees through
		kind = brand.Icon
	}
	return a.Promote(ctx, m, kit, client, ref, "", kind)
}

// Promote makes a file of the workspace a picture of the brand.
func (a *App) Promote(ctx context.Context, m Member, kit ID, client, ref, alt string, kind brand.PictureKind) error {
	k, err := a.Kit(ctx, m, kit)
	if err != nil {
		return err
	}
	if slices.ContainsFunc(k.Pictures, func(p brand.Picture) bool { return HashOf(p.File) == HashOf(ref) }) {
		return fmt.Errorf("%w: this picture is in the kit already", ErrInvalid)
	}
	stored := "picture"
	if kind == brand.Clip {
		stored = "clip"
	}
	if _, err := a.Store.File(ctx, m.Workspace, stored, HashOf(ref)); err != nil {
		return err
	}
	pic := map[string]any{"file": ref, "kind": kind}
	if alt != "" {
		pic["alt"] = alt
	}
	_, err = a.Edit(ctx, m, kit, Change{Client: client, Base: Latest, Op: edit.Op{Path: "/$extensions/aspenridge/pictures/-", Value: raw(pic)}})
	return err
}

// PromoteLogo makes a picture of the workspace a logo of a kit.
func (a *App) PromoteLogo(ctx context.Context, m Member, kit ID, client, ref string) error {
	if _, err := a.Store.File(ctx, m.Workspace, "picture", HashOf(ref)); err != nil {
		return err
	}
	data, err := a.Blobs.Get(ctx, HashOf(ref))
	if err != nil {
		return err
	}
	_, name, _ := strings.Cut(ref, "/")
	return a.AddLogo(ctx, m, kit, client, name, data)
}

// PictureSize is a picture's width and height in px.
func (a *App) PictureSize(ctx context.Context, m Member, hash string) (w, h int, err error) {
	f, err := a.Store.File(ctx, m.Workspace, "picture", hash)
	if err != nil {
		return 0, 0, err
	}
	var facts pictureFacts
	err = json.Unmarshal(f.Facts, &facts)
	return facts.W, facts.H, err
}

// PictureColours are up to n colours that make up a picture, most used first.
func (a *App) PictureColours(ctx context.Context, m Member, hash string, n int) ([]colour.Found, error) {
	if _, err := a.Store.File(ctx, m.Workspace, "picture", hash); err != nil {
		return nil, err
	}
	data, err := a.Blobs.Get(ctx, hash)
	if err != nil {
		return nil, err
	}
	return raster.Colours(ctx, data, n)
}

// ClipFile is a clip of the workspace with its media type.
func (a *App) ClipFile(ctx context.Context, m Member, hash string) (data []byte, mediaType string, err error) {
	if err := may(m, view); err != nil {
		return nil, "", err
	}
	f, err := a.Store.File(ctx, m.Workspace, "clip", hash)
	if err != nil {
		return nil, "", err
	}
	data, err = a.Blobs.Get(ctx, hash)
	return data, f.Type, err
}
