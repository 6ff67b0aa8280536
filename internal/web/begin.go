package web

import (
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strings"

	"aspenridge/internal/app"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/starter"
)

// beginPage leads from nothing to a kit: who it is, pairs of pieces, the result.
// All that was said stands in the address, so going back is going back.
type beginPage struct {
	Step               string // who, pair, result
	Name, Does, Values string
	Round, Of          int
	Pair               []sample
	Back, Skip         string
	Neither            string // the address of another pair
}

// sample is a direction as real pieces.
type sample struct {
	Direction  starter.Direction
	Mini, Side mini
	Foot       mini
	Href       string
	Colours    []colour.RGB
}

func (p beginPage) beginning() app.Beginning {
	b := app.Beginning{Name: p.Name, Does: p.Does}
	for _, v := range strings.Split(p.Values, ",") {
		if v = strings.TrimSpace(v); v != "" {
			b.Values = append(b.Values, v)
		}
	}
	return b
}

// address is this page after some answers.
func (p beginPage) address(picks []starter.Pick, done bool) string {
	q := url.Values{"name": {p.Name}, "does": {p.Does}, "values": {p.Values}, "go": {"1"}}
	for _, k := range picks {
		between := "."
		if k.Neither {
			between = "~"
		}
		q.Add("pick", k.More+between+k.Less)
	}
	if done {
		q.Set("done", "1")
	}
	return "/kits/begin?" + q.Encode()
}

func (s *Server) findCharacter(w http.ResponseWriter, r *http.Request) error {
	p := beginPage{Step: "who", Name: strings.TrimSpace(r.FormValue("name")), Does: r.FormValue("does"), Values: r.FormValue("values"), Of: starter.Rounds}
	if r.FormValue("go") != "" && p.Name != "" {
		if err := s.pose(r, &p); err != nil {
			return err
		}
	}
	s.show(w, r, "begin", frame{Title: "A new kit", Screen: "begin", Page: p})
	return nil
}

// pose fills in the next pair, or the result.
func (s *Server) pose(r *http.Request, p *beginPage) error {
	var picks []starter.Pick
	for _, v := range r.Form["pick"] {
		more, less, one := strings.Cut(v, ".")
		if !one {
			more, less, _ = strings.Cut(v, "~")
		}
		picks = append(picks, starter.Pick{More: more, Less: less, Neither: !one})
	}
	b := p.beginning()
	if len(picks) > 0 {
		p.Back = p.address(picks[:len(picks)-1], false)
	} else {
		p.Back = "/kits/begin?" + url.Values{"name": {p.Name}, "does": {p.Does}, "values": {p.Values}}.Encode()
	}
	one, two, ok := starter.Next(picks, b.About())
	list := []starter.Direction{one, two}
	p.Step, p.Round, p.Skip = "pair", 1, p.address(picks, true)
	for _, k := range picks {
		if !k.Neither {
			p.Round++
		}
	}
	p.Neither = p.address(append(slices.Clone(picks), starter.Pick{More: one.ID, Less: two.ID, Neither: true}), false)
	if !ok || r.FormValue("done") != "" {
		p.Step, list = "result", starter.Ranked(picks, b.About())[:3]
		if ok {
			p.Back = p.address(picks, false)
		}
	}
	for i, d := range list {
		job, look, err := s.app.Kits.Sample(b, d)
		if err != nil {
			return err
		}
		draw := func(id string, box float64) mini {
			place, _ := spec.Find(id)
			pc := job.Compose(look, place, 0)
			return miniOf(pc.Scene, place, fmt.Sprintf("%s%d-", d.ID, i), box, 0)
		}
		out := sample{Direction: d, Mini: draw("feed-square", 290)}
		if p.Step == "pair" {
			out.Side, out.Foot = draw("story", 290), draw("shop-banner", 469)
			out.Href = p.address(append(slices.Clone(picks), starter.Pick{More: d.ID, Less: list[1-i].ID}), false)
		}
		for _, c := range job.Kit.Colours() {
			out.Colours = append(out.Colours, c.Value)
		}
		p.Pair = append(p.Pair, out)
	}
	return nil
}

// startKit makes a kit of a direction and goes to it.
func (s *Server) startKit(w http.ResponseWriter, r *http.Request) error {
	p := beginPage{Name: r.FormValue("name"), Does: r.FormValue("does"), Values: r.FormValue("values")}
	id, err := s.making(r, func(m app.Member) (app.ID, error) {
		return s.app.Kits.StartFrom(r.Context(), m, p.beginning(), r.FormValue("direction"))
	})
	if err != nil {
		return err
	}
	http.Redirect(w, r, "/kits/"+id.String(), http.StatusSeeOther)
	return nil
}
