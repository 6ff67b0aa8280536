package brand

import "slices"

// Rails are what of a brand is left to its owners: everybody else keeps to it, and asks. The
// zero value leaves everything to everybody.
type Rails struct {
	Colours bool `json:"colours"` // only those of the kit
	Faces   bool `json:"faces"`   // only those of the kit's type sets
	Logo    bool `json:"logo"`    // nothing of it is changed by hand
	Voice   bool `json:"voice"`   // nothing the voice never says
	SignOff bool `json:"signOff"` // a piece is approved before its file is handed over
	// SignOffBy are the ids of people who may approve besides the owners.
	SignOffBy []string `json:"signOffBy,omitempty"`
}

// RailNames are the names of rails, as documents have them.
var RailNames = []string{"colours", "faces", "logo", "voice", "signOff"}

// On reports whether a rail is up, by its name.
func (r Rails) On(name string) bool {
	up := []bool{r.Colours, r.Faces, r.Logo, r.Voice, r.SignOff}
	i := slices.Index(RailNames, name)
	return i >= 0 && up[i]
}

// Any reports whether a rail is up that holds what is written in a brief.
func (r Rails) Any() bool { return r.Colours || r.Faces || r.Logo || r.Voice }
