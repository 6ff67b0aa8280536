package raster

import (
	"regexp"
	"strings"
)

// cssRule is a rule of a style sheet inside a drawing.
type cssRule struct {
	selector string // .class, #id or an element name
	props    [][2]string
}

var (
	cssComment = regexp.MustCompile(`(?s)/\*.*?\*/`)
	cssBlock   = regexp.MustCompile(`([^{}]+)\{([^{}]*)\}`)
)

// parseRules reads simple selectors with their declarations.
func parseRules(css string) []cssRule {
	var out []cssRule
	for _, m := range cssBlock.FindAllStringSubmatch(cssComment.ReplaceAllString(css, ""), 2000) {
		for _, sel := range strings.Split(m[1], ",") {
			out = append(out, cssRule{strings.TrimSpace(sel), declarations(m[2])})
		}
	}
	return out
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

// applyStyles turns rules into attributes in the order CSS gives them weight:
// element, class, id, then the style attribute.
func applyStyles(n *svgNode, rules []cssRule) {
	classes := strings.Fields(n.attr("class"))
	for pass := range 3 {
		for _, r := range rules {
			match := false
			switch pass {
			case 0:
				match = r.selector == n.name || r.selector == "*"
			case 1:
				for _, cl := range classes {
					match = match || r.selector == "."+cl || r.selector == n.name+"."+cl
				}
			case 2:
				match = n.attr("id") != "" && r.selector == "#"+n.attr("id")
			}
			if match {
				for _, p := range r.props {
					n.set(p[0], p[1])
				}
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
		applyStyles(c, rules)
	}
}
