package reel

// Encode has ffmpeg make a file of frames that are ready, Pour draws frames alone: what a
// benchmark holds making a file against.
var (
	Encode = encode
	Pour   = (*Stage).pour
)
