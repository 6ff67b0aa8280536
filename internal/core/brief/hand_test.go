package brief_test

import (
	"encoding/json"
	"strings"
	"testing"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/spec"
)

// Every property takes what it documents and refuses everything else by its name.
func TestValuesOfHandWorkAreChecked(t *testing.T) {
	good := map[string][]string{
		"offset": {`[0.1,-0.2]`, `[0,0]`}, "scale": {`0.5`, `1.25`}, "rotate": {`-90`, `12.5`}, "crop": {`[0,0,1,1]`, `"[0.1,0.1,0.5,0.5]"`},
		"hidden": {`true`}, "opacity": {`0.5`}, "order": {`-2`, `3`}, "fill": {`"color.main.river"`, `"#A0B1C2"`}, "flip": {`"across"`},
		"level": {`"caption"`}, "arrange": {`"row"`}, "family": {`"Karla"`}, "weight": {`600`}, "case": {`"upper"`}, "align": {`"end"`}, "tracking": {`-0.02`}, "leading": {`1.2`},
		"breaks": {`[2,4]`, `[{"after":2,"word":"water,"}]`}, "highlight": {`"#000"`}, "outline": {`{"fill":"#fff","width":0.1}`}, "shadow": {`{"fill":"#000","x":0.1,"y":0}`},
		"frame": {`"arch"`}, "border": {`{"fill":"color.a.b","width":0.02}`}, "text": {`"Anything"`}, "file": {`"a.png"`},
		"sides": {`[1.5,1]`}, "fit": {`"wide"`}, "moving": {`{"seconds":6}`, `{"seconds":4,"loop":true}`, `{"seconds":0}`},
		"dials": {`{"brightness":0.2,"saturation":-1}`}, "duotone": {`{"dark":"#000","light":"color.main.river"}`},
		"runs": {`[{"from":0,"to":2,"words":"Quiet water,","bold":true,"fill":"#fff"}]`, `[]`}, "locked": {`true`}, "group": {`"row"`}, "name": {`"Our promise"`}, "whole": {`[0.2,0.2,0.5,0.6]`}, "band": {`"#fff"`, `"color.main.river"`},
		"part": {`{"kind":"shape","name":"burst","at":[0.5,0.5],"size":[0.2,0.2]}`, `{"kind":"words","text":"New","level":"body","at":[0.5,0.5],"size":[0.4,0.1]}`, `{"kind":"facts","name":"clock","text":"One\nTwo","level":"body","at":[0.5,0.5],"size":[0.8,0.2]}`},
	}
	bad := map[string][]string{
		"offset": {`[1]`, `[1e9,0]`, `"left"`, `{"x":1}`}, "scale": {`0`, `-1`, `1e9`, `"50%"`, `null`, `"NaN"`}, "rotate": {`361`, `"12"`}, "whole": {`[0.5,0.5,0.6,0.1]`, `"face"`}, "crop": {`[0,0,2,2]`, `[0.9,0,0.5,0.5]`, `7`},
		"sides": {`[2]`, `[0,1]`, `[1,99]`}, "fit": {`"left"`, `true`}, "hidden": {`"yes"`}, "opacity": {`0`, `1.5`}, "order": {`1000`, `1.5`}, "fill": {`"red"`, `"#GG0000"`, `"color."`, `12`}, "flip": {`"sideways"`},
		"level": {`"h1"`}, "arrange": {`"pile"`}, "family": {`""`}, "weight": {`0`, `2000`}, "case": {`"lower"`}, "align": {`"left"`}, "tracking": {`3`}, "leading": {`0`},
		"breaks": {`[0]`, `[3,2]`, `[-1]`, `"2"`, `[1,2,3,4,5,6,7,8,9,10,11,12,13,14,15,16,17,18,19,20,21]`}, "outline": {`{"fill":"#fff","width":0}`, `{"width":0.1}`}, "shadow": {`{"fill":"#000","x":0,"y":0}`, `{"fill":"#000","x":9,"y":0}`},
		"frame": {`"star"`, `"icon:"`, `3`}, "band": {`"wide"`}, "name": {`""`, `7`, `"` + strings.Repeat("n", 201) + `"`}, "border": {`{"fill":"#fff","width":5}`},
		"moving": {`{"seconds":2}`, `{"seconds":99}`, `{"seconds":12,"loop":true}`, `{"seconds":3,"loop":true}`, `6`, `{"seconds":-1}`},
		"dials":  {`{"contrast":2}`, `"dark"`, `{"warmth":"hot"}`}, "duotone": {`{"dark":"#000"}`, `"grey"`},
		"runs": {`[{"from":2,"to":1}]`, `[{"from":0,"to":1,"scale":9}]`, `[{"from":0,"to":1,"fill":"red"}]`, `"bold"`}, "locked": {`"yes"`}, "group": {`""`, `7`},
		"part": {`{"kind":"script"}`, `{"kind":"facts","text":"1\n2\n3\n4\n5\n6\n7","level":"body","at":[0.5,0.5],"size":[0.8,0.2]}`, `{"kind":"pattern","name":"checks","at":[0.5,0.5],"size":[1,1]}`, `{"kind":"shape","name":"skull","at":[0.5,0.5],"size":[0.2,0.2]}`, `{"kind":"words","at":[0.5,0.5],"size":[0.2,0.2]}`, `{"kind":"icon","name":"x","at":[99,0],"size":[0.2,0.2]}`, `{"kind":"icon","name":"x","at":[0,0],"size":[0,0]}`},
	}
	for _, p := range brief.Properties {
		check := func(value string) error {
			return brief.Adjustment{Reach: "piece:story", Slot: "headline", Property: p.Name, Value: json.RawMessage(value)}.Check()
		}
		for _, v := range good[p.Name] {
			if err := check(v); err != nil {
				t.Errorf("%s %s: %v", p.Name, v, err)
			}
		}
		for _, v := range bad[p.Name] {
			if err := check(v); err == nil || !strings.Contains(err.Error(), p.Name) || !strings.Contains(err.Error(), "want") {
				t.Errorf("%s %s: %v, want an error that names it and says what is taken", p.Name, v, err)
			}
		}
		if p.Name != "layout" && p.Name != "seats" && len(good[p.Name]) == 0 {
			t.Errorf("%s is not tried", p.Name)
		}
		wide := brief.Adjustment{Reach: "set", Slot: "headline", Property: p.Name, Value: json.RawMessage(append(good[p.Name], `""`)[0])}
		if err := wide.Check(); (err == nil) != (p.Widest == brief.Anywhere) {
			t.Errorf("%s for the whole set: %v", p.Name, err)
		}
	}
}

func TestTheNarrowestHandWins(t *testing.T) {
	p, _ := spec.Find("story")
	value := func(s string) json.RawMessage { return json.RawMessage(s) }
	b := &brief.Brief{Adjustments: []brief.Adjustment{
		{Reach: "piece:story", Slot: "headline", Property: "fill", Value: value(`"#111111"`)},
		{Reach: "set", Slot: "headline", Property: "fill", Value: value(`"#222222"`)},
		{Reach: "set", Slot: "headline", Property: "opacity", Value: value(`0.4`)},
		{Reach: "class:" + string(p.Class()), Slot: "headline", Property: "opacity", Value: value(`0.6`)},
		{Reach: "piece:feed-square", Slot: "headline", Property: "rotate", Value: value(`9`)},
	}}
	h := b.Hands(p)["headline"]
	if h.Fill != "#111111" || h.Reach("fill") != "piece:story" || h.Opacity != 0.6 || h.Rotate != 0 {
		t.Errorf("on a story: %+v", h)
	}
	if got := len(h.Changed()); got != 2 {
		t.Errorf("%d properties are changed", got)
	}
	var none *brief.Hand
	if none.Reach("fill") != "" || len(none.Changed()) != 0 {
		t.Error("nothing was changed by hand, and something is said of it")
	}
}

// Lines ended by hand stay with their words when others come and go.
func TestBreaksStayWithTheirWords(t *testing.T) {
	hand := func(value string) *brief.Hand {
		p, _ := spec.Find("story")
		b := &brief.Brief{Adjustments: []brief.Adjustment{{Reach: "piece:story", Slot: "headline", Property: "breaks", Value: json.RawMessage(value)}}}
		return b.Hands(p)["headline"]
	}
	for _, c := range []struct {
		breaks, text, want string
		lost               int
	}{
		{`[2]`, "Quiet water, first strokes", "Quiet water,\nfirst strokes", 0},
		{`[1,3]`, "Quiet water, first strokes", "Quiet\nwater, first\nstrokes", 0},
		{`[{"after":2,"word":"water,"}]`, "Very quiet water, first strokes", "Very quiet water,\nfirst strokes", 0},
		{`[{"after":2,"word":"water,"}]`, "Quiet ponds, first strokes", "Quiet ponds, first strokes", 1},
		{`[{"after":2,"word":"the"}]`, "the one and the other and the rest", "the\none and the other and the rest", 0},
		{`[4]`, "Quiet water, first strokes", "Quiet water, first strokes", 1},
		{`[9]`, "Quiet water", "Quiet water", 1},
		{`[1]`, "", "", 1},
		{`[1]`, "  two  words ", "  two\n words ", 0},
	} {
		got, lost := hand(c.breaks).Broken(c.text)
		if got != c.want || lost != c.lost || len([]rune(got)) != len([]rune(c.text)) {
			t.Errorf("%q with %s: %q, %d lost; want %q, %d", c.text, c.breaks, got, lost, c.want, c.lost)
		}
	}
}
