package app

import (
	"context"
	"fmt"
	"path"
	"slices"
	"strings"

	"aspenridge/assets"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/core/typeset"
	"aspenridge/internal/raster"
	"aspenridge/internal/store"
)

// AddLogo takes a logo file into a kit: imported, measured, its lockup and tone
// proposed.
func (a Brand) AddLogo(ctx context.Context, m Member, kit ID, client, name string, data []byte) error {
	if err := a.mayOn(ctx, m, roles.WriteKits, kit); err != nil {
		return err
	}
	k, err := a.kits.Kit(ctx, m, kit)
	if err != nil {
		return err
	}
	in, f, err := a.storeLogo(ctx, m, name, data, k.ownFaces()...)
	if err != nil {
		return err
	}
	if slices.ContainsFunc(k.Logos, func(l brand.Logo) bool { return HashOf(l.File) == f.Hash }) {
		return fmt.Errorf("%w: this file is in the kit already", ErrInvalid)
	}
	logo := map[string]any{"file": refOf(f), "lockup": in.Lockup, "tone": in.Tone}
	if len(k.Logos) == 0 {
		logo["lead"] = true
	}
	_, err = a.documents.Edit(ctx, m, kit, Change{Kind: "kit", Client: client, Base: Latest, Files: []store.File{f}, Op: edit.Op{Path: logosPath + "/-", Value: raw(logo)}})
	return err
}

const logosPath = "/$extensions/aspenridge/logos"

// ownFaces are the faces of a kit that do not ship.
func (k *Kit) ownFaces() []typeset.Entry {
	if k.Library == assets.Library() {
		return nil
	}
	return k.Library.Own()
}

// storeLogo reads a logo file and keeps its bytes; whoever uses it records the
// file with that change. What is kept of a drawing is the drawing as it was
// cleaned, its words outlined in the faces given and in those that ship.
func (a *house) storeLogo(ctx context.Context, m Member, name string, data []byte, own ...typeset.Entry) (raster.ImportedLogo, store.File, error) {
	in, err := raster.ImportLogo(ctx, data, own...)
	if err != nil {
		return in, store.File{}, fmt.Errorf("%s: %w", name, err)
	}
	hash, err := a.blobs.Put(ctx, in.File)
	f := store.File{Workspace: m.Workspace, Hash: hash, Kind: "logo", Name: cleanName(name), Type: "image/" + raster.Kind(in.File), Bytes: int64(len(in.File))}
	in.File = nil
	f.Facts = raw(in)
	return in, f, err
}

// ownLogo finds one of the kit's own logos by its id.
func (k *Kit) ownLogo(id string) (brand.Logo, error) {
	n := slices.IndexFunc(k.Logos, func(l brand.Logo) bool { return l.ID == id })
	switch {
	case n < 0 || id == "":
		return brand.Logo{}, ErrNotFound
	case n >= k.OwnFiles("logos"):
		return brand.Logo{}, fmt.Errorf("%w: this logo is %s's; change it there, or copy it here first", ErrInvalid, orNew(k.stands.chain[0].Name))
	}
	return k.Logos[n], nil
}

// editLogo makes the changes to a kit that a logo of it, by its id, asks for; as
// one step.
func (a *house) editLogo(ctx context.Context, m Member, kit ID, client, id string, ops func(k *Kit, l brand.Logo) ([]edit.Op, []store.File, error)) error {
	if err := a.mayOn(ctx, m, roles.WriteKits, kit); err != nil {
		return err
	}
	k, err := a.kits.Kit(ctx, m, kit)
	if err != nil {
		return err
	}
	l, err := k.ownLogo(id)
	if err != nil {
		return err
	}
	list, files, err := ops(k, l)
	if err != nil {
		return err
	}
	_, err = a.documents.Edit(ctx, m, kit, Change{Kind: "kit", Client: client, Base: k.Seq, Files: files, Op: edit.Op{All: list}})
	return err
}

// leads makes a logo the one that leads, and no other.
func leads(k *Kit, id string) []edit.Op {
	ops := []edit.Op{{Path: logosPath + "/@" + id + "/lead", Value: raw(true)}}
	for _, o := range k.Logos[:k.OwnFiles("logos")] {
		if o.Lead && o.ID != id {
			ops = append(ops, edit.Op{Path: logosPath + "/@" + o.ID + "/lead"})
		}
	}
	return ops
}

// LeadLogo makes a logo the one that is used when nothing speaks against it.
func (a Brand) LeadLogo(ctx context.Context, m Member, kit ID, client, id string) error {
	return a.editLogo(ctx, m, kit, client, id, func(k *Kit, _ brand.Logo) ([]edit.Op, []store.File, error) {
		return leads(k, id), nil, nil
	})
}

// MoveLogo puts a logo in front of another one in the order, or last.
func (a Brand) MoveLogo(ctx context.Context, m Member, kit ID, client, id, before string) error {
	return a.editLogo(ctx, m, kit, client, id, func(k *Kit, _ brand.Logo) ([]edit.Op, []store.File, error) {
		op := edit.Op{Path: logosPath + "/@" + id, Move: true}
		if before != "" {
			op.Before = "@" + before
		}
		return []edit.Op{op}, nil, nil
	})
}

// CutLogo adds a copy of a logo without the box it stands in, right after it;
// the copy leads where the original did.
func (a Brand) CutLogo(ctx context.Context, m Member, kit ID, client, id string) error {
	return a.besideLogo(ctx, m, kit, client, id, func(_ *Kit, l brand.Logo) ([]byte, string, string, error) {
		data, err := a.blobs.Get(ctx, HashOf(l.File))
		if err != nil {
			return nil, "", "", err
		}
		out, ext, err := raster.CutLogo(ctx, data)
		return out, "cut" + ext, l.Tone, err
	})
}

// ToneLogo adds a version of a logo in another tone, right after it.
func (a Brand) ToneLogo(ctx context.Context, m Member, kit ID, client, id, tone string) error {
	return a.besideLogo(ctx, m, kit, client, id, func(k *Kit, l brand.Logo) ([]byte, string, string, error) {
		out, err := k.toned(&l, tone)
		return out, tone + "." + raster.Kind(out), tone, err
	})
}

// toned is a logo drawn in another tone, in the kit's colours.
func (k *Kit) toned(l *brand.Logo, tone string) ([]byte, error) {
	if l.Art == nil {
		return nil, fmt.Errorf("%w: the file of this logo is missing; give it again", ErrInvalid)
	}
	light, dark := k.Extremes()
	ink, paper := dark, light
	if tone == "for-dark" {
		ink, paper = light, dark
	}
	made := k.tones.Once(l.Art.Hash+tone+ink.Hex()+paper.Hex(), func() (m madeTone) {
		m.data, m.err = raster.Retone(l.Art, tone, ink, paper)
		return m
	})
	return made.data, made.err
}

type madeTone struct {
	data []byte
	err  error
}

// MissingTone is a version of the leading logo in a tone the kit lacks.
type MissingTone struct {
	Logo   string // id of the logo it is made of
	Tone   string // for-dark or for-light
	Ground colour.RGB
	Data   []byte // the file: SVG, or PNG where the logo is a bitmap
}

// MissingTone finds a ground of the kit on which none of its logos reads, the lead
// colour first, then its darkest and its lightest, and makes the version for it
// of the leading logo, of a bitmap in one colour; false where every ground has one.
func (k *Kit) MissingTone() (MissingTone, bool) {
	lead := slices.IndexFunc(k.Logos, func(l brand.Logo) bool { return l.Lead })
	if lead < 0 {
		lead = 0
	}
	if len(k.Logos) == 0 || lead >= k.OwnFiles("logos") || k.Logos[lead].Art == nil || k.Logos[lead].Art.SVG != "" && k.Logos[lead].Art.Box != nil {
		return MissingTone{}, false
	}
	light, dark := k.Extremes()
	grounds := []colour.RGB{dark, light}
	if i := slices.IndexFunc(k.Colours(), func(c brand.Colour) bool { return c.Role == brand.Lead && !c.NeverGround }); i >= 0 {
		grounds = []colour.RGB{k.Colours()[i].Value, dark, light}
	}
	for _, g := range grounds {
		if slices.ContainsFunc(k.Logos, func(l brand.Logo) bool { return l.Art != nil && l.Fits(g) }) {
			continue
		}
		tone := "for-light"
		if g.Luminance() <= 0.18 {
			tone = "for-dark"
		}
		if data, err := k.toned(&k.Logos[lead], tone); err == nil {
			return MissingTone{k.Logos[lead].ID, tone, g, data}, true
		}
		return MissingTone{}, false
	}
	return MissingTone{}, false
}

// Extremes are the lightest and the darkest colour of the kit, white and black
// where it has none that are light (relative luminance above 0.6) or dark (below
// 0.12).
func (k *Kit) Extremes() (light, dark colour.RGB) {
	light, dark = colour.White, colour.Black
	best, least := 0.6, 0.12
	for _, c := range k.Colours() {
		if l := c.Value.Luminance(); l > best {
			best, light = l, c.Value
		} else if l < least {
			least, dark = l, c.Value
		}
	}
	return light, dark
}

// besideLogo makes a logo of another one and puts it right after.
func (a *house) besideLogo(ctx context.Context, m Member, kit ID, client, id string, make func(k *Kit, l brand.Logo) (data []byte, name, tone string, err error)) error {
	return a.editLogo(ctx, m, kit, client, id, func(k *Kit, l brand.Logo) ([]edit.Op, []store.File, error) {
		data, ending, tone, err := make(k, l)
		if err != nil {
			return nil, nil, err
		}
		_, base, _ := strings.Cut(l.File, "/")
		_, f, err := a.storeLogo(ctx, m, strings.TrimSuffix(base, path.Ext(base))+"-"+ending, data, k.ownFaces()...)
		if err != nil {
			return nil, nil, err
		}
		if slices.ContainsFunc(k.Logos, func(o brand.Logo) bool { return HashOf(o.File) == f.Hash }) {
			return nil, nil, fmt.Errorf("%w: this version is in the kit already", ErrInvalid)
		}
		fresh := store.NewMemberID()
		op := edit.Op{Path: logosPath + "/@" + fresh, Value: raw(map[string]any{"file": refOf(f), "lockup": l.Lockup, "tone": tone, "clearSpace": l.ClearSpace, "minWidth": l.MinWidth, "ownColours": l.OwnColours})}
		if n := slices.IndexFunc(k.Logos, func(o brand.Logo) bool { return o.ID == id }); n+1 < k.OwnFiles("logos") {
			op.Before = "@" + k.Logos[n+1].ID
		}
		ops := []edit.Op{op}
		if l.Lead && tone == l.Tone {
			ops = append(ops, leads(k, fresh)...)
		}
		return ops, []store.File{f}, nil
	})
}

// ReplaceLogo puts another file in a logo's place: its lockup, tone and clear
// space stay, and so does every use: briefs that name the old file name the new
// one from then on. All of it or none.
func (a Brand) ReplaceLogo(ctx context.Context, m Member, kit ID, client, id, name string, data []byte) error {
	if err := a.mayOn(ctx, m, roles.WriteKits, kit); err != nil {
		return err
	}
	k, err := a.kits.Kit(ctx, m, kit)
	if err != nil {
		return err
	}
	l, err := k.ownLogo(id)
	if err != nil {
		return err
	}
	_, f, err := a.storeLogo(ctx, m, name, data, k.ownFaces()...)
	if err != nil {
		return err
	}
	ref := refOf(f)
	if l.File == ref {
		return nil
	}
	changes := []store.Change{Change{Kind: "kit", Client: client, Base: k.Seq, Files: []store.File{f}, Op: edit.Op{Path: logosPath + "/@" + id + "/file", Value: raw(ref)}}.of(m, kit)}
	uses, err := a.logoUses(ctx, m, kit, l.File)
	if err != nil {
		return err
	}
	for _, u := range uses {
		var ops []edit.Op
		for _, p := range u.paths {
			ops = append(ops, edit.Op{Path: p, Value: raw(ref)})
		}
		changes = append(changes, Change{Kind: "brief", Client: client, Base: u.seq, Op: edit.Op{All: ops}}.of(m, u.brief))
	}
	_, err = a.edit(ctx, m, changes...)
	return err
}

// LogoUses names the briefs that ask for this very logo.
func (a Brand) LogoUses(ctx context.Context, m Member, kit ID, file string) ([]string, error) {
	uses, err := a.logoUses(ctx, m, kit, file)
	var out []string
	for _, u := range uses {
		out = append(out, u.name)
	}
	return out, err
}

type logoUse struct {
	brief ID
	name  string
	seq   int64
	paths []string // JSON Pointers to the values that name it
}

func (a *house) logoUses(ctx context.Context, m Member, kit ID, file string) ([]logoUse, error) {
	docs, err := a.store.BriefsNaming(ctx, m.Workspace, kit, file)
	if err != nil {
		return nil, err
	}
	var out []logoUse
	for _, d := range docs {
		v, err := edit.ParseObject(d.Doc)
		if err != nil {
			continue // it uses nothing while it cannot be read
		}
		u := logoUse{brief: d.ID, name: d.Name, seq: d.Seq}
		walkStrings(v, "", func(path, s string) {
			if s == file {
				u.paths = append(u.paths, path)
			}
		})
		if len(u.paths) > 0 {
			out = append(out, u)
		}
	}
	return out, nil
}

// walkStrings visits every text value of a document with its JSON Pointer.
func walkStrings(v any, at string, visit func(path, s string)) {
	switch v := v.(type) {
	case string:
		visit(at, v)
	case []any:
		for i, c := range v {
			walkStrings(c, fmt.Sprintf("%s/%d", at, i), visit)
		}
	case *edit.Object:
		for _, k := range v.Keys() {
			walkStrings(v.Get(k), at+"/"+edit.Escape(k), visit)
		}
	}
}
