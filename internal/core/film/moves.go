package film

import (
	"math"

	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/scene"
)

// In is how a take comes over the one before.
type In struct {
	Kind string  `json:"kind"` // "" for a cut, "wipe", "push" or "fade"
	Edge string  `json:"edge"` // the side it comes from: right, bottom
	For  float64 `json:"for"`  // s
}

// Move is how a layer comes in. All moves ease out by a cube.
type Move struct {
	Kind  string     `json:"kind"`  // "" for none, "fade", "rise", "wipe", "drift"
	Delay float64    `json:"delay"` // s after the take begins
	For   float64    `json:"for"`   // s; of a drift the whole take
	By    float64    `json:"by"`    // px it rises; times a drift grows
	Edge  string     `json:"edge"`  // the side a wipe comes from: left, right
	Leave bool       `json:"leave"` // it goes before its take ends
	Back  bool       `json:"back"`  // a drift goes the other way
	About [2]float64 `json:"about"` // px of the canvas a drift grows about: what matters of the picture stays where it is
	Again float64    `json:"again"` // s at which what is there from the start goes, to come once more; 0 for what comes once
	Round float64    `json:"round"` // s in which a drift is back where it began; 0 for one that goes on
}

// How a film moves.
const (
	overlap    = 0.4  // s a take comes in over the one before
	pushFor    = 0.55 // s it pushes it out
	leaveFor   = 0.25 // s words take to go
	lineDelay  = 0.09 // s between lines
	wipeDelay  = 0.16 // s between lines that are uncovered
	wordsBegin = 0.15 // s after the take begins
	comeIn     = 0.5  // s
	driftBy    = 1.06 // times a picture grows over its take
	motifBy    = 1.16 // times what stands large behind words does: it is faint
	riseHead   = 0.55 // of the type size
	riseOthers = 0.3
	leastPanel = 0.04 // of the canvas: smaller shapes fade in
	againAt    = 0.5  // of a loop: until then it is there whole
)

// goes is how a take comes and goes: as the layout it is composed with says, from the side it
// is split at.
type goes struct {
	layout.Moves
	edge string
}

// goesLike is how a piece of a job comes and goes: as its layout says, in the brand's own way where
// the kit says what its corners are like.
func goesLike(j *piece.Job, pc *piece.Piece) goes {
	if pc.Layout == nil {
		return goes{}
	}
	g := goes{pc.Layout.Moves, pc.Layout.Edge(pc.Placement.Class())}
	if way, ok := ways[j.Kit.Manner.Corners]; ok {
		if g.Over != "cut" || way.Over != "wipe" { // a cut is a straight edge too
			g.Over = way.Over
		}
		g.Words = way.Words
	}
	return g
}

// ways are how brands move, by the corners they have: sharp ones cut and uncover along straight
// edges, soft ones slide, round ones melt into each other.
var ways = map[string]layout.Moves{
	"sharp": {Over: "wipe", Words: "wipe"},
	"soft":  {Over: "push", Words: "rise"},
	"round": {Over: "fade", Words: "rise"},
}

// in is how a take comes over the one before it, never as that one came over the one before. What
// the kit opens and closes with fades.
func (f *Film) in(before, t *Take) In {
	in := f.inLike(before, t)
	if f.calm || in.Kind == "fade" || before.In != in || len(f.Takes) < 2 {
		return in
	}
	switch {
	case in.Kind == "":
		return In{"wipe", map[bool]string{true: "right", false: "bottom"}[f.W > f.H], overlap}
	case in.Edge == "bottom":
		in.Edge = "right"
	default:
		in.Edge = "bottom"
	}
	return in
}

func (f *Film) inLike(before, t *Take) In {
	edge := t.goes.edge
	if edge == "" {
		edge = "bottom"
		if f.W > f.H {
			edge = "right"
		}
	}
	if f.calm || t.Role == Closing || before.Role == Opening {
		return In{"fade", "", overlap}
	}
	switch t.goes.Over {
	case "cut":
		return In{}
	case "fade":
		return In{"fade", "", overlap}
	case "push":
		return In{"push", edge, pushFor}
	}
	return In{"wipe", edge, overlap}
}

// leave has the words of a take go before the next one comes, if its layout says so.
func (t *Take) leave() {
	if t.goes.Out != "fade" || t.To-t.From < 4*leaveFor {
		return
	}
	t.Leave = leaveFor
	for i := range t.Layers {
		t.Layers[i].Move.Leave = t.Layers[i].Drawing.Parts[0].Words()
	}
}

// Settled is when all of a take has come and nothing has gone yet, s of the film.
func (t *Take) Settled() float64 { return t.To - t.Leave }

// rest has nothing of a take move: what rose or was uncovered fades in, pictures stand.
func (t *Take) rest() {
	for i := range t.Layers {
		switch m := &t.Layers[i].Move; m.Kind {
		case "rise", "wipe":
			m.Kind, m.By = "fade", 0
		case "drift":
			m.By, m.Back = 1, false
		}
	}
}

// loop has a take end with the frame it begins with: all is there from the start, goes half way and
// comes again; pictures come back to where they were.
func (t *Take) loop(fps int) {
	long := t.To - t.From
	goes := againAt * long
	first, last := long, 0.0
	for _, l := range t.Layers {
		if l.Move.Kind != "" && l.Move.Kind != "drift" {
			first, last = math.Min(first, l.Move.Delay), math.Max(last, l.Move.Delay+l.Move.For)
		}
	}
	goes = math.Max(leaveFor, math.Min(goes, long-1/float64(fps)-(last-first))) // what comes last is there in time
	for i := range t.Layers {
		switch m := &t.Layers[i].Move; m.Kind {
		case "":
		case "drift":
			m.Round, m.Back = long-1/float64(fps), false
		default:
			m.Again = goes
			m.Delay += goes - first
		}
	}
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
	between := lineDelay
	if t.goes.Words == "wipe" {
		between = wipeDelay
	}
	n := 0
	for i := range t.Layers {
		l := &t.Layers[i]
		p := l.Drawing.Parts[0]
		switch {
		case p.Kind == scene.KindPicture:
			l.Move = Move{Kind: "drift", For: t.To - t.From, By: driftBy, Back: t.Shot%2 == 1, About: [2]float64{p.Box.X + p.Box.W/2, p.Box.Y + p.Box.H/2}}
		case p.Kind == scene.KindShape && p.Art != nil:
			l.Move = Move{Kind: "drift", For: t.To - t.From, By: motifBy, Back: t.Shot%2 == 1, About: [2]float64{p.Box.X + p.Box.W/2, p.Box.Y + p.Box.H/2}}
		case p.Kind == scene.KindShape && (p.Fade != nil || p.Box.W*p.Box.H >= leastPanel*area): // what words stand on is there before them
		case first && (p.Kind == scene.KindLogo || p.Slot == "plate" || p.Words() && p.SeenPx() == largest):
		case p.Words():
			l.Move = t.goes.words(&p, p.SeenPx() == largest)
			l.Move.Delay = wordsBegin + float64(n)*between
			n++
		default:
			l.Move = Move{Kind: "fade", Delay: wordsBegin + float64(n)*between, For: comeIn}
		}
	}
}

// words is how a line of words comes in.
func (g goes) words(p *scene.Part, head bool) Move {
	switch g.Words {
	case "fade":
		return Move{Kind: "fade", For: comeIn}
	case "wipe":
		edge := "left"
		for _, l := range p.Lines {
			if c := l.Line.Clusters; len(c) > 0 && c[0].RTL {
				edge = "right"
			}
		}
		return Move{Kind: "wipe", For: comeIn, Edge: edge}
	}
	by := riseOthers
	if head {
		by = riseHead
	}
	return Move{Kind: "rise", For: comeIn, By: math.Round(by * p.SeenPx())}
}
