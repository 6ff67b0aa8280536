package film

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/sound"
	"aspenridge/internal/core/spec"
)

// Song is the file of music of one's own a video is heard with: its own, else the kit's where the
// video names no other music; "" for none.
func Song(v *brief.Video, k *brand.Kit) (file string, ofKit bool) {
	if v != nil && (v.Song != "" || v.Music != "") {
		return v.Song, false
	}
	return k.Motion.Song.File, true
}

// beatOf is how long a beat of a video's music is, s; 0 for no music, and for that of one's own.
func beatOf(v *brief.Video, k *brand.Kit) float64 {
	if file, _ := Song(v, k); file != "" {
		return 0
	}
	p, ok := sound.For(v.Music, k.Motion.Music)
	if !ok {
		return 0
	}
	return 60 / p.BPM
}

// What a cut on the music may cost: a shot waits for the next bar where that makes it at most
// stretched longer, else for the next beat.
const (
	beatsABar = 4 // as all shipped music has
	stretched = 0.15
	missed    = 0.1 // s nobody misses
)

// toBeat is how long the next take runs so that it ends on a bar or a beat of the music: at least
// as long as it is to, but for a moment nobody misses.
func (f *Film) toBeat(seconds float64) float64 { return toBeat(f.beat, f.Seconds(), seconds) }

// waits reports whether a shot's end waits for the music: not where somebody said how long it runs, and
// not where it runs as long as there is of its clip.
func waits(v *brief.Video, s brief.Shot, clip *photo.Clip) bool {
	return clip == nil && (s.Seconds == 0 || v.OnBeat)
}

// toBeat is the same for a beat, s, and what begins at a time, s.
func toBeat(beat, from, seconds float64) float64 {
	if beat == 0 {
		return seconds
	}
	end := from + seconds
	next := func(unit float64) float64 { return math.Ceil((end-missed)/unit) * unit }
	at := next(beatsABar * beat)
	if at-end > stretched*seconds {
		at = next(beat)
	}
	return at - from
}

// Cut is a shorter running order, and what was left out of it.
type Cut struct {
	Shots []brief.Shot
	Out   []string // what was left out, in words
	Fits  bool
}

// Shorten proposes how a running order of a job runs within the limit of a place: points go first, the
// last of them before the others, then who says so, then the offer; what stops people and
// what they are to do stays. Then shots are made as short as their words can be read.
func Shorten(j *piece.Job, spoken []Spoken, p spec.Placement) Cut {
	limit := p.MaxSeconds
	shots := slices.Clone(Propose(j.Brief, j.Kit))
	said := slices.Clone(spoken)
	for len(said) < len(shots) {
		said = append(said, Spoken{})
	}
	v := j.Brief.Video
	if v == nil {
		v = &brief.Video{}
	}
	beat := 0.0
	if !v.NoBeat {
		beat = beatOf(v, j.Kit)
	}
	runs := func() (sum float64) {
		if !v.NoOpening {
			sum += bookendSeconds(j, j.Kit.Motion.Opening, mostOpening(j.Kit, p))
		}
		for i, s := range shots {
			if runs := Length(j, s, said[i]); waits(v, s, clipOf(j, s)) {
				sum += toBeat(beat, sum, runs)
			} else {
				sum += runs
			}
		}
		if !v.NoClosing {
			sum += closingSeconds(j, p)
		}
		return sum
	}
	cut := Cut{}
	for _, role := range []string{Point, Proof, Offer} {
		for runs() > limit {
			k := -1
			for i, s := range shots {
				if s.Role == role {
					k = i
				}
			}
			if k < 0 {
				break
			}
			cut.Out = append(cut.Out, named(shots[k]))
			shots, said = slices.Delete(shots, k, k+1), slices.Delete(said, k, k+1)
		}
	}
	for i := range shots {
		if runs() <= limit {
			break
		}
		least := math.Max(math.Ceil(20*fastest*reading(shots[i]))/20, said[i].needs())
		if least = math.Max(least, brief.LeastSeconds); least < Length(j, shots[i], said[i]) {
			shots[i].Seconds = math.Ceil(20*least) / 20
			cut.Out = append(cut.Out, fmt.Sprintf("some of the time of %s", named(shots[i])))
		}
	}
	cut.Shots, cut.Fits = shots, runs() <= limit
	return cut
}

func bookendSeconds(j *piece.Job, b brand.Bookend, most float64) float64 {
	if b.From == "none" {
		return 0
	}
	if pic, ok := j.KitClips[b.Clip]; ok && b.From == "clip" {
		return math.Min(most, pic.Clip.Seconds)
	}
	return math.Min(most, b.Duration)
}

// named is a shot by its words.
func named(s brief.Shot) string {
	words := strings.TrimSpace(s.Headline + " " + s.Body)
	if r := []rune(words); len(r) > 40 {
		words = strings.TrimSpace(string(r[:38])) + " …"
	}
	if words == "" {
		return "the " + s.Role
	}
	return "“" + words + "”"
}

// TooLong is how many seconds a film runs over what a place takes, 0 for none.
func (f *Film) TooLong(p spec.Placement) float64 {
	if p.MaxSeconds == 0 {
		return 0
	}
	return math.Max(0, f.Seconds()-p.MaxSeconds)
}
