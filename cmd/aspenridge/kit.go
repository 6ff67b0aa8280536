package main

import (
	"context"
	"errors"
	"flag"
	"io"
	"os"
	"path/filepath"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/guide"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/kitfile"
	"aspenridge/internal/raster"
)

// kitFlags are what guidelines and export take.
func kitFlags(ctx context.Context, command, usage string, args []string, stderr io.Writer) (k kitfile.Kit, out string, err error) {
	fs := flag.NewFlagSet(command, flag.ContinueOnError)
	fs.SetOutput(stderr)
	kit := fs.String("kit", "", "kit folder or ZIP with a kit.json")
	fs.StringVar(&out, "out", "", "what to write")
	lenient := fs.Bool("lenient", false, "replace unknown fonts instead of stopping")
	if err := fs.Parse(args); err != nil {
		return k, "", bad(err)
	}
	if *kit == "" || out == "" || fs.NArg() > 0 {
		return k, "", bad(errors.New("usage: " + usage))
	}
	fsys, err := kitfile.Open(*kit)
	if err != nil {
		return k, "", bad(err)
	}
	if k, err = kitfile.LoadKit(ctx, fsys, *lenient); err != nil {
		return k, "", bad(err)
	}
	warn(stderr, k)
	return k, out, nil
}

// guidelines is "aspenridge guidelines": the brand document as a PDF.
func guidelines(ctx context.Context, args []string, stderr io.Writer) error {
	k, out, err := kitFlags(ctx, "guidelines", "aspenridge guidelines -kit DIR|ZIP -out FILE.pdf", args, stderr)
	if err != nil {
		return err
	}
	headline := k.Tagline
	if headline == "" {
		headline = "Words worth stopping for"
	}
	job := kitfile.Job(k, &brief.Brief{FormatVersion: 1, Purpose: "hello", Signature: "both", Cards: []brief.Card{{Headline: &headline}}}, kitfile.Pictures{})
	looks := job.Looks(len(guide.Places))
	var pieces []piece.Piece
	for i, id := range guide.Places {
		if p, ok := spec.Find(id); ok {
			pieces = append(pieces, job.Compose(looks[i%len(looks)], p, 0))
		}
	}
	pages := guide.Pages(guide.Input{Kit: k.Kit, Library: k.Library, Shaper: job.Shaper, Pieces: pieces, Manner: job.Manner()})
	data, err := raster.NewStudio(nil).Book(ctx, pages)
	if err != nil {
		return err
	}
	return os.WriteFile(out, data, 0o644)
}

// export is "aspenridge export": colours and type in open formats.
func export(ctx context.Context, args []string, stderr io.Writer) error {
	k, out, err := kitFlags(ctx, "export", "aspenridge export -kit DIR|ZIP -out DIR", args, stderr)
	if err != nil {
		return err
	}
	if err := os.MkdirAll(out, 0o755); err != nil {
		return bad(err)
	}
	for name, data := range map[string]string{"colours.css": k.CSS(), "colours.gpl": k.GPL(), "colours.svg": k.Swatches()} {
		if err := os.WriteFile(filepath.Join(out, name), []byte(data), 0o644); err != nil {
			return err
		}
	}
	return nil
}
