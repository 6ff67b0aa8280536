package test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
	"unicode/utf8"

	"aspenridge/test/stage"
)

// longestLine is how many characters a line of a script or a template may have.
const longestLine = 140

func TestLinesOfScriptsAndTemplates(t *testing.T) {
	root, err := stage.Root()
	if err != nil {
		t.Fatal(err)
	}
	read := 0
	for _, pattern := range []string{"web/src/js/*.js", "web/templates/*.html"} {
		files, err := filepath.Glob(filepath.Join(root, pattern))
		if err != nil {
			t.Fatal(err)
		}
		for _, f := range files {
			data, err := os.ReadFile(f)
			if err != nil {
				t.Fatal(err)
			}
			read++
			n := 0
			for line := range strings.Lines(string(data)) {
				n++
				if c := utf8.RuneCountInString(strings.TrimSuffix(line, "\n")); c > longestLine {
					t.Errorf("%s:%d has %d characters", filepath.Base(f), n, c)
				}
			}
		}
	}
	if read < 30 {
		t.Errorf("%d files read", read)
	}
}
