package app

import (
	"context"
	"encoding/json"
	"os"
	"path/filepath"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/reel"
	"aspenridge/internal/store"
)

// MostSoundBytes is how large a file of sound may be.
const MostSoundBytes = reel.MostSoundBytes

// BringSound takes a file of sound at a path into the workspace and says how documents name
// it, and how long it is, s.
func (a Files) BringSound(ctx context.Context, m Member, name, path string) (ref string, seconds float64, err error) {
	if err := may(m, change); err != nil {
		return "", 0, err
	}
	dir, err := os.MkdirTemp("", tempFiles+"sound-")
	if err != nil {
		return "", 0, err
	}
	defer func() { _ = os.RemoveAll(dir) }()
	out := filepath.Join(dir, "sound.flac")
	facts, err := reel.TakeSound(ctx, path, out)
	if err != nil {
		return "", 0, clipTrouble(name, err)
	}
	hash, size, err := a.keep(ctx, out)
	if err != nil {
		return "", 0, err
	}
	kept := store.File{Workspace: m.Workspace, Hash: hash, Kind: "sound", Name: fileStem("/"+cleanName(name)) + ".flac", Type: "audio/flac", Bytes: size, Facts: raw(facts)}
	return refOf(kept), facts.Seconds, a.store.PutFile(ctx, m.ID, kept)
}

// soundsOf is how long the files of sound are that a video names, s, by their names; those
// that are not there are left out.
func (a *house) soundsOf(ctx context.Context, workspace ID, v *brief.Video) (map[string]float64, error) {
	files := v.Sounds()
	if len(files) == 0 {
		return nil, nil
	}
	var hashes []string
	for _, f := range files {
		hashes = append(hashes, HashOf(f))
	}
	known, err := a.store.Files(ctx, workspace, "sound", hashes)
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
