package brand

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/edit"
)

// ErrKit is wrapped by every error of [Parse].
var ErrKit = errors.New("kit.json")

const extension = "aspenridge"

// Lists are the lists of a kit document whose members have ids.
var Lists = edit.Lists{
	"/$extensions/aspenridge/logos", "/$extensions/aspenridge/fonts", "/$extensions/aspenridge/pictures", "/$extensions/aspenridge/colourways",
}

// Lockups and Tones list the accepted values.
var (
	Lockups = []string{"horizontal", "stacked", "symbol", "wordmark", "with-tagline", "badge"}
	Tones   = []string{"full-colour", "for-light", "for-dark", "one-colour"}
)

// Parse reads a kit document: a Design Tokens Community Group file with our
// extensions. Only formatVersion and name are required; everything else has a
// default, and members it does not know are left alone. Logos come without
// their art. Errors wrap [ErrKit] and name the member.
func Parse(doc *edit.Object) (*Kit, error) {
	if err := Limits.Check(doc); err != nil {
		return nil, fmt.Errorf("%w: %v", ErrKit, err)
	}
	k, err := parse(doc)
	if err != nil {
		return nil, err
	}
	if left := k.trimColours(); len(left) > 0 {
		return nil, fmt.Errorf("%w: %s", ErrKit, left[0])
	}
	return k, nil
}

// ParseJoined is [Parse] for a document joined with its parents' ([Inherit]). Each
// keeps the limits by itself; what is over them together is left out, which the
// kit's warnings say. The document is changed.
func ParseJoined(doc *edit.Object) (*Kit, error) {
	notes := Limits.Trim(doc)
	k, err := parse(doc)
	if err == nil {
		k.Warnings = append(append(k.Warnings, notes...), k.trimColours()...)
	}
	return k, err
}

// trimColours leaves out colours and palettes a kit has no room for, and says
// which.
func (k *Kit) trimColours() (left []string) {
	if len(k.Palettes) > MaxPalettes {
		left = append(left, fmt.Sprintf("color: %d palettes, at most %d", len(k.Palettes), MaxPalettes))
		k.Palettes = k.Palettes[:MaxPalettes]
	}
	all := 0
	for i := range k.Palettes {
		p := &k.Palettes[i]
		if n := len(p.Colours); n > MaxColours {
			left = append(left, fmt.Sprintf("color.%s holds %d colours: at most %d", p.ID, n, MaxColours))
			p.Colours = p.Colours[:MaxColours]
		}
		if all += len(p.Colours); all > MaxAllColours {
			left = append(left, fmt.Sprintf("color: more than %d colours in all palettes together", MaxAllColours))
			p.Colours = p.Colours[:max(0, len(p.Colours)-(all-MaxAllColours))]
			all = MaxAllColours
		}
	}
	return left
}

func parse(doc *edit.Object) (*Kit, error) {
	ext := doc.Object("$extensions").Object(extension)
	if ext == nil {
		return nil, fmt.Errorf("%w: $extensions.aspenridge is missing; want at least formatVersion and name there", ErrKit)
	}
	var root struct {
		FormatVersion int      `json:"formatVersion"`
		Name          *string  `json:"name"`
		Values        []string `json:"values"`
		Tagline       string   `json:"tagline"`
		Website       string   `json:"website"`
		Handles       []string `json:"handles"`
		Phone         string   `json:"phone"`
		Place         string   `json:"place"`
		CallsToAction []string `json:"callsToAction"`
		Hashtags      []string `json:"hashtags"`
		Logos         []struct {
			ID         string  `json:"id"`
			File       string  `json:"file"`
			Lockup     string  `json:"lockup"`
			Tone       string  `json:"tone"`
			Lead       bool    `json:"lead"`
			ClearSpace float64 `json:"clearSpace"`
			MinWidth   float64 `json:"minWidth"`
		} `json:"logos"`
		Fonts []struct {
			ID     string `json:"id"`
			File   string `json:"file"`
			Rights struct {
				ConfirmedBy string `json:"confirmedBy"`
				ConfirmedAt string `json:"confirmedAt"`
			} `json:"rights"`
		} `json:"fonts"`
		Pictures []struct {
			ID     string      `json:"id"`
			File   string      `json:"file"`
			Alt    string      `json:"alt"`
			Folder string      `json:"folder"`
			Kind   PictureKind `json:"kind"`
			Focus  *[2]float64 `json:"focus"`
		} `json:"pictures"`
		Colourways []KeptColourway `json:"colourways"`
		Motion     json.RawMessage `json:"motion"`
		Voice      Voice           `json:"voice"`
		Manner     Manner          `json:"manner"`
		Language   string          `json:"language"`
	}
	if err := edit.Decode(ext, &root); err != nil {
		return nil, fmt.Errorf("%w: $extensions.aspenridge: %v", ErrKit, err)
	}
	if root.FormatVersion != 1 {
		return nil, fmt.Errorf("%w: formatVersion %d: this version reads 1", ErrKit, root.FormatVersion)
	}
	if root.Name == nil {
		return nil, fmt.Errorf("%w: name is missing", ErrKit)
	}
	var err error
	k := &Kit{
		Name: *root.Name, Tagline: root.Tagline, Website: root.Website, Handles: root.Handles,
		Phone: root.Phone, Place: root.Place, CallsToAction: root.CallsToAction,
		Hashtags: root.Hashtags, Values: root.Values, Voice: root.Voice, Manner: root.Manner, Language: root.Language,
	}
	if err := k.Manner.check(); err != nil {
		return nil, err
	}
	for i, l := range root.Logos {
		if l.File == "" {
			return nil, fmt.Errorf("%w: logos[%d]: file is missing", ErrKit, i)
		}
		if l.Lockup == "" {
			l.Lockup = "horizontal"
		}
		if l.Tone == "" {
			l.Tone = "full-colour"
		}
		if !slices.Contains(Lockups, l.Lockup) {
			return nil, fmt.Errorf("%w: logos[%d].lockup %q: want one of %s", ErrKit, i, l.Lockup, strings.Join(Lockups, ", "))
		}
		if !slices.Contains(Tones, l.Tone) {
			return nil, fmt.Errorf("%w: logos[%d].tone %q: want one of %s", ErrKit, i, l.Tone, strings.Join(Tones, ", "))
		}
		k.Logos = append(k.Logos, Logo{ID: l.ID, File: l.File, Lockup: l.Lockup, Tone: l.Tone, Lead: l.Lead, ClearSpace: l.ClearSpace, MinWidth: l.MinWidth})
	}
	for i, f := range root.Fonts {
		if f.File == "" {
			return nil, fmt.Errorf("%w: fonts[%d]: file is missing", ErrKit, i)
		}
		k.Fonts = append(k.Fonts, Font{ID: f.ID, File: f.File, ConfirmedBy: f.Rights.ConfirmedBy, ConfirmedAt: f.Rights.ConfirmedAt})
	}
	for i, p := range root.Pictures {
		if p.File == "" {
			return nil, fmt.Errorf("%w: pictures[%d]: file is missing", ErrKit, i)
		}
		if p.Kind == "" {
			p.Kind = PhotoPicture
		}
		if !slices.Contains(PictureKinds, p.Kind) {
			return nil, fmt.Errorf("%w: pictures[%d].kind %q: want picture, portrait, pattern, icon or clip", ErrKit, i, p.Kind)
		}
		if f := p.Focus; f != nil && (f[0] < 0 || f[0] > 1 || f[1] < 0 || f[1] > 1) {
			return nil, fmt.Errorf("%w: pictures[%d].focus %v: want [x, y], each 0 to 1", ErrKit, i, *f)
		}
		k.Pictures = append(k.Pictures, Picture{p.ID, p.File, p.Alt, p.Folder, p.Kind, p.Focus})
	}
	for _, c := range root.Colourways {
		if c.Name != "" && len(c.Seats) > 0 {
			k.Kept = append(k.Kept, c)
		}
	}
	var motion Motion
	if len(root.Motion) > 0 && json.Unmarshal(root.Motion, &motion) != nil { // somebody else's way to say it; carried along
		motion = Motion{}
		k.Warnings = append(k.Warnings, "motion is not written as this version writes it; the rule is used")
	}
	if k.Motion, err = motion.checked(); err != nil {
		return nil, err
	}
	if k.Palettes, err = parsePalettes(doc.Object("color")); err != nil {
		return nil, err
	}
	main, err := parseTypeSet("main", doc.Object("type"))
	if err != nil {
		return nil, err
	}
	k.TypeSets = []TypeSet{main}
	if sets := doc.Object("typeSets"); sets != nil {
		for _, id := range sets.Keys() {
			if strings.HasPrefix(id, "$") {
				continue
			}
			set, err := parseTypeSet(id, sets.Object(id))
			if err != nil {
				return nil, err
			}
			k.TypeSets = append(k.TypeSets, set)
		}
	}
	return k, nil
}

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
