package voice

import (
	"context"

	"aspenridge/internal/core/film"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/sound"
)

// Speech is what is said in the shots of a video: by a voice, or on a recording.
type Speech struct {
	Spoken   []film.Spoken // of each shot; nil where nobody speaks in any
	voiced   []Spoken      // of each shot, nil where no voice speaks
	recorded []recorded    // the recording of each shot
}

// recorded is a stretch of a recording; without a file it is none.
type recorded struct {
	file     string
	from, to float64 // s
}

// Speak has what is said in a job's video spoken. runs is how long a recording is that a brief
// names, s; 0 for one that is not there. Where the voice cannot speak its error comes with what
// is on recordings.
func Speak(ctx context.Context, j *piece.Job, runs func(file string) float64) (s Speech, err error) {
	shots := film.Propose(j.Brief, j.Kit)
	script := film.Script(shots)
	s.recorded = make([]recorded, len(shots))
	spoken, aloud := make([]film.Spoken, len(shots)), make([]string, len(shots))
	for i, shot := range shots {
		aloud[i] = script[i]
		to := runs(shot.Recording)
		if shot.Till > 0 {
			to = min(to, shot.Till)
		}
		if to > shot.Begins && !shot.Silent {
			s.recorded[i], aloud[i], s.Spoken = recorded{shot.Recording, shot.Begins, to}, "", spoken
			spoken[i] = film.Recorded(script[i], to-shot.Begins)
		}
	}
	who := film.Speaker(j.Brief, j.Kit)
	if who == film.Nobody {
		return s, nil
	}
	all, err := Of(who, j).SayAll(ctx, aloud)
	if err != nil {
		return s, err
	}
	s.voiced, s.Spoken = all, spoken
	for i, v := range all {
		if s.recorded[i].file == "" {
			spoken[i] = film.Spoken{Seconds: v.Seconds(), Words: v.Words}
		}
	}
	return s, nil
}

// Tracks are what is heard of it in each shot; hear reads a recording.
func (s Speech) Tracks(hear func(file string) (sound.Track, error)) ([]sound.Track, error) {
	out := make([]sound.Track, len(s.recorded))
	for i, r := range s.recorded {
		switch {
		case r.file != "":
			all, err := hear(r.file)
			if err != nil {
				return nil, err
			}
			out[i] = all.Between(r.from, r.to)
		case s.voiced != nil:
			out[i] = s.voiced[i].Track()
		}
	}
	return out, nil
}
