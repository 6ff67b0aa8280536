package film_test

import (
	"testing"

	"aspenridge/internal/core/film"
	"aspenridge/internal/core/spec"
)

// BenchmarkOf is building a film, as every key on the Video page does, against composing as
// many pieces of the set.
func BenchmarkOf(b *testing.B) {
	j := job(b)
	p, _ := spec.Find("video-wide")
	look := j.First()
	for b.Loop() {
		film.Of(j, look, p, nil)
	}
}
