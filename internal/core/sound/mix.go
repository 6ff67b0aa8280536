package sound

import "math"

// Mono is sound of one channel, of so many samples a second, as a track (resampled by a
// windowed sinc of 32 taps).
func Mono(samples []float32, rate int) Track {
	if rate <= 0 || len(samples) == 0 {
		return nil
	}
	const half = 16
	n := int(math.Round(float64(len(samples)) * Rate / float64(rate)))
	out := make(Track, 2*n)
	cut := math.Min(1, Rate/float64(rate)) // of what comes in, so that nothing folds over
	for i := range n {
		at := float64(i) * float64(rate) / Rate
		mid := int(at)
		v := 0.0
		for k := mid - half + 1; k <= mid+half; k++ {
			if k < 0 || k >= len(samples) {
				continue
			}
			x := at - float64(k)
			w := cut * (0.5 + 0.5*math.Cos(math.Pi*x/half))
			if y := math.Pi * x * cut; y != 0 {
				w *= math.Sin(y) / y
			}
			v += w * float64(samples[k])
		}
		out[2*i], out[2*i+1] = float32(v), float32(v)
	}
	return out
}

// edge is how long a track that is cut fades, s.
const edge = 0.03

// Until is a track up to some seconds, faded where it is cut.
func (t Track) Until(seconds float64) Track {
	n := 2 * int(math.Max(0, seconds)*Rate)
	if n >= len(t) {
		return t
	}
	out := append(Track(nil), t[:n]...)
	out.fade(seconds-edge, seconds)
	return out
}

// Between is a track from some seconds to others.
func (t Track) Between(from, to float64) Track {
	n := min(2*int(math.Max(0, from)*Rate), len(t))
	return t[n:].Until(to - from)
}

// Fill is a track over and over until it fills so many seconds, fading at its end; nil for
// one of no length.
func (t Track) Fill(seconds float64) Track {
	n := 2 * int(math.Round(seconds*Rate))
	if len(t) == 0 || n <= 0 {
		return nil
	}
	out := make(Track, 0, n)
	for len(out) < n {
		out = append(out, t[:min(len(t), n-len(out))]...)
	}
	out.fade(seconds-fadeOut, seconds)
	return out
}

// Heard is a track that begins some time into a mix.
type Heard struct {
	At    float64 // s
	Track Track
}

// Stem is a part of music, and how much of its level is left while somebody speaks, 0-1.
type Stem struct {
	Track Track
	Under float32
}

// Music is its parts, of the same length; nil for none.
type Music []Stem

// Song is music that is had as a whole, over and over for so many seconds; nil for one of no
// length.
func Song(t Track, seconds float64) Music {
	if t = t.Fill(seconds); t == nil {
		return nil
	}
	return Music{{t, underSong}}
}

// whole is all of music together, of so many seconds.
func (m Music) whole(seconds float64) Track {
	out := make(Track, 2*int(math.Round(seconds*Rate)))
	for _, s := range m {
		for i := range min(len(out), len(s.Track)) {
			out[i] += s.Track[i]
		}
	}
	return out
}

// How music makes room for what is said (common practice of ducking): what is left of the
// level of a bed of strings and bass, of a figure over it, of music one has as a whole (about
// 10, 18 and 13 dB down).
const (
	underBed    = 0.32
	underFigure = 0.12
	underSong   = 0.22
	duckIn      = 0.25 // s before somebody speaks
	duckOut     = 0.6  // s after
	holdDuck    = 0.8  // s of silence it stays down for
)

// Mix is music with what is said over it, as loud as videos are to be, of so many seconds;
// nil when there is nothing to hear. The music goes down while somebody speaks.
func Mix(music Music, said []Heard, seconds float64) Track {
	n := 2 * int(math.Round(seconds*Rate))
	heard := make([]Heard, 0, len(said))
	for _, h := range said {
		if len(h.Track) > 0 && h.At < seconds {
			heard = append(heard, h)
		}
	}
	if n <= 0 || len(music) == 0 && len(heard) == 0 {
		return nil
	}
	out := music.whole(seconds)
	if len(heard) == 0 {
		out.Level()
		return out
	}
	if loud := out.Loudness(); !math.IsInf(loud, -1) { // as loud as the voices before it goes down
		music.duck(out, heard, math.Pow(10, (Loud-loud)/20))
	}
	voices := make(Track, n)
	for _, h := range heard {
		from := 2 * int(math.Round(h.At*Rate))
		for i, v := range h.Track {
			if at := from + i; at >= 0 && at < n {
				voices[at] += v
			}
		}
	}
	voices.Level()
	for i, v := range voices {
		out[i] += v
	}
	out.Level()
	return out
}

// duck mixes music anew onto a track, so many times as loud, turned down under what is said.
func (m Music) duck(onto Track, said []Heard, times float64) {
	n := len(onto) / 2
	down := make([]float32, n) // 1 where somebody speaks
	for _, h := range said {
		from, to := int((h.At-duckIn)*Rate), int((h.At+h.Track.Seconds()+holdDuck/2)*Rate)
		for i := max(0, from); i < min(n, to); i++ {
			down[i] = 1
		}
	}
	clear(onto)
	// towards its aim by an even step: in the time it takes to go down, or to come back
	in, back := float32(1/(duckIn*Rate)), float32(1/(duckOut*Rate))
	at := down[0]
	for i := range n {
		if down[i] > at {
			at = min(1, at+in)
		} else {
			at = max(down[i], at-back)
		}
		for _, s := range m {
			if 2*i+1 < len(s.Track) {
				k := float32(times) * (1 - (1-s.Under)*at)
				onto[2*i] += k * s.Track[2*i]
				onto[2*i+1] += k * s.Track[2*i+1]
			}
		}
	}
}
