package sound_test

import (
	"bytes"
	"encoding/binary"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"testing"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/sound"
)

// sine is a tone in both channels at a level, dBFS.
func sine(hz, level, seconds float64) sound.Track {
	t := make(sound.Track, 2*int(seconds*sound.Rate))
	top := math.Pow(10, level/20)
	for i := range len(t) / 2 {
		v := float32(top * math.Sin(2*math.Pi*hz*float64(i)/sound.Rate))
		t[2*i], t[2*i+1] = v, v
	}
	return t
}

// Test signals of EBU Tech 3341: a stereo sine of 1 kHz at -23 dBFS has -23 LUFS, at -33
// dBFS -33; and a quiet stretch before and after is gated away (case 3).
func TestLoudnessOfTheTestSignals(t *testing.T) {
	near := func(what string, got, want float64) {
		t.Helper()
		if math.Abs(got-want) > 0.1 {
			t.Errorf("%s: %.2f LUFS, want %.1f", what, got, want)
		}
	}
	near("case 1", sine(1000, -23, 20).Loudness(), -23)
	near("case 2", sine(1000, -33, 20).Loudness(), -33)
	near("case 3", slices.Concat(sine(1000, -36, 10), sine(1000, -23, 60), sine(1000, -36, 10)).Loudness(), -23)
	if got := make(sound.Track, 2*sound.Rate).Loudness(); !math.IsInf(got, -1) {
		t.Errorf("silence has %v LUFS", got)
	}
}

// Test signals of EBU Tech 3341, cases 15 to 17: a sine of a quarter of the rate whose samples
// miss its peaks by 45 degrees reads -6 dBTP, though no sample is over -9.
func TestPeaksBetweenSamples(t *testing.T) {
	x := make(sound.Track, 2*sound.Rate/4)
	for i := range len(x) / 2 {
		v := float32(0.5 * math.Sin(math.Pi/2*float64(i)+math.Pi/4))
		x[2*i], x[2*i+1] = v, v
	}
	if got := x.TruePeak(); got < -6.4 || got > -5.8 {
		t.Errorf("%.2f dBTP, want -6 within +0.2/-0.4", got)
	}
}

// ffmpeg's ebur128 is the reference for music.
func ebur128(t *testing.T, x sound.Track) (lufs, peak float64) {
	t.Helper()
	path := filepath.Join(t.TempDir(), "a.f32")
	var b bytes.Buffer
	_ = binary.Write(&b, binary.LittleEndian, []float32(x))
	if err := os.WriteFile(path, b.Bytes(), 0o600); err != nil {
		t.Fatal(err)
	}
	out, err := exec.Command("ffmpeg", "-hide_banner", "-f", "f32le", "-ar", "48000", "-ac", "2", "-i", path, "-af", "ebur128=peak=true", "-f", "null", "-").CombinedOutput()
	if err != nil {
		t.Fatalf("ffmpeg (scripts/setup installs it): %v\n%s", err, out)
	}
	last := func(pattern string) float64 {
		all := regexp.MustCompile(pattern).FindAllSubmatch(out, -1)
		if len(all) == 0 {
			t.Fatalf("no %s in\n%s", pattern, out)
		}
		v, _ := strconv.ParseFloat(string(all[len(all)-1][1]), 64)
		return v
	}
	return last(`I:\s+(-?[\d.]+) LUFS`), last(`Peak:\s+(-?[\d.]+) dBFS`)
}

// Every piece is as loud as videos are to be and keeps under their peaks; it is the same
// every time, differs from the others, is in two channels and ends in silence.
func TestTheShelf(t *testing.T) {
	moods := map[string]int{}
	var all []sound.Track
	for _, p := range sound.Shelf() {
		moods[p.Mood]++
		x := p.Play(12)
		if len(all) == 0 && !slices.Equal(x, p.Play(12)) {
			t.Errorf("%s is not the same twice", p.Name)
		}
		x.Level()
		if x.Seconds() != 12 {
			t.Errorf("%s runs %v s", p.Name, x.Seconds())
		}
		lufs, peak := ebur128(t, x)
		if math.Abs(lufs-sound.Loud) > 0.5 || peak > sound.MostTop || math.Abs(x.Loudness()-lufs) > 0.2 || math.Abs(x.TruePeak()-peak) > 0.4 {
			t.Errorf("%s: %.1f LUFS and %.1f dBTP by ffmpeg, %.1f and %.1f by us", p.Name, lufs, peak, x.Loudness(), x.TruePeak())
		}
		sides := 0.0
		for i := 0; i < len(x); i += 2 {
			sides += math.Abs(float64(x[i] - x[i+1]))
		}
		if sides == 0 {
			t.Errorf("%s is the same on both sides", p.Name)
		}
		for _, v := range x[len(x)-200:] {
			if math.Abs(float64(v)) > 0.01 {
				t.Errorf("%s does not end in silence", p.Name)
				break
			}
		}
		for _, other := range all {
			if slices.Equal(x[:2000], other[:2000]) {
				t.Errorf("%s begins like another one", p.Name)
			}
		}
		all = append(all, x)
		if _, ok := sound.OfMood(p.Mood); !ok {
			t.Errorf("no piece is %s", p.Mood)
		}
	}
	if len(all) < 8 {
		t.Errorf("%d pieces ship, want eight", len(all))
	}
	for _, m := range brand.Moods {
		if m != "" && moods[m] < 2 {
			t.Errorf("%d pieces are %s", moods[m], m)
		}
	}
}

// What is over a level is turned down, no sample is over it, and what is far from it stays.
func TestLevelKeepsWhatIsQuiet(t *testing.T) {
	x := slices.Concat(sine(440, -30, 2), sine(440, -1, 0.2), sine(440, -30, 2))
	before := slices.Clone(x)
	x.Level()
	k := x[2000] / before[2000]
	for i := 0; i < sound.Rate; i++ {
		if d := math.Abs(float64(x[i] - k*before[i])); d > 1e-4 {
			t.Fatalf("sample %d changed by %g beside the level", i, d)
		}
	}
	if peak := x.TruePeak(); peak > sound.MostTop {
		t.Errorf("peaks at %.2f dBTP", peak)
	}
}

// A video has the piece it names, none where it says so, else one of the kit's mood.
func TestWhichPieceIsPlayed(t *testing.T) {
	for _, c := range []struct{ named, mood, want string }{
		{"", "", ""}, {"", "calm", "still-water"}, {"", "bright", "market-day"}, {"none", "calm", ""}, {"night-bus", "calm", "night-bus"}, {"night-bus", "", "night-bus"}, {"gone", "driving", "uphill"},
	} {
		p, ok := sound.For(c.named, c.mood)
		if p.ID != c.want || ok != (c.want != "") {
			t.Errorf("named %q in a kit that is %q: %q", c.named, c.mood, p.ID)
		}
	}
	if len(sound.Under("none", "calm", 3)) > 0 || sound.Mix(sound.Under("", "calm", 3), nil, 3).Seconds() != 3 {
		t.Error("it is not played for as long as it was asked, or where none is wanted")
	}
}

// BenchmarkMix is half a minute of music and a voice mixed and levelled.
func BenchmarkMix(b *testing.B) {
	p, _ := sound.OfMood("calm")
	music, voice := p.Stems(30), p.Play(8)
	for b.Loop() {
		sound.Mix(music, []sound.Heard{{At: 3, Track: voice}, {At: 15, Track: voice}}, 30)
	}
}

// BenchmarkUnder is half a minute of music, made and levelled.
func BenchmarkUnder(b *testing.B) {
	for b.Loop() {
		sound.Under("", "bright", 30)
	}
}
