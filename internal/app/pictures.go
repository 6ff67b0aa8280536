package app

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"aspenridge/internal/act"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/raster"
	"aspenridge/internal/store"
)

// AddPicture takes a picture into a card of the brief, by its id ("" for the
// first), after those it has.
func (a Briefs) AddPicture(ctx context.Context, m Member, id ID, client, card, name string, data []byte) error {
	c, err := a.cardFor(ctx, m, id, card)
	if err != nil {
		return err
	}
	if n := len(c.Pictures); n >= MaxPictures {
		return fmt.Errorf("%w: the brief has %d pictures already; take one away first", ErrInvalid, n)
	}
	f, err := a.storePicture(ctx, m, name, data)
	if err != nil {
		return err
	}
	return a.showPicture(ctx, m, id, client, edit.Op{Path: cardPath(c.ID, "pictures/-"), Value: raw(map[string]any{"file": refOf(f)})}, f)
}

// MaxPictures is how many pictures a card has at most.
const MaxPictures = brief.MaxPictures

// cardFor finds the card of a brief that a picture is for, before the picture is
// read.
func (a *house) cardFor(ctx context.Context, m Member, id ID, card string) (brief.Card, error) {
	if err := a.mayOn(ctx, m, roles.WriteBriefs, id); err != nil {
		return brief.Card{}, err
	}
	s, err := a.sets.Set(ctx, m, id)
	if err != nil {
		return brief.Card{}, err
	}
	return s.cardOf(card)
}

// showPicture changes a brief together with the file the change brings.
func (a *house) showPicture(ctx context.Context, m Member, id ID, client string, op edit.Op, f store.File) error {
	_, err := a.documents.Edit(ctx, m, id, Change{Kind: "brief", Client: client, Base: Latest, Op: op, Files: []store.File{f}})
	return err
}

// AddPortrait takes a picture in as that of the person who speaks.
func (a Briefs) AddPortrait(ctx context.Context, m Member, id ID, client, card, name string, data []byte) error {
	c, err := a.cardFor(ctx, m, id, card)
	if err != nil {
		return err
	}
	f, err := a.storePicture(ctx, m, name, data)
	if err != nil {
		return err
	}
	return a.showPicture(ctx, m, id, client, edit.Op{Path: cardPath(c.ID, "person/picture"), Value: raw(refOf(f))}, f)
}

// PlacePicture takes a picture in as the first of a brief, or within a reach
// alone.
func (a Briefs) PlacePicture(ctx context.Context, m Member, id ID, client, reach, name string, data []byte) error {
	if err := a.mayOn(ctx, m, roles.WriteBriefs, id); err != nil {
		return err
	}
	s, err := a.sets.Set(ctx, m, id)
	if err != nil {
		return err
	}
	f, err := a.storePicture(ctx, m, name, data)
	if err != nil {
		return err
	}
	return a.showPicture(ctx, m, id, client, s.firstPicture(s.Brief.Cards[0], reach, brief.Picture{File: refOf(f)}), f)
}

// firstPicture is the change that makes a picture the first one: of a card, whose
// other pictures stay, or within a reach.
func (s *Set) firstPicture(c brief.Card, reach string, pic brief.Picture) edit.Op {
	if reach != "" && reach != "set" {
		return s.adjustOps(brief.Adjustment{Reach: reach, Slot: "picture", Property: "file", Value: raw(pic.File)})[0]
	}
	if len(c.Pictures) == 0 {
		return edit.Op{Path: cardPath(c.ID, "pictures"), Value: raw([]any{pic})}
	}
	return edit.Op{Path: cardPath(c.ID, "pictures/@"+c.Pictures[0].ID), Value: raw(pic)}
}

// ChoosePicture shows a picture of the workspace as the first one within a
// reach.
func (a Briefs) ChoosePicture(ctx context.Context, m Member, id ID, client, reach, ref string) error {
	s, err := a.sets.Set(ctx, m, id)
	if err != nil {
		return err
	}
	if _, err := a.store.File(ctx, m.Workspace, "picture", HashOf(ref)); err != nil {
		return err
	}
	_, err = a.documents.Edit(ctx, m, id, Change{Kind: "brief", Client: client, Base: Latest, Op: s.asShown(s.firstPicture(s.Brief.Cards[0], reach, brief.Picture{File: ref}))})
	return err
}

// UsePicture makes a picture of the workspace a card's first one; the card's
// other pictures stay.
func (a Briefs) UsePicture(ctx context.Context, m Member, id ID, client, card, ref, alt string) error {
	if _, err := a.store.File(ctx, m.Workspace, "picture", HashOf(ref)); err != nil {
		return err
	}
	s, err := a.sets.Set(ctx, m, id)
	if err != nil {
		return err
	}
	c, err := s.cardOf(card)
	if err != nil {
		return err
	}
	_, err = a.documents.Edit(ctx, m, id, Change{Kind: "brief", Client: client, Base: Latest, Op: s.firstPicture(c, "", brief.Picture{File: ref, Alt: alt})})
	return err
}

// KeepPicture takes a picture into the workspace and returns how documents name
// it.
func (a Files) KeepPicture(ctx context.Context, m Member, name string, data []byte) (string, error) {
	if err := act.May(m, roles.WriteBriefs); err != nil {
		return "", err
	}
	f, err := a.storePicture(ctx, m, name, data)
	if err != nil {
		return "", err
	}
	return refOf(f), a.store.PutFile(ctx, m.ID, f)
}

// storePicture reads a picture and keeps its bytes; whoever uses it records the
// file with that change.
func (a *house) storePicture(ctx context.Context, m Member, name string, data []byte) (store.File, error) {
	in, err := raster.Import(ctx, data)
	if err != nil {
		return store.File{}, fmt.Errorf("%s: %w", name, err)
	}
	return a.storeImported(ctx, m, name, in)
}

func (a *house) storeImported(ctx context.Context, m Member, name string, in raster.Imported) (store.File, error) {
	if _, err := a.blobs.Put(ctx, in.Data); err != nil {
		return store.File{}, err
	}
	// the name says what the file is now
	if ext := map[string]string{"image/jpeg": ".jpg", "image/png": ".png"}[in.Type]; !strings.HasSuffix(name, ext) {
		if i := strings.LastIndexByte(name, '.'); i > 0 {
			name = name[:i]
		}
		name += ext
	}
	facts, err := a.factsOf(ctx, in)
	if err != nil {
		return store.File{}, err
	}
	return store.File{
		Workspace: m.Workspace, Hash: in.Hash, Kind: "picture", Name: cleanName(name), Type: in.Type, Bytes: int64(len(in.Data)),
		Facts: raw(facts),
	}, nil
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

func (a *house) storeClip(ctx context.Context, m Member, name string, data []byte) (store.File, error) {
	if len(data) > raster.MaxBytes {
		return store.File{}, fmt.Errorf("%w: %s has %d MB, at most %d MB are taken", ErrInvalid, name, len(data)>>20, raster.MaxBytes>>20)
	}
	facts, err := a.kitClip(ctx, data)
	if err != nil {
		return store.File{}, clipTrouble(name, err)
	}
	hash, err := a.blobs.Put(ctx, data)
	return store.File{Workspace: m.Workspace, Hash: hash, Kind: "clip", Name: cleanName(name), Type: clipType(data), Bytes: int64(len(data)), Facts: raw(facts)}, err
}

// AddBrandPicture takes a picture or clip into a kit. What it is for is guessed:
// a drawing with a transparent ground is an icon, a film a clip.
func (a Brand) AddBrandPicture(ctx context.Context, m Member, kit ID, client, name string, data []byte) error {
	if err := a.mayOn(ctx, m, roles.WriteKits, kit); err != nil {
		return err
	}
	k, err := a.kits.Kit(ctx, m, kit)
	if err != nil {
		return err
	}
	if len(k.Pictures) >= brand.MaxPictures {
		return fmt.Errorf("%w: the kit has %d pictures already; take some out first", ErrInvalid, len(k.Pictures))
	}
	kind := brand.PhotoPicture
	var f store.File
	if clipType(data) != "" {
		kind = brand.Clip
		f, err = a.storeClip(ctx, m, name, data)
	} else {
		f, err = a.storePicture(ctx, m, name, data)
		if raster.Kind(data) == "svg" && f.Type == "image/png" { // a drawing one sees through
			kind = brand.Icon
		}
	}
	if err != nil {
		return err
	}
	return a.promote(ctx, m, k, client, refOf(f), "", kind, f)
}

// Promote makes a file of the workspace a picture of the brand.
func (a Brand) Promote(ctx context.Context, m Member, kit ID, client, ref, alt string, kind brand.PictureKind) error {
	k, err := a.kits.Kit(ctx, m, kit)
	if err != nil {
		return err
	}
	stored := "picture"
	if kind == brand.Clip {
		stored = "clip"
	}
	if _, err := a.store.File(ctx, m.Workspace, stored, HashOf(ref)); err != nil {
		return err
	}
	return a.promote(ctx, m, k, client, ref, alt, kind)
}

func (a *house) promote(ctx context.Context, m Member, k *Kit, client, ref, alt string, kind brand.PictureKind, files ...store.File) error {
	if slices.ContainsFunc(k.Pictures, func(p brand.Picture) bool { return HashOf(p.File) == HashOf(ref) }) {
		return fmt.Errorf("%w: this picture is in the kit already", ErrInvalid)
	}
	pic := map[string]any{"file": ref, "kind": kind}
	if alt != "" {
		pic["alt"] = alt
	}
	_, err := a.documents.Edit(ctx, m, k.ID, Change{Kind: "kit", Client: client, Base: Latest, Files: files, Op: edit.Op{Path: "/$extensions/aspenridge/pictures/-", Value: raw(pic)}})
	return err
}

// PromoteLogo makes a picture of the workspace a logo of a kit.
func (a Brand) PromoteLogo(ctx context.Context, m Member, kit ID, client, ref string) error {
	if _, err := a.store.File(ctx, m.Workspace, "picture", HashOf(ref)); err != nil {
		return err
	}
	data, err := a.blobs.Get(ctx, HashOf(ref))
	if err != nil {
		return err
	}
	_, name, _ := strings.Cut(ref, "/")
	return a.AddLogo(ctx, m, kit, client, name, data)
}

// PictureSize is a picture's width and height in px.
func (a Files) PictureSize(ctx context.Context, m Member, hash string) (w, h int, err error) {
	f, err := a.store.File(ctx, m.Workspace, "picture", hash)
	if err != nil {
		return 0, 0, err
	}
	var facts pictureFacts
	err = json.Unmarshal(f.Facts, &facts)
	return facts.W, facts.H, err
}

// PictureFocus is the point of a picture that matters most, as it was guessed, 0-1
// from the top left.
func (a Files) PictureFocus(ctx context.Context, m Member, hash string) ([2]float64, error) {
	f, err := a.store.File(ctx, m.Workspace, "picture", hash)
	if err != nil {
		return [2]float64{}, err
	}
	var facts pictureFacts
	err = json.Unmarshal(f.Facts, &facts)
	return facts.focus(), err
}

// ColoursOf are up to n colours that make up a picture nobody keeps, most used first.
func (a Files) ColoursOf(ctx context.Context, m Member, name string, data []byte, n int) ([]colour.Found, error) {
	if err := act.May(m, roles.WriteBriefs); err != nil {
		return nil, err
	}
	in, err := raster.Import(ctx, data)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
	}
	return raster.Colours(ctx, in.Data, n)
}

// PictureColours are up to n colours that make up a picture, most used first.
func (a Files) PictureColours(ctx context.Context, m Member, hash string, n int) ([]colour.Found, error) {
	if _, err := a.store.File(ctx, m.Workspace, "picture", hash); err != nil {
		return nil, err
	}
	data, err := a.blobs.Get(ctx, hash)
	if err != nil {
		return nil, err
	}
	return raster.Colours(ctx, data, n)
}
