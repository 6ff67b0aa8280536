package brand

import (
	"testing"

	"aspenridge/internal/core/edit"
)

// FuzzInherit reads any document as a kit, alone and as the parent of itself.
func FuzzInherit(f *testing.F) {
	for _, s := range []string{
		`{"$extensions":{"aspenridge":{"formatVersion":1,"name":"x"}}}`,
		`{"$extensions":{"aspenridge":{"formatVersion":1,"name":"x","logos":[{"file":"a"}],"motion":{"mark":{"at":[9,9]}},"colourways":[{}],"without":["/color"]}},"color":{"m":{"$type":"color","a":{"$value":"#123"}}},"type":{"headline":{"$value":{"fontSize":"1e9px"}}},"typeSets":{"x":{}}}`,
	} {
		f.Add([]byte(s))
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		doc, err := edit.ParseObject(data)
		if err != nil || Own(doc) == nil {
			return
		}
		if k, err := Parse(doc); err == nil {
			k.Colours()
			k.Neutrals()
			_, _, _ = k.GPL(), k.CSS(), k.Swatches()
			if _, err := ParseJoined(Inherit(doc, doc)); err != nil {
				t.Errorf("it reads alone and not with itself above: %v", err)
			}
		}
	})
}

// FuzzReadColours reads any text as colours.
func FuzzReadColours(f *testing.F) {
	for _, s := range []string{"#123\nRiver #0f3d4c", "GIMP Palette\nName: x\n#\n1 2 3 a\n", ":root{--a:#123;}", `{"a":{"$type":"color","$value":"#123456"}}`, "hsl(400 1e9% -5%)", "rgb(1,2)"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		if list, err := ReadColours(text); err == nil && len(list) > MaxAllColours {
			t.Errorf("%d colours", len(list))
		}
	})
}

// FuzzFolded: a text taken in twice is taken in once, and a word the voice never says is found
// however its letters are parted by what is not seen.
func FuzzFolded(f *testing.F) {
	for _, s := range []string{"EXTREME", "ex\u00adtreme", "ｅｘｔｒｅｍｅ", "Straße", "ﬁt", "e\u0301\u034f", "  a\tb\n", "İ", "\u3164"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		once := Folded(s)
		if again := Folded(once); again != once {
			t.Errorf("%q becomes %q, and that %q", s, once, again)
		}
		if (Voice{NeverSays: []string{"extreme"}}).NeverSaid(" ex\u200btr\u00ademe "+s) == nil {
			t.Errorf("beside %q it is not found", s)
		}
	})
}
