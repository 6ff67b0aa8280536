package reel

import (
	"context"
	"fmt"
	"io"
	"os"

	"aspenridge/internal/core/film"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/raster"
)

// gifLoops is how often a GIF begins again: it is played three times, as display ads may
// (common practice).
const gifLoops = "2"

// Given is what a GIF was given to be so small.
type Given struct {
	FPS     int   `json:"fps"`
	Colours int   `json:"colours"`
	Bytes   int64 `json:"bytes"`
	Over    bool  `json:"over"` // it is over the limit all the same
}

// givings are what is tried, from the best on.
var givings = []Given{{FPS: 15, Colours: 192}, {FPS: 12, Colours: 128}, {FPS: 10, Colours: 96}, {FPS: 10, Colours: 64}, {FPS: 8, Colours: 48}, {FPS: 6, Colours: 32}, {FPS: 5, Colours: 24}}

// Animate makes a piece move, as a GIF of at most so many bytes (0 for any): with as many
// frames and colours as the limit leaves. What is over it with the least of both is made
// all the same, and said.
func Animate(ctx context.Context, studio *raster.Studio, job *piece.Job, sc *scene.Scene, clips Clips, seconds float64, limit int64, path string, tell func(done, of int)) (Given, error) {
	var given Given
	for i, g := range givings {
		f := film.Moving(job, sc, g.FPS, seconds, true)
		if f.Frames() == 0 {
			return given, fmt.Errorf("a moving piece of %v s has no frames", seconds)
		}
		s, err := Set(ctx, studio, f, clips)
		if err != nil {
			return given, err
		}
		inner, stop := context.WithCancel(ctx)
		err = encode(inner, f, nil, GIF, g.Colours, path, func(w io.Writer) error {
			err := s.pour(inner, w, tell)
			if err != nil {
				stop()
			}
			return err
		})
		stop()
		s.Close()
		if err != nil {
			return given, err
		}
		info, err := os.Stat(path)
		if err != nil {
			return given, err
		}
		given = g
		given.Bytes = info.Size()
		if given.Over = limit > 0 && given.Bytes > limit; !given.Over || i == len(givings)-1 {
			break
		}
	}
	return given, nil
}
