package film

import (
	"math"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/scene"
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

// runs has the clips of the last take run in their frames.
func (f *Film) runs(j *piece.Job, s brief.Shot) {
	t := &f.Takes[len(f.Takes)-1]
	for i := range t.Layers {
		l := &t.Layers[i]
		p := &l.Drawing.Parts[0]
		if p.Kind != scene.KindPicture {
			continue
		}
		for _, pic := range j.Pictures {
			if pic.Hash != p.Picture || pic.Clip == nil {
				continue
			}
			from := math.Min(s.From, math.Max(0, pic.Clip.Seconds-0.1))
			left := pic.Clip.Seconds - from
			w, h := float64(pic.W), float64(pic.H)
			l.Clip = &Clip{
				Hash: pic.Clip.Hash, From: from, For: math.Min(t.To-t.From, left), Loud: pic.Clip.Sound && !s.Mute,
				Crop: [4]float64{p.Crop.X / w, p.Crop.Y / h, p.Crop.W / w, p.Crop.H / h},
			}
			l.Move = Move{Kind: "drift", For: t.To - t.From, By: 1} // it moves by itself
			if short := t.To - t.From - left; short > 0.2 && f.FPS > 0 {
				t.warn("clip-short", p.Slot, left, t.To-t.From, "its clip ends before it does: the last frame stays")
			}
			break
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
