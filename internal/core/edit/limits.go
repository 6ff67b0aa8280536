package edit

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"
)

// Limit is how much may stand at a place in a document: characters of a text,
// members of a list or an object.
type Limit struct {
	Path string // a pattern of paths; "*" is any one part
	Most int
}

// Limits are the limits of a kind of document. What none names is held to the
// common ones.
type Limits []Limit

// The limits of what no [Limit] names.
const (
	MostText    = 20_000 // characters
	MostMembers = 5_000
	mostDepth   = 40
	mostName    = 200 // characters of a member's name
	mostBytes   = 2 << 20
)

// Check refuses a document in which something is larger than its limit, nested
// too deep, or not to be stored (a NUL character), naming the place.
func (l Limits) Check(doc *Object) error {
	data, err := Marshal(doc)
	if err != nil {
		return err
	}
	if len(data) > mostBytes {
		return fmt.Errorf("the document has %d kB: at most %d kB", len(data)/1000, mostBytes/1000)
	}
	return l.check(doc, nil)
}

func (l Limits) check(v any, at []string) error {
	if len(at) > mostDepth {
		return fmt.Errorf("%s: nested deeper than %d", shown(at), mostDepth)
	}
	switch v := v.(type) {
	case string:
		if strings.ContainsRune(v, 0) || !utf8.ValidString(v) {
			return fmt.Errorf("%s: it holds a character that is none (NUL, or broken UTF-8)", shown(at))
		}
		if n, most := utf8.RuneCountInString(v), l.most(at, MostText); n > most {
			return fmt.Errorf("%s has %d characters: at most %d", shown(at), n, most)
		}
	case []any:
		if n, most := len(v), l.most(at, MostMembers); n > most {
			return fmt.Errorf("%s has %d items: at most %d", shown(at), n, most)
		}
		for i, m := range v {
			if err := l.check(m, append(at, strconv.Itoa(i))); err != nil {
				return err
			}
		}
	case *Object:
		if n, most := len(v.keys), l.most(at, MostMembers); n > most {
			return fmt.Errorf("%s has %d members: at most %d", shown(at), n, most)
		}
		for _, k := range v.keys {
			if strings.ContainsRune(k, 0) || utf8.RuneCountInString(k) > mostName {
				return fmt.Errorf("%s: the name of a member has a NUL or more than %d characters", shown(at), mostName)
			}
			if err := l.check(v.values[k], append(at, k)); err != nil {
				return err
			}
		}
	}
	return nil
}

// Trim takes out of a document what is over a limit of members, last first, and
// says what it left out. It is for documents that are joined of several, each
// within its limits.
func (l Limits) Trim(doc *Object) (notes []string) {
	for _, limit := range l {
		l.trim(doc, strings.Split(limit.Path, "/")[1:], nil, limit.Most, &notes)
	}
	return notes
}

func (l Limits) trim(v any, rest, at []string, most int, notes *[]string) {
	o, isObject := v.(*Object)
	list, _ := v.([]any)
	if len(rest) == 0 {
		if isObject && len(o.keys) > most {
			*notes = append(*notes, fmt.Sprintf("%s holds %d of the %d it would take over", shown(at), most, len(o.keys)))
			for _, k := range slices.Clone(o.keys[most:]) {
				o.Delete(k)
			}
		}
		return
	}
	switch {
	case isObject:
		for _, k := range slices.Clone(o.keys) {
			if rest[0] != "*" && Escape(k) != rest[0] {
				continue
			}
			if m, ok := o.values[k].([]any); ok && len(rest) == 1 && len(m) > most {
				*notes = append(*notes, fmt.Sprintf("%s holds %d of the %d it would take over", shown(append(at, k)), most, len(m)))
				o.Set(k, m[:most:most])
				continue
			}
			l.trim(o.values[k], rest[1:], append(at, k), most, notes)
		}
	case rest[0] == "*":
		for i, m := range list {
			l.trim(m, rest[1:], append(at, strconv.Itoa(i)), most, notes)
		}
	}
}

// most is the limit at a place.
func (l Limits) most(at []string, otherwise int) int {
next:
	for _, limit := range l {
		parts := strings.Split(limit.Path, "/")[1:]
		if len(parts) != len(at) {
			continue
		}
		for i, p := range parts {
			if p != "*" && p != Escape(at[i]) {
				continue next
			}
		}
		return limit.Most
	}
	return otherwise
}

// shown writes a place as people read it: without the part that every place of
// ours begins with.
func shown(at []string) string {
	at = slices.DeleteFunc(slices.Clone(at), func(s string) bool { return s == "$extensions" || s == "aspenridge" })
	if len(at) == 0 {
		return "the document"
	}
	return strings.Join(at, ".")
}
