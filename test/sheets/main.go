// Command sheets draws contact sheets of the shipped layouts, each with copy
// that suits it over a row of placements, to look at them side by side:
//
//	go run ./test/sheets -out sheet.png [-layouts a,b] [-places p,q] [-pictures 1] [-copy long] [-height 300]
package main

import (
	"context"
	"flag"
	"fmt"
	"html"
	"log"
	"os"
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
	"aspenridge/layouts"
)

func main() {
	raster.ChildMain()
	out := flag.String("out", "sheet.png", "PNG to write")
	ids := flag.String("layouts", "", "layouts to draw, comma separated (default: all)")
	places := flag.String("places", "feed-square,feed-tall,video-thumbnail,ad-300x250,ad-160x600,ad-728x90,shop-banner-slim,ad-320x50", "placements, comma separated")
	pictures := flag.Int("pictures", -1, "how many pictures, -1 for as many as suit the layout")
	kind := flag.String("copy", "", "long or short copy (default: what suits the layout)")
	height := flag.Float64("height", 250, "px of a row")
	columns := flag.Int("columns", 1, "layouts side by side")
	flag.Parse()
	if err := run(context.Background(), *out, *ids, strings.Split(*places, ","), *pictures, *kind, *height, *columns); err != nil {
		log.Fatal(err)
	}
}

func run(ctx context.Context, out, ids string, places []string, pictures int, kind string, row float64, columns int) error {
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
	var chosen []*layout.Layout
	for _, l := range layouts.All() {
		if ids == "" || slices.Contains(strings.Split(ids, ","), l.ID) {
			chosen = append(chosen, l)
		}
	}
	const gap, label = 14.0, 120.0
	var b strings.Builder
	width, x0, y := 0.0, 0.0, gap
	for i, l := range chosen {
		br := suits(l, pictures, kind)
		pics, err := kitfile.LoadPictures(ctx, br, files, kit.Kit, files)
		if err != nil {
			return err
		}
		job := kitfile.Job(kit, br, pics)
		studio := raster.NewStudio(pics.Source)
		look := piece.Look{Layout: l.Ref()}
		for _, o := range job.Looks(90) {
			if o.Layout == l.Ref() {
				look = o
				break
			}
		}
		if i%columns == 0 {
			x0 = 0
		}
		fmt.Fprintf(&b, `<text x="%g" y="%g" font-family="sans-serif" font-size="13" fill="#333">%s</text><text x="%g" y="%g" font-family="sans-serif" font-size="9" fill="#777">%s</text>`,
			x0+gap, y+16, l.ID, x0+gap, y+32, html.EscapeString(l.Idea))
		x := x0 + label
		for k, id := range places {
			p, err := spec.Parse(id)
			if err != nil {
				return err
			}
			pc := job.Compose(look, p, 0)
			h := min(row, float64(p.Height))
			w := h * float64(p.Width) / float64(p.Height)
			if w > row*1.6 {
				w = min(row*1.6, float64(p.Width))
				h = w * float64(p.Height) / float64(p.Width)
			}
			scale := w / float64(p.Width)
			svg, err := studio.SVG(ctx, pc.Scene, raster.Output{Format: "svg", Scale: max(scale, 0.02), IDs: fmt.Sprintf("l%dp%d-", i, k)})
			if err != nil {
				return err
			}
			fmt.Fprintf(&b, `<g transform="translate(%g %g)">%s</g>`, x, y, svg)
			note := strings.Join(pc.Dropped, " ")
			if pc.Layout.ID != l.ID {
				note = "PLAIN " + note
			}
			fmt.Fprintf(&b, `<text x="%g" y="%g" font-family="sans-serif" font-size="8" fill="#a33">%s</text>`, x, y+h+9, html.EscapeString(note))
			x += w + gap
		}
		width = max(width, x)
		x0 = x + gap
		if i%columns == columns-1 {
			y += row + gap + 10
		}
	}
	if len(chosen)%columns != 0 {
		y += row + gap + 10
	}
	svg := fmt.Sprintf(`<svg xmlns="http://www.w3.org/2000/svg" width="%.0f" height="%.0f"><rect width="100%%" height="100%%" fill="#e9e7e1"/>%s</svg>`, width, y, b.String())
	data, err := raster.NewStudio(nil).Draw(ctx, svg, raster.Output{Format: "png"})
	if err != nil {
		return err
	}
	return os.WriteFile(out, data, 0o644)
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
