package film

import (
	"maps"
	"math"
	"slices"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// clipOf is what runs in a shot, nil for none.
func clipOf(j *piece.Job, s brief.Shot) *photo.Clip {
	if s.Picture == "" {
		return nil
	}
	return j.Pictures[s.Picture].Clip
}

// mostClipShot is how long a clip runs in a shot nobody gave a length, s.
const mostClipShot = 6.0

// Length is how long a shot of a job runs, s.
func Length(j *piece.Job, s brief.Shot, said Spoken) float64 {
	return shotSeconds(s, said, clipOf(j, s))
}

// shotSeconds is how long a shot runs: one with a clip lets it be seen, as long as somebody
// said or as what is left of it, up to some seconds.
func shotSeconds(s brief.Shot, said Spoken, clip *photo.Clip) float64 {
	runs := Seconds(s, said)
	if clip == nil || s.Seconds > 0 {
		return runs
	}
	return math.Max(runs, math.Floor(20*math.Min(mostClipShot, clip.Seconds-s.From))/20)
}

// mostBookend is how long a clip of the kit opens or closes a video at most, s.
const mostBookend = 10.0

// mostOpening is how long, s, what the kit opens a film with stands at most. In a tall or a square
// one what stops people is there at once: it opens with nothing of the kit's unless the kit asks
// for it, and then for a second.
func mostOpening(k *brand.Kit, p spec.Placement) float64 {
	switch {
	case p.Width > p.Height:
		return mostBookend
	case k.Motion.Opening.ByRule:
		return 0
	}
	return 1
}

// bookend adds what a video opens or closes with, for so many seconds at most: the clip the kit
// has for it, as long as it is, else the settled frame of motion.
func (f *Film) bookend(j *piece.Job, role string, b brand.Bookend, most float64, settled *scene.Scene) {
	pic, ok := j.KitClips[b.Clip]
	if most == 0 {
		return
	}
	if b.From != "clip" || !ok {
		f.add(role, -1, settled, math.Min(most, b.Duration), goes{})
		return
	}
	canvas := spec.Rect{W: float64(f.W), H: float64(f.H)}
	shown := &scene.Scene{W: f.W, H: f.H, Alt: "a film of the brand", Parts: []scene.Part{{
		Slot: "picture", Kind: scene.KindPicture, Box: canvas, Picture: pic.Hash, Crop: pic.Crop(canvas.W/canvas.H, pic.Focus),
	}}}
	f.add(role, -1, shown, math.Min(most, pic.Clip.Seconds), goes{})
	f.runs(j, brief.Shot{})
}

// endCard is the piece of a brief's set a video of a place closes with, false where the set has
// none and the kit's closing stands.
func endCard(b *brief.Brief, p spec.Placement) (spec.Placement, bool) {
	end, ok := spec.EndOf(p.ID)
	return end, ok && slices.Contains(b.Placements, end.ID)
}

// leastEnd is how long a card at the end stands at least, s: people are to act on it.
const leastEnd = 3.0

// closingSeconds is how long a video of a place closes, s.
func closingSeconds(j *piece.Job, p spec.Placement) float64 {
	if _, ok := endCard(j.Brief, p); ok {
		return math.Max(leastEnd, j.Kit.Motion.Closing.Duration)
	}
	return bookendSeconds(j, j.Kit.Motion.Closing, mostBookend)
}

// callOf is what people are to do by a brief, "" where it does not say.
func callOf(b *brief.Brief) string {
	if c := b.Cards[0].CallToAction; c != nil {
		return *c
	}
	return ""
}

// byHash finds a picture of a job, the zero one where there is none.
func byHash(j *piece.Job, hash string) photo.Picture {
	for _, pics := range []map[string]photo.Picture{j.Pictures, j.KitPictures, j.KitClips} {
		for _, pic := range pics {
			if pic.Hash == hash {
				return pic
			}
		}
	}
	return photo.Picture{}
}

// runs has the clips of the last take run in their frames.
func (f *Film) runs(j *piece.Job, s brief.Shot) {
	t := &f.Takes[len(f.Takes)-1]
	for i := range t.Layers {
		l := &t.Layers[i]
		p := &l.Drawing.Parts[0]
		if p.Kind != scene.KindPicture {
			continue
		}
		pic := byHash(j, p.Picture)
		if s.Whole {
			l.Move.By, l.Move.Back = 1, false
		}
		if pic.Clip == nil {
			continue
		}
		from := math.Min(s.From, math.Max(0, pic.Clip.Seconds-0.1))
		left := pic.Clip.Seconds - from
		w, h := float64(pic.W), float64(pic.H)
		l.Clip = &Clip{
			Hash: pic.Clip.Hash, From: from, For: math.Min(t.To-t.From, left), Loud: pic.Clip.Sound && !s.Mute,
			Crop: [4]float64{p.Crop.X / w, p.Crop.Y / h, p.Crop.W / w, p.Crop.H / h}, Tone: p.Tone, Dials: p.Dials,
		}
		l.Move.Kind, l.Move.For, l.Move.By, l.Move.Back = "drift", t.To-t.From, 1, false // it moves by itself
		if short := t.To - t.From - left; short > 0.2 {
			t.warn("clip-short", p.Slot, left, t.To-t.From, "its clip ends before it does: the last frame stays")
		}
	}
}

// Loud are the clips of a film that are heard, with when each begins, s.
func (f *Film) Loud() (out []LoudClip) {
	for _, t := range f.Takes {
		for _, l := range t.Layers {
			if l.Clip != nil && l.Clip.Loud {
				out = append(out, LoudClip{*l.Clip, t.From})
			}
		}
	}
	return out
}

// LoudClip is a clip that is heard in a film from some time on.
type LoudClip struct {
	Clip
	At float64 // s
}

// overFrames are pictures with what is known of clips by several frames, not by the one that
// stands for them.
func overFrames(pics map[string]photo.Picture) map[string]photo.Picture {
	out := maps.Clone(pics)
	for file, pic := range out {
		if pic.Clip != nil && pic.Clip.Light.Cols > 0 {
			pic.Focus, pic.Subjects, pic.Light = pic.Clip.Focus, pic.Clip.Subjects, pic.Clip.Light
			out[file] = pic
		}
	}
	return out
}

// wholeIn is the layout in which pictures are shown whole: they have a half of their own.
const wholeIn = "halves"

// whole composes a shot whose picture is shown whole in its frame, on the ground that is under
// the words.
func whole(j *piece.Job, look piece.Look, p spec.Placement) piece.Piece {
	look, _ = inLayout(j, look, wholeIn)
	pc := j.Compose(look, p, 0)
	sc := *pc.Scene
	sc.Parts = nil
	for _, part := range pc.Scene.Parts {
		pic := byHash(j, part.Picture)
		if part.Kind == scene.KindPicture && pic.W > 0 && part.Clip == "" {
			room := part.Box
			sc.Parts = append(sc.Parts, scene.Part{Slot: "mat", Kind: scene.KindShape, Box: room, Fill: pc.Colours.At(colourway.Ground).Value})
			k := math.Min(room.W/float64(pic.W), room.H/float64(pic.H))
			w, h := k*float64(pic.W), k*float64(pic.H)
			part.Box = spec.Rect{X: room.X + (room.W-w)/2, Y: room.Y + (room.H-h)/2, W: w, H: h}
			part.Crop = spec.Rect{W: float64(pic.W), H: float64(pic.H)}
		}
		sc.Parts = append(sc.Parts, part)
	}
	pc.Scene = &sc
	return pc
}
