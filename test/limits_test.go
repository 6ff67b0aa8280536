package test

import (
	"flag"
	"fmt"
	"os"
	"strings"
	"testing"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
)

var update = flag.Bool("update", false, "write the tables of docs/formats.md anew")

// limitsTable writes the limits as people read them.
func limitsTable() string {
	var b strings.Builder
	rows := func(limits edit.Limits, skip func(path string) bool) {
		b.WriteString("| where | at most |\n|---|---|\n")
		for _, l := range limits {
			if skip(l.Path) {
				continue
			}
			path := strings.TrimPrefix(l.Path, "/$extensions/aspenridge")
			path = strings.ReplaceAll(strings.ReplaceAll(strings.TrimPrefix(path, "/"), "/*", "[]"), "/", ".")
			fmt.Fprintf(&b, "| `%s` | %d |\n", path, l.Most)
		}
	}
	b.WriteString("A kit:\n\n")
	rows(brand.Limits, func(string) bool { return false })
	b.WriteString("\nA brief; the fields of a card may stand at its top:\n\n")
	cards := false
	rows(brief.Limits, func(path string) bool {
		cards = cards || strings.HasPrefix(path, "/cards/")
		return cards && !strings.HasPrefix(path, "/cards") // the same once more
	})
	fmt.Fprintf(&b, "\nEvery other text: %d characters; every other list or object: %d members; a document: 2,000 kB, nested 40 deep. No text holds a NUL character. A kit that takes over from others leaves out what is over these limits together, and says so.\n", edit.MostText, edit.MostMembers)
	return b.String()
}

// The document of formats says every limit there is.
func TestLimitsAreDocumented(t *testing.T) {
	const name = "../docs/formats.md"
	data, err := os.ReadFile(name)
	if err != nil {
		t.Fatal(err)
	}
	const begin, end = "## Limits\n", "\n## Command line"
	before, rest, ok := strings.Cut(string(data), begin)
	section, after, ok2 := strings.Cut(rest, end)
	if !ok || !ok2 {
		t.Fatal("docs/formats.md has no section of limits before the command line")
	}
	intro, _, _ := strings.Cut(section, "A kit:\n")
	want := intro + limitsTable()
	if section == want {
		return
	}
	if *update {
		if err := os.WriteFile(name, []byte(before+begin+want+end+after), 0o644); err != nil {
			t.Fatal(err)
		}
		return
	}
	t.Error("docs/formats.md says other limits than are held: go test ./test -run TestLimitsAreDocumented -update")
}

// Whatever can be changed by hand is documented, each property once.
func TestPropertiesAreDocumented(t *testing.T) {
	data, err := os.ReadFile("../docs/formats.md")
	if err != nil {
		t.Fatal(err)
	}
	_, section, _ := strings.Cut(string(data), "## Changes by hand")
	section, _, _ = strings.Cut(section, "\n## ")
	for _, p := range brief.Properties {
		rows := 0
		for line := range strings.Lines(section) {
			if first, _, ok := strings.Cut(strings.TrimPrefix(line, "| "), " |"); ok && strings.Contains(first, "`"+p.Name+"`") {
				rows++
			}
		}
		if rows != 1 {
			t.Errorf("%s stands in %d rows of docs/formats.md", p.Name, rows)
		}
	}
}

// What is over a limit is refused naming its place; what is at it is taken.
func TestLimitsAreHeld(t *testing.T) {
	kit := func(own string) error {
		doc, err := edit.ParseObject([]byte(`{"$extensions":{"aspenridge":{"formatVersion":1,"name":"x"` + own + `}}}`))
		if err != nil {
			return err
		}
		_, err = brand.Parse(doc)
		return err
	}
	briefOf := func(card string) error {
		doc, err := edit.ParseObject([]byte(`{"formatVersion":1,"cards":[{"headline":"x"` + card + `}]}`))
		if err != nil {
			return err
		}
		_, err = brief.Parse(doc)
		return err
	}
	long := func(n int) string { return strings.Repeat("ü", n) }
	list := func(n int) string { return "[" + strings.TrimSuffix(strings.Repeat(`"v",`, n), ",") + "]" }
	for what, c := range map[string]struct {
		try  func(string) error
		make func(n int) string
		most int
		name string
	}{
		"tagline":    {kit, func(n int) string { return `,"tagline":"` + long(n) + `"` }, 300, "tagline"},
		"values":     {kit, func(n int) string { return `,"values":` + list(n) }, 40, "values"},
		"never says": {kit, func(n int) string { return `,"voice":{"neverSays":` + list(n) + `}` }, 200, "voice.neverSays"},
		"own text":   {kit, func(n int) string { return `,"note":"` + long(n) + `"` }, edit.MostText, "note"},
		"body":       {briefOf, func(n int) string { return `,"body":"` + long(n) + `"` }, brief.MaxCopy, "cards.0.body"},
		"quote":      {briefOf, func(n int) string { return `,"quote":{"text":"` + long(n) + `"}` }, brief.MaxCopy, "cards.0.quote.text"},
		"lines":      {briefOf, func(n int) string { return `,"lines":` + list(n) }, 40, "cards.0.lines"},
		"one line":   {briefOf, func(n int) string { return `,"lines":["` + long(n) + `"]` }, 500, "cards.0.lines.0"},
		"code":       {briefOf, func(n int) string { return `,"offer":{"code":"` + long(n) + `"}` }, 60, "cards.0.offer.code"},
	} {
		if err := c.try(c.make(c.most)); err != nil {
			t.Errorf("%s at its limit: %v", what, err)
		}
		if err := c.try(c.make(c.most + 1)); err == nil || !strings.Contains(err.Error(), c.name) || !strings.Contains(err.Error(), fmt.Sprint(c.most)) {
			t.Errorf("%s over its limit: %v", what, err)
		}
	}
}
