package brand

import (
	"errors"
	"fmt"
	"html"
	"regexp"
	"strconv"
	"strings"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/edit"
)

// gplHeader opens the open text format for palettes that drawing programs
// share; it is part of the format.
const gplHeader = "GIMP Palette"

// GPL writes the kit's colours as a GPL text palette.
func (k *Kit) GPL() string {
	var b strings.Builder
	fmt.Fprintf(&b, "%s\nName: %s\nColumns: %d\n#\n", gplHeader, oneLine(k.Name), min(16, max(1, len(k.Colours()))))
	for _, c := range k.Colours() {
		fmt.Fprintf(&b, "%3d %3d %3d\t%s\n", c.Value.R, c.Value.G, c.Value.B, oneLine(c.Name))
	}
	return b.String()
}

// CSS writes colours and type as custom properties on the root element.
func (k *Kit) CSS() string {
	var b strings.Builder
	fmt.Fprintf(&b, "/* %s */\n:root {\n", strings.ReplaceAll(oneLine(k.Name), "*/", "* /"))
	many := len(k.Palettes) > 1
	for _, p := range k.Palettes {
		for _, c := range p.Colours {
			_, token, _ := strings.Cut(c.Token, ".")
			name := "--" + ident(token)
			if many {
				name = "--" + ident(p.ID) + "-" + ident(token)
			}
			fmt.Fprintf(&b, "  %s: %s;\n", name, strings.ToLower(c.Value.Hex()))
		}
	}
	set := k.TypeSet("")
	for _, l := range Levels {
		s := set.Levels[l]
		fmt.Fprintf(&b, "  --%s-family: %q;\n  --%s-weight: %d;\n  --%s-ratio: %s;\n", l, s.Family, l, s.Weight, l, strconv.FormatFloat(set.Ratio(l), 'f', 3, 64))
	}
	b.WriteString("}\n")
	return b.String()
}

// Swatches draws the kit's colours with their names and values as an SVG sheet.
func (k *Kit) Swatches() string {
	const w, h, perRow = 160, 120, 6
	list := k.Colours()
	rows := (len(list) + perRow - 1) / perRow
	var b strings.Builder
	fmt.Fprintf(&b, `<svg xmlns="http://www.w3.org/2000/svg" width="%d" height="%d" viewBox="0 0 %d %d"><title>%s</title>`, w*perRow, h*max(1, rows), w*perRow, h*max(1, rows), html.EscapeString(k.Name))
	for i, c := range list {
		x, y := i%perRow*w, i/perRow*h
		ink := colour.White
		if colour.Contrast(c.Value, colour.Black) > colour.Contrast(c.Value, colour.White) {
			ink = colour.Black
		}
		fmt.Fprintf(&b, `<g id="%s"><rect x="%d" y="%d" width="%d" height="%d" fill="%s"/><text x="%d" y="%d" font-family="sans-serif" font-size="14" font-weight="bold" fill="%s">%s</text><text x="%d" y="%d" font-family="monospace" font-size="12" fill="%s">%s</text></g>`,
			ident(c.Token), x, y, w, h, c.Value, x+12, y+26, ink, html.EscapeString(c.Name), x+12, y+44, ink, c.Value)
	}
	b.WriteString("</svg>\n")
	return b.String()
}

func oneLine(s string) string { return strings.Join(strings.Fields(s), " ") }

var notIdent = regexp.MustCompile(`[^A-Za-z0-9_-]+`)

func ident(s string) string {
	s = strings.Trim(notIdent.ReplaceAllString(s, "-"), "-")
	if s == "" || s[0] >= '0' && s[0] <= '9' {
		s = "c-" + s
	}
	return s
}

// ErrColours is wrapped by errors of [ReadColours].
var ErrColours = errors.New("no colours could be read")

var gplLine = regexp.MustCompile(`^\s*(\d{1,3})\s+(\d{1,3})\s+(\d{1,3})(?:\s+(.*))?$`)

// ReadColours reads colours out of whatever people have them in: a GPL palette,
// a design tokens document, CSS custom properties, or lines in any notation
// with or without names. Roles are kept where the file has them.
func ReadColours(text string) ([]Colour, error) {
	if len(text) > maxColourText {
		return nil, fmt.Errorf("%w: the text has %d kB, at most %d kB are read", ErrColours, len(text)/1000, maxColourText/1000)
	}
	list, err := readColours(text)
	if err == nil && len(list) > MaxAllColours {
		return nil, fmt.Errorf("%w: %d colours, at most %d are taken at once", ErrColours, len(list), MaxAllColours)
	}
	return list, err
}

// maxColourText is the longest text colours are looked for in, in bytes.
const maxColourText = 1_000_000

func readColours(text string) ([]Colour, error) {
	trimmed := strings.TrimSpace(strings.TrimPrefix(text, "\ufeff"))
	switch {
	case strings.HasPrefix(trimmed, gplHeader):
		return readGPL(trimmed)
	case strings.HasPrefix(trimmed, "{"):
		return readTokens(trimmed)
	}
	list, err := colour.ParseList(trimmed)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrColours, err)
	}
	var out []Colour
	for _, c := range list {
		out = append(out, Colour{Name: c.Name, Value: c.Colour})
	}
	return out, nil
}

func readGPL(text string) ([]Colour, error) {
	var out []Colour
	for i, line := range strings.Split(text, "\n") {
		line = strings.TrimSpace(line)
		if i == 0 || line == "" || line[0] == '#' || strings.HasPrefix(line, "Name:") || strings.HasPrefix(line, "Columns:") {
			continue
		}
		m := gplLine.FindStringSubmatch(line)
		if m == nil {
			return nil, fmt.Errorf("%w: line %d of the palette, %q: want three numbers from 0 to 255 and a name", ErrColours, i+1, line)
		}
		c, err := colour.Parse(m[1] + " " + m[2] + " " + m[3])
		if err != nil {
			return nil, fmt.Errorf("%w: line %d of the palette: %w", ErrColours, i+1, err)
		}
		name := strings.TrimSpace(m[4])
		if strings.EqualFold(name, "untitled") {
			name = ""
		}
		out = append(out, Colour{Name: name, Value: c})
	}
	if len(out) == 0 {
		return nil, fmt.Errorf("%w: the palette is empty", ErrColours)
	}
	return out, nil
}

// readTokens collects every colour token of a design tokens document, at any
// depth: groups of others need not be ours.
func readTokens(text string) ([]Colour, error) {
	doc, err := edit.ParseObject([]byte(text))
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrColours, err)
	}
	var out []Colour
	var walk func(o *edit.Object, name, kind string) error
	walk = func(o *edit.Object, name, kind string) error {
		if t, ok := o.Get("$type").(string); ok {
			kind = t
		}
		if v := o.Get("$value"); v != nil {
			if kind != "color" {
				return nil
			}
			if s, ok := v.(string); ok && strings.HasPrefix(s, "{") {
				return nil // an alias of a token that is read anyway
			}
			c, err := parseColour(v)
			if err != nil {
				return fmt.Errorf("%w: token %s: %w", ErrColours, name, err)
			}
			shown := stringAt(o, "$extensions", extension, "name")
			if shown == "" {
				shown = name
			}
			out = append(out, Colour{Name: shown, Value: c, Role: Role(stringAt(o, "$extensions", extension, "role"))})
			return nil
		}
		for _, key := range o.Keys() {
			if child := o.Object(key); child != nil && !strings.HasPrefix(key, "$") {
				if err := walk(child, key, kind); err != nil {
					return err
				}
			}
		}
		return nil
	}
	if err := walk(doc, "", ""); err != nil {
		return nil, err
	}
	if len(out) == 0 {
		return nil, fmt.Errorf("%w: the file has no tokens of type color", ErrColours)
	}
	return out, nil
}
