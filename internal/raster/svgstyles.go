package raster

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
)

// The limits of style sheets inside a drawing.
const (
	cssBytes        = 200_000
	cssSelectors    = 4_000
	cssDeclarations = 20_000
	cssApplied      = 200_000 // declarations over all elements
)

// sheet is the style sheets of a drawing, found by what selects them. Rules are
// numbered in the order they stand.
type sheet struct {
	rules     [][][2]string // the known and safe declarations of each block
	selectors map[string][]int
	applied   int
}

var (
	cssComment = regexp.MustCompile(`(?s)/\*.*?\*/`)
	cssBlock   = regexp.MustCompile(`([^{}]+)\{([^{}]*)\}`)
)

// parseRules reads simple selectors (.class, #id, name, name.class, *) with their
// declarations.
func parseRules(css string) (*sheet, error) {
	s := &sheet{selectors: map[string][]int{}}
	selectors, known := 0, 0
	for _, m := range cssBlock.FindAllStringSubmatch(cssComment.ReplaceAllString(css, ""), -1) {
		props := declarations(m[2])
		if known += len(props); known > cssDeclarations {
			return nil, fmt.Errorf("the SVG's styles have more than %d declarations", cssDeclarations)
		}
		s.rules = append(s.rules, props)
		for _, sel := range strings.Split(m[1], ",") {
			if selectors++; selectors > cssSelectors {
				return nil, fmt.Errorf("the SVG's styles have more than %d selectors", cssSelectors)
			}
			sel = strings.TrimSpace(sel)
			s.selectors[sel] = append(s.selectors[sel], len(s.rules)-1)
		}
	}
	return s, nil
}

// declarations keeps what is known and safe.
func declarations(s string) [][2]string {
	var out [][2]string
	for _, d := range strings.Split(s, ";") {
		k, v, ok := strings.Cut(d, ":")
		k, v = strings.TrimSpace(k), strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(v), "!important"))
		if ok && svgAttributes[k] && k != "href" && k != "style" && k != "class" && k != "id" && safeValue(v) {
			out = append(out, [2]string{k, v})
		}
	}
	return out
}

// apply turns rules into attributes in the order CSS gives them weight: element,
// class, id, then the style attribute.
func (s *sheet) apply(n *svgNode) error {
	classes := strings.Fields(n.attr("class"))
	if len(classes) > 32 {
		return fmt.Errorf("the SVG has an element of %d classes: at most 32", len(classes))
	}
	passes := [3][]string{{n.name, "*"}, nil, nil}
	for _, cl := range classes {
		passes[1] = append(passes[1], "."+cl, n.name+"."+cl)
	}
	if id := n.attr("id"); id != "" {
		passes[2] = []string{"#" + id}
	}
	for _, names := range passes {
		for _, r := range s.matching(names) {
			if s.applied += len(s.rules[r]); s.applied > cssApplied {
				return fmt.Errorf("the SVG's styles apply more than %d times", cssApplied)
			}
			for _, p := range s.rules[r] {
				n.set(p[0], p[1])
			}
		}
	}
	for _, p := range declarations(n.attr("style")) {
		n.set(p[0], p[1])
	}
	kept := n.attrs[:0]
	for _, a := range n.attrs {
		if a[0] != "style" && a[0] != "class" {
			kept = append(kept, a)
		}
	}
	n.attrs = kept
	for _, c := range n.children {
		if err := s.apply(c); err != nil {
			return err
		}
	}
	return nil
}

// matching lists the rules any of the selectors names, in the order they stand.
func (s *sheet) matching(selectors []string) []int {
	var out []int
	for _, sel := range selectors {
		out = append(out, s.selectors[sel]...)
	}
	slices.Sort(out)
	return slices.Compact(out)
}
