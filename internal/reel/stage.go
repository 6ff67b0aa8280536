// Package reel draws films and makes files of them: every layer is drawn once, frames are
// put together of pixels, and ffmpeg encodes what comes through a pipe.
package reel

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"image/draw"
	_ "image/jpeg" // cuts of pictures come as JPEG or PNG
	_ "image/png"
	"math"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/film"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/raster"
)

// Stage is a film with its layers as pixels. Safe for concurrent use.
type Stage struct {
	film  *film.Film
	takes [][]sprite
	mark  []sprite
	over  []sprite

	flashes []float64 // s, of the film as it was drawn last
}

// sprite is a layer as pixels.
type sprite struct {
	at     image.Rectangle // on the canvas
	plain  *colour.RGB     // of one colour all over, without pixels of its own
	img    *image.RGBA     // premultiplied
	rows   [][]run         // what there is in each row of img, of one that does not grow
	mask   *image.RGBA     // what a picture in a frame is cut to, by its alpha; nil for its box
	moves  bool            // a picture that grows: img is as large as it gets
	player *player         // what runs in its frame, instead of img
}

// Set draws the layers of a film and opens its clips; whoever is done with it closes it.
func Set(ctx context.Context, studio *raster.Studio, f *film.Film, clips Clips) (_ *Stage, err error) {
	s := &Stage{film: f}
	defer func() {
		if err != nil {
			s.Close()
		}
	}()
	for i := range f.Takes {
		row, err := sprites(ctx, studio, f.Takes[i].Layers)
		for k := 0; k < len(row) && err == nil; k++ {
			if c := f.Takes[i].Layers[k].Clip; c != nil {
				err = row[k].play(ctx, clips, &f.Takes[i].Layers[k], f.FPS)
			}
		}
		if err != nil {
			return nil, fmt.Errorf("the %s: %w", f.Takes[i].Role, err)
		}
		s.takes = append(s.takes, row)
	}
	if s.mark, err = sprites(ctx, studio, f.Mark); err != nil {
		return nil, fmt.Errorf("the corner mark: %w", err)
	}
	captions := make([]film.Layer, len(f.Over))
	for i := range f.Over {
		captions[i] = f.Over[i].Layer
	}
	if s.over, err = sprites(ctx, studio, captions); err != nil {
		return nil, fmt.Errorf("the captions: %w", err)
	}
	return s, nil
}

func sprites(ctx context.Context, studio *raster.Studio, layers []film.Layer) ([]sprite, error) {
	out := make([]sprite, len(layers))
	for i := range layers {
		var err error
		if out[i], err = spriteOf(ctx, studio, &layers[i]); err != nil {
			return nil, err
		}
	}
	return out, nil
}

func spriteOf(ctx context.Context, studio *raster.Studio, l *film.Layer) (sprite, error) {
	p := &l.Drawing.Parts[0]
	whole := image.Rect(0, 0, l.Drawing.W, l.Drawing.H)
	at := image.Rect(int(math.Floor(l.Box.X)), int(math.Floor(l.Box.Y)), int(math.Ceil(l.Box.Right())), int(math.Ceil(l.Box.Bottom()))).Intersect(whole)
	s := sprite{at: at}
	if at.Empty() {
		return s, nil
	}
	covers := p.Kind == scene.KindShape && p.Path == "" && p.Radius == 0 && p.Stroke == 0 && p.Fade == nil && (p.Alpha == 0 || p.Alpha == 1)
	if covers && p.Box.Contains(spec.Rect{W: float64(whole.Dx()), H: float64(whole.Dy())}, 0) {
		fill := p.Fill
		s.at, s.plain = whole, &fill
		return s, nil
	}
	if l.Move.Kind == "drift" {
		return s, s.picture(ctx, studio, l)
	}
	data, err := studio.Render(ctx, l.Drawing, raster.Output{Format: "png", Fast: true, Transparent: true, View: rectOf(at)})
	if err != nil {
		return s, err
	}
	if s.img, err = pixels(data, at.Dx(), at.Dy()); err == nil {
		s.rows = runsOf(s.img)
	}
	return s, err
}

// run is a stretch of a row in which something is drawn.
type run struct {
	from, to int
	solid    bool // nothing shows through
}

// runsOf finds what is drawn in each row.
func runsOf(img *image.RGBA) [][]run {
	out := make([][]run, img.Rect.Dy())
	for y := range out {
		row := img.Pix[y*img.Stride:][:4*img.Rect.Dx()]
		for x := 0; 4*x < len(row); x++ {
			a := row[4*x+3]
			if a == 0 {
				continue
			}
			if n := len(out[y]); n > 0 && out[y][n-1].to == x && out[y][n-1].solid == (a == 255) {
				out[y][n-1].to++
				continue
			}
			out[y] = append(out[y], run{x, x + 1, a == 255})
		}
	}
	return out
}

func rectOf(r image.Rectangle) spec.Rect {
	return spec.Rect{X: float64(r.Min.X), Y: float64(r.Min.Y), W: float64(r.Dx()), H: float64(r.Dy())}
}

// picture draws what a layer shows in its frame as large as it gets.
func (s *sprite) picture(ctx context.Context, studio *raster.Studio, l *film.Layer) error {
	p := &l.Drawing.Parts[0]
	s.at = image.Rect(int(math.Round(p.Box.X)), int(math.Round(p.Box.Y)), int(math.Round(p.Box.Right())), int(math.Round(p.Box.Bottom())))
	s.moves = true
	w, h := int(math.Ceil(float64(s.at.Dx())*l.Move.By)), int(math.Ceil(float64(s.at.Dy())*l.Move.By))
	data, err := cutFor(ctx, studio, l, s.at, w, h)
	if err != nil {
		return err
	}
	if s.img, err = pixels(data, w, h); err != nil {
		return err
	}
	return s.cutTo(ctx, studio, l)
}

// cutFor is what a layer shows in its frame, w x h px large: its picture, or its drawing.
func cutFor(ctx context.Context, studio *raster.Studio, l *film.Layer, at image.Rectangle, w, h int) (data []byte, err error) {
	p := &l.Drawing.Parts[0]
	if p.Kind == scene.KindPicture {
		data, _, err = studio.Crop(ctx, scene.PictureRef{Hash: p.Picture, Crop: p.Crop, W: float64(w), H: float64(h), Tone: p.Tone, Dials: p.Dials}, w, h)
		return data, err
	}
	return studio.Render(ctx, l.Drawing, raster.Output{Format: "png", Fast: true, Transparent: true, View: rectOf(at), Scale: l.Move.By})
}

// cutTo masks a picture by what its frame cuts it to, if anything.
func (s *sprite) cutTo(ctx context.Context, studio *raster.Studio, l *film.Layer) error {
	p := &l.Drawing.Parts[0]
	if p.Clip == "" {
		return nil
	}
	cut := &scene.Scene{W: l.Drawing.W, H: l.Drawing.H, Parts: []scene.Part{{Slot: "mask", Kind: scene.KindShape, Path: p.Clip, Box: p.Box, Fill: colour.White}}}
	data, err := studio.Render(ctx, cut, raster.Output{Format: "png", Fast: true, Transparent: true, View: rectOf(s.at)})
	if err != nil {
		return err
	}
	s.mask, err = pixels(data, s.at.Dx(), s.at.Dy())
	return err
}

// play has a clip run in the frame of a picture.
func (s *sprite) play(ctx context.Context, clips Clips, l *film.Layer, fps int) error {
	if clips == nil {
		return errors.New("a clip, and nowhere to get it from")
	}
	path, err := clips(ctx, l.Clip.Hash)
	if err != nil {
		return err
	}
	s.player = newPlayer(path, *l.Clip, s.at.Dx(), s.at.Dy(), fps)
	s.img = nil
	return nil
}

// pixels decodes what a studio has drawn.
func pixels(data []byte, w, h int) (*image.RGBA, error) {
	img, _, err := image.Decode(bytes.NewReader(data))
	if err != nil {
		return nil, err
	}
	out := image.NewRGBA(image.Rect(0, 0, w, h))
	draw.Draw(out, out.Rect, img, img.Bounds().Min, draw.Src)
	return out, nil
}

// Frame draws a frame onto an image of the size of the film; the same frame is the same
// pixels every time. Frames of clips are read in order: it is quick to ask for them so.
func (s *Stage) Frame(n int, onto *image.RGBA) error {
	for _, p := range s.film.At(float64(n) / float64(s.film.FPS)) {
		var row []sprite
		switch p.Take {
		case film.OfMark:
			row = s.mark
		case film.OfOver:
			row = s.over
		default:
			row = s.takes[p.Take]
		}
		if err := row[p.Index].draw(onto, p); err != nil {
			return err
		}
	}
	return nil
}

// draw puts a layer on a frame.
func (s *sprite) draw(onto *image.RGBA, p film.Pose) error {
	if p.Shift != [2]float64{} { // the whole take stands elsewhere
		by := image.Pt(int(p.Shift[0]), int(p.Shift[1]))
		there := *s
		there.at = s.at.Add(by)
		s = &there
		p.Show.X, p.Show.Y = p.Show.X+p.Shift[0], p.Show.Y+p.Shift[1]
	}
	show := image.Rect(int(math.Round(p.Show.X)), int(math.Round(p.Show.Y)), int(math.Round(p.Show.Right())), int(math.Round(p.Show.Bottom()))).Intersect(onto.Rect)
	alpha := uint32(math.Round(256 * p.Alpha))
	switch {
	case alpha == 0:
	case s.player != nil:
		img, err := s.player.frame(p.Time)
		if err != nil {
			return err
		}
		now := *s
		now.img = img
		now.grown(onto, show, p, alpha)
	case s.img == nil && s.plain == nil:
	case s.plain != nil:
		fill(onto, s.at.Intersect(show), *s.plain, alpha)
	case s.moves:
		s.grown(onto, show, p, alpha)
	default:
		s.over(onto, show, p.Down, alpha)
	}
	return nil
}

func fill(onto *image.RGBA, r image.Rectangle, c colour.RGB, alpha uint32) {
	if r.Empty() {
		return
	}
	if alpha == 256 {
		first := onto.Pix[onto.PixOffset(r.Min.X, r.Min.Y):][: 4*r.Dx() : 4*r.Dx()]
		for i := 0; i < len(first); i += 4 {
			first[i], first[i+1], first[i+2], first[i+3] = c.R, c.G, c.B, 255
		}
		for y := r.Min.Y + 1; y < r.Max.Y; y++ {
			copy(onto.Pix[onto.PixOffset(r.Min.X, y):], first)
		}
		return
	}
	for y := r.Min.Y; y < r.Max.Y; y++ {
		row := onto.Pix[onto.PixOffset(r.Min.X, y):][:4*r.Dx()]
		for i := 0; i < len(row); i += 4 {
			mix(row[i:i+4:i+4], uint32(c.R), uint32(c.G), uint32(c.B), 255, alpha)
		}
	}
}

// mix puts a premultiplied colour over a pixel, alpha of 256 of it.
func mix(dst []byte, r, g, b, a, alpha uint32) {
	if a*alpha == 255*256 {
		dst[0], dst[1], dst[2], dst[3] = byte(r), byte(g), byte(b), 255
		return
	}
	rest := 255*256 - a*alpha // of 255 * 256
	dst[0] = byte((r*alpha*255 + uint32(dst[0])*rest + 255*128) / (255 * 256))
	dst[1] = byte((g*alpha*255 + uint32(dst[1])*rest + 255*128) / (255 * 256))
	dst[2] = byte((b*alpha*255 + uint32(dst[2])*rest + 255*128) / (255 * 256))
	dst[3] = 255
}

// over puts a layer on a frame, some px lower than it belongs: between two rows the
// pixels are mixed, so that it moves evenly.
func (s *sprite) over(onto *image.RGBA, show image.Rectangle, down float64, alpha uint32) {
	whole := math.Floor(down)
	part := uint32(math.Round(256 * (down - whole)))
	at := s.at.Add(image.Pt(0, int(whole)))
	r := image.Rect(at.Min.X, at.Min.Y, at.Max.X, at.Max.Y+1).Intersect(show)
	for y := r.Min.Y; y < r.Max.Y; y++ {
		row := onto.Pix[onto.PixOffset(r.Min.X, y):][:4*r.Dx()]
		if part == 0 {
			s.row(row, r.Min.X-at.Min.X, y-at.Min.Y, alpha)
		} else {
			s.between(row, r.Min.X-at.Min.X, y-at.Min.Y, part, alpha)
		}
	}
}

// row puts a row of a layer, from a column on, over one of a frame.
func (s *sprite) row(onto []byte, left, v int, alpha uint32) {
	if v < 0 || v >= len(s.rows) {
		return
	}
	src := s.img.Pix[v*s.img.Stride:]
	for _, run := range s.rows[v] {
		from, to := max(run.from, left), min(run.to, left+len(onto)/4)
		switch {
		case from >= to:
		case run.solid && alpha == 256:
			copy(onto[4*(from-left):4*(to-left)], src[4*from:4*to])
		default:
			for x := from; x < to; x++ {
				p := src[4*x : 4*x+4 : 4*x+4]
				mix(onto[4*(x-left):4*(x-left)+4:4*(x-left)+4], uint32(p[0]), uint32(p[1]), uint32(p[2]), uint32(p[3]), alpha)
			}
		}
	}
}

// between puts a row of a layer over one of a frame, mixed with so much (of 256) of the row
// above it.
func (s *sprite) between(onto []byte, left, v int, part, alpha uint32) {
	from, to := left+len(onto)/4, left
	for _, k := range []int{v - 1, v} {
		if k >= 0 && k < len(s.rows) && len(s.rows[k]) > 0 {
			from, to = min(from, s.rows[k][0].from), max(to, s.rows[k][len(s.rows[k])-1].to)
		}
	}
	var here, above []byte
	if v < len(s.rows) {
		here = s.img.Pix[v*s.img.Stride:]
	}
	if v > 0 {
		above = s.img.Pix[(v-1)*s.img.Stride:]
	}
	for x := max(from, left); x < min(to, left+len(onto)/4); x++ {
		var c [4]uint32
		for k := range c {
			if len(here) > 0 {
				c[k] = uint32(here[4*x+k]) * (256 - part)
			}
			if len(above) > 0 {
				c[k] += uint32(above[4*x+k]) * part
			}
		}
		if c[3] >= 256 {
			mix(onto[4*(x-left):4*(x-left)+4:4*(x-left)+4], c[0]>>8, c[1]>>8, c[2]>>8, c[3]>>8, alpha)
		}
	}
}

// grown puts a picture on a frame, as many times as large in its box as its pose has it about
// a point of it, each pixel mixed of the four it lies between.
func (s *sprite) grown(onto *image.RGBA, show image.Rectangle, p film.Pose, alpha uint32) {
	r := s.at.Intersect(show)
	if r.Empty() {
		return
	}
	sw, sh := float64(s.img.Rect.Dx()), float64(s.img.Rect.Dy())
	kx, ky := sw/float64(s.at.Dx()), sh/float64(s.at.Dy())
	about := p.Layer.Move.About
	about[0], about[1] = about[0]+p.Shift[0], about[1]+p.Shift[1]
	// from a pixel of the frame to where it is in the picture
	x := func(at int) float64 { return (about[0]-float64(s.at.Min.X)+(float64(at)+0.5-about[0])/p.Zoom)*kx - 0.5 }
	y := func(at int) float64 { return (about[1]-float64(s.at.Min.Y)+(float64(at)+0.5-about[1])/p.Zoom)*ky - 0.5 }
	// columns: where each begins, and how much of its right neighbour it takes
	type column struct{ at, part uint32 }
	cols := make([]column, r.Dx())
	for i := range cols {
		x := math.Min(math.Max(x(r.Min.X+i), 0), sw-1.001)
		cols[i] = column{uint32(x), uint32(256 * (x - math.Floor(x)))}
	}
	for row := r.Min.Y; row < r.Max.Y; row++ {
		v := math.Min(math.Max(y(row), 0), sh-1.001)
		top := s.img.Pix[int(v)*s.img.Stride:]
		low := s.img.Pix[(int(v)+1)*s.img.Stride:]
		down := uint32(256 * (v - math.Floor(v)))
		line := onto.Pix[onto.PixOffset(r.Min.X, row):][:4*r.Dx()]
		var cut []byte
		if s.mask != nil {
			cut = s.mask.Pix[s.mask.PixOffset(r.Min.X-s.at.Min.X, row-s.at.Min.Y):]
		}
		for i, c := range cols {
			a := alpha
			if cut != nil {
				if a = alpha * uint32(cut[4*i+3]) / 255; a == 0 {
					continue
				}
			}
			o := 4 * c.at
			t, l := top[o:o+8:o+8], low[o:o+8:o+8]
			// two colours at once, sixteen bits each
			rb := lerp(pair(t[0], t[2]), pair(t[4], t[6]), c.part)
			ga := lerp(pair(t[1], t[3]), pair(t[5], t[7]), c.part)
			rb = lerp(rb, lerp(pair(l[0], l[2]), pair(l[4], l[6]), c.part), down)
			ga = lerp(ga, lerp(pair(l[1], l[3]), pair(l[5], l[7]), c.part), down)
			if a == 256 && ga>>16 == 255 {
				line[4*i], line[4*i+1], line[4*i+2], line[4*i+3] = byte(rb), byte(ga), byte(rb>>16), 255
				continue
			}
			mix(line[4*i:4*i+4:4*i+4], rb&0xff, ga&0xff, rb>>16, ga>>16, a)
		}
	}
}

func pair(a, b byte) uint32 { return uint32(a) | uint32(b)<<16 }

// lerp is two pairs mixed, part of 256 of the second.
func lerp(a, b, part uint32) uint32 {
	return ((a*(256-part) + b*part + 0x00800080) >> 8) & 0x00ff00ff
}
