package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"time"

	"aspenridge/internal/act"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/film"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/raster"
	"aspenridge/internal/reel"
	"aspenridge/internal/store"
)

// taking is the kind of jobs that take clips in.
const taking = "clip"

// toTake is a clip that came in.
type toTake struct {
	File string // hash of what came
	Name string
	Card string // id of the card it is for
}

// MostClipBytes is how large a clip may be.
const MostClipBytes = reel.MostClipBytes

// BringClip has a film at a path taken in as a picture of a card of the brief, by its id (""
// for the first): a job, since that takes a while.
func (a Files) BringClip(ctx context.Context, m Member, id ID, card, name, path string) (ID, error) {
	c, err := a.cardFor(ctx, m, id, card)
	if err == nil && len(c.Pictures) >= MaxPictures {
		err = fmt.Errorf("%w: the brief has %d pictures already; take one away first", ErrInvalid, len(c.Pictures))
	}
	var facts reel.Facts
	if err == nil {
		facts, err = reel.CheckClip(ctx, path)
	}
	if err != nil {
		return ID{}, clipTrouble(name, err)
	}
	hash, _, err := a.keep(ctx, path)
	if err != nil {
		return ID{}, err
	}
	return a.add(ctx, m, taking, id, toTake{hash, cleanName(name), c.ID}, facts.Work().Seconds(), shortTake.Seconds(), 1)
}

// shortTake is how long taking a clip in may take for it to be a short job ([reel.Facts.Work]).
const shortTake = 4 * time.Minute

// clipTrouble is an error with the name of the file it is about.
func clipTrouble(name string, err error) error {
	if errors.Is(err, reel.ErrClip) {
		return fmt.Errorf("%w: %s: %w", ErrInvalid, cleanName(name), err)
	}
	return err
}

// takeClip takes a clip in, in a job: it becomes a picture of the brief, by the frame that
// stands for it.
func (a *house) takeClip(ctx context.Context, m Member, j Job, tell func(steps, of int)) (any, error) {
	var of toTake
	if err := json.Unmarshal(j.Args, &of); err != nil {
		return nil, err
	}
	dir, err := os.MkdirTemp("", tempFiles+"clip-")
	if err != nil {
		return nil, err
	}
	defer func() { _ = os.RemoveAll(dir) }()
	came, out := filepath.Join(dir, "came"), filepath.Join(dir, "clip.mp4")
	if err := a.fetch(ctx, of.File, came); err != nil {
		return nil, err
	}
	facts, err := reel.TakeClip(ctx, came, out, tell)
	if err != nil {
		return nil, clipTrouble(of.Name, err)
	}
	hash, size, err := a.keep(ctx, out)
	if err != nil {
		return nil, err
	}
	stem := fileStem("/" + of.Name)
	known, err := a.knownOf(ctx, out, facts)
	if err != nil {
		return nil, clipTrouble(of.Name, err)
	}
	clip := store.File{Workspace: m.Workspace, Hash: hash, Kind: "clip", Name: stem + ".mp4", Type: "video/mp4", Bytes: size, Facts: raw(known)}
	data, at, err := reel.Poster(ctx, out, facts.Seconds)
	if err != nil {
		return nil, clipTrouble(of.Name, err)
	}
	still, err := a.storePicture(ctx, m, stem+".png", data)
	if err != nil {
		return nil, err
	}
	pic := brief.Picture{File: refOf(still), Clip: refOf(clip), At: at}
	m = m.Sending("clip " + j.ID.String()) // done again it is the same change
	_, err = a.documents.Edit(ctx, m, j.About, Change{Kind: "brief", Base: Latest, Op: edit.Op{Path: cardPath(of.Card, "pictures/-"), Value: raw(pic)}, Files: []store.File{clip, still}})
	if errors.Is(err, store.ErrRepeated) {
		err = nil
	}
	return pic, err // what came is forgotten with the job
}

// clipFacts are what is known of a clip from the day it came in.
type clipFacts struct {
	reel.Facts
	// over its frames; nothing in older ones
	Focus    [2]float64      `json:"focus"`
	Subjects []photo.Subject `json:"subjects,omitempty"`
	Light    string          `json:"light,omitempty"` // hash of its light map
}

// knownOf is what is known of a clip at a path.
func (a *house) knownOf(ctx context.Context, path string, facts reel.Facts) (clipFacts, error) {
	over, err := reel.OverFrames(ctx, path, facts.Seconds)
	if err != nil {
		return clipFacts{}, err
	}
	light, err := a.blobs.Put(ctx, raw(over.Light))
	return clipFacts{facts, over.Focus, over.Subjects, light}, err
}

// keep stores a file and says its hash and size.
func (a *house) keep(ctx context.Context, path string) (hash string, size int64, err error) {
	f, err := os.Open(path)
	if err != nil {
		return "", 0, err
	}
	defer func() { _ = f.Close() }()
	info, err := f.Stat()
	if err == nil {
		hash, err = a.blobs.PutFrom(ctx, f)
	}
	if err != nil {
		return "", 0, err
	}
	return hash, info.Size(), nil
}

// fetch writes what is stored under a hash into a file.
func (a *house) fetch(ctx context.Context, hash, path string) error {
	from, err := a.blobs.Reader(ctx, hash)
	if err != nil {
		return err
	}
	defer func() { _ = from.Close() }()
	to, err := os.Create(path)
	if err != nil {
		return err
	}
	_, err = io.Copy(to, from)
	return errors.Join(err, to.Close())
}

// clipsIn gives clips as files of a folder.
func (a *house) clipsIn(dir string) reel.Clips {
	return func(ctx context.Context, hash string) (string, error) {
		path := filepath.Join(dir, hash+".mp4")
		if _, err := os.Stat(path); err == nil {
			return path, nil
		}
		return path, a.fetch(ctx, hash, path)
	}
}

// withClips puts what is known of clips to the pictures they are shown by.
func (a *house) withClips(ctx context.Context, workspace ID, pics map[string]photo.Picture, clips map[string]string) error {
	var hashes []string
	for _, clip := range clips {
		hashes = append(hashes, HashOf(clip))
	}
	if len(hashes) == 0 {
		return nil
	}
	known, err := a.store.Files(ctx, workspace, "clip", hashes)
	if err != nil {
		return err
	}
	for file, clip := range clips {
		f, ok := known[HashOf(clip)]
		pic, shown := pics[file]
		var facts clipFacts
		if !ok || !shown || json.Unmarshal(f.Facts, &facts) != nil || facts.Seconds <= 0 {
			continue
		}
		over := photo.Over{Focus: facts.Focus, Subjects: facts.Subjects, Light: a.light(ctx, facts.Light)}
		pic.Clip = &photo.Clip{Hash: f.Hash, Seconds: facts.Seconds, Sound: facts.Sound, Over: over}
		pics[file] = pic
	}
	return nil
}

// WithoutSilence leaves out of a shot of a brief's video, by its number from 0, the stretches of
// its clip in which nothing is heard: it becomes several.
func (a Briefs) WithoutSilence(ctx context.Context, m Member, id ID, c Change, shot int) (int64, error) {
	if err := a.mayOn(ctx, m, roles.WriteBriefs, id); err != nil { // before work is done for it
		return 0, err
	}
	s, err := a.sets.Set(ctx, m, id)
	if err != nil {
		return 0, err
	}
	shots := s.Shots()
	if shot < 0 || shot >= len(shots) {
		return 0, fmt.Errorf("%w: there is no shot %d", ErrNotFound, shot+1)
	}
	clip := s.Job.Pictures[shots[shot].Picture].Clip
	if shots[shot].Picture == "" || clip == nil || !clip.Sound {
		return 0, fmt.Errorf("%w: shot %d has no clip that is heard", ErrInvalid, shot+1)
	}
	dir, err := os.MkdirTemp("", tempFiles+"silence-")
	if err != nil {
		return 0, err
	}
	defer func() { _ = os.RemoveAll(dir) }()
	path, err := a.clipsIn(dir)(ctx, clip.Hash)
	if err != nil {
		return 0, err
	}
	heard, err := reel.Hear(ctx, path, 0, clip.Seconds)
	if err != nil {
		return 0, err
	}
	runs := shots[shot].Seconds
	if runs == 0 { // all that is left of it
		runs = clip.Seconds - shots[shot].From
	}
	cut := film.Without(shots[shot], runs, heard.Loud())
	if len(cut) == 1 && cut[0].From == shots[shot].From && cut[0].Seconds >= runs-0.1 || len(cut) == 1 && cut[0] == shots[shot] {
		return 0, fmt.Errorf("%w: there is no silence of half a second in this shot", ErrInvalid)
	}
	v := brief.Video{}
	if s.Brief.Video != nil {
		v = *s.Brief.Video
	}
	v.Shots = slices.Replace(slices.Clone(shots), shot, shot+1, cut...)
	return a.SetVideo(ctx, m, id, c, v)
}

// ShowFrame has another frame of a clip stand for it: the one so many seconds into it, of the
// picture of a brief by its id.
func (a Briefs) ShowFrame(ctx context.Context, m Member, id ID, client, picture string, at float64) error {
	if err := a.mayOn(ctx, m, roles.WriteBriefs, id); err != nil {
		return err
	}
	s, err := a.sets.Set(ctx, m, id)
	if err != nil {
		return err
	}
	for _, c := range s.Brief.Cards {
		for _, p := range c.Pictures {
			if p.ID != picture || p.Clip == "" {
				continue
			}
			facts := s.Job.Pictures[p.File].Clip
			if facts == nil || at < 0 || at >= facts.Seconds {
				return fmt.Errorf("%w: there is no frame at %.1f s", ErrInvalid, at)
			}
			still, err := a.stillOf(ctx, m, p, at)
			if err != nil {
				return err
			}
			was := p.File
			p.File, p.At = refOf(still), at
			ops := edit.Op{Path: cardPath(c.ID, "pictures/@"+p.ID), Value: raw(p)}
			if err := a.showPicture(ctx, m, id, client, ops, still); err != nil {
				return err
			}
			return a.shotsShow(ctx, m, id, client, s.Brief.Video, was, p.File)
		}
	}
	return fmt.Errorf("%w: there is no such clip", ErrNotFound)
}

// shotsShow has shots that show a frame show another one.
func (a *house) shotsShow(ctx context.Context, m Member, id ID, client string, v *brief.Video, was, now string) error {
	if v == nil {
		return nil
	}
	next, found := *v, false
	next.Shots = append([]brief.Shot{}, v.Shots...)
	for i := range next.Shots {
		if next.Shots[i].Picture == was {
			next.Shots[i].Picture, found = now, true
		}
	}
	if !found {
		return nil
	}
	_, err := a.documents.Edit(ctx, m, id, Change{Kind: "brief", Client: client, Base: Latest, Op: edit.Op{Path: "/video", Value: raw(next)}})
	return err
}

func (a *house) stillOf(ctx context.Context, m Member, p brief.Picture, at float64) (store.File, error) {
	dir, err := os.MkdirTemp("", tempFiles+"still-")
	if err != nil {
		return store.File{}, err
	}
	defer func() { _ = os.RemoveAll(dir) }()
	path, err := a.clipsIn(dir)(ctx, HashOf(p.Clip))
	if err != nil {
		return store.File{}, err
	}
	data, err := reel.Still(ctx, path, at)
	if err != nil {
		return store.File{}, clipTrouble(p.Clip, err)
	}
	return a.storePicture(ctx, m, fileStem(p.Clip)+".png", data)
}

// Clip opens a clip of the workspace by its hash, with its media type.
func (a Files) Clip(ctx context.Context, m Member, hash string) (io.ReadSeekCloser, string, error) {
	if err := act.May(m, roles.Look); err != nil {
		return nil, "", err
	}
	f, err := a.store.File(ctx, m.Workspace, "clip", hash)
	if err != nil {
		return nil, "", err
	}
	r, err := a.blobs.Open(ctx, f.Hash)
	return r, f.Type, err
}

// kitClipFacts are what is known of a clip of a kit; where it came in without ffmpeg at hand
// nothing is, and videos open without it.
type kitClipFacts struct {
	reel.Facts
	Still  string  `json:"still,omitempty"` // hash of the frame that stands for it
	StillW int     `json:"stillW,omitempty"`
	StillH int     `json:"stillH,omitempty"`
	At     float64 `json:"at,omitempty"` // s
}

// kitClip looks at a film that is to be a kit's; an error says why it cannot be one.
func (a *house) kitClip(ctx context.Context, data []byte) (k kitClipFacts, err error) {
	f, err := os.CreateTemp("", tempFiles+"clip-")
	if err != nil {
		return k, err
	}
	defer func() { _ = os.Remove(f.Name()) }()
	_, err = f.Write(data)
	if err = errors.Join(err, f.Close()); err != nil {
		return k, err
	}
	facts, err := reel.CheckClip(ctx, f.Name())
	if errors.Is(err, reel.ErrEncoder) { // without ffmpeg nothing is known of it
		return k, nil
	}
	if err != nil {
		return k, err
	}
	still, at, err := reel.Poster(ctx, f.Name(), facts.Seconds)
	if err != nil {
		return k, err
	}
	in, err := raster.Import(ctx, still)
	if err != nil {
		return k, err
	}
	hash, err := a.blobs.Put(ctx, in.Data)
	return kitClipFacts{facts, hash, in.W, in.H, at}, err
}

// kitClips are the films of a kit by their files, as the frames that stand for them.
func (a *house) kitClips(ctx context.Context, workspace ID, k *Kit) (map[string]photo.Picture, error) {
	var films []string
	for _, p := range k.Pictures {
		if p.Kind == brand.Clip {
			films = append(films, p.File)
		}
	}
	known, err := a.filesNamed(ctx, workspace, "clip", films)
	if err != nil {
		return nil, err
	}
	out := map[string]photo.Picture{}
	for _, p := range k.Pictures {
		var facts kitClipFacts
		f, ok := known[HashOf(p.File)]
		if !ok || json.Unmarshal(f.Facts, &facts) != nil || facts.Still == "" {
			continue
		}
		out[p.File] = photo.Picture{
			Hash: facts.Still, W: facts.StillW, H: facts.StillH, Focus: [2]float64{0.5, 0.5},
			Clip: &photo.Clip{Hash: f.Hash, Seconds: facts.Seconds, Sound: facts.Sound},
		}
	}
	return out, nil
}

// PictureID is the id of the picture of the brief that shows a file, "" for none.
func (s *Set) PictureID(file string) string {
	for _, c := range s.Brief.Cards {
		for _, p := range c.Pictures {
			if p.File == file {
				return p.ID
			}
		}
	}
	return ""
}
