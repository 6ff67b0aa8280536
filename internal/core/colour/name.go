package colour

import (
	_ "embed"
	"math"
	"strings"
	"sync"
)

//go:embed plainnames.txt
var plainNames string

// surveyed are the names people gave to colours, least used first.
var surveyed = sync.OnceValue(func() []plainName {
	var out []plainName
	for line := range strings.Lines(plainNames) {
		hex, name, ok := strings.Cut(strings.TrimSpace(line), " ")
		if !ok || hex == "#" {
			continue
		}
		c, err := Parse(hex)
		if err != nil {
			panic("plainnames.txt: " + err.Error()) // embedded; a test reads it
		}
		out = append(out, plainName{name, c.Lab()})
	}
	return out
})

type plainName struct {
	name string
	lab  Lab
}

// cssWords are the names of CSS Color 4 that are everyday words for what they
// name, as they are written in prose.
var cssWords = sync.OnceValue(func() []plainName {
	var out []plainName
	for _, word := range strings.Split("black,white,grey,silver,red,maroon,crimson,tomato,coral,salmon,orange,gold,yellow,khaki,beige,ivory,tan,chocolate,sienna,brown,olive,green,dark green,forest green,sea green,teal,turquoise,aquamarine,sky blue,steel blue,royal blue,navy,midnight blue,dark blue,blue,indigo,purple,plum,orchid,violet,lavender,magenta,hot pink,pink", ",") {
		out = append(out, plainName{word, named[strings.ReplaceAll(word, " ", "")].Lab()})
	}
	return out
})

// How far off, in CIEDE2000, a name of CSS may be and still be the one people
// would say, and how much farther than the nearest a more common name of the
// survey. Tuned on the CSS names (name_test.go): with more, beige is off white.
const (
	nearWord = 3
	commoner = 1
)

// PlainName says a colour in everyday words, "dark teal", "tan", for a palette
// nobody has named yet: a word of CSS that is very near, else of the names of a
// public survey the most common one about as near as the nearest.
func PlainName(c RGB) string {
	lab := c.Lab()
	if name, apart := nearestName(cssWords(), lab, 0); apart <= nearWord {
		return name
	}
	name, _ := nearestName(surveyed(), lab, commoner)
	return name
}

// nearestName is the last of some names that is within a slack of the nearest,
// and how far off the nearest is.
func nearestName(list []plainName, lab Lab, slack float64) (name string, least float64) {
	apart := make([]float64, len(list))
	least = math.Inf(1)
	for i, n := range list {
		apart[i] = lab.DeltaE(n.lab)
		least = math.Min(least, apart[i])
	}
	for i, n := range list {
		if apart[i] <= least+slack {
			name = n.name
		}
	}
	return name, least
}
