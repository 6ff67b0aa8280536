package film_test

import (
	"math"
	"reflect"
	"slices"
	"strings"
	"testing"

	"aspenridge/assets"
	"aspenridge/demo"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/film"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/layouts"
)

// jobOf is a job of the demo's kit, without logos (their art needs the raster package).
func jobOf(t testing.TB, doc string) *piece.Job {
	t.Helper()
	parse := func(data []byte) *edit.Object {
		o, err := edit.ParseObject(data)
		if err != nil {
			t.Fatal(err)
		}
		return o
	}
	k, err := brand.Parse(parse(demo.KitDocument()))
	if err != nil {
		t.Fatal(err)
	}
	b, err := brief.Parse(parse([]byte(doc)))
	if err != nil {
		t.Fatal(err)
	}
	return &piece.Job{
		Kit: k, Brief: b, Layouts: layouts.All(), Library: assets.Library(), Shaper: assets.Shaper(), Icons: assets.Icons(),
		Pictures: map[string]photo.Picture{"river.jpg": {Hash: "x", W: 4000, H: 3200}},
	}
}

func job(t testing.TB) *piece.Job {
	t.Helper()
	return jobOf(t, `{"formatVersion":1,"cards":[{"headline":"Quiet water, first strokes","subheading":"Six Saturdays from 3 May","body":"Boats are provided. Bring shoes that can get wet.",
		"facts":[{"icon":"clock","text":"Six Saturdays"},{"icon":"users","text":"Eight people at most"}],"quote":{"text":"I never felt so calm.","source":"Ida, beginner"},
		"callToAction":"Save a seat","website":"larkmoor.example","pictures":[{"file":"river.jpg"}]}]}`)
}

// roles of a running order.
func roles(shots []brief.Shot) (out []string) {
	for _, s := range shots {
		out = append(out, s.Role)
	}
	return out
}

// A running order stops people, makes its points, says who agrees and what to do; what was
// set up by hand is kept.
func TestTheRunningOrder(t *testing.T) {
	j := job(t)
	shots := film.Propose(j.Brief, j.Kit)
	if got, want := roles(shots), []string{"hook", "point", "point", "point", "proof", "call"}; !slices.Equal(got, want) {
		t.Fatalf("it runs %v, want %v", got, want)
	}
	if shots[0].Picture != "river.jpg" || shots[0].Headline != "Quiet water, first strokes" || shots[1].Headline != "Six Saturdays from 3 May" || shots[4].Body != "Ida, beginner" {
		t.Errorf("it says %+v", shots)
	}
	j.Brief.Video = &brief.Video{Shots: []brief.Shot{{Role: "call", Headline: "Now"}}}
	if got := film.Propose(j.Brief, j.Kit); len(got) != 1 || got[0].Headline != "Now" {
		t.Errorf("somebody's own order became %+v", got)
	}
	empty := jobOf(t, `{"formatVersion":1,"cards":[{"callToAction":"","website":""}]}`)
	if got := film.Propose(empty.Brief, empty.Kit); len(got) != 1 || got[0].Headline != empty.Kit.Name {
		t.Errorf("of nothing it makes %+v, want the name alone", got)
	}
}

// Words are there long enough to be read: three a second and 1.2 s to find them; they come and go,
// and stand for 1.2 s at least, at most 9 (common practice of titles on screen).
func TestHowLongShotsRun(t *testing.T) {
	for words, want := range map[string]float64{"": 2.1, "Go": 2.1, "one two three four five six": 3.2, "Donaudampfschifffahrtsgesellschaft": 3.25, "a b c d e f g h i j k l m n o p q r s t u v w x y z": 9} {
		if got := film.Seconds(brief.Shot{Role: film.Point, Headline: words}, film.Spoken{}); math.Abs(got-want) > 1e-9 {
			t.Errorf("%q runs %v s, want %v", words, got, want)
		}
	}
	if got := film.Seconds(brief.Shot{Role: film.Call, Headline: "Go"}, film.Spoken{}); got != 3 {
		t.Errorf("what to do is there for %v s", got)
	}
	if got := film.Seconds(brief.Shot{Role: film.Hook, Headline: "Go", Seconds: 4.5}, film.Spoken{}); got != 4.5 {
		t.Errorf("what somebody said became %v s", got)
	}
}

// TestWordsHoldStillToBeRead: from when the last words of a shot have come until the first go there
// is time to read them: 17 letters a second (as of captions), at least 1.2 s.
func TestWordsHoldStillToBeRead(t *testing.T) {
	j := job(t)
	for _, corners := range []string{"sharp", "soft", "round"} {
		for _, place := range []string{"video-tall", "video-square", "video-wide"} {
			j.Kit.Manner.Corners = corners
			shots := film.Propose(j.Brief, j.Kit)
			for _, take := range filmOf(t, j, place).Takes {
				if take.Shot < 0 {
					continue
				}
				come, letters := 0.0, len([]rune(shots[take.Shot].Headline+shots[take.Shot].Body))
				for _, l := range take.Layers {
					if l.Drawing.Parts[0].Words() {
						come = math.Max(come, l.Move.Delay+l.Move.For)
					}
				}
				if still, need := take.Settled()-take.From-come, math.Max(1.2, float64(letters)/17); still < need-1e-9 {
					t.Errorf("%s in %s: %d letters of the %s stand for %.2f s, want %.2f", corners, place, letters, take.Role, still, need)
				}
			}
		}
	}
}

func filmOf(t *testing.T, j *piece.Job, place string) *film.Film {
	t.Helper()
	p, err := spec.Parse(place)
	if err != nil {
		t.Fatal(err)
	}
	return film.Of(j, j.First(), p, nil)
}

// Takes follow each other without a gap, in whole frames; the first frame shows what the
// film is about; at the end of a take everything stands where the piece has it.
func TestAFilm(t *testing.T) {
	j := job(t)
	j.Brief.Video = &brief.Video{NoOpening: true}
	for _, place := range []string{"video-tall", "video-square", "video-wide"} {
		f := filmOf(t, j, place)
		if f.Frames() < 300 || math.Abs(f.Seconds()*float64(f.FPS)-float64(f.Frames())) > 1e-6 {
			t.Errorf("%s has %d frames in %v s", place, f.Frames(), f.Seconds())
		}
		for i := range f.Takes {
			take := &f.Takes[i]
			if i > 0 && take.From != f.Takes[i-1].To {
				t.Errorf("%s: the %s begins at %v, the take before ends at %v", place, take.Role, take.From, f.Takes[i-1].To)
			}
			end := f.At(take.Settled() - 1e-6)
			seen := 0
			for _, p := range end {
				if p.Take != i {
					continue
				}
				seen++
				if p.Alpha < 0.999 || p.Down > 0.5 {
					t.Errorf("%s: at the end of the %s %s stands at %.2f, %.1f px low", place, take.Role, p.Layer.Slot, p.Alpha, p.Down)
				}
			}
			if seen != len(take.Layers) {
				t.Errorf("%s: at the end of the %s %d of %d layers are seen", place, take.Role, seen, len(take.Layers))
			}
		}
		words, picture := false, false
		for _, p := range f.At(0) {
			part := p.Layer.Drawing.Parts[0]
			words = words || part.Words() && p.Alpha == 1 && p.Down == 0
			picture = picture || part.Kind == scene.KindPicture
		}
		if !words || !picture {
			t.Errorf("%s: the first frame has words %v, a picture %v", place, words, picture)
		}
	}
}

// In a tall or square film the hook is there at once, without a word of the kit's before it; what
// the kit asks to open with stands a second at most. A wide one opens with the brand.
func TestTheHookIsThereAtOnce(t *testing.T) {
	j := job(t)
	for place, opens := range map[string]bool{"video-tall": false, "video-square": false, "video-wide": true} {
		f := filmOf(t, j, place)
		if got := f.Takes[0].Role == film.Opening; got != opens {
			t.Errorf("%s opens with its %s", place, f.Takes[0].Role)
		}
		if opens {
			continue
		}
		largest := 0.0
		for _, p := range f.At(0.3) {
			if part := p.Layer.Drawing.Parts[0]; part.Words() && p.Alpha > 0.9 {
				largest = math.Max(largest, part.SeenPx())
			}
		}
		if largest < 0.05*float64(min(f.W, f.H)) {
			t.Errorf("%s: at 0.3 s the largest words are %.0f px", place, largest)
		}
	}
	j.Kit.Motion.Opening = brand.Bookend{From: "tagline", Duration: 3}
	if f := filmOf(t, j, "video-tall"); f.Takes[0].Role != film.Opening || f.Takes[0].To > 1 {
		t.Errorf("asked for, the opening is %s for %.1f s", f.Takes[0].Role, f.Takes[0].To)
	}
}

// Shots that follow each other are composed otherwise and come in otherwise.
func TestNeighboursDiffer(t *testing.T) {
	j := job(t)
	j.Brief.Video = &brief.Video{NoOpening: true, NoClosing: true}
	for _, text := range []string{"Six Saturdays", "Eight people", "One river", "No hurry", "Save a seat"} {
		j.Brief.Video.Shots = append(j.Brief.Video.Shots, brief.Shot{Role: film.Point, Headline: text})
	}
	f := filmOf(t, j, "video-tall")
	ground := func(k int) colour.RGB { return f.Takes[k].Layers[0].Drawing.Parts[0].Fill }
	for k := 1; k < len(f.Takes); k++ {
		if ground(k) == ground(k-1) {
			t.Errorf("shots %d and %d stand on the same ground", k-1, k)
		}
		if k > 1 && f.Takes[k].In == f.Takes[k-1].In {
			t.Errorf("shots %d and %d come in alike: %+v", k-1, k, f.Takes[k].In)
		}
	}
}

// roundLogo is a black disc.
func roundLogo() []brand.Logo {
	return []brand.Logo{{File: "l", Lockup: "symbol", Tone: "full-colour", Lead: true, Art: &brand.Art{
		View: [4]float64{0, 0, 100, 100}, SVG: `<circle cx="50" cy="50" r="50"/>`, Inks: []colour.Found{{Colour: colour.Black, Share: 1}},
	}}}
}

// At no frame does the corner mark lie on words, not while one shot gives way to the next either.
func TestTheMarkKeepsOffWordsAtEveryFrame(t *testing.T) {
	j := job(t)
	j.Kit.Logos = roundLogo()
	marked := 0
	for _, place := range []string{"video-tall", "video-square", "video-wide"} {
		f := filmOf(t, j, place)
		for n := range f.Frames() {
			poses := f.At(float64(n) / float64(f.FPS))
			for _, m := range poses {
				if m.Take != film.OfMark {
					continue
				}
				marked++
				for _, p := range poses {
					part := p.Layer.Drawing.Parts[0]
					if p.Take < 0 || !part.Words() || p.Alpha == 0 {
						continue
					}
					b := part.Box
					b.X, b.Y = b.X+p.Shift[0], b.Y+p.Shift[1]+p.Down
					if b.Intersect(p.Show).Overlaps(m.Layer.Drawing.Parts[0].Box, 1) {
						t.Fatalf("%s, frame %d: the mark lies on “%s”", place, n, part.Text)
					}
				}
			}
		}
	}
	if marked == 0 {
		t.Error("no film has a mark")
	}
}

// The first frame stands for a film in lists: with an opening it has the brand on it. A shot
// whose words go before they are read is pointed out, one of plain words is not.
func TestWhatToLookAt(t *testing.T) {
	j := job(t)
	f := filmOf(t, j, "video-wide")
	said := false
	for _, p := range f.At(0) {
		part := p.Layer.Drawing.Parts[0]
		said = said || (part.Words() || part.Kind == scene.KindLogo) && p.Alpha == 1
	}
	if f.Takes[0].Role != film.Opening || !said {
		t.Errorf("the first frame, of the %s, is empty", f.Takes[0].Role)
	}
	for _, take := range f.Takes {
		if len(take.Findings) > 0 {
			t.Errorf("of the demo's %s: %+v", take.Role, take.Findings)
		}
	}
	j.Brief.Video = &brief.Video{Shots: []brief.Shot{{Role: "hook", Headline: "These are a dozen words that nobody on earth reads in a second", Seconds: 1}, {Role: "point", Headline: "Go", Seconds: 2}}}
	f = filmOf(t, j, "video-wide")
	if got := f.Takes[1].Findings; len(got) != 1 || got[0].Code != "too-fast" || got[0].Limit < 4 {
		t.Errorf("twelve words in a second: %+v", got)
	}
	if got := f.Takes[2].Findings; len(got) != 0 {
		t.Errorf("one word in two seconds: %+v", got)
	}
}

// A film is a function of time alone: nothing jumps between frames but at cuts, and asking
// twice gives the same.
func TestNothingJumps(t *testing.T) {
	f := filmOf(t, job(t), "video-tall")
	type key struct{ take, index int }
	before := map[key]film.Pose{}
	for n := range f.Frames() {
		at := float64(n) / float64(f.FPS)
		now := f.At(at)
		if !reflect.DeepEqual(now, f.At(at)) {
			t.Fatalf("frame %d differs from itself", n)
		}
		next := map[key]film.Pose{}
		for _, p := range now {
			k := key{p.Take, p.Index}
			next[k] = p
			was, ok := before[k]
			if !ok || p.Take < 0 {
				continue
			}
			size := p.Layer.Drawing.Parts[0].SeenPx()
			fades := 0.26
			if p.Layer.Move.Leave { // words go in a quarter of a second, quickly at first
				fades = 0.32
			}
			if math.Abs(p.Alpha-was.Alpha) > fades || math.Abs(p.Down-was.Down) > 0.25*size+1 || math.Abs(p.Zoom-was.Zoom) > 0.01 {
				t.Errorf("frame %d: %s goes from %.2f, %.1f px, %.3f to %.2f, %.1f px, %.3f", n, p.Layer.Slot, was.Alpha, was.Down, was.Zoom, p.Alpha, p.Down, p.Zoom)
			}
		}
		before = next
	}
}

// Odd briefs make films: one word, three hundred letters, Arabic, no picture, four pictures.
func TestOddBriefs(t *testing.T) {
	for name, doc := range map[string]string{
		"one word": `{"formatVersion":1,"cards":[{"headline":"Go"}]}`,
		"Arabic":   `{"formatVersion":1,"cards":[{"headline":"رحلة هادئة على النهر","callToAction":"احجز"}]}`,
		"long":     `{"formatVersion":1,"cards":[{"headline":"` + string(slices.Repeat([]byte("Kanukurs "), 33)) + `","pictures":[{"file":"river.jpg"},{"file":"river.jpg"},{"file":"river.jpg"},{"file":"river.jpg"}]}]}`,
		"nothing":  `{"formatVersion":1,"cards":[{"callToAction":"","website":""}]}`,
	} {
		j := jobOf(t, doc)
		for _, place := range []string{"video-tall", "ad-728x90"} {
			f := filmOf(t, j, place)
			for _, at := range []float64{-1, 0, 0.3, f.Seconds() / 2, f.Seconds(), 1e6} {
				for _, p := range f.At(at) {
					if math.IsNaN(p.Alpha+p.Down+p.Zoom) || p.Alpha < 0 || p.Alpha > 1 {
						t.Errorf("%s at %v: %+v", name, at, p)
					}
				}
			}
		}
	}
}

// Of an offer the price is what its shot says, as large as it goes; the headline is said twice at most.
func TestAnOfferSpeaksForItself(t *testing.T) {
	j := jobOf(t, `{"formatVersion":1,"cards":[{"headline":"Two boards for the river","offer":{"percent":20},"callToAction":"Save a seat"}]}`)
	said := 0
	for _, s := range film.Propose(j.Brief, j.Kit) {
		if s.Headline == "Two boards for the river" {
			said++
		}
	}
	if said > 2 {
		t.Errorf("the headline is said %d times", said)
	}
	f := filmOf(t, j, "video-square")
	for _, take := range f.Takes {
		if take.Role != film.Offer {
			continue
		}
		for _, l := range take.Layers {
			for _, p := range l.Drawing.Parts {
				if p.Slot == "headline" && strings.Contains(p.Text, "20") {
					return
				}
			}
		}
	}
	t.Error("no shot says the offer as its headline")
}

// TestAFactKeepsItsIcon: the icon of a fact stands with its words in its shot, in the safe area,
// in a colour that is told from its ground, apart from all words; where there is no room for it
// the words stay as they were.
func TestAFactKeepsItsIcon(t *testing.T) {
	j := job(t)
	for _, place := range []string{"video-tall", "video-wide", "video-square"} {
		p, _ := spec.Find(place)
		f := filmOf(t, j, place)
		seen := 0
		for _, take := range f.Takes {
			for _, l := range take.Layers {
				icon := l.Drawing.Parts[0]
				if icon.Kind != scene.KindIcon {
					continue
				}
				seen++
				if r := colour.Contrast(icon.Fill, icon.Ground); icon.Ground != (colour.RGB{}) && r < 3 {
					t.Errorf("%s: an icon at %.1f:1", place, r)
				}
				if !p.SafeBox().Contains(icon.Box, 1.5) {
					t.Errorf("%s: an icon at %v, outside %v", place, icon.Box, p.SafeBox())
				}
				for _, o := range take.Layers {
					w := o.Drawing.Parts[0]
					if !w.Words() {
						continue
					}
					for _, line := range w.Lines {
						ink := spec.Rect{X: line.X + line.Line.Ink.X0*w.SizePx, Y: line.Y + line.Line.Ink.Y0*w.SizePx, W: (line.Line.Ink.X1 - line.Line.Ink.X0) * w.SizePx, H: (line.Line.Ink.Y1 - line.Line.Ink.Y0) * w.SizePx}
						if ink.Overlaps(icon.Box, 0) {
							t.Errorf("%s: an icon at %v on %q at %v", place, icon.Box, w.Text, ink)
						}
					}
				}
			}
		}
		if seen != 2 {
			t.Errorf("%s: %d icons, the brief has two facts with one", place, seen)
		}
	}
}

// An icon that is a picture of the kit is shown in its shot as that picture.
func TestAnIconOfTheKitIsShown(t *testing.T) {
	j := job(t)
	j.Kit.Pictures = append(j.Kit.Pictures, brand.Picture{File: "pictures/clock.png", Kind: brand.Icon})
	j.KitPictures = map[string]photo.Picture{"pictures/clock.png": {Hash: "own", W: 400, H: 400}}
	shown := 0
	for _, take := range filmOf(t, j, "video-tall").Takes {
		for _, l := range take.Layers {
			if p := l.Drawing.Parts[0]; p.Kind == scene.KindPicture && p.Picture == "own" {
				shown++
				if r := p.Box.W / p.Box.H; r < 0.99 || r > 1.01 {
					t.Errorf("it stands at %v", p.Box)
				}
			}
		}
	}
	if shown != 1 {
		t.Errorf("it is shown %d times, one fact has it", shown)
	}
}
