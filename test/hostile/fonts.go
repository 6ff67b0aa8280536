package hostile

import (
	"bytes"
	"encoding/binary"
	"sort"
)

// table finds a table of a face: its bytes within the file.
func table(font []byte, tag string) []byte {
	for i := range int(binary.BigEndian.Uint16(font[4:])) {
		e := font[12+16*i:]
		if string(e[:4]) == tag {
			from, n := binary.BigEndian.Uint32(e[8:]), binary.BigEndian.Uint32(e[12:])
			return font[from : from+n]
		}
	}
	return nil
}

// face writes tables as a face.
func face(tables map[string][]byte) []byte {
	var tags []string
	for tag := range tables {
		tags = append(tags, tag)
	}
	sort.Strings(tags)
	magic := "\x00\x01\x00\x00"
	if tables["CFF "] != nil {
		magic = "OTTO"
	}
	head := append([]byte(magic), be16(len(tags), 16, 0, 0)...)
	at := 12 + 16*len(tags)
	var body []byte
	for _, tag := range tags {
		data := tables[tag]
		head = append(append(head, tag...), be32(0, at+len(body), len(data))...)
		body = append(body, data...)
		for len(body)%4 != 0 {
			body = append(body, 0)
		}
	}
	return append(head, body...)
}

func be16(v ...int) []byte {
	var out []byte
	for _, n := range v {
		out = binary.BigEndian.AppendUint16(out, uint16(n))
	}
	return out
}

func be32(v ...int) []byte {
	var out []byte
	for _, n := range v {
		out = binary.BigEndian.AppendUint32(out, uint32(n))
	}
	return out
}

// with is a face with some tables of its own and the others of a good one.
func with(good []byte, own map[string][]byte, without ...string) []byte {
	tables := map[string][]byte{}
	for i := range int(binary.BigEndian.Uint16(good[4:])) {
		tag := string(good[12+16*i : 16+16*i])
		tables[tag] = bytes.Clone(table(good, tag))
	}
	for _, tag := range without {
		delete(tables, tag)
	}
	for tag, data := range own {
		tables[tag] = data
	}
	return face(tables)
}

// Fonts are made of a good TrueType face; gid names the glyph of a letter in it.
func Fonts(good []byte, gid func(rune) int) []File {
	a := gid('a')
	glyphs := int(binary.BigEndian.Uint16(table(good, "maxp")[4:]))
	return []File{
		{"a glyph that holds itself", "itself.ttf", composites(good, map[int][]int{a: {a}})},
		{"two glyphs that hold each other", "ring.ttf", composites(good, map[int][]int{a: {gid('b')}, gid('b'): {a}})},
		{"glyphs of glyphs of glyphs", "fan.ttf", composites(good, fan(a, gid))},
		{"one glyph of 30,000 parts", "large.ttf", composites(good, map[int][]int{a: repeated(gid('g'), 30_000)})},
		{"subroutines that call subroutines", "subroutines.otf", with(good, map[string][]byte{"CFF ": subroutines(glyphs)}, "glyf", "loca")},
		{"glyphs that each take a moment", "slow.otf", with(good, map[string][]byte{"CFF ": nested(glyphs, 4, 36)}, "glyf", "loca")},
		{"seven thousand rules", "rules.ttf", with(good, map[string][]byte{"GSUB": multiple(a, 7000, 1)})},
		{"a letter that becomes 30,000", "sequence.ttf", with(good, map[string][]byte{"GSUB": multiple(a, 1, 30_000)})},
		{"a letter that doubles forty times", "doubling.ttf", with(good, map[string][]byte{"GSUB": multiple(a, 40, 8)})},
		{"a rule that calls itself", "recursion.ttf", with(good, map[string][]byte{"GSUB": calling(a, 1, 64)})},
		{"rules that call a thousand rules", "calls.ttf", with(good, map[string][]byte{"GSUB": calling(a, 400, 64)})},
		{"tables that lie over each other", "overlap.ttf", overlapping(good)},
		{"an empty map of characters of four thousand million", "characters.ttf", with(good, map[string][]byte{"cmap": everyRune()})},
		{"only its first half", "half.ttf", good[:len(good)/2]},
		{"nothing but a header", "header.ttf", append([]byte("\x00\x01\x00\x00"), be16(65535, 0, 0, 0)...)},
		{"a collection without faces", "none.ttc", append([]byte("ttcf\x00\x01\x00\x00"), be32(0xffffffff, 0, 0, 0)...)},
		{"a web font that unpacks to four gigabytes", "bomb.woff2", append([]byte("wOF2\x00\x01\x00\x00"), be32(64, 1, 0xffffffff, 0, 0, 0, 0, 0, 0, 0)...)},
		{"text", "text.ttf", []byte("this is no font at all, whatever its name says")},
	}
}

func repeated(v, n int) []int {
	out := make([]int, n)
	for i := range out {
		out[i] = v
	}
	return out
}

// fan makes a glyph of eight, each of eight, twelve levels down.
func fan(a int, gid func(rune) int) map[int][]int {
	out := map[int][]int{}
	level := []int{a}
	for _, r := range "bcdefghijklm" {
		out[level[len(level)-1]] = repeated(gid(r), 8)
		level = append(level, gid(r))
	}
	return out
}

// composites makes glyphs of a TrueType face composites of others.
func composites(good []byte, of map[int][]int) []byte {
	head := bytes.Clone(table(good, "head"))
	loca, glyf := table(good, "loca"), table(good, "glyf")
	long := binary.BigEndian.Uint16(head[50:]) == 1
	offset := func(i int) int {
		if long {
			return int(binary.BigEndian.Uint32(loca[4*i:]))
		}
		return 2 * int(binary.BigEndian.Uint16(loca[2*i:]))
	}
	n := int(binary.BigEndian.Uint16(table(good, "maxp")[4:]))
	var newGlyf, newLoca []byte
	for i := range n {
		newLoca = append(newLoca, be32(len(newGlyf))...)
		parts, ok := of[i]
		if !ok {
			newGlyf = append(newGlyf, glyf[offset(i):offset(i+1)]...)
		} else {
			newGlyf = append(newGlyf, be16(0xffff, 0, 0, 500, 500)...)
			for k, p := range parts {
				flags := 0x0002
				if k+1 < len(parts) {
					flags |= 0x0020
				}
				newGlyf = append(newGlyf, be16(flags, p, 0x0101)...)
			}
		}
		for len(newGlyf)%4 != 0 {
			newGlyf = append(newGlyf, 0)
		}
	}
	newLoca = append(newLoca, be32(len(newGlyf))...)
	binary.BigEndian.PutUint16(head[50:], 1)
	return with(good, map[string][]byte{"glyf": newGlyf, "loca": newLoca, "head": head})
}

// index writes an INDEX of a CFF table (Technical Note 5176 on the Compact Font Format, section 5).
func index(items ...[]byte) []byte {
	if len(items) == 0 {
		return be16(0)
	}
	out := append(be16(len(items)), 4)
	at := 1
	out = append(out, be32(at)...)
	for _, it := range items {
		at += len(it)
		out = append(out, be32(at)...)
	}
	for _, it := range items {
		out = append(out, it...)
	}
	return out
}

// subroutines is a CFF table of so many glyphs in which every one calls a
// subroutine that calls the next forty times, nine levels down.
func subroutines(glyphs int) []byte { return nested(glyphs, 9, 40) }

// nested is the same with other numbers of levels and times.
func nested(glyphs, levels, times int) []byte {
	// callgsubr with a number biased by 107 (fewer than 1,240 subroutines)
	call := func(n int) []byte { return []byte{byte(n - 107 + 139), 29} }
	var subrs [][]byte
	for i := range levels {
		var s []byte
		for range times {
			if i+1 < levels {
				s = append(s, call(i+1)...)
			} else {
				s = append(s, 139+1, 139+1, 5) // 1 1 rlineto
			}
		}
		subrs = append(subrs, append(s, 11)) // return
	}
	charstrings := make([][]byte, glyphs)
	for i := range charstrings {
		charstrings[i] = append(append([]byte{139, 139, 21}, call(0)...), 14) // 0 0 rmoveto, endchar
	}
	header := []byte{1, 0, 4, 4}
	name, text, global := index([]byte("Bomb")), index(), index(subrs...)
	top := func(at int) []byte { return index(append(append([]byte{29}, be32(at)...), 17)) } // CharStrings
	at := len(header) + len(name) + len(top(0)) + len(text) + len(global)
	out := bytes.Join([][]byte{header, name, top(at), text, global}, nil)
	return append(out, index(charstrings...)...)
}

// gsub writes a GSUB table that applies all its lookups to every text by ccmp.
func gsub(lookups ...[]byte) []byte {
	// script list: DFLT, one language system with feature 0
	scripts := bytes.Join([][]byte{be16(1), []byte("DFLT"), be16(8), be16(4, 0), be16(0, 0xffff, 1, 0)}, nil)
	var numbers []byte
	for i := range lookups {
		numbers = append(numbers, be16(i)...)
	}
	features := bytes.Join([][]byte{be16(1), []byte("ccmp"), be16(8), be16(0, len(lookups)), numbers}, nil)
	list := be16(len(lookups))
	at := 2 + 2*len(lookups)
	for _, l := range lookups {
		list = append(list, be16(at)...)
		at += len(l)
	}
	for _, l := range lookups {
		list = append(list, l...)
	}
	head := append(be32(0x00010000), be16(10, 10+len(scripts), 10+len(scripts)+len(features))...)
	return bytes.Join([][]byte{head, scripts, features, list}, nil)
}

// multiple is so many lookups that each replace a glyph by so many of itself.
func multiple(gid, lookups, times int) []byte {
	var out [][]byte
	for range lookups {
		sequence := append(be16(times), be16(repeated(gid, times)...)...)
		coverage := be16(1, 1, gid)
		sub := bytes.Join([][]byte{be16(1, 8, 1, 8+len(coverage)), coverage, sequence}, nil)
		out = append(out, append(be16(2, 0, 1, 8), sub...))
	}
	return gsub(out...)
}

// calling is so many lookups for contexts of one glyph that each call the next
// (the last one the first) so many times.
func calling(gid, lookups, times int) []byte {
	var out [][]byte
	for i := range lookups {
		coverage := be16(1, 1, gid)
		records := []byte{}
		for range times {
			records = append(records, be16(0, (i+1)%lookups)...)
		}
		at := 6 + 2 + len(records)
		sub := bytes.Join([][]byte{be16(3, 1, times, at), records, coverage}, nil)
		out = append(out, append(be16(5, 0, 1, 8), sub...))
	}
	return gsub(out...)
}

// overlapping lists one table under sixty names.
func overlapping(good []byte) []byte {
	out := bytes.Clone(good)
	n := int(binary.BigEndian.Uint16(out[4:]))
	var large []byte
	for i := range n {
		e := out[12+16*i:]
		if string(e[:4]) == "glyf" {
			large = bytes.Clone(e[8:16])
		}
	}
	for i := range n {
		e := out[12+16*i:]
		if tag := string(e[:4]); tag == "GSUB" || tag == "GPOS" || tag == "GDEF" || tag == "post" || tag == "kern" {
			copy(e[8:16], large)
		}
	}
	return out
}

// everyRune is a map of characters with groups that cover all numbers there are.
func everyRune() []byte {
	groups := be32(0, 0x7fffffff, 1, 0x80000000, 0xffffffff, 1)
	sub := append(be16(12, 0), be32(16+len(groups), 0, 2)...)
	return bytes.Join([][]byte{be16(0, 1, 3, 10), be32(12), sub, groups}, nil)
}
