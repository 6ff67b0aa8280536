package test

import (
	"os"
	"slices"
	"testing"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/kitfile"
)

// kitJob is the job of a kit of test/kits with its own brief, with a drawn picture or
// none.
func kitJob(t *testing.T, name string, pictures int) *piece.Job {
	t.Helper()
	folder := os.DirFS("kits/" + name)
	kit, err := kitfile.LoadKit(t.Context(), folder, false)
	if err != nil {
		t.Fatal(err)
	}
	data, err := os.ReadFile("kits/" + name + "/brief.json")
	if err != nil {
		t.Fatal(err)
	}
	br, err := kitfile.LoadBrief(data)
	if err != nil {
		t.Fatal(err)
	}
	byFile, _ := demoPictures()
	for _, file := range []string{"dawn-on-the-bend.svg", "lanterns-after-dark.svg", "noon-slack-water.svg"}[:pictures] {
		br.Cards[0].Pictures = append(br.Cards[0].Pictures, brief.Picture{File: file, Focus: &[2]float64{0.42, 0.66}, Alt: "a kayak"})
	}
	job := kitfile.Job(kit, br, kitfile.Pictures{})
	job.Pictures = byFile
	return job
}

func kitNames(t *testing.T) (out []string) {
	t.Helper()
	list, err := os.ReadDir("kits")
	if err != nil {
		t.Fatal(err)
	}
	for _, e := range list {
		out = append(out, e.Name())
	}
	if len(out) < 12 {
		t.Fatalf("%d kits", len(out))
	}
	return out
}

// TestKitsOfEveryCharacter: the first looks of brands that could not be less alike are
// without an error, keep the headline, and what they have to say.
func TestKitsOfEveryCharacter(t *testing.T) {
	for _, name := range kitNames(t) {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			for _, pictures := range []int{0, 1, 3} {
				job := kitJob(t, name, pictures)
				for _, look := range job.Looks(10) {
					for _, id := range []string{"feed-square", "feed-tall", "story", "feed-wide", "video-thumbnail", "ad-728x90", "ad-160x600"} {
						p, _ := spec.Find(id)
						pc := job.Compose(look, p, 0)
						if !slices.ContainsFunc(pc.Scene.Parts, func(q scene.Part) bool { return q.Slot == "headline" }) {
							t.Errorf("%s on %s: no headline", look.Layout, id)
						}
						for _, f := range pc.Findings {
							if f.Severity == "error" {
								t.Errorf("%s on %s, %d pictures: %+v", look.Layout, id, pictures, f)
							}
						}
					}
				}
			}
		})
	}
}

// TestMannersTellBrandsApart: the rule gives brands of different character different
// manners, and the loud and the quiet ones the one they have.
func TestMannersTellBrandsApart(t *testing.T) {
	seen := map[any]bool{}
	for _, name := range kitNames(t) {
		m := kitJob(t, name, 0).Manner()
		seen[m] = true
		want := map[string]string{"gym": "loud", "roaster": "quiet", "yoga": "quiet"}[name]
		if want != "" && m.Contrast != want {
			t.Errorf("%s is %s, want %s", name, m.Contrast, want)
		}
		if corners := map[string]string{"gym": "sharp", "florist": "round", "nursery": "round", "tram": "sharp"}[name]; corners != "" && m.Corners != corners {
			t.Errorf("the corners of %s are %s, want %s", name, m.Corners, corners)
		}
	}
	if len(seen) < 5 {
		t.Errorf("%d manners for twelve brands", len(seen))
	}
}
