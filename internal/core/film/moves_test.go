package film_test

import (
	"math"
	"regexp"
	"slices"
	"strings"
	"testing"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/film"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/preflight"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// inLayout is the film of the job in a look of a layout.
func inLayout(t *testing.T, place, id string) *film.Film {
	t.Helper()
	j := job(t)
	j.Brief.Video = &brief.Video{NoOpening: true, NoClosing: true, Shots: []brief.Shot{
		{Role: "hook", Headline: "Quiet water", Picture: "river.jpg"}, {Role: "point", Headline: "Six Saturdays in small groups", Picture: "river.jpg"}, {Role: "point", Headline: "Boats are there", Picture: "river.jpg"},
	}}
	look := j.First()
	for i := range j.Brief.Video.Shots {
		j.Brief.Video.Shots[i].Layout = id
	}
	p, err := spec.Parse(place)
	if err != nil {
		t.Fatal(err)
	}
	return film.Of(j, look, p, nil)
}

// Shots come and go as their layouts say: pushed along the line it is split at, struck at once,
// faded with the words gone before; a wipe goes along the same line.
func TestShotsMoveAsTheirLayoutSays(t *testing.T) {
	for _, c := range []struct{ layout, place, kind, edge string }{
		{"halves", "video-wide", "push", "right"}, {"halves", "video-tall", "push", "bottom"}, {"stave", "video-tall", "", ""}, {"hush", "video-tall", "fade", ""},
		{"shoreline", "video-wide", "wipe", "right"}, {"shoreline", "video-tall", "wipe", "bottom"},
	} {
		f := inLayout(t, c.place, c.layout)
		in := f.Takes[1].In
		if in.Kind != c.kind || in.Edge != c.edge {
			t.Errorf("%s in %s comes in as %+v", c.layout, c.place, in)
		}
		before, at := f.Takes[0], f.Takes[1]
		poses := f.At(at.From + in.For/3)
		both := slices.ContainsFunc(poses, func(p film.Pose) bool { return p.Take == 0 }) && slices.ContainsFunc(poses, func(p film.Pose) bool { return p.Take == 1 })
		if both != (c.kind != "") {
			t.Errorf("%s: both are seen while it comes: %v", c.layout, both)
		}
		for _, p := range poses {
			if along := map[string]float64{"right": float64(f.W), "bottom": float64(f.H)}[c.edge]; c.kind == "push" {
				off := p.Shift[0] + p.Shift[1]
				if want := 0.0; p.Take == 1 && (off <= want || off >= along) || p.Take == 0 && (off >= 0 || off <= -along) || off != math.Round(off) {
					t.Errorf("%s: take %d stands %v px off", c.layout, p.Take, off)
				}
			} else if p.Shift != [2]float64{} {
				t.Errorf("%s: it is shifted", c.layout)
			}
		}
		words := func(at float64) (most float64) {
			for _, p := range f.At(at) {
				if p.Take == 0 && p.Layer.Drawing.Parts[0].Words() {
					most = max(most, p.Alpha)
				}
			}
			return most
		}
		if words(before.Settled()-0.001) < 0.999 {
			t.Errorf("%s: its words do not stay until they go", c.layout)
		}
		if gone := words(before.To - 0.001); (gone < 0.05) != (before.Leave > 0) || (before.Leave > 0) != (c.layout == "hush") {
			t.Errorf("%s: at its end its words are there by %.2f, leaving for %.2f s", c.layout, gone, before.Leave)
		}
	}
	f := inLayout(t, "video-tall", "margin") // its words are uncovered
	uncovered := 0
	for _, p := range f.At(f.Takes[1].From + 0.4) {
		if l := p.Layer; p.Take == 1 && l.Move.Kind == "wipe" && p.Show.W < l.Box.W && p.Show.X == l.Box.X {
			uncovered++
		}
	}
	if uncovered == 0 {
		t.Error("no line is being uncovered from its beginning")
	}
}

// A number counts from nothing to what it is, in its own way of writing; years, times, dates
// and small numbers stand, and so does what is there from the first frame on.
func TestNumbersCountUp(t *testing.T) {
	// what each of some headlines shows one after the other
	counts := func(calm bool, headlines ...string) [][]string {
		j := job(t)
		j.Brief.Video = &brief.Video{NoOpening: true, NoClosing: true, CountUp: true, Calm: calm, Shots: []brief.Shot{{Role: "hook", Headline: "Then"}}}
		for _, h := range headlines {
			j.Brief.Video.Shots = append(j.Brief.Video.Shots, brief.Shot{Role: "point", Headline: h, Seconds: 3})
		}
		f := filmOf(t, j, "video-square")
		out := make([][]string, len(headlines))
		for i := range headlines {
			take := f.Takes[i+1]
			for n := take.From; n < take.Settled(); n += 1.0 / 30 {
				var words []string
				for _, p := range f.At(n + 1e-6) {
					if part := p.Layer.Drawing.Parts[0]; p.Take == i+1 && part.Words() {
						for _, l := range part.Lines {
							words = append(words, l.Line.Text)
						}
					}
				}
				if s := strings.Join(words, "|"); s != "" && !slices.Contains(out[i], s) {
					out[i] = append(out[i], s)
				}
			}
		}
		return out
	}
	const most = 3 // lines come one after the other
	seen := counts(false, "1,250 people came", "Only € 24.50", "Save 40%")
	if s := seen[0]; len(s) < 8 || strings.Contains(s[0], "1,250") {
		t.Fatalf("it shows %q", s)
	} else if last := strings.Join(strings.Fields(strings.ReplaceAll(s[len(s)-1], "|", " ")), " "); last != "1,250 people came" {
		t.Errorf("it ends as %q", last)
	}
	for i, way := range []*regexp.Regexp{regexp.MustCompile(`\b(\d{2,3}|1,\d{3})\b`), regexp.MustCompile(`\b\d{1,2}\.\d\d\b`), regexp.MustCompile(`(^|\|)\d{1,2}($|\|)`)} {
		written := 0
		for _, s := range seen[i] {
			if way.MatchString(s) {
				written++
			}
		}
		if written < 6 {
			t.Errorf("%d of %q are written as %v", written, seen[i], way)
		}
	}
	stand := []string{"Since 1998", "At 18:00", "3 boats", "12 May is the day", "May 12 is the day", "A4 and B12", "12-15 people", "007", "Am 12. Mai geht es los", "Le 14 juillet"}
	for i, got := range counts(false, stand...) {
		if len(got) > most {
			t.Errorf("%q counts: %q", stand[i], got)
		}
	}
	if got := counts(true, "1,250 people came")[0]; len(got) > most {
		t.Errorf("where nothing moves it counts: %q", got)
	}
}

// A running order of the set's own pieces has each card as they show it, with the hands' changes;
// one whose card goes away goes with it.
func TestTheSetsOwnPieces(t *testing.T) {
	j := jobOf(t, `{"formatVersion":1,"cards":[{"id":"a","headline":"Quiet water","body":"Boats are provided.","pictures":[{"file":"river.jpg"}]},{"id":"b","headline":"Save a seat","website":"larkmoor.example"}],
		"adjustments":[{"id":"x","reach":"set","slot":"headline","property":"fill","value":"#aa3300"}]}`)
	shots := film.OfSet(j.Brief, j.Kit)
	if len(shots) != 2 || shots[0].Role != film.Hook || shots[1].Role != film.Call || shots[0].Card != "a" || shots[0].Headline != "Quiet water" || shots[0].Picture != "river.jpg" || !strings.Contains(shots[0].Body, "Boats are provided.") {
		t.Fatalf("%+v", shots)
	}
	j.Brief.Video = &brief.Video{NoOpening: true, NoClosing: true, NoMark: true, Shots: []brief.Shot{{Role: film.Hook, Card: "a"}, {Role: film.Call, Card: "2"}, {Role: film.Point, Card: "gone"}}}
	f := filmOf(t, j, "video-tall")
	p, _ := spec.Parse("video-tall")
	if len(f.Takes) != 2 {
		t.Fatalf("%d takes", len(f.Takes))
	}
	for i, take := range f.Takes {
		var got, want []scene.Part
		for _, l := range take.Layers {
			got = append(got, l.Drawing.Parts...)
		}
		piece := j.Compose(j.First(), p, i)
		want = append(want, piece.Scene.Parts...)
		inks := func(parts []scene.Part) (out []string) {
			for _, p := range parts {
				if p.Slot == "headline" && !slices.Contains(out, p.Text+p.Fill.Hex()) {
					out = append(out, p.Text+p.Fill.Hex())
				}
			}
			return out
		}
		if g, w := inks(got), inks(want); len(w) == 0 || !slices.Equal(g, w) {
			t.Errorf("card %d is shown as %q, its piece as %q", i, g, w)
		}
	}
}

// A picture that is shown whole has all of itself in its frame, in its own shape, and no words
// on it.
func TestAPictureShownWhole(t *testing.T) {
	for _, place := range []string{"video-tall", "video-wide", "video-square"} {
		j := job(t)
		j.Brief.Video = &brief.Video{NoOpening: true, NoClosing: true, Shots: []brief.Shot{{Role: "hook", Headline: "Quiet water", Picture: "river.jpg", Whole: true}}}
		f := filmOf(t, j, place)
		found := false
		for _, l := range f.Takes[0].Layers {
			p := l.Drawing.Parts[0]
			if p.Kind != scene.KindPicture {
				continue
			}
			found = true
			if p.Crop.X != 0 || p.Crop.Y != 0 || p.Crop.W != 4000 || p.Crop.H != 3200 || math.Abs(p.Box.W/p.Box.H-1.25) > 0.01 || l.Move.By > 1 {
				t.Errorf("%s: it shows %+v in %+v, growing %v", place, p.Crop, p.Box, l.Move.By)
			}
			for _, o := range f.Takes[0].Layers {
				if w := o.Drawing.Parts[0]; w.Words() && w.Box.Overlaps(p.Box, 0) {
					t.Errorf("%s: %q lies on it", place, w.Text)
				}
			}
		}
		if !found {
			t.Errorf("%s: there is no picture", place)
		}
	}
}

// Of a clip what matters is kept in view wherever it goes: it is cropped by all the frames that
// were looked at, not by the one that stands for it.
func TestACropByAllFrames(t *testing.T) {
	faceAt := func(x float64) photo.Picture {
		return photo.Picture{Focus: [2]float64{x, 0.5}, Subjects: []photo.Subject{{Box: [4]float64{x - 0.05, 0.4, 0.1, 0.2}, Kind: photo.Face, Weight: 0.9}}, Light: photo.Light{Cols: 1, Rows: 1, Tiles: []byte{10, 10, 10, 90, 90, 90, 50, 9}}}
	}
	over := photo.OverFrames([]photo.Picture{faceAt(0.6), faceAt(0.75), faceAt(0.7)})
	if b := over.Subjects[0].Box; math.Abs(b[0]-0.55) > 1e-9 || math.Abs(b[2]-0.25) > 1e-9 || math.Abs(over.Focus[0]-0.675) > 1e-9 {
		t.Fatalf("the faces go over %v about %v", b, over.Focus)
	}
	j := job(t)
	still := faceAt(0.2)
	still.Hash, still.W, still.H = "x", 1920, 1080
	still.Clip = &photo.Clip{Hash: "film", Seconds: 8, Over: over}
	j.Pictures["river.jpg"] = still
	j.Brief.Video = &brief.Video{NoOpening: true, NoClosing: true, Shots: []brief.Shot{{Role: "hook", Picture: "river.jpg"}}}
	f := filmOf(t, j, "video-tall")
	for _, l := range f.Takes[0].Layers {
		if l.Clip != nil && (l.Clip.Crop[0] > 0.55 || l.Clip.Crop[0]+l.Clip.Crop[2] < 0.8) {
			t.Errorf("it shows %v of the film: the faces go from 0.55 to 0.8", l.Clip.Crop)
		}
	}
}

// A shot may be set in a layout of its own, in the colours of the look.
func TestAShotInALayoutOfItsOwn(t *testing.T) {
	j := job(t)
	p, _ := spec.Parse("video-square")
	shot := brief.Shot{Role: "point", Headline: "Six Saturdays", Picture: "river.jpg"}
	j.Brief.Video = &brief.Video{NoOpening: true, NoClosing: true}
	moves := func(layout string) film.In {
		shot.Layout = layout
		j.Brief.Video.Shots = []brief.Shot{{Role: "hook", Headline: "Then", Seconds: 1}, shot}
		return film.Of(j, j.First(), p, nil).Takes[1].In
	}
	if moves("halves").Kind != "push" || moves("stave").Kind != "" || moves("hush").Kind != "fade" || moves("no such layout") != moves("") {
		t.Errorf("%+v, %+v, %+v", moves("halves"), moves("stave"), moves("hush"))
	}
}

// TestAVideoClosesWithAPieceOfTheSet: a card at the end that is in the set is what the video of
// its shape closes with, as it was changed by hand; other shapes close as the kit does. Its
// length counts where a limit is kept.
func TestAVideoClosesWithAPieceOfTheSet(t *testing.T) {
	j := job(t)
	tall, _ := spec.Find("video-tall")
	square, _ := spec.Find("video-square")
	end, _ := spec.Find("video-end-tall")
	words := func(f *film.Film) (out []string) {
		for _, l := range f.Takes[len(f.Takes)-1].Layers {
			if p := l.Drawing.Parts[0]; p.Words() {
				out = append(out, p.Text)
			}
		}
		return out
	}
	plain := film.Of(j, j.First(), tall, nil)
	b := *j.Brief
	b.Placements = append(slices.Clone(b.Placements), "video-end-tall")
	b.Adjustments = append(slices.Clone(b.Adjustments), brief.Adjustment{Reach: "piece:video-end-tall", Slot: "headline", Property: "text", Value: []byte(`"See you at the weir"`)})
	j.Brief = &b
	pc := j.Compose(j.First(), end, 0)
	if bad := slices.DeleteFunc(pc.Findings, func(f preflight.Finding) bool { return f.Severity == preflight.Note }); len(bad) > 0 {
		t.Errorf("the card: %+v", bad)
	}
	with := film.Of(j, j.First(), tall, nil)
	if got := words(with); !slices.ContainsFunc(got, func(w string) bool { return strings.HasPrefix(w, "See you") }) || strings.Join(got, " ") == strings.Join(words(plain), " ") {
		t.Errorf("it closes with %q", got)
	}
	if last := with.Takes[len(with.Takes)-1]; last.Role != film.Closing || last.To-last.From < 3 {
		t.Errorf("it closes as %s for %.1f s", last.Role, last.To-last.From)
	}
	if got := words(film.Of(j, j.First(), square, nil)); strings.Join(got, " ") != strings.Join(words(film.Of(job(t), j.First(), square, nil)), " ") {
		t.Errorf("another shape closes with %q", got)
	}
	for _, seconds := range []float64{with.Seconds() - 0.2, with.Seconds() + 0.2} {
		at := tall
		at.MaxSeconds = seconds
		if cut := film.Shorten(j, nil, at); (len(cut.Out) == 0) != (seconds > with.Seconds()) {
			t.Errorf("within %.1f of %.1f s it leaves out %q", seconds, with.Seconds(), cut.Out)
		}
	}
}

// TestBrandsMoveTheirWay: a kit that says what its corners are like moves in one way, whatever
// layouts its shots are in; no two shots in a row come in alike.
func TestBrandsMoveTheirWay(t *testing.T) {
	for corners, want := range map[string]struct {
		over  []string
		words string
	}{"sharp": {[]string{"wipe", ""}, "wipe"}, "soft": {[]string{"push"}, "rise"}, "round": {[]string{"fade"}, "rise"}} {
		j := job(t)
		j.Kit.Manner.Corners = corners
		j.Brief.Video = &brief.Video{NoOpening: true, NoClosing: true, Shots: []brief.Shot{
			{Role: "hook", Headline: "Quiet water", Picture: "river.jpg", Layout: "hush"}, {Role: "point", Headline: "Six Saturdays in small groups", Picture: "river.jpg", Layout: "halves"},
			{Role: "point", Headline: "Boats are there", Picture: "river.jpg", Layout: "shoreline"}, {Role: "point", Headline: "So are jackets", Picture: "river.jpg", Layout: "margin"},
		}}
		p, _ := spec.Parse("video-tall")
		f := film.Of(j, j.First(), p, nil)
		for i, take := range f.Takes {
			if i > 0 && !slices.Contains(want.over, take.In.Kind) {
				t.Errorf("%s: shot %d comes in by %q", corners, i, take.In.Kind)
			}
			if i > 1 && take.In.Kind != "fade" && take.In == f.Takes[i-1].In {
				t.Errorf("%s: shots %d and %d both come in as %+v", corners, i-1, i, take.In)
			}
			for _, l := range take.Layers {
				if l.Drawing.Parts[0].Words() && l.Move.Kind != "" && l.Move.Kind != want.words {
					t.Errorf("%s: words of shot %d come in by %q", corners, i, l.Move.Kind)
				}
			}
		}
	}
}

// TestALoopEndsAsItBegins: of a piece that runs round and round the first and the last frame are the
// same, all is there in both and for long enough to be read, and in between it moves.
func TestALoopEndsAsItBegins(t *testing.T) {
	j := job(t)
	for _, corners := range []string{"sharp", "soft", "round"} {
		for _, place := range []string{"story", "feed-square", "feed-tall", "ad-300x250"} {
			for _, seconds := range []float64{4, 8} {
				j.Kit.Manner.Corners = corners
				p, _ := spec.Find(place)
				pc := j.Compose(j.First(), p, 0)
				f := film.Moving(j, &pc, 25, film.Way{Seconds: seconds, Loop: true})
				if f.Round == p.Advertisement() {
					t.Errorf("%s: played without an end: %v", place, f.Round)
				}
				first, last := f.At(0), f.At(float64(f.Frames()-1)/25)
				if len(first) != len(f.Takes[0].Layers) || len(last) != len(first) {
					t.Fatalf("%s, %v s, %s: %d of %d layers are there at first, %d at last", place, seconds, corners, len(first), len(f.Takes[0].Layers), len(last))
				}
				for i := range first {
					a, b := first[i], last[i]
					if a.Alpha != 1 || math.Abs(a.Alpha-b.Alpha) > 1e-6 || math.Abs(a.Down-b.Down) > 1e-6 || math.Abs(a.Zoom-b.Zoom) > 1e-6 || a.Show != b.Show {
						t.Errorf("%s, %v s, %s: %s is %+v at first, %+v at last", place, seconds, corners, a.Layer.Slot, a, b)
					}
				}
				whole, gone, zoomed := 0, false, false
				for n := range f.Frames() {
					poses := f.At(float64(n) / 25)
					all := len(poses) == len(first)
					for _, p := range poses {
						all = all && p.Alpha == 1
						zoomed = zoomed || p.Zoom > 1.01
					}
					if gone = gone || !all; !gone {
						whole++
					}
				}
				if !gone || !zoomed || float64(whole)/25 < 0.25*seconds {
					t.Errorf("%s, %v s, %s: it is whole for %.2f s, parts go: %v, pictures move: %v", place, seconds, corners, float64(whole)/25, gone, zoomed)
				}
			}
		}
	}
}
