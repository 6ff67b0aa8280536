package app

import (
	"context"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"aspenridge/internal/act"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/caption"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/film"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/jobs"
	"aspenridge/internal/reel"
	"aspenridge/internal/voice"
)

// filming is the kind of jobs that make videos.
const filming = "video"

// VideoFormats are the kinds of files videos are made into.
var VideoFormats = reel.Formats

// toFilm is what a video is made of.
type toFilm struct {
	Seq, Kit int64
	Place    string
	Format   string
	Moving   float64 // s a piece of the set moves; 0 for the brief's video
	Loop     bool    `json:",omitempty"` // it ends as it began
}

// VideoPlaces are the shapes a set's video comes in: those of its placements that take
// videos, else all of the catalogue.
func (s *Set) VideoPlaces() []spec.Placement {
	var own, all []spec.Placement
	for _, c := range s.Channels.Directory {
		for _, p := range c.Placements {
			if p.Kind != "video" {
				continue
			}
			p.Channel, p.ChannelName = c.ID, c.Name
			all = append(all, p)
			if slices.Contains(s.Brief.Placements, p.ID) {
				own = append(own, p)
			}
		}
	}
	if len(own) > 0 {
		return own
	}
	return all
}

// Shots are the running order of a set's video.
func (s *Set) Shots() []brief.Shot { return film.Propose(s.Brief, s.Job.Kit) }

// Film is the video of a set for a place.
func (s *Set) Film(p spec.Placement) *film.Film {
	return Once(s, "film "+p.ID, func() *film.Film {
		return film.Of(s.Job, s.CurrentLook(), p, s.Spoken())
	})
}

// Spoken is what is said in the shots of a set's video, by a voice or on a recording; nil
// where nobody speaks, or can (see [Set.Voiceless]).
func (s *Set) Spoken() []film.Spoken {
	said, _ := s.speech()
	return said.Spoken
}

// speech is what is speech in the shots of a set's video.
func (s *Set) speech() (voice.Speech, error) {
	type spoken struct {
		voice.Speech
		err error
	}
	got := Once(s, "said", func() spoken {
		said, err := voice.Speak(context.Background(), s.Job, func(file string) float64 { return s.sounds[file] })
		return spoken{said, err}
	})
	return got.Speech, got.err
}

// Voiceless is why nobody speaks who should, nil when all is well.
func (s *Set) Voiceless() error {
	_, err := s.speech()
	return err
}

// AddEndCard makes the end of a brief's video for a place a piece of the set.
func (a Briefs) AddEndCard(ctx context.Context, m Member, id ID, c Change, place string) (int64, error) {
	end, ok := spec.EndOf(place)
	if !ok {
		return 0, fmt.Errorf("%w: %q is no video of the catalogue: only those have a card at their end", ErrInvalid, place)
	}
	c.Kind, c.Op = "brief", edit.Op{Path: "/placements/-", Value: raw(end.ID)}
	return a.documents.Edit(ctx, m, id, c)
}

// CaptionFormats are the kinds of files captions are made into.
var CaptionFormats = []string{"srt", "vtt"}

// Captions are those of a set's video for a place as a file, and what it is called.
func (a Files) Captions(_ context.Context, m Member, s *Set, place, format string) (data []byte, name string, err error) {
	p, err := s.watched(m, place)
	if err != nil {
		return nil, "", err
	}
	cues := s.Film(p).Cues
	if len(cues) == 0 {
		return nil, "", fmt.Errorf("%w: this video has no captions: give it a voice, or say what is said", ErrNotFound)
	}
	name = s.videoName(p, format)
	switch format {
	case "srt":
		return caption.SRT(cues), name, nil
	case "vtt":
		return caption.VTT(cues), name, nil
	}
	return nil, "", fmt.Errorf("%w: %q: captions are made as %s", ErrInvalid, format, strings.Join(CaptionFormats, " or "))
}

// watched is a place of a video that is short enough to be looked at and made.
func (s *Set) watched(m Member, place string) (spec.Placement, error) {
	if err := act.May(m, roles.Look); err != nil {
		return spec.Placement{}, err
	}
	p, err := s.videoPlace(place)
	if err == nil {
		err = s.shortEnough(p)
	}
	return p, err
}

// ReadCaptions reads a file of captions, which become those of a brief's video.
func (a Briefs) ReadCaptions(ctx context.Context, m Member, id ID, c Change, file []byte) (int64, error) {
	cues, err := caption.Read(file)
	if err != nil {
		return 0, fmt.Errorf("%w: %w", ErrInvalid, err)
	}
	s, err := a.sets.Set(ctx, m, id)
	if err != nil {
		return 0, err
	}
	v := brief.Video{Shots: []brief.Shot{}}
	if s.Brief.Video != nil {
		v = *s.Brief.Video
	}
	v.Cues = []brief.Cue{}
	for _, q := range cues {
		v.Cues = append(v.Cues, brief.Cue{From: q.From, To: q.To, Text: q.Text})
	}
	if v.Captions == "none" {
		v.Captions = ""
	}
	return a.SetVideo(ctx, m, id, c, v)
}

// MakeVideo has the video of a set made for a place.
func (a Files) MakeVideo(ctx context.Context, m Member, s *Set, place, format string) (ID, error) {
	p, err := s.watched(m, place)
	if err != nil {
		return ID{}, err
	}
	if err := s.Voiceless(); err != nil {
		return ID{}, err
	}
	if err := a.signedOff(ctx, m, s); err != nil {
		return ID{}, err
	}
	if !slices.Contains(VideoFormats, format) {
		return ID{}, fmt.Errorf("%w: %q: videos are made as %s", ErrInvalid, format, strings.Join(VideoFormats, " or "))
	}
	return a.toBeFilmed(ctx, m, s, toFilm{s.Doc.Seq, s.Kit.Stamp(), place, format, 0, false}, p, s.Film(p).Seconds())
}

// What drawing frames takes: so many pixels of all of them together a second on a slow and busy
// machine, and up to so many are a short job.
const (
	filmedPerSecond = 6e6
	shortFilm       = 1.2e9 // 20 s of 1080 x 1920 at 30 frames a second
)

// toBeFilmed puts a video of some seconds into the queue; asked for twice by one request it is
// made once.
func (a Files) toBeFilmed(ctx context.Context, m Member, s *Set, of toFilm, p spec.Placement, seconds float64) (ID, error) {
	pixels := float64(p.Width) * float64(p.Height) * clipFrames * seconds
	if !slices.Contains(VideoFormats, of.Format) { // searched by size, several times over
		pixels *= 3
	}
	return a.add(ctx, m, filming, s.Doc.ID, of, pixels, shortFilm, filmedPerSecond)
}

// clipFrames is how many frames a second of a video has at most.
const clipFrames = 30

// mostVideo is how long a video may run, s: all its layers and its sound are held in memory
// while it is made.
const mostVideo = 180

func (s *Set) shortEnough(p spec.Placement) error {
	if runs := s.Film(p).Seconds(); runs > mostVideo {
		return fmt.Errorf("%w: the video runs %.0f s, at most %d are made: take shots out, or shorten them", ErrInvalid, runs, mostVideo)
	}
	return nil
}

// MovingFormats are the kinds of files pieces that move are made into.
var MovingFormats = slices.Concat(VideoFormats, reel.Animated)

// MovingFilm is a piece of the set that moves for some seconds, and its place; false where
// there is none.
func (s *Set) MovingFilm(place string, way film.Way) (*film.Film, spec.Placement, bool) {
	if place == "" || mayMove(way) != nil {
		return nil, spec.Placement{}, false
	}
	pc, err := s.pieceAt(place)
	if err != nil {
		return nil, spec.Placement{}, false
	}
	return film.Moving(s.Job, pc, movingRate, way), pc.Placement, true
}

// mayMove refuses what is too short or too long.
func mayMove(way film.Way) error {
	if way.Seconds <= 0 {
		return fmt.Errorf("%w: %v s: a piece moves for some seconds", ErrInvalid, way.Seconds)
	}
	if err := (brief.Movement{Seconds: way.Seconds, Loop: way.Loop}).Check(); err != nil {
		return fmt.Errorf("%w: %w", ErrInvalid, err)
	}
	return nil
}

// MakeMoving has a piece of a set made to move for some seconds.
func (a Files) MakeMoving(ctx context.Context, m Member, s *Set, place, format string, way film.Way) (ID, error) {
	if err := act.May(m, roles.Look); err != nil {
		return ID{}, err
	}
	pc, err := s.pieceAt(place)
	if err != nil {
		return ID{}, err
	}
	if err := a.signedOff(ctx, m, s, pc); err != nil {
		return ID{}, err
	}
	done, err := a.sets.FinishedOf(ctx, m, s)
	if err != nil {
		return ID{}, err
	}
	if done[PieceKey(pc.Look, place)].Moved {
		return ID{}, fmt.Errorf("%w: this piece is finished and would look different now: bring it forward or open it again first, so that what moves is what stands", ErrInvalid)
	}
	if !slices.Contains(MovingFormats, format) {
		return ID{}, fmt.Errorf("%w: %q: moving pieces are made as %s", ErrInvalid, format, strings.Join(MovingFormats, ", "))
	}
	if err := mayMove(way); err != nil {
		return ID{}, err
	}
	return a.toBeFilmed(ctx, m, s, toFilm{s.Doc.Seq, s.Kit.Stamp(), place, format, way.Seconds, way.Loop}, pc.Placement, way.Seconds)
}

func (s *Set) pieceAt(place string) (*piece.Piece, error) {
	for _, pc := range s.Pieces() {
		if pc.Placement.ID == place {
			return pc, nil
		}
	}
	return nil, fmt.Errorf("%w: %q is not in the set", ErrInvalid, place)
}

func (s *Set) videoPlace(id string) (spec.Placement, error) {
	for _, p := range s.VideoPlaces() {
		if p.ID == id {
			return p, nil
		}
	}
	return spec.Placement{}, fmt.Errorf("%w: %q is no place for a video", ErrInvalid, id)
}

// film makes a video, in a job.
func (a *house) film(ctx context.Context, m Member, j Job, tell func(steps, of int)) (any, error) {
	var of toFilm
	if err := json.Unmarshal(j.Args, &of); err != nil {
		return nil, err
	}
	s, err := a.sets.Set(ctx, m, j.About)
	if err != nil {
		return nil, err
	}
	dir, err := os.MkdirTemp("", tempFiles+"video-")
	if err != nil {
		return nil, err
	}
	defer func() { _ = os.RemoveAll(dir) }()
	path := filepath.Join(dir, "video."+of.Format)
	work := a.makeVideo
	if of.Moving > 0 {
		work = a.makeMoving
	}
	p, given, err := work(ctx, s, of, path, tell)
	if err != nil {
		return nil, err
	}
	hash, size, err := a.keep(ctx, path)
	return madeVideo{Parcel{hash, s.videoName(p, of.Format), size, 1}, given}, err
}

// madeVideo is a video, and what it was given to be so small.
type madeVideo struct {
	Parcel
	Given *reel.Given `json:"given,omitempty"`
}

// MadeVideo is a video of a set that can be fetched, or is being made.
type MadeVideo struct {
	Parcel // empty until it is made
	Job    Job
	Place  spec.Placement
	Format string
	Moving float64 // s a piece moves, 0 for the brief's video
	Loop   bool    // it ends as it began
	Stale  bool    // the brief or its kit have changed since
}

// Videos are the videos anybody had made of a set of late, of each name the last, those that are
// being made, and those that could not be and were not asked for again.
func (a Files) Videos(ctx context.Context, m Member, s *Set) ([]MadeVideo, error) {
	if err := act.May(m, roles.Look); err != nil {
		return nil, err
	}
	done, err := a.queue.Listed(ctx, m.Workspace, s.Doc.ID, filming)
	if err != nil {
		return nil, err
	}
	var out []MadeVideo
	later := map[toFilm]bool{} // asked for again, whatever became of it
	for _, j := range done {
		var of toFilm
		v := MadeVideo{Job: j}
		if json.Unmarshal(j.Args, &of) != nil || j.State == jobs.Done && (json.Unmarshal(j.Result, &v.Parcel) != nil || v.File == "") {
			continue
		}
		wanted := toFilm{Place: of.Place, Format: of.Format, Moving: of.Moving, Loop: of.Loop}
		again := later[wanted]
		later[wanted] = true
		switch named := func(o MadeVideo) bool { return v.Name != "" && o.Name == v.Name }; {
		case j.State == jobs.Stopped, j.State == jobs.Failed && again, slices.ContainsFunc(out, named):
			continue
		}
		v.Format, v.Moving, v.Loop = of.Format, of.Moving, of.Loop
		v.Stale = of.Seq != s.Doc.Seq || of.Kit != s.Kit.Stamp()
		v.Place, _ = s.Channels.Parse(of.Place)
		out = append(out, v)
	}
	return out, nil
}

// makeVideo makes a set's video into a file.
func (a *house) makeVideo(ctx context.Context, s *Set, of toFilm, path string, tell func(steps, of int)) (spec.Placement, *reel.Given, error) {
	p, err := s.videoPlace(of.Place)
	if err == nil { // it may have grown since it was asked for
		err = s.shortEnough(p)
	}
	if err != nil {
		return p, nil, err
	}
	dir := filepath.Dir(path)
	stage, err := reel.Set(ctx, a.studio, s.Film(p), a.clipsIn(dir))
	if err != nil {
		return p, nil, err
	}
	defer stage.Close()
	track, err := a.heard(ctx, s, p, dir)
	if err != nil {
		return p, nil, err
	}
	given, err := reel.Make(ctx, stage, track, of.Format, int64(p.MaxBytes), path, tell)
	return p, toSay(given, p), err
}

// makeMoving makes a piece that moves into a file.
func (a *house) makeMoving(ctx context.Context, s *Set, of toFilm, path string, tell func(steps, of int)) (p spec.Placement, _ *reel.Given, err error) {
	pc, err := s.pieceAt(of.Place)
	if err != nil {
		return p, nil, err
	}
	p = pc.Placement
	clips := a.clipsIn(filepath.Dir(path))
	if slices.Contains(reel.Animated, of.Format) {
		moves := func(fps int) *film.Film {
			return film.Moving(s.Job, pc, fps, film.Way{Seconds: of.Moving, Loop: of.Loop, Light: true})
		}
		given, err := reel.Animate(ctx, a.studio, moves, clips, of.Format, reel.LimitOf(p), path, tell)
		return p, &given, err
	}
	stage, err := reel.Set(ctx, a.studio, film.Moving(s.Job, pc, movingRate, film.Way{Seconds: of.Moving, Loop: of.Loop}), clips)
	if err != nil {
		return p, nil, err
	}
	defer stage.Close()
	given, err := reel.Make(ctx, stage, nil, of.Format, int64(p.MaxBytes), path, tell)
	return p, toSay(given, p), err
}

// toSay is what a video was given to be so small, and what is wrong with it; nil where there
// is nothing to say.
func toSay(given reel.Given, p spec.Placement) *reel.Given {
	if p.MaxBytes == 0 && len(given.Flashes) == 0 {
		return nil
	}
	return &given
}

// videoName is what a file of a set's video for a place is called.
func (s *Set) videoName(p spec.Placement, format string) string {
	return fmt.Sprintf("%s_%s_%dx%d.%s", piece.FileName(s.Title()), placeName.Replace(p.ID), p.Width, p.Height, format)
}

// placeName is the id of a place as files are named by it.
var placeName = strings.NewReplacer("+", "_card", "~", "_")

// movingRate is how many frames a second a moving piece has as a video.
const movingRate = 30
