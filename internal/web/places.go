package web

import (
	"cmp"
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"aspenridge/internal/app"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/spec"
)

// placesPage is where a brief goes: every place drawn to scale, and the choice.
type placesPage struct {
	ID       string
	Query    string
	Chosen   int
	Channels []channelChoice
	Custom   string // the size typed, when the query is one
	Wrong    string // what was wrong with it
	Sets     []app.Combination
	Usual    []string // where the last brief for this purpose went, where that is elsewhere
	Purpose  string
}

type channelChoice struct {
	ID, Name string
	Places   []placeChoice
}

type placeChoice struct {
	spec.Placement
	On   bool
	W, H float64 // drawn to scale, px
	Seen string
}

// placeScale draws 1,920 px as 56.
const placeScale = 56.0 / 1920

func placeOf(p spec.Placement, on bool) placeChoice {
	k := placeScale
	if m := float64(max(p.Width, p.Height)); m*k > 72 {
		k = 72 / m
	}
	return placeChoice{p, on, max(3, float64(p.Width)*k), max(3, float64(p.Height)*k), strconv.Itoa(int(slices.Max(p.Seen)))}
}

func (s *Server) placesOf(set *app.Set, query string) placesPage {
	p := placesAmong(set.Channels, set.Placements(), query)
	p.ID, p.Purpose = set.Doc.ID.String(), set.Brief.Purpose
	return p
}

// placesWithUsual are those of [Server.placesOf], with where the last brief for the same purpose
// went; the address may name the purpose a page has and the brief not yet.
func (s *Server) placesWithUsual(r *http.Request, set *app.Set, query string) (p placesPage, err error) {
	p = s.placesOf(set, query)
	p.Purpose = cmp.Or(r.URL.Query().Get("purpose"), p.Purpose)
	p.Usual, err = s.app.Briefs.UsualPlaces(r.Context(), member(r), set, p.Purpose)
	return p, err
}

// placesAmong are all places that fit a search, with those that are chosen.
func placesAmong(where *app.Channels, on []spec.Placement, query string) placesPage {
	p := placesPage{Query: query}
	chosen := map[string]bool{}
	variants := map[string][]spec.Placement{} // by the place of what they are variants of
	own := channelChoice{ID: spec.Own.ID, Name: spec.Own.Name}
	for _, pl := range on {
		if pl.Card > 0 && pl.Variant == "" {
			continue
		}
		if pl.Variant != "" && pl.Channel != spec.Own.ID {
			place, _, _ := strings.Cut(pl.First(), "+")
			variants[place] = append(variants[place], pl)
		}
		chosen[pl.ID] = true
		p.Chosen++
		if pl.Channel == spec.Own.ID {
			own.Places = append(own.Places, placeOf(pl, true))
		}
	}
	if w, h, err := spec.ParseSize(query); err == nil {
		p.Custom = fmt.Sprintf("%dx%d", w, h)
	} else if strings.ContainsAny(query, "x×") && strings.ContainsAny(query, "0123456789") {
		p.Wrong = err.Error()
	}
	for _, c := range where.Search(query) {
		choice := channelChoice{ID: c.ID, Name: c.Name}
		for _, pl := range c.Placements {
			if pl.Kind == "image" {
				choice.Places = append(choice.Places, placeOf(pl, chosen[pl.ID]))
				for _, v := range variants[pl.ID] {
					choice.Places = append(choice.Places, placeOf(v, true))
				}
			}
		}
		if len(choice.Places) > 0 {
			p.Channels = append(p.Channels, choice)
		}
	}
	if len(own.Places) > 0 {
		p.Channels = append(p.Channels, own)
	}
	p.Sets = where.Combinations
	return p
}

// places answers with the places that fit what was typed.
func (s *Server) places(w http.ResponseWriter, r *http.Request) error {
	set, err := s.set(r)
	if err != nil {
		return err
	}
	p, err := s.placesWithUsual(r, set, r.URL.Query().Get("q"))
	if err != nil {
		return err
	}
	return s.replyPart(w, r, "start", "places", p, nil)
}

type channelsPage struct {
	Seq       int64
	Own       []ownChannel
	Catalogue []channelChoice
}

type ownChannel struct {
	ID     string
	Name   string
	Places []ownPlace
}

type ownPlace struct {
	placeChoice
	Outline placeOutline
}

// placeOutline draws a placement with its safe area and what the channel
// covers, 150 px on its longer side.
type placeOutline struct {
	K        float64
	W, H     float64
	Safe     spec.Rect
	KeepOuts []spec.Rect
}

func outlineOf(p spec.Placement) placeOutline {
	k := 150 / float64(max(p.Width, p.Height))
	scale := func(r spec.Rect) spec.Rect { return spec.Rect{X: r.X * k, Y: r.Y * k, W: r.W * k, H: r.H * k} }
	o := placeOutline{K: k, W: float64(p.Width) * k, H: float64(p.Height) * k, Safe: scale(p.SafeBox())}
	for _, r := range p.KeepOuts() {
		o.KeepOuts = append(o.KeepOuts, scale(r))
	}
	return o
}

// channels is the screen of a workspace's own channels, with the catalogue to
// read beside them.
func (s *Server) channels(w http.ResponseWriter, r *http.Request) error {
	p, c, err := s.channelsOf(r)
	if err != nil {
		return err
	}
	f := frame{Title: "Channels", Screen: "channels", Page: p}
	if c.Doc.ID != (app.ID{}) {
		f.Undoes, f.Steps = c.Doc.ID.String(), c.Doc.Steps()
	}
	s.show(w, r, "channels", f)
	return nil
}

func (s *Server) channelsOf(r *http.Request) (channelsPage, *app.Channels, error) {
	m := member(r)
	c, err := s.app.Places.Channels(r.Context(), m)
	if err != nil {
		return channelsPage{}, nil, err
	}
	p := channelsPage{Seq: c.Doc.Seq}
	for _, ch := range c.Own {
		o := ownChannel{ID: ch.ID, Name: ch.Name}
		for _, pl := range ch.Placements {
			o.Places = append(o.Places, ownPlace{placeOf(pl, false), outlineOf(pl)})
		}
		p.Own = append(p.Own, o)
	}
	for _, ch := range spec.Catalogue() {
		choice := channelChoice{ID: ch.ID, Name: ch.Name}
		for _, pl := range ch.Placements {
			choice.Places = append(choice.Places, placeOf(pl, false))
		}
		p.Catalogue = append(p.Catalogue, choice)
	}
	return p, c, nil
}

// channelChange is what the Channels screen asks for.
type channelChange struct {
	Client    string          `json:"client"`
	Action    string          `json:"action"`  // channel, place, edit, bring, combine
	Channel   string          `json:"channel"` // its id
	Name      string          `json:"name"`
	Size      string          `json:"size"`
	Path      string          `json:"path"`
	Value     json.RawMessage `json:"value"`
	File      string          `json:"file"`
	Placement []string        `json:"placements"`
}

func (s *Server) changeChannels(w http.ResponseWriter, r *http.Request) error {
	m := member(r)
	var q channelChange
	err := readJSON(r, &q)
	if err == nil {
		ctx := r.Context()
		err = s.once(r, func() (err error) {
			switch q.Action {
			case "channel":
				err = s.app.Places.AddChannel(ctx, m, q.Client, strings.TrimSpace(q.Name))
			case "place":
				err = s.app.Places.AddPlacement(ctx, m, q.Client, q.Channel, strings.TrimSpace(q.Name), q.Size)
			case "edit":
				err = s.app.Places.ChangeChannels(ctx, m, q.Client, edit.Op{Path: q.Path, Value: q.Value})
			case "bring":
				_, _, err = s.app.Places.BringChannels(ctx, m, q.Client, []byte(q.File))
			case "combine":
				err = s.app.Places.KeepCombination(ctx, m, q.Client, strings.TrimSpace(q.Name), q.Placement)
			default:
				err = fmt.Errorf("%w: action %q", app.ErrInvalid, q.Action)
			}
			return err
		})
	}
	var html string
	var p channelsPage
	var c *app.Channels
	if err == nil {
		p, c, err = s.channelsOf(r)
	}
	if err == nil {
		html, err = s.fragment("channels", "own", p)
	}
	if err != nil {
		return err
	}
	steps := c.Doc.Steps()
	reply(w, http.StatusOK, map[string]any{"html": html, "seq": p.Seq, "doc": c.Doc.ID, "undo": steps.Undo, "redo": steps.Redo})
	return nil
}

// exportChannels hands the own channels out as JSON.
func (s *Server) exportChannels(w http.ResponseWriter, r *http.Request) error {
	m := member(r)
	data, err := s.app.Places.ExportChannels(r.Context(), m)
	if err != nil {
		return err
	}
	w.Header().Set("Content-Type", "application/json")
	w.Header().Set("Content-Disposition", attachment("channels.json"))
	_, _ = w.Write(append(data, '\n'))
	return nil
}
