package film_test

import (
	"math"
	"slices"
	"strings"
	"testing"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/caption"
	"aspenridge/internal/core/film"
	"aspenridge/internal/core/motion"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/preflight"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/sound"
	"aspenridge/internal/core/spec"
)

// spokenOf is what a voice of so many words a minute would say of a script.
func spokenOf(script []string) []film.Spoken {
	out := make([]film.Spoken, len(script))
	for i, s := range script {
		if s == "" {
			continue
		}
		d := float64(len(strings.Fields(s))) / 2.5
		out[i] = film.Spoken{Seconds: d, Words: caption.Spread(s, 0, d)}
	}
	return out
}

// saidFilm is the film of the demo's job with a voice.
func saidFilm(t *testing.T, place string, change func(*brief.Video)) *film.Film {
	t.Helper()
	j := job(t)
	shots := film.Propose(j.Brief, j.Kit)
	shots[1].Say = "Six Saturdays in May and June, an hour each, with somebody beside you who has done it for years."
	v := &brief.Video{Shots: shots, Voice: "middle"}
	if change != nil {
		change(v)
	}
	j.Brief.Video = v
	p, ok := spec.Find(place)
	if !ok {
		t.Fatal(place)
	}
	return film.Of(j, j.First(), p, spokenOf(film.Script(v.Shots)))
}

// TestWhatIsSaid: shots run as long as what is said in them takes, captions come with it,
// and are drawn only over the shot whose words are not on the screen.
func TestWhatIsSaid(t *testing.T) {
	for _, place := range []string{"video-wide", "video-square", "video-tall"} {
		p, _ := spec.Find(place)
		f := saidFilm(t, place, nil)
		j := job(t)
		in := motion.Input{Kit: j.Kit, Library: j.Library, Shaper: j.Shaper, Placement: p}
		room := motion.CaptionRoom(in)
		said := f.Takes[slices.IndexFunc(f.Takes, func(k film.Take) bool { return k.Shot == 1 })]
		if said.To-said.From < 8 {
			t.Fatalf("%s: the second shot runs %.1f s", place, said.To-said.From)
		}
		var words []string
		for _, c := range f.Cues {
			if c.From >= said.From && c.To <= said.To {
				words = append(words, strings.Fields(c.Text)...)
			}
		}
		if got := strings.Join(words, " "); got != "Six Saturdays in May and June, an hour each, with somebody beside you who has done it for years." {
			t.Errorf("%s: captions say %q", place, got)
		}
		if len(f.Over) == 0 {
			t.Fatalf("%s: nothing is drawn of them", place)
		}
		for _, o := range f.Over {
			if o.From < said.From-1e-9 || o.To > said.To+1e-9 {
				t.Errorf("%s: a caption is drawn from %.2f to %.2f, the shot runs from %.2f to %.2f", place, o.From, o.To, said.From, said.To)
			}
			if !room.Contains(o.Layer.Drawing.Parts[0].Box, 1) {
				t.Errorf("%s: drawn at %+v, the room is %+v", place, o.Layer.Drawing.Parts[0].Box, room)
			}
		}
		for _, l := range said.Layers { // the words of the shot made room
			if part := l.Drawing.Parts[0]; part.Words() && part.Box.Overlaps(room, 1) {
				t.Errorf("%s: %q stands under the captions", place, part.Text)
			}
		}
		// in each moment at most one caption, one word set off
		for n := range f.Frames() {
			ground, spoken := 0, 0
			for _, pose := range f.At(float64(n) / float64(f.FPS)) {
				if pose.Take != film.OfOver {
					continue
				}
				switch part := pose.Layer.Drawing.Parts[0]; {
				case part.Slot == "spoken":
					spoken++
				case !part.Words():
					ground++
				}
			}
			if ground > 1 || spoken > 1 || spoken > ground {
				t.Fatalf("%s, frame %d: %d captions, %d words set off", place, n, ground, spoken)
			}
		}
	}
}

// TestWaysOfCaptions: all of what is said, only beside, none, one's own.
func TestWaysOfCaptions(t *testing.T) {
	all := saidFilm(t, "video-square", func(v *brief.Video) { v.Captions = "all" })
	beside := saidFilm(t, "video-square", func(v *brief.Video) { v.Captions = "beside" })
	none := saidFilm(t, "video-square", func(v *brief.Video) { v.Captions = "none" })
	ruled := saidFilm(t, "video-square", nil)
	if len(all.Over) <= len(ruled.Over) || len(beside.Over) != 0 || len(beside.Cues) == 0 || len(none.Over)+len(none.Cues) != 0 {
		t.Errorf("drawn: all %d, ruled %d, beside %d, none %d; cues beside %d, none %d", len(all.Over), len(ruled.Over), len(beside.Over), len(none.Over), len(beside.Cues), len(none.Cues))
	}
	own := saidFilm(t, "video-square", func(v *brief.Video) {
		v.Cues = []brief.Cue{{From: 3, To: 4.5, Text: "Hello"}, {From: 4, To: 6, Text: "from the river"}, {From: 900, To: 901, Text: "late"}}
	})
	if len(own.Cues) != 3 || own.Cues[0].To != 4 || len(own.Over) < 4 {
		t.Errorf("own captions: %+v, %d drawn", own.Cues, len(own.Over))
	}
	// a voice that says nothing, and a script without a voice
	j := job(t)
	j.Brief.Video = &brief.Video{Shots: []brief.Shot{{Role: film.Hook, Headline: "One", Seconds: 5, Say: "Somebody reads this out"}, {Role: film.Point, Headline: "Two", Silent: true}}}
	p, _ := spec.Find("video-square")
	f := film.Of(j, j.First(), p, nil)
	if len(f.Cues) != 1 || f.Cues[0].Text != "Somebody reads this out" {
		t.Errorf("captions of what is written to be said: %+v", f.Cues)
	}
	if s := film.Script(j.Brief.Video.Shots); s[1] != "" {
		t.Errorf("a silent shot says %q", s[1])
	}
}

// TestCaptionsAreChecked: too fast to read, over what matters, cut off.
func TestCaptionsAreChecked(t *testing.T) {
	codes := func(f *film.Film) map[string]bool {
		out := map[string]bool{}
		for _, k := range f.Takes {
			for _, found := range k.Findings {
				out[found.Code] = true
			}
		}
		return out
	}
	if got := codes(saidFilm(t, "video-square", nil)); got["caption-fast"] || got["said-over"] {
		t.Errorf("by the rule: %v", got)
	}
	fast := saidFilm(t, "video-square", func(v *brief.Video) {
		v.Cues = []brief.Cue{{From: 3, To: 3.5, Text: "Far too many letters for half a second of time"}}
	})
	if !codes(fast)["caption-fast"] {
		t.Error("a caption of 46 letters in half a second is fine")
	}
	cut := saidFilm(t, "video-square", func(v *brief.Video) { v.Shots[1].Seconds = 2 })
	if !codes(cut)["said-over"] {
		t.Error("a shot that ends before what is said in it is fine")
	}
}

// TestSound: what is said begins with its shot, is cut with it, and the music goes down
// under it; all together are as loud as videos are to be.
func TestSound(t *testing.T) {
	f := saidFilm(t, "video-square", func(v *brief.Video) { v.NoOpening = true; v.Shots = v.Shots[:2] })
	tone := func(s, hz, level float64) sound.Track {
		out := make(sound.Track, 2*int(s*sound.Rate))
		for i := range out {
			out[i] = float32(level * math.Sin(2*math.Pi*hz*float64(i/2)/sound.Rate))
		}
		return out
	}
	music := sound.Music{{Track: tone(f.Seconds(), 220, 0.3), Under: 0.22}}
	// how much there is of a pitch in a stretch (one bin of a Fourier transform)
	level := func(t sound.Track, hz, from, to float64) float64 {
		a, b, n := 0.0, 0.0, 0
		for i := int(from * sound.Rate); i < int(to*sound.Rate); i++ {
			x := 2 * math.Pi * hz * float64(i) / sound.Rate
			a, b, n = a+float64(t[2*i])*math.Cos(x), b+float64(t[2*i])*math.Sin(x), n+1
		}
		return 2 * math.Hypot(a, b) / float64(n)
	}
	at, end, _ := f.SayAt(1)
	mix := f.Sound(music, []sound.Track{nil, tone(2, 1000, 0.5)}, nil)
	if math.Abs(mix.Seconds()-f.Seconds()) > 1.0/48000 || math.Abs(mix.Loudness()-sound.Loud) > 0.5 || mix.TruePeak() > sound.MostTop {
		t.Errorf("%.3f s of %.3f, %.1f LUFS, %.1f dBTP", mix.Seconds(), f.Seconds(), mix.Loudness(), mix.TruePeak())
	}
	if before, during := level(mix, 1000, at-0.3, at-0.05), level(mix, 1000, at+0.1, at+1.9); during < 0.1 || before > during/50 {
		t.Errorf("the voice: %.4f before, %.4f while it speaks", before, during)
	}
	down := 20 * math.Log10(level(mix, 220, at+0.2, at+1.8)/level(mix, 220, at+3.5, end))
	if down > -10 || down < -20 {
		t.Errorf("the music goes down by %.1f dB", down)
	}
	long := f.Sound(nil, []sound.Track{tone(60, 1000, 0.5), nil}, nil)
	first, firstEnd, _ := f.SayAt(0)
	if got := level(long, 1000, firstEnd+0.1, f.Seconds()-0.1); first < 0 || got > 1e-3 {
		t.Errorf("what is said goes on after its shot: %.4f", got)
	}
	if f.Sound(nil, nil, nil) != nil {
		t.Error("silence is a track")
	}
}

// TestCaptionsAtTheHead: a kit may have its captions at the head of the frame, in one line: the
// words of the shot keep off them, and no caption has more.
func TestCaptionsAtTheHead(t *testing.T) {
	for _, place := range []string{"video-wide", "video-tall"} {
		p, _ := spec.Find(place)
		j := job(t)
		kit := *j.Kit
		kit.Motion.Captions.Place, kit.Motion.Captions.Lines = "head", 1
		j.Kit = &kit
		j.Brief.Video = &brief.Video{NoOpening: true, NoClosing: true, Voice: "low", Shots: []brief.Shot{{Role: "hook", Headline: "Quiet water", Say: "Six Saturdays in May and June, an hour each, with somebody beside you who has done it for years."}}}
		f := film.Of(j, j.First(), p, spokenOf(film.Script(j.Brief.Video.Shots)))
		room := motion.CaptionRoom(motion.Input{Kit: j.Kit, Library: j.Library, Shaper: j.Shaper, Placement: p})
		if room.Bottom() > 0.4*float64(p.Height) || len(f.Over) == 0 {
			t.Fatalf("%s: %d parts in %+v", place, len(f.Over), room)
		}
		for _, c := range f.Cues {
			if strings.Contains(c.Text, "\n") || len([]rune(c.Text)) > caption.MostLine {
				t.Errorf("%s: a caption of %q", place, c.Text)
			}
		}
		for _, o := range f.Over {
			if b := o.Layer.Drawing.Parts[0].Box; !room.Contains(b, 1) {
				t.Errorf("%s: drawn at %+v, the room is %+v", place, b, room)
			}
		}
		for _, l := range f.Takes[0].Layers {
			if part := l.Drawing.Parts[0]; part.Words() && part.Box.Overlaps(room, 1) {
				t.Errorf("%s: %q stands under the captions", place, part.Text)
			}
		}
	}
}

// TestWhatIsOnlyHeard: where somebody speaks and nothing is to be read, or a clip is heard, it
// is said; not where it is muted or captioned.
func TestWhatIsOnlyHeard(t *testing.T) {
	says := func(change func(j *piece.Job, v *brief.Video)) bool {
		j := job(t)
		v := &brief.Video{NoOpening: true, NoClosing: true, Shots: []brief.Shot{{Role: "hook", Headline: "Quiet water", Picture: "river.jpg"}}}
		change(j, v)
		j.Brief.Video = v
		p, _ := spec.Find("video-square")
		var spoken []film.Spoken
		if v.Voice != "" {
			spoken = spokenOf(film.Script(v.Shots))
		}
		f := film.Of(j, j.First(), p, spoken)
		return slices.ContainsFunc(f.Takes[0].Findings, func(f preflight.Finding) bool { return f.Code == "heard-only" })
	}
	clip := func(j *piece.Job) {
		pic := j.Pictures["river.jpg"]
		pic.Clip = &photo.Clip{Hash: "film", Seconds: 8, Sound: true}
		j.Pictures["river.jpg"] = pic
	}
	for name, c := range map[string]struct {
		change func(j *piece.Job, v *brief.Video)
		want   bool
	}{
		"silent":        {func(j *piece.Job, v *brief.Video) {}, false},
		"spoken":        {func(j *piece.Job, v *brief.Video) { v.Voice = "low" }, false},
		"no captions":   {func(j *piece.Job, v *brief.Video) { v.Voice, v.Captions = "low", "none" }, true},
		"a loud clip":   {func(j *piece.Job, v *brief.Video) { clip(j) }, true},
		"a muted clip":  {func(j *piece.Job, v *brief.Video) { clip(j); v.Shots[0].Mute = true }, false},
		"captioned one": {func(j *piece.Job, v *brief.Video) { clip(j); v.Cues = []brief.Cue{{From: 0, To: 3, Text: "Water"}} }, false},
	} {
		if got := says(c.change); got != c.want {
			t.Errorf("%s: it is said: %v", name, got)
		}
	}
}

// TestOnTheBeat: where there is music every shot ends on one, on the next bar where it need not be
// more than 15% longer for it, and none is shorter than it takes to read.
func TestOnTheBeat(t *testing.T) {
	free := saidFilm(t, "video-square", func(v *brief.Video) { v.Music, v.NoBeat = "market-day", true })
	beaten := saidFilm(t, "video-square", func(v *brief.Video) { v.Music = "market-day" })
	const beat = 60.0 / 108 // s, the tempo the piece is written in
	bars := 0
	for i, k := range beaten.Takes {
		if k.Shot < 0 { // what the kit opens and closes with runs as long as the kit says
			continue
		}
		run := free.Takes[i].To - free.Takes[i].From
		if bar := 4 * beat * math.Ceil((k.From+run-0.1)/(4*beat)); bar-k.From-run < 0.14*run {
			if bars++; math.Abs(k.To-bar) > 2.0/30 {
				t.Errorf("%s ends at %.3f s, a bar at %.3f s", k.Role, k.To, bar)
			}
		}
		if off := math.Abs(math.Remainder(k.To, beat)); off > 1.0/30 {
			t.Errorf("%s ends at %.3f s, %.3f s off a beat", k.Role, k.To, off)
		}
		if was := free.Takes[i].To - free.Takes[i].From; k.To-k.From < was-0.15 || k.To-k.From > was+2*beat {
			t.Errorf("%s runs %.2f s, free %.2f s", k.Role, k.To-k.From, was)
		}
	}
	if bars == 0 {
		t.Error("no cut near a bar")
	}
}

// TestCalm: nothing changes its place or size.
func TestCalm(t *testing.T) {
	f := saidFilm(t, "video-wide", func(v *brief.Video) { v.Calm = true })
	for n := range f.Frames() {
		for _, p := range f.At(float64(n) / float64(f.FPS)) {
			if p.Down != 0 || p.Zoom != 1 || p.Show.W != float64(f.W) || p.Show.H != float64(f.H) {
				t.Fatalf("frame %d: %+v", n, p)
			}
		}
	}
}

// TestShorten: a proposal that fits leaves points out from the last on, then time, and keeps
// what stops people and what they are to do.
func TestShorten(t *testing.T) {
	j := job(t)
	shots := film.Propose(j.Brief, j.Kit)
	j.Brief.Video = &brief.Video{Shots: shots, Voice: "low"}
	said := spokenOf(film.Script(shots))
	p, _ := spec.Find("video-square")
	whole := film.Of(j, j.First(), p, said).Seconds()
	for _, limit := range []float64{whole + 1, whole - 1, 15, 10.5, 3} {
		within := p
		within.MaxSeconds = limit
		cut := film.Shorten(j, said, within)
		kept := roles(cut.Shots)
		if kept[0] != film.Hook || kept[len(kept)-1] != film.Call {
			t.Errorf("within %.1f s: %v", limit, kept)
		}
		if (limit > whole) != (len(cut.Out) == 0) || len(cut.Shots) > len(shots) {
			t.Errorf("within %.1f of %.1f s it leaves out %q", limit, whole, cut.Out)
		}
		if limit > 10 && !cut.Fits {
			t.Errorf("within %.1f s it does not fit", limit)
		}
		b := *j
		with := *j.Brief
		with.Video = &brief.Video{Shots: cut.Shots, Voice: "low"}
		b.Brief = &with
		f := film.Of(&b, b.First(), p, spokenOf(film.Script(cut.Shots)))
		if cut.Fits != (f.Seconds() <= limit+0.05) {
			t.Errorf("within %.1f s: it is said to fit (%v), and runs %.2f s", limit, cut.Fits, f.Seconds())
		}
	}
	p.MaxSeconds = 5
	if f := film.Of(j, j.First(), p, said); math.Abs(f.TooLong(p)-(whole-5)) > 1e-9 {
		t.Errorf("over by %.2f s", f.TooLong(p))
	}
}

// TestAClipRuns: where a picture is a frame of a clip it runs, from where it is said to, for
// as long as there is of it; the kit's opens the video.
func TestAClipRuns(t *testing.T) {
	j := job(t)
	pic := j.Pictures["river.jpg"]
	pic.Clip = &photo.Clip{Hash: "film", Seconds: 5, Sound: true}
	j.Pictures["river.jpg"] = pic
	j.Brief.Video = &brief.Video{NoClosing: true, Shots: []brief.Shot{
		{Role: film.Hook, Headline: "Go", Picture: "river.jpg", From: 2},
		{Role: film.Point, Headline: "Further", Picture: "river.jpg", From: 3, Seconds: 4, Mute: true},
	}}
	j.KitClips = map[string]photo.Picture{"opens.mp4": {Hash: "y", W: 1920, H: 1080, Clip: &photo.Clip{Hash: "opens", Seconds: 3.2, Sound: true}}}
	j.Kit.Motion.Opening = brand.Bookend{From: "clip", Clip: "opens.mp4", Duration: 2}
	p, _ := spec.Find("video-tall")
	f := film.Of(j, j.First(), p, nil)
	var runs []*film.Clip
	for _, k := range f.Takes {
		for _, l := range k.Layers {
			if l.Clip != nil {
				runs = append(runs, l.Clip)
				if c := l.Clip.Crop; c[0] < 0 || c[1] < 0 || c[0]+c[2] > 1.001 || c[1]+c[3] > 1.001 || c[2] <= 0 || c[3] <= 0 {
					t.Errorf("%s shows %v of it", k.Role, c)
				}
			}
		}
	}
	if len(runs) != 3 || runs[0].Hash != "opens" || math.Abs(f.Takes[0].To-1) > 0.02 {
		t.Fatalf("%d clips run, the opening %.2f s", len(runs), f.Takes[0].To)
	}
	if first := f.Takes[1]; runs[1].From != 2 || math.Abs(first.To-first.From-3) > 0.05 || !runs[1].Loud {
		t.Errorf("the first shot runs %.2f s, %+v", first.To-first.From, runs[1])
	}
	if runs[2].For != 2 || runs[2].Loud {
		t.Errorf("the second: %+v", runs[2])
	}
	short := slices.ContainsFunc(f.Takes[2].Findings, func(f preflight.Finding) bool { return f.Code == "clip-short" })
	if loud := f.Loud(); len(loud) != 2 || loud[1].At != f.Takes[1].From || !short {
		t.Errorf("heard %+v, said to end before its shot: %v", loud, short)
	}
}

// TestTheFirstFrame: what feeds show before the video plays has something on it, or it is
// said.
func TestTheFirstFrame(t *testing.T) {
	said := func(s brief.Shot) bool {
		j := job(t)
		j.Brief.Video = &brief.Video{NoOpening: true, NoMark: true, Shots: []brief.Shot{s}}
		p, _ := spec.Find("video-square")
		f := film.Of(j, j.First(), p, nil)
		return slices.ContainsFunc(f.Takes[0].Findings, func(f preflight.Finding) bool { return f.Code == "first-empty" })
	}
	if said(brief.Shot{Role: film.Hook, Headline: "Go"}) || said(brief.Shot{Role: film.Hook, Picture: "river.jpg"}) {
		t.Error("words or a picture are said to be nothing")
	}
	if !said(brief.Shot{Role: film.Hook, Picture: "gone.jpg"}) {
		t.Error("a picture that is not there any more is said to be something")
	}
}

// TestPicturesGrowAboutWhatMatters: what somebody said matters stays where it is.
func TestPicturesGrowAboutWhatMatters(t *testing.T) {
	j := job(t)
	j.Pictures["river.jpg"] = j.Pictures["river.jpg"].FocusedOn([2]float64{0.3, 0.6})
	j.Brief.Video = &brief.Video{NoOpening: true, Shots: []brief.Shot{{Role: film.Hook, Headline: "Go", Picture: "river.jpg"}}}
	p, _ := spec.Find("video-wide")
	f := film.Of(j, j.First(), p, nil)
	for _, l := range f.Takes[0].Layers {
		part := l.Drawing.Parts[0]
		if part.Kind != scene.KindPicture {
			continue
		}
		x := part.Box.X + (0.3*4000-part.Crop.X)*part.Box.W/part.Crop.W
		y := part.Box.Y + (0.6*3200-part.Crop.Y)*part.Box.H/part.Crop.H
		if a := l.Move.About; math.Abs(a[0]-x) > 0.5 || math.Abs(a[1]-y) > 0.5 {
			t.Errorf("it grows about %v, what matters is at %.0f, %.0f", a, x, y)
		}
		return
	}
	t.Error("there is no picture")
}

// TestCaptionsThatCannotBe: captions are asked for and nobody says a word: it is said, once, and not
// where somebody speaks.
func TestCaptionsThatCannotBe(t *testing.T) {
	for want, voice := range map[bool]string{true: "none", false: "low"} {
		j := job(t)
		v := &brief.Video{Captions: "all", Voice: voice, Shots: []brief.Shot{{Role: "hook", Headline: "Quiet water"}, {Role: "call", Headline: "Come along"}}}
		j.Brief.Video = v
		var spoken []film.Spoken
		if voice != "none" {
			spoken = spokenOf(film.Script(v.Shots))
		}
		p, _ := spec.Find("video-square")
		n := 0
		for _, take := range film.Of(j, j.First(), p, spoken).Takes {
			for _, found := range take.Findings {
				if found.Code == "captions-none" {
					n++
				}
			}
		}
		if got := n == 1; got != want || n > 1 {
			t.Errorf("voice %q: said %d times", voice, n)
		}
	}
}

// TestWhatTheChannelCovers: an own place says where its channel puts signs over the picture.
// Captions keep out of them, beside or above, and stay inside the frame; the corner mark takes
// another corner, and where there is none it is left out and that is said.
func TestWhatTheChannelCovers(t *testing.T) {
	own, _ := spec.Find("video-tall")
	own.ID = "own-tall"
	w, h := float64(own.Width), float64(own.Height)
	for name, c := range map[string]struct {
		covered [][4]float64
		mark    bool // there is a corner for it
	}{
		"a column of buttons": {[][4]float64{{w - 200, 900, 200, 800}}, true},
		"a bar at the foot":   {[][4]float64{{0, h - 460, w, 200}}, true},
		"both":                {[][4]float64{{w - 200, 900, 200, 800}, {0, h - 460, w, 200}}, true},
		"all corners":         {[][4]float64{{0, 200, w, 260}, {0, h - 600, w, 300}}, false},
	} {
		own.KeepOut = c.covered
		j := job(t)
		j.Kit.Logos = roundLogo()
		j.Brief.Video = &brief.Video{Voice: "low", Captions: "all", NoOpening: true, NoClosing: true, Shots: []brief.Shot{
			{Role: "hook", Headline: "Quiet water"}, {Role: "point", Headline: "Six Saturdays", Say: "Six Saturdays on the quiet water from May on"}}}
		f := film.Of(j, j.First(), own, spokenOf(film.Script(j.Brief.Video.Shots)))
		drawn := slices.Clone(f.Over)
		for _, l := range f.Mark {
			drawn = append(drawn, film.TimedLayer{Layer: l})
		}
		for _, o := range drawn {
			b := o.Layer.Drawing.Parts[0].Box
			if !own.SafeBox().Contains(b, 1) {
				t.Errorf("%s: %+v leaves the frame", name, b)
			}
			for _, k := range own.KeepOuts() {
				if b.Overlaps(k, 0.5) {
					t.Errorf("%s: %s at %+v lies under what the channel covers, %+v", name, o.Layer.Drawing.Parts[0].Slot, b, k)
				}
			}
		}
		said := slices.ContainsFunc(f.Takes[0].Findings, func(f preflight.Finding) bool { return f.Code == "mark-covered" })
		if len(f.Over) == 0 || (len(f.Mark) > 0) != c.mark || said == c.mark {
			t.Errorf("%s: %d parts of captions, %d of the mark, it is said: %v", name, len(f.Over), len(f.Mark), said)
		}
	}
}
