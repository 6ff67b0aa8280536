package web

import (
	"context"
	"fmt"
	"maps"
	"net/http"
	"slices"
	"strconv"
	"time"

	"github.com/go-chi/chi/v5"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/spec"
)

// versionRow is a version in the list: when, what it is called, what changed
// since.
type versionRow struct {
	app.Version
	When  string
	Since string
}

// when tells a moment the way people do: today by the hour, else by the day.
func when(t, now time.Time) string {
	t, now = t.UTC(), now.UTC()
	switch y, m, d := t.Date(); {
	case now.Sub(t) < time.Minute:
		return "just now"
	case y == now.Year() && m == now.Month() && d == now.Day():
		return t.Format("15:04 UTC")
	case y == now.Year():
		return t.Format("2 January, 15:04 UTC")
	}
	return t.Format("2 January 2006")
}

func slipHistory(s *Server, r *http.Request, k *app.Kit, p kitPage, _ string) (string, any, error) {
	m := member(r)
	list, err := s.app.Kits.Versions(r.Context(), m, k.ID)
	if err != nil {
		return "", nil, err
	}
	out := struct {
		ID       string
		Versions []versionRow
		Page     kitPage
	}{ID: k.ID.String(), Page: p}
	for _, v := range list {
		row := versionRow{Version: v, When: when(v.At, time.Now()), Since: "as it is now"}
		for i, d := range v.Since {
			switch {
			case i == 0:
				row.Since = "since then: " + d.What
			case i < 3:
				row.Since += ", " + d.What
			case i == 3:
				row.Since += fmt.Sprintf(" and %d more", len(v.Since)-3)
			}
		}
		out.Versions = append(out.Versions, row)
	}
	return "history-slip", out, nil
}

func versionAction(f func(ctx context.Context, a *app.App, m app.Member, e kitEdit, version int64) error) func(context.Context, *app.App, app.Member, kitEdit) error {
	return func(ctx context.Context, a *app.App, m app.Member, e kitEdit) error {
		v, err := strconv.ParseInt(e.Token, 10, 64)
		if err != nil {
			return app.ErrNotFound
		}
		return f(ctx, a, m, e, v)
	}
}

// comparePage shows two states of a kit side by side.
type comparePage struct {
	ID       string
	Versions []versionRow
	A, B     compared
	Changes  []brand.Difference
	Pairs    []beforeAfter
}

type compared struct {
	ID   int64 // 0 is the kit as it is now
	When string
}

// beforeAfter is a piece in two states.
type beforeAfter struct {
	Name          string
	Before, After mini
}

// comparePlaces are the shapes two states of a kit are compared in.
var comparePlaces = []string{"feed-tall", "video-thumbnail", "ad-300x250", "landing-block"}

func (s *Server) compare(w http.ResponseWriter, r *http.Request) error {
	k, err := s.kitOf(r)
	if err != nil {
		return err
	}
	m := member(r)
	p := comparePage{ID: k.ID.String()}
	list, err := s.app.Kits.Versions(r.Context(), m, k.ID)
	if err != nil {
		return err
	}
	for _, v := range list {
		p.Versions = append(p.Versions, versionRow{Version: v, When: when(v.At, time.Now())})
	}
	pick := func(key string) (*app.Kit, compared, error) {
		id, _ := strconv.ParseInt(r.FormValue(key), 10, 64)
		at, v, err := s.app.Kits.KitAt(r.Context(), m, k.ID, id)
		c := compared{ID: id, When: "now"}
		if id > 0 {
			c.When = when(v.At, time.Now())
			if v.Name != "" {
				c.When = v.Name
			}
		}
		return at, c, err
	}
	var a, b *app.Kit
	if a, p.A, err = pick("a"); err == nil {
		b, p.B, err = pick("b")
	}
	if err == nil {
		p.Changes = brand.Differences(a.Kit, b.Kit)
		p.Pairs, err = s.pairs(r, m, k, a, b)
	}
	if err != nil {
		return err
	}
	s.show(w, r, "compare", frame{Title: k.Name, Screen: "versions", Kit: k, Page: p})
	return nil
}

func (s *Server) pairs(r *http.Request, m app.Member, k, a, b *app.Kit) ([]beforeAfter, error) {
	set, err := s.written(r, m, k)
	if err != nil {
		return nil, err
	}
	compose := func(at *app.Kit) func(spec.Placement) *piece.Piece {
		if set != nil {
			with := s.app.Sets.With(set, at)
			return func(p spec.Placement) *piece.Piece { return with.Piece(with.CurrentLook(), p) }
		}
		job := s.app.Kits.SampleJob(at, brief.Card{Headline: ptr(sampleHeadline(at)), Subheading: ptr("Every piece in one voice, every size")})
		look := job.First()
		return func(p spec.Placement) *piece.Piece { pc := job.Compose(look, p, 0); return &pc }
	}
	left, right := compose(a), compose(b)
	var out []beforeAfter
	for _, id := range comparePlaces {
		p, ok := spec.Find(id)
		if !ok {
			return nil, fmt.Errorf("placement %q is not in the catalogue", id)
		}
		out = append(out, beforeAfter{p.Name, miniOf(left(p).Scene, p, "a-", 240, 0), miniOf(right(p).Scene, p, "b-", 240, 0)})
	}
	return out, nil
}

// forwardPage lists finished pieces that would look different now.
type forwardPage struct {
	Title    string
	Brief    string // id when it is about one brief
	Finished int
	Rows     []forwardRow
}

type forwardRow struct {
	Brief, BriefName, Placement string
	When                        string
	Old                         string // address of the file as it was finished
	W, H                        int
	Now                         mini
}

func (s *Server) forwardRows(list []app.Frozen) (finished int, rows []forwardRow) {
	for _, f := range list {
		finished++
		if !f.Moved {
			continue
		}
		now := miniOf(f.Now.Scene, f.Now.Placement, "n-"+f.Brief.String()[:8], 236, 0)
		rows = append(rows, forwardRow{
			Brief: f.Brief.String(), BriefName: f.Set.Brief.Name, Placement: f.Placement, When: when(f.At, time.Now()),
			Old: frozenHref(f), W: now.W, H: now.H, Now: now,
		})
	}
	return finished, rows
}

func frozenHref(f app.Frozen) string {
	return fmt.Sprintf("/briefs/%s/finished/%s.svg?%.8s", f.Brief, f.Placement, f.SVG)
}

// kitForward lists the finished pieces of a kit that have moved on; briefForward
// those of a brief.
func (s *Server) kitForward(w http.ResponseWriter, r *http.Request) error {
	k, err := s.kitOf(r)
	if err != nil {
		return err
	}
	m := member(r)
	list, err := s.app.Sets.FinishedWith(r.Context(), m, k.ID)
	if err != nil {
		return err
	}
	p := forwardPage{Title: k.Name}
	p.Finished, p.Rows = s.forwardRows(list)
	s.show(w, r, "forward", frame{Title: k.Name, Screen: "forward", Kit: k, Page: p})
	return nil
}

func (s *Server) briefForward(w http.ResponseWriter, r *http.Request) error {
	set, err := s.set(r)
	if err != nil {
		return err
	}
	m := member(r)
	done, err := s.app.Sets.Finished(r.Context(), m, set.Doc.ID)
	if err != nil {
		return err
	}
	var list []app.Frozen
	for _, key := range slices.Sorted(maps.Keys(done)) {
		list = append(list, done[key])
	}
	f := briefFrame(set, "forward")
	p := forwardPage{Title: f.Title, Brief: set.Doc.ID.String()}
	p.Finished, p.Rows = s.forwardRows(list)
	f.Page = p
	s.show(w, r, "forward", f)
	return nil
}

// bringForward takes the chosen pieces ("brief/placement") to how they look now.
func (s *Server) bringForward(w http.ResponseWriter, r *http.Request) error {
	m := member(r)
	err := r.ParseForm()
	byBrief := map[app.ID][]string{}
	for _, v := range r.Form["piece"] {
		var id app.ID
		if len(v) > 37 {
			id, err = app.ParseID(v[:36])
		}
		if err != nil || len(v) <= 37 {
			return app.ErrNotFound
		}
		byBrief[id] = append(byBrief[id], v[37:])
	}
	for id, places := range byBrief {
		if _, err = s.app.Sets.BringForward(r.Context(), m, id, places...); err != nil {
			break
		}
	}
	return s.back(w, r, err)
}

// finish freezes the set as it is; with "back" it follows again.
func (s *Server) finish(w http.ResponseWriter, r *http.Request) error {
	m, id, err := about(r)
	if err == nil && r.FormValue("back") != "" {
		err = s.app.Sets.Reopen(r.Context(), m, id, r.URL.Query()["piece"]...)
	} else if err == nil {
		_, err = s.app.Sets.Finish(r.Context(), m, id, r.URL.Query()["piece"]...)
	}
	return s.back(w, r, err)
}

// frozen serves the file of a finished piece; its address carries its content.
func (s *Server) frozen(w http.ResponseWriter, r *http.Request) error {
	m, id, err := about(r)
	var data []byte
	if err == nil {
		data, err = s.app.Sets.FrozenSVG(r.Context(), m, id, chi.URLParam(r, "placement"))
	}
	if err != nil {
		return err
	}
	w.Header().Set("Content-Type", "image/svg+xml")
	w.Header().Set("Cache-Control", "private, max-age=3600")
	_, _ = w.Write(data)
	return nil
}
