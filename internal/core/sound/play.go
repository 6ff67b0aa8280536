package sound

import (
	"math"
	"math/rand/v2"
	"slices"
	"sync"
)

// Track is sound in two channels, left and right by turns, -1 to 1.
type Track []float32

// Seconds is how long a track is.
func (t Track) Seconds() float64 { return float64(len(t)) / 2 / Rate }

// How loud instruments are beside each other.
const (
	padLevel  = 0.10
	leadLevel = 0.22
	bassLevel = 0.30
	kickLevel = 0.42
	hatLevel  = 0.05
	echoLevel = 0.30
)

// fadeOut is how long music fades at its end, s.
const fadeOut = 1.4

// Play plays a piece for so many seconds: it goes round as often as it takes, and fades
// at the end.
func (p Piece) Play(seconds float64) Track { return p.Stems(seconds).whole(seconds) }

// Stems are the parts of a piece as it is played for so many seconds: its chords and its
// bass, over which one can speak, and its figure with what is struck, which makes room.
func (p Piece) Stems(seconds float64) Music {
	n := 2 * int(math.Round(seconds*Rate))
	var out Music
	for i, t := range p.played(seconds) {
		t = append(Track(nil), t[:n]...)
		t.fade(seconds-fadeOut, seconds)
		out = append(out, Stem{t, []float32{underBed, underFigure}[i]})
	}
	return out
}

// What was played last is kept: as long as it was, for whoever wants less of it.
const (
	keptPieces = 2
	keptStep   = 30.0 // s, so that a little more need not be played anew
)

var kept struct {
	sync.Mutex
	pieces []keptPiece // the last one used at the end
}

type keptPiece struct {
	id    string
	parts [2]Track
}

// played are the parts of a piece of at least so many seconds, without its end.
func (p Piece) played(seconds float64) [2]Track {
	kept.Lock()
	defer kept.Unlock()
	for i, k := range kept.pieces {
		if k.id == p.ID && k.parts[0].Seconds() >= seconds {
			kept.pieces = append(slices.Delete(kept.pieces, i, i+1), k)
			return k.parts
		}
	}
	t := p.play(keptStep * math.Ceil(seconds/keptStep+1e-9))
	kept.pieces = append(slices.DeleteFunc(kept.pieces, func(k keptPiece) bool { return k.id == p.ID }), keptPiece{p.ID, t})
	if len(kept.pieces) > keptPieces {
		kept.pieces = slices.Delete(kept.pieces, 0, 1)
	}
	return t
}

// play plays the bed of a piece and its figure.
func (p Piece) play(seconds float64) [2]Track {
	n := int(math.Round(seconds * Rate))
	bed, low, figure, wet := make(Track, 2*n), make(Track, 2*n), make(Track, 2*n), make(Track, 2*n) // strings, bass, what is struck, its room
	eighth := 30 / p.BPM
	bar := 8 * eighth
	for b := 0; float64(b)*bar < seconds; b++ {
		from := float64(b) * bar
		chord := p.chord(p.Bars[b%len(p.Bars)])
		for i, note := range chord[:3] {
			pad(bed, from, bar, hertz(note), padLevel*(0.6+0.4*p.Warm), float64(i-1)*0.5)
		}
		for i := range 8 {
			at := from + float64(i)*eighth
			if k := p.Lead[i]; k >= 0 && (b >= 1 || i >= 4) { // the figure comes in after half a bar
				pluck(figure, wet, at, hertz(chord[k%len(chord)]+12), leadLevel, 0.35*math.Sin(float64(b*8+i)))
			}
			if p.Bass[i] {
				bass(low, at, 1.6*eighth, hertz(chord[0]-12), bassLevel)
			}
			if b < 2 && p.Mood != "driving" { // what is struck comes in later
				continue
			}
			if p.Kick[i] {
				kick(figure, at)
			}
			if p.Hat[i] {
				hat(figure, at, uint64(b*8+i))
			}
		}
	}
	echo(bed)
	echo(wet)
	for i := range wet {
		bed[i] += low[i]
		figure[i] += wet[i]
	}
	return [2]Track{bed, figure}
}

// chord are the tones of the chord on a degree of the scale: three, then the ones above.
func (p Piece) chord(degree int) []int {
	out := make([]int, 6)
	for i := range out {
		d := degree + 2*i
		out[i] = p.Root + 12*(d/len(p.Mode)) + p.Mode[d%len(p.Mode)]
	}
	return out
}

// hertz of a MIDI number, A4 = 69 = 440 Hz, in equal temperament.
func hertz(note int) float64 { return 440 * math.Pow(2, float64(note-69)/12) }

// add puts a sound on a track from a time on; f is its sample at a time since, pan is -1
// (left) to 1, with equal power.
func (t Track) add(from, length, pan float64, f func(u float64) float64) {
	l, r := math.Cos((pan+1)*math.Pi/4), math.Sin((pan+1)*math.Pi/4)
	first := int(from * Rate)
	for i := range int(length * Rate) {
		at := 2 * (first + i)
		if at+1 >= len(t) {
			return
		}
		v := f(float64(i) / Rate)
		t[at] += float32(l * v)
		t[at+1] += float32(r * v)
	}
}

// partial is one sine of a tone: where it stands, how far it turns from sample to sample,
// how loud it is and how much of that is left after each.
type partial struct{ sin, cos, turnSin, turnCos, level, stays float64 }

// partialOf is a sine of a frequency that falls by so much a second (e-fold).
func partialOf(f, level, falls float64) partial {
	p := partial{cos: 1, level: level, stays: math.Exp(-falls / Rate)}
	p.turnSin, p.turnCos = math.Sincos(2 * math.Pi * f / Rate)
	return p
}

func (p *partial) next() float64 {
	v := p.level * p.sin
	p.sin, p.cos = p.sin*p.turnCos+p.cos*p.turnSin, p.cos*p.turnCos-p.sin*p.turnSin
	p.level *= p.stays
	return v
}

// played is several partials at once.
func played(list []partial) float64 {
	v := 0.0
	for i := range list {
		v += list[i].next()
	}
	return v
}

// pad swells in and out under a bar, two strings a little apart.
func pad(t Track, from, length, f, level, pan float64) {
	const attack, release = 0.5, 0.7
	var list []partial
	for h := 1.0; h <= 4; h++ {
		for _, off := range []float64{1.002, 0.998} {
			list = append(list, partialOf(f*off*h, level/2/math.Pow(h, 1.7), 0))
		}
	}
	t.add(from, length+release, pan, func(u float64) float64 {
		env := math.Min(1, u/attack) * math.Min(1, math.Max(0, (length+release-u)/release))
		return env * env * played(list)
	})
}

// pluck is struck and dies away, the higher the faster.
func pluck(dry, wet Track, from, f, level, pan float64) {
	voice := func(level float64) func(float64) float64 {
		var list []partial
		for h := 1.0; h <= 5; h++ {
			list = append(list, partialOf(f*h, level/(h*math.Sqrt(h)), 3.2+1.8*h))
		}
		return func(u float64) float64 { return played(list) * math.Min(1, u/0.004) }
	}
	dry.add(from, 1.2, pan, voice(level))
	wet.add(from, 1.2, -pan, voice(echoLevel*level))
}

func bass(t Track, from, length, f, level float64) {
	list := []partial{partialOf(f, level, 1.6), partialOf(2*f, 0.35*level, 1.6), partialOf(3*f, 0.12*level, 1.6)}
	t.add(from, length, 0, func(u float64) float64 {
		return math.Min(1, u/0.008) * math.Min(1, (length-u)/0.03) * played(list)
	})
}

// kick is a tone that falls from 120 to 46 Hz.
func kick(t Track, from float64) {
	t.add(from, 0.28, 0, func(u float64) float64 {
		phase := 2 * math.Pi * (46*u + (120-46)/22.0*(1-math.Exp(-22*u)))
		return kickLevel * math.Sin(phase) * math.Exp(-11*u) * math.Min(1, u/0.002)
	})
}

// hat is a breath of noise, its low part taken away.
func hat(t Track, from float64, seed uint64) {
	rng := rand.New(rand.NewPCG(7, seed))
	last := 0.0
	t.add(from, 0.07, 0.2, func(u float64) float64 {
		v := 2*rng.Float64() - 1
		high := v - last
		last = v
		return hatLevel * high * math.Exp(-60*u)
	})
}

// echo is a room: four combs beside each other and two all-passes after them for each
// side (Schroeder 1962), mixed to what is there.
func echo(t Track) {
	for side := range 2 {
		n := len(t) / 2
		sum := make([]float64, n)
		for i, delay := range []int{1557, 1617, 1491, 1422} {
			buf := make([]float64, delay+23*side+11*i)
			low := 0.0
			for k := range n {
				at := k % len(buf)
				low = 0.75*buf[at] + 0.25*low
				buf[at] = float64(t[2*k+side]) + 0.8*low
				sum[k] += buf[at] / 4
			}
		}
		for _, delay := range []int{225, 556} {
			buf := make([]float64, delay+17*side)
			for k := range n {
				at := k % len(buf)
				old := buf[at]
				buf[at] = sum[k] + 0.5*old
				sum[k] = old - 0.5*buf[at]
			}
		}
		for k := range n {
			t[2*k+side] += float32(echoLevel * sum[k])
		}
	}
}

// fade takes a track down to nothing from one time to another, s.
func (t Track) fade(from, to float64) {
	for i := max(0, int(from*Rate)); 2*i+1 < len(t); i++ {
		u := math.Min(1, math.Max(0, (float64(i)/Rate-from)/(to-from)))
		k := float32(math.Cos(u*math.Pi/2) * math.Cos(u*math.Pi/2))
		t[2*i] *= k
		t[2*i+1] *= k
	}
}
