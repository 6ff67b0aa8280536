// Package photo decides how a picture sits in a frame: which part of it shows,
// how light it is where something stands on it, and how strong a veil has to be
// for words to read. What is known of a picture is found once, when it arrives;
// pixels for output belong to package raster.
package photo

// Picture is what the core knows of a picture file.
type Picture struct {
	Hash  string     // of the upright sRGB file
	W, H  int        // px
	Focus [2]float64 // 0-1 from the top left; as guessed until somebody says
	// Window, when it has a size, is the part chosen by hand, as fractions of the
	// picture: x, y, w, h.
	Window [4]float64
	// Subjects are what it shows, as found; nil once somebody said what matters.
	Subjects []Subject
	Light    Light
	Alt      string
	Clip     *Clip // what it is a frame of, nil for a photograph
}

// Clip is a film a picture is a frame of.
type Clip struct {
	Hash    string
	Seconds float64
	Sound   bool // it can be heard
	Over         // over its frames
}

// FocusedOn is the picture with what somebody said matters most in it; what was
// found in it no longer counts.
func (p Picture) FocusedOn(focus [2]float64) Picture {
	p.Focus, p.Subjects = focus, nil
	return p
}

// FocusedOnBox is the picture with the part somebody said matters (x, y, w, h as
// fractions of it): it is kept whole.
func (p Picture) FocusedOnBox(b [4]float64) Picture {
	p.Focus, p.Subjects = [2]float64{b[0] + b[2]/2, b[1] + b[3]/2}, []Subject{{Box: b, Kind: Said, Weight: 1}}
	return p
}
