// Package assets holds the files that ship inside the binary: the font library
// every kit can choose from, and the faces that lend missing glyphs.
package assets

import (
	"embed"
	"encoding/json"
	"fmt"
	"sync"

	"aspenridge/internal/core/typeset"
)

//go:embed fonts
var files embed.FS

// Family is a shipped font family as the type chooser shows it.
type Family struct {
	Family string   `json:"family"`
	Kind   string   `json:"kind"`  // sans, serif, slab, mono, script, fallback
	Words  []string `json:"words"` // its character in a few words
	Faces  []struct {
		Weight int    `json:"weight"`
		File   string `json:"file"`
	} `json:"faces"`
}

// Families lists what ships, in the order of the index; fallback families,
// which only lend glyphs, come last.
var Families = sync.OnceValue(func() []Family {
	data, err := files.ReadFile("fonts/index.json")
	if err != nil {
		panic(err) // embedded at build time
	}
	var out []Family
	if err := json.Unmarshal(data, &out); err != nil {
		panic(fmt.Errorf("assets/fonts/index.json: %w", err))
	}
	return out
})

// Font reads a shipped font file by its name in the index.
func Font(file string) ([]byte, error) { return files.ReadFile("fonts/" + file) }

// Library is every shipped family.
var Library = sync.OnceValue(func() *typeset.Library {
	var entries []typeset.Entry
	for _, f := range Families() {
		for _, face := range f.Faces {
			entries = append(entries, typeset.Entry{Ships: true,
				Family: f.Family, Weight: face.Weight,
				Read: func() ([]byte, error) { return Font(face.File) },
			})
		}
	}
	return typeset.NewLibrary(nil, entries...)
})

// Fallback lists the faces that lend glyphs a kit's font lacks, families in order.
var Fallback = sync.OnceValue(func() []*typeset.Face {
	var out []*typeset.Face
	for _, f := range Families() {
		if f.Kind != "fallback" || f.Family == emojiFamily {
			continue
		}
		for _, lent := range f.Faces {
			face, err := Library().Face(f.Family, lent.Weight, false)
			if err != nil {
				panic(err)
			}
			out = append(out, face)
		}
	}
	return out
})

const emojiFamily = "Noto Color Emoji"

// Emoji is the face signs in colour come from.
var Emoji = sync.OnceValue(func() *typeset.Face {
	face, err := Library().Face(emojiFamily, 400, false)
	if err != nil {
		panic(err) // embedded; a test reads it
	}
	return face.InColour()
})

// Shaper shapes with every face that lends glyphs, and signs in colour.
func Shaper() *typeset.Shaper { return typeset.NewShaper(Fallback()...).WithEmoji(Emoji) }

//go:embed icons.json
var icons []byte

// Icons are the shipped signs for facts by name: the inside of a 24 x 24
// drawing made of strokes 2 wide.
var Icons = sync.OnceValue(func() map[string]string {
	var out map[string]string
	if err := json.Unmarshal(icons, &out); err != nil {
		panic(fmt.Errorf("assets/icons.json: %w", err)) // embedded; a test reads it
	}
	return out
})

//go:embed palettes.json
var palettes []byte

// Palette is a starter palette of ours.
type Palette struct {
	Name    string `json:"name"`
	Mood    string `json:"mood"` // warm, fresh, quiet, deep, rich, plain, friendly, sharp, bold, gentle
	Colours []struct {
		Hex  string `json:"hex"`
		Role string `json:"role"`
	} `json:"colours"`
}

// Palettes lists the starter palettes.
var Palettes = sync.OnceValue(func() []Palette {
	var out []Palette
	if err := json.Unmarshal(palettes, &out); err != nil {
		panic(fmt.Errorf("assets/palettes.json: %w", err)) // embedded; a test reads it
	}
	return out
})

//go:embed examples.json
var examples []byte

// Example is a finished, filled brief to begin from; its copy is ours and is to
// be replaced.
type Example struct {
	ID      string          `json:"id"`
	Purpose string          `json:"purpose"`
	Name    string          `json:"name"`
	Layout  string          `json:"layout"` // id
	Words   []string        `json:"words"`  // to be found by
	Card    json.RawMessage `json:"card"`   // as in a brief
}

// Examples lists what ships.
var Examples = sync.OnceValue(func() []Example {
	var out []Example
	if err := json.Unmarshal(examples, &out); err != nil {
		panic(fmt.Errorf("assets/examples.json: %w", err)) // embedded; a test reads it
	}
	return out
})
