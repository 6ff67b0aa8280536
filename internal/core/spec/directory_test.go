package spec_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"aspenridge/internal/core/spec"
)

// An inch is 25.4 mm (international yard and pound agreement, 1959); A4 is
// 210 x 297 mm (ISO 216), at 300 dpi 2480 x 3508 px.
func TestSizesPeopleType(t *testing.T) {
	for text, want := range map[string][2]int{
		"1200x628": {1200, 628}, "1200 × 628": {1200, 628}, "1200 by 628 px": {1200, 628},
		"210 x 297 mm at 300 dpi": {2480, 3508}, "21 x 29,7 cm": {2480, 3508}, "4x6 in @ 100 dpi": {400, 600}, `4"x6" at 72dpi`: {288, 432},
		"10 x 15 cm at 300 dpi": {1181, 1772}, "2.54cm x 2.54cm 96 dpi": {96, 96},
		// ISO 216: A5 is 148 x 210 mm; letter is 8.5 x 11 in
		"A5": {1748, 2480}, "a4 landscape": {3508, 2480}, "Letter at 100 dpi": {850, 1100}, "business card": {1004, 650}, "card portrait": {650, 1004},
	} {
		w, h, err := spec.ParseSize(text)
		if err != nil || [2]int{w, h} != want {
			t.Errorf("%q is %d × %d, want %v (%v)", text, w, h, want, err)
		}
	}
	for _, text := range []string{"", "0x0", "1x1", "30000x200", "200x30000", "1200", "1200x", "axb", "-5x200", "10 x 15 km", "10 x 15 cm at 5 dpi", "99999999999x3", "A9", "A4 sideways", "A4 at 5 dpi"} {
		if w, h, err := spec.ParseSize(text); err == nil {
			t.Errorf("%q was taken as %d × %d", text, w, h)
		}
	}
}

func TestPlacesAreFoundByWords(t *testing.T) {
	ids := func(q string) string {
		var out []string
		for _, c := range spec.Directory(spec.Catalogue()).Search(q) {
			for _, p := range c.Placements {
				out = append(out, p.ID)
			}
		}
		slices.Sort(out)
		return strings.Join(out, " ")
	}
	for q, want := range map[string]string{
		"story": "story video-tall", "banner 300": "ad-300x50 shop-banner", "3:2": "email-hero", "2:3": "board-tall", "1200x628": "feed-wide", "skyscr": "ad-160x600", "circle": "profile-picture", "no such place": "",
	} {
		got := ids(q)
		if q == "story" || q == "banner 300" { // at least
			for _, id := range strings.Fields(want)[:1] {
				if !slices.Contains(strings.Fields(got), id) {
					t.Errorf("%q finds %q, want %s among it", q, got, id)
				}
			}
			continue
		}
		if got != want {
			t.Errorf("%q finds %q, want %q", q, got, want)
		}
	}
	if len(strings.Fields(ids(""))) < 30 {
		t.Error("an empty query does not find all")
	}
}

func TestChannelsOfOnesOwnAreChecked(t *testing.T) {
	one := func(place string) string {
		return `{"channels":[{"id":"board","name":"Notice board","placements":[` + place + `]}]}`
	}
	good, err := spec.ParseChannels([]byte(one(`{"id":"card","width":600,"height":800,"safe":[0,0,100,0],"keepOut":[[500,0,100,60]],"seen":[150,300]}`)))
	if err != nil {
		t.Fatal(err)
	}
	p := good[0].Placements[0]
	if p.Kind != "image" || p.Name != "600 × 800" || p.Seen[0] != 300 || p.Channel != "board" || len(p.Formats) == 0 {
		t.Errorf("%+v", p)
	}
	for doc, says := range map[string]string{
		`{"channels":`: "channels",
		one(`{"id":"card","width":0,"height":800}`):                                                                 "Notice board, first place: width is missing",
		one(`{"id":"card","width":30000,"height":800}`):                                                             "width is 30000 px",
		one(`{"id":"card","width":600,"height":800,"safe":[700,0,200,0]}`):                                          "safe insets 700 0 200 0",
		one(`{"id":"card","width":600,"height":800,"keepOut":[[0,0,600,800]]}`):                                     "covered, first box",
		one(`{"id":"card","width":600,"height":800,"keepOut":[[0,0,900,80]]}`):                                      "inside the piece",
		one(`{"id":"card","width":600,"height":800,"formats":["bmp"]}`):                                             `"bmp"`,
		one(`{"id":"card","width":600,"height":800,"needs":["love"]}`):                                              `"love"`,
		one(`{"id":"card","width":600,"height":800,"seen":[2]}`):                                                    "seen",
		one(`{"id":"card","width":600,"height":800,"maxBytes":5}`):                                                  "at most, kB",
		one(`{"id":"feed-square","width":600,"height":800}`):                                                        "there twice",
		one(`{"id":"a b","width":600,"height":800}`):                                                                "small letters",
		one(`{"id":"card","width":600,"height":800},{"id":"card","width":600,"height":800}`):                        "there twice",
		`{"channels":[{"id":"board","name":"A","placements":[]},{"id":"board","name":"B","placements":[]}]}`:        "there twice",
		`{"channels":[{"id":"video","name":"A","placements":[]}]}`:                                                  "there twice",
		one(`{"id":"card","name":"Card","width":"wide","height":800}`):                                              "Notice board, first place (Card): width is a string, want a number",
		one(`{"id":"card","width":600,"height":800},{"id":"card-2","width":600}`):                                   "Notice board, second place: height is missing",
		`{"channels":[{"id":"board","name":"","placements":[]}]}`:                                                   "1 to 80",
		`{"channels":[` + strings.Repeat(`{"id":"a","name":"A","placements":[]},`, 100) + `{"id":"b","name":"B"}]}`: "at most 100",
		fmt.Sprintf(`{"channels":[{"id":"board","name":%q,"placements":[]}]}`, strings.Repeat("long ", 30)):         "1 to 80",
	} {
		if _, err := spec.ParseChannels([]byte(doc)); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%.90s: %v, want %q", doc, err, says)
		}
	}
}

func FuzzParseChannels(f *testing.F) {
	f.Add([]byte(`{"channels":[{"id":"board","name":"B","placements":[{"id":"card","width":600,"height":800,"safe":[1,2,3,4],"keepIn":[0,0,5,5]}]}]}`))
	f.Fuzz(func(t *testing.T, data []byte) {
		channels, err := spec.ParseChannels(data)
		if err != nil {
			return
		}
		for _, c := range channels {
			for _, p := range c.Placements {
				if b := p.SafeBox(); b.Empty() || !p.Canvas().Contains(b, 0.01) {
					t.Errorf("%+v has the safe box %v", p, b)
				}
			}
		}
	})
}
