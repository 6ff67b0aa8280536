package typeset

import (
	"encoding/binary"
	"errors"
	"fmt"
	"runtime"
	"slices"
	"sort"
	"time"

	"github.com/go-text/typesetting/font"
	ot "github.com/go-text/typesetting/font/opentype"
)

// ProofVersion tells which rules a face was proven by; faces proven by older
// ones are proven anew.
const ProofVersion = 1

// The limits a face of people must keep. The largest shipped face has 1,300
// points in a glyph and 3 components deep; a Chinese text face 65,535 glyphs and
// some 8 million points in all.
const (
	maxTables      = 64
	maxGlyphDepth  = 6         // of components within components
	maxGlyphParts  = 256       // components of one glyph, those within them counted
	maxGlyphPoints = 20_000    // of one glyph
	maxFontPoints  = 40e6      // of all glyphs
	maxFontHeap    = 400 << 20 // bytes the parsed face may take
	maxGlyphTime   = 60 * time.Millisecond
	maxTextTime    = 400 * time.Millisecond // to shape one of the texts below
	maxAllTime     = 15 * time.Second

	// What proving may take grows with what there is to prove, so that a file made to be slow is
	// answered in a second or two, and a face of 65,535 glyphs is still proven: some 75 µs a glyph
	// and 4 ms a text for a Chinese text face of 16 MB on a machine that needs 5 s for it all.
	outlineTime = 400 * time.Millisecond // to begin with, and
	perGlyph    = 400 * time.Microsecond
	shapeTime   = 400 * time.Millisecond // to begin with, and
	perText     = 20 * time.Millisecond
	maxGrowth   = 8 // glyphs for a character, over a text of 200
	provenRunes = 30_000
)

// keptTables are all a face needs to be set and to be shown by a browser.
// Bitmaps, colour layers and Apple's own layout tables are left out: nothing of
// ours draws them.
var keptTables = []string{
	"CFF ", "CFF2", "GDEF", "GPOS", "GSUB", "HVAR", "MVAR", "OS/2", "STAT", "avar", "cmap", "cvt ", "fpgm", "fvar", "gasp", "glyf", "gvar",
	"head", "hhea", "hmtx", "kern", "loca", "maxp", "name", "post", "prep",
}

// errSlow is what is wrong with a face that may be sound and takes too long.
var errSlow = errors.New("takes too long")

// layoutTables say how glyphs are substituted and placed; a face whose own
// cannot be trusted is set without them.
var layoutTables = []string{"GDEF", "GPOS", "GSUB", "kern"}

// Prove rewrites an unpacked face to the tables we need and tries everything
// that will ever be asked of it: every glyph is outlined, all characters it has
// are shaped, each within limits of depth, points, growth and time. Tables of
// layout that do not hold are left out, which notes say; a face that does not
// hold without them is refused with [ErrFont]. A hostile file can take any time
// and memory until then: call it in a process that can be killed. clock tells
// the processor time used so far. Proving what was proven changes nothing.
func Prove(sfnt []byte, clock func() time.Duration) (clean []byte, notes []string, err error) {
	defer func() {
		if r := recover(); r != nil {
			clean, err = nil, fmt.Errorf("%w: broken tables", ErrFont)
		}
	}()
	list, err := readTables(sfnt)
	if err != nil {
		return nil, nil, err
	}
	if !slices.ContainsFunc(list, func(t ot.Table) bool { s := t.Tag.String(); return s == "glyf" || s == "CFF " || s == "CFF2" }) {
		return nil, nil, fmt.Errorf("%w: it has no outlines", ErrFont)
	}
	p := prover{clock: clock, until: clock() + maxAllTime}
	clean = writeTables(list)
	faulty := p.try(list, clean)
	if errors.Is(faulty, errSlow) { // a machine that is very busy lets sound faces look slow
		faulty = p.try(list, clean)
	}
	if faulty == nil {
		return clean, nil, nil
	}
	bare := slices.DeleteFunc(slices.Clone(list), func(t ot.Table) bool { return slices.Contains(layoutTables, t.Tag.String()) })
	if len(bare) == len(list) {
		return nil, nil, faulty
	}
	clean = writeTables(bare)
	if err := p.try(bare, clean); err != nil {
		return nil, nil, err
	}
	return clean, []string{"its tables for ligatures and kerning do not hold and were left out"}, nil
}

// readTables reads the tables we keep, in order of their tags. Tables that share
// bytes or reach out of the file are refused.
func readTables(sfnt []byte) ([]ot.Table, error) {
	if len(sfnt) < 12 || !isFont(sfnt) {
		return nil, fmt.Errorf("%w: neither TTF nor OTF", ErrFont)
	}
	n := int(binary.BigEndian.Uint16(sfnt[4:]))
	if n > maxTables || 12+16*n > len(sfnt) {
		return nil, fmt.Errorf("%w: it lists %d tables, at most %d and as many as the file holds are read", ErrFont, n, maxTables)
	}
	var out []ot.Table
	total := 0
	for i := range n {
		e := sfnt[12+16*i:]
		tag := ot.Tag(binary.BigEndian.Uint32(e))
		from, length := int64(binary.BigEndian.Uint32(e[8:])), int64(binary.BigEndian.Uint32(e[12:]))
		if !slices.Contains(keptTables, tag.String()) || length == 0 ||
			slices.ContainsFunc(out, func(t ot.Table) bool { return t.Tag == tag }) {
			continue
		}
		if from+length > int64(len(sfnt)) {
			return nil, fmt.Errorf("%w: its table %q reaches out of the file", ErrFont, tag)
		}
		if total += int(length); total > len(sfnt) {
			return nil, fmt.Errorf("%w: its tables lie over each other", ErrFont)
		}
		out = append(out, ot.Table{Tag: tag, Content: sfnt[from : from+length]})
	}
	sort.Slice(out, func(a, b int) bool { return out[a].Tag < out[b].Tag })
	return out, nil
}

// writeTables writes a face of tables in order (OpenType specification,
// "Organization of an OpenType Font").
func writeTables(list []ot.Table) []byte {
	magic := uint32(0x00010000)
	for _, t := range list {
		if s := t.Tag.String(); s == "CFF " || s == "CFF2" {
			magic = 0x4F54544F // OTTO
		}
	}
	size, log := 12+16*len(list), 0
	for 2<<log <= len(list) {
		log++
	}
	for _, t := range list {
		size += (len(t.Content) + 3) &^ 3
	}
	out := make([]byte, size)
	put := binary.BigEndian
	put.PutUint32(out, magic)
	put.PutUint16(out[4:], uint16(len(list)))
	put.PutUint16(out[6:], uint16(16<<log))
	put.PutUint16(out[8:], uint16(log))
	put.PutUint16(out[10:], uint16(16*len(list)-16<<log))
	at, head := 12+16*len(list), -1
	for i, t := range list {
		copy(out[at:], t.Content)
		if t.Tag.String() == "head" && len(t.Content) >= 12 {
			head = at
			put.PutUint32(out[at+8:], 0) // the sum over the whole, put in below
		}
		e := out[12+16*i:]
		put.PutUint32(e, uint32(t.Tag))
		put.PutUint32(e[4:], checksum(out[at:at+(len(t.Content)+3)&^3]))
		put.PutUint32(e[8:], uint32(at))
		put.PutUint32(e[12:], uint32(len(t.Content)))
		at += (len(t.Content) + 3) &^ 3
	}
	if head >= 0 {
		put.PutUint32(out[head+8:], 0xB1B0AFBA-checksum(out))
	}
	return out
}

func checksum(b []byte) uint32 {
	var sum uint32
	for i := 0; i+4 <= len(b); i += 4 {
		sum += binary.BigEndian.Uint32(b[i:])
	}
	return sum
}

type prover struct {
	clock func() time.Duration
	until time.Duration
}

// try does with a face, given by its tables and as written, what setting text
// may ever do.
func (p prover) try(list []ot.Table, sfnt []byte) (err error) {
	defer func() {
		if r := recover(); r != nil {
			err = fmt.Errorf("%w: broken tables", ErrFont)
		}
	}()
	table := map[string][]byte{}
	for _, t := range list {
		table[t.Tag.String()] = t.Content
	}
	if err := checkComposites(table); err != nil {
		return err
	}
	if err := checkCharstrings(table["CFF "]); err != nil {
		return err
	}
	f, err := ParseFace(sfnt)
	if err != nil {
		return err
	}
	var m runtime.MemStats
	if runtime.ReadMemStats(&m); m.HeapAlloc > maxFontHeap {
		return fmt.Errorf("%w: it unfolds to %d MB", ErrFont, m.HeapAlloc>>20)
	}
	glyphs := 0
	if maxp := table["maxp"]; len(maxp) >= 6 {
		glyphs = int(binary.BigEndian.Uint16(maxp[4:]))
	}
	if err := p.outlineAll(f, glyphs); err != nil {
		return err
	}
	if err := checkLayout(f.font); err != nil {
		return err
	}
	return p.shapeAll(f)
}

func (p prover) outlineAll(f *Face, glyphs int) error {
	face := font.NewFace(f.font)
	total, began := 0, p.clock()
	for gid := range glyphs {
		from := p.clock()
		points := 0
		if o, ok := face.GlyphData(font.GID(gid)).(font.GlyphOutline); ok {
			for _, s := range o.Segments {
				points += len(s.ArgsSlice())
			}
			if points <= maxGlyphPoints {
				outline(o.Segments, f.UnitsPerEm)
			}
		}
		total += points
		switch now := p.clock(); {
		case points > maxGlyphPoints || total > maxFontPoints:
			return fmt.Errorf("%w: glyph %d has more points than can be drawn", ErrFont, gid)
		case now-from > maxGlyphTime || now > p.until || now-began > outlineTime+time.Duration(gid)*perGlyph:
			return fmt.Errorf("%w: drawing glyph %d %w", ErrFont, gid, errSlow)
		}
	}
	return nil
}

// shapeAll shapes every character the face has (up to provenRunes), beside its
// neighbours and beside itself, and sample sentences in the scripts a brand may
// need; with and without optional ligatures.
func (p prover) shapeAll(f *Face) error {
	texts := slices.Clone(proofTexts)
	var runes []rune
	it := f.font.Cmap.Iter()
	for n := 0; n < provenRunes && it.Next(); n++ {
		if r, _ := it.Char(); r > ' ' && r <= 0x10FFFF {
			runes = append(runes, r)
		}
	}
	slices.Sort(runes)
	for chunk := range slices.Chunk(runes, 100) {
		var twice []rune
		for _, r := range chunk {
			twice = append(twice, r, r)
		}
		texts = append(texts, string(twice))
	}
	s, began := NewShaper(), p.clock()
	for i, text := range texts {
		style := Style{Face: f}
		if i%2 == 1 {
			style.Tracking = 0.05
		}
		from := p.clock()
		l, err := s.shapeOnce(text, style)
		if err != nil {
			return fmt.Errorf("%w: setting %.12q with it fails", ErrFont, text)
		}
		if l.glyphs > maxGrowth*len([]rune(text))+64 {
			return fmt.Errorf("%w: it makes %d glyphs of %d characters", ErrFont, l.glyphs, len([]rune(text)))
		}
		if now := p.clock(); now-from > maxTextTime || now > p.until || now-began > shapeTime+time.Duration(i)*perText {
			return fmt.Errorf("%w: setting %.12q with it %w", ErrFont, text, errSlow)
		}
	}
	return nil
}

// proofTexts are what a face is tried on besides its own characters.
var proofTexts = []string{
	"Hamburgefonstiv AVATAR To Ty Wa “quotes” fi ffi fl ﬁ 0123456789 1/2 £4.50 a@b.c",
	"Ein großer Übergang für Flößer; ça coûte 5 €, où ñandú y más", "Příliš žluťoučký kůň úpěl ďábelské ódy", "Tiếng Việt có dấu",
	"Γρήγορη αλεπού Ελλάδα", "Съешь ещё этих мягких булок", "שלום עולם, עם נִקּוּד", "السلام عليكم ورحمة الله ١٢٣", "नमस्ते दुनिया क्षत्रिय", "สวัสดีชาวโลก", "日本語の文章、漢字とかな", "한국어 문장",
	"ffffffffffffffffffffffffffffffffffffffffffffffff", "................................................",
}
