package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/edit"
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
}

// Offer is a colour proposed for the kit.
type Offer struct {
	Colour colour.RGB
	Name   string
	Ground bool // it is the ground a logo stands on, not its ink
}

// NewKit starts a kit; naming it may come later.
func (a *App) NewKit(ctx context.Context, m Member, name string) (ID, error) {
	if err := may(m, change); err != nil {
		return ID{}, err
	}
	doc := edit.NewObject()
	ext, own := edit.NewObject(), edit.NewObject()
	own.Set("formatVersion", json.Number("1"))
	own.Set("name", strings.TrimSpace(name))
	ext.Set("aspenridge", own)
	doc.Set("$extensions", ext)
	return a.putKit(ctx, m, doc)
}

// ImportKit puts a whole kit document in, as a copy of somebody's file.
func (a *App) ImportKit(ctx context.Context, m Member, doc []byte) (ID, error) {
	if err := may(m, change); err != nil {
		return ID{}, err
	}
	o, err := edit.ParseObject(doc)
	if err != nil {
		return ID{}, fmt.Errorf("%w: %v", ErrInvalid, err)
	}
	return a.putKit(ctx, m, o)
}

func (a *App) putKit(ctx context.Context, m Member, doc *edit.Object) (ID, error) {
	k, err := parseKit(doc)
	if err != nil {
		return ID{}, fmt.Errorf("%w: %v", ErrInvalid, err)
	}
	d, err := a.Store.CreateDocument(ctx, store.Document{Workspace: m.Workspace, Kind: "kit", Name: k.Name, Doc: raw(doc)})
	return d.ID, err
}

func parseKit(doc *edit.Object) (*brand.Kit, error) {
	k, err := brand.Parse(doc)
	if err != nil {
		return nil, err
	}
	return k, nil
}

// Kit reads a kit with its logos and fonts.
func (a *App) Kit(ctx context.Context, m Member, id ID) (*Kit, error) {
	if err := may(m, view); err != nil {
		return nil, err
	}
	seqs, err := a.Store.Seqs(ctx, m.Workspace, id)
	if err != nil {
		return nil, err
	}
	a.mu.Lock()
	k := a.kits[id]
	a.mu.Unlock()
	if k != nil && k.Seq == seqs[0] { // Seqs found it in the workspace
		return k, nil
	}
	d, err := a.Store.Document(ctx, m.Workspace, id)
	if err != nil {
		return nil, err
	}
	if d.Kind != "kit" {
		return nil, ErrNotFound
	}
	if k, err = a.loadKit(ctx, d); err != nil {
		return nil, err
	}
	a.mu.Lock()
	if len(a.kits) > 200 {
		clear(a.kits)
	}
	a.kits[id] = k
	a.mu.Unlock()
	return k, nil
}

func (a *App) loadKit(ctx context.Context, d store.Document) (*Kit, error) {
	doc, err := edit.ParseObject(d.Doc)
	if err != nil {
		return nil, err
	}
	b, err := parseKit(doc)
	if err != nil {
		return nil, err
	}
	k := &Kit{Kit: b, ID: d.ID, Seq: d.Seq}
	if k.Library, err = a.loadFonts(ctx, d.Workspace, b); err != nil {
		return nil, err
	}
	if err := kitfile.CheckFonts(b, k.Library, true); err != nil {
		return nil, err
	}
	declined := map[string]bool{}
	if list, ok := doc.Object("$extensions").Object("aspenridge").Get("declinedColours").([]any); ok {
		for _, v := range list {
			declined[fmt.Sprint(v)] = true
		}
	}
	have := b.Colours()
	for i := range b.Logos {
		l := &b.Logos[i]
		f, err := a.Store.File(ctx, d.Workspace, "logo", HashOf(l.File))
		if errors.Is(err, ErrNotFound) {
			b.Warnings = append(b.Warnings, "the file of a logo is missing: "+l.File)
			continue
		}
		if err != nil {
			return nil, err
		}
		var in raster.ImportedLogo
		if err := json.Unmarshal(f.Facts, &in); err != nil {
			return nil, err
		}
		l.Art = &in.Art
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

// Kits lists the kits of the workspace, latest first.
func (a *App) Kits(ctx context.Context, m Member) ([]*Kit, error) {
	docs, err := a.Store.Documents(ctx, m.Workspace, "kit", 60)
	if err != nil {
		return nil, err
	}
	var out []*Kit
	for _, d := range docs {
		k, err := a.Kit(ctx, m, d.ID)
		if err != nil {
			return nil, err
		}
		out = append(out, k)
	}
	return out, nil
}
