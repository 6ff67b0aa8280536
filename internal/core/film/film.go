package film

import (
	"encoding/json"
	"math"
	"slices"

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
	Mark  []Layer       // the corner mark, over the takes that have room for it
	Over  []Stand       // captions, from below
	Cues  []caption.Cue // what is said and when, drawn or not; in order
	Alt   string

	calm bool    // nothing moves
	beat float64 // s between beats takes end on, 0 for any time
}

// Take is a shot in time.
type Take struct {
	Role   string  // of the shot; "opening" and "closing" of the kit's
	Shot   int     // which of the running order, -1 for the kit's
	From   float64 // s
	To     float64 // s
	In     In
	Layers []Layer // from below
	Marked bool    // the corner mark stands over it

	Findings []preflight.Finding // what to look at, notes left out

	subjects  []spec.Rect // px of what matters in its pictures
	captioned bool        // captions are drawn over it
}

// The takes of the kit.
const (
	Opening = "opening"
	Closing = "closing"
)

// In is how a take comes over the one before.
type In struct {
	Kind string  `json:"kind"` // "" for a cut, "wipe" or "fade"
	Edge string  `json:"edge"` // the side it comes from: right, bottom
	For  float64 `json:"for"`  // s
}

// Layer is what is drawn once and moved as one.
type Layer struct {
	Slot    string
	Drawing *scene.Scene // one part, on the whole canvas
	Box     spec.Rect    // px, all it draws lies within
	Move    Move
	Clip    *Clip // what runs in its frame, nil for what stands
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

// Move is how a layer comes in. All moves ease out by a cube.
type Move struct {
	Kind  string     `json:"kind"`  // "" for none, "fade", "rise", "drift"
	Delay float64    `json:"delay"` // s after the take begins
	For   float64    `json:"for"`   // s; of a drift the whole take
	By    float64    `json:"by"`    // px it rises; times a drift grows
	Back  bool       `json:"back"`  // a drift goes the other way
	About [2]float64 `json:"about"` // px of the canvas a drift grows about: what matters of the picture stays where it is
}

// How a film is built.
const (
	rate       = 30   // frames a second
	overlap    = 0.4  // s a take comes in over the one before
	lineDelay  = 0.09 // s between lines
	wordsBegin = 0.15 // s after the take begins
	comeIn     = 0.5  // s
	driftBy    = 1.06 // times a picture grows over its take
	riseHead   = 0.55 // of the type size
	riseOthers = 0.3
	leastPanel = 0.04 // of the canvas: smaller shapes fade in
)

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
	if v.OnBeat {
		f.beat = beatOf(v, j.Kit)
	}
	in := motion.Input{Kit: j.Kit, Library: j.Library, Shaper: j.Shaper, Placement: p}
	if !v.NoOpening {
		f.bookend(j, Opening, j.Kit.Motion.Opening, motion.Opening(in))
	}
	shots := Propose(j.Brief, j.Kit)
	over := captionsOf(v, spoken, in)
	for i, s := range shots {
		var said Spoken
		if i < len(spoken) {
			said = spoken[i]
		}
		clip := clipOf(j, s)
		seconds, at := shotSeconds(s, said, clip), p
		captioned := over.shows(s, f.Seconds(), f.Seconds()+seconds)
		if captioned { // its words keep off the captions
			room := motion.CaptionRoom(in)
			at.Safe[2] = float64(p.Height) - room.Y + clearance*room.H
		}
		pc := shotPiece(j, look, at, s)
		f.add(s.Role, i, pc.Scene, seconds)
		f.Takes[len(f.Takes)-1].captioned = captioned
		f.matters(j)
		f.check(s, said, pc.Findings)
		f.runs(j, s)
	}
	if !v.NoClosing {
		f.bookend(j, Closing, j.Kit.Motion.Closing, motion.Closing(in))
	}
	f.caption(over, shots, spoken)
	f.checkFirst()
	if !v.NoMark {
		f.mark(in)
	}
	return f
}

// Moving is a finished piece of a job whose parts come in, for so many seconds, with clips
// running in their frames; with still pictures nothing else moves once all are there, as
// files of few bytes need it.
func Moving(j *piece.Job, s *scene.Scene, fps int, seconds float64, still bool) *Film {
	f := &Film{W: s.W, H: s.H, FPS: fps, Alt: s.Alt}
	f.add("piece", 0, s, seconds)
	if len(f.Takes) > 0 {
		f.matters(j)
		f.runs(j, brief.Shot{Mute: true})
	}
	for i := range f.Takes {
		for k := range f.Takes[i].Layers {
			if m := &f.Takes[i].Layers[k].Move; still && m.Kind == "drift" {
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
func (f *Film) add(role string, shot int, s *scene.Scene, seconds float64) {
	if s == nil || seconds <= 0 {
		return
	}
	seconds = f.toBeat(seconds)
	// whole frames, so that sound and pictures end together
	seconds = math.Round(seconds*float64(f.FPS)) / float64(f.FPS)
	t := Take{Role: role, Shot: shot, From: f.Seconds(), To: f.Seconds() + seconds}
	if len(f.Takes) > 0 {
		t.In = In{"wipe", "bottom", overlap}
		if f.W > f.H {
			t.In.Edge = "right"
		}
		if f.calm || role == Closing || f.Takes[len(f.Takes)-1].Role == Opening {
			t.In = In{"fade", "", overlap}
		}
	}
	for _, part := range s.Parts {
		for _, one := range lines(part) {
			t.Layers = append(t.Layers, layerOf(one, f.W, f.H))
		}
	}
	t.move(f, len(f.Takes) == 0)
	if f.calm {
		t.rest()
	}
	f.Takes = append(f.Takes, t)
}

// rest has nothing of a take move: what rose fades in, pictures stand.
func (t *Take) rest() {
	for i := range t.Layers {
		switch m := &t.Layers[i].Move; m.Kind {
		case "rise":
			m.Kind, m.By = "fade", 0
		case "drift":
			m.By, m.Back = 1, false
		}
	}
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
		one.Box = p.Box
		size := p.Size(p.Lines[i])
		one.Box.Y, one.Box.H = p.Lines[i].Y-size, 1.4*size
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

// move says how the layers of a take come in. Of the first take what it is about is there
// at once, since its first frame stands for the whole film.
func (t *Take) move(f *Film, first bool) {
	area := float64(f.W) * float64(f.H)
	largest := 0.0
	for _, l := range t.Layers {
		if p := l.Drawing.Parts[0]; p.Words() {
			largest = max(largest, p.SeenPx())
		}
	}
	n := 0
	for i := range t.Layers {
		l := &t.Layers[i]
		p := l.Drawing.Parts[0]
		switch {
		case p.Kind == scene.KindPicture:
			l.Move = Move{Kind: "drift", For: t.To - t.From, By: driftBy, Back: t.Shot%2 == 1, About: [2]float64{p.Box.X + p.Box.W/2, p.Box.Y + p.Box.H/2}}
		case p.Kind == scene.KindShape && (p.Fade != nil || p.Box.W*p.Box.H >= leastPanel*area): // what words stand on is there before them
		case first && (p.Kind == scene.KindLogo || p.Slot == "plate" || p.Words() && p.SeenPx() == largest):
		case p.Words():
			by := riseOthers
			if p.SeenPx() == largest {
				by = riseHead
			}
			l.Move = Move{Kind: "rise", Delay: wordsBegin + float64(n)*lineDelay, For: comeIn, By: math.Round(by * p.SeenPx())}
			n++
		default:
			l.Move = Move{Kind: "fade", Delay: wordsBegin + float64(n)*lineDelay, For: comeIn}
		}
	}
}

// shotPiece composes a shot like a piece: with a card of its own, without the logo but
// where one is told what to do.
func shotPiece(j *piece.Job, look piece.Look, p spec.Placement, s brief.Shot) piece.Piece {
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
		c.Offer, c.Terms = first.Offer, first.Terms
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
	if s.Role != Call { // it need not say where to go
		p.Needs = nil
	}
	shot := *j
	shot.Brief = &b
	if s.Picture == "" || s.Role == Proof { // the look's own layout is for a picture with words
		look = shot.LooksFor(piece.Wish{TypeSet: &look.TypeSet, Quick: true}, 1)[0]
	}
	return shot.Compose(look, p, 0)
}
