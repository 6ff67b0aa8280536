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
	"aspenridge/internal/act"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/core/typeset"
	"aspenridge/internal/raster"
	"aspenridge/internal/store"
)

// loadFonts puts a kit's own fonts in front of the shipped ones.
func (a *house) loadFonts(ctx context.Context, workspace ID, k *brand.Kit) (*typeset.Library, error) {
	var hashes []string
	for _, f := range k.Fonts {
		hashes = append(hashes, HashOf(f.File))
	}
	known, err := a.store.Files(ctx, workspace, "font", hashes)
	if err != nil {
		return nil, err
	}
	var entries []typeset.Entry
	for i := range k.Fonts {
		f := &k.Fonts[i]
		file, ok := known[HashOf(f.File)]
		if !ok {
			k.Warnings = append(k.Warnings, "the file of a font is missing: "+f.File)
			continue
		}
		facts, err := a.provenFont(ctx, file)
		if err != nil {
			return nil, err
		}
		f.Facts, f.Family = facts.Facts, facts.Family
		if facts.Refused != "" {
			k.Warnings = append(k.Warnings, "a font cannot be used any more: "+facts.Refused)
			continue
		}
		entries = append(entries, typeset.Entry{Family: f.Family, Weight: f.Facts.Weight, Italic: f.Facts.Italic, Read: func() ([]byte, error) {
			return a.blobs.Get(context.WithoutCancel(ctx), facts.bytes(file))
		}})
	}
	if len(entries) == 0 {
		return assets.Library(), nil
	}
	return typeset.NewLibrary(assets.Library(), entries...), nil
}

// fontFacts is what is known of a font file.
type fontFacts struct {
	typeset.Facts
	Proven  string `json:",omitempty"` // hash of the proven face, "" when the file is that itself
	Refused string `json:",omitempty"` // why it cannot be used
}

func (f fontFacts) bytes(file store.File) string {
	if f.Proven != "" {
		return f.Proven
	}
	return file.Hash
}

// provenFont reads what is known of a font; one that was taken in before faces
// were proven, or by older rules, is proven now, once.
func (a *house) provenFont(ctx context.Context, file store.File) (fontFacts, error) {
	var facts fontFacts
	if err := json.Unmarshal(file.Facts, &facts); err != nil {
		return facts, err
	}
	if facts.Proof >= typeset.ProofVersion || facts.Refused != "" {
		return facts, nil
	}
	data, err := a.blobs.Get(ctx, file.Hash)
	if err != nil {
		return facts, err
	}
	in, err := raster.ImportFont(ctx, data)
	switch {
	case errors.Is(err, raster.ErrFile):
		facts.Refused = err.Error()
	case err != nil:
		return facts, err
	default:
		facts.Facts = in.Facts
		if facts.Proven, err = a.blobs.Put(ctx, in.Data); err != nil {
			return facts, err
		}
	}
	file.Facts = raw(facts)
	return facts, a.store.PutFile(ctx, ID{}, file)
}

// AddFont takes a font file into a kit. A restricted one is taken too, since
// its owner may have leave: the kit says so until somebody confirms the right.
func (a Brand) AddFont(ctx context.Context, m Member, kit ID, client, name string, data []byte) error {
	if err := a.mayOn(ctx, m, roles.WriteKits, kit); err != nil {
		return err
	}
	k, err := a.kits.Kit(ctx, m, kit)
	if err != nil {
		return err
	}
	_, f, err := a.storeFont(ctx, m, name, data)
	if err != nil {
		return err
	}
	if slices.ContainsFunc(k.Fonts, func(o brand.Font) bool { return HashOf(o.File) == f.Hash }) {
		return fmt.Errorf("%w: this font is in the kit already", ErrInvalid)
	}
	_, err = a.documents.Edit(ctx, m, kit, Change{Kind: "kit", Client: client, Base: Latest, Files: []store.File{f}, Op: edit.Op{Path: fontsPath + "/-", Value: raw(map[string]any{"file": refOf(f)})}})
	return err
}

const fontsPath = "/$extensions/aspenridge/fonts"

// storeFont reads a font file and keeps the proven face; whoever uses it records
// the file with that change.
func (a *house) storeFont(ctx context.Context, m Member, name string, data []byte) (raster.ImportedFont, store.File, error) {
	in, err := raster.ImportFont(ctx, data)
	if err != nil {
		return in, store.File{}, fmt.Errorf("%s: %w", name, err)
	}
	if _, err := a.blobs.Put(ctx, in.Data); err != nil {
		return in, store.File{}, err
	}
	// what is kept is the plain face, whatever it came wrapped in
	ext := ".ttf"
	if bytes.HasPrefix(in.Data, []byte("OTTO")) {
		ext = ".otf"
	}
	name = strings.TrimSuffix(name, path.Ext(name)) + ext
	return in, store.File{Workspace: m.Workspace, Hash: in.Hash, Kind: "font", Name: cleanName(name), Type: "font/sfnt", Bytes: int64(len(in.Data)), Facts: raw(fontFacts{Facts: in.Facts})}, nil
}

// ownFont finds one of the kit's own fonts by its id.
func (k *Kit) ownFont(id string) (brand.Font, error) {
	n := slices.IndexFunc(k.Fonts, func(f brand.Font) bool { return f.ID == id })
	if n < 0 || id == "" || n >= k.OwnFiles("fonts") {
		return brand.Font{}, ErrNotFound
	}
	return k.Fonts[n], nil
}

// ConfirmFont records that somebody confirmed the right to use a font of the
// kit, or takes that back.
func (a Brand) ConfirmFont(ctx context.Context, m Member, kit ID, client, id string, right bool) error {
	k, err := a.kits.Kit(ctx, m, kit)
	if err != nil {
		return err
	}
	if _, err := k.ownFont(id); err != nil {
		return err
	}
	op := edit.Op{Path: fontsPath + "/@" + id + "/rights"}
	if right {
		op.Value = raw(map[string]any{"confirmedBy": m.Name, "confirmedAt": a.now().UTC().Format(time.DateOnly)})
	}
	_, err = a.documents.Edit(ctx, m, kit, Change{Kind: "kit", Client: client, Base: k.Seq, Op: op})
	return err
}

// ReplaceFont puts another file in a font's place: levels set in the old family
// are set in the new one, in its nearest weights. The right to use it is asked
// for anew. All in one step.
func (a Brand) ReplaceFont(ctx context.Context, m Member, kit ID, client, id, name string, data []byte) error {
	if err := a.mayOn(ctx, m, roles.WriteKits, kit); err != nil {
		return err
	}
	k, err := a.kits.Kit(ctx, m, kit)
	if err != nil {
		return err
	}
	old, err := k.ownFont(id)
	if err != nil {
		return err
	}
	in, f, err := a.storeFont(ctx, m, name, data)
	if err != nil {
		return err
	}
	ops := []edit.Op{{Path: fontsPath + "/@" + id, Value: raw(map[string]any{"file": refOf(f)})}}
	weights := []int{in.Facts.Weight}
	for _, f := range k.Fonts {
		if f.Family == in.Facts.Family {
			weights = append(weights, f.Facts.Weight)
		}
	}
	for _, set := range k.TypeSets {
		for _, l := range brand.Levels {
			path := brand.TypePath(set.ID) + "/" + string(l)
			if _, own := edit.Lookup(k.stands.own, path); !own || set.Levels[l].Family != old.Family || old.Family == in.Facts.Family {
				continue
			}
			ops = append(ops, edit.Op{Path: path + "/$value/fontFamily", Value: raw(in.Facts.Family)},
				edit.Op{Path: path + "/$value/fontWeight", Value: raw(nearest(weights, set.Levels[l].Weight))})
		}
	}
	_, err = a.documents.Edit(ctx, m, kit, Change{Kind: "kit", Client: client, Base: k.Seq, Files: []store.File{f}, Op: edit.Op{All: ops}})
	return err
}

// FontFile is the face of a kit's own font, for the pages that show it: never
// what was uploaded, always what was proven.
func (a Brand) FontFile(ctx context.Context, m Member, hash string) ([]byte, error) {
	if err := act.May(m, roles.Look); err != nil {
		return nil, err
	}
	file, err := a.store.File(ctx, m.Workspace, "font", hash)
	if err != nil {
		return nil, err
	}
	facts, err := a.provenFont(ctx, file)
	if err != nil {
		return nil, err
	}
	if facts.Refused != "" {
		return nil, ErrNotFound
	}
	return a.blobs.Get(ctx, facts.bytes(file))
}
