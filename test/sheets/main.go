// Command sheets draws contact sheets of the shipped layouts, each with copy
// that suits it over a row of placements, to look at them side by side:
//
//	go run ./test/sheets -out sheet.png [-layouts a,b] [-places p,q] [-pictures 1] [-copy long] [-height 300]
//
// or the first looks of kits of very different character with photographs of one's
// own:
//
//	go run ./test/sheets -out folder -kits all -photos folder [-looks 10] [-pictures 2]
package main

import (
	"context"
	"flag"
	"fmt"
	"html"
	"io/fs"
	"log"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing/fstest"

	"aspenridge/demo"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/kitfile"
	"aspenridge/internal/raster"
	"aspenridge/internal/voice"
	"aspenridge/layouts"
)

func main() {
	raster.ChildMain()
	voice.ChildMain()
	out := flag.String("out", "sheet.png", "PNG to write; with -kits the folder sheets go to")
	ids := flag.String("layouts", "", "layouts to draw, comma separated (default: all)")
	places := flag.String("places", "feed-square,feed-tall,video-thumbnail,ad-300x250,ad-160x600,ad-728x90,shop-banner-slim,ad-320x50", "placements, comma separated")
	pictures := flag.Int("pictures", -1, "how many pictures, -1 for as many as suit the layout")
	kind := flag.String("copy", "", "long or short copy (default: what suits the layout)")
	height := flag.Float64("height", 250, "px of a row")
	columns := flag.Int("columns", 1, "layouts side by side")
	kits := flag.String("kits", "", "kits of test/kits to draw the first looks of instead, comma separated, or all")
	photos := flag.String("photos", "", "folder of the pictures these kits take in turns")
	looks := flag.Int("looks", 10, "how many looks of each kit")
	pairs := flag.Int("pairs", 0, "with -photos: so many pairs of pieces to judge, on sheets of twenty in the folder -out")
	flag.Parse()
	list := func(s string) []string { return strings.FieldsFunc(s, func(r rune) bool { return r == ',' }) }
	var where []spec.Placement
	for _, id := range list(*places) {
		p, err := spec.Parse(id)
		if err != nil {
			log.Fatal(err)
		}
		where = append(where, p)
	}
	var err error
	switch {
	case *pairs > 0:
		err = pairSheets(context.Background(), *out, "test/kits", *photos, *pairs, *height)
	case *kits == "":
		err = layoutSheet(context.Background(), *out, list(*ids), where, *pictures, *kind, *height, *columns)
	default:
		only := list(*kits)
		if *kits == "all" {
			only = nil
		}
		err = kitSheets(context.Background(), *out, "test/kits", only, list(*ids), *photos, *pictures, *looks, where, *height)
	}
	if err != nil {
		log.Fatal(err)
	}
}

// sheet is a drawing that grows downwards, a row of pieces after the other.
type sheet struct {
	svg      strings.Builder
	row      float64 // px
	x, y, to float64
	pieces   int
}

const gap, label = 14.0, 120.0

func (s *sheet) text(x, y, size float64, colour, text string) {
	fmt.Fprintf(&s.svg, `<text x="%g" y="%g" font-family="sans-serif" font-size="%g" fill="%s">%s</text>`, x, y, size, colour, html.EscapeString(text))
}

// piece draws a piece with what it left out below it, at the right of the last.
func (s *sheet) piece(ctx context.Context, studio *raster.Studio, pc *piece.Piece, wanted string) error {
	p := pc.Placement
	h := min(s.row, float64(p.Height))
	w := h * float64(p.Width) / float64(p.Height)
	if w > s.row*1.6 {
		w = min(s.row*1.6, float64(p.Width))
		h = w * float64(p.Height) / float64(p.Width)
	}
	s.pieces++
	svg, err := studio.SVG(ctx, pc.Scene, raster.Output{Format: "svg", Scale: max(w/float64(p.Width), 0.02), IDs: fmt.Sprintf("p%d-", s.pieces)})
	if err != nil {
		return err
	}
	fmt.Fprintf(&s.svg, `<g transform="translate(%g %g)">%s</g>`, s.x, s.y, svg)
	note := strings.Join(pc.Dropped, " ")
	if pc.Layout.ID != wanted {
		note = "PLAIN " + note
	}
	s.text(s.x, s.y+h+9, 8, "#a33", note)
	s.x += w + gap
	s.to = max(s.to, s.x)
	return nil
}

func (s *sheet) write(ctx context.Context, out string) error {
	svg := fmt.Sprintf(`<svg xmlns="http://www.w3.org/2000/svg" width="%.0f" height="%.0f"><rect width="100%%" height="100%%" fill="#e9e7e1"/>%s</svg>`, s.to, s.y, s.svg.String())
	data, err := raster.NewStudio(nil).Draw(ctx, svg, raster.Output{Format: "png"})
	if err != nil {
		return err
	}
	return os.WriteFile(out, data, 0o644)
}

// layoutSheet draws one look of every layout.
func layoutSheet(ctx context.Context, out string, ids []string, places []spec.Placement, pictures int, kind string, row float64, columns int) error {
	files := fstest.MapFS{"kit.json": {Data: demo.KitDocument()}}
	for name, svg := range demo.Logos() {
		files[name] = &fstest.MapFile{Data: []byte(svg)}
	}
	for name, svg := range demo.Pictures() {
		files["pictures/"+name] = &fstest.MapFile{Data: []byte(svg)}
	}
	kit, err := kitfile.LoadKit(ctx, files, false)
	if err != nil {
		return err
	}
	s := sheet{row: row, y: gap}
	x0, n := 0.0, 0
	for _, l := range layouts.All() {
		if len(ids) > 0 && !slices.Contains(ids, l.ID) {
			continue
		}
		br := suits(l, pictures, kind)
		pics, err := kitfile.LoadPictures(ctx, br, files, kit.Kit, files)
		if err != nil {
			return err
		}
		job := kitfile.Job(kit, br, pics)
		look := piece.Look{Layout: l.Ref()}
		if looks := job.LooksFor(piece.Wish{Layout: l.ID}, 1); len(looks) > 0 {
			look = looks[0]
		}
		s.text(x0+gap, s.y+16, 13, "#333", l.ID)
		s.text(x0+gap, s.y+32, 9, "#777", l.Idea)
		s.x = x0 + label
		studio := raster.NewStudio(pics.Source)
		for _, p := range places {
			pc := job.Compose(look, p, 0)
			if err := s.piece(ctx, studio, &pc, l.ID); err != nil {
				return err
			}
		}
		x0 = s.x + gap
		if n++; n%columns == 0 {
			x0, s.y = 0, s.y+row+gap+10
		}
	}
	if n%columns != 0 {
		s.y += row + gap + 10
	}
	return s.write(ctx, out)
}

// photosIn lists the pictures of a folder, none of "".
func photosIn(folder string) (out []string, err error) {
	if folder == "" {
		return nil, nil
	}
	err = filepath.WalkDir(folder, func(p string, d fs.DirEntry, err error) error {
		if err == nil && !d.IsDir() && slices.Contains([]string{".jpg", ".jpeg", ".png", ".webp"}, strings.ToLower(filepath.Ext(p))) {
			rel, _ := filepath.Rel(folder, p)
			out = append(out, filepath.ToSlash(rel))
		}
		return err
	})
	return out, err
}

// loadKit is a kit of a folder with its own brief.
func loadKit(ctx context.Context, folder fs.FS) (kitfile.Kit, *brief.Brief, error) {
	kit, err := kitfile.LoadKit(ctx, folder, false)
	if err != nil {
		return kit, nil, err
	}
	data, err := fs.ReadFile(folder, "brief.json")
	if err != nil {
		return kit, nil, err
	}
	br, err := kitfile.LoadBrief(data)
	return kit, br, err
}

// kitSheets draws the first looks of every kit of a folder, a sheet a kit, with
// the pictures of another folder taking turns.
func kitSheets(ctx context.Context, out, from string, kits, ids []string, photos string, pictures, looks int, places []spec.Placement, row float64) error {
	shots, err := photosIn(photos)
	if err != nil {
		return err
	}
	names, err := os.ReadDir(from)
	if err != nil {
		return err
	}
	for i, name := range names {
		if len(kits) > 0 && !slices.Contains(kits, name.Name()) {
			continue
		}
		folder := os.DirFS(filepath.Join(from, name.Name()))
		kit, br, err := loadKit(ctx, folder)
		if err != nil {
			return err
		}
		if pictures < 0 {
			pictures = 1
		}
		for n := range min(pictures, len(shots)) {
			br.Cards[0].Pictures = append(br.Cards[0].Pictures, brief.Picture{File: shots[(i+5*n)%len(shots)]})
		}
		pics, err := kitfile.LoadPictures(ctx, br, os.DirFS(max(photos, ".")), kit.Kit, folder)
		if err != nil {
			return err
		}
		job := kitfile.Job(kit, br, pics)
		var list []piece.Look
		for _, id := range ids {
			list = append(list, job.LooksFor(piece.Wish{Layout: id}, 1)...)
		}
		if len(ids) == 0 {
			list = job.Looks(looks)
		}
		s := sheet{row: row, y: gap}
		for _, look := range list {
			id, _, _ := strings.Cut(look.Layout, "@")
			s.text(gap, s.y+16, 13, "#333", id)
			s.x = label
			studio := raster.NewStudio(pics.Source)
			for _, p := range places {
				pc := job.Compose(look, p, 0)
				if err := s.piece(ctx, studio, &pc, id); err != nil {
					return err
				}
			}
			s.y += row + gap + 10
		}
		if err := s.write(ctx, filepath.Join(out, name.Name()+".png")); err != nil {
			return err
		}
	}
	return nil
}

// suits is a job whose copy fills what the layout lives on.
func suits(l *layout.Layout, pictures int, kind string) *brief.Brief {
	str := func(s string) *string { return &s }
	c := brief.Card{
		Headline: str("Quiet water, first strokes"), ShortHeadline: str("First strokes"),
		Subheading: str("Beginners' kayak course: six Saturdays from 3 May"), CallToAction: str("Save a seat"), Emphasis: []string{"first strokes"},
	}
	b := &brief.Brief{FormatVersion: 1, Purpose: "announce", Signature: "both"}
	if len(l.Wants) > 0 {
		switch l.Wants[0] {
		case "offer":
			b.Purpose = "offer"
			c.ShortHeadline = str("Two in a boat")
			c.Headline, c.Subheading = str("Bring a friend to the slow bend"), str("Two seats in one canoe")
			c.Offer = &brief.Offer{Percent: 20, Code: "BEND", Until: "2027-05-31"}
		case "when":
			b.Purpose = "event"
			c.ShortHeadline = str("Eleven lanterns")
			c.Headline, c.Subheading, c.Where = str("Eleven lanterns and one slow bend"), nil, str("Old Boathouse, Larkmoor")
			c.When = &brief.When{Date: "2027-05-28", Weekday: "Friday", From: "20:30", To: "22:00"}
		case "quote", "person":
			b.Purpose = "testimonial"
			c.ShortHeadline = nil
			c.Headline, c.Subheading = str("I came to learn strokes and learned to listen to the river."), nil
			c.Person = &brief.Person{Name: "Ina Brackwater", Role: "paddles since April", Picture: "pictures/noon-slack-water.svg"}
		case "lines":
			b.Purpose = "tips"
			c.Headline, c.Subheading = str("Before your first stroke"), nil
			c.Facts = []brief.Fact{{Icon: "footprints", Text: "Shoes that can get wet"}, {Icon: "droplets", Text: "A litre of water each"}, {Icon: "sun", Text: "A hat, even under cloud"}, {Icon: "clock", Text: "Fifteen minutes to spare"}}
		case "tagline":
			b.Purpose = "shopfront"
			c.Headline, c.Subheading, c.Tagline, c.Where = str("Larkmoor Paddle School"), nil, str("Read the river first"), str("Old Boathouse, Larkmoor")
		}
	}
	switch kind {
	case "long":
		c.Headline = str("Learn to read the river before it reads you, one quiet Saturday after another")
		c.Body = str("Boats, dry bags and patience provided. Bring shoes that can get wet, a hat and something warm for the way home.")
	case "short":
		c.Headline, c.Subheading = str("Float"), nil
	}
	names := []string{"pictures/dawn-on-the-bend.svg", "pictures/lanterns-after-dark.svg", "pictures/noon-slack-water.svg", "pictures/dawn-on-the-bend.svg"}
	n := pictures
	if n < 0 {
		n = 0
		if l.Pictures >= 0.3 {
			n = 1
		}
		if slices.Contains(l.Wants, "picture2") {
			n = 4
		}
	}
	for i := range min(n, len(names)) {
		c.Pictures = append(c.Pictures, brief.Picture{File: names[i], Focus: &[2]float64{0.42, 0.66}, Alt: "a kayak"})
	}
	b.Cards = []brief.Card{c}
	return b
}
