package main

import (
	"context"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"sync"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/preflight"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/kitfile"
	"aspenridge/internal/raster"
)

// errBadInput marks what exits with 2.
var errBadInput = errors.New("")

// errFindings marks a piece with an error, which exits with 1.
var errFindings = errors.New("a piece has an error; see report.json")

func bad(err error) error { return fmt.Errorf("%w%w", errBadInput, err) }

// render is "aspenridge render": a kit and a brief in, files and report.json
// out. No database, no network.
func render(ctx context.Context, args []string, stderr io.Writer) error {
	fs := flag.NewFlagSet("render", flag.ContinueOnError)
	fs.SetOutput(stderr)
	kit := fs.String("kit", "", "kit folder or ZIP with a kit.json")
	briefFile := fs.String("brief", "", "brief.json; its paths are relative to it")
	out := fs.String("out", "", "folder to write to, made if missing")
	placements := fs.String("placements", "", "ids or sizes, comma separated (default: the brief's)")
	formats := fs.String("format", "png", strings.Join(raster.Formats, ", ")+", comma separated")
	scale := fs.Float64("scale", 1, "px of the file per px of the placement, 0.1 to 8")
	lenient := fs.Bool("lenient", false, "replace unknown fonts instead of stopping")
	own := fs.String("channels", "", "JSON file with channels of one's own")
	bare := fs.Bool("bare", false, "leave the glyphs of words out")
	if err := fs.Parse(args); err != nil {
		return bad(err)
	}
	if *kit == "" || *briefFile == "" || *out == "" || fs.NArg() > 0 {
		return bad(errors.New("usage: aspenridge render -kit DIR|ZIP -brief FILE -out DIR [flags]"))
	}
	if *scale < 0.1 || *scale > 8 {
		return bad(fmt.Errorf("-scale %g: want 0.1 to 8", *scale))
	}
	wanted := strings.Split(*formats, ",")
	for _, f := range wanted {
		if !slices.Contains(raster.Formats, f) {
			return bad(fmt.Errorf("-format %q: want %s", f, strings.Join(raster.Formats, ", ")))
		}
	}
	in, err := briefed(ctx, *kit, *briefFile, *lenient, stderr)
	if err != nil {
		return bad(err)
	}
	places := in.job.Brief.Placements
	if *placements != "" {
		places = strings.Split(*placements, ",")
	}
	where, err := directory(*own)
	if err != nil {
		return bad(err)
	}
	targets, err := targets(where, places)
	if err != nil {
		return bad(err)
	}
	looks, err := chooseLooks(in.job)
	if err != nil {
		return bad(err)
	}
	if err := os.MkdirAll(*out, 0o755); err != nil {
		return bad(err)
	}
	return writeAll(ctx, in.job, in.studio, looks, targets, output{
		dir: *out, name: in.name, formats: wanted, scale: *scale, bare: *bare,
	})
}

func warn(stderr io.Writer, k kitfile.Kit) {
	for _, w := range k.Warnings {
		fmt.Fprintln(stderr, "warning:", w)
	}
}

func targets(where spec.Directory, ids []string) ([]spec.Placement, error) {
	if len(ids) == 0 {
		ids = []string{"feed-square"}
	}
	var out []spec.Placement
	for _, id := range ids {
		list := []string{strings.TrimSpace(id)}
		if list[0] == "all-images" {
			list = spec.AllImages()
		}
		for _, id := range list {
			p, err := where.Parse(id)
			if err != nil {
				return nil, err
			}
			out = append(out, p)
		}
	}
	return out, nil
}

// chooseLooks resolves the brief's looks: positions in the ranked list, modulo
// its length, or looks as a report prints them. The default is [piece.Job.First].
func chooseLooks(job *piece.Job) ([]piece.Look, error) {
	wanted := job.Brief.Looks
	if len(wanted) == 0 {
		return []piece.Look{job.First()}, nil
	}
	ranked := job.Looks(60)
	var out []piece.Look
	for i, w := range wanted {
		switch w := w.(type) {
		case float64:
			if w < 0 || w != float64(int(w)) {
				return nil, fmt.Errorf("%w: looks[%d]: want a position from 0", brief.ErrBrief, i)
			}
			out = append(out, ranked[int(w)%len(ranked)])
		default:
			var l piece.Look
			if err := edit.Decode(w, &l); err != nil || l.Layout == "" {
				return nil, fmt.Errorf("%w: looks[%d]: want a position or a look as report.json prints it", brief.ErrBrief, i)
			}
			out = append(out, l)
		}
	}
	return out, nil
}

// weighed reports whether the weight of a format's files is held to a limit.
func weighed(format string) bool {
	f, _ := spec.FormatOf(format)
	return f.Pixels
}

type output struct {
	dir, name string
	formats   []string
	scale     float64
	bare      bool
}

// writeAll composes and draws side by side and reports in a fixed order.
func writeAll(ctx context.Context, job *piece.Job, studio *raster.Studio, looks []piece.Look, places []spec.Placement, o output) error {
	type task struct {
		look  int
		place spec.Placement
	}
	var tasks []task
	for li := range looks {
		for _, p := range piece.Expand(places, len(job.Brief.Cards)) {
			tasks = append(tasks, task{li, p})
		}
	}
	reports := make([]piece.PieceReport, len(tasks))
	errs := make([]error, len(tasks))
	gate := make(chan struct{}, max(1, runtime.GOMAXPROCS(0)))
	var wg sync.WaitGroup
	for i, t := range tasks {
		wg.Go(func() {
			gate <- struct{}{}
			defer func() { <-gate }()
			pc := job.Compose(looks[t.look], t.place, t.place.Card)
			reports[i] = pc.Report()
			id, _, _ := strings.Cut(t.place.ID, "+")
			stem := o.name + "_" + id
			if len(job.Brief.Cards) > 1 && len(t.place.Cards) > 0 {
				stem += fmt.Sprintf("_%d", t.place.Card+1)
			}
			if len(looks) > 1 {
				stem += fmt.Sprintf("_look%d", t.look+1)
			}
			w, h := int(float64(t.place.Width)*o.scale+0.5), int(float64(t.place.Height)*o.scale+0.5)
			for _, f := range o.formats {
				fitted, err := studio.Fit(ctx, pc.Scene, raster.Output{Format: f, Scale: o.scale, Bare: o.bare}, t.place.MaxBytes)
				data := fitted.Data
				if err != nil {
					errs[i] = fmt.Errorf("%s: %w", t.place.ID, err)
					return
				}
				file := fmt.Sprintf("%s_%dx%d.%s", stem, w, h, raster.Extension(f))
				if err := os.WriteFile(filepath.Join(o.dir, file), data, 0o644); err != nil {
					errs[i] = err
					return
				}
				reports[i].Files = append(reports[i].Files, piece.File{File: file, Format: f, Bytes: len(data)})
				if limit := t.place.MaxBytes; limit > 0 && len(data) > limit && weighed(f) {
					reports[i].Findings = append(reports[i].Findings, preflight.Finding{
						Code: "weight", Severity: preflight.Warning, Message: file + " is heavier than this placement takes",
						Value: float64(len(data)), Limit: float64(limit), Fixes: []string{"format"},
					})
				}
			}
		})
	}
	wg.Wait()
	if err := errors.Join(errs...); err != nil {
		return err
	}
	rep := piece.Report{Schema: 1, Pieces: reports}
	data, err := json.MarshalIndent(rep, "", " ")
	if err != nil {
		return err
	}
	if err := os.WriteFile(filepath.Join(o.dir, "report.json"), append(data, '\n'), 0o644); err != nil {
		return err
	}
	for _, r := range reports {
		for _, f := range r.Findings {
			if f.Severity == preflight.Error {
				return errFindings
			}
		}
	}
	return nil
}

// directory is where pieces can go: the catalogue, and channels of one's own in a file, if
// there is one.
func directory(own string) (spec.Directory, error) {
	where := spec.Directory(spec.Catalogue())
	if own == "" {
		return where, nil
	}
	data, err := os.ReadFile(own)
	if err != nil {
		return nil, err
	}
	channels, err := spec.ParseChannels(data)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", own, err)
	}
	return slices.Concat(where, spec.Directory(channels)), nil
}
