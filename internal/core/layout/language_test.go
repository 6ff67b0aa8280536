package layout_test

import (
	"math"
	"strings"
	"testing"

	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/scene"
	"aspenridge/layouts"
)

// lineEnds are the last letters of the lines of a slot that end inside a word.
func lineEnds(p scene.Part) (inside, hyphens int) {
	runes := []rune(p.Text)
	for i, l := range p.Lines[:max(0, len(p.Lines)-1)] {
		next := p.Lines[i+1].From
		if next > 0 && next < len(runes) && runes[next-1] != ' ' && runes[next-1] != '-' {
			inside++
			if strings.HasSuffix(l.Line.Text, "-") {
				hyphens++
			}
		}
	}
	return inside, hyphens
}

// TestLongWordsAreDivided: a German compound that would not fit, or only small, is
// divided with a hyphen at its joints; nothing is left out for it that another
// headline would leave in, and a headline of short words is never divided.
func TestLongWordsAreDivided(t *testing.T) {
	divided, dropped, kept := 0, 0, 0
	for _, l := range layouts.All() {
		for _, place := range []string{"feed-square", "feed-tall", "ad-160x600", "ad-300x250"} {
			solve := func(headline string) layout.Result {
				in := input(t, l, place, map[string]string{"headline": headline, "subheading": "Jeden Donnerstag frisch", "callToAction": "Vorbestellen"})
				in.Language = "de"
				return layout.Solve(in)
			}
			r := solve("Sauerteigbrot mit Roggenschrotvorteig")
			h, ok := partOf(r, "headline")
			if !ok {
				t.Fatalf("%s on %s: no headline", l.ID, place)
			}
			inside, hyphens := lineEnds(h)
			if inside != hyphens {
				t.Errorf("%s on %s: %d words broken, %d with a hyphen", l.ID, place, inside, hyphens)
			}
			divided += hyphens
			dropped += len(r.Dropped)
			plain := solve("Brot mit viel Roggen drin")
			kept += len(plain.Dropped)
			if p, _ := partOf(plain, "headline"); strings.Contains(p.Text, "Brot") {
				if n, _ := lineEnds(p); n > 0 {
					t.Errorf("%s on %s: short words are divided", l.ID, place)
				}
			}
		}
	}
	if divided < 10 {
		t.Errorf("%d words divided over all layouts", divided)
	}
	if dropped > kept+kept/4 {
		t.Errorf("with long words %d parts are left out, with short ones %d", dropped, kept)
	}
}

// TestFromRightToLeft: a piece whose headline reads from the right is set to the right
// throughout, Latin words too, and its row of logo and button is turned round.
func TestFromRightToLeft(t *testing.T) {
	for _, id := range []string{"poster", "halves", "bare", "shoreline", "margin"} {
		for _, place := range []string{"feed-square", "feed-wide"} {
			in := input(t, byID(t, id), place, map[string]string{"headline": "أمسية شعر", "subheading": "الخميس القادم", "callToAction": "احجز", "website": "dar.example"})
			r := layout.Solve(in)
			h, _ := partOf(r, "headline")
			w, ok := partOf(r, "website")
			if !ok || w.Moved != nil { // or it reads upwards along a side
				continue
			}
			end := w.Box.Right()
			if b, ok := partOf(r, "button"); ok && b.Box.Y < w.Box.Bottom() && w.Box.Y < b.Box.Bottom() { // on one line
				end = math.Max(end, b.Box.Right())
			}
			if math.Abs(h.Box.Right()-end) > 3 {
				t.Errorf("%s on %s: the headline ends at %.0f, the line of the address at %.0f", id, place, h.Box.Right(), end)
			}
		}
	}
	in := input(t, byID(t, "frame"), "feed-tall", map[string]string{"headline": "أمسية شعر", "callToAction": "احجز", "businessName": "Dar"})
	in.Signature = "logo"
	r := layout.Solve(in)
	name, _ := partOf(r, "businessName")
	button, _ := partOf(r, "button")
	if button.Box.X > name.Box.X {
		t.Errorf("the button stands at %.0f, the name before it at %.0f", button.Box.X, name.Box.X)
	}
}

// A layout read from right to left is the same layout in a mirror: a picture on the right
// stands about as far from the left edge, and a card beside it likewise.
func TestSplitsAreMirrored(t *testing.T) {
	for id, slot := range map[string]string{"halves": "picture", "slant": "picture", "shoreline": "picture", "note": "card"} {
		at := func(headline string) (from, to float64) {
			in := input(t, byID(t, id), "feed-wide", map[string]string{"headline": headline, "callToAction": "+"})
			r := layout.Solve(in)
			p, ok := partOf(r, slot)
			if !ok {
				t.Fatalf("%s shows no %s", id, slot)
			}
			w := float64(r.Scene.W)
			return p.Box.X / w, p.Box.Right() / w
		}
		from, to := at("Aaa bb")
		back, front := at("أمسية شعر")
		if math.Abs((from+to)/2-0.5) < 0.1 {
			t.Fatalf("%s: the %s is in the middle and proves nothing", id, slot)
		}
		if math.Abs((from+to)/2-(1-(back+front)/2)) > 0.08 {
			t.Errorf("%s: from %.2f to %.2f, and from right to left from %.2f to %.2f", id, from, to, back, front)
		}
	}
}
