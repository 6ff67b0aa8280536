package raster

import (
	"bytes"
	"encoding/xml"
	"fmt"
	"html"
	"io"
	"math"
	"regexp"
	"strconv"
	"strings"
)

// The limits of an uploaded SVG.
const (
	svgDepth    = 200
	svgNodes    = 20_000
	svgExpanded = 10_000 // elements after every use is followed
	svgSide     = 8192
	svgBytes    = 8 << 20
	svgNumbers  = 300_000   // in all paths together
	svgDrawn    = 1_000_000 // numbers of paths after every use is followed
	svgOutput   = 8 << 20   // bytes of what is written
)

// CleanedSVG is an uploaded drawing rewritten to the few features we draw.
type CleanedSVG struct {
	Markup string     // what stood inside the svg element
	View   [4]float64 // x, y, width, height
	Notes  []string   // what was left out
}

// svgElements are kept; everything else is left out with its content.
var svgElements = map[string]bool{
	"g": true, "path": true, "rect": true, "circle": true, "ellipse": true, "line": true, "polyline": true,
	"polygon": true, "defs": true, "use": true, "symbol": true, "clipPath": true, "mask": true, "linearGradient": true,
	"radialGradient": true, "stop": true, "svg": true,
	"text": true, "tspan": true, // they become outlines, or are left out with a note
}

// quiet elements are left out without a word.
var svgQuiet = map[string]bool{"title": true, "desc": true, "metadata": true, "style": true, "namedview": true}

var svgAttributes = func() map[string]bool {
	m := map[string]bool{}
	for _, a := range strings.Fields(`d x y x1 y1 x2 y2 cx cy r rx ry fx fy width height points transform viewBox
		preserveAspectRatio gradientUnits gradientTransform spreadMethod offset clipPathUnits pathLength
		fill fill-opacity fill-rule stroke stroke-width stroke-opacity stroke-linecap stroke-linejoin stroke-miterlimit
		stroke-dasharray stroke-dashoffset opacity clip-path clip-rule color display visibility stop-color stop-opacity
		paint-order overflow id class style href mask maskUnits maskContentUnits mask-type`) {
		m[a] = true
	}
	for _, a := range svgFont {
		m[a] = true
	}
	return m
}()

type svgNode struct {
	name     string
	attrs    [][2]string
	children []*svgNode
}

func (n *svgNode) attr(name string) string {
	for _, a := range n.attrs {
		if a[0] == name {
			return a[1]
		}
	}
	return ""
}

func (n *svgNode) set(name, value string) {
	for i, a := range n.attrs {
		if a[0] == name {
			n.attrs[i][1] = value
			return
		}
	}
	n.attrs = append(n.attrs, [2]string{name, value})
}

// numbers counts the numbers of an element's path or points, roughly: what
// drawing it costs.
func (n *svgNode) numbers() int {
	count, in := 0, false
	for _, name := range []string{"d", "points"} {
		for _, r := range n.attr(name) {
			digit := r >= '0' && r <= '9' || r == '.'
			if digit && !in || r == '-' || r >= 'A' {
				count++
			}
			in = digit
		}
	}
	return count
}

// CleanSVG rewrites an uploaded SVG: known shapes only, CSS classes and style
// attributes turned into presentation attributes, ids prefixed, no scripts,
// events, filters, entities or references outside the file. It refuses what is
// too deep, too large or built to explode, saying which.
func CleanSVG(data []byte, prefix string) (CleanedSVG, error) {
	if len(data) > svgBytes {
		return CleanedSVG{}, fmt.Errorf("the SVG is %d kB: at most %d kB", len(data)/1000, svgBytes/1000)
	}
	c := &cleaner{notes: map[string]bool{}, ids: map[string]*svgNode{}, prefix: prefix}
	root, err := c.parse(data)
	if err != nil {
		return CleanedSVG{}, err
	}
	rules, err := parseRules(c.css.String())
	if err != nil {
		return CleanedSVG{}, err
	}
	if err := rules.apply(root); err != nil {
		return CleanedSVG{}, err
	}
	c.outline(root, run{size: 16, weight: 400, anchor: "start"})
	if !simpleMasks(root) {
		c.notes["mask"] = true
		dropMasks(root)
	}
	view, err := viewBox(root)
	if err != nil {
		return CleanedSVG{}, err
	}
	switch n, err := c.expanded(root, map[*svgNode]bool{}); {
	case err != nil:
		return CleanedSVG{}, err
	case n.shapes > svgExpanded:
		return CleanedSVG{}, fmt.Errorf("the SVG draws %d or more shapes by repetition: at most %d", svgExpanded, svgExpanded)
	case n.numbers > svgDrawn:
		return CleanedSVG{}, fmt.Errorf("the SVG draws more than %d points: simplify its paths", svgDrawn/2)
	}
	var b strings.Builder
	for _, child := range root.children {
		c.write(&b, child)
		if b.Len() > svgOutput {
			return CleanedSVG{}, fmt.Errorf("the SVG becomes more than %d kB when its styles are applied", svgOutput/1000)
		}
	}
	out := CleanedSVG{Markup: b.String(), View: view}
	for _, n := range []string{"text", "image", "filter", "mask", "script", "foreignObject", "pattern", "event"} {
		if c.notes[n] {
			out.Notes = append(out.Notes, map[string]string{
				"text": "words set in a font were left out: convert them to outlines where it was drawn, and bring it again", "image": "bitmaps inside the drawing were left out",
				"filter": "filter effects were left out", "mask": "masks were left out", "script": "scripts were removed",
				"foreignObject": "embedded pages were removed", "pattern": "pattern fills were left out", "event": "event handlers were removed",
			}[n])
		}
	}
	return out, nil
}

func (c *cleaner) parse(data []byte) (*svgNode, error) {
	dec := xml.NewDecoder(bytes.NewReader(data))
	dec.Strict = true
	dec.CharsetReader = func(label string, in io.Reader) (io.Reader, error) {
		if strings.EqualFold(label, "utf-8") || strings.EqualFold(label, "us-ascii") {
			return in, nil
		}
		return nil, fmt.Errorf("encoding %q: save it as UTF-8", label)
	}
	r := svgReader{c: c}
	for {
		tok, err := dec.Token()
		if err == io.EOF {
			break
		}
		if err != nil {
			line, _ := dec.InputPos()
			return nil, fmt.Errorf("the SVG is broken in line %d: want well-formed XML in UTF-8; save it anew as plain SVG", line)
		}
		switch t := tok.(type) {
		case xml.Directive:
			if d := strings.ToUpper(string(t)); strings.Contains(d, "ENTITY") || strings.Contains(d, "[") {
				err = fmt.Errorf("the SVG defines entities; save it as plain SVG")
			}
		case xml.StartElement:
			err = r.open(t)
		case xml.EndElement:
			r.close()
		case xml.CharData:
			err = r.text(t)
		}
		if err != nil {
			return nil, err
		}
	}
	if r.root == nil {
		return nil, fmt.Errorf("the SVG is empty")
	}
	return r.root, nil
}

// svgReader builds the tree of a drawing out of its elements, those that are taken.
type svgReader struct {
	c       *cleaner
	root    *svgNode
	stack   []*svgNode
	nodes   int
	depth   int
	skip    int // elements deep in something that is left out
	numbers int
	inStyle bool
}

func (r *svgReader) open(t xml.StartElement) error {
	r.depth++
	r.nodes++
	name := t.Name.Local
	switch {
	case r.depth > svgDepth:
		return fmt.Errorf("the SVG is nested deeper than %d", svgDepth)
	case r.nodes > svgNodes:
		return fmt.Errorf("the SVG has more than %d elements", svgNodes)
	case r.root == nil && name != "svg":
		return fmt.Errorf("want an SVG drawing, found a document of <%s>", name)
	case r.root != nil && len(r.stack) == 0:
		return fmt.Errorf("the SVG is broken: something follows its end")
	case r.root != nil && (r.skip > 0 || !svgElements[name] || t.Name.Space != "" && !strings.HasSuffix(t.Name.Space, "/svg")):
		if name == "style" && r.skip == 0 {
			r.inStyle = true
		} else if !svgQuiet[name] {
			r.c.notes[noteFor(name)] = true
		}
		r.skip++
		return nil
	}
	n := &svgNode{name: name}
	for _, a := range t.Attr {
		r.c.attribute(n, a)
	}
	if r.numbers += n.numbers(); r.numbers > svgNumbers {
		return fmt.Errorf("the SVG's paths have more than %d points: simplify them", svgNumbers/2)
	}
	if id := n.attr("id"); id != "" {
		r.c.ids[id] = n
	}
	if r.root == nil {
		r.root = n
	} else {
		parent := r.stack[len(r.stack)-1]
		parent.children = append(parent.children, n)
	}
	r.stack = append(r.stack, n)
	return nil
}

func (r *svgReader) close() {
	r.depth--
	if r.skip > 0 {
		r.skip--
		r.inStyle = false
		return
	}
	r.stack = r.stack[:len(r.stack)-1]
}

func (r *svgReader) text(t xml.CharData) error {
	if top := len(r.stack) - 1; !r.inStyle && r.skip == 0 && top >= 0 && (r.stack[top].name == "text" || r.stack[top].name == "tspan") {
		if r.nodes++; r.nodes > svgNodes {
			return fmt.Errorf("the SVG has more than %d elements", svgNodes)
		}
		r.stack[top].children = append(r.stack[top].children, &svgNode{name: "#words", attrs: [][2]string{{"words", string(t)}}})
	}
	if !r.inStyle {
		return nil
	}
	if r.c.css.Len()+len(t) > cssBytes {
		return fmt.Errorf("the SVG has more than %d kB of styles", cssBytes/1000)
	}
	r.c.css.Write(t)
	return nil
}

func noteFor(name string) string {
	switch {
	case name == "textPath":
		return "text"
	case strings.HasPrefix(name, "fe"):
		return "filter"
	}
	return name
}

func (c *cleaner) attribute(n *svgNode, a xml.Attr) {
	name := a.Name.Local
	switch {
	case a.Name.Space == "xmlns" || name == "xmlns":
		return
	case strings.HasPrefix(strings.ToLower(name), "on"):
		c.notes["event"] = true
		return
	case name == "filter":
		c.notes[name] = true
		return
	case !svgAttributes[name], a.Name.Space != "" && name != "href":
		return
	}
	v := strings.TrimSpace(a.Value)
	if name == "href" {
		if !strings.HasPrefix(v, "#") {
			return // never outside the file
		}
	} else if name != "style" && !safeValue(v) {
		return
	}
	if len(v) > 1<<20 {
		return
	}
	n.set(name, v)
}

var urlRef = regexp.MustCompile(`url\(\s*['"]?([^'")]*)['"]?\s*\)`)

// safeValue refuses values that could reach out of the file.
func safeValue(v string) bool {
	for _, m := range urlRef.FindAllStringSubmatch(v, -1) {
		if !strings.HasPrefix(m[1], "#") {
			return false
		}
	}
	l := strings.ToLower(v)
	return !strings.Contains(l, "javascript:") && !strings.Contains(l, "expression(")
}

func viewBox(root *svgNode) ([4]float64, error) {
	var v [4]float64
	if f := strings.FieldsFunc(root.attr("viewBox"), func(r rune) bool { return r == ' ' || r == ',' || r == '\t' || r == '\n' }); len(f) == 4 {
		for i, s := range f {
			n, err := strconv.ParseFloat(s, 64)
			if err != nil {
				return v, fmt.Errorf("viewBox %q: want four numbers", root.attr("viewBox"))
			}
			v[i] = n
		}
	} else {
		v[2], v[3] = length(root.attr("width")), length(root.attr("height"))
	}
	for _, n := range v {
		if math.IsNaN(n) || math.IsInf(n, 0) || math.Abs(n) > svgSide {
			return v, fmt.Errorf("the SVG measures %g × %g: at most %d on each side", v[2], v[3], svgSide)
		}
	}
	if v[2] <= 0 || v[3] <= 0 {
		return v, fmt.Errorf("the SVG says neither viewBox nor width and height")
	}
	return v, nil
}

// length reads px and the absolute units of CSS Values 4, 6.2.
func length(s string) float64 {
	s = strings.TrimSpace(s)
	units := map[string]float64{"px": 1, "pt": 4.0 / 3, "mm": 96 / 25.4, "cm": 96 / 2.54, "in": 96}
	for u, k := range units {
		if n, ok := strings.CutSuffix(s, u); ok {
			v, _ := strconv.ParseFloat(strings.TrimSpace(n), 64)
			return v * k
		}
	}
	v, _ := strconv.ParseFloat(s, 64)
	return v
}

// drawnCost is what a part of a drawing draws.
type drawnCost struct{ shapes, numbers int }

// expanded counts what would be drawn if every use were followed.
func (c *cleaner) expanded(n *svgNode, open map[*svgNode]bool) (drawnCost, error) {
	if c.costs == nil {
		c.costs = map[*svgNode]drawnCost{}
	}
	if v, ok := c.costs[n]; ok {
		return v, nil
	}
	if open[n] {
		return drawnCost{}, fmt.Errorf("the SVG uses itself")
	}
	open[n] = true
	defer delete(open, n)
	total := drawnCost{1, n.numbers()}
	add := func(m *svgNode) error {
		v, err := c.expanded(m, open)
		total = drawnCost{min(total.shapes+v.shapes, svgExpanded+1), min(total.numbers+v.numbers, svgDrawn+1)}
		return err
	}
	for _, child := range n.children {
		if err := add(child); err != nil {
			return drawnCost{}, err
		}
	}
	if n.name == "use" {
		if target := c.ids[strings.TrimPrefix(n.attr("href"), "#")]; target != nil {
			if err := add(target); err != nil {
				return drawnCost{}, err
			}
		}
	}
	c.costs[n] = total
	return total, nil
}

func (c *cleaner) write(b *strings.Builder, n *svgNode) {
	b.WriteString("<" + n.name)
	for _, a := range n.attrs {
		v := a[1]
		switch a[0] {
		case "id":
			v = c.prefix + v
		case "href":
			v = "#" + c.prefix + strings.TrimPrefix(v, "#")
		default:
			v = urlRef.ReplaceAllStringFunc(v, func(m string) string {
				return "url(#" + c.prefix + strings.TrimPrefix(urlRef.FindStringSubmatch(m)[1], "#") + ")"
			})
		}
		b.WriteString(" " + a[0] + `="` + html.EscapeString(v) + `"`)
	}
	if len(n.children) == 0 {
		b.WriteString("/>")
		return
	}
	b.WriteString(">")
	for _, child := range n.children {
		c.write(b, child)
	}
	b.WriteString("</" + n.name + ">")
}
