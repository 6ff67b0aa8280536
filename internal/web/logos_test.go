package web_test

import (
	"fmt"
	"regexp"
	"strings"
	"testing"

	"aspenridge/internal/core/colour"
	"aspenridge/test/stage"
)

// Logos of one lockup and tone are told apart by colour, then by file, and each
// lies on a ground it reads on.
func TestLogosAreToldApart(t *testing.T) {
	s := open(t, stage.Options{})
	p := join(t, s, "a@one.example")
	kit := p.newKit("House")
	draw := func(fill string, w int) string {
		return fmt.Sprintf(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %d 80"><rect y="10" width="%d" height="50" fill="%s"/><circle cx="20" cy="35" r="20" fill="#888"/></svg>`, w, w, fill)
	}
	for name, svg := range map[string]string{"night.svg": draw("#0b1020", 300), "day.svg": draw("#b03020", 300), "day-wide.svg": draw("#b03020", 420), "snow.svg": draw("#fdfdfb", 300)} {
		p.must(p.upload("/kits/"+kit+"/logos", name, strings.NewReader(svg)))
	}
	brief := p.newBrief(kit)
	_, html := p.get("/briefs/" + brief + "/start")
	names := map[string]bool{}
	for _, m := range regexp.MustCompile(`name="logo" value="[^"]+"[^>]* aria-label="([^"]+)"`).FindAllStringSubmatch(html, -1) {
		names[m[1]] = true
	}
	if len(names) != 4 {
		t.Errorf("four logos are called %v", names)
	}
	chips := regexp.MustCompile(`class="logo-chip"[^>]*><rect[^>]* fill="(#[0-9A-F]{6})"/><[^>]*fill="(#[0-9A-Fa-f]{6})"`).FindAllStringSubmatch(html, -1)
	if len(chips) < 4 {
		t.Fatalf("%d chips", len(chips))
	}
	for _, c := range chips {
		ground, err1 := colour.Parse(c[1])
		ink, err2 := colour.Parse(c[2])
		if err1 != nil || err2 != nil || colour.Contrast(ground, ink) < 2 {
			t.Errorf("a logo in %s lies on %s", c[2], c[1])
		}
	}
}
