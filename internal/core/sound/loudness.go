package sound

import (
	"math"
	"sync"
)

// What videos are set to (common practice of channels; EBU R 128 and ITU-R BS.1770 say how
// it is measured).
const (
	Loud    = -14.0 // LUFS, integrated
	MostTop = -1.0  // dBTP
)

// biquad is a filter of second order in direct form.
type biquad struct{ b0, b1, b2, a1, a2 float64 }

// The two filters of K weighting at 48 kHz (ITU-R BS.1770-4, tables 1 and 2).
var (
	shelving = biquad{1.53512485958697, -2.69169618940638, 1.19839281085285, -1.69065929318241, 0.73248077421585}
	highpass = biquad{1, -2, 1, -1.99004745483398, 0.99007225036621}
)

func (f biquad) run(x []float64) {
	var x1, x2, y1, y2 float64
	for i, v := range x {
		y := f.b0*v + f.b1*x1 + f.b2*x2 - f.a1*y1 - f.a2*y2
		x2, x1, y2, y1 = x1, v, y1, y
		x[i] = y
	}
}

// Loudness is how loud a track is as a whole, LUFS (ITU-R BS.1770-4: blocks of 400 ms that
// overlap by three quarters, gated at -70 LUFS and at 10 LU below what is left); -Inf for
// silence.
func (t Track) Loudness() float64 {
	const block, step = Rate * 4 / 10, Rate / 10
	n := len(t) / 2
	var sides [2][]float64 // K weighted power
	var both sync.WaitGroup
	for side := range sides {
		both.Go(func() {
			x := make([]float64, n)
			for i := range x {
				x[i] = float64(t[2*i+side])
			}
			shelving.run(x)
			highpass.run(x)
			for i, v := range x {
				x[i] = v * v
			}
			sides[side] = x
		})
	}
	both.Wait()
	var blocks []float64
	for from := 0; from+block <= n; from += step {
		sum := 0.0
		for i := from; i < from+block; i++ {
			sum += sides[0][i] + sides[1][i]
		}
		blocks = append(blocks, sum/block)
	}
	lufs := func(p float64) float64 { return -0.691 + 10*math.Log10(p) }
	gated := func(gate float64) float64 {
		sum, n := 0.0, 0
		for _, p := range blocks {
			if lufs(p) > gate {
				sum += p
				n++
			}
		}
		if n == 0 {
			return 0
		}
		return sum / float64(n)
	}
	first := gated(-70)
	if first == 0 {
		return math.Inf(-1)
	}
	return lufs(gated(lufs(first) - 10))
}

// taps of a phase of the filter that finds peaks between samples.
const peakTaps = 12

// TruePeak is the highest level of a track, between its samples too, dBTP (ITU-R BS.1770-4,
// annex 2: four times as many samples by a windowed sinc).
func (t Track) TruePeak() float64 {
	const phases = 4
	var filter [phases][peakTaps]float64
	for p := range phases {
		for k := range peakTaps {
			x := float64(k-peakTaps/2+1) - float64(p)/phases
			w := 0.5 + 0.5*math.Cos(math.Pi*x/(peakTaps/2))
			filter[p][k] = w
			if x != 0 {
				filter[p][k] *= math.Sin(math.Pi*x) / (math.Pi * x)
			}
		}
	}
	n := len(t) / 2
	side := func(side int) (most float64) {
		for i := range n {
			here := math.Abs(float64(t[2*i+side]))
			most = max(most, here)
			if i < peakTaps/2-1 || i+peakTaps/2 >= n || max(here, math.Abs(float64(t[2*i+2+side]))) < most/2 { // between two low ones nothing is that high
				continue
			}
			for p := 1; p < phases; p++ {
				v := 0.0
				for k, w := range filter[p] {
					v += w * float64(t[2*(i+k-peakTaps/2+1)+side])
				}
				most = max(most, math.Abs(v))
			}
		}
		return most
	}
	var left, right float64
	var both sync.WaitGroup
	both.Go(func() { left = side(0) })
	both.Go(func() { right = side(1) })
	both.Wait()
	return 20 * math.Log10(max(left, right))
}

// ahead is how far the limiter looks ahead, in samples.
const ahead = 240 // 5 ms

// ceiling is the level, dBTP, a track is held to, for it to stay under [MostTop] once an encoder
// has rounded it off: files have read up to 0.8 dB more.
const ceiling = MostTop - 1

// Level sets a track to [Loud], its peaks under [ceiling]: what would go over is turned
// down shortly before and after. Silence stays.
func (t Track) Level() {
	l := t.Loudness()
	for range 4 { // turning peaks down makes it quieter: a few rounds settle it
		if math.IsInf(l, -1) {
			return
		}
		k := float32(math.Pow(10, (Loud-l)/20))
		for i := range t {
			t[i] *= k
		}
		if t.TruePeak() <= ceiling { // as loud as it is to be, by what was measured
			return
		}
		t.limit(math.Pow(10, (ceiling-0.6)/20))
		if l = t.Loudness(); math.Abs(l-Loud) < 0.1 && t.TruePeak() <= ceiling {
			return
		}
	}
}

// limit turns down what is over a level, 0-1, evenly over some samples around it.
func (t Track) limit(top float64) {
	n := len(t) / 2
	want := make([]float64, n)
	for i := range want {
		want[i] = 1
		if v := math.Max(math.Abs(float64(t[2*i])), math.Abs(float64(t[2*i+1]))); v > top {
			want[i] = top / v
		}
	}
	// the least of what is wanted around each sample, then its mean: never more than that
	least := make([]float64, n)
	var queue []int
	for i := range n + ahead {
		if i < n {
			for len(queue) > 0 && want[queue[len(queue)-1]] >= want[i] {
				queue = queue[:len(queue)-1]
			}
			queue = append(queue, i)
		}
		if at := i - ahead; at >= 0 {
			for queue[0] < at-ahead {
				queue = queue[1:]
			}
			least[at] = want[queue[0]]
		}
	}
	upto := make([]float64, n+1)
	for i, v := range least {
		upto[i+1] = upto[i] + v
	}
	for i := range n {
		from, to := max(0, i-ahead), min(n, i+ahead+1)
		k := float32((upto[to] - upto[from]) / float64(to-from))
		t[2*i] *= k
		t[2*i+1] *= k
	}
}
