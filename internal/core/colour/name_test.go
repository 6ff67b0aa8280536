package colour

import (
	"slices"
	"strings"
	"testing"
)

// Names people expect, and the plain word a name of the CSS list holds must
// not become another hue's: CSS Color 4, section 6.1, "Named Colors".
func TestPlainNames(t *testing.T) {
	for hex, want := range map[string]string{
		"#D2B48C": "tan", "#FFA500": "orange", "#006400": "dark green", "#008080": "teal", "#FFFFFF": "white",
		"#000000": "black", "#000080": "navy", "#808080": "grey", "#F5F5DC": "beige", "#800000": "maroon",
		"#FFC0CB": "pink", "#40E0D0": "turquoise", "#FA8072": "salmon", "#FF0000": "red", "#0000FF": "blue",
	} {
		c, err := Parse(hex)
		if err != nil {
			t.Fatal(err)
		}
		if got := PlainName(c); !strings.Contains(got, want) {
			t.Errorf("%s is called %q, want %q", hex, got, want)
		}
	}
	// words that name one hue: a colour CSS calls by one must not get another
	hues := []string{"red", "orange", "yellow", "green", "blue", "purple", "pink", "brown", "grey"}
	apart := map[string]map[string]bool{}
	for _, pair := range [][2]string{{"red", "green"}, {"red", "blue"}, {"orange", "blue"}, {"orange", "green"}, {"yellow", "purple"}, {"yellow", "pink"}, {"yellow", "blue"}, {"green", "pink"}, {"green", "purple"}, {"blue", "brown"}, {"blue", "pink"}, {"grey", "red"}, {"grey", "orange"}, {"grey", "yellow"}} {
		for i := range pair {
			if apart[pair[i]] == nil {
				apart[pair[i]] = map[string]bool{}
			}
			apart[pair[i]][pair[1-i]] = true
		}
	}
	checked := 0
	for name, c := range named {
		got := PlainName(c)
		for _, hue := range hues {
			if !strings.HasSuffix(strings.ReplaceAll(name, "gray", "grey"), hue) {
				continue
			}
			checked++
			for _, other := range strings.Fields(got) {
				if apart[hue][other] {
					t.Errorf("CSS calls %s %s, it is called %q", c.Hex(), name, got)
				}
			}
		}
	}
	if checked < 50 {
		t.Errorf("only %d names were compared", checked)
	}
}

// Every name of the lists is a colour's, and one that is asked for comes back as
// it is or as one hardly to be told from it.
func TestNamesComeBack(t *testing.T) {
	if n := len(surveyed()); n < 500 {
		t.Errorf("%d names", n)
	}
	of := map[string][]Lab{} // some are on both lists
	for _, n := range append(surveyed(), cssWords()...) {
		of[n.name] = append(of[n.name], n.lab)
	}
	for line := range strings.Lines(plainNames) {
		hex, name, _ := strings.Cut(strings.TrimSpace(line), " ")
		if hex == "#" {
			continue
		}
		c, err := Parse(hex)
		if err != nil {
			t.Fatal(err)
		}
		got := PlainName(c)
		if !slices.ContainsFunc(of[got], func(l Lab) bool { return l.DeltaE(c.Lab()) <= nearWord }) {
			t.Errorf("%s (%s) is called %s, which is far away", hex, name, got)
		}
	}
}

// The notations of CSS Color 4 and 5, by the values of their examples and of the
// web platform tests for them ("green" in every space).
func TestNotationsOfCSS(t *testing.T) {
	for text, want := range map[string]string{
		"lab(46.2775% -47.5621 48.5837)": "#008000",
		"lch(46.2775% 67.9892 134.3912)": "#008000",
		"oklab(51.975% -0.1403 0.10768)": "#008000",
		"oklch(51.975% 0.17686 142.495)": "#008000",
		"lab(100 0 0)":                   "#FFFFFF",
		"device-cmyk(0 81% 81% 30%)":     "#B32222", // CSS Color 5: rgb(178 34 34), "firebrick"; 0.7 of 255 is 178.5
		"cmyk(100, 0, 0, 0)":             "#00FFFF",
		"cmyk(0 0 0 1)":                  "#000000",
	} {
		got, err := Parse(text)
		if err != nil || got.Hex() != want {
			t.Errorf("%s is %s (%v), want %s", text, got.Hex(), err, want)
		}
	}
	// as people write them, with a name beside them and without brackets
	for text, want := range map[string]string{
		"lab 46.2775 -47.5621 48.5837": "#008000", "CMYK 0 81 81 30": "#B32222", "Brick: CMYK 0, 81, 81, 30": "#B32222", "0 81 81 30": "#B32222",
		"Firebrick rgb 178 34 34": "#B22222", "hsl 0 68 42": "#B42222", "178 34 34": "#B22222",
	} {
		list, err := ParseList(text)
		if err != nil || len(list) != 1 || list[0].Colour.Hex() != want {
			t.Errorf("%q is %+v (%v), want %s", text, list, err, want)
			continue
		}
		if ink := strings.Contains(text, "81"); list[0].Naive != ink {
			t.Errorf("%q is a guess: %v", text, list[0].Naive)
		}
	}
	if _, err := Parse("lab(50 20 30 / 40%)"); err == nil {
		t.Error("a colour one sees through was taken")
	}
}

// What cannot be read of a list comes back with a reason; words are no colours.
func TestUnreadLinesComeBack(t *testing.T) {
	list, unread, err := ReadList("River #0F3D4C\nC100 M60 Y0 K20\nSignal Blue 512 C\nThe facade opens on 3 May\nlab(50 20 30 / 40%)\n\n")
	if err != nil {
		t.Fatal(err)
	}
	if len(list) != 2 || list[0].Name != "River" || list[1].Colour.Hex() != "#0052CC" || !list[1].Naive || list[0].Naive {
		t.Errorf("read %+v", list)
	}
	var lines []string
	for _, u := range unread {
		lines = append(lines, u.Line)
		if u.Why == "" {
			t.Errorf("%q comes back without a reason", u.Line)
		}
	}
	if strings.Join(lines, "|") != "Signal Blue 512 C|The facade opens on 3 May|lab(50 20 30 / 40%)" {
		t.Errorf("unread: %q", lines)
	}
}
