package film

import (
	"fmt"
	"slices"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/caption"
	"aspenridge/internal/core/preflight"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// fastest is how much of the time it takes to read a shot it may run at least.
const fastest = 0.8

// check notes what to look at of the last take: what preflight says of it as a piece, and
// words that go before they are read or said.
func (f *Film) check(s brief.Shot, said Spoken, found []preflight.Finding) {
	t := &f.Takes[len(f.Takes)-1]
	t.Findings = slices.DeleteFunc(slices.Clone(found), func(f preflight.Finding) bool { return f.Severity == preflight.Note })
	runs := t.To - t.From
	if need := reading(s); runs < fastest*need {
		t.warn("too-fast", "headline", runs, need, fmt.Sprintf("it runs %.1f s, and its words take %.1f s to read", runs, need))
	}
	if need := sayFrom + said.Seconds; said.Seconds > 0 && runs < need {
		t.warn("said-over", "voice", runs, need, fmt.Sprintf("it runs %.1f s, and what is said takes %.1f s: it is cut off", runs, need))
	}
}

func (t *Take) warn(code, slot string, value, limit float64, message string) {
	t.Findings = append(t.Findings, preflight.Finding{Code: code, Severity: preflight.Warning, Slot: slot, Value: value, Limit: limit, Fixes: []string{}, Message: message})
}

// tooFast is how much faster than [caption.MostSpeed] captions may run before it is said.
const tooFast = 1.2

// checkCaptions notes captions that run too fast, that lie over what matters of a picture,
// and that come when the video is over.
func (f *Film) checkCaptions(room spec.Rect) {
	for _, c := range f.Cues {
		k := f.takeAt(c.From)
		if k < 0 {
			continue
		}
		t := &f.Takes[k]
		if fast := c.Fast(); fast > tooFast*caption.MostSpeed {
			t.warn("caption-fast", "caption", fast, caption.MostSpeed, fmt.Sprintf("the caption %.40q has to be read at %.0f letters a second", c.Text, fast))
		}
		if c.To > f.Seconds()+0.05 {
			t.warn("caption-late", "caption", c.To, f.Seconds(), fmt.Sprintf("the caption %.40q ends after the video", c.Text))
		}
		over := func(s spec.Rect) bool { return s.Share(room) > 0.25 }
		if t.captioned && slices.ContainsFunc(t.subjects, over) && !slices.ContainsFunc(t.Findings, func(f preflight.Finding) bool { return f.Code == "caption-over" }) {
			t.warn("caption-over", "caption", 0, 0, "its captions lie over what matters of the picture: another picture, or another place in it")
		}
	}
}

// checkHeard notes what is only heard: most people watch without sound.
func (f *Film) checkHeard(spoken []Spoken) {
	for k := range f.Takes {
		t := &f.Takes[k]
		if t.Shot < 0 || slices.ContainsFunc(f.Cues, func(c caption.Cue) bool { return c.From < t.To && c.To > t.From }) {
			continue
		}
		switch {
		case t.Shot < len(spoken) && spoken[t.Shot].Seconds > 0:
			t.warn("heard-only", "voice", 0, 0, "it speaks, and the video has no captions: most people watch without sound")
		case slices.ContainsFunc(t.Layers, func(l Layer) bool { return l.Clip != nil && l.Clip.Loud }):
			t.warn("heard-only", "picture", 0, 0, "its clip is heard, and no caption says what: add one where somebody speaks, or mute it")
		}
	}
}

// checkAsked notes captions that were asked for where there is nothing to caption.
func (f *Film) checkAsked(c captions) {
	if c.way != "all" || len(f.Cues) > 0 {
		return
	}
	if k := slices.IndexFunc(f.Takes, func(t Take) bool { return t.Shot >= 0 }); k >= 0 {
		f.Takes[k].warn("captions-none", "caption", 0, 0, "captions are asked for, and nothing is said: give the video a voice, or write them")
	}
}

// leastSeen is how much of a part has to be there to be seen, 0-1.
const leastSeen = 0.5

// checkFirst notes a first frame on which there is nothing but grounds: feeds show it before
// the video plays. A shot of the kit's is not anybody's to mend here.
func (f *Film) checkFirst() {
	if len(f.Takes) == 0 || f.Takes[0].Shot < 0 {
		return
	}
	for _, p := range f.At(0) {
		if part := &p.Layer.Drawing.Parts[0]; p.Alpha >= leastSeen && part.Kind != scene.KindShape {
			return
		}
	}
	f.Takes[0].warn("first-empty", "headline", 0, leastSeen, "its first frame is empty, and feeds show it before the video plays: give it words or a picture")
}
