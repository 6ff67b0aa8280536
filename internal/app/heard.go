package app

import (
	"cmp"
	"context"
	"fmt"
	"os"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/film"
	"aspenridge/internal/core/sound"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/reel"
	"aspenridge/internal/voice"
)

// heard is what a set's video for a place is heard with, nil for a silent one; clips are
// files of a folder.
func (a *house) heard(ctx context.Context, s *Set, p spec.Placement, dir string) (sound.Track, error) {
	said, err := s.speech()
	if err != nil {
		return nil, err
	}
	recording := func(file string) (sound.Track, error) {
		path, err := a.clipsIn(dir)(ctx, HashOf(file))
		if err != nil {
			return nil, err
		}
		return reel.Hear(ctx, path, 0, s.sounds[file])
	}
	tracks, err := said.Tracks(recording)
	if err != nil {
		return nil, err
	}
	f := s.Film(p)
	clips, err := reel.Heard(ctx, f, a.clipsIn(dir))
	if err != nil {
		return nil, err
	}
	if own, _ := film.Song(s.Brief.Video, s.Job.Kit); s.sounds[own] > 0 {
		track, err := recording(own)
		if err != nil {
			return nil, err
		}
		return f.Sound(sound.Song(track, f.Seconds()), tracks, clips), nil
	}
	return f.Sound(sound.Under(s.music(), s.Job.Kit.Motion.Music, f.Seconds()), tracks, clips), nil
}

// music is the piece a set's video names.
func (s *Set) music() string {
	if s.Brief.Video == nil {
		return ""
	}
	return s.Brief.Video.Music
}

// Sound is what a set's video for a place is heard with, as a WAV file.
func (a Files) Sound(ctx context.Context, m Member, s *Set, place string) ([]byte, error) {
	p, err := s.watched(m, place)
	if err != nil {
		return nil, err
	}
	dir, err := os.MkdirTemp("", tempFiles+"sound-")
	if err != nil {
		return nil, err
	}
	defer func() { _ = os.RemoveAll(dir) }()
	track, err := a.heard(ctx, s, p, dir)
	if err != nil {
		return nil, err
	}
	if track == nil {
		return nil, fmt.Errorf("%w: this video is silent", ErrNotFound)
	}
	return reel.WAV(track), nil
}

// kitMusic is the music of a kit for so many seconds; nil for none.
func (a *house) kitMusic(ctx context.Context, m Member, k *brand.Kit, seconds float64) (sound.Music, error) {
	own := k.Motion.Song.File
	if own == "" {
		return sound.Under("", k.Motion.Music, seconds), nil
	}
	lengths, err := a.soundsOf(ctx, m.Workspace, own)
	if err != nil || lengths[own] == 0 {
		return sound.Under("", k.Motion.Music, seconds), err
	}
	dir, err := os.MkdirTemp("", tempFiles+"sound-")
	if err != nil {
		return nil, err
	}
	defer func() { _ = os.RemoveAll(dir) }()
	path, err := a.clipsIn(dir)(ctx, HashOf(own))
	if err != nil {
		return nil, err
	}
	track, err := reel.Hear(ctx, path, 0, lengths[own])
	return sound.Song(track, seconds), err
}

// kitHeard is how long at least a kit is heard, s.
const kitHeard = 8

// KitSound is what a kit's videos sound like, as a WAV file: its music, and its voice saying the
// tagline over it; [ErrNotFound] for a kit that is silent.
func (a Files) KitSound(ctx context.Context, m Member, kit ID) ([]byte, error) {
	k, err := a.kits.Kit(ctx, m, kit)
	if err != nil {
		return nil, err
	}
	var said []sound.Heard
	seconds := float64(kitHeard)
	if kind := k.Motion.Voice; kind != "" {
		words := cmp.Or(k.Tagline, k.Name, "This is how it sounds.")
		job := a.bareJob(k, &brief.Brief{FormatVersion: 1, Purpose: "hello", Cards: []brief.Card{{Headline: &words}}})
		spoken, err := voice.Of(kind, job).Say(ctx, words)
		if err != nil {
			return nil, err
		}
		said = append(said, sound.Heard{At: 1, Track: spoken.Track()})
		seconds = max(seconds, spoken.Seconds()+2)
	}
	music, err := a.kitMusic(ctx, m, k.Kit, seconds)
	if err != nil {
		return nil, err
	}
	if len(music) == 0 && len(said) == 0 {
		return nil, fmt.Errorf("%w: this kit is silent", ErrNotFound)
	}
	return reel.WAV(sound.Mix(music, said, seconds)), nil
}
