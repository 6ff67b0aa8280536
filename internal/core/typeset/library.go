package typeset

import (
	"fmt"
	"sort"
	"strings"
	"sync"
)

// Entry describes a face of a [Library] before its file is read.
type Entry struct {
	Family string
	Weight int
	Italic bool
	Read   func() ([]byte, error)
	Ships  bool // it is one of ours; a face of people is watched while it is used
}

// Library finds faces by family. The zero value is empty and usable. Faces are
// read on first use. Safe for concurrent use.
type Library struct {
	parent   *Library
	families map[string][]*member // by key
	spelt    map[string]string    // keys by the names that were entered
}

type member struct {
	Entry
	once sync.Once
	face *Face
	err  error
}

// NewLibrary makes a library of entries on top of a parent (which may be nil);
// a family of its own hides one of the same name in the parent.
func NewLibrary(parent *Library, entries ...Entry) *Library {
	l := &Library{parent: parent, families: map[string][]*member{}, spelt: map[string]string{}}
	for _, e := range entries {
		key := familyKey(e.Family)
		l.spelt[e.Family] = key
		l.families[key] = append(l.families[key], &member{Entry: e})
	}
	return l
}

// Own are the entries of the library that are not its parents'.
func (l *Library) Own() (out []Entry) {
	for _, list := range l.families {
		for _, m := range list {
			out = append(out, m.Entry)
		}
	}
	return out
}

func familyKey(s string) string { return strings.ToLower(strings.Join(strings.Fields(s), " ")) }

// Families lists the names in the library and its parents, sorted.
func (l *Library) Families() []string {
	seen := map[string]string{}
	for at := l; at != nil; at = at.parent {
		for key, m := range at.families {
			if _, ok := seen[key]; !ok {
				seen[key] = m[0].Family
			}
		}
	}
	out := make([]string, 0, len(seen))
	for _, name := range seen {
		out = append(out, name)
	}
	sort.Strings(out)
	return out
}

// Has reports whether the family is there.
func (l *Library) Has(family string) bool { return l.find(family) != nil }

func (l *Library) find(family string) []*member {
	key := ""
	for at := l; at != nil; at = at.parent {
		if m := at.families[at.spelt[family]]; m != nil { // as it was entered, which it nearly always is
			return m
		}
		if key == "" {
			key = familyKey(family)
		}
		if m := at.families[key]; m != nil {
			return m
		}
	}
	return nil
}

// Weights lists the upright weights of a family, ascending.
func (l *Library) Weights(family string) []int {
	var out []int
	for _, m := range l.find(family) {
		if !m.Italic {
			out = append(out, m.Weight)
		}
	}
	sort.Ints(out)
	return out
}

// Face finds the nearest face of a family by the CSS Fonts 4 rule for weights
// (section 5.2); a style that is missing falls back to the other.
func (l *Library) Face(family string, weight int, italic bool) (*Face, error) {
	members := l.find(family)
	if members == nil {
		return nil, fmt.Errorf("font family %q is neither in the kit nor shipped", family)
	}
	best := members[0]
	for _, m := range members[1:] {
		if rank(m.Entry, weight, italic) < rank(best.Entry, weight, italic) {
			best = m
		}
	}
	best.once.Do(func() {
		var data []byte
		if data, best.err = best.Read(); best.err == nil {
			if best.face, best.err = ParseFace(data); best.err == nil && !best.Ships {
				best.face.Watched()
			}
		}
	})
	if best.err != nil {
		return nil, fmt.Errorf("font family %q: %w", family, best.err)
	}
	return best.face, nil
}

// rank orders candidates, smaller is nearer: style first, then CSS weight
// matching: 400-500 looks up to 500, then down, then up; lighter looks down
// first, heavier up first.
func rank(e Entry, want int, italic bool) int {
	r := 0
	if e.Italic != italic {
		r += 100000
	}
	d := e.Weight - want
	switch {
	case d == 0:
	case want >= 400 && want <= 500 && d > 0 && e.Weight <= 500:
		r += d
	case (want <= 500 && d < 0) || (want > 500 && d > 0):
		r += 1000 + abs(d)
	default:
		r += 3000 + abs(d)
	}
	return r
}

func abs(v int) int {
	if v < 0 {
		return -v
	}
	return v
}
