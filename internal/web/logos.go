package web

import (
	"cmp"
	"context"
	"encoding/base64"
	"fmt"
	"html/template"
	"maps"
	"net/http"
	"path"
	"slices"
	"strings"

	"github.com/go-chi/chi/v5"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/raster"
)

// logoTile is a logo on the sheet, on the ground it is made for.
type logoTile struct {
	brand.Logo
	origin
	Index  int
	Ground string
	Ink    string // of the caption
	Reads  bool
	Name   string
	Boxed  bool // stands in a box, and there is no copy without it yet
}

// tiles shows each logo on the ground it is made for: white, the brand's
// darkest or lightest, whatever it reads on.
func tiles(k *app.Kit) []logoTile {
	grounds := []colour.RGB{colour.White}
	for _, c := range k.Colours() {
		if !c.NeverGround {
			grounds = append(grounds, c.Value)
		}
	}
	var out []logoTile
	for i, l := range k.Kit.Logos {
		t := logoTile{Logo: l, origin: fileOrigin(k, "logos", i), Index: i, Ground: "#FFFFFF", Name: logoName(k, &l)}
		t.Boxed = l.Art != nil && l.Art.Box != nil && !t.Inherited() && !cutAlready(k, &l)
		ground := colour.White
		if l.Art != nil {
			// the first is shown on white, the others on the next ground they read on
			for n := range grounds {
				g := grounds[(n+i)%len(grounds)]
				if l.Fits(g) {
					ground, t.Reads = g, true
					break
				}
			}
			if l.Art.Box != nil {
				ground, t.Reads = *l.Art.Box, true
			}
		}
		t.Ground, t.Ink = ground.Hex(), inkOn(ground)
		out = append(out, t)
	}
	return out
}

// proposedTone is a version of the logo the kit lacks, on the ground it is for.
type proposedTone struct {
	Logo, Tone  string
	Ground, Ink string
	Src         template.URL // the drawing, as a data address
}

func proposeTone(k *app.Kit) *proposedTone {
	m, ok := k.MissingTone()
	if !ok {
		return nil
	}
	kind := "image/png"
	if raster.Kind(m.Data) == "svg" {
		kind = "image/svg+xml"
	}
	return &proposedTone{
		Logo: m.Logo, Tone: m.Tone, Ground: m.Ground.Hex(), Ink: inkOn(m.Ground),
		Src: template.URL("data:" + kind + ";base64," + base64.StdEncoding.EncodeToString(m.Data)), // of a cleaned drawing, and shown as an image
	}
}

// logoChip is a logo as a small picture on a ground it reads on, with a name that
// tells it from the kit's others.
type logoChip struct {
	File   string
	Name   string
	Art    *brand.Art
	Ground string
	Box    [4]float64 // view box with air around
}

// chipOf is a kit's logo as a chip.
func chipOf(k *app.Kit, l *brand.Logo) logoChip {
	v := l.Art.View
	air := 0.16 * min(v[2], v[3])
	return logoChip{
		File: l.File, Name: logoName(k, l), Art: l.Art, Ground: groundFor(k, l).Hex(),
		Box: [4]float64{v[0] - air, v[1] - air, v[2] + 2*air, v[3] + 2*air},
	}
}

// logoChips are the logos of a kit whose files are there.
func logoChips(k *app.Kit) []logoChip {
	var out []logoChip
	for i := range k.Logos {
		if l := &k.Logos[i]; l.Art != nil {
			out = append(out, chipOf(k, l))
		}
	}
	return out
}

// groundFor is a ground a logo reads on: its own box, white, the kit's lightest or
// darkest colour, else what it would get as a plate.
func groundFor(k *app.Kit, l *brand.Logo) colour.RGB {
	if l.Art.Box != nil {
		return *l.Art.Box
	}
	light, dark := k.Extremes()
	for _, g := range []colour.RGB{colour.White, light, dark, colour.Black} {
		if l.Fits(g) {
			return g
		}
	}
	return k.PlateFor(l)
}

// logoName is what a logo is and how: its lockup and tone, where others have the
// same its colour, and where that is the same its file.
func logoName(k *app.Kit, l *brand.Logo) string {
	ways := []func(o *brand.Logo) string{
		func(o *brand.Logo) string { return plain(o.Lockup) + ", " + plain(o.Tone) },
		inkName,
		func(o *brand.Logo) string { return fileTitle(o.File) },
	}
	name := ""
	for n, say := range ways {
		if part := say(l); part != "" {
			name = strings.TrimPrefix(name+", "+part, ", ")
		}
		alike := func(o brand.Logo) bool { // in all that is said so far
			return !slices.ContainsFunc(ways[:n+1], func(say func(*brand.Logo) string) bool { return say(&o) != say(l) })
		}
		if i := slices.IndexFunc(k.Logos, alike); i < 0 || !slices.ContainsFunc(k.Logos[i+1:], alike) {
			break
		}
	}
	return name
}

// inkName says the colour that most of a logo is drawn in.
func inkName(l *brand.Logo) string {
	if l.Art == nil || len(l.Art.Inks) == 0 {
		return ""
	}
	most := slices.MaxFunc(l.Art.Inks, func(a, b colour.Found) int { return cmp.Compare(a.Share, b.Share) })
	return colour.PlainName(most.Colour)
}

// fileTitle is the name of a file as documents refer to it, without its ending.
func fileTitle(ref string) string {
	_, name, _ := strings.Cut(ref, "/")
	return strings.TrimSuffix(name, path.Ext(name))
}

// cutAlready reports whether a kit has a copy of a boxed logo without its box.
func cutAlready(k *app.Kit, l *brand.Logo) bool {
	return slices.ContainsFunc(k.Logos, func(o brand.Logo) bool {
		return strings.HasPrefix(fileTitle(o.File), fileTitle(l.File)+"-cut") && (o.Art == nil || o.Art.Box == nil)
	})
}

// logoSlip is the card beside a logo.
type logoSlip struct {
	logoTile
	AirFill string // a ground it reads on, for the picture of its clear space
	First   bool
	Last    bool   // of the kit's own
	Earlier string // id of the one it goes in front of when it moves up
	Later   string // when it moves down, "" for the end
	Grounds []logoGround
	Clear   float64    // share of the logo's height
	Air     [4]float64 // view box with the clear space around
	Tones   []string   // that can be made of it and are not there
	Uses    []string
	Others  []app.KitName
}

// logoGround is the logo on a ground, on a plate where it does not read there.
type logoGround struct {
	Name    string
	Ground  string
	Picture string // address of a picture instead of a plain ground
	Plate   string // colour, "" where it reads or is cut in one colour
	Cut     *brand.Art
}

func (l logoTile) Path() string { return "/$extensions/aspenridge/logos/@" + l.ID }

// OutPath is how the logo is taken out: one of the parent's by its file.
func (l logoSlip) OutPath() string {
	if l.Inherited() {
		return brand.FilePath("logos", l.File)
	}
	return l.Path()
}

func slipLogo(s *Server, r *http.Request, k *app.Kit, p kitPage, key string) (string, any, error) {
	n := slices.IndexFunc(p.Logos, func(l logoTile) bool { return l.ID == key })
	if n < 0 || p.Logos[n].Art == nil {
		return "", nil, app.ErrNotFound
	}
	m := member(r)
	own := k.OwnFiles("logos")
	out := logoSlip{Others: p.Others, logoTile: p.Logos[n], AirFill: groundFor(k, &p.Logos[n].Logo).Hex()}
	if n < own {
		out.First, out.Last = n == 0, n == own-1
		if n > 0 {
			out.Earlier = p.Logos[n-1].ID
		}
		if n+2 < own {
			out.Later = p.Logos[n+2].ID
		}
	}
	out.Name = fileTitle(out.File)
	if out.Clear = out.ClearSpace; out.Clear == 0 {
		out.Clear = 0.5
	}
	v := out.Art.View
	air := out.Clear * v[3]
	out.Air = [4]float64{v[0] - air, v[1] - air, v[2] + 2*air, v[3] + 2*air}
	out.Grounds = logoGrounds(k, &out.Logo)
	if picture, err := s.kitPicture(r, m, k); err != nil {
		return "", nil, err
	} else if picture != "" {
		out.Grounds = append(out.Grounds, logoGround{Name: "picture", Picture: picture, Plate: k.PlateFor(&out.Logo).Hex()})
	}
	if (out.Art.SVG == "" || out.Art.Box == nil) && !out.Inherited() {
		for _, tone := range []string{"for-dark", "for-light", "one-colour"} {
			if tone != out.Tone && !slices.ContainsFunc(k.Logos, func(l brand.Logo) bool { return l.Lockup == out.Lockup && l.Tone == tone }) {
				out.Tones = append(out.Tones, tone)
			}
		}
	}
	var err error
	out.Uses, err = s.app.Brand.LogoUses(r.Context(), m, k.ID, out.File)
	return "logo-slip", out, err
}

// logoGrounds are light, dark and the brand's own ground.
func logoGrounds(k *app.Kit, l *brand.Logo) []logoGround {
	_, dark := k.Extremes()
	list := []brand.Colour{{Name: "light", Value: colour.White}, {Name: "dark", Value: dark}}
	if i := slices.IndexFunc(k.Colours(), func(c brand.Colour) bool { return c.Role == brand.Lead && c.Value != dark }); i >= 0 {
		list = append(list, k.Colours()[i])
	} else if i := slices.IndexFunc(k.Colours(), func(c brand.Colour) bool { return c.Role == brand.Accent || c.Role == brand.Support }); i >= 0 {
		list = append(list, k.Colours()[i])
	}
	var out []logoGround
	for _, c := range list {
		g := logoGround{Name: c.Name, Ground: c.Value.Hex()}
		if fit, ok := k.PickLogo(c.Value, brand.WideRoom, l.File); ok && fit.Cut {
			g.Cut = fit.Art()
		} else if ok && fit.Plate {
			g.Plate = k.PlateFor(l).Hex()
		}
		out = append(out, g)
	}
	return out
}

// kitPicture is the address of a picture in use with the kit, "" for none.
func (s *Server) kitPicture(r *http.Request, m app.Member, k *app.Kit) (string, error) {
	set, err := s.app.Kits.InUse(r.Context(), m, k.ID, func(set *app.Set) bool { return len(set.Job.Pictures) > 0 })
	if err != nil || set == nil {
		return "", err
	}
	first := slices.Min(slices.Collect(maps.Keys(set.Job.Pictures)))
	p := set.Job.Pictures[first]
	w := min(float64(p.W), float64(p.H)*1.6)
	h := w / 1.6
	return fmt.Sprintf("/pictures/%s/%.0f,%.0f,%.0f,%.0f/%dx%d", p.Hash, (float64(p.W)-w)/2, (float64(p.H)-h)/2, w, h, 320, 200), nil
}

// replaceItem puts an uploaded file in the place of an item of a list, by its id.
func (s *Server) replaceItem(replace func(ctx context.Context, m app.Member, kit app.ID, client, id, name string, data []byte) error) handler {
	return func(w http.ResponseWriter, r *http.Request) error {
		return s.intake(func(ctx context.Context, m app.Member, kit app.ID, client, name string, data []byte) error {
			return replace(ctx, m, kit, client, chi.URLParam(r, "item"), name, data)
		}, s.kitSheet)(w, r)
	}
}
