package main

import (
	"bytes"
	"context"
	"encoding/json"
	"encoding/xml"
	"errors"
	"flag"
	"fmt"
	"image"
	"image/draw"
	_ "image/jpeg" // decoders for image.Decode
	_ "image/png"
	"io"
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/preflight"
	"aspenridge/internal/kitfile"
	"aspenridge/internal/raster"
)

// checkFiles is "aspenridge preflight": findings for finished files, whoever
// made them, as JSON.
func checkFiles(ctx context.Context, args []string, stdout, stderr io.Writer) error {
	fs := flag.NewFlagSet("preflight", flag.ContinueOnError)
	fs.SetOutput(stderr)
	kit := fs.String("kit", "", "kit folder or ZIP with a kit.json")
	if err := fs.Parse(args); err != nil {
		return bad(err)
	}
	if *kit == "" || fs.NArg() == 0 {
		return bad(errors.New("usage: aspenridge preflight -kit DIR|ZIP FILES"))
	}
	fsys, err := kitfile.Open(*kit)
	if err != nil {
		return bad(err)
	}
	k, err := kitfile.LoadKit(ctx, fsys, true)
	if err != nil {
		return bad(err)
	}
	warn(stderr, k)
	reports := []preflight.FileReport{}
	worst := false
	for _, name := range fs.Args() {
		f, err := readFile(name)
		if err != nil {
			return bad(fmt.Errorf("%s: %w", name, err))
		}
		r := preflight.CheckFile(k.Kit, f)
		worst = worst || preflight.Worst(r.Findings) == preflight.Error
		reports = append(reports, r)
	}
	enc := json.NewEncoder(stdout)
	enc.SetIndent("", " ")
	if err := enc.Encode(map[string]any{"schema": 1, "files": reports}); err != nil {
		return err
	}
	if worst {
		return errFindings
	}
	return nil
}

// maxPixels is the most px of a file that are looked at.
const maxPixels = 200_000_000

// readFile finds out what preflight wants to know of a PNG, JPEG or SVG.
func readFile(name string) (preflight.File, error) {
	data, err := os.ReadFile(name)
	f := preflight.File{Name: filepath.Base(name), Bytes: len(data)}
	if err != nil {
		return f, err
	}
	switch f.Format = raster.Kind(data); f.Format {
	case "svg":
		return f, readSVG(data, &f)
	case "png", "jpeg":
	default:
		return f, errors.New("want a PNG, JPEG or SVG file")
	}
	conf, _, err := image.DecodeConfig(bytes.NewReader(data))
	if err != nil {
		return f, err
	}
	f.Width, f.Height = conf.Width, conf.Height
	if conf.Width*conf.Height > maxPixels {
		return f, fmt.Errorf("%d × %d px: at most %d megapixels are looked at", conf.Width, conf.Height, maxPixels/1_000_000)
	}
	img, _, err := image.Decode(bytes.NewReader(data))
	if err != nil {
		return f, err
	}
	out := image.NewNRGBA(image.Rect(0, 0, conf.Width, conf.Height))
	draw.Draw(out, out.Bounds(), img, img.Bounds().Min, draw.Src)
	f.Flats = colour.Flats(colour.Pixels{W: conf.Width, H: conf.Height, Pix: out.Pix}, 0.004)
	return f, nil
}

var hexColour = regexp.MustCompile(`#[0-9a-fA-F]{6}\b|#[0-9a-fA-F]{3}\b|rgb\([^)]*\)`)

// readSVG takes the size, the colours as written and what does not travel.
func readSVG(data []byte, f *preflight.File) error {
	dec := xml.NewDecoder(bytes.NewReader(data))
	counts := map[colour.RGB]int{}
	var order []colour.RGB
	total := 0
	first := true
	for {
		tok, err := dec.Token()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return err
		}
		el, ok := tok.(xml.StartElement)
		if !ok {
			continue
		}
		for _, a := range el.Attr {
			if first {
				sizeSVG(a, f)
			}
			v := strings.TrimSpace(a.Value)
			if a.Name.Local == "href" && v != "" && !strings.HasPrefix(v, "#") && !strings.HasPrefix(v, "data:") {
				f.Outside = append(f.Outside, v)
			}
			if a.Name.Local == "d" || a.Name.Local == "href" {
				continue
			}
			for _, c := range coloursIn(v) {
				if counts[c] == 0 {
					order = append(order, c)
				}
				counts[c]++
				total++
			}
		}
		// the nearly invisible layer of our own PDFs is not what is seen
		f.LiveText = f.LiveText || el.Name.Local == "text"
		first = false
	}
	for _, c := range order {
		f.Flats = append(f.Flats, colour.Found{Colour: c, Share: float64(counts[c]) / float64(total)})
	}
	if f.Width == 0 || f.Height == 0 {
		return errors.New("the drawing says neither a width and height nor a viewBox")
	}
	return nil
}

func sizeSVG(a xml.Attr, f *preflight.File) {
	px := func(s string) int {
		v, err := strconv.ParseFloat(strings.TrimSuffix(strings.TrimSpace(s), "px"), 64)
		if err != nil || v <= 0 || v > 1e6 {
			return 0
		}
		return int(v + 0.5)
	}
	switch a.Name.Local {
	case "width":
		if v := px(a.Value); v > 0 {
			f.Width = v
		}
	case "height":
		if v := px(a.Value); v > 0 {
			f.Height = v
		}
	case "viewBox":
		if n := strings.FieldsFunc(a.Value, func(r rune) bool { return r == ' ' || r == ',' }); len(n) == 4 {
			if f.Width == 0 {
				f.Width = px(n[2])
			}
			if f.Height == 0 {
				f.Height = px(n[3])
			}
		}
	}
}

// coloursIn are the colours an attribute's value names.
func coloursIn(v string) (out []colour.RGB) {
	for _, m := range hexColour.FindAllString(v, -1) {
		if c, err := colour.Parse(m); err == nil {
			out = append(out, c)
		}
	}
	return out
}
