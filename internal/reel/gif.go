package reel

import (
	"context"
	"io"
	"os"

	"aspenridge/internal/core/film"
	"aspenridge/internal/raster"
)

// gifLoops is how often a GIF begins again: it is played three times, as display ads may
// (common practice).
const gifLoops = "2"

// webpLoops is the same as WebP counts it.
const webpLoops = "3"

// WebP is the format of moving pieces with more colours than [GIF] has, in fewer bytes.
const WebP = "webp"

// Given is what a moving piece was given to be so small.
type Given struct {
	FPS     int   `json:"fps,omitempty"`
	Colours int   `json:"colours,omitempty"` // of a GIF
	Quality int   `json:"quality,omitempty"` // of a WebP, 0-100
	CRF     int   `json:"crf,omitempty"`     // of a video: the encoder's constant rate factor, lower is better
	Bytes   int64 `json:"bytes"`
	Over    bool  `json:"over"` // it is over the limit all the same
	// Flashes are when it flashes more often than people bear, s ([film.Flashes]).
	Flashes []float64 `json:"flashes,omitempty"`
}

// givings are what is tried, from the best on, by format.
var givings = map[string][]Given{
	GIF:  gifGivings,
	WebP: {{FPS: 15, Quality: 85}, {FPS: 15, Quality: 70}, {FPS: 12, Quality: 60}, {FPS: 10, Quality: 45}, {FPS: 10, Quality: 30}, {FPS: 8, Quality: 20}, {FPS: 6, Quality: 10}, {FPS: 5, Quality: 4}},
}

var gifGivings = []Given{{FPS: 15, Colours: 192}, {FPS: 12, Colours: 128}, {FPS: 10, Colours: 96}, {FPS: 10, Colours: 64}, {FPS: 8, Colours: 48}, {FPS: 6, Colours: 32}, {FPS: 5, Colours: 24}}

// Animated are the formats [Animate] makes.
var Animated = []string{GIF, WebP}

// Animate makes a film of so many frames a second as a GIF or WebP of at most so many bytes (0
// for any): with as many frames and colours, or as good, as the limit leaves. What is over it
// with the least of both is made all the same, and said.
func Animate(ctx context.Context, studio *raster.Studio, of func(fps int) *film.Film, clips Clips, format string, limit int64, path string, tell func(done, of int)) (Given, error) {
	var given Given
	for i, g := range givings[format] {
		f := of(g.FPS)
		if f.Frames() == 0 {
			return given, errNothing
		}
		s, err := Set(ctx, studio, f, clips)
		if err != nil {
			return given, err
		}
		inner, stop := context.WithCancel(ctx)
		err = encode(inner, f, nil, format, g, path, func(w io.Writer) error {
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
		given.Bytes, given.Flashes = info.Size(), s.flashes
		if given.Over = limit > 0 && given.Bytes > limit; !given.Over || i == len(givings[format])-1 {
			break
		}
	}
	return given, nil
}
