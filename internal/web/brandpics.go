package web

import (
	"cmp"
	"fmt"
	"net/http"
	"path"
	"slices"
	"strings"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
)

// pictureFolder is a folder of the brand's pictures; the first has no name.
type pictureFolder struct {
	Name     string
	Pictures []brandPic
}

// brandPic is a picture or clip of the brand.
type brandPic struct {
	brand.Picture
	origin
	Index int
	Hash  string
	Src   string // address of a small cut, "" for a clip
	Clip  string // address of a clip
	W, H  int
}

// Called is what it is, in words: its own, else its kind and which of the kit's files it is.
func (p brandPic) Called() string {
	if p.Alt != "" {
		return p.Alt
	}
	return fmt.Sprintf("%s, the %d. file", p.Kind, p.Index+1)
}

func brandPicOf(k *app.Kit, i int) brandPic {
	p := k.Pictures[i]
	out := brandPic{Picture: p, origin: fileOrigin(k, "pictures", i), Index: i, Hash: app.HashOf(p.File)}
	if p.Kind == brand.Clip {
		out.Clip = "/clips/" + out.Hash
		return out
	}
	if w, h, ok := k.PictureSize(p.File); ok {
		out.W, out.H = w, h
		out.Src = pictureHref(out.Hash, w, h, 1.3, 240)
	}
	return out
}

// pictureHref is the middle of a picture at an aspect, w px wide.
func pictureHref(hash string, pw, ph int, aspect float64, w int) string {
	cw, ch := float64(pw), float64(pw)/aspect
	if ch > float64(ph) {
		cw, ch = float64(ph)*aspect, float64(ph)
	}
	return fmt.Sprintf("/pictures/%s/%.0f,%.0f,%.0f,%.0f/%dx%d", hash, (float64(pw)-cw)/2, (float64(ph)-ch)/2, cw, ch, w, max(1, int(float64(w)/aspect)))
}

// folders sorts the pictures into their folders, those without one first.
func folders(k *app.Kit) []pictureFolder {
	var out []pictureFolder
	for i, p := range k.Pictures {
		n := slices.IndexFunc(out, func(f pictureFolder) bool { return f.Name == p.Folder })
		if n < 0 {
			n = len(out)
			out = append(out, pictureFolder{Name: p.Folder})
		}
		out[n].Pictures = append(out[n].Pictures, brandPicOf(k, i))
	}
	slices.SortStableFunc(out, func(a, b pictureFolder) int { return strings.Compare(strings.ToLower(a.Name), strings.ToLower(b.Name)) })
	return out
}

// pictureSlip is the card beside a picture.
type pictureSlip struct {
	brandPic
	Kit     string
	Name    string
	Large   string
	FocusX  float64 // what matters most, 0-1
	FocusY  float64
	Colours []colour.Found
	Kinds   []brand.PictureKind
	Folders []string
}

// Path is where the picture stands in the document.
func (p pictureSlip) Path() string { return "/$extensions/aspenridge/pictures/@" + p.ID }

// OutPath is how it is taken out: one of the parent's by its file.
func (p pictureSlip) OutPath() string {
	if p.Inherited() {
		return brand.FilePath("pictures", p.File)
	}
	return p.Path()
}

func slipPicture(s *Server, r *http.Request, k *app.Kit, _ kitPage, key string) (string, any, error) {
	i := slices.IndexFunc(k.Pictures, func(p brand.Picture) bool { return app.HashOf(p.File) == key })
	if i < 0 {
		return "", nil, app.ErrNotFound
	}
	m := member(r)
	out := pictureSlip{brandPic: brandPicOf(k, i), Kit: k.ID.String(), Kinds: brand.PictureKinds[:len(brand.PictureKinds)-1]}
	_, out.Name, _ = strings.Cut(out.File, "/")
	out.Name = strings.TrimSuffix(out.Name, path.Ext(out.Name))
	for _, f := range folders(k) {
		if f.Name != "" {
			out.Folders = append(out.Folders, f.Name)
		}
	}
	var err error
	if out.W > 0 {
		out.Large = pictureHref(out.Hash, out.W, out.H, float64(out.W)/float64(out.H), min(900, out.W))
		at, ferr := s.app.Files.PictureFocus(r.Context(), m, out.Hash)
		if out.Focus != nil {
			at = *out.Focus
		}
		out.FocusX, out.FocusY = at[0], at[1]
		if out.Colours, err = s.app.Files.PictureColours(r.Context(), m, out.Hash, 6); err == nil {
			err = ferr
		}
	}
	return "picture-slip", out, err
}

// fromTheKit fills in what passes between a brief and its kit: the kit's
// pictures to use here, the brief's picture and its colours for the kit.
func (s *Server) fromTheKit(r *http.Request, set *app.Set, p *previewPage) error {
	k := set.Kit
	for i, b := range k.Pictures {
		if pic := brandPicOf(k, i); pic.Src != "" && len(p.Brand) < 8 && (b.Kind == brand.PhotoPicture || b.Kind == brand.Portrait) && b.File != p.PictureRef {
			p.Brand = append(p.Brand, pic)
		}
		p.InKit = p.InKit || app.HashOf(b.File) == app.HashOf(p.PictureRef)
	}
	if p.PictureRef == "" {
		return nil
	}
	m := member(r)
	found, err := s.app.Files.PictureColours(r.Context(), m, app.HashOf(p.PictureRef), 6)
	if err != nil {
		return err
	}
	have := k.Colours()
	for _, f := range found {
		if !slices.ContainsFunc(have, func(c brand.Colour) bool { return colour.DeltaE(c.Value, f.Colour) < 5 }) {
			p.Colours = append(p.Colours, f)
		}
	}
	return nil
}

// passing is what passes between a brief and its kit.
type passing struct {
	Client string `json:"client"`
	File   string `json:"file"`
	Alt    string `json:"alt"`
	As     string `json:"as"` // "logo" to make a logo of it
}

// usePicture makes one of the kit's pictures the brief's.
func (s *Server) usePicture(w http.ResponseWriter, r *http.Request) error {
	m := member(r)
	var q passing
	id, err := pathID(r)
	if err == nil {
		err = readJSON(r, &q)
	}
	if err == nil {
		err = s.once(r, func() error { return s.app.Briefs.UsePicture(r.Context(), m, id, q.Client, cardID(r), q.File, q.Alt) })
	}
	if err != nil {
		return err
	}
	return s.preview(w, r)
}

// promote makes the brief's picture one of the kit's.
func (s *Server) promote(w http.ResponseWriter, r *http.Request) error {
	m := member(r)
	set, err := s.set(r)
	var q passing
	if err == nil {
		err = readJSON(r, &q)
	}
	if err == nil {
		alt := ""
		for _, c := range set.Brief.Cards {
			for _, p := range c.Pictures {
				if p.File == q.File {
					alt = cmp.Or(alt, p.Alt)
				}
			}
		}
		err = s.once(r, func() error {
			if q.As == "logo" {
				return s.app.Brand.PromoteLogo(r.Context(), m, set.Kit.ID, q.Client, q.File)
			}
			return s.app.Brand.Promote(r.Context(), m, set.Kit.ID, q.Client, q.File, alt, brand.PhotoPicture)
		})
	}
	if err != nil {
		return err
	}
	return s.preview(w, r)
}

// tryCopy checks a sentence against the kit's voice.
func (s *Server) tryCopy(w http.ResponseWriter, r *http.Request) error {
	k, err := s.kitOf(r)
	if err != nil {
		return err
	}
	findings := k.Voice.Check(r.FormValue("text"))
	if findings == nil {
		findings = []string{}
	}
	reply(w, http.StatusOK, map[string]any{"findings": findings})
	return nil
}
