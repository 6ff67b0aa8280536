package typeset

import (
	"encoding/binary"
	"fmt"
	"sort"
)

// What drawing glyphs of a CFF table may take, in operators and operands of their charstrings,
// those of subroutines counted as often as they are called. Of a Chinese text face of 65,535
// glyphs one glyph takes 2,400 at most, and all of them 30 million.
const (
	maxGlyphWork = 100_000
	maxFontWork  = 150_000_000
	maxCalls     = 10 // subroutines within subroutines (Type 2 Charstring Format, appendix B)
)

// checkCharstrings refuses a CFF table (Technical Notes 5176 and 5177 of the format) whose glyphs call
// subroutines that call subroutines so often that nobody could wait for them. It runs the code
// without drawing anything, and stops where it is too much.
func checkCharstrings(cff []byte) error {
	c := charstrings{data: cff}
	if !c.read() { // whoever draws it says what is wrong
		return nil
	}
	total := 0
	for gid, code := range c.glyphs {
		fd := 0
		if c.fdOf != nil {
			fd = c.fdOf(gid)
		}
		if fd >= len(c.local) {
			fd = 0
		}
		work := c.work(code, fd)
		if total += work; work > maxGlyphWork || total > maxFontWork {
			return fmt.Errorf("%w: drawing glyph %d takes too much work", ErrFont, gid)
		}
	}
	return nil
}

// charstrings are the code of a table, and what is known of its subroutines.
type charstrings struct {
	data   []byte
	glyphs [][]byte
	global *subroutines
	local  []*subroutines // by font dictionary
	fdOf   func(gid int) int
}

type subroutines struct{ code [][]byte }

// bias is what the number of a subroutine is counted from (5177, 4.7).
func (s *subroutines) bias() int {
	switch n := len(s.code); {
	case n < 1240:
		return 107
	case n < 33900:
		return 1131
	}
	return 32768
}

// index reads an INDEX at a place; false for one that does not lie in the table.
func (c *charstrings) index(at int) (items [][]byte, end int, ok bool) {
	d := c.data
	if at < 0 || at+2 > len(d) {
		return nil, 0, false
	}
	n := int(binary.BigEndian.Uint16(d[at:]))
	if n == 0 {
		return nil, at + 2, true
	}
	size := 0
	if at+3 <= len(d) {
		size = int(d[at+2])
	}
	from := at + 3
	if size < 1 || size > 4 || from+(n+1)*size > len(d) {
		return nil, 0, false
	}
	offset := func(i int) int {
		v := 0
		for _, b := range d[from+i*size : from+(i+1)*size] {
			v = v<<8 | int(b)
		}
		return v
	}
	base := from + (n+1)*size - 1
	for i := range n {
		a, b := base+offset(i), base+offset(i+1)
		if a < base || b < a || b > len(d) {
			return nil, 0, false
		}
		items = append(items, d[a:b])
	}
	return items, base + offset(n), true
}

// dict reads a DICT: operands by operator, two-byte operators from 1200 on.
func dict(d []byte) map[int][]int {
	out := map[int][]int{}
	var operands []int
	for i := 0; i < len(d); {
		switch b := int(d[i]); {
		case b <= 21:
			op := b
			if i++; b == 12 && i < len(d) {
				op = 1200 + int(d[i])
				i++
			}
			out[op] = operands
			operands = nil
		case b == 28 && i+2 < len(d):
			operands = append(operands, int(int16(binary.BigEndian.Uint16(d[i+1:]))))
			i += 3
		case b == 29 && i+4 < len(d):
			operands = append(operands, int(int32(binary.BigEndian.Uint32(d[i+1:]))))
			i += 5
		case b == 30: // a real number ends with a half byte of 15
			for i++; i < len(d) && d[i]&0xf != 0xf && d[i]>>4 != 0xf; i++ {
			}
			operands = append(operands, 0)
			i++
		case b >= 32 && b <= 246:
			operands = append(operands, b-139)
			i++
		case b >= 247 && b <= 254 && i+1 < len(d):
			v := (b-247)*256 + int(d[i+1]) + 108
			if b > 250 {
				v = -(b-251)*256 - int(d[i+1]) - 108
			}
			operands = append(operands, v)
			i += 2
		default:
			i++
		}
	}
	return out
}

// read finds the code of glyphs and of subroutines.
func (c *charstrings) read() bool {
	if len(c.data) < 4 || c.data[0] != 1 {
		return false
	}
	_, at, ok := c.index(int(c.data[2]))
	if !ok {
		return false
	}
	tops, at, ok := c.index(at)
	if !ok || len(tops) == 0 {
		return false
	}
	_, at, ok = c.index(at) // strings
	if !ok {
		return false
	}
	global, _, ok := c.index(at)
	if !ok {
		return false
	}
	c.global = &subroutines{global}
	top := dict(tops[0])
	first := func(v []int) int {
		if len(v) == 0 {
			return -1
		}
		return v[0]
	}
	if c.glyphs, _, ok = c.index(first(top[17])); !ok {
		return false
	}
	fonts := []map[int][]int{top}
	if array, _, ok := c.index(first(top[1236])); ok && len(top[1236]) > 0 { // a font of several
		fonts = nil
		for _, f := range array {
			fonts = append(fonts, dict(f))
		}
		c.fdOf = c.selects(first(top[1237]))
	}
	for _, f := range fonts {
		c.local = append(c.local, c.privateOf(f[18]))
	}
	return true
}

// privateOf are the subroutines of a font's private dictionary.
func (c *charstrings) privateOf(private []int) *subroutines {
	if len(private) != 2 || private[0] < 0 || private[1] < 0 || private[1]+private[0] > len(c.data) {
		return &subroutines{}
	}
	at := private[1]
	if subrs := dict(c.data[at : at+private[0]])[19]; len(subrs) == 1 {
		if code, _, ok := c.index(at + subrs[0]); ok {
			return &subroutines{code}
		}
	}
	return &subroutines{}
}

// selects reads which font each glyph is of (5176, section 19).
func (c *charstrings) selects(at int) func(gid int) int {
	if at < 0 || at+3 > len(c.data) {
		return nil
	}
	d := c.data[at:]
	switch d[0] {
	case 0:
		return func(gid int) int {
			if gid+1 < len(d) {
				return int(d[gid+1])
			}
			return 0
		}
	case 3:
		n := int(binary.BigEndian.Uint16(d[1:]))
		if 3+3*n+2 > len(d) {
			return nil
		}
		return func(gid int) int {
			after := sort.Search(n, func(i int) bool { return int(binary.BigEndian.Uint16(d[3+3*i:])) > gid })
			if after == 0 {
				return 0
			}
			return int(d[3+3*(after-1)+2])
		}
	}
	return nil
}

// run counts the operators of one glyph as they would be run.
type run struct {
	c     *charstrings
	local *subroutines
	stack []int
	hints int
	work  int
	ended bool // an endchar, or too much
}

// work is how many operators and operands drawing some code takes, up to what is too much.
func (c *charstrings) work(code []byte, fd int) int {
	r := run{c: c, local: c.local[fd]}
	r.do(code, 0)
	return r.work
}

// mostOperands is how many operands there are at a time (5177, appendix B, and more).
const mostOperands = 513

func (r *run) do(code []byte, depth int) {
	for i := 0; i < len(code) && !r.ended; {
		b := int(code[i])
		if r.work++; r.work > maxGlyphWork {
			r.ended = true
			return
		}
		push := func(v, n int) {
			if len(r.stack) < mostOperands {
				r.stack = append(r.stack, v)
			}
			i += n
		}
		switch {
		case b == 28 && i+2 < len(code):
			push(int(int16(binary.BigEndian.Uint16(code[i+1:]))), 3)
			continue
		case b == 255 && i+4 < len(code):
			push(int(int16(binary.BigEndian.Uint16(code[i+1:]))), 5)
			continue
		case b >= 32 && b <= 246:
			push(b-139, 1)
			continue
		case b >= 247 && b <= 250 && i+1 < len(code):
			push((b-247)*256+int(code[i+1])+108, 2)
			continue
		case b >= 251 && b <= 254 && i+1 < len(code):
			push(-(b-251)*256-int(code[i+1])-108, 2)
			continue
		}
		i++
		switch b {
		case 10:
			r.call(r.local, depth)
			continue // operands stay
		case 29:
			r.call(r.c.global, depth)
			continue
		case 11:
			return
		case 14:
			r.ended = true
		case 1, 3, 18, 23: // hints
			r.hints += len(r.stack) / 2
		case 19, 20: // which of them hold follows in as many bits
			r.hints += len(r.stack) / 2
			i += (r.hints + 7) / 8
		case 12:
			i++
		}
		r.stack = r.stack[:0]
	}
}

// call runs the subroutine whose number is the last operand.
func (r *run) call(s *subroutines, depth int) {
	if len(r.stack) == 0 || depth >= maxCalls {
		r.ended = true // whoever draws it refuses it
		return
	}
	n := r.stack[len(r.stack)-1] + s.bias()
	r.stack = r.stack[:len(r.stack)-1]
	if n < 0 || n >= len(s.code) {
		r.ended = true
		return
	}
	r.do(s.code[n], depth+1)
}
