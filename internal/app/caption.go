package app

import (
	"slices"
	"strings"
)

// Caption is what is written beside a piece where it is posted.
type Caption struct {
	Name string // short, medium, long
	Text string
}

// captionLengths say which fields a caption has, a paragraph each, and how many hashtags.
var captionLengths = []struct {
	name string
	says [][]string
	tags int
}{
	{"short", [][]string{{"headline", "quote"}}, 1},
	{"medium", [][]string{{"headline", "subheading"}, {"quote", "source", "person"}, {"when", "where"}, {"offer"}}, 3},
	{"long", [][]string{{"headline", "subheading"}, {"quote", "source", "person"}, {"when", "where"}, {"offer"}, {"body", "lines", "facts"}}, 30},
}

// Captions are the words of the brief as running text, with what to do, the address and the
// kit's hashtags, in up to three lengths; lengths that say the same are one, called by the
// longer one's name.
func (s *Set) Captions() []Caption {
	w := s.Brief.Cards[0].Words(s.Kit.Kit, s.Brief.Language)
	var out []Caption
	for _, length := range slices.Backward(captionLengths) {
		var lines []string
		for _, slots := range length.says {
			var parts []string
			for _, slot := range slots {
				if t := sentence(w[slot]); t != "" {
					parts = append(parts, t)
				}
			}
			if len(parts) > 0 {
				lines = append(lines, strings.Join(parts, " "))
			}
		}
		said := len(lines)
		if a := w["callToAction"]; a != "" || w["website"] != "" {
			lines = append(lines, strings.Trim(a+": "+w["website"], ": "))
		}
		if tags := s.Kit.Hashtags; len(tags) > 0 {
			lines = append(lines, strings.Join(tags[:min(length.tags, len(tags))], " "))
		}
		text := strings.Join(lines, "\n\n")
		if said == 0 && len(out) > 0 || slices.ContainsFunc(out, func(c Caption) bool { return c.Text == text }) {
			continue
		}
		out = append([]Caption{{length.name, text}}, out...)
	}
	return out
}

// Caption is the longest of them.
func (s *Set) Caption() string {
	list := s.Captions()
	return list[len(list)-1].Text
}

// sentence is a text on one line, with a stop at its end.
func sentence(t string) string {
	t = strings.TrimSpace(strings.ReplaceAll(t, "\n", ", "))
	if t != "" && !strings.ContainsAny(t[len(t)-1:], ".!?:") && !strings.HasSuffix(t, "”") {
		t += "."
	}
	return t
}
