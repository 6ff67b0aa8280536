package app

import (
	"context"
	"encoding/json"
	"errors"
	"os"
	"path/filepath"
	"slices"

	"aspenridge/internal/act"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/film"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/reel"
	"aspenridge/internal/store"
)

// MostSoundBytes is how large a file of sound may be.
const MostSoundBytes = reel.MostSoundBytes

// BringSound takes a file of sound at a path into the workspace and says how documents name
// it, and how long it is, s.
func (a Files) BringSound(ctx context.Context, m Member, name, path string) (ref string, seconds float64, err error) {
	if err := act.May(m, roles.WriteBriefs); err != nil {
		return "", 0, err
	}
	kept, facts, err := a.storeSound(ctx, m, name, path)
	if err != nil {
		return "", 0, err
	}
	return refOf(kept), facts.Seconds, a.store.PutFile(ctx, m.ID, kept)
}

// storeSound keeps the bytes of a file of sound at a path.
func (a *house) storeSound(ctx context.Context, m Member, name, path string) (f store.File, facts reel.Facts, err error) {
	dir, err := os.MkdirTemp("", tempFiles+"sound-")
	if err != nil {
		return f, facts, err
	}
	defer func() { _ = os.RemoveAll(dir) }()
	out := filepath.Join(dir, "sound.flac")
	if facts, err = reel.TakeSound(ctx, path, out); err != nil {
		return f, facts, clipTrouble(name, err)
	}
	hash, size, err := a.keep(ctx, out)
	return store.File{Workspace: m.Workspace, Hash: hash, Kind: "sound", Name: fileStem("/"+cleanName(name)) + ".flac", Type: "audio/flac", Bytes: size, Facts: raw(facts)}, facts, err
}

// soundBytes is storeSound of the bytes of one.
func (a *house) soundBytes(ctx context.Context, m Member, name string, data []byte) (f store.File, err error) {
	came, err := os.CreateTemp("", tempFiles+"sound-")
	if err != nil {
		return f, err
	}
	defer func() { _ = os.Remove(came.Name()) }()
	_, err = came.Write(data)
	if err = errors.Join(err, came.Close()); err == nil {
		f, _, err = a.storeSound(ctx, m, name, came.Name())
	}
	return f, err
}

// heardFiles are the files of sound a video is heard with.
func heardFiles(v *brief.Video, k *brand.Kit) []string {
	files := v.Sounds()
	if own, _ := film.Song(v, k); own != "" && !slices.Contains(files, own) {
		files = append(files, own)
	}
	return files
}

// soundsOf is how long files of sound are, s, by their names; those that are not there are left
// out.
func (a *house) soundsOf(ctx context.Context, workspace ID, files ...string) (map[string]float64, error) {
	if len(files) == 0 {
		return nil, nil
	}
	known, err := a.filesNamed(ctx, workspace, "sound", files)
	if err != nil {
		return nil, err
	}
	out := map[string]float64{}
	for _, file := range files {
		var facts reel.Facts
		if f, ok := known[HashOf(file)]; ok && json.Unmarshal(f.Facts, &facts) == nil {
			out[file] = facts.Seconds
		}
	}
	return out, nil
}
