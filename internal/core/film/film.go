package film

import (
	"encoding/json"
	"math"
	"slices"
	"strings"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/caption"
	"aspenridge/internal/core/motion"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/preflight"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// Film is a video of one shape: takes one after the other, each of layers.
type Film struct {
	W, H  int           // px
	FPS   int           // frames a second
	Takes []Take        // in order; each begins where the one before ends
	Mark  []Layer       // the corner mark on its plate, and on each flat ground it stands on without one
	Over  []TimedLayer  // captions, from below
	Cues  []caption.Cue // what is said and when, drawn or not; in order
	Alt   string
	Round bool // it may be played round and round without an end

	calm   bool     // nothing moves
	counts *counter // numbers count up; nil for numbers that stand
	beat   float64  // s between beats takes end on, 0 for any time
}

// Take is a shot in time.
type Take struct {
	Role   string  // of the shot; "opening" and "closing" of the kit's
	Shot   int     // which of the running order, -1 for the kit's
	From   float64 // s
	To     float64 // s
	In     In
	Leave  float64 // s before its end its words begin to go; 0 for words that stay
	Layers []Layer // from below
	Mark   []int   // the layers of the film's mark that stand over it, none for no mark
	MarkIn float64 // s after it begins the mark is there: nothing of the take before is under it by then

	Findings []preflight.Finding // what to look at, notes left out

	subjects  []spec.Rect // px of what matters in its pictures
	captioned bool        // captions are drawn over it
	goes      goes
}

// The takes of the kit.
const (
	Opening = "opening"
	Closing = "closing"
)

// Layer is what is drawn once and moved as one.
type Layer struct {
	Slot    string
	Drawing *scene.Scene // one part, on the whole canvas
	Box     spec.Rect    // px, all it draws lies within
	Move    Move
	While   [2]float64 // s of its take from and to which it is there; both 0 for all of it
	Clip    *Clip      // what runs in its frame, nil for what stands
}

// Clip is a stretch of a film that runs in the frame of a picture.
type Clip struct {
	Hash  string
	From  float64    // s into it
	For   float64    // s it runs; its last frame stays
	Crop  [4]float64 // x, y, w, h of what is shown, 0-1 of its frames
	Loud  bool       // it is heard
	Tone  scene.Tone // as the picture has it in the place of which it runs
	Dials scene.Dials
}

// rate is how many frames a second a film has where its place does not say.
const rate = 30

// clearance is how far words keep off the room of captions, of its height.
const clearance = 0.22

// Of makes the film of a brief for a place, with what is said in its shots (nil where nobody
// speaks). The look is the one that is shown.
func Of(j *piece.Job, look piece.Look, p spec.Placement, spoken []Spoken) *Film {
	f := &Film{W: p.Width, H: p.Height, FPS: rate, Alt: "a video of " + j.Kit.Name}
	if p.FPS > 0 {
		f.FPS = p.FPS
	}
	v := j.Brief.Video
	if v == nil {
		v = &brief.Video{}
	}
	f.calm = v.Calm
	if v.CountUp {
		f.counts = &counter{j.Shaper}
	}
	if !v.NoBeat {
		f.beat = beatOf(v, j.Kit)
	}
	in := motion.Input{Kit: j.Kit, Library: j.Library, Shaper: j.Shaper, Placement: p, Pictures: j.KitPictures, Call: callOf(j.Brief)}
	if !v.NoOpening {
		f.bookend(j, Opening, j.Kit.Motion.Opening, mostOpening(j.Kit, p), motion.Opening(in))
	}
	shots := Propose(j.Brief, j.Kit)
	over := captionsOf(v, spoken, in)
	var last *piece.Piece
	for i, s := range shots {
		var said Spoken
		if i < len(spoken) {
			said = spoken[i]
		}
		clip := clipOf(j, s)
		seconds, at := shotSeconds(s, said, clip), p
		if waits(v, s, clip) {
			seconds = f.toBeat(seconds)
		}
		captioned := over.shows(s, f.Seconds(), f.Seconds()+seconds)
		if captioned { // its words keep off the captions
			room := motion.CaptionRoom(in)
			if room.Y < float64(p.Height)/2 {
				at.Safe[0] = room.Bottom() + clearance*room.H
			} else {
				at.Safe[2] = float64(p.Height) - room.Y + clearance*room.H
			}
		}
		pc := shotPiece(j, look, at, s, last)
		last = &pc
		f.add(s.Role, i, pc.Scene, seconds, goesLike(j, &pc))
		f.Takes[len(f.Takes)-1].captioned = captioned
		f.noteSubjects(j)
		f.check(s, said, pc.Findings)
		f.runs(j, s)
	}
	if end, ok := endCard(j.Brief, p); ok && !v.NoClosing {
		pc := j.Compose(look, end, 0)
		f.add(Closing, -1, pc.Scene, closingSeconds(j, p), goesLike(j, &pc))
		f.runs(j, brief.Shot{Mute: true})
	} else if !v.NoClosing {
		f.bookend(j, Closing, j.Kit.Motion.Closing, mostBookend, motion.Closing(in))
	}
	f.caption(over, shots, spoken)
	f.checkHeard(spoken)
	f.checkAsked(over)
	f.checkFirst()
	if !v.NoMark {
		f.mark(in)
	}
	return f
}

// Way is how a finished piece moves.
type Way struct {
	Seconds float64
	Loop    bool // its last frame is its first: it is there whole, goes in parts, and comes again
	Light   bool // pictures stand and nothing moves once all are there, as files of few bytes need it
}

// Moving is a finished piece of a job whose parts come in, with clips running in their frames.
func Moving(j *piece.Job, pc *piece.Piece, fps int, way Way) *Film {
	s := pc.Scene
	f := &Film{W: s.W, H: s.H, FPS: fps, Alt: s.Alt, Round: way.Loop && !pc.Placement.Advertisement()}
	if v := j.Brief.Video; v != nil && v.CountUp && !way.Loop {
		f.counts = &counter{j.Shaper}
	}
	f.add("piece", 0, s, way.Seconds, goesLike(j, pc))
	if len(f.Takes) > 0 {
		f.noteSubjects(j)
		f.runs(j, brief.Shot{Mute: true})
	}
	for i := range f.Takes {
		if way.Loop {
			f.Takes[i].loop(fps)
		}
		for k := range f.Takes[i].Layers {
			if m := &f.Takes[i].Layers[k].Move; way.Light && m.Kind == "drift" {
				m.By = 1
			}
		}
	}
	return f
}

// Seconds is how long a film runs.
func (f *Film) Seconds() float64 {
	if len(f.Takes) == 0 {
		return 0
	}
	return f.Takes[len(f.Takes)-1].To
}

// Frames is how many frames a film has.
func (f *Film) Frames() int { return int(math.Round(f.Seconds() * float64(f.FPS))) }

// add puts a drawing at the end as a take.
func (f *Film) add(role string, shot int, s *scene.Scene, seconds float64, goes goes) {
	if s == nil || seconds <= 0 {
		return
	}
	// whole frames, so that sound and pictures end together
	seconds = math.Round(seconds*float64(f.FPS)) / float64(f.FPS)
	t := Take{Role: role, Shot: shot, From: f.Seconds(), To: f.Seconds() + seconds, goes: goes}
	if n := len(f.Takes); n > 0 {
		t.In = f.in(&f.Takes[n-1], &t)
		f.Takes[n-1].leave()
	}
	for _, part := range s.Parts {
		for _, one := range lines(part) {
			t.Layers = append(t.Layers, layerOf(one, f.W, f.H))
		}
	}
	t.move(f, len(f.Takes) == 0)
	switch {
	case f.calm:
		t.rest()
	case f.counts != nil:
		t.count(f)
	}
	f.Takes = append(f.Takes, t)
}

// lines are the lines of words as parts of their own, anything else as it is.
func lines(p scene.Part) []scene.Part {
	if !p.Words() || len(p.Lines) < 2 || p.Moved != nil {
		return []scene.Part{p}
	}
	var out []scene.Part
	for i := 0; i < len(p.Lines); {
		j := i + 1
		for j < len(p.Lines) && p.Lines[j].Y == p.Lines[i].Y {
			j++
		}
		one := p
		one.Lines = slices.Clone(p.Lines[i:j])
		top, bottom := math.Inf(1), math.Inf(-1)
		for _, l := range one.Lines {
			if ink := l.Line.Ink; !ink.Empty() {
				top, bottom = math.Min(top, l.Y+ink.Y0*p.Size(l)), math.Max(bottom, l.Y+ink.Y1*p.Size(l))
			}
		}
		if one.Box = p.Box; bottom > top {
			one.Box.Y, one.Box.H = top, bottom-top
		}
		out = append(out, one)
		i = j
	}
	return out
}

// around is how far what is drawn of words reaches beyond their ink, in type sizes: with
// outline, shadow and what hangs over.
const around = 0.35

func layerOf(p scene.Part, w, h int) Layer {
	slot := p.Slot
	if slot == "ground" { // a drawing is seen through where its ground is left out
		p.Slot = "layer"
	}
	box := p.Box
	if p.Words() {
		box = box.Inset(-around * p.SeenPx())
	} else {
		box = box.Inset(-2 - p.Stroke)
	}
	return Layer{Slot: slot, Drawing: &scene.Scene{W: w, H: h, Parts: []scene.Part{p}}, Box: box.Intersect(spec.Rect{W: float64(w), H: float64(h)})}
}

// shotPiece composes a shot like a piece: with a card of its own, without the logo but
// where one is told what to do. It is composed otherwise than the one before, nil for none, unless
// a layout was chosen for it.
func shotPiece(j *piece.Job, look piece.Look, p spec.Placement, s brief.Shot, before *piece.Piece) piece.Piece {
	if s.Role != Call { // it need not say where to go
		p.Needs = nil
	}
	if card, ok := j.Brief.CardAt(s.Card); ok {
		return j.Compose(look, p, card)
	}
	none := ""
	text := func(v string) *string { return &v }
	c := brief.Card{Headline: text(s.Headline), Website: &none, CallToAction: &none, BusinessName: &none, Tagline: &none}
	first := j.Brief.Cards[0]
	if s.Body != "" {
		c.Body = text(s.Body)
	}
	switch s.Role {
	case Proof:
		c.Headline, c.Body = nil, nil
		c.Quote = &brief.Quote{Text: s.Headline, Source: s.Body}
		c.Person = first.Person
	case Offer:
		if c.Offer, c.Terms = first.Offer, first.Terms; s.Headline == "" { // the offer is all it says, as large as it goes
			price, rest, _ := strings.Cut(first.Words(j.Kit, j.Brief.Language)["offer"], " · ")
			c.Headline, c.Subheading, c.Offer = text(price), text(rest), nil
		}
	case Call:
		c.Website, c.CallToAction, c.When, c.Where = first.Website, first.CallToAction, first.When, first.Where
	}
	if s.Picture != "" {
		pic := brief.Picture{File: s.Picture}
		for _, card := range j.Brief.Cards {
			for _, have := range card.Pictures {
				if have.File == s.Picture {
					pic = have
				}
			}
		}
		c.Pictures = []brief.Picture{pic}
	}
	b := *j.Brief
	b.Cards, b.Adjustments, b.Sample = []brief.Card{c}, nil, nil
	if s.Role != Call {
		b.Adjustments = []brief.Adjustment{{Reach: "set", Slot: "logo", Property: "hidden", Value: json.RawMessage("true")}}
	}
	shot := *j
	shot.Brief, shot.Pictures = &b, overFrames(j.Pictures)
	own, chosen := inLayout(&shot, look, s.Layout)
	others := func() []piece.Look {
		return shot.LooksFor(piece.Wish{TypeSet: &look.TypeSet, Quick: true}, looksTried)
	}
	switch {
	case chosen:
		look = own
	case s.Picture == "" || s.Role == Proof: // the look's own layout is for a picture with words
		return boldest(&shot, unlike(&shot, others(), before), p, s.Icon)
	case before != nil && alike(j, look, before):
		look = unlike(&shot, append([]piece.Look{look}, others()...), before)[0]
	}
	if s.Whole && s.Picture != "" {
		return whole(&shot, look, p)
	}
	pc := sign(&shot, look, p, s.Icon, shot.Compose(look, p, 0))
	if !chosen && before == nil && bold(&pc) < weakHook { // the look was made for all the copy
		if other := boldest(&shot, others(), p, s.Icon); bold(&other) > bold(&pc)+ownLook {
			return other
		}
	}
	return pc
}

// looksTried is among how many looks one is sought that differs from the shot before, boldTried how
// many of them are composed to find the one that says its words largest.
const (
	looksTried = 10
	boldTried  = 5
)

// unlike are those of some looks in another layout and on another ground than a piece, those in
// another layout where there are none, all without a piece.
func unlike(j *piece.Job, looks []piece.Look, before *piece.Piece) []piece.Look {
	if before == nil {
		return looks
	}
	for _, same := range []func(piece.Look) bool{
		func(l piece.Look) bool { return alike(j, l, before) },
		func(l piece.Look) bool {
			return l.Layout == before.Look.Layout || l.Seats["ground"] == before.Look.Seats["ground"]
		},
		func(l piece.Look) bool { return l.Layout == before.Look.Layout },
	} {
		if some := slices.DeleteFunc(slices.Clone(looks), same); len(some) > 0 {
			return some
		}
	}
	return looks
}

// boldest is a shot in the one of the first few looks in which its words are largest, among those
// that are worth about as much, fit what it says and have room for its icon, if it has one.
func boldest(shot *piece.Job, looks []piece.Look, p spec.Placement, icon string) (best piece.Piece) {
	words := shot.Brief.Cards[0].Words(shot.Kit, shot.Brief.Language)
	most := math.Inf(-1)
	for _, l := range looks[:min(len(looks), boldTried)] {
		pc := sign(shot, l, p, icon, shot.Compose(l, p, 0))
		v := bold(&pc)
		if wants := pc.Layout.Wants; len(wants) > 0 && !slices.ContainsFunc(wants, func(slot string) bool { return words[slot] != "" }) {
			v -= unfit
		}
		if icon != "" && !slices.ContainsFunc(pc.Scene.Parts, func(p scene.Part) bool { return strings.HasPrefix(p.Slot, brief.AddedSlot) }) {
			v -= unfit
		}
		if v > most {
			best, most = pc, v
		}
	}
	return best
}

// unfit is what a look is worth less that is made for other copy, or has no room for the icon.
const unfit = 2

// bold is what a piece is worth as a shot: the larger its words the more.
func bold(pc *piece.Piece) float64 { return pc.Worth.Total + pc.Worth.Bold }

// A film whose hook is worth less than weakHook begins in another look, one that is worth more by
// ownLook.
const (
	weakHook = 1.0
	ownLook  = 0.25
)

// alike reports whether a look has the layout of a piece, its ground, or the colour that is most
// of it.
func alike(j *piece.Job, l piece.Look, p *piece.Piece) bool {
	own := j.LayoutOf(l)
	if l.Layout == p.Look.Layout || l.Seats["ground"] == p.Look.Seats["ground"] || own == nil || p.Layout == nil {
		return true
	}
	return l.Seats[string(own.Dominant())] == p.Look.Seats[string(p.Layout.Dominant())]
}

// inLayout is a look in another layout, by its id; false for one there is not.
func inLayout(j *piece.Job, look piece.Look, id string) (piece.Look, bool) {
	if id == "" {
		return look, false
	}
	if own := j.LooksFor(piece.Wish{Layout: id, TypeSet: &look.TypeSet, Quick: true}, 1); len(own) > 0 {
		return j.Blend(own[0], look), true
	}
	return look, false
}
