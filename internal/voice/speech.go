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
	voiced   []Said        // of each shot, nil where no voice speaks
	recorded []string      // the recording of each shot, "" for none
}

// Speak has what is said in a job's video spoken. runs is how long a recording is that a brief
// names, s; 0 for one that is not there. Where the voice cannot speak its error comes with what
// is on recordings.
func Speak(ctx context.Context, j *piece.Job, runs func(file string) float64) (s Speech, err error) {
	shots := film.Propose(j.Brief, j.Kit)
	script := film.Script(shots)
	s.recorded = make([]string, len(shots))
	spoken, aloud := make([]film.Spoken, len(shots)), make([]string, len(shots))
	for i, shot := range shots {
		aloud[i] = script[i]
		if seconds := runs(shot.Recording); seconds > 0 && !shot.Silent {
			s.recorded[i], aloud[i], s.Spoken = shot.Recording, "", spoken
			spoken[i] = film.Recorded(script[i], seconds)
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
		if s.recorded[i] == "" {
			spoken[i] = film.Spoken{Seconds: v.Seconds(), Words: v.Words}
		}
	}
	return s, nil
}

// Tracks are what is heard of it in each shot; hear reads a recording.
func (s Speech) Tracks(hear func(file string) (sound.Track, error)) ([]sound.Track, error) {
	out := make([]sound.Track, len(s.recorded))
	for i, file := range s.recorded {
		switch {
		case file != "":
			var err error
			if out[i], err = hear(file); err != nil {
				return nil, err
			}
		case s.voiced != nil:
			out[i] = s.voiced[i].Track()
		}
	}
	return out, nil
}
