package raster

import (
	"slices"
	"strings"
)

// maxMasks is how many masks a drawing may have: each costs a picture of the
// whole drawing.
const maxMasks = 4

// simpleMasks reports whether the drawing has few masks and none inside another.
func simpleMasks(root *svgNode) bool {
	masks, uses, nested := 0, 0, false
	var walk func(n *svgNode, inside bool)
	walk = func(n *svgNode, inside bool) {
		if n.name == "mask" {
			masks++
			nested = nested || inside
			inside = true
		}
		if n.attr("mask") != "" {
			uses++
			nested = nested || inside
		}
		// what a use draws may be masked too: then nothing is known
		nested = nested || (n.name == "use" && inside)
		for _, c := range n.children {
			walk(c, inside)
		}
	}
	walk(root, false)
	return masks <= maxMasks && uses <= maxMasks && !nested
}

func dropMasks(n *svgNode) {
	n.attrs = slices.DeleteFunc(n.attrs, func(a [2]string) bool { return a[0] == "mask" })
	n.children = slices.DeleteFunc(n.children, func(c *svgNode) bool { return c.name == "mask" })
	for _, c := range n.children {
		dropMasks(c)
	}
}

type cleaner struct {
	prefix string
	notes  map[string]bool
	ids    map[string]*svgNode
	css    strings.Builder
	costs  map[*svgNode]drawnCost
}
