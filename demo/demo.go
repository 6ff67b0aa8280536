// Package demo is the sample world the application is shown with: Larkmoor
// Paddle School, a made-up river kayak and canoe school. Its logos, pictures
// and documents are all made here by our own code; people, dates and prices
// are invented.
package demo

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"aspenridge/assets"
	"aspenridge/internal/core/typeset"
)

// Colours of Larkmoor, in kit order.
var palette = []struct{ token, name, hex, role string }{
	{"river", "River", "#0F3D4C", "lead"}, {"coral", "Coral", "#F2694B", "accent"},
	{"lantern", "Lantern", "#F3B23E", "support"}, {"reed", "Reed", "#7E9B57", "support"},
	{"mist", "Mist", "#E6F0EC", "ground"}, {"sand", "Sand", "#F6EBD6", "ground"}, {"ink", "Ink", "#10242B", "ink"},
}

// symbol is the mark: a disc of water cut by three swells.
func symbol(disc, wave string) string {
	return fmt.Sprintf(`<circle cx="50" cy="50" r="50" fill="%s"/><path d="M13 40C26 28 36 30 48 39S72 50 88 38M10 55C24 44 35 46 47 54S74 66 90 54M20 71C30 63 38 64 47 70S68 78 80 70" fill="none" stroke="%s" stroke-width="7" stroke-linecap="round"/>`, disc, wave)
}

// words outlines text as one path, its first baseline at (x, y).
func words(text, family string, weight int, size, x, y, tracking float64, fill string) (svg string, width float64) {
	face, err := assets.Library().Face(family, weight, false)
	if err != nil {
		panic(err)
	}
	line := typeset.NewShaper().Line(text, typeset.Style{Face: face, Tracking: tracking})
	var b strings.Builder
	for i := range line.Paths() {
		d, upem, dx := line.Path(i)
		fmt.Fprintf(&b, `<path fill="%s" transform="translate(%s %s) scale(%g)" d="M0 0%s"/>`, fill, num(x+dx*size), num(y), size/upem, d)
	}
	return b.String(), line.Advance * size
}

// Logos are the four logo files, SVG by file name.
func Logos() map[string]string {
	draw := func(w, h float64, parts ...string) string {
		return fmt.Sprintf(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %s %s">%s</svg>`, num(w), num(h), strings.Join(parts, ""))
	}
	horizontal := func(mark, wave, ink string) string {
		name, w := words("Larkmoor", "Gabarito", 800, 56, 120, 52, -0.01, ink)
		line, w2 := words("Paddle School", "Figtree", 600, 30, 122, 90, 0.01, ink)
		return draw(max(120+w, 122+w2)+4, 100, symbol(mark, wave), name, line)
	}
	name, nw := words("Larkmoor", "Gabarito", 800, 56, 0, 160, -0.01, "#0F3D4C")
	sub, sw := words("Paddle School", "Figtree", 600, 30, 0, 198, 0.01, "#0F3D4C")
	wide := max(nw, sw)
	stacked := draw(wide, 206,
		fmt.Sprintf(`<g transform="translate(%s 0)">%s</g>`, num(wide/2-50), symbol("#0F3D4C", "#F6EBD6")),
		fmt.Sprintf(`<g transform="translate(%s 0)">%s</g>`, num((wide-nw)/2), name),
		fmt.Sprintf(`<g transform="translate(%s 0)">%s</g>`, num((wide-sw)/2), sub))
	return map[string]string{
		"logos/horizontal.svg":      horizontal("#0F3D4C", "#F6EBD6", "#0F3D4C"),
		"logos/horizontal-dark.svg": horizontal("#F6EBD6", "#0F3D4C", "#F6EBD6"),
		"logos/stacked.svg":         stacked,
		"logos/symbol.svg":          draw(100, 100, symbol("#0F3D4C", "#F6EBD6")),
	}
}

type object = map[string]any

// KitDocument is Larkmoor's kit.json.
func KitDocument() []byte {
	var b strings.Builder
	b.WriteString("{\n \"color\": {\n  \"main\": {\n   \"$type\": \"color\",\n   \"$extensions\": {\"aspenridge\": {\"name\": \"River\"}}")
	for _, c := range palette {
		fmt.Fprintf(&b, ",\n   %q: {\"$value\": {\"colorSpace\": \"srgb\", \"components\": [%s], \"hex\": %q}, \"$extensions\": {\"aspenridge\": {\"name\": %q, \"role\": %q}}}",
			c.token, components(c.hex), strings.ToLower(c.hex), c.name, c.role)
	}
	b.WriteString("\n  }\n },\n \"type\": {\n  \"$type\": \"typography\"")
	for _, l := range []struct {
		level, family   string
		weight          int
		size, line, gap float64
	}{{"headline", "Gabarito", 800, 98, 0.98, -1.2}, {"subheading", "Figtree", 600, 46, 1.25, 0}, {"body", "Figtree", 500, 38, 1.4, 0}, {"caption", "Figtree", 500, 31, 1.35, 0}, {"button", "Gabarito", 700, 38, 1.2, 0}} {
		fmt.Fprintf(&b, ",\n  %q: {\"$value\": {\"fontFamily\": %q, \"fontWeight\": %d, \"fontSize\": {\"value\": %g, \"unit\": \"px\"}, \"lineHeight\": %g, \"letterSpacing\": {\"value\": %g, \"unit\": \"px\"}}}",
			l.level, l.family, l.weight, l.size, l.line, l.gap)
	}
	b.WriteString("\n },\n \"$extensions\": {\"aspenridge\": ")
	ext := struct {
		FormatVersion int      `json:"formatVersion"`
		Name          string   `json:"name"`
		Tagline       string   `json:"tagline"`
		Website       string   `json:"website"`
		Handles       []string `json:"handles"`
		Phone         string   `json:"phone"`
		Place         string   `json:"place"`
		CallsToAction []string `json:"callsToAction"`
		Hashtags      []string `json:"hashtags"`
		Values        []string `json:"values"`
		Logos         []object `json:"logos"`
		Voice         object   `json:"voice"`
		Motion        object   `json:"motion"`
	}{
		1, "Larkmoor Paddle School", "Read the river first", "larkmoor.example", []string{"@larkmoorpaddle"}, "01632 960 184", "Old Boathouse, Larkmoor",
		[]string{"Save a seat", "Join the crew"}, []string{"#slowbend"}, []string{"patience", "clear water", "company"},
		[]object{
			{"file": "logos/horizontal.svg", "lockup": "horizontal", "tone": "full-colour", "lead": true},
			{"file": "logos/horizontal-dark.svg", "lockup": "horizontal", "tone": "for-dark"},
			{"file": "logos/stacked.svg", "lockup": "stacked", "tone": "full-colour"},
			{"file": "logos/symbol.svg", "lockup": "symbol", "tone": "full-colour"},
		},
		object{"sounds": "Unhurried, exact; explains a term once.", "reader": "Somebody who has never held a paddle",
			"says": []string{"first strokes", "slow bend", "save a seat"}, "neverSays": []string{"extreme", "conquer"}, "sentences": "Short. One thought each."},
		object{"music": "calm"},
	}
	out, err := json.MarshalIndent(ext, " ", " ")
	if err != nil {
		panic(err)
	}
	b.Write(out)
	b.WriteString("}\n}\n")
	return []byte(b.String())
}

func components(hex string) string {
	var r, g, bl int
	if _, err := fmt.Sscanf(hex, "#%02X%02X%02X", &r, &g, &bl); err != nil {
		panic(err)
	}
	return num(float64(r)/255) + ", " + num(float64(g)/255) + ", " + num(float64(bl)/255)
}

// Briefs are the demo jobs, JSON by file name.
func Briefs() map[string]string {
	return map[string]string{
		"beginners.json": `{
 "formatVersion": 1,
 "name": "Spring beginners’ course",
 "purpose": "announce",
 "headline": "Quiet water, first strokes",
 "shortHeadline": "First strokes",
 "subheading": "Beginners' kayak course: six Saturdays from 3 May",
 "body": "Boats, dry bags and patience provided. Bring shoes that can get wet.",
 "callToAction": "Save a seat",
 "signature": "logo",
 "pictures": [{"file": "pictures/dawn-on-the-bend.svg", "focus": [0.42, 0.68], "alt": "A kayaker on a river at dawn"}],
 "placements": ["feed-square", "feed-tall", "board-tall", "feed-wide", "story", "video-thumbnail", "shop-banner", "email-header", "ad-300x250", "ad-728x90", "ad-160x600", "ad-320x50", "profile-picture"]
}
`,
		"knots.json": `{
 "formatVersion": 1,
 "name": "Knots to swipe through",
 "purpose": "tips",
 "signature": "logo",
 "cards": [
  {"headline": "Three knots worth knowing", "shortHeadline": "Three knots", "emphasis": ["knots"], "facts": [{"icon": "clock", "text": "Ten minutes"}, {"icon": "life-buoy", "text": "One rope"}, {"icon": "thumbs-up", "text": "No boat needed"}], "callToAction": "Swipe along"},
  {"headline": "Bowline", "subheading": "A loop that holds and still comes undone", "lines": ["Make a small eye", "Up through it", "Round the back", "Down again"], "callToAction": ""},
  {"headline": "Clove hitch", "subheading": "For a post, and quickly", "lines": ["Once round", "Cross over", "Under the cross", "Pull"], "callToAction": ""},
  {"headline": "Figure of eight", "subheading": "So that nothing slips through", "lines": ["Make a loop", "Behind", "Through the front"], "callToAction": "Learn the rest with us"}
 ],
 "placements": ["card-tall", "story", "feed-square"]
}
`,
		"lanterns.json": `{
 "formatVersion": 1,
 "name": "Lantern paddle",
 "purpose": "event",
 "headline": "Eleven lanterns and one slow bend",
 "shortHeadline": "Eleven lanterns",
 "subheading": "An evening paddle for anyone who can float",
 "when": {"date": "2027-05-28", "weekday": "Friday", "from": "20:30", "to": "22:00"},
 "where": "Old Boathouse, Larkmoor",
 "callToAction": "Join the crew",
 "pictures": [{"file": "pictures/lanterns-after-dark.svg", "focus": [0.46, 0.62], "alt": "A kayak among paper lanterns at dusk"}],
 "placements": ["feed-square", "feed-tall", "story", "event-cover", "video-thumbnail", "shop-banner-slim", "email-hero", "landing-hero", "ad-300x600", "ad-970x250", "channel-header", "shop-icon"]
}
`,
	}
}

// Write puts the whole sample, kit and briefs, into a folder.
func Write(dir string) error {
	files := map[string]string{"kit/kit.json": string(KitDocument())}
	for name, svg := range Logos() {
		files["kit/"+name] = svg
	}
	for name, svg := range Pictures() {
		files["pictures/"+name] = svg
	}
	for name, doc := range Briefs() {
		files[name] = doc
	}
	for name, data := range files {
		at := filepath.Join(dir, filepath.FromSlash(name))
		if err := os.MkdirAll(filepath.Dir(at), 0o755); err != nil {
			return err
		}
		if err := os.WriteFile(at, []byte(data), 0o644); err != nil {
			return err
		}
	}
	return nil
}
