package typeset

import (
	"math"
	"strings"
	"unicode"

	"github.com/go-text/typesetting/di"
	"github.com/go-text/typesetting/shaping"
)

// pen draws the glyphs of shaped runs into a line, run by run in the order they are seen.
type pen struct {
	line     *Line
	runes    []rune
	style    Style
	b        *bench
	x        float64 // where it is, em
	trailing float64 // how much of that follows the last letter
}

func (p *pen) run(out shaping.Output, f *Face) {
	var path strings.Builder
	penUnits, restX, restY := 0.0, 0.0, 0.0
	start := p.x
	for gi, g := range out.Glyphs {
		space := unicode.IsSpace(p.runes[g.TextIndex()])
		adv := float64(g.Advance) / 64 / f.UnitsPerEm
		if space && adv > widestSpace { // of a face of signs: as wide as those
			adv = p.style.Face.space(p.b.face(p.style.Face))
		}
		if last := gi+1 == len(out.Glyphs) || out.Glyphs[gi+1].TextIndex() != g.TextIndex(); last {
			adv += p.style.Tracking
		}
		outline := f.glyph(out.Face, g.GlyphID)
		dx := p.x + float64(g.XOffset)/64/f.UnitsPerEm
		dy := -float64(g.YOffset) / 64 / f.UnitsPerEm
		for _, l := range outline.layers {
			p.line.parts = append(p.line.parts, part{f.UnitsPerEm, dx, "m0 " + Num(math.Round(dy*f.UnitsPerEm)) + l.path, &l.ink})
		}
		if len(outline.layers) > 0 || outline.path != "" {
			p.line.Ink = p.line.Ink.Union(outline.ink.Shift(dx, dy))
		}
		if outline.path != "" {
			gx := math.Round(penUnits + float64(g.XOffset)/64)
			gy := math.Round(-float64(g.YOffset) / 64)
			path.WriteByte('m')
			pair(&path, gx-restX, gy-restY)
			path.WriteString(outline.path)
			restX, restY = gx+outline.endX, gy+outline.endY
		}
		p.cluster(g, adv, out.Direction.Progression() == di.TowardTopLeft)
		p.x += adv
		penUnits = (p.x - start) * f.UnitsPerEm
		if space {
			p.trailing += adv
		} else {
			p.trailing = p.style.Tracking
		}
	}
	if path.Len() > 0 {
		p.line.parts = append(p.line.parts, part{f.UnitsPerEm, start, path.String(), nil})
	}
}

// cluster counts a glyph to the letters it belongs to.
func (p *pen) cluster(g shaping.Glyph, adv float64, rtl bool) {
	if n := len(p.line.Clusters); n > 0 && p.line.Clusters[n-1].Rune == g.TextIndex() {
		p.line.Clusters[n-1].Advance += adv
		return
	}
	p.line.Clusters = append(p.line.Clusters, Cluster{Rune: g.TextIndex(), Runes: g.RunesCount(), X: p.x, Advance: adv, RTL: rtl})
}
