package spec

import "testing"

func TestCatalogueIsSound(t *testing.T) {
	seen := map[string]bool{}
	n := 0
	for _, c := range Catalogue() {
		for _, p := range c.Placements {
			n++
			if seen[p.ID] {
				t.Errorf("%s stands twice", p.ID)
			}
			seen[p.ID] = true
			if p.SafeBox().Empty() || !p.Canvas().Contains(p.SafeBox(), 0) {
				t.Errorf("%s: safe box %+v", p.ID, p.SafeBox())
			}
			for _, k := range p.KeepOuts() {
				if !p.Canvas().Contains(k, 0) {
					t.Errorf("%s: keepOut %+v is outside", p.ID, k)
				}
			}
			for i, s := range p.Seen {
				if s <= 0 || (i > 0 && s > p.Seen[i-1]) {
					t.Errorf("%s: seen %v, want largest first", p.ID, p.Seen)
				}
			}
			if len(p.Formats) == 0 || p.Name == "" {
				t.Errorf("%s lacks formats or a name", p.ID)
			}
		}
	}
	if n != 38 {
		t.Errorf("%d placements, want 38", n)
	}
}

// The trade's common sizes and the classes that follow (common practice).
func TestClasses(t *testing.T) {
	for id, want := range map[string]Class{
		"feed-square": Square, "feed-tall": Tall, "story": Tall, "shop-banner": Ribbon, "ad-728x90": Ribbon,
		"ad-160x600": Tower, "channel-header": Ribbon, "video-thumbnail": Wide, "profile-picture": Square,
		"board-tall": Tall, "ad-300x250": Wide, "ad-300x600": Tower,
	} {
		p, ok := Find(id)
		if !ok || p.Class() != want {
			t.Errorf("%s is %s, want %s", id, p.Class(), want)
		}
	}
	for _, id := range []string{"ad-320x50", "shop-icon", "ad-120x60"} {
		if p, _ := Find(id); !p.Tiny() {
			t.Errorf("%s is tiny", id)
		}
	}
	if p, _ := Find("feed-square"); p.Tiny() {
		t.Error("a square post is not tiny")
	}
}

// The published safe centre of the channel header is 1546x423.
func TestChannelHeaderSafeCentre(t *testing.T) {
	p, _ := Find("channel-header")
	if b := p.SafeBox(); b.W != 1546 || b.H != 423 {
		t.Errorf("safe box %+v", b)
	}
}

func TestParseCustomSizes(t *testing.T) {
	if p, err := Parse("1200x628"); err != nil || p.Width != 1200 || p.Height != 628 {
		t.Errorf("%+v, %v", p, err)
	}
	if p, _ := Parse("640x480"); p.Icon {
		t.Error("a size of one's own carries a message, it is no icon")
	}
	for _, s := range []string{"", "0x10", "30000x10", "12x", "ax5", "100x100x100", "1e3x50"} {
		if _, err := Parse(s); err == nil {
			t.Errorf("%q was taken", s)
		}
	}
}

// Another try at a piece has the place of the piece, and an id of its own.
func TestVariantsOfPlaces(t *testing.T) {
	for id, first := range map[string]string{"story~b": "story", "1200x628~f": "1200x628", "feed-square+3~c": "feed-square+3"} {
		p, err := Parse(id)
		q, _ := Parse(first)
		if err != nil || p.ID != id || p.First() != first || p.Width != q.Width || p.Channel != q.Channel || p.Card != q.Card || p.Name == q.Name {
			t.Errorf("%s: %+v, %v", id, p, err)
		}
	}
	for _, s := range []string{"story~", "story~a", "story~bb", "story~b~c", "~b", "story~b+2"} {
		if _, err := Parse(s); err == nil {
			t.Errorf("%q was taken", s)
		}
	}
}
