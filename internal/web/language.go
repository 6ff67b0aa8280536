package web

import (
	"cmp"
	"strings"
)

// language is one the words of a kit or a brief may be in.
type language struct {
	ID   string // as BCP 47 has it
	Name string // in itself
}

// languages are those offered, by their names: those there are patterns of hyphens for, and
// those whose scripts the shipped faces have.
var languages = []language{
	{"ar", "العربية"}, {"cs", "Čeština"}, {"da", "Dansk"}, {"de", "Deutsch"}, {"en", "English"}, {"es", "Español"}, {"fr", "Français"}, {"he", "עברית"},
	{"it", "Italiano"}, {"nl", "Nederlands"}, {"nb", "Norsk"}, {"pl", "Polski"}, {"pt", "Português"}, {"fi", "Suomi"}, {"sv", "Svenska"}, {"tr", "Türkçe"},
}

// languageName is how a language calls itself, its tag where it is none of those offered.
func languageName(tag string) string {
	id, _, _ := strings.Cut(strings.ToLower(tag), "-")
	for _, l := range languages {
		if l.ID == id {
			return l.Name
		}
	}
	return cmp.Or(tag, "not told by its words")
}
