package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"aspenridge/internal/core/film"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/sound"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/kitfile"
	"aspenridge/internal/raster"
	"aspenridge/internal/reel"
)

// video is "aspenridge video": a kit and a brief in, videos out. No database, no network.
func video(ctx context.Context, args []string, stderr io.Writer) error {
	fs := flag.NewFlagSet("video", flag.ContinueOnError)
	fs.SetOutput(stderr)
	kit := fs.String("kit", "", "kit folder or ZIP with a kit.json")
	briefFile := fs.String("brief", "", "brief.json; its paths are relative to it")
	out := fs.String("out", "", "folder to write to, made if missing")
	placements := fs.String("placements", "", "ids or sizes, comma separated (default: the brief's videos, else video-tall)")
	formats := fs.String("format", "mp4", strings.Join(reel.Formats, ", ")+", comma separated")
	lenient := fs.Bool("lenient", false, "replace unknown fonts instead of stopping")
	own := fs.String("channels", "", "JSON file with channels of one's own")
	if err := fs.Parse(args); err != nil {
		return bad(err)
	}
	if *kit == "" || *briefFile == "" || *out == "" || fs.NArg() > 0 {
		return bad(errors.New("usage: aspenridge video -kit DIR|ZIP -brief FILE -out DIR [flags]"))
	}
	wanted := strings.Split(*formats, ",")
	for _, f := range wanted {
		if !slices.Contains(reel.Formats, f) {
			return bad(fmt.Errorf("-format %q: want %s", f, strings.Join(reel.Formats, ", ")))
		}
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
	for _, p := range places {
		f := film.Of(job, looks[0], p)
		stage, err := reel.Set(ctx, studio, f)
		if err != nil {
			return fmt.Errorf("%s: %w", p.ID, err)
		}
		named := ""
		if v := job.Brief.Video; v != nil {
			named = v.Music
		}
		music := sound.Under(named, job.Kit.Motion.Music, f.Seconds())
		for _, format := range wanted {
			path := filepath.Join(*out, fmt.Sprintf("%s_%s_%dx%d.%s", name, p.ID, p.Width, p.Height, format))
			if err := reel.Make(ctx, stage, music, format, path, nil); err != nil {
				return fmt.Errorf("%s: %w", p.ID, err)
			}
		}
	}
	return nil
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
