package reel

import "strconv"

// Encode has ffmpeg make a file of frames that are ready, Pour draws frames alone: what a
// benchmark holds making a file against.
var (
	Encode = encode
	Pour   = (*Stage).pour
)

// RefsOf is how many pictures a frame of a film is made of, as its header says.
func RefsOf(f Facts) string { return strconv.Itoa(f.header.refs) }

// ParameterSets are the references of the sequences a decoder configuration record has.
func ParameterSets(avcc []byte) (refs []int) {
	for _, p := range parameterSets(avcc) {
		refs = append(refs, p.refs)
	}
	return refs
}
