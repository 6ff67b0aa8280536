package web

import (
	"regexp"
	"strings"
	"testing"
)

// With every reference put back the drawings are what they were; what occurs once is left alone.
func TestOutlinesAreSharedOnAPage(t *testing.T) {
	long, other := "M0 0"+strings.Repeat("l10 20", 40), "M5 5"+strings.Repeat("q1 2 3 4", 40)
	was := []string{
		`<svg><path transform="scale(2)" d="` + long + `"/><path d="M0 0h1"/></svg>`,
		`<svg><path d="` + long + `" fill="#123456"/><path d="` + other + `"/></svg>`,
	}
	is := append([]string{}, was...)
	defs := shareOutlines([]*string{&is[0], &is[1]})
	if strings.Count(defs, "<path") != 1 || !strings.Contains(is[1], other) || strings.Contains(is[0]+is[1], long) {
		t.Fatalf("shared: %s\n%s", defs, is)
	}
	for i, svg := range is {
		back := regexp.MustCompile(`<use([^>]*) href="#([^"]+)"/>`).ReplaceAllStringFunc(svg, func(use string) string {
			m := regexp.MustCompile(`<use([^>]*) href="#([^"]+)"/>`).FindStringSubmatch(use)
			d := regexp.MustCompile(`id="` + m[2] + `" d="([^"]+)"`).FindStringSubmatch(defs)[1]
			return `<path` + m[1] + ` d="` + d + `"/>`
		})
		attributes := func(s string) int {
			return strings.Count(s, d(long)) + strings.Count(s, `transform="scale(2)"`) + strings.Count(s, `fill="#123456"`)
		}
		if attributes(back) != attributes(was[i]) || len(back) != len(was[i]) {
			t.Errorf("%s came back as %s", was[i], back)
		}
	}
	if one := was[0]; shareOutlines([]*string{&one}) != "" || one != was[0] {
		t.Errorf("a drawing by itself shares %s", one)
	}
}

func d(outline string) string { return ` d="` + outline + `"` }
