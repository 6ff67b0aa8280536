package brief

import "strings"

// ShortIsStale reports whether the short headline was written for another headline
// than the one that stands there now.
func (c Card) ShortIsStale() bool {
	if c.ShortHeadline == nil || strings.TrimSpace(*c.ShortHeadline) == "" || c.ShortOf == nil || c.Headline == nil {
		return false
	}
	return fold(*c.ShortOf) != fold(*c.Headline)
}

func fold(s string) string { return strings.ToLower(strings.Join(strings.Fields(s), " ")) }

// shortLetters is about how many letters a short headline has at most (common
// practice: two lines of 12 to 14).
const shortLetters = 26

// trailing are words no short headline ends with.
var trailing = map[string]bool{"a": true, "an": true, "the": true, "and": true, "or": true, "of": true, "in": true, "on": true, "at": true, "to": true, "for": true, "with": true, "from": true, "by": true, "is": true, "are": true, "your": true, "our": true, "und": true, "der": true, "die": true, "das": true, "von": true, "mit": true, "für": true}

var articles = map[string]bool{"a": true, "an": true, "the": true, "der": true, "die": true, "das": true}

// ShortFor proposes a short headline: the first clause of the headline when it is
// short, else as many of its first words as are. "" when it is short itself.
func ShortFor(headline string) string {
	words := strings.Fields(headline)
	if len([]rune(strings.Join(words, " "))) <= shortLetters {
		return ""
	}
	out, letters := []string{}, 0
	for _, w := range words {
		n := len([]rune(w))
		if len(out) > 0 && letters+1+n > shortLetters {
			break
		}
		letters += n + min(1, len(out))
		out = append(out, w)
		if len(out) > 1 && strings.ContainsAny(w[len(w)-1:], ",;:.!?") || strings.HasSuffix(w, "–") || strings.HasSuffix(w, "—") {
			break // the end of a clause
		}
	}
	// a word that only leads on goes, and with an article what led to it
	for article := true; article && len(out) > 1; {
		last := strings.ToLower(strings.Trim(out[len(out)-1], ",;:.–—"))
		if !trailing[last] {
			break
		}
		out, article = out[:len(out)-1], articles[last]
	}
	return strings.TrimRight(strings.Join(out, " "), " ,;:–—")
}
