package brand_test

import (
	"encoding/xml"
	"errors"
	"strings"
	"testing"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
)

func wholeKit(t *testing.T) *brand.Kit {
	t.Helper()
	k, err := parse(t, `{"color":{"main":{"$type":"color","river":{"$value":{"hex":"#0f3d4c"},"$extensions":{"aspenridge":{"name":"River & \"bend\"","role":"lead"}}},"coral":{"$value":{"hex":"#f2694b"}},"2nd":{"$value":{"hex":"#f6ebd6"}}}},`+ext+`}`)
	if err != nil {
		t.Fatal(err)
	}
	return k
}

func values(list []brand.Colour) string {
	var out []string
	for _, c := range list {
		out = append(out, c.Name+" "+c.Value.Hex())
	}
	return strings.Join(out, ", ")
}

// TestWhatIsWrittenReadsBack: GPL and CSS out and in again.
func TestWhatIsWrittenReadsBack(t *testing.T) {
	k := wholeKit(t)
	got, err := brand.ReadColours(k.GPL())
	if err != nil || values(got) != `River & "bend" #0F3D4C, coral #F2694B, 2nd #F6EBD6` {
		t.Errorf("GPL: %s (%v)\n%s", values(got), err, k.GPL())
	}
	if got, err = brand.ReadColours(k.CSS()); err != nil || len(got) != 3 || got[0].Value != (colour.RGB{R: 15, G: 61, B: 76}) {
		t.Errorf("CSS: %s (%v)\n%s", values(got), err, k.CSS())
	}
	if err := xml.Unmarshal([]byte(k.Swatches()), new(struct{ XMLName xml.Name })); err != nil {
		t.Errorf("SVG: %v", err)
	}
}

func TestReadsPalettesOfOthers(t *testing.T) {
	for what, c := range map[string]struct{ text, want string }{
		"a GPL palette": {"GIMP Palette\nName: Market\nColumns: 3\n# made by hand\n122  46  58\tWine cap\n 38 67 47 Moss\n255 255 255\tUntitled\n", "Wine cap #7A2E3A, Moss #26432F,  #FFFFFF"},
		// the shape of the Design Tokens Community Group's group examples
		"tokens of somebody else": {`{"brand":{"$type":"color","primary":{"base":{"$value":"#7a2e3a"},"on":{"$value":"{brand.neutral}"}},"neutral":{"$value":{"colorSpace":"srgb","components":[1,1,1]}}},"space":{"$type":"dimension","s":{"$value":{"value":4,"unit":"px"}}}}`, "base #7A2E3A, neutral #FFFFFF"},
		"CSS":                     {":root {\n  --wine: #7a2e3a;\n  --moss: rgb(38 67 47);\n}", "wine #7A2E3A, moss #26432F"},
		"a style guide's lines":   {"Wine cap: #7A2E3A\nMoss 38 67 47", "Wine cap #7A2E3A, Moss #26432F"},
		"a byte order mark":       {"\ufeffWine #7A2E3A", "Wine #7A2E3A"},
	} {
		got, err := brand.ReadColours(c.text)
		if err != nil || values(got) != c.want {
			t.Errorf("%s: %s (%v)\nwant %s", what, values(got), err, c.want)
		}
	}
	for text, says := range map[string]string{
		"GIMP Palette\n12 300 4\tx\n":                         "line 2",
		"GIMP Palette\nhello\n":                               `"hello"`,
		"GIMP Palette\nName: x\n":                             "empty",
		`{"a":{"$type":"color","b":{"$value":{"hex":"#1"}}}}`: "token b",
		`{"a":1}`: "no tokens of type color",
		`{"a":`:   "no colours could be read",
		"nothing": "no colour found",
	} {
		if _, err := brand.ReadColours(text); !errors.Is(err, brand.ErrColours) || !strings.Contains(err.Error(), says) {
			t.Errorf("%q: %v, want %q", text, err, says)
		}
	}
}
