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

// pairSeed made the pairs in internal/core/piece/testdata/composed.json; 28, with the kits' own
// copy alone, the last forty in pairs.json beside it.
const pairSeed = 32

// pairCopies are what the pieces of pairs say.
func pairCopies() []brief.Brief {
	str := func(s string) *string { return &s }
	of := func(purpose string, c brief.Card) brief.Brief {
		return brief.Brief{FormatVersion: 1, Name: purpose, Purpose: purpose, Signature: "both", Cards: []brief.Card{c}}
	}
	german := of("announce", brief.Card{Headline: str("Sprechstunde jetzt auch samstags"), Subheading: str("Impfen, Zähne, Krallen und ein ruhiges Wartezimmer"), Body: str("Bitte melden Sie sich vorher telefonisch an."), CallToAction: str("Termin vereinbaren")})
	german.Name, german.Language = "german", "de"
	return []brief.Brief{
		of("announce", brief.Card{Headline: str("Talk so the back row hears you"), Subheading: str("A two-day workshop for people who hate microphones"), CallToAction: str("Take a chair")}),
		of("offer", brief.Card{Headline: str("Second cup, half price"), Subheading: str("Every weekday before nine"), Offer: &brief.Offer{Percent: 50, Until: "2027-01-31"}, Terms: str("One a person and day."), CallToAction: str("Find us")}),
		of("event", brief.Card{Headline: str("Sing before breakfast"), Subheading: str("Open rehearsal on the pier"), When: &brief.When{Date: "2027-06-05", From: "06:30"}, Where: str("North Pier"), CallToAction: str("Come along")}),
		of("quote", brief.Card{Headline: str("Nine days on foot"), Quote: &brief.Quote{Text: "We walked for nine days and never once looked at a clock.", Source: "Hedda, guest in October"}, CallToAction: str("See the route")}),
		of("product", brief.Card{Headline: str("The long-haul pannier"), Subheading: str("Waxed canvas, one buckle, twenty litres"), Offer: &brief.Offer{Price: "£ 148"}, CallToAction: str("Have a look")}),
		german,
	}
}

// pair is two pieces of one brief on one placement, with what is known of their worth.
type pair struct {
	N                 int
	Kit, Photo, Place string
	Copy              string
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
	copies := pairCopies()
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
		own := copies[rng.IntN(len(copies))]
		p.Copy = own.Name
		br.Purpose, br.Language, br.Signature, br.Cards = own.Purpose, own.Language, own.Signature, own.Cards
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
