package web

import (
	"context"
	"fmt"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brand"
)

// kitsPage lists the kits of the workspace, a page at a time.
type kitsPage struct {
	Kits     []kitCard
	Total    int
	Find     string
	Sort     string
	Sorts    []struct{ ID, Name string }
	Earlier  string // address of the page before, "" for none
	Later    string
	From, To int
}

type kitCard struct {
	app.KitCard
	Headline brand.Style
	Default  bool
}

// kitsPerPage fills eight rows at 1280 px.
const kitsPerPage = 40

func (s *Server) kits(w http.ResponseWriter, r *http.Request) error {
	m := member(r)
	at, _ := strconv.Atoi(r.FormValue("from"))
	q := app.KitQuery{Find: r.FormValue("find"), Sort: r.FormValue("sort"), Offset: max(0, at), Limit: kitsPerPage}
	if q.Sort != "name" && q.Sort != "new" {
		q.Sort = ""
	}
	list, total, err := s.app.Kits.FindKits(r.Context(), m, q)
	if err != nil {
		return err
	}
	def, err := s.defaultKit(r, m)
	if err != nil {
		return err
	}
	p := kitsPage{Total: total, Find: q.Find, Sort: q.Sort, From: q.Offset + 1, To: q.Offset + len(list), Sorts: []struct{ ID, Name string }{{"", "changed last"}, {"name", "by name"}, {"new", "made last"}}}
	for _, k := range list {
		c := kitCard{KitCard: k, Default: k.ID == def}
		if k.Broken == "" {
			c.Headline = k.TypeSets[0].Levels[brand.Headline]
		}
		p.Kits = append(p.Kits, c)
	}
	page := func(from int) string {
		return "/kits?" + url.Values{"find": {q.Find}, "sort": {q.Sort}, "from": {strconv.Itoa(from)}}.Encode()
	}
	if q.Offset > 0 {
		p.Earlier = page(max(0, q.Offset-kitsPerPage))
	}
	if q.Offset+len(list) < total {
		p.Later = page(q.Offset + kitsPerPage)
	}
	if r.Header.Get("Accept") == "application/json" {
		html, err := s.fragment("kits", "list", p)
		if err != nil {
			return err
		}
		reply(w, http.StatusOK, map[string]any{"html": html})
		return nil
	}
	s.show(w, r, "kits", frame{Title: "Kits", Screen: "kits", Page: p})
	return nil
}

// defaultKit is the kit new briefs start with, the zero ID while there is none.
func (s *Server) defaultKit(r *http.Request, m app.Member) (app.ID, error) {
	id, err := s.app.Kits.DefaultKit(r.Context(), m)
	if err == app.ErrNotFound {
		return app.ID{}, nil
	}
	return id, err
}

// How many kits the switcher shows with their colours, and how many of those.
const (
	specimens       = 24
	specimenColours = 6
)

// kitNames answers the switcher: every kit by name.
func (s *Server) kitNames(w http.ResponseWriter, r *http.Request) error {
	m := member(r)
	list, err := s.app.Kits.KitNames(r.Context(), m)
	if err != nil {
		return err
	}
	type item struct {
		ID      string   `json:"id"`
		Name    string   `json:"name"`
		Colours []string `json:"colours"` // the first of them, of the first kits
	}
	out := []item{}
	for i, k := range list {
		it := item{k.ID.String(), k.Name, []string{}}
		if i < specimens {
			if kit, err := s.app.Kits.Kit(r.Context(), m, k.ID); err == nil { // one that cannot be read has none
				for _, c := range kit.Colours()[:min(specimenColours, len(kit.Colours()))] {
					it.Colours = append(it.Colours, c.Value.Hex())
				}
			}
		}
		out = append(out, it)
	}
	reply(w, http.StatusOK, map[string]any{"kits": out})
	return nil
}

// makeDefault chooses the kit new briefs start with.
func (s *Server) makeDefault(w http.ResponseWriter, r *http.Request) error {
	m, id, err := about(r)
	if err == nil {
		err = s.app.Kits.SetDefaultKit(r.Context(), m, id)
	}
	return s.back(w, r, err)
}

// back returns to the page a form stands on, or answers a script.
func (s *Server) back(w http.ResponseWriter, r *http.Request, err error) error {
	if err != nil {
		return err
	}
	if r.Header.Get("Accept") == "application/json" {
		reply(w, http.StatusOK, map[string]any{"done": true})
		return nil
	}
	to := "/desk"
	if u, err := url.Parse(r.Referer()); err == nil && u.Host == r.Host && strings.HasPrefix(u.Path, "/") {
		// a path that begins with two slashes names another host
		back := url.URL{Path: "/" + strings.TrimLeft(u.Path, `/\`), RawQuery: u.RawQuery}
		to = back.RequestURI()
	}
	http.Redirect(w, r, to, http.StatusSeeOther)
	return nil
}

// remove deletes a kit or brief, or takes that back.
func (s *Server) remove(w http.ResponseWriter, r *http.Request) error {
	m, id, err := about(r)
	if err == nil {
		err = s.app.Documents.Delete(r.Context(), m, id, r.FormValue("back") == "")
	}
	return s.back(w, r, err)
}

// mend brings a document that cannot be read back to its last good state.
func (s *Server) mend(w http.ResponseWriter, r *http.Request) error {
	m, id, err := about(r)
	if err == nil {
		err = s.app.Documents.Mend(r.Context(), m, id)
	}
	return s.back(w, r, err)
}

// archive puts a kit or brief away, or brings it back.
func (s *Server) archive(w http.ResponseWriter, r *http.Request) error {
	m, id, err := about(r)
	if err == nil {
		err = s.app.Documents.Archive(r.Context(), m, id, r.FormValue("back") == "")
	}
	return s.back(w, r, err)
}

// useKit gives a brief another kit.
func (s *Server) useKit(w http.ResponseWriter, r *http.Request) error {
	m, id, err := about(r)
	var kit app.ID
	if err == nil {
		if kit, err = app.ParseID(r.FormValue("kit")); err != nil {
			err = app.ErrNotFound
		}
	}
	if err == nil {
		err = s.app.Briefs.UseKit(r.Context(), m, id, kit)
	}
	return s.back(w, r, err)
}

// origin is where an item of the sheet comes from.
type origin struct {
	Standing brand.Origin
	From     string // the kit it is inherited from
}

// Inherited reports whether the item is the parent's as it is.
func (o origin) Inherited() bool { return o.Standing == brand.Inherited }

// Overrides reports whether the item is the parent's, changed here.
func (o origin) Overrides() bool { return o.Standing == brand.Overrides }

func originOf(k *app.Kit, path string) origin {
	p, ok := k.Parent()
	if !ok {
		return origin{}
	}
	return origin{k.Origin(path), p.Name}
}

// fileOrigin is where item n of a list of files comes from.
func fileOrigin(k *app.Kit, list string, n int) origin {
	p, ok := k.Parent()
	if !ok || n < k.OwnFiles(list) {
		return origin{}
	}
	return origin{brand.Inherited, p.Name}
}

// wordField is a field of the kit's words.
type wordField struct {
	ID, Label, Path, Value, Hint string
	List                         bool // set off with commas
	Class                        string
	From                         string // the kit whose words the hint shows
}

// wordFields are who we are; voiceFields how we sound.
func wordFields(k *app.Kit) (words, voice []wordField) {
	field := func(id, label, path, hint string, list bool, class string) wordField {
		f := wordField{ID: id, Label: label, Path: "/$extensions/aspenridge/" + path, Hint: hint, List: list, Class: class}
		f.Value = k.OwnText(f.Path)
		if p, ok := k.Parent(); ok && id != "w-name" {
			if theirs := k.InheritedText(f.Path); theirs != "" {
				f.Hint, f.From = theirs, p.Name
			}
		}
		return f
	}
	words = []wordField{
		field("w-name", "name", "name", "What the business is called", false, ""),
		field("w-tagline", "tagline", "tagline", "In a few words", false, ""),
		field("w-website", "address", "website", "yourplace.example", false, ""),
		field("w-cta", "asks to", "callsToAction", "Save a seat, Join the crew", true, ""),
		field("w-handles", "handles", "handles", "@yourplace", true, ""),
		field("w-phone", "phone", "phone", "", false, ""),
		field("w-place", "place", "place", "Where people find you", false, ""),
		field("w-hashtags", "hashtags", "hashtags", "#slowbend", true, ""),
		field("w-values", "values", "values", "patience, clear water", true, ""),
	}
	voice = []wordField{
		field("v-sounds", "sounds", "voice/sounds", "Unhurried, exact; explains a term once", false, ""),
		field("v-reader", "reader", "voice/reader", "Who it speaks to", false, ""),
		field("v-says", "says", "voice/says", "words that are yours, with commas", true, "says"),
		field("v-never", "never says", "voice/neverSays", "every piece is checked for these", true, "never"),
		field("v-sentences", "sentences", "voice/sentences", "Short. One thought each.", false, ""),
	}
	return words, voice
}

// others are the kits something can be copied to, or followed.
func (s *Server) others(ctx context.Context, m app.Member, k *app.Kit) ([]app.KitName, error) {
	list, err := s.app.Kits.KitNames(ctx, m)
	if err != nil {
		return nil, fmt.Errorf("kits: %w", err)
	}
	var out []app.KitName
	for _, o := range list {
		if o.ID != k.ID {
			out = append(out, o)
		}
	}
	return out, nil
}
