package web

import (
	"context"
	"fmt"
	"math"
	"net/http"
	"strings"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/motion"
	"aspenridge/internal/core/scene"
)

// motionPage is how the brand moves, as the sheet shows it.
type motionPage struct {
	brand.Motion
	Path     string
	Hear     string // address of what it sounds like, "" for a silent kit
	Frames   []mini // opening, running, closing
	Safe     [4]float64
	W, H     int
	Kinds    []string
	Places   []string
	Levels   []brand.Level
	Moods    []string
	Speakers []string
	Clips    []brandPic
	Pics     []brandPic
	Tokens   []brand.Colour
	Style    motion.CaptionStyle
}

// AtX is where the mark's middle stands, in hundredths of the frame's width.
func (p motionPage) AtX() int { return int(math.Round(100 * p.Mark.At[0])) }

// AtY is AtX for the height.
func (p motionPage) AtY() int { return int(math.Round(100 * p.Mark.At[1])) }

// endFile is the file a video opens or closes with, to be chosen.
type endFile struct {
	Verb, Kind, Path, Chosen string
	Of                       []brandPic
}

// Files are those of the opening and the closing, where they are of files.
func (p motionPage) Files() (out []endFile) {
	for _, end := range []struct {
		verb, part string
		is         brand.Bookend
	}{{"opens", "opening", p.Opening}, {"closes", "closing", p.Closing}} {
		f := endFile{Verb: end.verb, Kind: end.is.From, Path: p.Path + "/" + end.part + "/" + end.is.From}
		switch end.is.From {
		case "clip":
			f.Chosen, f.Of = end.is.Clip, p.Clips
		case "picture":
			f.Chosen, f.Of = end.is.Picture, p.Pics
		default:
			continue
		}
		out = append(out, f)
	}
	return out
}

// SaysLine are the words that are spoken otherwise than written, as one writes them down.
func (p motionPage) SaysLine() string {
	var parts []string
	for _, s := range p.Says {
		parts = append(parts, s.Word+" = "+s.As)
	}
	return strings.Join(parts, ", ")
}

const motionPath = "/$extensions/aspenridge/motion"

// motionOf draws the kit's frames on a wide video.
func (s *Server) motionOf(r *http.Request, m app.Member, k *app.Kit) (motionPage, error) {
	p := motionPage{Motion: k.Motion, Path: motionPath, Kinds: brand.BookendKinds, Places: brand.MarkPlaces, Levels: brand.Levels, Moods: brand.Moods, Speakers: brand.Speakers, Style: motion.Captions(k.Kit), Tokens: k.Colours()}
	if v := k.Motion; v.Music != "" || v.Voice != "" || v.Song.File != "" {
		p.Hear = fmt.Sprintf("/kits/%s/sound.wav?at=%d", k.ID, k.Stamp())
	}
	for i, pic := range k.Pictures {
		to := &p.Pics
		if pic.Kind == brand.Clip {
			to = &p.Clips
		}
		*to = append(*to, brandPicOf(k, i))
	}
	in, err := s.app.Brand.MotionInput(r.Context(), m, k, "video-wide")
	if err != nil {
		return p, err
	}
	safe := in.Placement.SafeBox()
	p.Safe, p.W, p.H = rect(safe), in.Placement.Width, in.Placement.Height
	for _, f := range []struct {
		name string
		sc   *scene.Scene
	}{{"opens", motion.Opening(in)}, {"runs", motion.Running(in)}, {"closes", motion.Closing(in)}} {
		if f.sc == nil {
			p.Frames = append(p.Frames, mini{Name: f.name + " with nothing"})
			continue
		}
		fr := miniOf(f.sc, in.Placement, "mo-"+f.name+"-", 216, 0)
		fr.Name = f.name
		p.Frames = append(p.Frames, fr)
	}
	return p, nil
}

// videoFrame is the running frame of a tall video, for the shelf.
func (s *Server) videoFrame(r *http.Request, m app.Member, k *app.Kit) (mini, error) {
	in, err := s.app.Brand.MotionInput(r.Context(), m, k, "video-square")
	if err != nil {
		return mini{}, err
	}
	out := miniOf(motion.Running(in), in.Placement, "shelf-", 160, 0)
	out.Name = "Video frame 1:1"
	return out, nil
}

// placeMark puts the corner mark where somebody clicked, shares of width and
// height; with the token "x" or "y" it moves along one of them, in hundredths.
func placeMark(ctx context.Context, a *app.App, m app.Member, e kitEdit) error {
	var x, y float64
	if e.Token != "" {
		k, err := a.Kits.Kit(ctx, m, e.to)
		if err != nil {
			return err
		}
		x, y = k.Motion.Mark.At[0], k.Motion.Mark.At[1]
		at := map[string]*float64{"x": &x, "y": &y}[e.Token]
		if at == nil {
			return app.ErrNotFound
		}
		if _, err := fmt.Sscan(e.Text, at); err != nil {
			return fmt.Errorf("%w: a place is a number from 0 to 100", app.ErrInvalid)
		}
		*at /= 100
	} else if _, err := fmt.Sscan(e.Text, &x, &y); err != nil {
		return fmt.Errorf("%w: a place is two shares from 0 to 1", app.ErrInvalid)
	}
	return a.Brand.PlaceMark(ctx, m, e.to, e.Client, x, y)
}

// kitSound is what a kit's videos sound like.
func (s *Server) kitSound(w http.ResponseWriter, r *http.Request) error {
	m, id, err := about(r)
	var data []byte
	if err == nil {
		data, err = s.app.Files.KitSound(r.Context(), m, id)
	}
	if err != nil {
		return err
	}
	return replySound(w, data)
}
