package app

import (
	"context"
	"fmt"
	"math"
	"strings"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/motion"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/spec"
)

// MotionInput is what the frames of a kit are drawn of: its first picture, or
// one a brief of it shows, and its own words as the caption.
func (a Brand) MotionInput(ctx context.Context, m Member, k *Kit, placement string) (motion.Input, error) {
	p, ok := spec.Find(placement)
	if !ok {
		return motion.Input{}, fmt.Errorf("%w: placement %q", ErrInvalid, placement)
	}
	in := motion.Input{Kit: k.Kit, Library: k.Library, Shaper: a.shaper, Placement: p, Caption: "Every piece in one voice, moving too", Spoken: 1}
	if k.Tagline != "" {
		in.Caption = k.Tagline
	}
	in.Pictures = map[string]photo.Picture{}
	for _, pic := range k.Pictures {
		w, h, ok := k.PictureSize(pic.File)
		if !ok || pic.Kind == brand.Clip {
			continue
		}
		shown := photo.Picture{Hash: HashOf(pic.File), W: w, H: h, Focus: [2]float64{0.5, 0.5}}
		if pic.Focus != nil {
			shown.Focus = *pic.Focus
		}
		in.Pictures[pic.File] = shown
		if in.Picture == nil && pic.Kind == brand.PhotoPicture {
			in.Picture = &shown
		}
	}
	if in.Picture != nil {
		return in, nil
	}
	first := func(s *Set) *photo.Picture {
		for _, pic := range s.Brief.Cards[0].Pictures {
			if ph, ok := s.Job.Pictures[pic.File]; ok {
				ph.Focus = [2]float64{0.5, 0.5}
				return &ph
			}
		}
		return nil
	}
	s, err := a.kits.InUse(ctx, m, k.ID, func(s *Set) bool { return first(s) != nil })
	if err == nil && s != nil {
		in.Picture = first(s)
	}
	return in, err
}

// PlaceMark puts the corner mark at a place of its own: shares (0-1) of the
// width and height of a frame, for its middle.
func (a Brand) PlaceMark(ctx context.Context, m Member, kit ID, client string, x, y float64) error {
	k, err := a.kits.Kit(ctx, m, kit)
	if err != nil {
		return err
	}
	mark := k.Motion.Mark
	mark.Place, mark.At = "free", [2]float64{math.Round(x*1000) / 1000, math.Round(y*1000) / 1000}
	_, err = a.documents.Edit(ctx, m, kit, Change{Client: client, Base: Latest, Op: edit.Op{Path: "/$extensions/aspenridge/motion/mark", Value: raw(mark)}})
	return err
}

// SetSong chooses music of one's own for a kit's videos, a file that [Files.BringSound] took in; ""
// for none.
func (a Brand) SetSong(ctx context.Context, m Member, kit ID, client, file string) error {
	op := edit.Op{Path: "/$extensions/aspenridge/motion/song"}
	if file != "" {
		known, err := a.soundsOf(ctx, m.Workspace, file)
		if err != nil {
			return err
		}
		if known[file] == 0 {
			return fmt.Errorf("%w: %.80q is no file of sound that was taken in: give it once more", ErrInvalid, file)
		}
		op.Value = raw(brand.Song{File: file})
	}
	_, err := a.documents.Edit(ctx, m, kit, Change{Client: client, Base: Latest, Op: op})
	return err
}

// SaySo says how words are spoken: "word = as it sounds", with commas between; nothing for
// as they are written.
func (a Brand) SaySo(ctx context.Context, m Member, kit ID, client, text string) error {
	says := []brand.Says{}
	for part := range strings.SplitSeq(text, ",") {
		if strings.TrimSpace(part) == "" {
			continue
		}
		word, as, ok := strings.Cut(part, "=")
		word, as = strings.TrimSpace(word), strings.TrimSpace(as)
		if !ok || word == "" || as == "" || strings.ContainsAny(word, " \t") {
			return fmt.Errorf("%w: %q: write one word, =, and how it sounds, like Larkmoor = lark more", ErrInvalid, strings.TrimSpace(part))
		}
		says = append(says, brand.Says{Word: word, As: as})
	}
	_, err := a.documents.Edit(ctx, m, kit, Change{Client: client, Base: Latest, Op: edit.Op{Path: "/$extensions/aspenridge/motion/says", Value: raw(says)}})
	return err
}
