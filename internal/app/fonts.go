package app

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"path"
	"slices"
	"strings"
	"time"

	"aspenridge/assets"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/typeset"
	"aspenridge/internal/raster"
	"aspenridge/internal/store"
)

// loadFonts puts a kit's own fonts in front of the shipped ones.
func (a *App) loadFonts(ctx context.Context, workspace ID, k *brand.Kit) (*typeset.Library, error) {
	var entries []typeset.Entry
	for i := range k.Fonts {
		f := &k.Fonts[i]
		file, err := a.Store.File(ctx, workspace, "font", HashOf(f.File))
		if errors.Is(err, ErrNotFound) {
			k.Warnings = append(k.Warnings, "the file of a font is missing: "+f.File)
			continue
		}
		if err != nil {
			return nil, err
		}
		if err := json.Unmarshal(file.Facts, &f.Facts); err != nil {
			return nil, err
		}
		f.Family = f.Facts.Family
		hash := file.Hash
		entries = append(entries, typeset.Entry{Family: f.Family, Weight: f.Facts.Weight, Italic: f.Facts.Italic, Read: func() ([]byte, error) {
			return a.Blobs.Get(context.Background(), hash)
		}})
	}
	if len(entries) == 0 {
		return assets.Library(), nil
	}
	return typeset.NewLibrary(assets.Library(), entries...), nil
}

// AddFont takes a font file into a kit. A restricted one is taken too, since
// its owner may have leave: the kit says so until somebody confirms the right.
func (a *App) AddFont(ctx context.Context, m Member, kit ID, client, name string, data []byte) error {
	if err := may(m, change); err != nil {
		return err
	}
	k, err := a.Kit(ctx, m, kit)
	if err != nil {
		return err
	}
	in, err := raster.ImportFont(ctx, data)
	if err != nil {
		return fmt.Errorf("%s: %w", name, err)
	}
	if slices.ContainsFunc(k.Fonts, func(f brand.Font) bool { return HashOf(f.File) == in.Hash }) {
		return fmt.Errorf("%w: this font is in the kit already", ErrInvalid)
	}
	ref, err := a.keepFont(ctx, m, name, in)
	if err != nil {
		return err
	}
	_, err = a.Edit(ctx, m, kit, Change{Client: client, Base: Latest, Op: edit.Op{Path: "/$extensions/aspenridge/fonts/-", Value: raw(map[string]any{"file": ref})}})
	return err
}

func (a *App) keepFont(ctx context.Context, m Member, name string, in raster.ImportedFont) (string, error) {
	if _, err := a.Blobs.Put(ctx, in.Data); err != nil {
		return "", err
	}
	// what is kept is the plain face, whatever it came wrapped in
	name = strings.TrimSuffix(name, path.Ext(name)) + ".ttf"
	if bytes.HasPrefix(in.Data, []byte("OTTO")) {
		name = strings.TrimSuffix(name, ".ttf") + ".otf"
	}
	err := a.Store.PutFile(ctx, store.File{Workspace: m.Workspace, Hash: in.Hash, Kind: "font", Name: cleanName(name), Type: "font/sfnt", Bytes: int64(len(in.Data)), Facts: raw(in.Facts)})
	return fileRef(in.Hash, name), err
}

// ConfirmFont records that somebody confirmed the right to use a font of the
// kit, or takes that back.
func (a *App) ConfirmFont(ctx context.Context, m Member, kit ID, client string, n int, right bool) error {
	k, err := a.Kit(ctx, m, kit)
	if err != nil {
		return err
	}
	if n < 0 || n >= len(k.Fonts) {
		return ErrNotFound
	}
	op := edit.Op{Path: fmt.Sprintf("/$extensions/aspenridge/fonts/%d/rights", n)}
	if right {
		op.Value = raw(map[string]any{"confirmedBy": m.Name, "confirmedAt": time.Now().UTC().Format(time.DateOnly)})
	}
	_, err = a.Edit(ctx, m, kit, Change{Client: client, Base: k.Seq, Op: op})
	return err
}

// ReplaceFont puts another file in a font's place: levels set in the old family
// are set in the new one, in its nearest weights. The right to use it is asked
// for anew. All in one step.
func (a *App) ReplaceFont(ctx context.Context, m Member, kit ID, client string, n int, name string, data []byte) error {
	if err := may(m, change); err != nil {
		return err
	}
	k, err := a.Kit(ctx, m, kit)
	if err != nil {
		return err
	}
	d, stands, err := a.kitDocument(ctx, m, kit)
	if err != nil {
		return err
	}
	if n < 0 || n >= len(k.Fonts) || n >= k.OwnFiles("fonts") {
		return ErrNotFound
	}
	in, err := raster.ImportFont(ctx, data)
	if err != nil {
		return fmt.Errorf("%s: %w", name, err)
	}
	ref, err := a.keepFont(ctx, m, name, in)
	if err != nil {
		return err
	}
	ops := []edit.Op{{Path: fmt.Sprintf("/$extensions/aspenridge/fonts/%d", n), Value: raw(map[string]any{"file": ref})}}
	weights := []int{in.Facts.Weight}
	for _, f := range k.Fonts {
		if f.Family == in.Facts.Family {
			weights = append(weights, f.Facts.Weight)
		}
	}
	for _, set := range k.TypeSets {
		for _, l := range brand.Levels {
			path := brand.TypePath(set.ID) + "/" + string(l)
			if _, own := edit.Lookup(stands.own, path); !own || set.Levels[l].Family != k.Fonts[n].Family || k.Fonts[n].Family == in.Facts.Family {
				continue
			}
			ops = append(ops, edit.Op{Path: path + "/$value/fontFamily", Value: raw(in.Facts.Family)},
				edit.Op{Path: path + "/$value/fontWeight", Value: raw(nearest(weights, set.Levels[l].Weight))})
		}
	}
	_, err = a.Edit(ctx, m, kit, Change{Client: client, Base: d.Seq, Op: edit.Op{All: ops}})
	return err
}

// FontFile is the face of a kit's own font, for the pages that show it.
func (a *App) FontFile(ctx context.Context, m Member, hash string) ([]byte, error) {
	if err := may(m, view); err != nil {
		return nil, err
	}
	if _, err := a.Store.File(ctx, m.Workspace, "font", hash); err != nil {
		return nil, err
	}
	return a.Blobs.Get(ctx, hash)
}
