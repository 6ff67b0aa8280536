package test

import (
	"crypto/sha256"
	"math/rand/v2"
	"slices"
	"testing"
	"time"
)

// referenceRounds is how many times the reference runs before and after what is measured; the
// median of all counts.
const referenceRounds = 4

// work is a fixed piece of work for one processor: hashing 16 MB and sorting 400,000 numbers.
func work() time.Duration {
	r := rand.New(rand.NewPCG(31, 31))
	data, numbers := make([]byte, 1<<20), make([]uint64, 400_000)
	for i := range numbers {
		numbers[i] = r.Uint64()
	}
	begun := time.Now()
	for range 16 {
		sum := sha256.Sum256(data)
		copy(data, sum[:])
	}
	slices.Sort(numbers)
	return time.Since(begun)
}

// reference measures how fast the machine is now: begin it before what is measured, and judge by
// it after.
type reference struct{ rounds []time.Duration }

func newReference() *reference {
	r := &reference{}
	r.run()
	return r
}

func (r *reference) run() {
	for range referenceRounds {
		r.rounds = append(r.rounds, work())
	}
}

// bar fails a benchmark in which something took more than so many times the reference; the times
// themselves are printed and not judged, since a slow or busy machine has others.
func (r *reference) bar(b *testing.B, what string, took time.Duration, most float64) {
	b.Helper()
	if len(r.rounds) == referenceRounds {
		r.run()
	}
	slices.Sort(r.rounds)
	unit := r.rounds[len(r.rounds)/2]
	b.Logf("%s: %v, %.2f times the reference (%v), the bar is %.2f", what, took.Round(time.Microsecond), float64(took)/float64(unit), unit.Round(time.Microsecond), most)
	bar(b, what+", in times of the reference", float64(took)/float64(unit), most)
}
