package raster

import (
	"encoding/json"
	"errors"
	"math"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"aspenridge/internal/core/typeset"
)

// Shipped gives the faces words in drawings are outlined with, and what sets them; nil where
// none are at hand, and words are left out then. Whoever has the library says so as the
// program begins, in the processes that read files as well.
var Shipped func() (*typeset.Library, *typeset.Shaper)

// ownFace is a face of somebody's own, with how many bytes of it follow a file.
type ownFace struct {
	Family string
	Weight int
	Italic bool
	Bytes  int

	data []byte
}

// mostFaceBytes is how many bytes of faces of one's own go with a drawing.
const mostFaceBytes = 20 << 20

// facesIn are the faces a drawing names, as many as may go with it; one that cannot be read is
// left out, and its words are as those in a face nobody has.
func facesIn(drawing []byte, own []typeset.Entry) (out []ownFace) {
	if Kind(drawing) != "svg" {
		return nil
	}
	named, total := strings.ToLower(string(drawing)), 0
	for _, e := range own {
		if !strings.Contains(named, strings.ToLower(e.Family)) {
			continue
		}
		data, err := e.Read()
		if err != nil || total+len(data) > mostFaceBytes {
			continue
		}
		total += len(data)
		out = append(out, ownFace{e.Family, e.Weight, e.Italic, len(data), data})
	}
	return out
}

// takeFaces takes the faces that follow a file off its end, in the child that reads it, and has
// words set in them as well as in those that ship.
func takeFaces(data []byte, list string) ([]byte, error) {
	var faces []ownFace
	if err := json.Unmarshal([]byte(list), &faces); err != nil {
		return nil, err
	}
	at := len(data)
	for _, f := range faces {
		at -= f.Bytes
	}
	if at < 0 || Shipped == nil {
		return nil, errors.New("the faces did not come whole")
	}
	file, rest := data[:at], data[at:]
	entries := make([]typeset.Entry, len(faces))
	for i, f := range faces {
		bytes := rest[:f.Bytes]
		rest = rest[f.Bytes:]
		entries[i] = typeset.Entry{Family: f.Family, Weight: f.Weight, Italic: f.Italic, Read: func() ([]byte, error) { return bytes, nil }}
	}
	shipped, shaper := Shipped()
	library := typeset.NewLibrary(shipped, entries...)
	Shipped = func() (*typeset.Library, *typeset.Shaper) { return library, shaper }
	return file, nil
}

// svgFont are the attributes of words that say how they are set; their outlines have no use
// for them.
var svgFont = []string{"font-family", "font-size", "font-weight", "font-style", "text-anchor", "letter-spacing", "dx", "dy"}

// mostLetters is how many letters of a drawing become outlines.
const mostLetters = 400

// run is how words are set where one is in a drawing.
type run struct {
	family, anchor string
	size, tracking float64 // units of the drawing; em
	weight         int
	italic         bool
}

// withFont is a run inside an element: what it says of its font, the rest as around it.
func (r run) withFont(n *svgNode) run {
	if v := n.attr("font-family"); v != "" {
		r.family = v
	}
	if v := n.attr("font-size"); v != "" {
		if size, ok := measureOf(v, r.size); ok {
			r.size = size
		}
	}
	switch v := n.attr("font-weight"); v {
	case "":
	case "normal":
		r.weight = 400
	case "bold":
		r.weight = 700
	default:
		if w, err := strconv.Atoi(v); err == nil && w >= 1 && w <= 1000 {
			r.weight = w
		}
	}
	if v := n.attr("font-style"); v != "" {
		r.italic = v != "normal"
	}
	if v := n.attr("text-anchor"); v != "" {
		r.anchor = v
	}
	if v := n.attr("letter-spacing"); v != "" && r.size > 0 {
		if space, ok := measureOf(v, r.size); ok {
			r.tracking = space / r.size
		}
	}
	return r
}

// measureOf reads the first length of an attribute, in units of the drawing (CSS Values 3, 5.1:
// em of the size around it).
func measureOf(v string, em float64) (float64, bool) {
	f := strings.FieldsFunc(v, func(r rune) bool { return r == ' ' || r == ',' })
	if len(f) == 0 {
		return 0, false
	}
	units := map[string]float64{"": 1, "px": 1, "pt": 4.0 / 3, "em": em, "%": em / 100}
	i := strings.LastIndexAny(f[0], "0123456789.") + 1
	k, known := units[f[0][i:]]
	n, err := strconv.ParseFloat(f[0][:i], 64)
	return n * k, known && err == nil && !math.IsNaN(n) && !math.IsInf(n, 0)
}

// face is the face a list of families asks for; nil where none of them is at hand.
func (r run) face() *typeset.Face {
	library, _ := Shipped()
	for _, family := range strings.Split(r.family, ",") {
		family = strings.Trim(strings.TrimSpace(family), `'"`)
		if family == "" || !library.Has(family) {
			continue
		}
		if f, err := library.Face(family, r.weight, r.italic); err == nil && !f.Broken() {
			return f
		}
	}
	return nil
}

// outline puts outlines in place of the words of a drawing whose faces are at hand, and leaves
// the others out with a note.
func (c *cleaner) outline(n *svgNode, around run) {
	around = around.withFont(n)
	n.children = slices.DeleteFunc(n.children, func(child *svgNode) bool {
		if child.name != "text" {
			c.outline(child, around)
			return child.name == "tspan" || child.name == "#words"
		}
		ok := Shipped != nil && c.outlineText(child, around)
		if !ok {
			c.notes["text"] = true
		}
		return !ok
	})
	n.attrs = slices.DeleteFunc(n.attrs, func(a [2]string) bool { return slices.Contains(svgFont, a[0]) })
}

// set is a stretch of words with where it stands in its line.
type set struct {
	line  *typeset.Line
	size  float64
	x, y  float64
	attrs [][2]string
}

// outlineText makes a group of paths of a text element; false where a face is not at hand.
func (c *cleaner) outlineText(text *svgNode, around run) bool {
	var all []set
	var chunk []set // since the last place that was given: it is moved by its anchor as one
	var x, y float64
	ok, letters, anchor := true, 0, ""
	end := func() {
		if len(chunk) > 0 {
			last := chunk[len(chunk)-1]
			wide := last.x + last.line.Advance*last.size - chunk[0].x
			shift := map[string]float64{"middle": -wide / 2, "end": -wide}[anchor]
			for i := range chunk {
				chunk[i].x += shift
			}
		}
		all, chunk = append(all, chunk...), nil
	}
	var walk func(n *svgNode, r run, attrs [][2]string)
	walk = func(n *svgNode, r run, attrs [][2]string) {
		r = r.withFont(n)
		if n != text {
			attrs = append(slices.Clone(attrs), slices.DeleteFunc(notFont(n.attrs), func(a [2]string) bool { return a[0] == "id" })...)
		}
		if several(n.attr("x")) || several(n.attr("y")) || several(n.attr("dx")) {
			ok = false // letter by letter: as good as outlines, and for one face alone
			return
		}
		for i, v := range []string{n.attr("x"), n.attr("y")} {
			if at, given := measureOf(v, r.size); given {
				end()
				*[]*float64{&x, &y}[i] = at
			}
		}
		for i, v := range []string{n.attr("dx"), n.attr("dy")} {
			if by, given := measureOf(v, r.size); given {
				*[]*float64{&x, &y}[i] += by
			}
		}
		for _, child := range n.children {
			if child.name != "#words" {
				walk(child, r, attrs)
				continue
			}
			words := child.attr("words")
			face := r.face()
			if letters += utf8.RuneCountInString(words); face == nil || r.size <= 0 || r.size > svgSide || letters > mostLetters {
				ok = false
				return
			}
			_, shaper := Shipped()
			s := set{shaper.Line(words, typeset.Style{Face: face, Tracking: r.tracking}), r.size, x, y, attrs}
			if len(chunk) == 0 {
				anchor = r.anchor // of the first letter's element (SVG 2, 11.5)
			}
			chunk = append(chunk, s)
			x += s.line.Advance * s.size
		}
		if n == text {
			end()
		}
	}
	squeeze(text, new(bool))
	walk(text, around, nil)
	if !ok || len(all) == 0 {
		return false
	}
	text.name, text.children = "g", nil
	text.attrs = notFont(text.attrs)
	for _, s := range all {
		for i := range s.line.Paths() {
			d, upem, dx := s.line.Path(i)
			path := &svgNode{name: "path", attrs: slices.Clone(s.attrs)}
			path.set("transform", "translate("+typeset.Num(s.x+dx*s.size)+" "+typeset.Num(s.y)+") scale("+strconv.FormatFloat(s.size/upem, 'g', 8, 64)+")")
			path.set("d", "M0 0"+d)
			text.children = append(text.children, path)
		}
	}
	return true
}

// several reports whether an attribute has a list of lengths.
func several(v string) bool { return strings.ContainsAny(strings.TrimSpace(v), " ,\t\n") }

// notFont are the attributes of words that paths have as well: not where they stand, nor their
// font.
func notFont(attrs [][2]string) [][2]string {
	return slices.DeleteFunc(slices.Clone(attrs), func(a [2]string) bool {
		return slices.Contains(svgFont, a[0]) || a[0] == "x" || a[0] == "y"
	})
}

// squeeze makes one space of several, and none at the beginning (SVG 2, 11.4; what ends a line
// is a space).
func squeeze(n *svgNode, spaced *bool) {
	if n.name == "text" {
		*spaced = true
	}
	for _, child := range n.children {
		if child.name != "#words" {
			squeeze(child, spaced)
			continue
		}
		var b strings.Builder
		for _, r := range child.attr("words") {
			space := r == ' ' || r == '\n' || r == '\t' || r == '\r'
			if space && *spaced {
				continue
			}
			if *spaced = space; space {
				r = ' '
			}
			b.WriteRune(r)
		}
		child.set("words", b.String())
	}
	if n.name == "text" {
		trimEnd(n)
	}
	n.children = slices.DeleteFunc(n.children, func(c *svgNode) bool { return c.name == "#words" && c.attr("words") == "" })
}

// trimEnd takes a space off the end of a text.
func trimEnd(n *svgNode) {
	if len(n.children) == 0 {
		return
	}
	last := n.children[len(n.children)-1]
	if last.name != "#words" {
		trimEnd(last)
		return
	}
	last.set("words", strings.TrimSuffix(last.attr("words"), " "))
}
