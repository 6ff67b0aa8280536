package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/caption"
	"aspenridge/internal/core/film"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/sound"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/kitfile"
	"aspenridge/internal/raster"
	"aspenridge/internal/reel"
	"aspenridge/internal/voice"
)

// videoFormats are what videos are made as.
var videoFormats = slices.Concat(reel.Formats, reel.Animated)

// video is "aspenridge video": a kit and a brief in, videos out. No database, no network.
func video(ctx context.Context, args []string, stderr io.Writer) error {
	flags := flag.NewFlagSet("video", flag.ContinueOnError)
	flags.SetOutput(stderr)
	kit := flags.String("kit", "", "kit folder or ZIP with a kit.json")
	briefFile := flags.String("brief", "", "brief.json; its paths are relative to it")
	out := flags.String("out", "", "folder to write to, made if missing")
	placements := flags.String("placements", "", "ids or sizes, comma separated (default: the brief's videos and pieces that move, else video-tall)")
	formats := flags.String("format", "mp4", strings.Join(videoFormats, ", ")+", comma separated")
	seconds := flags.Float64("seconds", brief.UsualMovement, "how long pieces move, s, in places that take pictures (default as the brief has it)")
	loop := flags.Bool("loop", false, "pieces that move end as they begin")
	captions := flags.String("captions", "", "burn, srt, vtt, comma separated, or none (default: as the brief has it, without files)")
	lenient := flags.Bool("lenient", false, "replace unknown fonts instead of stopping")
	own := flags.String("channels", "", "JSON file with channels of one's own")
	if err := flags.Parse(args); err != nil {
		return bad(err)
	}
	if *kit == "" || *briefFile == "" || *out == "" || flags.NArg() > 0 {
		return bad(errors.New("usage: aspenridge video -kit DIR|ZIP -brief FILE -out DIR [flags]"))
	}
	if *seconds <= 0 || *seconds > brief.MostMovement {
		return bad(fmt.Errorf("-seconds %v: pieces move for up to %v", *seconds, brief.MostMovement))
	}
	wanted := strings.Split(*formats, ",")
	for _, f := range wanted {
		if !slices.Contains(videoFormats, f) {
			return bad(fmt.Errorf("-format %q: want %s", f, strings.Join(videoFormats, ", ")))
		}
	}
	files, err := captionFlag(*captions)
	if err != nil {
		return bad(err)
	}
	in, err := briefed(ctx, *kit, *briefFile, *lenient, stderr)
	if err != nil {
		return bad(err)
	}
	job := in.job
	where, err := directory(*own)
	if err != nil {
		return bad(err)
	}
	places, err := moving(where, job, *placements)
	if err != nil {
		return bad(err)
	}
	looks, err := chooseLooks(job)
	if err != nil {
		return bad(err)
	}
	if err := os.MkdirAll(*out, 0o755); err != nil {
		return bad(err)
	}
	files.set(job)
	work, err := os.MkdirTemp("", "aspenridge-video-")
	if err != nil {
		return err
	}
	defer func() { _ = os.RemoveAll(work) }()
	clips := clipFiles{}
	if err := clips.load(ctx, job, filepath.Dir(*briefFile), work); err != nil {
		return bad(err)
	}
	if err := clips.loadKit(ctx, in, work); err != nil {
		return bad(err)
	}
	said, err := speak(ctx, job, filepath.Dir(*briefFile))
	if file, ofKit := film.Song(job.Brief.Video, job.Kit); err == nil && file != "" {
		folder := filepath.Dir(*briefFile)
		if ofKit {
			folder, err = work, unpacked(in.kit, file, work)
		}
		if err == nil {
			said.song, err = hear(ctx, folder, file)
		}
	}
	if err != nil {
		return err
	}
	asked := map[string]bool{}
	flags.Visit(func(f *flag.Flag) { asked[f.Name] = true })
	for _, p := range places {
		way := film.Way{Seconds: *seconds, Loop: *loop}
		if m, ok := job.Brief.Moves(p); ok && !asked["seconds"] && !asked["loop"] {
			way = film.Way{Seconds: m.Seconds, Loop: m.Loop}
		}
		v := videoOf{job, in.studio, looks[0], p, said, clips.path, way}
		if err := v.make(ctx, stderr, wanted, files, filepath.Join(*out, fmt.Sprintf("%s_%s_%dx%d", in.name, p.ID, p.Width, p.Height))); err != nil {
			return fmt.Errorf("%s: %w", p.ID, err)
		}
	}
	return nil
}

// videoOf is what a video of a place is made of.
type videoOf struct {
	job    *piece.Job
	studio *raster.Studio
	look   piece.Look
	place  spec.Placement
	said   said
	clips  reel.Clips
	way    film.Way // in which a piece moves, where its place takes pictures
}

// still reports whether the place takes pictures, and has a piece that moves; a size alone has
// the video.
func (v videoOf) still() bool { return v.place.Kind != "video" && v.place.Channel != spec.Own.ID }

// film is the video, or the piece that moves, at so many frames a second, 0 for as many as its
// place has; light for files of few bytes.
func (v videoOf) film(fps int, light bool) *film.Film {
	p := v.place
	if v.still() {
		pc, way := v.job.Compose(v.look, p, p.Card), v.way
		way.Light = light
		if fps == 0 {
			fps = 30
		}
		return film.Moving(v.job, &pc, fps, way)
	}
	if fps > 0 {
		p.FPS = fps
	}
	return film.Of(v.job, v.look, p, v.said.spoken)
}

// make makes the files of a video; path is that of each without its ending.
func (v videoOf) make(ctx context.Context, stderr io.Writer, formats []string, files captionFiles, path string) error {
	f := v.film(0, false)
	stage, err := reel.Set(ctx, v.studio, f, v.clips)
	if err != nil {
		return err
	}
	defer stage.Close()
	loud, err := reel.Heard(ctx, f, v.clips)
	if err != nil {
		return err
	}
	heard := f.Sound(v.said.music(v.job, f.Seconds()), v.said.tracks, loud)
	for _, format := range formats {
		var given reel.Given
		if slices.Contains(reel.Animated, format) {
			given, err = reel.Animate(ctx, v.studio, func(fps int) *film.Film { return v.film(fps, true) }, v.clips, format, reel.LimitOf(v.place), path+"."+format, nil)
		} else {
			given, err = reel.Make(ctx, stage, heard, format, int64(v.place.MaxBytes), path+"."+format, nil)
		}
		if err != nil {
			return err
		}
		if given.Over {
			_, _ = fmt.Fprintf(stderr, "aspenridge: %s: %d kB, %s takes at most %d kB\n", path+"."+format, given.Bytes/1000, v.place.Name, v.place.MaxBytes/1000)
		}
	}
	if len(f.Cues) == 0 {
		return nil
	}
	for format, write := range map[string]func([]caption.Cue) []byte{"srt": caption.SRT, "vtt": caption.VTT} {
		if slices.Contains(files.formats, format) {
			if err := os.WriteFile(path+"."+format, write(f.Cues), 0o644); err != nil {
				return err
			}
		}
	}
	return nil
}

// clipFiles are films as files, by what they are called.
type clipFiles map[string]string

func (c clipFiles) path(_ context.Context, name string) (string, error) {
	if path := c[name]; path != "" {
		return path, nil
	}
	return "", fmt.Errorf("clip %q is not there", name)
}

// load takes the films in that a brief names: what is known of them goes to the pictures they
// are shown by.
func (c clipFiles) load(ctx context.Context, job *piece.Job, folder, work string) error {
	for file, name := range job.Brief.Clips() {
		if !fs.ValidPath(name) {
			return fmt.Errorf("clip %q: want a path below the brief", name)
		}
		pic, shown := job.Pictures[file]
		if !shown {
			continue
		}
		out := filepath.Join(work, fmt.Sprintf("%d.mp4", len(c)))
		facts, err := reel.TakeClip(ctx, filepath.Join(folder, filepath.FromSlash(name)), out, nil)
		if err != nil {
			return fmt.Errorf("clip %s: %w", name, err)
		}
		over, err := reel.OverFrames(ctx, out, facts.Seconds)
		if err != nil {
			return fmt.Errorf("clip %s: %w", name, err)
		}
		pic.Clip = &photo.Clip{Hash: name, Seconds: facts.Seconds, Sound: facts.Sound, Over: over}
		job.Pictures[file], c[name] = pic, out
	}
	return nil
}

// loadKit takes the films in that the kit opens and closes videos with.
func (c clipFiles) loadKit(ctx context.Context, in loaded, work string) error {
	in.job.KitClips = map[string]photo.Picture{}
	for _, end := range []brand.Bookend{in.job.Kit.Motion.Opening, in.job.Kit.Motion.Closing} {
		if end.From != "clip" || end.Clip == "" {
			continue
		}
		data, err := fs.ReadFile(in.kit, end.Clip)
		out, hash := filepath.Join(work, fmt.Sprintf("kit%d.mp4", len(c))), "kit/"+end.Clip
		if err == nil {
			err = os.WriteFile(out, data, 0o600)
		}
		var facts reel.Facts
		if err == nil {
			facts, err = reel.CheckClip(ctx, out)
		}
		var still []byte
		if err == nil {
			still, _, err = reel.Poster(ctx, out, facts.Seconds)
		}
		var pic photo.Picture
		if err == nil {
			pic, err = in.pictures.Add(ctx, still)
		}
		if err != nil {
			return fmt.Errorf("the kit's clip %s: %w", end.Clip, err)
		}
		pic.Clip = &photo.Clip{Hash: hash, Seconds: facts.Seconds, Sound: facts.Sound}
		in.job.KitClips[end.Clip], c[hash] = pic, out
	}
	return nil
}

// captionFiles are how captions are asked for on the command line.
type captionFiles struct {
	way     string   // one of the brief's, "" for as it has it
	formats []string // of files
}

func captionFlag(text string) (c captionFiles, err error) {
	if text == "" {
		return c, nil
	}
	c.way = "beside"
	for part := range strings.SplitSeq(text, ",") {
		switch part {
		case "burn":
			c.way = "all"
		case "none":
			c.way = "none"
		case "srt", "vtt":
			c.formats = append(c.formats, part)
		default:
			return c, fmt.Errorf("-captions %q: want burn, srt, vtt or none", part)
		}
	}
	return c, nil
}

// set has a brief's video captioned so.
func (c captionFiles) set(job *piece.Job) {
	if c.way == "" {
		return
	}
	v := brief.Video{}
	if job.Brief.Video != nil {
		v = *job.Brief.Video
	}
	v.Captions = c.way
	b := *job.Brief
	b.Video = &v
	job.Brief = &b
}

// said is what is said in the shots of a video, and its music where that is one's own.
type said struct {
	spoken []film.Spoken
	tracks []sound.Track
	song   sound.Track
}

// music of a video of so many seconds.
func (s said) music(job *piece.Job, seconds float64) sound.Music {
	if s.song != nil {
		return sound.Song(s.song, seconds)
	}
	named := ""
	if v := job.Brief.Video; v != nil {
		named = v.Music
	}
	return sound.Under(named, job.Kit.Motion.Music, seconds)
}

// speak has a voice say what is said in a brief's shots; recordings are files of a folder.
func speak(ctx context.Context, job *piece.Job, folder string) (s said, err error) {
	recordings := map[string]sound.Track{}
	for _, shot := range film.Propose(job.Brief, job.Kit) {
		if shot.Recording == "" || shot.Silent {
			continue
		}
		if recordings[shot.Recording], err = hear(ctx, folder, shot.Recording); err != nil {
			return s, err
		}
	}
	speech, err := voice.Speak(ctx, job, func(file string) float64 { return recordings[file].Seconds() })
	if err != nil {
		return s, err
	}
	s.spoken = speech.Spoken
	s.tracks, err = speech.Tracks(func(file string) (sound.Track, error) { return recordings[file], nil })
	return s, err
}

// unpacked writes a file of a kit into a folder, under its own name.
func unpacked(kit fs.FS, name, folder string) error {
	data, err := fs.ReadFile(kit, name)
	if err != nil {
		return fmt.Errorf("the kit's music: %w", err)
	}
	path := filepath.Join(folder, filepath.FromSlash(name)) // fs.ReadFile takes valid paths alone
	if err := os.MkdirAll(filepath.Dir(path), 0o700); err != nil {
		return err
	}
	return os.WriteFile(path, data, 0o600)
}

// hear reads a file of sound that a brief names.
func hear(ctx context.Context, folder, name string) (sound.Track, error) {
	if !fs.ValidPath(name) {
		return nil, fmt.Errorf("sound %q: want a path below the brief", name)
	}
	path := filepath.Join(folder, filepath.FromSlash(name))
	facts, err := reel.Probe(ctx, path)
	if err == nil && (!facts.Sound || facts.Seconds > brief.MostClip) {
		err = fmt.Errorf("want sound of at most %v s", brief.MostClip)
	}
	var t sound.Track
	if err == nil {
		t, err = reel.Hear(ctx, path, 0, facts.Seconds)
	}
	if err != nil {
		return nil, fmt.Errorf("sound %s: %w", name, err)
	}
	return t, nil
}

// moving are the places videos are made for: those that are named, else the brief's that
// take videos or whose pieces move, else a tall one.
func moving(where spec.Directory, job *piece.Job, named string) ([]spec.Placement, error) {
	if named != "" {
		return targets(where, strings.Split(named, ","))
	}
	all, err := targets(where, job.Brief.Placements)
	if err != nil {
		return nil, err
	}
	still := func(p spec.Placement) bool {
		_, moves := job.Brief.Moves(p)
		return p.Kind != "video" && !moves
	}
	if all = slices.DeleteFunc(all, still); len(all) > 0 {
		return all, nil
	}
	return targets(where, []string{"video-tall"})
}

// loaded is a kit and a brief, ready to be drawn.
type loaded struct {
	job      *piece.Job
	studio   *raster.Studio
	pictures kitfile.Pictures
	kit      fs.FS
	name     string // what files of it are called
}

// briefed loads a kit and a brief.
func briefed(ctx context.Context, kit, briefFile string, lenient bool, stderr io.Writer) (in loaded, err error) {
	if in.kit, err = kitfile.Open(kit); err != nil {
		return in, err
	}
	k, err := kitfile.LoadKit(ctx, in.kit, lenient)
	if err != nil {
		return in, err
	}
	data, err := os.ReadFile(briefFile)
	if err != nil {
		return in, err
	}
	b, err := kitfile.LoadBrief(data)
	if err != nil {
		return in, err
	}
	if in.pictures, err = kitfile.LoadPictures(ctx, b, os.DirFS(filepath.Dir(briefFile)), k.Kit, in.kit); err != nil {
		return in, err
	}
	warn(stderr, k)
	in.job = kitfile.Job(k, b, in.pictures)
	in.job.Today = time.Now().UTC().Truncate(24 * time.Hour)
	in.name = strings.TrimSuffix(filepath.Base(briefFile), filepath.Ext(briefFile))
	if b.Name != "" {
		in.name = piece.FileName(b.Name)
	}
	in.studio = raster.NewStudio(in.pictures.Source)
	return in, nil
}
