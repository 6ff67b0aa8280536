// Package sound composes the music of videos: pieces written down as data, played by
// instruments made of sines and noise, of any length, the same samples every time. It
// measures loudness as broadcasters do. It knows no files.
package sound

// Rate is how many samples a second everything has.
const Rate = 48_000

// Piece is music written down: chords over a ground bass, a figure broken over them, and
// what is struck.
type Piece struct {
	ID   string
	Name string
	Mood string // one of the kit's: calm, bright, driving
	BPM  float64
	Root int    // MIDI number of the key
	Mode []int  // semitones of the scale from the root
	Bars []int  // degree of the scale each bar's chord stands on, from 0
	Lead []int  // figure in eighths: tones of the chord by number, -1 for a rest
	Bass []bool // in eighths
	Kick []bool // in eighths
	Hat  []bool // in eighths
	Warm float64
}

// Scales in semitones.
var (
	major  = []int{0, 2, 4, 5, 7, 9, 11}
	minor  = []int{0, 2, 3, 5, 7, 8, 10}
	dorian = []int{0, 2, 3, 5, 7, 9, 10}
	lydian = []int{0, 2, 4, 6, 7, 9, 11}
)

// beats reads a bar of eighths: x for a stroke, anything else for none.
func beats(s string) []bool {
	out := make([]bool, len(s))
	for i := range s {
		out[i] = s[i] == 'x'
	}
	return out
}

// Shelf are the pieces that ship.
func Shelf() []Piece {
	return []Piece{
		{"still-water", "Still water", "calm", 72, 57, major, []int{0, 5, 3, 4}, []int{0, -1, 2, -1, 4, -1, 2, -1}, beats("x......."), beats("........"), beats("........"), 1},
		{"first-light", "First light", "calm", 80, 60, lydian, []int{0, 1, 5, 3}, []int{0, 2, 4, 2, 5, 4, 2, -1}, beats("x...x..."), beats("........"), beats("........"), 0.9},
		{"slow-train", "Slow train", "calm", 84, 52, dorian, []int{0, 3, 0, 6}, []int{-1, 2, -1, 4, -1, 3, -1, 2}, beats("x..x...."), beats("x......."), beats("..x...x."), 0.8},
		{"market-day", "Market day", "bright", 108, 62, major, []int{0, 3, 4, 3}, []int{0, 2, 4, -1, 2, 4, 5, -1}, beats("x..x..x."), beats("x...x..."), beats("..x...x."), 0.5},
		{"paper-kites", "Paper kites", "bright", 116, 65, major, []int{0, 4, 5, 3}, []int{4, -1, 2, 4, -1, 2, 0, 2}, beats("x.x.x.x."), beats("x...x..."), beats("xxxxxxxx"), 0.4},
		{"open-window", "Open window", "bright", 100, 59, lydian, []int{0, 1, 0, 4}, []int{0, 4, 2, 5, 4, 2, 0, -1}, beats("x...x.x."), beats("x...x..."), beats(".x.x.x.x"), 0.6},
		{"uphill", "Uphill", "driving", 124, 57, minor, []int{0, 5, 2, 6}, []int{0, 0, 2, 0, 4, 0, 2, 4}, beats("xxxxxxxx"), beats("x.x.x.x."), beats(".x.x.x.x"), 0.3},
		{"night-bus", "Night bus", "driving", 118, 53, dorian, []int{0, 0, 3, 4}, []int{0, -1, 2, 3, -1, 2, 4, -1}, beats("x.xx.xx."), beats("x.x.x.x."), beats("..x...x."), 0.4},
		{"tide-race", "Tide race", "driving", 132, 55, minor, []int{0, 3, 5, 4}, []int{4, 2, 0, 4, 2, 0, 2, 4}, beats("x.x.x.xx"), beats("x...x..."), beats("xxxxxxxx"), 0.3},
	}
}

// NoMusic is what a video names instead of a piece to have none.
const NoMusic = "none"

// For is the piece of a video: the one it names, else the first of a mood; false for none.
func For(named, mood string) (Piece, bool) {
	if named == NoMusic {
		return Piece{}, false
	}
	for _, p := range Shelf() {
		if p.ID == named {
			return p, true
		}
	}
	return OfMood(mood)
}

// Under is the music of a video of so many seconds; nil for none.
func Under(named, mood string, seconds float64) Music {
	p, ok := For(named, mood)
	if !ok || seconds <= 0 {
		return nil
	}
	return p.Stems(seconds)
}

// OfMood is the first piece of a mood, "" for the one of no name; false where there is none.
func OfMood(mood string) (Piece, bool) {
	for _, p := range Shelf() {
		if p.Mood == mood {
			return p, true
		}
	}
	return Piece{}, false
}
