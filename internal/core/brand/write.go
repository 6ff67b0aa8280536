package brand

import (
	"encoding/json"
	"strings"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/typeset"
)

// ColourValue is a colour as a token's $value (DTCG colour module).
func ColourValue(c colour.RGB) *edit.Object {
	f := func(v uint8) any { return json.Number(typeset.Num(float64(v) / 255)) }
	return object("colorSpace", "srgb", "components", []any{f(c.R), f(c.G), f(c.B)}, "hex", strings.ToLower(c.Hex()))
}

// WriteStyle puts a level's style into its token; members of somebody else's
// stay. The token may be empty.
func WriteStyle(tok *edit.Object, s Style) {
	px := func(v float64) *edit.Object {
		return object("value", json.Number(typeset.Num(v)), "unit", "px")
	}
	tok.Set("$type", "typography")
	v := member(tok, "$value")
	v.Set("fontFamily", s.Family)
	v.Set("fontWeight", json.Number(typeset.Num(float64(s.Weight))))
	v.Set("fontSize", px(s.SizePx))
	v.Set("letterSpacing", px(s.Tracking*s.SizePx))
	v.Delete("lineHeight")
	if s.LineHeight > 0 {
		v.Set("lineHeight", json.Number(typeset.Num(s.LineHeight)))
	}
	small := ""
	if s.Small != nil {
		small = s.Small.Family
	}
	own := map[string]string{"case": "", "style": "", "role": string(s.Role), "smallFace": small}
	if s.Upper {
		own["case"] = "upper"
	}
	if s.Italic {
		own["style"] = "italic"
	}
	for _, key := range []string{"style", "case", "role", "smallFace"} {
		switch {
		case own[key] != "":
			member(member(tok, "$extensions"), extension).Set(key, own[key])
		case tok.Object("$extensions").Object(extension) != nil:
			tok.Object("$extensions").Object(extension).Delete(key)
		}
	}
}

// member is the object at key, made when it is not there.
func member(o *edit.Object, key string) *edit.Object {
	in := o.Object(key)
	if in == nil {
		in = edit.NewObject()
		o.Set(key, in)
	}
	return in
}

// object makes a document object of keys and values in order.
func object(pairs ...any) *edit.Object {
	o := edit.NewObject()
	for i := 0; i < len(pairs); i += 2 {
		o.Set(pairs[i].(string), pairs[i+1])
	}
	return o
}

// TypePath is where a type set stands in a kit document, as a JSON Pointer.
func TypePath(set string) string {
	if set == "" || set == "main" {
		return "/type"
	}
	return "/typeSets/" + edit.Escape(set)
}

// TypeSetGroup writes a whole type set as a group of tokens with a shown name.
func TypeSetGroup(t TypeSet, name string) *edit.Object {
	group := object("$extensions", object(extension, object("name", name)))
	for _, l := range Levels {
		tok := edit.NewObject()
		WriteStyle(tok, t.Levels[l])
		group.Set(string(l), tok)
	}
	return group
}
