package colour

import (
	"errors"
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"
)

// ErrSyntax is wrapped by every error of [Parse].
var ErrSyntax = errors.New("not a colour")

const accepted = "want #RGB, #RRGGBB, rgb(), hsl(), oklch(), three numbers 0-255 or a CSS colour name"

var (
	numbers  = regexp.MustCompile(`[-+]?(?:\d+\.?\d*|\.\d+)(?:%|deg)?`)
	function = regexp.MustCompile(`^(rgba?|hsla?|oklch)\(([^()]*)\)$`)
	triple   = regexp.MustCompile(`^\d{1,3}(?:\s*,\s*|\s+)\d{1,3}(?:\s*,\s*|\s+)\d{1,3}$`)
	hexed    = regexp.MustCompile(`^#?[0-9a-f]+$`)
)

// Parse reads one colour in any notation people paste: #rgb, #rrggbb (and with
// an opaque alpha), bare hex, rgb(), hsl(), oklch(), a bare triple "15 61 76"
// or a CSS name. Errors wrap [ErrSyntax] and say what is accepted.
func Parse(s string) (RGB, error) {
	t := strings.ToLower(strings.TrimSpace(s))
	t = strings.TrimRight(t, ";,")
	switch {
	case t == "":
		return RGB{}, fmt.Errorf("empty colour: %w: %s", ErrSyntax, accepted)
	case triple.MatchString(t):
		return parseTriple(s, numbers.FindAllString(t, 3))
	case strings.HasPrefix(t, "#"), hexed.MatchString(t) && (len(t) == 6 || len(t) == 3):
		return parseHex(s, strings.TrimPrefix(t, "#"))
	}
	if c, ok := named[t]; ok {
		return c, nil
	}
	if m := function.FindStringSubmatch(t); m != nil {
		return parseFunction(s, m[1], m[2])
	}
	return RGB{}, fmt.Errorf("colour %q: %w: %s", s, ErrSyntax, accepted)
}

func parseHex(source, digits string) (RGB, error) {
	bad := fmt.Errorf("colour %q: %w: want 3, 4, 6 or 8 hex digits", source, ErrSyntax)
	v, err := strconv.ParseUint(digits, 16, 64)
	if err != nil {
		return RGB{}, bad
	}
	wide := func(n uint64) uint8 { return uint8(n&15) * 17 }
	opaque := uint64(255)
	var c RGB
	switch len(digits) {
	case 3:
		c = RGB{wide(v >> 8), wide(v >> 4), wide(v)}
	case 4:
		c, opaque = RGB{wide(v >> 12), wide(v >> 8), wide(v >> 4)}, uint64(wide(v))
	case 6:
		c = RGB{uint8(v >> 16), uint8(v >> 8), uint8(v)}
	case 8:
		c, opaque = RGB{uint8(v >> 24), uint8(v >> 16), uint8(v >> 8)}, v&255
	default:
		return RGB{}, bad
	}
	if opaque != 255 {
		return RGB{}, fmt.Errorf("colour %q: %w: kit colours are opaque; leave the alpha out", source, ErrSyntax)
	}
	return c, nil
}

func parseTriple(source string, parts []string) (RGB, error) {
	var v [3]uint8
	for i, p := range parts {
		n, err := strconv.Atoi(p)
		if err != nil || n > 255 {
			return RGB{}, fmt.Errorf("colour %q: %w: each of red, green, blue is 0-255", source, ErrSyntax)
		}
		v[i] = uint8(n)
	}
	return RGB{v[0], v[1], v[2]}, nil
}

func parseFunction(source, name, args string) (RGB, error) {
	bad := fmt.Errorf("colour %q: %w: %s", source, ErrSyntax, accepted)
	parts := numbers.FindAllString(args, -1)
	if len(parts) != 3 && len(parts) != 4 {
		return RGB{}, bad
	}
	if len(parts) == 4 && unit(parts[3], 1) != 1 {
		return RGB{}, fmt.Errorf("colour %q: %w: kit colours are opaque; leave the alpha out", source, ErrSyntax)
	}
	switch name[:3] {
	case "rgb":
		c := func(s string) uint8 { return uint8(math.Round(clamp(unit(s, 255), 0, 255))) }
		return RGB{c(parts[0]), c(parts[1]), c(parts[2])}, nil
	case "hsl":
		return HSL{turn(parts[0]), clamp(unit(parts[1], 1), 0, 1), clamp(unit(parts[2], 1), 0, 1)}.RGB(), nil
	default:
		return OKLCh{clamp(unit(parts[0], 1), 0, 1), math.Max(0, unit(parts[1], 0.4)), turn(parts[2])}.RGB(), nil
	}
}

// unit reads a number, or a percentage of full.
func unit(s string, full float64) float64 {
	if p, ok := strings.CutSuffix(s, "%"); ok {
		v, _ := strconv.ParseFloat(p, 64)
		return v / 100 * full
	}
	v, _ := strconv.ParseFloat(s, 64)
	return v
}

func turn(s string) float64 {
	v, _ := strconv.ParseFloat(strings.TrimSuffix(s, "deg"), 64)
	v = math.Mod(v, 360)
	if v < 0 {
		v += 360
	}
	return v
}

func clamp(v, lo, hi float64) float64 { return math.Min(hi, math.Max(lo, v)) }

// Named is a colour with the name it was pasted under; Name may be empty.
type Named struct {
	Name   string
	Colour RGB
}

// MaxList is the most colours [ParseList] takes at once.
const MaxList = 64

var (
	notation = regexp.MustCompile(`(?i)#[0-9a-f]{3,8}\b|(?:rgba?|hsla?|oklch)\([^()]*\)|\b\d{1,3}(?:\s*,\s*|\s+)\d{1,3}(?:\s*,\s*|\s+)\d{1,3}\b|\b[0-9a-f]{6}\b`)
	nameTrim = " \t:=-–—|,;./()*•·\"'"
)

// ParseList reads a pasted list, one colour or several to a line, with the
// words beside a value kept as its name: "River #0F3D4C", "15 61 76",
// "--accent: hsl(12 88% 62%);". Lines with no colour in them are skipped.
// It fails when nothing is found or more than [MaxList] colours are.
func ParseList(s string) ([]Named, error) {
	var out []Named
	for _, line := range strings.Split(s, "\n") {
		found := notation.FindAllStringIndex(line, -1)
		if found == nil {
			for _, field := range strings.FieldsFunc(line, func(r rune) bool { return r == ',' || r == ';' }) {
				if c, ok := named[strings.ToLower(strings.TrimSpace(field))]; ok {
					out = append(out, Named{strings.TrimSpace(field), c})
				}
			}
			continue
		}
		from := 0
		for _, at := range found {
			c, err := Parse(line[at[0]:at[1]])
			if err != nil {
				return nil, err
			}
			name := strings.Trim(line[from:at[0]], nameTrim)
			if name == "" && len(found) == 1 {
				name = strings.Trim(line[at[1]:], nameTrim)
			}
			out = append(out, Named{name, c})
			from = at[1]
		}
	}
	switch {
	case len(out) == 0:
		return nil, fmt.Errorf("no colour found: %w: %s", ErrSyntax, accepted)
	case len(out) > MaxList:
		return nil, fmt.Errorf("%d colours at once: at most %d; a palette usually holds 3 to 6", len(out), MaxList)
	}
	return out, nil
}
