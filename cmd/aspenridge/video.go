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

// video is "aspenridge video": a kit and a brief in, videos out. No database, no network.
func video(ctx context.Context, args []string, stderr io.Writer) error {
	flags := flag.NewFlagSet("video", flag.ContinueOnError)
	flags.SetOutput(stderr)
	kit := flags.String("kit", "", "kit folder or ZIP with a kit.json")
	briefFile := flags.String("brief", "", "brief.json; its paths are relative to it")
	out := flags.String("out", "", "folder to write to, made if missing")
	placements := flags.String("placements", "", "ids or sizes, comma separated (default: the brief's videos, else video-tall)")
	formats := flags.String("format", "mp4", strings.Join(reel.Formats, ", ")+", comma separated")
	captions := flags.String("captions", "", "burn, srt, vtt, comma separated, or none (default: as the brief has it, without files)")
	lenient := flags.Bool("lenient", false, "replace unknown fonts instead of stopping")
	own := flags.String("channels", "", "JSON file with channels of one's own")
	if err := flags.Parse(args); err != nil {
		return bad(err)
	}
	if *kit == "" || *briefFile == "" || *out == "" || flags.NArg() > 0 {
		return bad(errors.New("usage: aspenridge video -kit DIR|ZIP -brief FILE -out DIR [flags]"))
	}
	wanted := strings.Split(*formats, ",")
	for _, f := range wanted {
		if !slices.Contains(reel.Formats, f) {
			return bad(fmt.Errorf("-format %q: want %s", f, strings.Join(reel.Formats, ", ")))
		}
	}
	files, err := captionFlag(*captions)
	if err != nil {
		return bad(err)
	}
	job, studio, name, err := briefed(ctx, *kit, *briefFile, *lenient, stderr)
	if err != nil {
		return bad(err)
	}
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
	clips, err := loadClips(ctx, job, filepath.Dir(*briefFile), work)
	if err != nil {
		return bad(err)
	}
	said, err := speak(ctx, job, filepath.Dir(*briefFile))
	if v := job.Brief.Video; err == nil && v != nil && v.Song != "" {
		said.song, err = hear(ctx, filepath.Dir(*briefFile), v.Song)
	}
	if err != nil {
		return err
	}
	for _, p := range places {
		if err := makeVideo(ctx, stderr, studio, job, p, film.Of(job, looks[0], p, said.spoken), said, clips, wanted, files, filepath.Join(*out, fmt.Sprintf("%s_%s_%dx%d", name, p.ID, p.Width, p.Height))); err != nil {
			return fmt.Errorf("%s: %w", p.ID, err)
		}
	}
	return nil
}

// makeVideo makes the files of a film; path is that of each without its ending.
func makeVideo(ctx context.Context, stderr io.Writer, studio *raster.Studio, job *piece.Job, p spec.Placement, f *film.Film, said said, clips reel.Clips, formats []string, files captionFiles, path string) error {
	stage, err := reel.Set(ctx, studio, f, clips)
	if err != nil {
		return err
	}
	defer stage.Close()
	loud, err := reel.Heard(ctx, f, clips)
	if err != nil {
		return err
	}
	heard := f.Sound(said.music(job, f.Seconds()), said.tracks, loud)
	for _, format := range formats {
		given, err := reel.Make(ctx, stage, heard, format, int64(p.MaxBytes), path+"."+format, nil)
		if err != nil {
			return err
		}
		if given.Over {
			_, _ = fmt.Fprintf(stderr, "aspenridge: %s: %d kB, %s takes at most %d kB\n", path+"."+format, given.Bytes/1000, p.Name, p.MaxBytes/1000)
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

// loadClips takes the films a brief names in: what is known of them goes to the pictures they
// are shown by, and they are had by their names.
func loadClips(ctx context.Context, job *piece.Job, folder, work string) (reel.Clips, error) {
	paths := map[string]string{}
	for file, name := range job.Brief.Clips() {
		if !fs.ValidPath(name) {
			return nil, fmt.Errorf("clip %q: want a path below the brief", name)
		}
		pic, shown := job.Pictures[file]
		if !shown {
			continue
		}
		out := filepath.Join(work, fmt.Sprintf("%d.mp4", len(paths)))
		facts, err := reel.TakeClip(ctx, filepath.Join(folder, filepath.FromSlash(name)), out, nil)
		if err != nil {
			return nil, fmt.Errorf("clip %s: %w", name, err)
		}
		pic.Clip = &photo.Clip{Hash: name, Seconds: facts.Seconds, Sound: facts.Sound}
		job.Pictures[file], paths[name] = pic, out
	}
	return func(_ context.Context, hash string) (string, error) {
		if path := paths[hash]; path != "" {
			return path, nil
		}
		return "", fmt.Errorf("clip %q is not there", hash)
	}, nil
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
func (s said) music(job *piece.Job, seconds float64) sound.Track {
	if s.song != nil {
		t := s.song.Fill(seconds)
		t.Level()
		return t
	}
	named := ""
	if v := job.Brief.Video; v != nil {
		named = v.Music
	}
	return sound.Under(named, job.Kit.Motion.Music, seconds)
}

// speak has a voice say what is said in a brief's shots; recordings are files of a folder.
func speak(ctx context.Context, job *piece.Job, folder string) (s said, err error) {
	shots := film.Propose(job.Brief, job.Kit)
	script := film.Script(shots)
	s.spoken, s.tracks = make([]film.Spoken, len(shots)), make([]sound.Track, len(shots))
	aloud := slices.Clone(script)
	for i, shot := range shots {
		if shot.Recording == "" || shot.Silent {
			continue
		}
		aloud[i] = ""
		if s.tracks[i], err = hear(ctx, folder, shot.Recording); err != nil {
			return s, err
		}
		s.spoken[i] = film.Recorded(script[i], s.tracks[i].Seconds())
	}
	who := film.Speaker(job.Brief, job.Kit)
	if who == film.Nobody {
		return s, nil
	}
	all, err := voice.Of(who, job).SayAll(ctx, aloud)
	for i, v := range all {
		if aloud[i] != "" {
			s.spoken[i], s.tracks[i] = film.Spoken{Seconds: v.Seconds(), Words: v.Words}, v.Track()
		}
	}
	return s, err
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
// take videos, else a tall one.
func moving(where spec.Directory, job *piece.Job, named string) ([]spec.Placement, error) {
	if named != "" {
		return targets(where, strings.Split(named, ","))
	}
	all, err := targets(where, job.Brief.Placements)
	if err != nil {
		return nil, err
	}
	if all = slices.DeleteFunc(all, func(p spec.Placement) bool { return p.Kind != "video" }); len(all) > 0 {
		return all, nil
	}
	return targets(where, []string{"video-tall"})
}

// briefed loads a kit and a brief, with what files of it are called.
func briefed(ctx context.Context, kit, briefFile string, lenient bool, stderr io.Writer) (job *piece.Job, studio *raster.Studio, name string, err error) {
	fsys, err := kitfile.Open(kit)
	if err != nil {
		return nil, nil, "", err
	}
	k, err := kitfile.LoadKit(ctx, fsys, lenient)
	if err != nil {
		return nil, nil, "", err
	}
	data, err := os.ReadFile(briefFile)
	if err != nil {
		return nil, nil, "", err
	}
	b, err := kitfile.LoadBrief(data)
	if err != nil {
		return nil, nil, "", err
	}
	pics, err := kitfile.LoadPictures(ctx, b, os.DirFS(filepath.Dir(briefFile)), k.Kit, fsys)
	if err != nil {
		return nil, nil, "", err
	}
	warn(stderr, k)
	job = kitfile.Job(k, b, pics)
	job.Today = time.Now().UTC().Truncate(24 * time.Hour)
	name = strings.TrimSuffix(filepath.Base(briefFile), filepath.Ext(briefFile))
	if b.Name != "" {
		name = piece.FileName(b.Name)
	}
	return job, raster.NewStudio(pics.Source), name, nil
}
