package test

import (
	"bytes"
	"encoding/json"
	"io"
	"net/http"
	"testing"

	"aspenridge/demo"
	"aspenridge/internal/app"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/spec"
	"aspenridge/test/stage"
)

// BenchmarkKey types into a set of 24 through a server in this process, the page having
// what it was last sent: what a key allocates, from the request to its answer and with
// the page's own part of it (the request, and the answer read).
func BenchmarkKey(b *testing.B) {
	ctx := b.Context()
	s, err := stage.Open(ctx, stage.Options{})
	if err != nil {
		b.Fatal(err)
	}
	defer s.Close()
	m, err := s.App.People.SignUp(ctx, "Somebody", "typing@two.example", "ten or more letters")
	if err != nil {
		b.Fatal(err)
	}
	kit, err := demo.LoadKit(ctx, s.App, m)
	if err != nil {
		b.Fatal(err)
	}
	id, err := demo.LoadBrief(ctx, s.App, m, kit, "beginners.json", "shoreline")
	if err != nil {
		b.Fatal(err)
	}
	places, err := json.Marshal(spec.AllImages()[:24])
	if err != nil {
		b.Fatal(err)
	}
	if _, err := s.App.Documents.Edit(ctx, m, id, app.Change{Kind: "brief", Base: app.Latest, Op: edit.Op{Path: "/placements", Value: places}}); err != nil {
		b.Fatal(err)
	}
	set, err := s.App.Sets.Set(ctx, m, id)
	if err != nil {
		b.Fatal(err)
	}
	typist := signedIn(b, s.URL, "typing@two.example")
	have := map[string]map[string]string{}
	bench, words, n := "", "Quiet water, first strokes and a river that is yours by the end of May", 0
	key := func() {
		n = n%len(words) + 1
		said, _ := json.Marshal(map[string]any{
			"client": "key", "base": app.Latest, "have": have, "benchIs": bench,
			"write": map[string]any{"card": set.Brief.Cards[0].ID, "field": "headline", "reach": "set", "text": words[:n]},
		})
		r, err := typist.Post(s.URL+"/briefs/"+id.String()+"/sync", "application/json", bytes.NewReader(said))
		if err != nil {
			b.Fatal(err)
		}
		defer r.Body.Close()
		answer, _ := io.ReadAll(r.Body)
		var now struct {
			BenchIs string `json:"benchIs"`
			Pieces  []struct {
				ID     string                   `json:"id"`
				Groups []struct{ ID, H string } `json:"groups"`
			} `json:"pieces"`
		}
		if r.StatusCode != http.StatusOK || json.Unmarshal(answer, &now) != nil || len(now.Pieces) != 24 {
			b.Fatal(r.Status, string(answer))
		}
		bench = now.BenchIs
		for _, p := range now.Pieces {
			have[p.ID] = map[string]string{}
			for _, g := range p.Groups {
				have[p.ID][g.ID] = g.H
			}
		}
	}
	key()
	b.ReportAllocs()
	for b.Loop() {
		key()
	}
}
