package layout_test

import (
	"strings"
	"testing"

	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/layouts"
)

// TestTilesHoldTheirItems: each item stands on a flat of its own, whole, whatever their number, the
// direction of reading and what is beside them; the flats share the room and do not meet.
func TestTilesHoldTheirItems(t *testing.T) {
	for name, lines := range map[string]string{
		"two":    "Black, standing up\nWith milk, sitting down",
		"three":  "Never\nOnce a week\nTwice a day, and once more on Sundays when nobody looks",
		"four":   "Black\nWith milk\nNot before ten\nTea, thank you",
		"six":    "A hat\nA litre of water\nShoes that can get wet\nTwo layers\nA whistle\nSomebody who knows",
		"arabic": "بلا سكر\nمع الحليب\nشاي من فضلك",
	} {
		for _, id := range []string{"feed-square", "feed-tall", "story", "feed-wide"} {
			headline := "How do you take it?"
			if name == "arabic" {
				headline = "كيف تشربها؟"
			}
			in := input(t, byID(t, "ballot"), id, map[string]string{"headline": headline, "lines": lines})
			in.Purpose, in.Signature = "question", "none"
			r := layout.Solve(in)
			items := strings.Split(lines, "\n")
			words := part(r, "lines")
			if r.Plain || words == nil || words.Text == "" {
				t.Fatalf("%s on %s: plain %v, left out %v", name, id, r.Plain, r.Dropped)
			}
			var tiles []spec.Rect
			for _, p := range r.Scene.Parts {
				if p.Slot == "card" {
					tiles = append(tiles, p.Box)
				}
			}
			if len(tiles) != len(items) {
				t.Errorf("%s on %s: %d tiles for %d items", name, id, len(tiles), len(items))
				continue
			}
			held := make([]int, len(tiles))
			for _, l := range words.Lines {
				ink := l.Line.Ink.Scale(words.Size(l)).Shift(l.X, l.Y)
				box := spec.Rect{X: ink.X0, Y: ink.Y0, W: ink.X1 - ink.X0, H: ink.Y1 - ink.Y0}
				for i, tile := range tiles {
					if tile.Contains(box, 0.5) {
						held[i]++
					}
				}
			}
			for i, n := range held {
				if n == 0 {
					t.Errorf("%s on %s: nothing stands in tile %d %v", name, id, i, tiles[i])
				}
				for _, o := range tiles[:i] {
					if o.Overlaps(tiles[i], 0) {
						t.Errorf("%s on %s: tiles %v and %v meet", name, id, o, tiles[i])
					}
				}
			}
			if words.SizePx > part(r, "headline").SizePx {
				t.Errorf("%s on %s: answers of %.0f px under a question of %.0f", name, id, words.SizePx, part(r, "headline").SizePx)
			}
		}
	}
}

// TestHoursFromSideToSide: on a door the days stand at one side and their hours end at the other,
// with a rule between two rows and none through words.
func TestHoursFromSideToSide(t *testing.T) {
	for _, id := range []string{"feed-square", "feed-tall", "story"} {
		in := input(t, byID(t, "door"), id, map[string]string{"headline": "Open through the winter", "hours": "Monday–Friday\t07:00–18:00\nSaturday\t08:00–14:00\nSunday\tclosed"})
		in.Purpose = "hours"
		r := layout.Solve(in)
		hours := part(r, "hours")
		if hours == nil || len(hours.Lines) != 6 {
			t.Fatalf("%s: %+v", id, hours)
		}
		right := 0.0
		for i := 1; i < 6; i += 2 {
			days, l := hours.Lines[i-1], hours.Lines[i]
			if days.Y != l.Y {
				t.Errorf("%s: %q at %.1f, its hours at %.1f", id, days.Line.Text, days.Y, l.Y)
			}
			end := l.X + l.Line.Ink.X1*hours.Size(l)
			if right > 0 && (end < right-0.1 || end > right+0.1) {
				t.Errorf("%s: %q ends at %.1f, another at %.1f", id, l.Line.Text, end, right)
			}
			right = end
		}
		rules := 0
		for _, p := range r.Scene.Parts {
			if p.Slot != "rule" || p.Box.Y < hours.Box.Y || p.Box.Y > hours.Box.Bottom() {
				continue
			}
			rules++
			for _, l := range hours.Lines {
				if ink := l.Line.Ink.Scale(hours.Size(l)).Shift(l.X, l.Y); p.Box.Y < ink.Y1 && p.Box.Bottom() > ink.Y0 {
					t.Errorf("%s: a rule at %.0f goes through %q", id, p.Box.Y, l.Line.Text)
				}
			}
		}
		if rules != 2 {
			t.Errorf("%s: %d rules between three rows", id, rules)
		}
	}
}

// TestThePictureComesFirst: behind the scenes it is the picture that is looked at. Wherever a
// layout splits a piece between a picture and words the picture has the larger part, and the
// headline is a caption.
func TestThePictureComesFirst(t *testing.T) {
	words := map[string]string{"headline": "Four in the morning, and the first tray is out", "subheading": "Nineteen years of it", "website": "larkmoor.example"}
	for _, id := range []string{"feed-square", "feed-tall", "story", "feed-wide"} {
		for _, l := range layouts.All() {
			if splitInTwo(l.Tree(mustFind(t, id).Class())) {
				in := input(t, l, id, words)
				in.Purpose = "behind the scenes"
				r := layout.Solve(in)
				share := 0.0
				for _, p := range r.Scene.Parts {
					if p.Kind == scene.KindPicture {
						share += p.Box.W * p.Box.H / float64(r.Scene.W*r.Scene.H)
					}
				}
				if share < 0.5 {
					t.Errorf("%s on %s: the picture has %.0f%%", l.ID, id, 100*share)
				}
			}
		}
	}
}

// splitInTwo reports whether a tree is a cell of a picture alone beside one of words.
func splitInTwo(n *layout.Node) bool {
	if len(n.Cells) != 2 {
		return false
	}
	pictures := 0
	for _, c := range n.Cells {
		if c.Cell == nil {
			return false
		}
		if c.Cell.Picture == 1 && c.Cell.Content == nil {
			pictures++
		}
	}
	return pictures == 1
}

func mustFind(t *testing.T, id string) spec.Placement {
	t.Helper()
	p, err := spec.Parse(id)
	if err != nil {
		t.Fatal(err)
	}
	return p
}

// TestAPictureGivesWayToWhatAPurposeLivesOn: a picture that may be there goes sooner than the
// answers to a question.
func TestAPictureGivesWayToWhatAPurposeLivesOn(t *testing.T) {
	words := map[string]string{"headline": "How do you take your first cup of the day, and who makes it?", "lines": "Black, standing up\nWith milk, sitting down\nNot before ten\nTea, thank you"}
	for _, id := range []string{"video-thumbnail", "ad-300x250"} {
		in := input(t, byID(t, "ballot"), id, words)
		in.Purpose, in.Signature = "question", "logo"
		if r := layout.Solve(in); part(r, "lines") == nil || len(r.Shortened) > 0 {
			t.Errorf("%s: left out %v, shortened %v", id, r.Dropped, r.Shortened)
		}
	}
}
