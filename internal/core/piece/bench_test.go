package piece_test

import (
	"testing"
	"time"

	"aspenridge/internal/core/spec"
)

// The mat of 24 placements recomputed after one key, server's share: bar 60 ms.
func BenchmarkMatOf24AfterOneKey(b *testing.B) {
	job := testJob(b)
	look := job.Looks(1)[0]
	var places []spec.Placement
	for _, id := range spec.AllImages()[:24] {
		p, _ := spec.Find(id)
		places = append(places, p)
	}
	text := "Quiet water, first strokes"
	n := 0
	for b.Loop() {
		n++
		t := text + string(rune('a'+n%26)) + string(rune('a'+n/26%26))
		job.Brief.Cards[0].Headline = &t
		for _, p := range places {
			job.Compose(look, p, 0)
		}
	}
	if per := b.Elapsed() / time.Duration(b.N); per > 60*time.Millisecond {
		b.Errorf("%v, the bar is 60 ms", per)
	}
}

// Sixty looks in three shapes each: bar 1.5 s.
func BenchmarkSixtyLooksInThreeShapes(b *testing.B) {
	job := testJob(b)
	for b.Loop() {
		if n := len(job.Sheet(job.Looks(60))); n != 60 {
			b.Fatalf("%d looks", n)
		}
	}
	if per := b.Elapsed() / time.Duration(b.N); per > 1500*time.Millisecond {
		b.Errorf("%v, the bar is 1.5 s", per)
	}
}
