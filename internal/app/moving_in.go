package app

import (
	"archive/zip"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"math"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/plain"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/gate"
	"aspenridge/internal/raster"
	"aspenridge/internal/reel"
	"aspenridge/internal/store"
)

// What an archive of a workspace may be.
const (
	MostArchiveBytes = 1 << 30 // packed
	mostUnpacked     = 3 << 30
	mostEntries      = 20000

	mostMovedComments = 20000            // of a brief
	arrivalTime       = 60 * time.Second // of the processor's time, and
	arrivalPerMB      = time.Second      // for each MB of the archive
)

// ImportWorkspace makes a workspace of an archive at a path, which whoever brings it owns. Ids in
// it mean nothing outside of it. A fault leaves nothing behind.
func (a Team) ImportWorkspace(ctx context.Context, m Member, file string) (id ID, err error) {
	z, err := zip.OpenReader(file)
	if err != nil {
		return ID{}, fmt.Errorf("%w: that is no ZIP of a workspace: %v", ErrInvalid, err)
	}
	defer func() { _ = z.Close() }()
	all, err := readMoved(&z.Reader)
	if err != nil {
		return ID{}, err
	}
	info, err := os.Stat(file)
	if err != nil {
		return ID{}, err
	}
	ctx = gate.WithBudget(ctx, arrivalTime+time.Duration(info.Size()>>20)*arrivalPerMB)
	if id, err = a.newWorkspace(ctx, m, all.Name, true); err != nil {
		return ID{}, err
	}
	own := m
	own.Workspace, own.WorkspaceName, own.Role, own.Scope = id, all.Name, roles.Owner, store.Scope{}
	if err = a.fillWorkspace(ctx, own, &z.Reader, all); err != nil {
		return ID{}, errors.Join(err, a.store.DeleteWorkspace(context.WithoutCancel(ctx), id))
	}
	if err := a.store.Arrived(ctx, id); err != nil {
		return ID{}, errors.Join(err, a.store.DeleteWorkspace(context.WithoutCancel(ctx), id))
	}
	return id, a.noteOf(ctx, own, noteTeam, ID{}, "imported the workspace from a file of %s", plain.Short(plain.Line(all.At)))
}

// readMoved reads what an archive says of itself and refuses one that is none.
func readMoved(z *zip.Reader) (all moved, err error) {
	if len(z.File) > mostEntries {
		return all, fmt.Errorf("%w: the archive has %d files, at most %d", ErrInvalid, len(z.File), mostEntries)
	}
	var total uint64
	for _, f := range z.File {
		if !fs.ValidPath(strings.TrimSuffix(f.Name, "/")) {
			return all, fmt.Errorf("%w: the name %.80q leads out of the archive", ErrInvalid, f.Name)
		}
		if total += f.UncompressedSize64; total > mostUnpacked || f.UncompressedSize64 > mostUnpacked {
			return all, fmt.Errorf("%w: the archive unpacks to more than %d GB", ErrInvalid, mostUnpacked>>30)
		}
	}
	data, err := readFile(z, "workspace.json")
	if err != nil {
		return all, err
	}
	if err := json.Unmarshal(data, &all); err != nil {
		return all, fmt.Errorf("%w: workspace.json: %v", ErrInvalid, err)
	}
	switch {
	case all.FormatVersion != 1:
		return all, fmt.Errorf("%w: workspace.json: formatVersion %d: this version reads 1", ErrInvalid, all.FormatVersion)
	case len(all.Kits) > mostMoved || len(all.Briefs) > mostMoved || len(all.Files) > mostEntries:
		return all, fmt.Errorf("%w: workspace.json names more than there may be", ErrInvalid)
	}
	seen := map[string]bool{}
	for i, f := range all.Files {
		if seen[f.Path] {
			return all, fmt.Errorf("%w: workspace.json names the file %.80q twice", ErrInvalid, f.Path)
		}
		seen[f.Path] = true
		slices.Sort(f.Kinds)
		if all.Files[i].Kinds = slices.Compact(f.Kinds); len(all.Files[i].Kinds) > len(movedKinds) {
			return all, fmt.Errorf("%w: workspace.json: the file %.80q is of %d kinds: want some of %s", ErrInvalid, f.Path, len(f.Kinds), strings.Join(movedKinds, ", "))
		}
	}
	if _, err := workspaceName(all.Name); err != nil {
		all.Name = "Brought from a file"
	}
	return all, nil
}

// movedKinds are the kinds of files in an archive.
var movedKinds = []string{"logo", "font", "picture", "clip", "sound"}

// fillWorkspace puts what an archive has into a new workspace.
func (a *house) fillWorkspace(ctx context.Context, m Member, z *zip.Reader, all moved) error {
	refs := map[string]string{} // paths to how documents name the files here
	files := map[string][]store.File{}
	for _, f := range all.Files {
		for _, kind := range f.Kinds {
			kept, err := a.bringMoved(ctx, m, z, f.Path, kind)
			if err != nil {
				return fmt.Errorf("%s: %w", f.Path, err)
			}
			refs[f.Path] = refOf(kept)
			files[f.Path] = append(files[f.Path], kept)
		}
	}
	for _, list := range files {
		for _, f := range list {
			if err := a.store.PutFile(ctx, m.ID, f); err != nil {
				return err
			}
		}
	}
	read := func(d movedDocument) (*edit.Object, error) {
		data, err := readFile(z, d.File)
		if err != nil {
			return nil, err
		}
		doc, err := edit.ParseObject(data)
		if err != nil {
			return nil, fmt.Errorf("%w: %s: %v", ErrInvalid, d.File, err)
		}
		eachRef(doc, func(s string) string {
			if to, ok := refs[s]; ok {
				return to
			}
			return s
		})
		return doc, nil
	}
	ids := map[string]ID{}
	if err := a.bringKits(ctx, m, all.Kits, ids, read); err != nil {
		return err
	}
	if def, ok := ids[all.Default]; ok {
		if err := a.store.SetDefaultKit(ctx, m.Workspace, def); err != nil {
			return err
		}
	}
	for _, d := range slices.Backward(all.Briefs) { // the latest is made last
		kit, ok := ids[d.Kit]
		if !ok {
			return fmt.Errorf("%w: %s follows a kit that is not in the archive", ErrInvalid, d.File)
		}
		doc, err := read(d)
		if err != nil {
			return err
		}
		brief, err := a.putBrief(ctx, m, kit, newBrief{doc: doc})
		if err == nil {
			err = a.bringProof(ctx, m, z, brief, path.Dir(d.File))
		}
		if err != nil {
			return fmt.Errorf("%s: %w", d.File, err)
		}
	}
	data, err := readFile(z, "channels.json")
	if err != nil { // there are none
		return nil
	}
	if _, err := spec.ParseChannels(data); err != nil {
		return fmt.Errorf("%w: channels.json: %v", ErrInvalid, err)
	}
	_, err = a.store.CreateChannels(ctx, store.Document{Workspace: m.Workspace, Kind: "channels", Name: "Channels", Doc: data})
	return err
}

// bringKits makes the kits of an archive, those that are followed before those that follow.
func (a *house) bringKits(ctx context.Context, m Member, kits []movedDocument, ids map[string]ID, read func(movedDocument) (*edit.Object, error)) error {
	named := map[string]bool{}
	for _, d := range kits {
		named[d.ID] = true
	}
	left := slices.Clone(kits)
	slices.Reverse(left)
	for len(left) > 0 {
		var later []movedDocument
		for _, d := range left {
			doc, err := read(d)
			if err != nil {
				return err
			}
			if parent, _ := ownOf(doc).Get("parent").(string); parent != "" {
				id, made := ids[parent]
				switch {
				case made:
					ownOf(doc).Set("parent", id.String())
				case named[parent]:
					later = append(later, d)
					continue
				default: // whoever it followed stayed behind
					ownOf(doc).Delete("parent")
				}
			}
			id, err := a.putKit(ctx, m, doc)
			if err != nil {
				return fmt.Errorf("%s: %w", d.File, err)
			}
			ids[d.ID] = id
		}
		if len(later) == len(left) {
			return fmt.Errorf("%w: kits of the archive follow one another in a ring", ErrInvalid)
		}
		left = later
	}
	return nil
}

// bringMoved takes a file of an archive in as one of a kind, like any that is given.
func (a *house) bringMoved(ctx context.Context, m Member, z *zip.Reader, name, kind string) (f store.File, err error) {
	base := path.Base(name)
	if _, rest, ok := strings.Cut(base, "-"); ok {
		base = rest
	}
	switch kind {
	case "logo", "font", "picture":
		data, err := readFile(z, name)
		if err != nil {
			return f, err
		}
		return a.storeFile(ctx, m, kind+"s", base, data)
	case "clip", "sound":
	default:
		return f, fmt.Errorf("%w: a file of kind %.40q", ErrInvalid, kind)
	}
	dir, err := os.MkdirTemp("", tempFiles+"moved-")
	if err != nil {
		return f, err
	}
	defer func() { _ = os.RemoveAll(dir) }()
	came := filepath.Join(dir, "came")
	if err := unpack(z, name, came); err != nil {
		return f, err
	}
	if kind == "sound" {
		f, _, err = a.storeSound(ctx, m, base, came)
		return f, err
	}
	return a.bringMovedClip(ctx, m, came, base)
}

// bringMovedClip takes a clip in: small ones stay as they are, as kits have them.
func (a *house) bringMovedClip(ctx context.Context, m Member, came, base string) (f store.File, err error) {
	facts, err := reel.CheckClip(ctx, came)
	if err != nil {
		return f, clipTrouble(base, err)
	}
	known, err := a.knownOf(ctx, came, facts)
	if err != nil {
		return f, clipTrouble(base, err)
	}
	info, err := os.Stat(came)
	if err != nil {
		return f, err
	}
	whole := map[string]any{}
	if info.Size() <= raster.MaxBytes { // it may be a kit's: what is known of those as well
		data, err := os.ReadFile(came)
		if err != nil {
			return f, err
		}
		ofKit, err := a.kitClip(ctx, data)
		if err != nil {
			return f, err
		}
		if err := json.Unmarshal(raw(ofKit), &whole); err != nil {
			return f, err
		}
	}
	if err := json.Unmarshal(raw(known), &whole); err != nil {
		return f, err
	}
	hash, size, err := a.keep(ctx, came)
	return store.File{Workspace: m.Workspace, Hash: hash, Kind: "clip", Name: cleanName(base), Type: "video/mp4", Bytes: size, Facts: raw(whole)}, err
}

// unpack writes a file of an archive to a path; what it says of its size is not believed.
func unpack(z *zip.Reader, name, to string) error {
	if !fs.ValidPath(name) {
		return fmt.Errorf("%w: the archive names a file %q", ErrInvalid, name)
	}
	in, err := z.Open(name)
	if err != nil {
		return fmt.Errorf("%w: the archive has no %s", ErrInvalid, name)
	}
	defer func() { _ = in.Close() }()
	out, err := os.Create(to)
	if err != nil {
		return err
	}
	n, err := io.Copy(out, io.LimitReader(in, MostClipBytes+1))
	if err == nil && n > MostClipBytes {
		err = fmt.Errorf("%w: %s has more than %d MB", ErrInvalid, name, MostClipBytes>>20)
	}
	return errors.Join(err, out.Close())
}

// farthest is how far from a part a comment on it may lie, in sizes of the part.
const farthest = 1000.0

// bringProof puts what was said of a brief in, by name alone.
func (a *house) bringProof(ctx context.Context, m Member, z *zip.Reader, brief ID, dir string) error {
	data, err := readFile(z, dir+"/proof.json")
	if err != nil { // nothing was said
		return nil
	}
	var p movedProof
	if err := json.Unmarshal(data, &p); err != nil {
		return fmt.Errorf("%w: proof.json: %v", ErrInvalid, err)
	}
	if len(p.Comments) > mostMovedComments {
		return fmt.Errorf("%w: proof.json: %d comments, at most %d", ErrInvalid, len(p.Comments), mostMovedComments)
	}
	ids := map[string]ID{}
	for _, c := range p.Comments {
		if slices.ContainsFunc(c.At[:], func(v float64) bool { return !(math.Abs(v) <= farthest) }) {
			return fmt.Errorf("%w: proof.json: a comment at %v: want places from -%v to %v", ErrInvalid, c.At, farthest, farthest)
		}
		one := Comment{ID: uuid.New(), Piece: plain.Text(c.Piece), Part: plain.Text(c.Part), By: By{Name: plain.Short(plain.Line(c.Name))}, Words: plain.Text(c.Words)}
		ids[c.ID] = one.ID
		if about, ok := ids[c.About]; ok {
			one.About = &about
		} else if c.About != "" {
			continue
		}
		if words := []rune(one.Words); len(words) > MostWords { // of a time when more were taken
			one.Words = string(words[:MostWords-2]) + " …"
		}
		if one.Words == "" || one.By.Name == "" {
			return fmt.Errorf("%w: proof.json: a comment has a name and words", ErrInvalid)
		}
		one.X, one.Y, one.W, one.H = c.At[0], c.At[1], c.At[2], c.At[3]
		if _, err := a.store.PutComment(ctx, m.Workspace, brief, one); err != nil {
			return err
		}
		if c.Resolved && one.About == nil {
			if err := a.store.ResolveComment(ctx, m.Workspace, brief, one.ID, one.By.Name, true); err != nil {
				return err
			}
		}
	}
	return nil
}
