package colour

import (
	"errors"
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"
)

// ErrSyntax is wrapped by every error of [Parse].
var ErrSyntax = errors.New("not a colour")

const accepted = "want #RGB, #RRGGBB, rgb(), hsl(), lab(), lch(), oklab(), oklch(), cmyk(), three numbers 0-255 or a CSS colour name"

var (
	numbers  = regexp.MustCompile(`[-+]?(?:\d+\.?\d*|\.\d+)(?:%|deg)?`)
	function = regexp.MustCompile(`^(rgba?|hsla?|oklab|oklch|lab|lch|cmyk|device-cmyk)\(([^()]*)\)$`)
	triple   = regexp.MustCompile(`^\d{1,3}(?:\s*,\s*|\s+)\d{1,3}(?:\s*,\s*|\s+)\d{1,3}$`)
	hexed    = regexp.MustCompile(`^#?[0-9a-f]+$`)
)

// Parse reads one colour in any notation people paste: #rgb, #rrggbb (and with
// an opaque alpha), bare hex, rgb(), hsl(), lab(), lch(), oklab(), oklch(),
// cmyk(), a bare triple "15 61 76" or a CSS name. cmyk() is turned into a screen
// colour naively (CSS Color 5, section 7: no ink or paper is known). Errors wrap
// [ErrSyntax] and say what is accepted.
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
	want := 3
	if name == "cmyk" || name == "device-cmyk" {
		want = 4
	}
	if len(parts) != want && len(parts) != want+1 {
		return RGB{}, bad
	}
	if len(parts) > want && unit(parts[want], 1) != 1 {
		return RGB{}, fmt.Errorf("colour %q: %w: kit colours are opaque; leave the alpha out", source, ErrSyntax)
	}
	switch name {
	case "rgb", "rgba":
		c := func(s string) uint8 { return uint8(math.Round(clamp(unit(s, 255), 0, 255))) }
		return RGB{c(parts[0]), c(parts[1]), c(parts[2])}, nil
	case "hsl", "hsla":
		return HSL{turn(parts[0]), clamp(unit(parts[1], 1), 0, 1), clamp(unit(parts[2], 1), 0, 1)}.RGB(), nil
	case "oklab":
		return OKLab{clamp(unit(parts[0], 1), 0, 1), unit(parts[1], 0.4), unit(parts[2], 0.4)}.LCh().RGB(), nil
	case "lab":
		return fitted(labD50(Lab{clamp(unit(parts[0], 100), 0, 100), unit(parts[1], 125), unit(parts[2], 125)})), nil
	case "lch":
		s, c := math.Sincos(turn(parts[2]) * math.Pi / 180)
		chroma := math.Max(0, unit(parts[1], 150))
		return fitted(labD50(Lab{clamp(unit(parts[0], 100), 0, 100), chroma * c, chroma * s})), nil
	case "cmyk", "device-cmyk":
		return cmyk(parts[:4]), nil
	default:
		return OKLCh{clamp(unit(parts[0], 1), 0, 1), math.Max(0, unit(parts[1], 0.4)), turn(parts[2])}.RGB(), nil
	}
}

// fitted is a colour of linear sRGB within the gamut.
func fitted(l Linear) RGB { return l.OKLab().LCh().RGB() }

// cmyk turns four inks, percent or 0-1, into a screen colour: CSS Color 5,
// section 7.2, "Naively Converting Between Uncalibrated CMYK and sRGB-Based
// Color". Numbers over 1 are taken for percent, as people write them.
func cmyk(parts []string) RGB {
	var v [4]float64
	whole := false
	for i, p := range parts {
		v[i] = unit(p, 1)
		whole = whole || v[i] > 1 && !strings.HasSuffix(p, "%")
	}
	for i, p := range parts {
		if whole && !strings.HasSuffix(p, "%") {
			v[i] /= 100
		}
		v[i] = clamp(v[i], 0, 1)
	}
	c := func(ink float64) uint8 { return uint8(math.Round(255 * (1 - math.Min(1, ink*(1-v[3])+v[3])))) }
	return RGB{c(v[0]), c(v[1]), c(v[2])}
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
	Naive  bool // of cmyk(): a guess until somebody has seen the print
}

// Unread is a line of a list no colour was found in, and why.
type Unread struct {
	Line string `json:"line"`
	Why  string `json:"why"`
}

// MaxList is the most colours [ParseList] takes at once.
const MaxList = 64

var (
	notation = regexp.MustCompile(`(?i)#[0-9a-f]{3,8}\b|(?:rgba?|hsla?|oklab|oklch|lab|lch|cmyk|device-cmyk)\([^()]*\)|\bc\s*[:=]?\s*\d{1,3}\s*%?[\s,;/]+m\s*[:=]?\s*\d{1,3}\s*%?[\s,;/]+y\s*[:=]?\s*\d{1,3}\s*%?[\s,;/]+k\s*[:=]?\s*\d{1,3}\s*%?|\b(?:cmyk|oklab|oklch|lab|lch|rgb|hsl)\s*[:=]?\s*-?[\d.]+%?(?:[\s,;/]+-?[\d.]+%?){2,3}|\b\d{1,3}(?:\s*,\s*|\s+)\d{1,3}(?:\s*,\s*|\s+)\d{1,3}(?:(?:\s*,\s*|\s+)\d{1,3})?\b|\b[0-9a-f]{6}\b`)
	inks     = regexp.MustCompile(`(?i)^c\s*[:=]?\s*(\d+)\D+m\s*[:=]?\s*(\d+)\D+y\s*[:=]?\s*(\d+)\D+k\s*[:=]?\s*(\d+)`)
	bare     = regexp.MustCompile(`(?i)^(cmyk|oklab|oklch|lab|lch|rgb|hsl)\s*[:=]?\s*([-\d].*)$`)
	inkName  = regexp.MustCompile(`(?i)^[\p{L} .®™-]{2,24}\d{2,5}[\p{L} -]{0,8}$`)
	hasDigit = regexp.MustCompile(`\d`)
	nameTrim = " \t:=-–—|,;./()*•·\"'"
)

// ReadList reads a pasted list, one colour or several to a line, with the words
// beside a value kept as its name: "River #0F3D4C", "15 61 76",
// "--accent: hsl(12 88% 62%);", "C100 M60 Y0 K20". Lines it cannot read come
// back with the reason. It fails when there are more than [MaxList] colours.
func ReadList(s string) (list []Named, unread []Unread, err error) {
	for _, line := range strings.Split(s, "\n") {
		if strings.Trim(line, nameTrim+"{}\r") == "" {
			continue
		}
		found, why := readLine(line)
		if len(found) == 0 {
			unread = append(unread, Unread{strings.TrimSpace(line), why})
		}
		list = append(list, found...)
	}
	if len(list) > MaxList {
		return nil, nil, fmt.Errorf("%d colours at once: at most %d; a palette usually holds 3 to 6", len(list), MaxList)
	}
	return list, unread, nil
}

// readLine reads the colours of a line, or says why there are none.
func readLine(line string) (list []Named, why string) {
	at := notation.FindAllStringIndex(line, -1)
	at = slices.DeleteFunc(at, func(i []int) bool { // "facade" is a word
		v := line[i[0]:i[1]]
		return len(v) == 6 && !hasDigit.MatchString(v) && strings.TrimSpace(line) != v
	})
	if len(at) == 0 {
		for _, field := range strings.FieldsFunc(line, func(r rune) bool { return r == ',' || r == ';' }) {
			if c, ok := named[strings.ToLower(strings.TrimSpace(field))]; ok {
				list = append(list, Named{Name: strings.TrimSpace(field), Colour: c})
			}
		}
		if inkName.MatchString(strings.TrimSpace(line)) {
			return list, "the number of an ink or paint has no value of its own on a screen: give its #hex, as its maker prints it"
		}
		return list, accepted
	}
	from := 0
	for _, i := range at {
		value := line[i[0]:i[1]]
		value = written(value)
		naive := strings.Contains(strings.ToLower(value), "cmyk")
		if m := inks.FindStringSubmatch(value); m != nil {
			value, naive = "cmyk("+strings.Join(m[1:], "% ")+"%)", true
		}
		c, err := Parse(value)
		if err != nil {
			return nil, strings.TrimPrefix(err.Error(), fmt.Sprintf("colour %q: %v: ", value, ErrSyntax))
		}
		name := strings.Trim(line[from:i[0]], nameTrim)
		if name == "" && len(at) == 1 {
			name = strings.Trim(line[i[1]:], nameTrim)
		}
		list = append(list, Named{name, c, naive})
		from = i[1]
	}
	return list, ""
}

// written puts a notation without brackets, as people write it, the way [Parse] reads it: "CMYK
// 100 50 0 20", "lab 50 40 30", "hsl 200 50 40"; four bare numbers are inks, as nothing else has
// four.
func written(value string) string {
	name, args := "", value
	if m := bare.FindStringSubmatch(value); m != nil {
		name, args = strings.ToLower(m[1]), m[2]
	}
	parts := numbers.FindAllString(args, -1)
	switch {
	case name == "" && len(parts) == 4 && !strings.ContainsAny(value, "#("):
		name = "cmyk"
	case name == "":
		return value
	case name == "hsl" && len(parts) == 3:
		for i := 1; i < 3; i++ {
			parts[i] = strings.TrimSuffix(parts[i], "%") + "%"
		}
	}
	return name + "(" + strings.Join(parts, " ") + ")"
}

// ParseList is [ReadList] for whoever wants colours or an error: it fails when
// nothing is found, or a value is none.
func ParseList(s string) ([]Named, error) {
	list, unread, err := ReadList(s)
	switch {
	case err != nil:
		return nil, err
	case len(list) == 0 && len(unread) == 1:
		return nil, fmt.Errorf("no colour found in %q: %w: %s", unread[0].Line, ErrSyntax, unread[0].Why)
	case len(list) == 0:
		return nil, fmt.Errorf("no colour found: %w: %s", ErrSyntax, accepted)
	}
	return list, nil
}
