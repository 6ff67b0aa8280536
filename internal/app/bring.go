package app

import (
	"bytes"
	"context"
	"fmt"

	"aspenridge/internal/act"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/raster"
	"aspenridge/internal/store"
)

// BringKit makes a kit of whatever there is: an archive, a kit document, tokens
// of anybody, CSS, a GPL palette, a list of colours, a logo (PNG, SVG, WebP,
// GIF), a photograph (JPEG). A fault leaves no kit behind.
func (a Kits) BringKit(ctx context.Context, m Member, name string, data []byte) (ID, error) {
	if err := act.MayAll(m, roles.WriteKits); err != nil {
		return ID{}, err
	}
	switch {
	case bytes.HasPrefix(data, []byte("PK")):
		return a.ImportArchive(ctx, m, data)
	case raster.Kind(data) == "jpeg":
		return a.fromPicture(ctx, m, name, data)
	case raster.Kind(data) != "":
		return a.fromFile(ctx, m, func(ctx context.Context, m Member, kit ID) error {
			if err := a.brand.AddLogo(ctx, m, kit, "", name, data); err != nil {
				return err
			}
			return a.FromLogo(ctx, m, kit, "")
		})
	}
	if len(data) > edit.MaxBytes {
		return ID{}, fmt.Errorf("%w: %s has %d MB; an archive or a picture may, a kit document or a list of colours has at most %d MB", ErrInvalid, name, len(data)>>20, edit.MaxBytes>>20)
	}
	if doc, err := edit.ParseObject(data); err == nil && brand.Own(doc) != nil {
		return a.ImportKit(ctx, m, data)
	}
	list, err := brand.ReadColours(string(data))
	if err != nil {
		return ID{}, fmt.Errorf("%w: %s: %v; an archive, design tokens, CSS, a GPL palette, a list of colours, a logo or a picture makes a kit", ErrInvalid, name, err)
	}
	var colours []NewColour
	for _, c := range list {
		colours = append(colours, NewColour{Name: c.Name, Value: c.Value, Role: c.Role})
	}
	return a.fromFile(ctx, m, func(ctx context.Context, m Member, kit ID) error {
		return a.brand.KeepColours(ctx, m, kit, "", colours...)
	})
}

// fromFile makes a kit and fills it; until that is done it is on no list, and
// when it fails it never is.
func (a *house) fromFile(ctx context.Context, m Member, fill func(ctx context.Context, m Member, kit ID) error) (ID, error) {
	d, err := a.store.CreateDocument(ctx, m, store.Document{Workspace: m.Workspace, Kind: "kit", Doc: raw(emptyKit("")), Hidden: true}, nil)
	if err != nil {
		return ID{}, err
	}
	// what fills it is not the change that was asked for: showing it is
	if err := fill(ctx, m.Sending(""), d.ID); err != nil {
		return ID{}, err
	}
	return d.ID, a.store.Show(ctx, m, d.ID)
}

// fromPicture makes a kit of a photograph: its colours, neutrals where no two
// carry text, and the picture itself.
func (a *house) fromPicture(ctx context.Context, m Member, name string, data []byte) (ID, error) {
	in, err := raster.Import(ctx, data)
	if err != nil {
		return ID{}, fmt.Errorf("%s: %w", name, err)
	}
	list, err := pictureColours(ctx, in)
	if err != nil {
		return ID{}, err
	}
	return a.fromFile(ctx, m, func(ctx context.Context, m Member, kit ID) error {
		if err := a.brand.KeepColours(ctx, m, kit, "", list...); err != nil {
			return err
		}
		return a.brand.AddBrandPicture(ctx, m, kit, "", name, data)
	})
}

// pictureColours are the colours of a photograph, and neutrals where no two of
// them carry text.
func pictureColours(ctx context.Context, in raster.Imported) ([]NewColour, error) {
	found, err := raster.Colours(ctx, in.Data, 5)
	if err != nil {
		return nil, err
	}
	var list []NewColour
	for _, f := range found {
		list = append(list, NewColour{Value: f.Colour})
	}
	have := &brand.Kit{Palettes: []brand.Palette{{ID: "main", Colours: toColours(list)}}}
	for _, n := range have.Neutrals() {
		list = append(list, NewColour{Value: n, Guessed: true})
	}
	return list, nil
}
