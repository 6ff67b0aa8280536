package brand

import (
	"fmt"
	"slices"

	"aspenridge/internal/core/edit"
)

// MaxGenerations is how many kits may follow one another.
const MaxGenerations = 8

// itemLists are the lists of a kit whose items are inherited one by one, by the
// file they name.
var itemLists = []string{"logos", "fonts", "pictures"}

// Inherit is a kit document as it stands with its parent's (which has its own
// parents in it already): objects are joined member by member, what the kit says
// itself counts, lists of files hold the kit's own items and then the parent's.
// What $extensions.aspenridge.without names, as JSON Pointers, is not taken
// over. The name and the parent's own standing are never inherited. Neither
// document is changed.
func Inherit(parent, own *edit.Object) *edit.Object {
	mine := Own(own)
	base := clone(parent)
	theirs := Own(base)
	for _, key := range []string{"name", "parent", "without", "declinedColours", "guessedType"} {
		theirs.Delete(key)
	}
	for _, path := range Without(own) {
		_, _ = edit.Apply(base, edit.Op{Path: path}) // what is gone already is gone
	}
	gone := Without(own)
	merge(base, own)
	whole := Own(base)
	for _, name := range itemLists {
		list, _ := mine.Get(name).([]any)
		all := slices.Clone(list)
		inherited, _ := Own(parent).Get(name).([]any)
		for _, item := range inherited {
			o, ok := item.(*edit.Object)
			file, _ := o.Get("file").(string)
			if !ok || slices.Contains(gone, FilePath(name, file)) || slices.ContainsFunc(all, func(v any) bool { return fileOf(v) == file }) {
				continue
			}
			c := clone(o)
			if name == "logos" && slices.ContainsFunc(list, func(v any) bool { l, _ := v.(*edit.Object); return l.Get("lead") == true }) {
				c.Delete("lead") // the kit has one of its own
			}
			all = append(all, c)
		}
		if len(all) > 0 {
			whole.Set(name, all)
		}
	}
	return base
}

// Own is the part of a kit document that is ours alone.
func Own(doc *edit.Object) *edit.Object { return doc.Object("$extensions").Object(extension) }

// Parent is the kit a kit document follows, "" for none.
func Parent(doc *edit.Object) string { s, _ := Own(doc).Get("parent").(string); return s }

// Without lists what a kit does not take over from its parent.
func Without(doc *edit.Object) []string {
	list, _ := Own(doc).Get("without").([]any)
	var out []string
	for _, v := range list {
		if s, ok := v.(string); ok {
			out = append(out, s)
		}
	}
	return out
}

// FilePath is how "without" names an item of a list of files.
func FilePath(list, file string) string {
	return fmt.Sprintf("/$extensions/%s/%s/%s", extension, list, edit.Escape(file))
}

func fileOf(v any) string {
	o, _ := v.(*edit.Object)
	s, _ := o.Get("file").(string)
	return s
}

// merge puts the members of from into into, objects within objects.
func merge(into, from *edit.Object) {
	for _, key := range from.Keys() {
		v := from.Get(key)
		if o, ok := v.(*edit.Object); ok {
			if have := into.Object(key); have != nil {
				merge(have, o)
				continue
			}
			v = clone(o)
		}
		into.Set(key, v)
	}
}

func clone(o *edit.Object) *edit.Object {
	out := edit.NewObject()
	for _, key := range o.Keys() {
		v := o.Get(key)
		if c, ok := v.(*edit.Object); ok {
			v = clone(c)
		}
		out.Set(key, v)
	}
	return out
}

// Origin is where an item of a kit with a parent comes from.
type Origin string

// The standings of an item.
const (
	OwnItem   Origin = ""          // the kit's own, and nobody else's
	Inherited Origin = "inherited" // the parent's as it is
	Overrides Origin = "overrides" // the parent's, changed here
)

// OriginOf tells where the item at a path of the joined document comes from.
func OriginOf(parent, own *edit.Object, path string) Origin {
	if parent == nil {
		return OwnItem
	}
	_, theirs := edit.Lookup(parent, path)
	_, mine := edit.Lookup(own, path)
	switch {
	case !theirs:
		return OwnItem
	case mine:
		return Overrides
	}
	return Inherited
}
