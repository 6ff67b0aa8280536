package piece_test

import (
	"maps"
	"slices"
	"strings"
	"testing"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/piece"
)

func layoutID(l piece.Look) string {
	id, _, _ := strings.Cut(l.Layout, "@")
	return id
}

// A full kit gives sixty looks or more, no two alike, with twelve layouts or
// more among the first twenty and no colour on top of three strips in a row.
func TestLooksAreManyAndDifferent(t *testing.T) {
	job := testJob(t)
	looks := job.Looks(72)
	if len(looks) < 60 {
		t.Fatalf("%d looks", len(looks))
	}
	seen := map[string]bool{}
	for i, l := range looks {
		if i < 20 {
			seen[layoutID(l)] = true
		}
		for j, o := range looks[:i] {
			if l.Same(o) {
				t.Errorf("look %d is look %d", i, j)
			}
		}
	}
	if len(seen) < 12 {
		t.Errorf("%d layouts among the first twenty", len(seen))
	}
	// later rounds put the subject on a third
	crops := map[float64]bool{}
	file := job.Brief.Cards[0].Pictures[0].File
	for _, l := range looks {
		if f, ok := l.Crops[file]; ok {
			crops[f[0]] = true
		}
	}
	if len(crops) < 2 {
		t.Errorf("%d other crops", len(crops))
	}
	if again := job.Looks(72); !slices.EqualFunc(looks, again, piece.Look.Same) {
		t.Error("asked again, the looks are others")
	}
	if few := job.Looks(5); !slices.EqualFunc(few, looks[:5], piece.Look.Same) {
		t.Error("the first five depend on how many are asked for")
	}
}

func TestWhatALayoutLivesOnDecidesItsRank(t *testing.T) {
	job := testJob(t)
	at := func(id string) int {
		return slices.IndexFunc(job.Looks(29), func(l piece.Look) bool { return layoutID(l) == id })
	}
	without := at("leaf")
	job.Brief.Cards[0].When = &brief.When{Date: "2027-05-28"}
	if with := at("leaf"); with < 0 || with > 6 || with >= without {
		t.Errorf("the calendar leaf ranks %d with a date, %d without", with, without)
	}
}

func TestAWishIsKept(t *testing.T) {
	job := testJob(t)
	first := job.Looks(1)[0]
	set := job.Kit.TypeSets[0].ID
	for name, w := range map[string]piece.Wish{
		"a layout":    {Layout: "seal"},
		"colours":     {Seats: first.Seats},
		"a type set":  {TypeSet: &set},
		"left out":    {NotLayouts: []string{layoutID(first), "poster"}},
		"not ground":  {NotGrounds: []string{"main.river"}},
		"a palette":   {Palette: "main"},
		"a crop":      {Crops: map[string][2]float64{job.Brief.Cards[0].Pictures[0].File: {0.3, 0.3}}},
		"all at once": {Layout: "seal", NotGrounds: []string{"main.river", "main.sand"}, TypeSet: &set},
	} {
		looks := job.LooksFor(w, 20)
		if len(looks) == 0 {
			t.Errorf("%s: nothing is proposed", name)
		}
		for _, l := range looks {
			id := layoutID(l)
			if w.Layout != "" && id != w.Layout || slices.Contains(w.NotLayouts, id) {
				t.Errorf("%s: layout %s", name, id)
			}
			if w.Crops != nil && !maps.Equal(l.Crops, w.Crops) {
				t.Errorf("%s: crops %v", name, l.Crops)
			}
			if w.TypeSet != nil && l.TypeSet != *w.TypeSet {
				t.Errorf("%s: type set %q", name, l.TypeSet)
			}
			for _, lay := range job.Layouts {
				if lay.ID == id && slices.Contains(w.NotGrounds, strings.TrimPrefix(l.Seats[string(lay.Dominant())], "color.")) {
					t.Errorf("%s: %s stands on %s", name, id, l.Seats[string(lay.Dominant())])
				}
			}
		}
	}
	if got := job.LooksFor(piece.Wish{Layout: "no such"}, 5); len(got) != 0 {
		t.Errorf("an unknown layout gives %d looks", len(got))
	}
}

func TestBlendTakesLayoutFromOneAndColoursFromTheOther(t *testing.T) {
	job := testJob(t)
	looks := job.Looks(8)
	b := job.Blend(looks[0], looks[5])
	if b.Layout != looks[0].Layout || b.TypeSet != looks[5].TypeSet {
		t.Errorf("%+v", b)
	}
	same := 0
	for seat, token := range b.Seats {
		if looks[5].Seats[seat] == token {
			same++
		}
	}
	if same < 4 {
		t.Errorf("only %d of the seats have the other's colours", same)
	}
}
