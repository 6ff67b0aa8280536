package sound_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"aspenridge/internal/core/sound"
)

// TestLoud: what is heard of a track is found to a window, whatever hisses below it; a short
// pause is none, and a track in which nothing is heard has nothing.
func TestLoud(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 2))
	track := func(hiss float64, spoken ...sound.Stretch) sound.Track {
		out := make(sound.Track, 2*8*sound.Rate)
		for i := range out {
			at := float64(i/2) / sound.Rate
			out[i] = float32(hiss * (2*rng.Float64() - 1))
			for _, s := range spoken {
				if at >= s.From && at < s.To {
					out[i] += float32(0.3 * math.Sin(2*math.Pi*220*at))
				}
			}
		}
		return out
	}
	for name, c := range map[string]struct {
		hiss         float64
		spoken, want []sound.Stretch
	}{
		"two sentences":    {0.002, []sound.Stretch{{1, 2.5}, {4, 6}}, []sound.Stretch{{0.88, 2.62}, {3.88, 6.12}}},
		"a breath between": {0.002, []sound.Stretch{{1, 2.5}, {2.9, 6}}, []sound.Stretch{{0.88, 6.12}}},
		"to the very end":  {0, []sound.Stretch{{6, 8}}, []sound.Stretch{{5.88, 8}}},
		"from the start":   {0, []sound.Stretch{{0, 1}}, []sound.Stretch{{0, 1.12}}},
		"nothing":          {0.0005, nil, nil},
	} {
		got := track(c.hiss, c.spoken...).Loud()
		if len(got) != len(c.want) {
			t.Errorf("%s: %v, want %v", name, got, c.want)
			continue
		}
		for i := range got {
			if math.Abs(got[i].From-c.want[i].From) > 0.03 || math.Abs(got[i].To-c.want[i].To) > 0.03 {
				t.Errorf("%s: %v, want %v", name, got, c.want)
			}
		}
	}
	if got := (sound.Track{}).Loud(); got != nil {
		t.Errorf("of no track: %v", got)
	}
}
