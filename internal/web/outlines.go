package web

import (
	"regexp"
	"strings"
)

// outlined is a path of a drawing that is long enough to be worth sharing: what stands before
// its outline, the outline, and what stands after it.
var outlined = regexp.MustCompile(`<path([^>]*?) d="([^"]{120,})"([^>]*)/>`)

// shareOutlines makes drawings that stand on one page lighter: an outline that occurs more than
// once among them, as a line of words does in every look, is drawn by reference. defs holds the
// outlines and has to stand on the page, "" where nothing is shared. Ids say what they hold, so
// that fragments which come later may bring the same again.
func shareOutlines(drawings []*string) (defs string) {
	times := map[string]int{}
	for _, svg := range drawings {
		for _, m := range outlined.FindAllStringSubmatch(*svg, -1) {
			times[m[2]]++
		}
	}
	var b strings.Builder
	shared := map[string]string{} // id by outline
	for _, svg := range drawings {
		*svg = outlined.ReplaceAllStringFunc(*svg, func(path string) string {
			m := outlined.FindStringSubmatch(path)
			d := m[2]
			if times[d] < 2 {
				return path
			}
			if shared[d] == "" {
				shared[d] = "o-" + tagOf(d)
				b.WriteString(`<path id="` + shared[d] + `" d="` + d + `"/>`)
			}
			return `<use` + m[1] + m[3] + ` href="#` + shared[d] + `"/>`
		})
	}
	if b.Len() == 0 {
		return ""
	}
	return `<svg class="outlines" width="0" height="0" aria-hidden="true"><defs>` + b.String() + `</defs></svg>`
}
