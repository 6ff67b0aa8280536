package brand

import (
	"aspenridge/internal/core/edit"
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"
)

// parseTypeSets reads the main type set of a document and those beside it.
func parseTypeSets(doc *edit.Object) ([]TypeSet, error) {
	main, err := parseTypeSet("main", doc.Object("type"))
	if err != nil {
		return nil, err
	}
	out := []TypeSet{main}
	sets := doc.Object("typeSets")
	if sets == nil {
		return out, nil
	}
	for _, id := range sets.Keys() {
		if strings.HasPrefix(id, "$") {
			continue
		}
		set, err := parseTypeSet(id, sets.Object(id))
		if err != nil {
			return nil, err
		}
		out = append(out, set)
	}
	return out, nil
}

func parseTypeSet(id string, group *edit.Object) (TypeSet, error) {
	set := DefaultTypeSet()
	set.ID, set.Name = id, id
	if group == nil {
		return set, nil
	}
	if name := stringAt(group, "$extensions", extension, "name"); name != "" {
		set.Name = name
	}
	given := map[Level]bool{}
	for _, key := range group.Keys() {
		if strings.HasPrefix(key, "$") {
			continue
		}
		level := Level(key)
		at := "type." + key
		if !slices.Contains(Levels, level) {
			continue // a level of somebody else's; carried along
		}
		tok := group.Object(key)
		if tok.Object("$value") == nil {
			return set, fmt.Errorf("%w: %s: want a typography $value", ErrKit, at)
		}
		style, err := parseStyle(tok, set.Levels[level])
		if err != nil {
			return set, fmt.Errorf("%w: %s: %v", ErrKit, at, err)
		}
		set.Levels[level], given[level] = style, true
	}
	// what is not said follows the nearest level that is
	text := set.Levels[Body]
	if !given[Body] && given[Headline] {
		text = set.Levels[Headline]
		text.Weight, text.SizePx, text.Tracking, text.Upper, text.LineHeight = 500, set.Levels[Headline].SizePx/2.6, 0, false, 0
		set.Levels[Body] = text
	}
	for l, r := range map[Level]struct {
		ratio  float64
		weight int
	}{Subheading: {1.22, 600}, Caption: {0.8, text.Weight}, Button: {0.95, 700}} {
		if !given[l] && (given[Body] || given[Headline]) {
			s := text
			s.SizePx, s.Weight = text.SizePx*r.ratio, r.weight
			set.Levels[l] = s
		}
	}
	if !given[Headline] && given[Body] {
		s := text
		s.SizePx, s.Weight, s.Tracking = text.SizePx*2.6, 800, -0.012
		set.Levels[Headline] = s
	}
	return set, nil
}

func parseStyle(tok *edit.Object, def Style) (Style, error) {
	v := tok.Object("$value")
	s := Style{Family: def.Family, Weight: def.Weight, SizePx: def.SizePx}
	switch f := v.Get("fontFamily").(type) {
	case string:
		s.Family = f
	case []any:
		if len(f) > 0 {
			s.Family, _ = f[0].(string)
		}
	}
	if w := v.Get("fontWeight"); w != nil {
		n, err := parseWeight(w)
		if err != nil {
			return s, err
		}
		s.Weight = n
	}
	if size := v.Get("fontSize"); size != nil {
		px, err := parseDimension(size)
		if err != nil || px <= 0 || px > 2000 {
			return s, fmt.Errorf("fontSize: want px above 0, up to 2000")
		}
		s.SizePx = px
	}
	if lh := v.Get("lineHeight"); lh != nil {
		n, err := strconv.ParseFloat(fmt.Sprint(lh), 64)
		if err != nil || n < 0.5 || n > 4 {
			return s, fmt.Errorf("lineHeight: want a number from 0.5 to 4")
		}
		s.LineHeight = n
	}
	if ls := v.Get("letterSpacing"); ls != nil {
		px, err := parseDimension(ls)
		if err != nil || math.Abs(px/s.SizePx) > 0.5 {
			return s, fmt.Errorf("letterSpacing: want px, at most half the size")
		}
		s.Tracking = px / s.SizePx
	}
	ext := tok.Object("$extensions").Object(extension)
	if ext != nil {
		s.Italic = ext.Get("style") == "italic"
		s.Upper = ext.Get("case") == "upper"
		role, _ := ext.Get("role").(string)
		s.Role = Role(role)
		if s.Role != "" && !slices.Contains(Roles, s.Role) {
			return s, fmt.Errorf("role %q: want lead, support, accent, ground, ink or extra", role)
		}
		if family, ok := ext.Get("smallFace").(string); ok && family != "" {
			small := s
			small.Family = family
			s.Small = &small
		}
	}
	return s, nil
}

// weightNames are the aliases of the DTCG format, 8.4.
var weightNames = map[string]int{
	"thin": 100, "hairline": 100, "extra-light": 200, "ultra-light": 200, "light": 300,
	"normal": 400, "regular": 400, "book": 400, "medium": 500, "semi-bold": 600, "demi-bold": 600,
	"bold": 700, "extra-bold": 800, "ultra-bold": 800, "black": 900, "heavy": 900, "extra-black": 950, "ultra-black": 950,
}

func parseWeight(v any) (int, error) {
	s := fmt.Sprint(v)
	if n, ok := weightNames[strings.ToLower(s)]; ok {
		return n, nil
	}
	n, err := strconv.ParseFloat(s, 64)
	if err != nil || n < 1 || n > 1000 {
		return 0, fmt.Errorf("fontWeight %q: want 1 to 1000 or a name like semi-bold", s)
	}
	return int(n), nil
}

var dimension = regexp.MustCompile(`^(-?[\d.]+)(px)?$`)

func parseDimension(v any) (float64, error) {
	if o, ok := v.(*edit.Object); ok {
		if u, _ := o.Get("unit").(string); u != "px" {
			return 0, fmt.Errorf("unit %q: want px", u)
		}
		v = o.Get("value")
	}
	m := dimension.FindStringSubmatch(fmt.Sprint(v))
	if m == nil {
		return 0, fmt.Errorf("%v: want px", v)
	}
	return strconv.ParseFloat(m[1], 64)
}
