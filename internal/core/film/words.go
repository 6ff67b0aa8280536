package film

import (
	"math"
	"slices"
	"strings"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/caption"
	"aspenridge/internal/core/motion"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/sound"
)

// Spoken is what is said in a shot.
type Spoken struct {
	Seconds float64
	Words   []caption.Word // s from when it is begun to be said
}

// When things are said, s.
const (
	sayFrom  = 0.3  // after the take begins
	sayAfter = 0.45 // of silence before the next
)

// Recorded is what somebody says on a recording of so many seconds: nobody knows when each
// word is said, so they are taken to come evenly.
func Recorded(text string, seconds float64) Spoken {
	return Spoken{seconds, caption.Spread(text, 0, seconds)}
}

// needs is how long a shot has to run for what is said in it, s.
func (s Spoken) needs() float64 {
	if s.Seconds == 0 {
		return 0
	}
	return sayFrom + s.Seconds + sayAfter
}

// Nobody is who speaks where nobody does.
const Nobody = "none"

// Speaker is who speaks in a brief's video, [Nobody] for none.
func Speaker(b *brief.Brief, k *brand.Kit) string {
	who := k.Motion.Voice
	if b.Video != nil && b.Video.Voice != "" {
		who = b.Video.Voice
	}
	if who == "" {
		who = Nobody
	}
	return who
}

// Script is what is said in each shot, if somebody speaks.
func Script(shots []brief.Shot) []string {
	out := make([]string, len(shots))
	for i, s := range shots {
		if s.Silent {
			continue
		}
		if out[i] = strings.TrimSpace(s.Say); out[i] == "" {
			out[i] = sentence(s.Headline, s.Body)
		}
	}
	return out
}

// sentence is words and smaller words as one would say them.
func sentence(words ...string) string {
	var b strings.Builder
	for _, w := range words {
		w = strings.Join(strings.Fields(w), " ")
		if w == "" {
			continue
		}
		if b.Len() > 0 {
			if !strings.ContainsRune(".!?…。؟:", lastRune(b.String())) {
				b.WriteByte('.')
			}
			b.WriteByte(' ')
		}
		b.WriteString(w)
	}
	return b.String()
}

func lastRune(s string) (last rune) {
	for _, r := range s {
		last = r
	}
	return last
}

// TimedLayer is a layer that is there for some time, over all takes.
type TimedLayer struct {
	Layer Layer
	From  float64 // s
	To    float64 // s
}

// shows reports whether captions are drawn over a shot, which is made room for: by the rule
// where what is said does not stand on the screen anyway.
func (c captions) shows(s brief.Shot, from, to float64) bool {
	switch c.way {
	case "none", "beside":
		return false
	}
	if len(c.own) > 0 {
		return slices.ContainsFunc(c.own, func(q caption.Cue) bool { return q.From < to && q.To > from })
	}
	said := Script([]brief.Shot{s})[0]
	if said == "" || !c.spoken && strings.TrimSpace(s.Say) == "" {
		return false
	}
	return c.way == "all" || said != sentence(s.Headline, s.Body)
}

// captions are how a film has them.
type captions struct {
	way    string
	own    []caption.Cue
	spoken bool // somebody speaks
	room   motion.Input
}

// captionsOf says how a video is captioned.
func captionsOf(v *brief.Video, spoken []Spoken, in motion.Input) captions {
	c := captions{way: v.Captions, room: in}
	for _, q := range v.Cues {
		c.own = append(c.own, caption.Cue{From: q.From, To: q.To, Text: strings.TrimSpace(q.Text)})
	}
	c.own = caption.InOrder(c.own)
	for _, s := range spoken {
		c.spoken = c.spoken || s.Seconds > 0
	}
	return c
}

// caption adds the captions of a film: what is said, when it is said, and what is drawn of
// it.
func (f *Film) caption(c captions, shots []brief.Shot, spoken []Spoken) {
	if c.way == "none" {
		return
	}
	if f.Cues = c.own; len(c.own) == 0 {
		f.Cues = f.saidCues(shots, spoken, motion.CaptionLine(c.room), motion.CaptionLines(c.room))
	}
	room := motion.CaptionRoom(c.room)
	for i, q := range f.Cues {
		k := f.takeAt((q.From + q.To) / 2)
		if k < 0 || !f.Takes[k].captioned {
			continue
		}
		in := c.room
		in.Caption = q.Text
		drawn, ok := motion.Caption(in)
		if !ok {
			continue
		}
		f.addTimed(drawn.Ground, q.From, q.To)
		f.addTimed(drawn.Words, q.From, q.To)
		if c.spoken {
			for j, w := range f.Cues[i].Timed() {
				if j < len(drawn.Spoken) && drawn.Spoken[j].Fill != drawn.Words.Fill {
					f.addTimed(drawn.Spoken[j], math.Max(w.From, q.From), math.Min(w.To, q.To))
				}
			}
		}
	}
	f.checkCaptions(room)
}

func (f *Film) addTimed(p scene.Part, from, to float64) {
	if to > from {
		f.Over = append(f.Over, TimedLayer{layerOf(p, f.W, f.H), from, to})
	}
}

// saidCues are captions of what is said in the shots: by the marks of the voice, evenly
// where nobody speaks but somebody wrote what to say.
func (f *Film) saidCues(shots []brief.Shot, spoken []Spoken, line, most int) []caption.Cue {
	var out []caption.Cue
	script := Script(shots)
	for _, t := range f.Takes {
		if t.Shot < 0 || script[t.Shot] == "" {
			continue
		}
		var words []caption.Word
		switch {
		case t.Shot < len(spoken) && spoken[t.Shot].Seconds > 0:
			for _, w := range spoken[t.Shot].Words {
				w.From, w.To = w.From+t.From+sayFrom, math.Min(w.To+t.From+sayFrom, t.To)
				if w.From < t.To {
					words = append(words, w)
				}
			}
		case strings.TrimSpace(shots[t.Shot].Say) != "":
			words = caption.Spread(script[t.Shot], t.From+sayFrom, t.To-sayFrom)
		}
		cues := caption.Of(words, line, most)
		for i := range cues { // a caption goes with its shot
			cues[i].From, cues[i].To = math.Max(cues[i].From, t.From), math.Min(cues[i].To, t.To-caption.Gap)
		}
		out = append(out, slices.DeleteFunc(cues, func(c caption.Cue) bool { return c.To <= c.From })...)
	}
	return out
}

// takeAt is the take that runs at a time, -1 for none.
func (f *Film) takeAt(t float64) int {
	for k := range f.Takes {
		if t >= f.Takes[k].From && t < f.Takes[k].To {
			return k
		}
	}
	return -1
}

// SayAt is when what is said in a shot begins, s; false where it is not in the film.
func (f *Film) SayAt(shot int) (from, end float64, ok bool) {
	for _, t := range f.Takes {
		if t.Shot == shot {
			return t.From + sayFrom, t.To, true
		}
	}
	return 0, 0, false
}

// Sound is what a film is heard with: music, what is said in its shots over it, and its
// clips, as [Film.Loud] lists them; nil for a silent one.
func (f *Film) Sound(music sound.Music, said, clips []sound.Track) sound.Track {
	var heard []sound.Heard
	for i, t := range said {
		if from, end, ok := f.SayAt(i); ok {
			heard = append(heard, sound.Heard{At: from, Track: t.Until(end - from)})
		}
	}
	for i, c := range f.Loud() {
		if i < len(clips) {
			heard = append(heard, sound.Heard{At: c.At, Track: clips[i].Until(c.For)})
		}
	}
	return sound.Mix(music, heard, f.Seconds())
}
