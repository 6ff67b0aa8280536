package voice_test

import (
	"math"
	"os"
	"slices"
	"strings"
	"testing"

	"aspenridge/internal/core/sound"
	"aspenridge/internal/voice"
)

func TestMain(m *testing.M) {
	voice.ChildMain()
	os.Exit(m.Run())
}

// energy is how loud a track is in steps of 10 ms.
func energy(t sound.Track) []float64 {
	const step = 2 * sound.Rate / 100
	var out []float64
	for i := 0; i+step <= len(t); i += step {
		sum := 0.0
		for _, v := range t[i : i+step] {
			sum += float64(v) * float64(v)
		}
		out = append(out, math.Sqrt(sum/step))
	}
	return out
}

// TestMarksStandWhereWordsBegin says words with silence between them, and looks for where
// the sound begins: every mark within 80 ms of it.
func TestMarksStandWhereWordsBegin(t *testing.T) {
	for _, kind := range []string{"low", "middle", "high"} {
		for _, speed := range []float64{0.8, 1, 1.3} {
			said, err := voice.Speaker{Kind: kind, Language: "en", Speed: speed}.Say(t.Context(), "Boats. Paddles. Tea. Water. Done.")
			if err != nil {
				t.Fatal(err)
			}
			loud := energy(said.Track())
			var onsets []float64
			for i, silent := 0, 100; i < len(loud); i++ {
				if loud[i] > 0.01 {
					if silent >= 12 {
						onsets = append(onsets, float64(i)/100)
					}
					silent = 0
				} else {
					silent++
				}
			}
			if len(onsets) != len(said.Words) {
				t.Fatalf("%s %v: %d words, %d times the sound begins", kind, speed, len(said.Words), len(onsets))
			}
			for i, w := range said.Words {
				if math.Abs(w.From-onsets[i]) > 0.08 {
					t.Errorf("%s %v: %q is marked at %.3f, heard at %.3f", kind, speed, w.Text, w.From, onsets[i])
				}
			}
		}
	}
}

// TestSay: all words, in order, of a language there is a voice for and of one there is not;
// the same every time; said as one says they are said.
func TestSay(t *testing.T) {
	for language, text := range map[string]string{
		"en":    "Quiet water — first strokes, at 9:30 on 3 May for £24!",
		"de-DE": "Ruhiges Wasser, erste Züge – samstags um 9 Uhr.",
		"fr":    "L’eau calme, les premiers coups.",
		"ar":    "ماء هادئ صباح السبت",
		"tlh":   "nuqneH, qaleghneS",
	} {
		said, err := voice.Speaker{Language: language}.Say(t.Context(), text)
		if err != nil {
			t.Fatal(language, err)
		}
		var words []string
		for i, w := range said.Words {
			words = append(words, w.Text)
			if w.To < w.From || i > 0 && w.From < said.Words[i-1].From || w.To > said.Seconds() {
				t.Errorf("%s: %+v of %.2f s", language, said.Words, said.Seconds())
			}
		}
		if strings.Join(words, " ") != text {
			t.Errorf("%s: %q came back as %q", language, text, words)
		}
		if said.Seconds() < 1 || said.Seconds() > 12 {
			t.Errorf("%s: takes %.1f s", language, said.Seconds())
		}
		again, _ := voice.Speaker{Language: language}.Say(t.Context(), text)
		if !slices.Equal(said.Track(), again.Track()) {
			t.Errorf("%s: sounds otherwise the second time", language)
		}
	}
	plain, _ := voice.Speaker{}.Say(t.Context(), "Ask Nuala today.")
	as, err := voice.Speaker{Says: map[string]string{"nuala": "Noo la la la la"}}.Say(t.Context(), "Ask Nuala today.")
	if err != nil || as.Seconds() < plain.Seconds()+0.3 || len(as.Words) != 3 || as.Words[2].Text != "today." || as.Words[2].From < as.Words[1].From+0.5 {
		t.Errorf("said as it is spelled for the voice: %.2f s, plain %.2f s, %+v, %v", as.Seconds(), plain.Seconds(), as.Words, err)
	}
	slow, _ := voice.Speaker{Speed: 0.8}.Say(t.Context(), "Ask Nuala today.")
	if slow.Seconds() < 1.1*plain.Seconds() {
		t.Errorf("slow takes %.2f s, plain %.2f s", slow.Seconds(), plain.Seconds())
	}
	if nothing, err := (voice.Speaker{}).Say(t.Context(), "  \n "); err != nil || nothing.Seconds() != 0 {
		t.Errorf("nothing: %v, %v", nothing, err)
	}
	if _, err := (voice.Speaker{}).Say(t.Context(), strings.Repeat("word ", 2000)); err == nil {
		t.Error("10,000 letters at once are said")
	}
	if odd, err := (voice.Speaker{}).Say(t.Context(), "<speak>\x00 [[x]] \u202e &amp; 😀 "+strings.Repeat("a", 300)); err != nil || odd.Seconds() == 0 {
		t.Errorf("odd signs: %v", err)
	}
}
