package raster

import (
	"encoding/base64"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"sync"

	"aspenridge/internal/cache"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/motif"
)

// paints are the attributes that carry a colour.
var paints = []string{"fill", "stroke", "stop-color", "color"}

// Retone draws a logo in another tone, a vector one as an SVG file: "for-dark" and
// "for-light" give what does not read on such a ground (contrast under 3:1) the
// ink and turn details that then vanish on it to the paper; "one-colour" draws
// everything in the ink and cuts details out with a mask. paper is the ground
// the tone is for. A bitmap is cut in one colour whatever the tone, as PNG. Errors wrap
// [ErrFile].
func Retone(art *brand.Art, tone string, ink, paper colour.RGB) ([]byte, error) {
	if art == nil {
		return nil, fmt.Errorf("%w: there is no logo to draw", ErrFile)
	}
	if art.SVG == "" {
		return oneColour(art, ink)
	}
	v := art.View
	file := func(body string) ([]byte, error) {
		return fmt.Appendf(nil, `<svg xmlns="http://www.w3.org/2000/svg" width="%g" height="%g" viewBox="%g %g %g %g">%s</svg>`, v[2], v[3], v[0], v[1], v[2], v[3], body), nil
	}
	if tone == "one-colour" {
		body, err := cutMarkup(art, "")
		if err != nil {
			return nil, err
		}
		return file(strings.ReplaceAll(body, inkHere, ink.Hex()))
	}
	c := &cleaner{notes: map[string]bool{}, ids: map[string]*svgNode{}}
	root, err := c.parse([]byte(`<svg xmlns="http://www.w3.org/2000/svg">` + art.SVG + `</svg>`))
	if err != nil {
		return nil, fmt.Errorf("%w: %v", ErrFile, err)
	}
	var to func(colour.RGB) colour.RGB
	switch tone {
	case "for-dark", "for-light":
		to = func(v colour.RGB) colour.RGB {
			under, inner := hostOf(art, v)
			switch {
			case inner && colour.Contrast(v, to(under)) < 2.2:
				return paper
			case !inner && colour.Contrast(v, paper) < 3:
				return ink
			}
			return v
		}
	default:
		return nil, fmt.Errorf("%w: tone %q: want for-light, for-dark or one-colour", ErrFile, tone)
	}
	repaint(root, func(v colour.RGB) string { return to(v).Hex() })
	return file(fmt.Sprintf(`<g fill="%s">%s</g>`, to(colour.Black).Hex(), c.inside(root)))
}

// hostOf is the ink of a logo a colour is a detail on, false where it stands for itself.
func hostOf(art *brand.Art, v colour.RGB) (colour.RGB, bool) {
	best, at := 8.0, -1
	for i, f := range art.Inks {
		if d := colour.DeltaE(f.Colour, v); d < best {
			best, at = d, i
		}
	}
	if at < 0 || at >= len(art.Hosts) || art.Hosts[at] < 0 || art.Hosts[at] >= len(art.Inks) {
		return v, false
	}
	return art.Inks[art.Hosts[at]].Colour, true
}

// inside is the markup of what a node holds.
func (c *cleaner) inside(n *svgNode) string {
	var b strings.Builder
	for _, child := range n.children {
		c.write(&b, child)
	}
	return b.String()
}

// inkHere stands in markup for the one ink of a cut.
const inkHere = "currentColor"

// cutMarkup is a vector logo in one colour, [inkHere], its details cut out with a mask; the ids
// in it begin with a prefix.
func cutMarkup(art *brand.Art, prefix string) (string, error) {
	c := &cleaner{notes: map[string]bool{}, ids: map[string]*svgNode{}, prefix: prefix}
	root, err := c.parse([]byte(`<svg xmlns="http://www.w3.org/2000/svg">` + art.SVG + `</svg>`))
	if err != nil {
		return "", fmt.Errorf("%w: %v", ErrFile, err)
	}
	masked := slices.ContainsFunc(art.Hosts, func(h int) bool { return h >= 0 })
	to := func(v colour.RGB) string {
		if !masked {
			return inkHere
		}
		if _, inner := hostOf(art, v); inner {
			return colour.Black.Hex()
		}
		return colour.White.Hex()
	}
	repaint(root, to)
	body := fmt.Sprintf(`<g fill="%s">%s</g>`, to(colour.Black), c.inside(root))
	if !masked {
		return body, nil
	}
	return maskedInk(art, prefix+"one", body), nil
}

// maskedInk fills a logo's view with [inkHere] where a mask is white.
func maskedInk(art *brand.Art, id, mask string) string {
	v := art.View
	box := fmt.Sprintf(`x="%g" y="%g" width="%g" height="%g"`, v[0], v[1], v[2], v[3])
	return fmt.Sprintf(`<mask id="%s" maskUnits="userSpaceOnUse" %s>%s</mask><rect %s fill="%s" mask="url(#%s)"/>`, id, box, mask, box, inkHere, id)
}

// Derive gives a logo what is made of it: it in one colour, and what its outlines have in common.
func Derive(art *brand.Art) {
	made := derived().Once(art.Hash, func() derivedArt { return derivedArt{cutOf(art), motif.Of(art.SVG)} })
	art.Cut, art.Motif = made.cut, made.motif
}

type derivedArt struct {
	cut   *brand.Cut
	motif motif.Shape
}

// derived are the logos of which something was made last, by the hash of their file.
var derived = sync.OnceValue(func() *cache.Cache[string, derivedArt] { return cache.Some[string, derivedArt](derivedKept) })

const derivedKept = 300

// cutOf is a logo in one colour; nil for what would be a blot or a box in one: a photograph, a
// vector drawing with a ground or with masks of its own.
func cutOf(art *brand.Art) *brand.Cut {
	if !flatArt(art) {
		return nil
	}
	prefix := "cut-" + art.Hash[:min(12, len(art.Hash))] + "-"
	if art.SVG == "" {
		data, err := oneColour(art, colour.White)
		if err != nil {
			return nil
		}
		v := art.View
		image := fmt.Sprintf(`<image x="%g" y="%g" width="%g" height="%g" preserveAspectRatio="none" href="data:image/png;base64,%s"/>`,
			v[0], v[1], v[2], v[3], base64.StdEncoding.EncodeToString(data))
		return &brand.Cut{SVG: maskedInk(art, prefix+"one", image)}
	}
	if art.Box != nil || strings.Contains(art.SVG, "<mask") || strings.Contains(art.SVG, "<image") {
		return nil
	}
	markup, err := cutMarkup(art, prefix)
	if err != nil {
		return nil
	}
	return &brand.Cut{SVG: markup}
}

// flatArt reports whether a few inks are nearly all of a logo.
func flatArt(art *brand.Art) bool {
	sum := 0.0
	for _, f := range art.Inks {
		sum += f.Share
	}
	return len(art.Inks) <= flatInks && sum >= flatShare
}

const (
	flatInks  = 6
	flatShare = 0.85
)

func repaint(n *svgNode, to func(colour.RGB) string) {
	for _, name := range paints {
		if c, err := colour.Parse(n.attr(name)); err == nil && n.attr(name) != "" {
			n.set(name, to(c))
		}
	}
	for _, child := range n.children {
		repaint(child, to)
	}
}

// cutSVG takes the first shape out of a drawing when it is a rectangle that
// fills it. It runs in the child.
func cutSVG(data []byte) ([]byte, error) {
	clean, err := CleanSVG(data, "")
	if err != nil {
		return nil, fmt.Errorf("%w: %v", ErrFile, err)
	}
	c := &cleaner{notes: map[string]bool{}, ids: map[string]*svgNode{}}
	root, err := c.parse([]byte(`<svg xmlns="http://www.w3.org/2000/svg">` + clean.Markup + `</svg>`))
	if err != nil {
		return nil, fmt.Errorf("%w: %v", ErrFile, err)
	}
	if !dropGround(root, clean.View) {
		return nil, fmt.Errorf("%w: no rectangle fills the drawing; take its ground out in the file it was drawn in", ErrFile)
	}
	var b strings.Builder
	for _, child := range root.children {
		c.write(&b, child)
	}
	return []byte(wrapSVG(CleanedSVG{Markup: b.String(), View: clean.View}, logoRaster(clean.View))), nil
}

func dropGround(n *svgNode, view [4]float64) bool {
	for i, child := range n.children {
		switch child.name {
		case "defs", "clipPath", "mask", "linearGradient", "radialGradient", "symbol":
			continue
		case "g", "svg":
			return child.attr("transform") == "" && dropGround(child, view)
		case "rect":
			side := func(name string, whole float64) float64 {
				if v := child.attr(name); v == "100%" {
					return whole
				} else {
					return length(v)
				}
			}
			x, y := length(child.attr("x")), length(child.attr("y"))
			if child.attr("transform") == "" && x <= view[0] && y <= view[1] && x+side("width", view[2]) >= view[0]+view[2] && y+side("height", view[3]) >= view[1]+view[3] {
				n.children = slices.Delete(n.children, i, i+1)
				return true
			}
		}
		return false
	}
	return false
}

// Roundness is how much of a vector logo's outline is curved, from -1 (straight
// lines only) to 1; 0 for a bitmap, of which it is not known.
func Roundness(art *brand.Art) float64 {
	if art == nil || art.SVG == "" {
		return 0
	}
	curved := 4 * (strings.Count(art.SVG, "<circle") + strings.Count(art.SVG, "<ellipse"))
	straight := 4 * (strings.Count(art.SVG, "<rect") + strings.Count(art.SVG, "<polygon"))
	for _, d := range pathData.FindAllStringSubmatch(art.SVG, -1) {
		for _, r := range d[1] {
			switch r {
			case 'C', 'c', 'S', 's', 'Q', 'q', 'A', 'a', 'T', 't':
				curved++
			case 'L', 'l', 'H', 'h', 'V', 'v':
				straight++
			}
		}
	}
	if curved+straight == 0 {
		return 0
	}
	return 2*float64(curved)/float64(curved+straight) - 1
}

var pathData = regexp.MustCompile(` d="([^"]*)"`)
