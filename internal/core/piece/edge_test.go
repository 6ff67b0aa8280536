package piece_test

import (
	"testing"

	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// The kit's edge frame lies along every edge, is seen on what is below it, and no words come
// under it; a brief may go without, icons have none.
func TestEdgeFrame(t *testing.T) {
	j := testJob(t)
	kit := *j.Kit
	kit.Manner.Edge, kit.Manner.EdgeColour = "bold", "accent"
	j.Kit = &kit
	edge := func(id string) (frame *scene.Part, sc *scene.Scene) {
		p, ok := spec.Find(id)
		if !ok {
			t.Fatal(id)
		}
		pc := j.Compose(j.First(), p, 0)
		for i := range pc.Scene.Parts {
			if pc.Scene.Parts[i].Slot == "edge" {
				frame = &pc.Scene.Parts[i]
			}
		}
		return frame, pc.Scene
	}
	for _, id := range []string{"feed-square", "story", "ad-728x90", "shop-banner"} {
		f, sc := edge(id)
		if f == nil || f.Stroke < 2 || f.Box.W != float64(sc.W) || f.Fill == sc.MostSeen() {
			t.Fatalf("%s: %+v", id, f)
		}
		for _, p := range sc.Parts {
			if p.Text == "" {
				continue
			}
			if b := p.Box; b.X < f.Stroke || b.Y < f.Stroke || b.Right() > float64(sc.W)-f.Stroke || b.Bottom() > float64(sc.H)-f.Stroke {
				t.Errorf("%s: %q comes under the frame: %+v", id, p.Text, b)
			}
		}
	}
	if f, _ := edge("profile-picture"); f != nil {
		t.Error("an icon has a frame")
	}
	b := *j.Brief
	b.Edge = "off"
	j.Brief = &b
	if f, _ := edge("feed-square"); f != nil {
		t.Error("a brief without has a frame")
	}
	kit.Manner.Edge = "none"
	b.Edge = "on"
	if f, _ := edge("feed-square"); f == nil {
		t.Error("a brief with has none")
	}
}
