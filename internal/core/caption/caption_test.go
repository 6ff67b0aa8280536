package caption_test

import (
	"bytes"
	"errors"
	"fmt"
	"math"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"
	"unicode/utf8"

	"github.com/asticode/go-astisub"

	"aspenridge/internal/core/caption"
)

// story is about as long as a minute of speaking.
const story = `The river is quiet before eight. Bring shoes that can get wet, a hat and something to drink, because the first stroke is the hardest one to learn. We go out six times, always on Saturdays, and nobody is asked to hurry. Boats are provided; so are vests, in every size that we have ever been asked for. If you cannot swim, tell us, and we will find you a place beside somebody who can.`

// TestOf holds captions against the figures of subtitling: at most two lines of 42 letters,
// 1 to 7 s, two frames between, and no faster than 17 letters a second where there is time.
func TestOf(t *testing.T) {
	for _, line := range []int{42, 30, 22} {
		words := caption.Spread(story, 0.5, 0.5+float64(len(story))/14)
		cues := caption.Of(words, line, 0)
		var said []string
		for i, c := range cues {
			said = append(said, strings.Fields(c.Text)...)
			parts := strings.Split(c.Text, "\n")
			if len(parts) > caption.MostLines {
				t.Errorf("%d: %q has %d lines", line, c.Text, len(parts))
			}
			for _, l := range parts {
				if n := utf8.RuneCountInString(l); n > line {
					t.Errorf("%d: line %q has %d letters", line, l, n)
				}
			}
			if d := c.To - c.From; d > caption.Most+1e-9 {
				t.Errorf("%d: %q is seen %.2f s", line, c.Text, d)
			}
			if i > 0 && c.From-cues[i-1].To < caption.Gap-1e-9 {
				t.Errorf("%d: %q follows after %.3f s", line, c.Text, c.From-cues[i-1].To)
			}
			if math.Abs(c.From-c.Words[0].From) > 0.2 {
				t.Errorf("%d: %q comes at %.2f, is said at %.2f", line, c.Text, c.From, c.Words[0].From)
			}
			if c.Fast() > 1.15*caption.MostSpeed {
				t.Errorf("%d: %q runs at %.1f letters a second", line, c.Text, c.Fast())
			}
		}
		if strings.Join(said, " ") != story {
			t.Errorf("%d: words were lost or moved: %q", line, said)
		}
	}
}

// TestOfBreaksAtPhrases: a caption ends with a sentence where it can, and never between an
// article and its noun where there is another way.
func TestOfBreaksAtPhrases(t *testing.T) {
	for _, line := range []int{42, 36, 26} {
		for _, c := range caption.Of(caption.Spread(story, 0, 30), line, 0) {
			words := strings.Fields(c.Text)
			if last := words[len(words)-1]; slices.Contains([]string{"the", "a", "every", "to", "of", "in", "and"}, last) {
				t.Errorf("%d: %q ends with %q", line, c.Text, last)
			}
		}
	}
	one := caption.Of(caption.Spread("It was as quiet as it ever is. Then all the birds went up at once and the children cried out.", 0, 7), 42, 0)
	if len(one) != 2 || one[0].Text != "It was as quiet as it ever is." {
		t.Errorf("broken as %+v", one)
	}
	// what is said after a pause is another caption
	words := append(caption.Spread("Ready?", 0, 0.5), caption.Spread("Now.", 3, 3.4)...)
	if cues := caption.Of(words, 42, 0); len(cues) != 2 || cues[0].To > 2 || cues[1].To-cues[1].From < caption.Least {
		t.Errorf("two words with a pause between: %+v", cues)
	}
	if len(caption.Of(nil, 42, 0)) != 0 {
		t.Error("captions of nothing")
	}
	if cues := caption.Of(caption.Spread(strings.Repeat("x", 300), 0, 2), 42, 0); len(cues) != 1 {
		t.Errorf("a word that fits nowhere: %d captions", len(cues))
	}
}

// The grammars: SubRip as it is commonly written, WebVTT by W3C's cue timings.
var (
	srtBlock = regexp.MustCompile(`^\d+\n\d{2,}:[0-5]\d:[0-5]\d,\d{3} --> \d{2,}:[0-5]\d:[0-5]\d,\d{3}\n(?:[^\n]+\n){1,2}$`)
	vttBlock = regexp.MustCompile(`^\d+\n\d{2,}:[0-5]\d:[0-5]\d\.\d{3} --> \d{2,}:[0-5]\d:[0-5]\d\.\d{3}\n(?:[^\n]+\n){1,2}$`)
)

// TestFiles writes captions, holds them against the grammars, and has another program read
// and write them.
func TestFiles(t *testing.T) {
	cues := caption.Of(caption.Spread("Salt & pepper are <not> the point. "+story, 0.25, 34), 42, 0)
	for _, k := range []struct {
		name  string
		data  []byte
		block *regexp.Regexp
		read  func([]byte) (*astisub.Subtitles, error)
		write func(*astisub.Subtitles, *bytes.Buffer) error
	}{
		{"srt", caption.SRT(cues), srtBlock, func(b []byte) (*astisub.Subtitles, error) { return astisub.ReadFromSRT(bytes.NewReader(b)) }, func(s *astisub.Subtitles, b *bytes.Buffer) error { return s.WriteToSRT(b) }},
		{"vtt", caption.VTT(cues), vttBlock, func(b []byte) (*astisub.Subtitles, error) { return astisub.ReadFromWebVTT(bytes.NewReader(b)) }, func(s *astisub.Subtitles, b *bytes.Buffer) error { return s.WriteToWebVTT(b) }},
	} {
		body := strings.TrimPrefix(string(k.data), "WEBVTT\n\n")
		for block := range strings.SplitSeq(strings.TrimSuffix(body, "\n\n"), "\n\n") {
			if !k.block.MatchString(block + "\n") {
				t.Errorf("%s: %q is not a block", k.name, block)
			}
		}
		other, err := k.read(k.data)
		if err != nil {
			t.Fatal(k.name, err)
		}
		if len(other.Items) != len(cues) {
			t.Fatalf("%s: another program reads %d of %d captions", k.name, len(other.Items), len(cues))
		}
		for i, it := range other.Items {
			if (it.StartAt-time.Duration(cues[i].From*1e9)).Abs() > time.Millisecond || (it.EndAt-time.Duration(cues[i].To*1e9)).Abs() > time.Millisecond {
				t.Errorf("%s: caption %d runs %v to %v there, %v to %v here", k.name, i, it.StartAt, it.EndAt, cues[i].From, cues[i].To)
			}
			said := strings.TrimSuffix(it.String(), " - ") // it has the empty line at the end as one more
			if i > 0 && said != strings.ReplaceAll(cues[i].Text, "\n", " - ") {
				t.Errorf("%s: caption %d is %q there, %q here", k.name, i, said, cues[i].Text)
			}
		}
		var again bytes.Buffer
		if err := k.write(other, &again); err != nil {
			t.Fatal(err)
		}
		back, err := caption.Read(again.Bytes())
		if err != nil || len(back) != len(cues) {
			t.Fatalf("%s: what another program wrote: %d captions, %v", k.name, len(back), err)
		}
		for i := range back {
			if i > 0 && back[i].Text != cues[i].Text || math.Abs(back[i].From-cues[i].From) > 0.001 {
				t.Errorf("%s: %+v came back as %+v", k.name, cues[i], back[i])
			}
		}
		own, err := caption.Read(k.data)
		if err != nil || own[0].Text != cues[0].Text {
			t.Errorf("%s: own file: %v, %q", k.name, err, own[0].Text)
		}
	}
}

// TestReadOddFiles reads what people have.
func TestReadOddFiles(t *testing.T) {
	for name, k := range map[string]struct {
		file string
		want []string
	}{
		"unordered":       {"2\n00:00:05,000 --> 00:00:06,000\nb\n\n1\n00:00:01,000 --> 00:00:02,000\na\n", []string{"1 2 a", "5 6 b"}},
		"overlapping":     {"1\n00:00:01,000 --> 00:00:04,000\na\n\n2\n00:00:03,000 --> 00:00:05,000\nb\n", []string{"1 3 a", "3 5 b"}},
		"no empty lines":  {"1\n00:00:01,000 --> 00:00:02,000\na\n2\n00:00:03,000 --> 00:00:05,000\nb", []string{"1 2 a", "3 5 b"}},
		"mark and tags":   {"\ufeffWEBVTT - x\r\n\r\nNOTE hello\r\n\r\n01:01.500 --> 01:02.000 line:0\r\n<v Ann>fish &amp; <i>chips</i>\r\n", []string{"61.5 62 fish & chips"}},
		"without numbers": {"00:00:01.000 --> 00:00:02.000\n{\\an8}a\n", []string{"1 2 a"}},
		"empty ones":      {"1\n00:00:01,000 --> 00:00:02,000\n\n2\n00:00:03,000 --> 00:00:04,000\nb\n", []string{"3 4 b"}},
		"same time":       {"1\n00:00:01,000 --> 00:00:02,000\na\n\n2\n00:00:01,000 --> 00:00:02,000\nb\n", []string{"1 2 b"}},
	} {
		cues, err := caption.Read([]byte(k.file))
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		var got []string
		for _, c := range cues {
			got = append(got, fmt.Sprint(c.From, c.To, " ", c.Text))
		}
		if strings.Join(got, "|") != strings.Join(k.want, "|") {
			t.Errorf("%s: %q, want %q", name, got, k.want)
		}
	}
}

// TestReadBadFiles: what is wrong is named, with its line.
func TestReadBadFiles(t *testing.T) {
	many := strings.Repeat("1\n00:00:01,000 --> 00:00:02,000\na\n\n", 10_000)
	for name, k := range map[string]struct{ file, says string }{
		"nothing":      {"", "none found"},
		"a picture":    {"\x89PNG\r\n\x1a\n\xff", "UTF-8"},
		"negative":     {"1\n-00:00:01,000 --> 00:00:02,000\na\n", "line 2"},
		"backwards":    {"1\n00:00:03,000 --> 00:00:02,000\na\n", "before it begins"},
		"half a time":  {"1\n00:00:03,000 -->\na\n", "line 2"},
		"no such time": {"1\n00:00:63,000 --> 00:02:00,000\na\n", "59"},
		"ten thousand": {many, "2000"},
		"a long one":   {"1\n00:00:01,000 --> 00:00:02,000\n" + strings.Repeat("x", 5000) + "\n", "5000 letters"},
	} {
		_, err := caption.Read([]byte(k.file))
		if !errors.Is(err, caption.ErrFile) || !strings.Contains(err.Error(), k.says) {
			t.Errorf("%s: %v", name, err)
		}
	}
}

func FuzzRead(f *testing.F) {
	f.Add([]byte("1\n00:00:01,000 --> 00:00:02,000\na\n"))
	f.Add([]byte("WEBVTT\n\n00:01.000 --> 00:02.000\n<b>a</b>\n"))
	f.Fuzz(func(t *testing.T, data []byte) {
		cues, err := caption.Read(data)
		if err != nil {
			return
		}
		for i, c := range cues {
			if c.From < 0 || c.To <= c.From || i > 0 && c.From < cues[i-1].To {
				t.Fatalf("%+v", cues)
			}
		}
	})
}
