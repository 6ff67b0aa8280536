package reel

import (
	"context"
	"io"
	"os"
	"slices"

	"aspenridge/internal/core/film"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/raster"
)

// loops is how often a film begins again as a file of a format: without an end where it is made for
// that, else it is played three times, as display ads may (common practice). A GIF counts how
// often it is begun once more, a WebP how often it is played; 0 is without an end in both.
func loops(f *film.Film, format string) string {
	switch {
	case f.Round:
		return "0"
	case format == GIF:
		return "2"
	}
	return "3"
}

// WebP is the format of moving pieces with more colours than [GIF] has, in fewer bytes.
const WebP = "webp"

// Given is what a moving piece was given to be so small.
type Given struct {
	FPS     int `json:"fps,omitempty"`
	Colours int `json:"colours,omitempty"` // of a GIF
	Quality int `json:"quality,omitempty"` // of a WebP, 0-100
	CRF     int `json:"crf,omitempty"`     // of a video: the encoder's constant rate factor, lower is better
	// Scale is how large it is drawn of its place's size, 0-1; 0 for as large. Only places
	// that take any size are given smaller ones.
	Scale float64 `json:"scale,omitempty"`
	Bytes int64   `json:"bytes"`
	Over  bool    `json:"over"` // it is over the limit all the same
	// Flashes are when it flashes more often than people bear, s ([film.Flashes]).
	Flashes []float64 `json:"flashes,omitempty"`
}

// givings are what is tried, from the best on, by format: fewer frames and colours first, then a
// smaller size, which people see less than either at its worst.
var givings = map[string][]Given{
	GIF: {
		{FPS: 15, Colours: 192}, {FPS: 12, Colours: 128}, {FPS: 10, Colours: 96}, {FPS: 10, Colours: 64},
		{FPS: 10, Colours: 64, Scale: 0.75}, {FPS: 10, Colours: 64, Scale: 0.5}, {FPS: 8, Colours: 48, Scale: 0.5},
		{FPS: 8, Colours: 48}, {FPS: 6, Colours: 32}, {FPS: 5, Colours: 24}, {FPS: 5, Colours: 24, Scale: 0.5},
	},
	WebP: {
		{FPS: 15, Quality: 85}, {FPS: 15, Quality: 70}, {FPS: 12, Quality: 60}, {FPS: 10, Quality: 45},
		{FPS: 10, Quality: 45, Scale: 0.75}, {FPS: 10, Quality: 45, Scale: 0.5},
		{FPS: 10, Quality: 30}, {FPS: 8, Quality: 20}, {FPS: 6, Quality: 10}, {FPS: 5, Quality: 4}, {FPS: 5, Quality: 4, Scale: 0.5},
	},
}

// tried are the givings of a format for a place of an exact size, or of any.
func tried(format string, exact bool) []Given {
	all := slices.Clone(givings[format])
	if exact {
		return slices.DeleteFunc(all, func(g Given) bool { return g.Scale != 0 })
	}
	// what is worse than half the size stands only where the size has to
	half := slices.IndexFunc(all, func(g Given) bool { return g.Scale == 0.5 })
	return append(all[:half+1], slices.DeleteFunc(all[half+1:], func(g Given) bool { return g.Scale == 0 })...)
}

// Limit is what a moving piece may weigh.
type Limit struct {
	Bytes int64 // 0 for any
	Exact bool  // it has the size of its place, as advertisements have (common practice)
}

// Animated are the formats [Animate] makes.
var Animated = []string{GIF, WebP}

// LimitOf is the limit of a place.
func LimitOf(p spec.Placement) Limit { return Limit{int64(p.MaxBytes), p.Advertisement()} }

// Animate makes a film of so many frames a second as a GIF or WebP within a limit: with as many
// frames and colours, as good and as large, as it leaves. What is over it with the least of all
// is made all the same, and said.
func Animate(ctx context.Context, studio *raster.Studio, of func(fps int) *film.Film, clips Clips, format string, limit Limit, path string, tell func(done, of int)) (Given, error) {
	var given Given
	ways := tried(format, limit.Exact)
	for i, g := range ways {
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
		if given.Over = limit.Bytes > 0 && given.Bytes > limit.Bytes; !given.Over || i == len(ways)-1 {
			break
		}
	}
	return given, nil
}
