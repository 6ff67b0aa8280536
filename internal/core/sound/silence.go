package sound

import (
	"math"
	"slices"
)

// Stretch is a part of a track.
type Stretch struct {
	From, To float64 // s
}

// What counts as silence, common practice of editing speech.
const (
	window       = 0.02 // s a level is taken over
	silentUnder  = -30  // dB below what is loud in a track
	silentAtAll  = -55  // dBFS under which all is silent
	leastSilence = 0.5  // s a pause lasts to be one; shorter ones belong to speech
	around       = 0.12 // s that stay before and after what is heard
)

// Loud are the stretches of a track in which something is heard, in order, with a little
// around each; none for a track that is silent throughout.
func (t Track) Loud() (out []Stretch) {
	step := int(window*Rate) * 2
	var levels []float64 // dBFS
	for i := 0; i < len(t); i += step {
		sum, n := 0.0, min(step, len(t)-i)
		for _, v := range t[i : i+n] {
			sum += float64(v) * float64(v)
		}
		levels = append(levels, 10*math.Log10(sum/float64(n)+1e-12))
	}
	if len(levels) == 0 {
		return nil
	}
	sorted := slices.Sorted(slices.Values(levels))
	floor := math.Max(silentAtAll, sorted[len(sorted)*95/100]+silentUnder)
	for i, level := range levels {
		if level < floor {
			continue
		}
		at := Stretch{math.Max(0, float64(i)*window-around), math.Min(t.Seconds(), float64(i+1)*window+around)}
		if n := len(out); n > 0 && at.From-out[n-1].To < leastSilence-2*around {
			out[n-1].To = at.To
		} else {
			out = append(out, at)
		}
	}
	return out
}
