package film

import (
	"math"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/sound"
)

// Without cuts a shot of a clip into those of the stretches in which something is heard, as long
// as the shot ran, s. Its words stay with the first; what is too short to be a shot is left out.
// A shot with nothing between stays as it is.
func Without(s brief.Shot, runs float64, heard []sound.Stretch) []brief.Shot {
	var out []brief.Shot
	for _, h := range heard {
		to := math.Min(s.From+runs, h.To)
		for from := math.Max(s.From, h.From); to-from >= brief.LeastSeconds; from += brief.MostSeconds {
			one := brief.Shot{Role: s.Role, Picture: s.Picture, Whole: s.Whole, Layout: s.Layout, Silent: s.Silent}
			if len(out) == 0 {
				one = s
			}
			one.From, one.Seconds = hundredths(from), hundredths(math.Min(to-from, brief.MostSeconds))
			out = append(out, one)
		}
	}
	if len(out) == 0 {
		return []brief.Shot{s}
	}
	return out
}

func hundredths(s float64) float64 { return math.Round(100*s) / 100 }
