package app

import (
	"archive/zip"
	"bytes"
	"context"
	"fmt"
	"io"
	"io/fs"
	"path"
	"strings"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/kitfile"
	"aspenridge/internal/raster"
)

// ownOf is the part of a kit document that is ours alone.
func ownOf(doc *edit.Object) *edit.Object { return brand.Own(doc) }

// namedFile is an item of a kit document that names a file.
type namedFile struct {
	list string // logos, fonts or pictures, which is also its folder in an archive
	item *edit.Object
}

func (f namedFile) file() string { s, _ := f.item.Get("file").(string); return s }

// filesOf lists the items of a kit document that name files, in order.
func filesOf(doc *edit.Object) []namedFile {
	var out []namedFile
	for _, name := range []string{"logos", "fonts", "pictures"} {
		list, _ := ownOf(doc).Get(name).([]any)
		for _, item := range list {
			if o, ok := item.(*edit.Object); ok {
				out = append(out, namedFile{name, o})
			}
		}
	}
	return out
}

// ExportKit packs a kit as an archive: its document, unknown members and all,
// and the files it names. The same kit gives the same bytes.
func (a *App) ExportKit(ctx context.Context, m Member, id ID) (name string, data []byte, err error) {
	if err := may(m, view); err != nil {
		return "", nil, err
	}
	k, err := a.Kit(ctx, m, id)
	if err != nil {
		return "", nil, err
	}
	doc := k.stands.own
	_, follows := k.Parent()
	if follows {
		doc = k.stands.whole
	}
	if doc, err = edit.ParseObject(raw(doc)); err != nil { // a copy: the kit is shared
		return "", nil, err
	}
	if follows { // an archive stands by itself
		ownOf(doc).Delete("parent")
		ownOf(doc).Delete("without")
	}
	type entry struct{ name, hash string }
	var entries []entry
	taken := map[string]string{}
	for _, f := range filesOf(doc) {
		hash, base, _ := strings.Cut(f.file(), "/")
		ext := path.Ext(base)
		in := freeName(f.list+"/"+strings.TrimSuffix(base, ext), func(s string) bool { return taken[s+ext] != "" && taken[s+ext] != hash }) + ext
		if taken[in] == "" {
			entries = append(entries, entry{in, hash})
		}
		taken[in] = hash
		f.item.Set("file", in)
	}
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	add := func(name string, data []byte) error {
		f, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate, Modified: archiveTime})
		if err == nil {
			_, err = f.Write(data)
		}
		return err
	}
	out, err := edit.Marshal(doc)
	if err != nil {
		return "", nil, err
	}
	if err := add("kit.json", out); err != nil {
		return "", nil, err
	}
	for _, e := range entries {
		data, err := a.Blobs.Get(ctx, e.hash)
		if err != nil {
			return "", nil, fmt.Errorf("%s: %w", e.name, err)
		}
		if err := add(e.name, data); err != nil {
			return "", nil, err
		}
	}
	shown := "kit"
	if k.Name != "" {
		shown = piece.FileName(k.Name)
	}
	err = z.Close() // before the bytes are taken: it writes the directory
	return shown + ".zip", b.Bytes(), err
}

// ImportArchive makes a new kit of an archive. Everything is read and checked
// first: a fault leaves nothing behind.
func (a *App) ImportArchive(ctx context.Context, m Member, data []byte) (ID, error) {
	if err := may(m, change); err != nil {
		return ID{}, err
	}
	fsys, err := kitfile.OpenZip(data)
	if err != nil {
		return ID{}, fmt.Errorf("%w: %v", ErrInvalid, err)
	}
	doc, err := readDocument(fsys)
	if err != nil {
		return ID{}, err
	}
	if _, err := parseKit(doc); err != nil {
		return ID{}, fmt.Errorf("%w: %v", ErrInvalid, err)
	}
	var keep []func() error // once everything was read
	for _, f := range filesOf(doc) {
		data, err := readFile(fsys, f.file())
		if err != nil {
			return ID{}, err
		}
		take := map[string]taker{"logos": a.takeLogo, "fonts": a.takeFont, "pictures": a.takePicture}[f.list]
		k, err := take(ctx, m, path.Base(f.file()), data, func(ref string) { f.item.Set("file", ref) })
		if err != nil {
			return ID{}, fmt.Errorf("%s: %w", f.file(), err)
		}
		keep = append(keep, k)
	}
	for _, k := range keep {
		if err := k(); err != nil {
			return ID{}, err
		}
	}
	return a.putKit(ctx, m, doc)
}

// taker reads a file; what it returns keeps it and says under which reference.
type taker func(ctx context.Context, m Member, name string, data []byte, set func(ref string)) (func() error, error)

// takeLogo reads a logo file; what it returns keeps it and says under which
// reference.
func (a *App) takeLogo(ctx context.Context, m Member, name string, data []byte, set func(ref string)) (func() error, error) {
	in, err := raster.ImportLogo(ctx, data)
	return func() error {
		ref, err := a.keepLogo(ctx, m, name, data, in)
		set(ref)
		return err
	}, err
}

// takeFont does the same for a font.
func (a *App) takeFont(ctx context.Context, m Member, name string, data []byte, set func(ref string)) (func() error, error) {
	in, err := raster.ImportFont(ctx, data)
	return func() error {
		ref, err := a.keepFont(ctx, m, name, in)
		set(ref)
		return err
	}, err
}

func readDocument(fsys fs.FS) (*edit.Object, error) {
	data, err := readFile(fsys, "kit.json")
	if err != nil {
		return nil, err
	}
	doc, err := edit.ParseObject(data)
	if err != nil {
		return nil, fmt.Errorf("%w: kit.json: %v", ErrInvalid, err)
	}
	return doc, nil
}

// readFile reads one file of an archive; what an archive says of its sizes is
// not believed.
func readFile(fsys fs.FS, name string) ([]byte, error) {
	if !fs.ValidPath(name) {
		return nil, fmt.Errorf("%w: the archive names a file %q: want a path inside of it", ErrInvalid, name)
	}
	f, err := fsys.Open(name)
	if err != nil {
		return nil, fmt.Errorf("%w: the archive has no %s", ErrInvalid, name)
	}
	defer f.Close()
	data, err := io.ReadAll(io.LimitReader(f, raster.MaxBytes+1))
	if err != nil {
		return nil, fmt.Errorf("%w: %s is damaged: %v", ErrInvalid, name, err)
	}
	if len(data) > raster.MaxBytes {
		return nil, fmt.Errorf("%w: %s has more than %d MB", ErrInvalid, name, raster.MaxBytes>>20)
	}
	return data, nil
}

// DuplicateKit makes a copy with a name of its own.
func (a *App) DuplicateKit(ctx context.Context, m Member, id ID) (ID, error) {
	if err := may(m, change); err != nil {
		return ID{}, err
	}
	d, err := a.Store.Document(ctx, m.Workspace, id)
	if err != nil {
		return ID{}, err
	}
	if d.Kind != "kit" {
		return ID{}, ErrNotFound
	}
	doc, err := edit.ParseObject(d.Doc)
	if err != nil {
		return ID{}, err
	}
	if d.Name != "" {
		ownOf(doc).Set("name", d.Name+" (copy)")
	}
	return a.putKit(ctx, m, doc)
}
