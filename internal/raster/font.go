package raster

import (
	"context"
	"fmt"

	"aspenridge/internal/core/typeset"
)

// ImportedFont is a font file made ready: one plain face and what it says of
// itself.
type ImportedFont struct {
	Facts typeset.Facts
	Hash  string // SHA-256 of Data
	Data  []byte // TTF or OTF
}

// ImportFont takes a font file in: TTF, OTF, WOFF, WOFF2 or the first face of a
// TTC. Like pictures it is read in a child process, which also proves it
// ([typeset.Prove]): what comes out can be set without surprises. Errors wrap
// [ErrFile].
func ImportFont(ctx context.Context, data []byte) (ImportedFont, error) {
	if len(data) > typeset.MaxFont {
		return ImportedFont{}, fmt.Errorf("%w: it has %d MB, at most %d MB are taken", ErrFile, len(data)>>20, typeset.MaxFont>>20)
	}
	var out ImportedFont
	payload, err := runChild(ctx, "font", data, &out.Facts)
	if err != nil {
		return ImportedFont{}, err
	}
	out.Hash, out.Data = hashOf(payload), payload
	return out, nil
}

// importFont runs in the child.
func importFont(data []byte) (any, []byte, error) {
	sfnt, format, faces, err := typeset.Unpack(data)
	if err != nil {
		return nil, nil, err
	}
	clean, notes, err := typeset.Prove(sfnt, cpuTime)
	if err != nil {
		return nil, nil, err
	}
	facts, err := typeset.ReadFacts(clean)
	if err != nil {
		return nil, nil, err
	}
	facts.Format, facts.Faces, facts.Notes, facts.Proof = format, faces, notes, typeset.ProofVersion
	return facts, clean, nil
}
