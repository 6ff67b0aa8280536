// Package kitfile reads a kit and a brief from files, a folder or a ZIP, and
// makes a job of them: documents parsed, logos and pictures imported, fonts
// read. It is what the command line and archive uploads share; no database.
package kitfile

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"strings"

	"aspenridge/assets"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/typeset"
	"aspenridge/internal/raster"
	"aspenridge/layouts"
)

// The limits of a kit archive.
// words in drawings are outlined with the faces that ship, in the processes that read them too
func init() {
	raster.Shipped = func() (*typeset.Library, *typeset.Shaper) { return assets.Library(), assets.Shaper() }
}

const (
	maxArchive = 200 << 20
	maxFiles   = 2000
)

// Open opens a kit folder or ZIP as a file system.
func Open(name string) (fs.FS, error) {
	info, err := os.Stat(name)
	if err != nil {
		return nil, fmt.Errorf("kit %s: %w", name, err)
	}
	if info.IsDir() {
		root, err := os.OpenRoot(name)
		if err != nil {
			return nil, err
		}
		return root.FS(), nil
	}
	if info.Size() > maxArchive {
		return nil, fmt.Errorf("kit %s: %d MB, at most %d", name, info.Size()>>20, maxArchive>>20)
	}
	data, err := os.ReadFile(name)
	if err != nil {
		return nil, err
	}
	return OpenZip(data)
}

// OpenZip opens a kit archive. Names that lead out of it, too many files and
// archives that unpack to more than they should are refused.
func OpenZip(data []byte) (fs.FS, error) {
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return nil, fmt.Errorf("kit: want a folder or a ZIP: %w", err)
	}
	if len(z.File) > maxFiles {
		return nil, fmt.Errorf("kit: %d files, at most %d", len(z.File), maxFiles)
	}
	var total uint64
	for _, f := range z.File {
		if !fs.ValidPath(strings.TrimSuffix(f.Name, "/")) {
			return nil, fmt.Errorf("kit: the name %q leads out of the archive", f.Name)
		}
		if total += f.UncompressedSize64; total > maxArchive {
			return nil, fmt.Errorf("kit: it unpacks to more than %d MB", maxArchive>>20)
		}
	}
	return z, nil
}

func read(fsys fs.FS, name string) ([]byte, error) {
	name = path.Clean(filepath.ToSlash(name))
	if !fs.ValidPath(name) {
		return nil, fmt.Errorf("file %q: want a path inside the folder", name)
	}
	f, err := fsys.Open(name)
	if err != nil {
		return nil, fmt.Errorf("file %q: %w", name, errors.Unwrap(err))
	}
	defer f.Close()
	data, err := io.ReadAll(io.LimitReader(f, raster.MaxBytes+1))
	if err == nil && len(data) > raster.MaxBytes {
		err = fmt.Errorf("file %q: more than %d MB", name, raster.MaxBytes>>20)
	}
	return data, err
}

// Kit is a kit with its fonts.
type Kit struct {
	*brand.Kit
	Library *typeset.Library
}

// LoadKit reads kit.json and everything it names. With lenient, a family
// nobody has is replaced and warned about instead of refused.
func LoadKit(ctx context.Context, fsys fs.FS, lenient bool) (Kit, error) {
	data, err := read(fsys, "kit.json")
	if err != nil {
		return Kit{}, err
	}
	doc, err := edit.ParseObject(data)
	if err != nil {
		return Kit{}, fmt.Errorf("kit.json: %w", err)
	}
	k, err := brand.Parse(doc)
	if err != nil {
		return Kit{}, err
	}
	var entries []typeset.Entry
	for i := range k.Fonts {
		f := &k.Fonts[i]
		data, err := read(fsys, f.File)
		if err != nil {
			return Kit{}, err
		}
		in, err := raster.ImportFont(ctx, data)
		if err != nil {
			return Kit{}, fmt.Errorf("font %s: %w", f.File, err)
		}
		f.Family, f.Facts = in.Facts.Family, in.Facts
		entries = append(entries, typeset.Entry{Family: f.Family, Weight: f.Facts.Weight, Italic: f.Facts.Italic, Read: func() ([]byte, error) { return in.Data, nil }})
	}
	out := Kit{k, typeset.NewLibrary(assets.Library(), entries...)}
	if err := CheckFonts(k, out.Library, lenient); err != nil {
		return Kit{}, err
	}
	for i := range k.Logos {
		l := &k.Logos[i]
		data, err := read(fsys, l.File)
		if err != nil {
			return Kit{}, err
		}
		in, err := raster.ImportLogo(ctx, data, entries...)
		if err != nil {
			return Kit{}, fmt.Errorf("logo %s: %w", l.File, err)
		}
		l.Art = &in.Art
		for _, n := range in.Notes {
			k.Warnings = append(k.Warnings, l.File+": "+n)
		}
	}
	return out, nil
}

// ErrFont is wrapped when a family is neither in the kit nor shipped.
var ErrFont = errors.New("unknown font family")

// CheckFonts looks every family up that the type sets name. With lenient a
// missing one becomes a warning and the kit, as it is in memory, gets the
// default family in its place.
func CheckFonts(k *brand.Kit, lib *typeset.Library, lenient bool) error {
	told := map[string]bool{}
	for _, set := range k.TypeSets {
		for _, level := range brand.Levels {
			style := set.Levels[level]
			if small := style.Small; small != nil && !lib.Has(small.Family) {
				k.Warnings = append(k.Warnings, fmt.Sprintf("font %q for small sizes is missing; %s stays in %s", small.Family, level, style.Family))
				style.Small = nil
				set.Levels[level] = style
			}
			family := style.Family
			if lib.Has(family) {
				continue
			}
			if !lenient {
				return fmt.Errorf("%w: %q (type set %s, %s); add its file to the kit or choose one of: %s", ErrFont, family, set.ID, level, strings.Join(lib.Families(), ", "))
			}
			style.Family = brand.DefaultFamily
			set.Levels[level] = style
			if !told[family] {
				told[family] = true
				k.Warnings = append(k.Warnings, fmt.Sprintf("font %q is missing; set in %s instead", family, brand.DefaultFamily))
			}
		}
	}
	return nil
}

// LoadBrief reads a brief document.
func LoadBrief(data []byte) (*brief.Brief, error) {
	doc, err := edit.ParseObject(data)
	if err != nil {
		return nil, fmt.Errorf("brief.json: %w", err)
	}
	return brief.Parse(doc)
}

// Pictures are the imported pictures of a job, by the names documents give
// them, with a source of their bytes.
type Pictures struct {
	Brief, Kit map[string]photo.Picture
	bytes      map[string][]byte // by hash
}

// Source gives the bytes of a picture by its hash.
func (p Pictures) Source(hash string) ([]byte, error) {
	if d, ok := p.bytes[hash]; ok {
		return d, nil
	}
	return nil, fmt.Errorf("picture %.8s is not there", hash)
}

// Add takes a picture in whose bytes are had then by its hash.
func (p Pictures) Add(ctx context.Context, data []byte) (photo.Picture, error) {
	in, err := raster.Import(ctx, data)
	if err != nil {
		return photo.Picture{}, err
	}
	p.bytes[in.Hash] = in.Data
	return in.Picture(), nil
}

// LoadPictures imports every picture a brief names, from its folder, and the
// kit's icons and patterns, from the kit's.
func LoadPictures(ctx context.Context, b *brief.Brief, folder fs.FS, k *brand.Kit, kit fs.FS) (Pictures, error) {
	out := Pictures{Brief: map[string]photo.Picture{}, Kit: map[string]photo.Picture{}, bytes: map[string][]byte{}}
	take := func(into map[string]photo.Picture, fsys fs.FS, file string) error {
		if _, ok := into[file]; ok || file == "" {
			return nil
		}
		data, err := read(fsys, file)
		if err != nil {
			return fmt.Errorf("picture: %w", err)
		}
		if into[file], err = out.Add(ctx, data); err != nil {
			return fmt.Errorf("picture %s: %w", file, err)
		}
		return nil
	}
	for _, file := range b.Files() {
		if err := take(out.Brief, folder, file); err != nil {
			return out, err
		}
	}
	for _, p := range k.Pictures {
		if p.Kind == brand.Icon || p.Kind == brand.Pattern {
			if err := take(out.Kit, kit, p.File); err != nil {
				return out, err
			}
		}
	}
	return out, nil
}

// Job puts a kit and a brief together.
func Job(k Kit, b *brief.Brief, pictures Pictures) *piece.Job {
	return &piece.Job{
		Kit: b.Kit(k.Kit), Brief: b, Layouts: layouts.All(), Library: k.Library, Icons: assets.Icons(),
		Shaper: assets.Shaper(), Pictures: pictures.Brief, KitPictures: pictures.Kit,
	}
}
