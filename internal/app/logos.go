package app

import (
	"context"
	"encoding/json"
	"fmt"
	"path"
	"slices"
	"strings"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/raster"
	"aspenridge/internal/store"
)

// AddLogo takes a logo file into a kit: imported, measured, its lockup and tone
// proposed.
func (a *App) AddLogo(ctx context.Context, m Member, kit ID, client, name string, data []byte) error {
	if err := may(m, change); err != nil {
		return err
	}
	k, err := a.Kit(ctx, m, kit)
	if err != nil {
		return err
	}
	in, err := raster.ImportLogo(ctx, data)
	if err != nil {
		return fmt.Errorf("%s: %w", name, err)
	}
	if slices.ContainsFunc(k.Logos, func(l brand.Logo) bool { return HashOf(l.File) == in.Art.Hash }) {
		return fmt.Errorf("%w: this file is in the kit already", ErrInvalid)
	}
	ref, err := a.keepLogo(ctx, m, name, data, in)
	if err != nil {
		return err
	}
	logo := map[string]any{"file": ref, "lockup": in.Lockup, "tone": in.Tone}
	if len(k.Logos) == 0 {
		logo["lead"] = true
	}
	_, err = a.Edit(ctx, m, kit, Change{Client: client, Base: Latest, Op: edit.Op{Path: "/$extensions/aspenridge/logos/-", Value: raw(logo)}})
	return err
}

func (a *App) keepLogo(ctx context.Context, m Member, name string, data []byte, in raster.ImportedLogo) (string, error) {
	hash, err := a.Blobs.Put(ctx, data)
	if err != nil {
		return "", err
	}
	err = a.Store.PutFile(ctx, store.File{Workspace: m.Workspace, Hash: hash, Kind: "logo", Name: cleanName(name), Type: "image/" + raster.Kind(data), Bytes: int64(len(data)), Facts: raw(in)})
	return fileRef(hash, name), err
}

// editLogos changes the list of a kit's logos in one step; n is the logo it is
// about, from 0.
func (a *App) editLogos(ctx context.Context, m Member, kit ID, client string, n int, edits func(k *Kit, list []any) ([]any, error)) error {
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
	list, _ := ownOf(stands.own).Get("logos").([]any)
	if n >= len(list) && n < len(k.Logos) {
		return fmt.Errorf("%w: this logo is %s's; change it there, or copy it here first", ErrInvalid, orNew(k.stands.chain[0].Name))
	}
	if n < 0 || n >= len(list) || n >= len(k.Logos) {
		return ErrNotFound
	}
	if list, err = edits(k, slices.Clone(list)); err != nil {
		return err
	}
	_, err = a.Edit(ctx, m, kit, Change{Client: client, Base: d.Seq, Op: edit.Op{Path: "/$extensions/aspenridge/logos", Value: raw(list)}})
	return err
}

// LeadLogo makes a logo the one that is used when nothing speaks against it.
func (a *App) LeadLogo(ctx context.Context, m Member, kit ID, client string, n int) error {
	return a.editLogos(ctx, m, kit, client, n, func(_ *Kit, list []any) ([]any, error) {
		for i, item := range list {
			o, ok := item.(*edit.Object)
			switch {
			case !ok:
			case i == n:
				o.Set("lead", true)
			default:
				o.Delete("lead")
			}
		}
		return list, nil
	})
}

// MoveLogo puts a logo at another place in the order.
func (a *App) MoveLogo(ctx context.Context, m Member, kit ID, client string, n, to int) error {
	return a.editLogos(ctx, m, kit, client, n, func(_ *Kit, list []any) ([]any, error) {
		item := list[n]
		list = slices.Delete(list, n, n+1)
		return slices.Insert(list, max(0, min(to, len(list))), item), nil
	})
}

// CutLogo adds a copy of a logo without the box it stands in, right after it;
// the copy leads where the original did.
func (a *App) CutLogo(ctx context.Context, m Member, kit ID, client string, n int) error {
	return a.besideLogo(ctx, m, kit, client, n, func(l brand.Logo) ([]byte, string, string, error) {
		data, err := a.Blobs.Get(ctx, HashOf(l.File))
		if err != nil {
			return nil, "", "", err
		}
		out, ext, err := raster.CutLogo(ctx, data)
		return out, "cut" + ext, l.Tone, err
	})
}

// ToneLogo adds a version of a vector logo in another tone, right after it.
func (a *App) ToneLogo(ctx context.Context, m Member, kit ID, client string, n int, tone string) error {
	return a.besideLogo(ctx, m, kit, client, n, func(l brand.Logo) ([]byte, string, string, error) {
		k, err := a.Kit(ctx, m, kit)
		if err != nil {
			return nil, "", "", err
		}
		light, dark := k.Extremes()
		ink, paper := dark, light
		if tone == "for-dark" {
			ink, paper = light, dark
		}
		out, err := raster.Retone(l.Art, tone, ink, paper)
		return out, tone + ".svg", tone, err
	})
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
func (a *App) besideLogo(ctx context.Context, m Member, kit ID, client string, n int, make func(l brand.Logo) (data []byte, name, tone string, err error)) error {
	return a.editLogos(ctx, m, kit, client, n, func(k *Kit, list []any) ([]any, error) {
		l := k.Logos[n]
		data, ending, tone, err := make(l)
		if err != nil {
			return nil, err
		}
		_, base, _ := strings.Cut(l.File, "/")
		name := strings.TrimSuffix(base, path.Ext(base)) + "-" + ending
		in, err := raster.ImportLogo(ctx, data)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
		ref, err := a.keepLogo(ctx, m, name, data, in)
		if err != nil {
			return nil, err
		}
		if slices.ContainsFunc(k.Logos, func(o brand.Logo) bool { return o.File == ref }) {
			return nil, fmt.Errorf("%w: this version is in the kit already", ErrInvalid)
		}
		v, err := edit.Parse(raw(map[string]any{"file": ref, "lockup": l.Lockup, "tone": tone, "clearSpace": l.ClearSpace, "minWidth": l.MinWidth}))
		if err != nil {
			return nil, err
		}
		if was, ok := list[n].(*edit.Object); ok && l.Lead && tone == l.Tone {
			was.Delete("lead")
			v.(*edit.Object).Set("lead", true)
		}
		return slices.Insert(list, n+1, v), nil
	})
}

// ReplaceLogo puts another file in a logo's place: its lockup, tone and clear
// space stay, and so does every use: briefs that name the old file name the new
// one from then on.
func (a *App) ReplaceLogo(ctx context.Context, m Member, kit ID, client string, n int, name string, data []byte) error {
	var old, ref string
	err := a.editLogos(ctx, m, kit, client, n, func(k *Kit, list []any) ([]any, error) {
		in, err := raster.ImportLogo(ctx, data)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
		if ref, err = a.keepLogo(ctx, m, name, data, in); err != nil {
			return nil, err
		}
		old = k.Logos[n].File
		list[n].(*edit.Object).Set("file", ref)
		return list, nil
	})
	if err != nil || old == ref {
		return err
	}
	uses, err := a.logoUses(ctx, m, kit, old)
	if err != nil {
		return err
	}
	for _, u := range uses {
		for _, p := range u.paths {
			if _, err := a.Edit(ctx, m, u.brief, Change{Client: client, Base: Latest, Op: edit.Op{Path: p, Value: raw(ref)}}); err != nil {
				return err
			}
		}
	}
	return nil
}

// LogoUses names the briefs that ask for this very logo.
func (a *App) LogoUses(ctx context.Context, m Member, kit ID, file string) ([]string, error) {
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
	paths []string // JSON Pointers to the values that name it
}

func (a *App) logoUses(ctx context.Context, m Member, kit ID, file string) ([]logoUse, error) {
	docs, err := a.Store.BriefsNaming(ctx, m.Workspace, kit, file)
	if err != nil {
		return nil, err
	}
	var out []logoUse
	for _, d := range docs {
		var v any
		if err := json.Unmarshal(d.Doc, &v); err != nil {
			return nil, err
		}
		u := logoUse{brief: d.ID, name: d.Name}
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
	case map[string]any:
		for k, c := range v {
			walkStrings(c, at+"/"+edit.Escape(k), visit)
		}
	}
}
