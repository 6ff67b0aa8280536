package main

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/kitfile"
	"aspenridge/internal/raster"
)

// pairSeed made the pairs kept out of the tuning, the last forty in
// internal/core/piece/testdata/pairs.json.
const pairSeed = 28

// pair is two pieces of one brief on one placement, with what is known of their worth.
type pair struct {
	N                 int
	Kit, Photo, Place string
	Layouts           [2]string
	Worth             [2]piece.Worth
}

// pairSheets draws pairs of pieces of any layouts to be judged by eye, twenty a sheet,
// and writes what was drawn to pairs.json.
func pairSheets(ctx context.Context, out, from, photos string, n int, row float64) error {
	shots, err := photosIn(photos)
	if err != nil || len(shots) == 0 {
		return fmt.Errorf("pairs want photographs: %w", err)
	}
	kits, err := os.ReadDir(from)
	if err != nil {
		return err
	}
	rng := rand.New(rand.NewPCG(pairSeed, pairSeed))
	places := []string{"feed-square", "feed-tall", "story", "feed-wide", "video-thumbnail"}
	var list []pair
	var s sheet
	for i := range n {
		if i%20 == 0 {
			s = sheet{row: row, y: gap, pieces: 2 * i}
		}
		p := pair{N: i + 1, Kit: kits[rng.IntN(len(kits))].Name(), Photo: shots[rng.IntN(len(shots))], Place: places[rng.IntN(len(places))]}
		folder := os.DirFS(filepath.Join(from, p.Kit))
		kit, br, err := loadKit(ctx, folder)
		if err != nil {
			return err
		}
		br.Cards[0].Pictures = []brief.Picture{{File: p.Photo}}
		pics, err := kitfile.LoadPictures(ctx, br, os.DirFS(photos), kit.Kit, folder)
		if err != nil {
			return err
		}
		job := kitfile.Job(kit, br, pics)
		place, err := spec.Parse(p.Place)
		if err != nil {
			return err
		}
		a := rng.IntN(len(job.Layouts))
		b := (a + 1 + rng.IntN(len(job.Layouts)-1)) % len(job.Layouts)
		s.x = gap + float64(i%4)*(3.4*row)
		s.text(s.x, s.y+12, 12, "#333", fmt.Sprintf("%d", p.N))
		s.x += 24
		studio := raster.NewStudio(pics.Source)
		for k, n := range []int{a, b} {
			looks := job.LooksFor(piece.Wish{Layout: job.Layouts[n].ID}, 3)
			pc := job.Compose(looks[rng.IntN(len(looks))], place, 0)
			p.Layouts[k], p.Worth[k] = pc.Layout.ID, pc.Worth
			if err := s.piece(ctx, studio, &pc, pc.Layout.ID); err != nil {
				return err
			}
		}
		list = append(list, p)
		if i%4 == 3 {
			s.y += row + gap + 10
		}
		if i%20 == 19 || i == n-1 {
			if err := s.write(ctx, filepath.Join(out, fmt.Sprintf("pairs-%d.png", i/20+1))); err != nil {
				return err
			}
		}
	}
	data, err := json.MarshalIndent(list, "", " ")
	if err != nil {
		return err
	}
	return os.WriteFile(filepath.Join(out, "pairs.json"), data, 0o644)
}
