package typeset

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"strings"
	"unicode/utf16"

	"github.com/go-text/typesetting/font/opentype"
	woff "github.com/tdewolff/font"
)

// Embedding is what a file's OS/2 fsType allows (OpenType specification, OS/2
// table, fsType).
type Embedding string

// The embedding permissions, from free to forbidden.
const (
	Installable Embedding = "installable" // may be embedded in anything
	Editable    Embedding = "editable"
	Preview     Embedding = "preview and print"
	Restricted  Embedding = "restricted" // only with the maker's explicit leave
)

// Facts is what a font file says of itself.
type Facts struct {
	Format     string // TTF, OTF, WOFF, WOFF2 or TTC, as it came
	Family     string // name ID 16, else 1
	Style      string // name ID 17, else 2
	Weight     int    // CSS weight
	Italic     bool
	Embedding  Embedding
	Licence    string // name ID 13
	LicenceURL string // name ID 14
	Variable   bool
	Glyphs     int
	Scripts    []string // of which it has the basic letters
	CapHeight  float64  // em
	XHeight    float64  // em
	Faces      int      // in the file; the first is used
	Unkerned   bool     // it has a positioning table (GPOS) of which nothing can be read
	Notes      []string // what was left out of the file
	Proof      int      // the rules it was proven by, see [ProofVersion]; 0 for none
}

// MaxFont is the largest font file taken, in bytes.
const MaxFont = 30 << 20

// Unpack turns a font file as people have it (TTF, OTF, WOFF, WOFF2, TTC) into
// one plain face, and says what it was. Of a collection it takes the first.
// Errors wrap [ErrFont].
func Unpack(data []byte) (sfnt []byte, format string, faces int, err error) {
	defer func() { // the parsers are not ours
		if r := recover(); r != nil {
			sfnt, err = nil, fmt.Errorf("%w: broken tables", ErrFont)
		}
	}()
	if len(data) > MaxFont {
		return nil, "", 0, fmt.Errorf("%w: it has %d MB, at most %d MB are taken", ErrFont, len(data)>>20, MaxFont>>20)
	}
	if len(data) < 20 {
		return nil, "", 0, fmt.Errorf("%w: the file is empty or cut off", ErrFont)
	}
	switch string(data[:4]) {
	case "\x00\x01\x00\x00", "true":
		return data, "TTF", 1, nil
	case "OTTO":
		return data, "OTF", 1, nil
	case "wOFF", "wOF2":
		format = map[string]string{"wOFF": "WOFF", "wOF2": "WOFF2"}[string(data[:4])]
		// the header says how much comes out (WOFF2 specification, section 4.1)
		if total := binary.BigEndian.Uint32(data[16:20]); total > 4*MaxFont {
			return nil, "", 0, fmt.Errorf("%w: it unpacks to %d MB", ErrFont, total>>20)
		}
		if sfnt, err = woff.ToSFNT(data); err != nil {
			return nil, "", 0, fmt.Errorf("%w: %v", ErrFont, err)
		}
		return sfnt, format, 1, nil
	case "ttcf":
		loaders, err := opentype.NewLoaders(bytes.NewReader(data))
		if err != nil || len(loaders) == 0 {
			return nil, "", 0, fmt.Errorf("%w: the collection is broken", ErrFont)
		}
		var tables []opentype.Table
		for _, tag := range loaders[0].Tables() {
			raw, err := loaders[0].RawTable(tag)
			if err != nil {
				return nil, "", 0, fmt.Errorf("%w: table %s: %v", ErrFont, tag, err)
			}
			tables = append(tables, opentype.Table{Tag: tag, Content: raw})
		}
		return opentype.WriteTTF(tables), "TTC", len(loaders), nil
	}
	return nil, "", 0, fmt.Errorf("%w: want TTF, OTF, WOFF, WOFF2 or TTC", ErrFont)
}

// ReadFacts reads what an unpacked face says of itself.
func ReadFacts(sfnt []byte) (f Facts, err error) {
	defer func() {
		if r := recover(); r != nil {
			f, err = Facts{}, fmt.Errorf("%w: broken tables", ErrFont)
		}
	}()
	face, err := ParseFace(sfnt)
	if err != nil {
		return Facts{}, err
	}
	f = Facts{Format: "TTF", Family: face.Family, Weight: face.Weight, Italic: face.Italic, CapHeight: face.CapHeight, XHeight: face.XHeight, Faces: 1, Embedding: Installable}
	if string(sfnt[:4]) == "OTTO" {
		f.Format = "OTF"
	}
	loader, err := opentype.NewLoader(bytes.NewReader(sfnt))
	if err != nil {
		return Facts{}, fmt.Errorf("%w: %v", ErrFont, err)
	}
	table := func(tag string) []byte {
		raw, err := loader.RawTable(opentype.MustNewTag(tag))
		if err != nil {
			return nil
		}
		return raw
	}
	names := readNames(table("name"))
	for _, id := range []uint16{17, 2} {
		if f.Style == "" {
			f.Style = names[id]
		}
	}
	f.Licence, f.LicenceURL = names[13], names[14]
	if os2 := table("OS/2"); len(os2) >= 10 {
		f.Embedding = embedding(binary.BigEndian.Uint16(os2[8:10]))
	}
	f.Variable = len(table("fvar")) > 0
	f.Unkerned = len(table("GPOS")) > 0 && len(face.font.GPOS.Lookups) == 0
	if maxp := table("maxp"); len(maxp) >= 6 {
		f.Glyphs = int(binary.BigEndian.Uint16(maxp[4:6]))
	}
	for _, s := range basicLetters {
		covered := true
		for _, r := range s.letters {
			covered = covered && face.Covers(r)
		}
		if covered {
			f.Scripts = append(f.Scripts, s.name)
		}
	}
	return f, nil
}

// basicLetters are letters every text in a script needs.
var basicLetters = []struct{ name, letters string }{
	{"Latin", "AZaz09"}, {"Western European", "ÄÉñøß"}, {"Central European", "ąčěőż"}, {"Vietnamese", "ạếợ"},
	{"Greek", "ΑΩαω"}, {"Cyrillic", "АЯая"}, {"Hebrew", "אבת"}, {"Arabic", "ابي"}, {"Devanagari", "अकह"},
}

// embedding reads fsType: of the exclusive bits 1-3 the least restrictive set
// one counts, as the specification says for versions that set several.
func embedding(fsType uint16) Embedding {
	switch {
	case fsType&0x000e == 0:
		return Installable
	case fsType&0x0008 != 0:
		return Editable
	case fsType&0x0004 != 0:
		return Preview
	}
	return Restricted
}

// readNames reads the English, else the first, string of each name ID
// (OpenType specification, naming table, version 0).
func readNames(data []byte) map[uint16]string {
	out := map[uint16]string{}
	if len(data) < 6 {
		return out
	}
	u16 := func(at int) int { return int(binary.BigEndian.Uint16(data[at : at+2])) }
	count, storage := u16(2), u16(4)
	for i := range count {
		at := 6 + 12*i
		if at+12 > len(data) {
			break
		}
		platform, language, id := u16(at), u16(at+4), uint16(u16(at+6))
		from := storage + u16(at+10)
		to := from + u16(at+8)
		if to > len(data) || from > to {
			continue
		}
		var s string
		switch platform {
		case 0, 3:
			var units []uint16
			for k := from; k+1 < to; k += 2 {
				units = append(units, uint16(u16(k)))
			}
			s = string(utf16.Decode(units))
		case 1:
			s = string(data[from:to]) // Macintosh Roman: ASCII in the names that matter
		}
		s = strings.TrimSpace(s)
		if _, ok := out[id]; s != "" && (!ok || platform == 3 && language == 0x409) {
			out[id] = s
		}
	}
	return out
}
