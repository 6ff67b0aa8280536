package web

import (
	"context"
	"fmt"
	"net/http"
	"regexp"
	"slices"
	"strings"
	"sync"

	"github.com/go-chi/chi/v5"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/guide"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/gate"
)

// guidelinesPage is the brand document: what the kit holds, set to be read and
// printed.
type guidelinesPage struct {
	*app.Kit
	Cover  brand.Colour
	Ink    colour.RGB
	Mark   *brand.Art
	Logos  []logoRule
	Colour []colourRule
	Levels []levelRow
	Shelf  []mini
	Fonts  string // address of the kit's own faces
	Built  string // the manner, in words
	Public bool   // read by a link
}

// logoRule is a logo on a ground: where it reads, and one where it must not go.
type logoRule struct {
	brand.Logo
	On  []brand.Colour
	Not *brand.Colour // nil when it reads on every colour of the kit
}

// colourRule is a colour with its values and the kit's inks it carries.
type colourRule struct {
	brand.Colour
	Copies  []copyAs
	Carries []carried
}

type carried struct {
	brand.Colour
	Ratio float64
}

func (s *Server) guidelines(w http.ResponseWriter, r *http.Request) error {
	k, err := s.kitOf(r)
	var g guidelinesPage
	if err == nil {
		m := member(r)
		g, err = s.guidelinesOf(r, m, k)
	}
	if err != nil {
		return err
	}
	g.Fonts = "/kits/" + k.ID.String() + "/fonts.css"
	s.show(w, r, "guidelines", frame{Title: named(k) + ", guidelines", Screen: "guidelines", Kit: k, Page: g})
	return nil
}

func named(k *app.Kit) string {
	if k.Name == "" {
		return "New kit"
	}
	return k.Name
}

// readGuidelines shows them to somebody who came by a link: the same page, with
// nothing on it that leads into the workspace.
func (s *Server) readGuidelines(w http.ResponseWriter, r *http.Request) error {
	m, k, err := s.reader(r)
	var g guidelinesPage
	if err == nil {
		g, err = s.guidelinesOf(r, m, k)
	}
	if err != nil {
		return err
	}
	s.links.note(linkKey(r, k), k, g)
	base := "/g/" + chi.URLParam(r, "token")
	for i := range g.Shelf {
		g.Shelf[i].SVG = strings.ReplaceAll(g.Shelf[i].SVG, `href="/pictures/`, `href="`+base+`/pictures/`)
	}
	g.Fonts, g.Public = base+"/fonts.css", true
	w.Header().Set("X-Robots-Tag", "noindex")
	s.show(w, r, "guidelines", frame{Title: named(k) + ", guidelines", Screen: "read", Kit: k, Page: g})
	return nil
}

// reader is who comes by a link, with the kit it leads to.
func (s *Server) reader(r *http.Request) (app.Member, *app.Kit, error) {
	m, id, err := s.app.Guidelines.Reader(r.Context(), chi.URLParam(r, "token"))
	if err != nil {
		return m, nil, err
	}
	k, err := s.app.Kits.Kit(r.Context(), m, id)
	return m, k, err
}

// byLink lets a link's reader do what a member may, in their workspace.
func (s *Server) byLink(next handler) handler {
	return func(w http.ResponseWriter, r *http.Request) error {
		m, _, err := s.app.Guidelines.Reader(r.Context(), chi.URLParam(r, "token"))
		if err != nil {
			return err
		}
		if err := s.linkMayRead(r, m, chi.URLParam(r, "hash")); err != nil {
			return err
		}
		ctx := gate.OwnedBy(r.Context(), m.Workspace.String())
		return next(w, r.WithContext(context.WithValue(ctx, memberKey{}, m)))
	}
}

// linkFiles are the files the guidelines of a kit show, by the link and the kit's
// stamp: whoever has the link may read those and no others.
type linkFiles struct {
	mu    sync.Mutex
	known map[string]map[string]bool
}

// linkMayRead refuses a file the guidelines a link leads to do not show.
func (s *Server) linkMayRead(r *http.Request, m app.Member, hash string) error {
	_, k, err := s.reader(r)
	if err != nil {
		return err
	}
	key := linkKey(r, k)
	s.links.mu.Lock()
	shows := s.links.known[key]
	s.links.mu.Unlock()
	if shows[hash] {
		return nil
	}
	// the page may have been drawn by another server, or changed since
	g, err := s.guidelinesOf(r, m, k)
	if err != nil {
		return err
	}
	shows = s.links.note(key, k, g)
	if !shows[hash] {
		return app.ErrNotFound
	}
	return nil
}

func linkKey(r *http.Request, k *app.Kit) string {
	return fmt.Sprintf("%s %d", chi.URLParam(r, "token"), k.Stamp())
}

var pictureLink = regexp.MustCompile(`/pictures/([0-9a-f]{64})/`)

// note remembers what guidelines show.
func (l *linkFiles) note(key string, k *app.Kit, g guidelinesPage) map[string]bool {
	shows := map[string]bool{}
	for _, f := range k.Fonts {
		shows[app.HashOf(f.File)] = true
	}
	for _, m := range g.Shelf {
		for _, found := range pictureLink.FindAllStringSubmatch(m.SVG, -1) {
			shows[found[1]] = true
		}
	}
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.known == nil || len(l.known) > 1000 {
		l.known = map[string]map[string]bool{}
	}
	l.known[key] = shows
	return shows
}

// readFonts declares the kit's own faces for a reader.
func (s *Server) readFonts(w http.ResponseWriter, r *http.Request) error {
	_, k, err := s.reader(r)
	if err != nil {
		return err
	}
	writeFontSheet(w, k, "/g/"+chi.URLParam(r, "token")+"/own-fonts/")
	return nil
}

// guidelinesPDF hands the guidelines out to print.
func (s *Server) guidelinesPDF(w http.ResponseWriter, r *http.Request) error {
	k, err := s.kitOf(r)
	m := member(r)
	if err == nil {
		err = s.writeBook(w, r, m, k)
	}
	return err
}

func (s *Server) readPDF(w http.ResponseWriter, r *http.Request) error {
	m, k, err := s.reader(r)
	if err == nil {
		err = s.writeBook(w, r, m, k)
	}
	return err
}

func (s *Server) writeBook(w http.ResponseWriter, r *http.Request, m app.Member, k *app.Kit) error {
	pieces, err := s.inUse(r, m, k, guide.Places)
	if err != nil {
		return err
	}
	data, err := s.app.Guidelines.GuidelinesPDF(r.Context(), k, pieces)
	if err != nil {
		return err
	}
	w.Header().Set("Content-Type", "application/pdf")
	w.Header().Set("Content-Disposition", attachment(piece.FileName(named(k))+"-guidelines.pdf"))
	_, err = w.Write(data)
	return err
}

// guidelinesOf gathers what the document shows.
func (s *Server) guidelinesOf(r *http.Request, m app.Member, k *app.Kit) (guidelinesPage, error) {
	shelf, err := s.shelf(r, m, k)
	if err != nil {
		return guidelinesPage{}, err
	}
	g := guidelinesPage{Kit: k, Levels: levels(k, k.TypeSets[0]), Shelf: shelf, Built: s.app.Kits.Manner(k).String(), Cover: brand.Colour{Value: colour.White}, Ink: colour.Black}
	all := k.Colours()
	for _, c := range all {
		if c.Role == brand.Lead {
			g.Cover = c
			break
		}
	}
	best := 0.0
	for _, c := range append(slices.Clone(all), brand.Colour{Value: colour.White}, brand.Colour{Value: colour.Black}) {
		// the kit's own inks first: white and black only when they are much better
		ratio := colour.Contrast(c.Value, g.Cover.Value)
		if c.Token == "" && best >= 4.5 {
			continue
		}
		if ratio > best {
			best, g.Ink = ratio, c.Value
		}
	}
	if fit, ok := k.PickLogo(g.Cover.Value, brand.WideRoom, ""); ok && !fit.Plate {
		g.Mark = fit.Art()
	}
	grounds := append([]brand.Colour{{Name: "White", Value: colour.White}}, all...)
	for _, l := range k.Kit.Logos {
		if l.Art == nil {
			continue
		}
		rule := logoRule{Logo: l}
		for _, c := range grounds {
			switch fits := l.Fits(c.Value); {
			case fits && len(rule.On) < 3:
				rule.On = append(rule.On, c)
			case !fits && rule.Not == nil:
				rule.Not = &c
			}
		}
		g.Logos = append(g.Logos, rule)
	}
	for _, c := range all {
		rule := colourRule{Colour: c, Copies: slipOf(k.Kit, c).Copies}
		for _, o := range all {
			if ratio := colour.Contrast(o.Value, c.Value); ratio >= 4.5 {
				rule.Carries = append(rule.Carries, carried{o, ratio})
			}
		}
		g.Colour = append(g.Colour, rule)
	}
	return g, nil
}
