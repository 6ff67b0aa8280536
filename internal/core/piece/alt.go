package piece

import (
	"cmp"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/scene"
)

// readFirst are the fields of a piece in the order they are read out.
var readFirst = []string{
	"headline", "subheading", "quote", "source", "person", "rating", "offer", "when", "where", "body", "lines", "hours", "facts",
	"callToAction", "website", "terms", "businessName", "tagline",
}

// alt is a piece in words, for those who cannot see it: all it says, as it stands there, and
// what its pictures show.
func alt(sc *scene.Scene, pictures []photo.Picture) string {
	place := func(p scene.Part) int {
		if i := slices.Index(readFirst, cmp.Or(p.Field, p.Slot)); i >= 0 {
			return i
		}
		return len(readFirst)
	}
	var words []scene.Part
	for _, p := range sc.Parts {
		if strings.TrimSpace(p.Text) != "" {
			words = append(words, p)
		}
	}
	slices.SortStableFunc(words, func(a, b scene.Part) int { return cmp.Compare(place(a), place(b)) })
	var said []string
	for _, p := range words {
		t := strings.Join(strings.Fields(p.Text), " ")
		if last, _ := utf8.DecodeLastRuneInString(t); unicode.IsLetter(last) || unicode.IsNumber(last) {
			t += "."
		}
		said = append(said, t)
	}
	var shows []string
	for _, p := range pictures {
		if p.Alt != "" {
			shows = append(shows, p.Alt)
		}
	}
	out := strings.Join(said, " ")
	if len(shows) > 0 {
		out = strings.TrimSpace(out + " (" + strings.Join(shows, "; ") + ")")
	}
	return out
}
