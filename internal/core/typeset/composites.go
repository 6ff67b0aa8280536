package typeset

import (
	"encoding/binary"
	"fmt"
)

// checkComposites looks through the components of a TrueType face's glyphs
// before anything follows them: none holds itself, none is deeper or has more
// parts than is drawn (OpenType specification, glyf table).
func checkComposites(table map[string][]byte) error {
	glyf, loca, head := table["glyf"], table["loca"], table["head"]
	if glyf == nil || loca == nil || len(head) < 54 {
		return nil
	}
	long := binary.BigEndian.Uint16(head[50:]) == 1
	n := len(loca)/2 - 1
	if long {
		n = len(loca)/4 - 1
	}
	data := func(gid int) []byte {
		var from, to int
		if gid < 0 || gid >= n {
			return nil
		}
		if long {
			from, to = int(binary.BigEndian.Uint32(loca[4*gid:])), int(binary.BigEndian.Uint32(loca[4*gid+4:]))
		} else {
			from, to = 2*int(binary.BigEndian.Uint16(loca[2*gid:])), 2*int(binary.BigEndian.Uint16(loca[2*gid+2:]))
		}
		if from < 0 || to > len(glyf) || from >= to {
			return nil
		}
		return glyf[from:to]
	}
	type size struct{ depth, parts int }
	known := map[int]size{}
	open := map[int]bool{}
	var measure func(gid, depth int) (size, error)
	measure = func(gid, depth int) (size, error) {
		if s, ok := known[gid]; ok {
			return s, nil
		}
		if open[gid] {
			return size{}, fmt.Errorf("%w: glyph %d holds itself", ErrFont, gid)
		}
		if depth > maxGlyphDepth {
			return size{}, fmt.Errorf("%w: glyph %d is made of parts more than %d deep", ErrFont, gid, maxGlyphDepth)
		}
		open[gid] = true
		defer delete(open, gid)
		s := size{0, 1}
		for _, part := range components(data(gid)) {
			c, err := measure(part, depth+1)
			if err != nil {
				return s, err
			}
			s.depth, s.parts = max(s.depth, c.depth+1), s.parts+c.parts
			if s.parts > maxGlyphParts || s.depth > maxGlyphDepth {
				return s, fmt.Errorf("%w: glyph %d is made of more than %d parts or more than %d deep", ErrFont, gid, maxGlyphParts, maxGlyphDepth)
			}
		}
		known[gid] = s
		return s, nil
	}
	for gid := range n {
		if _, err := measure(gid, 0); err != nil {
			return err
		}
	}
	return nil
}

// components lists the glyphs a composite glyph is made of; none for a simple
// one.
func components(g []byte) []int {
	if len(g) < 10 || int16(binary.BigEndian.Uint16(g)) >= 0 {
		return nil
	}
	const (
		words    = 0x0001 // arguments are words, not bytes
		scale    = 0x0008
		more     = 0x0020
		scaleXY  = 0x0040
		twoByTwo = 0x0080
	)
	var out []int
	for at := 10; at+4 <= len(g) && len(out) <= maxGlyphParts; {
		flags := binary.BigEndian.Uint16(g[at:])
		out = append(out, int(binary.BigEndian.Uint16(g[at+2:])))
		at += 6
		if flags&words != 0 {
			at += 2
		}
		switch {
		case flags&scale != 0:
			at += 2
		case flags&scaleXY != 0:
			at += 4
		case flags&twoByTwo != 0:
			at += 8
		}
		if flags&more == 0 {
			break
		}
	}
	return out
}
