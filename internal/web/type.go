package web

import (
	"fmt"
	"math"
	"net/http"
	"slices"

	"aspenridge/assets"
	"aspenridge/internal/app"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/typeset"
)

// levelRow is a level of the type set on the sheet.
type levelRow struct {
	brand.Style
	Level  brand.Level
	Ratio  float64
	Sample string
	origin
	Frail string // why the face does not survive at the sizes of this level, "" when it does
}

// levels are the rows of a type set, in real copy.
func levels(k *app.Kit, set brand.TypeSet) []levelRow {
	samples := map[brand.Level]string{
		brand.Headline: sampleHeadline(k), brand.Subheading: "Every piece in one voice",
		brand.Body:    "Set the brand up once. What you make from it comes out right in every size.",
		brand.Caption: "Photographed where it was made", brand.Button: "See the pieces",
	}
	if len(k.CallsToAction) > 0 {
		samples[brand.Button] = k.CallsToAction[0]
	}
	var out []levelRow
	for _, l := range brand.Levels {
		row := levelRow{Style: set.Levels[l], Level: l, origin: originOf(k, brand.TypePath(set.ID)+"/"+string(l)), Ratio: set.Ratio(l), Sample: samples[l]}
		if face, err := k.Library.Face(row.Family, row.Weight, row.Italic); err == nil && row.Small == nil {
			row.Frail = frail(face.Character(), l)
		}
		out = append(out, row)
	}
	return out
}

// frail says when a face breaks up above the size a level is seen at: headlines
// are seen large, except in the smallest places.
func frail(c typeset.Character, l brand.Level) string {
	least := 14.0
	if l == brand.Headline {
		least = 20
	}
	if small := c.SmallestPx(); small > least {
		return fmt.Sprintf("breaks up below %.0f px: its thin strokes are %.3f em", small, c.Hairline)
	}
	return ""
}

// levelSlip is the card beside a level: everything it is set by.
type levelSlip struct {
	levelRow
	Families []assets.Family
	Weights  []int
	Roles    []brand.Role
	Others   []brand.Level // it can change places with
	Italics  bool
	Joined   bool // a script: no capitals
	Path     string
}

// TrackingEm is the tracking in hundredths of an em.
func (l levelSlip) TrackingEm() string { return typeset.Num(math.Round(1000*l.Tracking) / 10) }

func (l levelSlip) SmallFamily() string {
	if l.Small == nil {
		return ""
	}
	return l.Small.Family
}

func slipLevel(_ *Server, _ *http.Request, k *app.Kit, p kitPage, key string) (string, any, error) {
	i := slices.IndexFunc(p.Levels, func(l levelRow) bool { return string(l.Level) == key })
	if i < 0 {
		return "", nil, app.ErrNotFound
	}
	out := levelSlip{levelRow: p.Levels[i], Families: p.Families, Roles: brand.Roles, Path: brand.TypePath(p.TypeSet.ID) + "/" + key}
	out.Weights = k.Library.Weights(out.Family)
	if !slices.Contains(out.Weights, out.Weight) {
		out.Weights = append(out.Weights, out.Weight)
		slices.Sort(out.Weights)
	}
	if face, err := k.Library.Face(out.Family, out.Weight, true); err == nil {
		out.Italics = face.Italic
		out.Joined = face.Character().Structure == typeset.ScriptStructure
	}
	for _, l := range brand.Levels {
		if l != out.Level {
			out.Others = append(out.Others, l)
		}
	}
	return "level-slip", out, nil
}

func slipPairs(s *Server, r *http.Request, k *app.Kit, p kitPage, _ string) (string, any, error) {
	m := member(r)
	pairs, err := s.app.Brand.Pairings(r.Context(), m, k.ID, 12)
	return "pairs-slip", struct {
		Pairs []brand.Pair
		Head  string
		Text  string
	}{pairs, p.Head, p.Text}, err
}
