package app

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"path"
	"strings"

	"aspenridge/internal/act"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/kitfile"
	"aspenridge/internal/raster"
	"aspenridge/internal/store"
)

// ownOf is the part of a kit document that is ours alone.
func ownOf(doc *edit.Object) *edit.Object { return brand.Own(doc) }

// namedFile is an item of a kit document that names a file.
type namedFile struct {
	list string // logos, fonts, pictures or sounds, which is also its folder in an archive
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
	if motion, ok := ownOf(doc).Get("motion").(*edit.Object); ok {
		song, _ := motion.Get("song").(*edit.Object)
		if f := (namedFile{"sounds", song}); song != nil && f.file() != "" { // written otherwise it is carried along
			out = append(out, f)
		}
	}
	return out
}

// ExportKit packs a kit as an archive: its document, unknown members and all,
// and the files it names. The same kit gives the same bytes.
func (a Kits) ExportKit(ctx context.Context, m Member, id ID) (name string, data []byte, err error) {
	if err := a.mayOn(ctx, m, roles.Look, id); err != nil {
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
	type entry struct{ name, kind, hash string }
	var entries []entry
	taken := map[string]string{}
	for _, f := range filesOf(doc) {
		hash, base, _ := strings.Cut(f.file(), "/")
		ext := path.Ext(base)
		in := freeName(f.list+"/"+strings.TrimSuffix(base, ext), func(s string) bool { return taken[s+ext] != "" && taken[s+ext] != hash }) + ext
		if taken[in] == "" {
			entries = append(entries, entry{in, f.list, hash})
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
		data, err := a.ownBytes(ctx, m, e.kind, e.hash)
		if errors.Is(err, ErrNotFound) {
			return "", nil, fmt.Errorf("%w: the file of %s is missing; take it out of the kit, or give it again, and try once more", ErrInvalid, e.name)
		}
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
func (a Kits) ImportArchive(ctx context.Context, m Member, data []byte) (ID, error) {
	if err := act.MayAll(m, roles.WriteKits); err != nil {
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
	if _, err := brand.Parse(doc); err != nil {
		return ID{}, fmt.Errorf("%w: %w", ErrInvalid, err)
	}
	var files []store.File
	for _, f := range filesOf(doc) {
		data, err := readFile(fsys, f.file())
		if err != nil {
			return ID{}, err
		}
		file, err := a.storeFile(ctx, m, f.list, path.Base(f.file()), data)
		if err != nil {
			return ID{}, fmt.Errorf("%s: %w", f.file(), err)
		}
		f.item.Set("file", refOf(file))
		files = append(files, file)
	}
	return a.putKit(ctx, m, doc, files...)
}

// storeFile reads a file of one of a kit's lists.
func (a *house) storeFile(ctx context.Context, m Member, list, name string, data []byte) (f store.File, err error) {
	switch {
	case list == "logos":
		_, f, err = a.storeLogo(ctx, m, name, data)
	case list == "fonts":
		_, f, err = a.storeFont(ctx, m, name, data)
	case list == "sounds":
		f, err = a.soundBytes(ctx, m, name, data)
	case clipType(data) != "":
		f, err = a.storeClip(ctx, m, name, data)
	default:
		f, err = a.storePicture(ctx, m, name, data)
	}
	return f, err
}

// ownBytes are the bytes of a file of the workspace, as they may leave it: a
// drawing without scripts, a font as it was proven.
func (a *house) ownBytes(ctx context.Context, m Member, list, hash string) ([]byte, error) {
	kinds := map[string][]string{"logos": {"logo"}, "fonts": {"font"}, "pictures": {"picture", "clip"}, "sounds": {"sound"}}[list]
	for _, kind := range kinds {
		_, err := a.store.File(ctx, m.Workspace, kind, hash)
		if errors.Is(err, ErrNotFound) {
			continue
		}
		if err != nil {
			return nil, err
		}
		if kind == "font" {
			return a.brand.FontFile(ctx, m, hash)
		}
		data, err := a.blobs.Get(ctx, hash)
		if err == nil && kind == "logo" && raster.Kind(data) == "svg" {
			return raster.CleanFile(ctx, data) // one from before drawings were kept clean
		}
		return data, err
	}
	return nil, ErrNotFound
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
func (a Kits) DuplicateKit(ctx context.Context, m Member, id ID) (ID, error) {
	if err := act.MayAll(m, roles.WriteKits); err != nil {
		return ID{}, err
	}
	d, err := a.store.Document(ctx, m.Workspace, id)
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
