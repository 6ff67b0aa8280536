package piece_test

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"testing"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/spec"
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
	for _, l := range job.Looks(3 * len(job.Layouts)) {
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
		return slices.IndexFunc(job.Looks(len(job.Layouts)), func(l piece.Look) bool { return layoutID(l) == id })
	}
	leaf, seal := at("leaf"), at("seal")
	job.Brief.Cards[0].When = &brief.When{Date: "2027-05-28"}
	if with := at("leaf"); with < 0 || with > 9 || with >= leaf { // the seal is composed alike and comes first
		t.Errorf("the calendar leaf ranks %d with a date, %d without", with, leaf)
	}
	if with := at("seal"); with < 0 || with > 3 || with >= seal {
		t.Errorf("the seal ranks %d with a date, %d without", with, seal)
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

// Looks that cut a face off or cover it come later: the first twelve show it whole and
// free in every shape, until somebody says what matters, and none of their pieces is
// worth little.
func TestAFaceIsWholeInTheFirstLooks(t *testing.T) {
	job := testJob(t)
	file := job.Brief.Cards[0].Pictures[0].File
	pic := job.Pictures[file]
	pic.W, pic.H = 2400, 1600
	job.Brief.Cards[0].Pictures[0].Focus = nil
	pic.Focus = [2]float64{0.87, 0.2}
	pic.Subjects = []photo.Subject{{Kind: photo.Face, Box: [4]float64{0.82, 0.12, 0.1, 0.16}}}
	job.Pictures = map[string]photo.Picture{file: pic}
	face := spec.Rect{X: 0.82 * 2400, Y: 0.12 * 1600, W: 240, H: 256}
	pictures := func(look piece.Look) (whole, cut int, harm []string) {
		for _, id := range []string{"feed-square", "feed-tall", "story", "feed-wide"} {
			p, ok := spec.Find(id)
			if !ok {
				t.Fatal(id)
			}
			pc := job.Compose(look, p, 0)
			for _, f := range pc.Findings {
				if f.Code == "subject-cut" || f.Code == "subject-covered" {
					harm = append(harm, id+": "+f.Message)
				}
			}
			if pc.Worth.Total < 0.55 {
				harm = append(harm, fmt.Sprintf("%s is worth %+v", id, pc.Worth))
			}
			for _, part := range pc.Scene.Parts {
				switch {
				case part.Slot != "picture":
				case part.Crop.Contains(face, 0.03*face.H):
					whole++
				default:
					cut++
				}
			}
		}
		return whole, cut, harm
	}
	shown := 0
	for i, look := range job.Looks(12) {
		whole, cut, harm := pictures(look)
		shown += whole
		if cut > 0 || len(harm) > 0 {
			t.Errorf("look %d, %s, cuts the face %d times; %q", i, look.Layout, cut, harm)
		}
	}
	if shown < 30 {
		t.Errorf("the face is shown %d times", shown)
	}
	job.Brief.Cards[0].Pictures[0].Focus = &[2]float64{0.05, 0.9}
	if _, cut, _ := pictures(job.Looks(1)[0]); cut == 0 {
		t.Error("what somebody said matters does not count")
	}
}
