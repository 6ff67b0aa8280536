package brand

import (
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/edit"
	"fmt"
	"math"
	"slices"
	"strings"
)

func parsePalettes(group *edit.Object) ([]Palette, error) {
	if group == nil {
		return nil, nil
	}
	var out []Palette
	for _, id := range group.Keys() {
		tokens := group.Object(id)
		if strings.HasPrefix(id, "$") {
			continue
		}
		if tokens == nil {
			return nil, fmt.Errorf("%w: color.%s: want a group of colour tokens", ErrKit, id)
		}
		p := Palette{ID: id, Name: stringAt(tokens, "$extensions", extension, "name")}
		if p.Name == "" {
			p.Name = id
		}
		for _, t := range tokens.Keys() {
			if strings.HasPrefix(t, "$") {
				continue
			}
			at := "color." + id + "." + t
			tok := tokens.Object(t)
			if tok == nil || tok.Get("$value") == nil {
				return nil, fmt.Errorf("%w: %s: want a token with a $value", ErrKit, at)
			}
			value, err := parseColour(tok.Get("$value"))
			if err != nil {
				return nil, fmt.Errorf("%w: %s: %v", ErrKit, at, err)
			}
			c := Colour{
				Token: id + "." + t, Value: value,
				Name: stringAt(tok, "$extensions", extension, "name"),
				Role: Role(stringAt(tok, "$extensions", extension, "role")),
			}
			c.NeverGround, _ = tok.Object("$extensions").Object(extension).Get("neverGround").(bool)
			c.Proposed = stringAt(tok, "$extensions", extension, "proposedName")
			c.Guessed = stringAt(tok, "$extensions", extension, "guessed") == value.Hex()
			if c.Name == "" {
				c.Name = t
			}
			if c.Role == "" {
				c.Role = Extra
			}
			if !slices.Contains(Roles, c.Role) {
				return nil, fmt.Errorf("%w: %s: role %q: want lead, support, accent, ground, ink or extra", ErrKit, at, c.Role)
			}
			p.Colours = append(p.Colours, c)
		}
		out = append(out, p)
	}
	return out, nil
}

// parseColour reads a DTCG colour value: an object with a hex fallback or
// sRGB components, or the plain string older files have.
func parseColour(v any) (colour.RGB, error) {
	switch v := v.(type) {
	case string:
		return colour.Parse(v)
	case *edit.Object:
		if hex, ok := v.Get("hex").(string); ok {
			return colour.Parse(hex)
		}
		var c struct {
			ColorSpace string    `json:"colorSpace"`
			Components []float64 `json:"components"`
		}
		if err := edit.Decode(v, &c); err != nil || len(c.Components) != 3 {
			return colour.RGB{}, fmt.Errorf("want hex, or three components from 0 to 1")
		}
		if c.ColorSpace != "srgb" {
			return colour.RGB{}, fmt.Errorf("colorSpace %q without hex: want srgb, or add hex", c.ColorSpace)
		}
		var out [3]uint8
		for i, f := range c.Components {
			if f < 0 || f > 1 {
				return colour.RGB{}, fmt.Errorf("component %v: want 0 to 1", f)
			}
			out[i] = uint8(math.Round(f * 255))
		}
		return colour.RGB{R: out[0], G: out[1], B: out[2]}, nil
	}
	return colour.RGB{}, fmt.Errorf("want a colour")
}

func stringAt(o *edit.Object, path ...string) string {
	for _, p := range path[:len(path)-1] {
		o = o.Object(p)
	}
	s, _ := o.Get(path[len(path)-1]).(string)
	return s
}
