package brand_test

import (
	"testing"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/edit"
)

func document(t *testing.T, s string) *edit.Object {
	t.Helper()
	o, err := edit.ParseObject([]byte(s))
	if err != nil {
		t.Fatal(err)
	}
	return o
}

const parentKit = `{"color":{"main":{"$type":"color","river":{"$value":"#0F3D4C","$extensions":{"aspenridge":{"name":"River","role":"lead"}}},"coral":{"$value":"#F2694B"}}},
 "type":{"headline":{"$type":"typography","$value":{"fontFamily":"Gabarito","fontWeight":800}}},
 "$extensions":{"aspenridge":{"formatVersion":1,"name":"Larkmoor","tagline":"Read the river first","website":"larkmoor.example","logos":[{"file":"a.svg","lead":true},{"file":"b.svg"}],"voice":{"sounds":"calm","says":["river"]}}}}`

// TestAChildKitStoresOnlyWhatDiffers: members are joined, items handed back and
// left out, the parent's document stays as it was.
func TestAChildKitStoresOnlyWhatDiffers(t *testing.T) {
	parent := document(t, parentKit)
	child := document(t, `{"color":{"main":{"coral":{"$value":"#FFB347"}},"night":{"dusk":{"$value":"#1B1030"}}},
	 "$extensions":{"aspenridge":{"formatVersion":1,"name":"After Dark","parent":"x","without":["/color/main/river","/$extensions/aspenridge/logos/b.svg"],"logos":[{"file":"c.svg","lead":true}],"voice":{"sounds":"hushed"}}}}`)
	k, err := brand.Parse(brand.Inherit(parent, child))
	if err != nil {
		t.Fatal(err)
	}
	if k.Name != "After Dark" || k.Tagline != "Read the river first" || k.Voice.Sounds != "hushed" || len(k.Voice.Says) != 1 {
		t.Errorf("words: %+v", k)
	}
	if c, ok := k.Colour("main.coral"); !ok || c.Value.Hex() != "#FFB347" {
		t.Errorf("the overridden colour: %+v", c)
	}
	if _, ok := k.Colour("main.river"); ok {
		t.Error("a colour left out is there")
	}
	if _, ok := k.Colour("night.dusk"); !ok || k.TypeSets[0].Levels[brand.Headline].Family != "Gabarito" {
		t.Error("own palette and inherited type")
	}
	if len(k.Logos) != 2 || k.Logos[0].File != "c.svg" || k.Logos[1].File != "a.svg" || k.Logos[1].Lead {
		t.Errorf("logos: %+v", k.Logos)
	}
	for path, want := range map[string]brand.Origin{"/color/main/coral": brand.Overrides, "/type/headline": brand.Inherited, "/color/night/dusk": brand.OwnItem} {
		if got := brand.OriginOf(parent, child, path); got != want {
			t.Errorf("%s is %q, want %q", path, got, want)
		}
	}
	out, _ := edit.Marshal(parent)
	again, _ := edit.Marshal(document(t, parentKit))
	if string(out) != string(again) {
		t.Error("the parent's document was changed")
	}
}

// TestAPartialOverrideIsEnough: a child that only renames a colour says no value.
func TestAPartialOverrideIsEnough(t *testing.T) {
	child := document(t, `{"color":{"main":{"river":{"$extensions":{"aspenridge":{"name":"Night river"}}}}},"$extensions":{"aspenridge":{"formatVersion":1,"name":"B","parent":"x"}}}`)
	k, err := brand.Parse(brand.Inherit(document(t, parentKit), child))
	if err != nil {
		t.Fatal(err)
	}
	if c, _ := k.Colour("main.river"); c.Name != "Night river" || c.Value.Hex() != "#0F3D4C" || c.Role != brand.Lead {
		t.Errorf("%+v", c)
	}
}
