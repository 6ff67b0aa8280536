package piece

import (
	"math"
	"strings"
	"unicode"

	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/preflight"
	"aspenridge/internal/core/scene"
)

// Report is report.json: what every piece turned out to be.
type Report struct {
	Schema int           `json:"schema"` // 1
	Pieces []PieceReport `json:"pieces"`
}

// PieceReport describes one piece (docs/formats.md).
type PieceReport struct {
	Placement string              `json:"placement"`
	Card      int                 `json:"card"`
	Look      Look                `json:"look"`
	Width     int                 `json:"width"`
	Height    int                 `json:"height"`
	Files     []File              `json:"files"`
	Layout    string              `json:"layout"`
	Colourway map[string]string   `json:"colourway"` // seat -> #RRGGBB
	Worth     Worth               `json:"worth"`
	Elements  []Element           `json:"elements"`
	Dropped   []string            `json:"dropped"`
	Shortened []string            `json:"shortened"`
	Findings  []preflight.Finding `json:"findings"`
}

// File is a written file.
type File struct {
	File   string `json:"file"`
	Format string `json:"format"`
	Bytes  int    `json:"bytes"`
}

// Element is one part of a piece as it was drawn; Box is shaped ink in px.
type Element struct {
	Slot       string     `json:"slot"`
	Kind       scene.Kind `json:"kind"`
	Text       string     `json:"text,omitempty"`
	Box        [4]float64 `json:"box"`
	FontFamily string     `json:"fontFamily,omitempty"`
	FontWeight int        `json:"fontWeight,omitempty"`
	SizePx     float64    `json:"sizePx,omitempty"`
	Fill       string     `json:"fill,omitempty"`
	Ground     string     `json:"ground,omitempty"`
	Contrast   float64    `json:"contrast,omitempty"`

	// Of pictures: the file as the brief or the kit names it, the part of it that
	// shows (x, y, w, h) and what it shows, both as fractions of the file.
	File     string      `json:"file,omitempty"`
	Crop     *[4]float64 `json:"crop,omitempty"`
	Subjects []Subject   `json:"subjects,omitempty"`
}

// Subject is [x, y, w, h, kind], the box as fractions of the picture.
type Subject [5]any

// Report describes the piece; files are added by whoever writes them.
func (p *Piece) Report() PieceReport {
	r := PieceReport{
		Placement: p.Placement.ID, Card: p.Card, Look: p.Look, Width: p.Scene.W, Height: p.Scene.H,
		Layout: p.Layout.ID, Worth: p.Worth, Colourway: map[string]string{}, Files: []File{}, Elements: []Element{},
		Dropped: append([]string{}, p.Dropped...), Shortened: append([]string{}, p.Shortened...),
		Findings: append([]preflight.Finding{}, p.Findings...),
	}
	for _, s := range colourway.Seats {
		r.Colourway[string(s)] = p.Colours.At(s).Value.Hex()
	}
	for _, part := range p.Scene.Parts {
		e := Element{Slot: part.Slot, Kind: part.Kind, Box: [4]float64{round(part.Box.X), round(part.Box.Y), round(part.Box.W), round(part.Box.H)}}
		switch part.Kind {
		case scene.KindText, scene.KindButton:
			e.Text, e.FontFamily, e.FontWeight, e.SizePx = part.Text, part.Family, part.Weight, part.SeenPx()
			e.Fill, e.Ground, e.Contrast = part.Fill.Hex(), part.Ground.Hex(), math.Round(part.Contrast*100)/100
		case scene.KindShape:
			e.Fill = part.Fill.Hex()
		case scene.KindLogo:
			e.Ground = part.Ground.Hex()
		case scene.KindPicture:
			e.shows(part, p.pictures[part.Picture])
		}
		r.Elements = append(r.Elements, e)
	}
	return r
}

// shows says which file a picture is of and what of it.
func (e *Element) shows(part scene.Part, p shown) {
	e.File = p.file
	if p.W == 0 || p.H == 0 {
		return
	}
	w, h := float64(p.W), float64(p.H)
	e.Crop = &[4]float64{round4(part.Crop.X / w), round4(part.Crop.Y / h), round4(part.Crop.W / w), round4(part.Crop.H / h)}
	for _, s := range p.Subjects {
		e.Subjects = append(e.Subjects, Subject{round4(s.Box[0]), round4(s.Box[1]), round4(s.Box[2]), round4(s.Box[3]), s.Kind})
	}
}

func round4(v float64) float64 { return math.Round(v*10000) / 10000 }

func round(v float64) float64 { return math.Round(v*100) / 100 }

// FileName turns a name people gave into one every file system takes.
func FileName(s string) string {
	var b strings.Builder
	dash := false
	for _, r := range strings.ToLower(s) {
		switch {
		case unicode.IsLetter(r) || unicode.IsDigit(r):
			if dash && b.Len() > 0 {
				b.WriteByte('-')
			}
			dash = false
			b.WriteRune(r)
		case r == '’' || r == '\'':
		default:
			dash = true
		}
		if b.Len() > 60 {
			break
		}
	}
	if b.Len() == 0 {
		return "piece"
	}
	return b.String()
}
