// Package voice speaks: a simple voice that runs on this machine (espeak-ng), standing in
// for people and for better ones. It says when each word is spoken.
package voice

import (
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"math"
	"runtime"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/sync/errgroup"

	"aspenridge/internal/cache"
	"aspenridge/internal/core/caption"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/sound"
)

// Speaker is who speaks, and how.
type Speaker struct {
	Kind     string            // low, middle, high
	Language string            // as BCP 47 has it; English where there is no voice for it
	Speed    float64           // times the usual; 0 for 1
	Says     map[string]string // words that are spoken otherwise than written, by the word in small letters
}

// Of is a kind of speaker who speaks as a job's kit has it, in the language of its copy.
func Of(kind string, j *piece.Job) Speaker {
	s := Speaker{Kind: kind, Language: j.Language(), Speed: j.Kit.Motion.Speed, Says: map[string]string{}}
	for _, w := range j.Kit.Motion.Says {
		s.Says[strings.ToLower(w.Word)] = w.As
	}
	return s
}

// Spoken is a text that was spoken.
type Spoken struct {
	Words   []caption.Word // s from its beginning
	samples []float32      // of one channel
	rate    int            // samples a second
}

// Seconds is how long it takes to say.
func (s Spoken) Seconds() float64 {
	if s.rate == 0 {
		return 0
	}
	return float64(len(s.samples)) / float64(s.rate)
}

// Track is what is heard.
func (s Spoken) Track() sound.Track { return sound.Mono(s.samples, s.rate) }

// spoken keeps what was said lately.
var spoken = cache.New[string](64<<20, func(s Spoken) int { return 4*len(s.samples) + 64*len(s.Words) })

// SayAll speaks texts, as many at a time as there are cores; nothing is said of an empty
// one.
func (s Speaker) SayAll(ctx context.Context, texts []string) ([]Spoken, error) {
	out := make([]Spoken, len(texts))
	var all errgroup.Group
	all.SetLimit(runtime.GOMAXPROCS(0))
	for i, t := range texts {
		all.Go(func() (err error) {
			key := fmt.Sprintf("%+v %s", s, t)
			if said, ok := spoken.Get(key); ok {
				out[i] = said
				return nil
			}
			if out[i], err = s.Say(ctx, t); err == nil {
				spoken.Put(key, out[i])
			}
			return err
		})
	}
	return out, all.Wait()
}

// ErrVoice means there is no voice, or it failed.
var ErrVoice = errors.New("the voice")

// Longest is how long a text may be, in letters.
const Longest = 5000

const (
	usual = 155  // words a minute
	tail  = 0.15 // s of silence kept at the end
	quiet = 0.01 // level under which it is silent
)

// pitches are how high kinds of voices are, 0-100.
var pitches = map[string]int{"low": 22, "middle": 46, "high": 68}

// Say speaks a text. The same text is the same sound every time.
func (s Speaker) Say(ctx context.Context, text string) (Spoken, error) {
	if n := utf8.RuneCountInString(text); n > Longest {
		return Spoken{}, fmt.Errorf("%w says at most %d letters at a time, this is %d", ErrVoice, Longest, n)
	}
	script := s.script(text)
	if script.text == "" {
		return Spoken{}, nil
	}
	pitch, ok := pitches[s.Kind]
	if !ok {
		pitch = pitches["middle"]
	}
	speed := s.Speed
	if speed == 0 {
		speed = 1
	}
	got, err := ask(ctx, request{script.text, voices(s.Language), pitch, int(math.Round(usual * speed))})
	if err != nil {
		return Spoken{}, err
	}
	samples := make([]float32, len(got.Samples)/2)
	end := 0
	for i := range samples {
		v := int16(binary.LittleEndian.Uint16(got.Samples[2*i:]))
		if samples[i] = float32(v) / 32768; math.Abs(float64(samples[i])) >= quiet {
			end = i + 1
		}
	}
	samples = samples[:min(len(samples), end+int(tail*float64(got.Rate)))]
	return Spoken{script.words(got.Marks, float64(end)/float64(got.Rate)), samples, got.Rate}, nil
}

// voices that can be tried for a language, the nearest first.
func voices(language string) []string {
	language = strings.ToLower(language)
	var out []string
	if language == "en" || strings.HasPrefix(language, "en-") && language != "en-us" {
		out = append(out, "en-gb")
	}
	for ; language != ""; language = language[:max(0, strings.LastIndexByte(language, '-'))] {
		out = append(out, language)
	}
	return append(out, "en-gb")
}

// script is a text as it is spoken: words stand where they are written, or what is said for
// them.
type script struct {
	text   string
	fields []string
	from   []int // letters of text at which each field begins
}

func (s Speaker) script(text string) script {
	out := script{fields: strings.Fields(text)}
	var b strings.Builder
	n := 0
	put := func(t string) { b.WriteString(t); n += utf8.RuneCountInString(t) }
	for i, f := range out.fields {
		if i > 0 {
			put(" ")
		}
		out.from = append(out.from, n)
		core := strings.TrimFunc(f, func(r rune) bool { return unicode.IsPunct(r) })
		if as, ok := s.Says[strings.ToLower(core)]; ok && core != "" {
			f = strings.Replace(f, core, as, 1)
		}
		put(f)
	}
	out.text = strings.ReplaceAll(b.String(), "\x00", "")
	return out
}

// words are the fields of a script with when each is said; one the voice gives no mark for
// (a dash) is said with the one before.
func (s script) words(marks []mark, end float64) []caption.Word {
	out := make([]caption.Word, len(s.fields))
	k := 0
	for i, f := range s.fields {
		for k < len(marks) && marks[k].At < s.from[i] {
			k++
		}
		out[i].Text = f
		next := math.MaxInt
		if i+1 < len(s.from) {
			next = s.from[i+1]
		}
		switch {
		case k < len(marks) && marks[k].At < next:
			out[i].From = marks[k].S
		case i > 0:
			out[i].From = out[i-1].From
		}
	}
	for i := range out {
		out[i].To = end
		if i+1 < len(out) {
			out[i].To = out[i+1].From
		}
	}
	return out
}
