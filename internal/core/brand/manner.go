package brand

import (
	"fmt"
	"slices"
	"strings"

	"aspenridge/internal/core/typeset"
)

// Manner is how a brand's pieces are built, whatever their layout. A step that is
// empty is left to the rule ([Kit.MannerWith]).
type Manner struct {
	Corners  string `json:"corners,omitempty"`  // sharp, soft, round: of buttons, cards, inset pictures
	Density  string `json:"density,omitempty"`  // airy, even, packed: margins and gaps
	Contrast string `json:"contrast,omitempty"` // quiet, clear, loud: between the sizes of type
	Pictures string `json:"pictures,omitempty"` // plain, framed, toned in two colours
	Lines    string `json:"lines,omitempty"`    // none, fine, bold
	Ornament string `json:"ornament,omitempty"` // none, pattern, cut shapes: where there is no picture

	Edge       string `json:"edge,omitempty"`       // none, fine, bold: the frame along the edges of every piece
	EdgeColour string `json:"edgeColour,omitempty"` // role of its colour: lead, accent, ink
}

// MannerStep is one of them with what it can be.
type MannerStep struct {
	Name    string
	Choices []string
	at      func(*Manner) *string
}

// MannerSteps lists the steps of a manner.
var MannerSteps = []MannerStep{
	{"corners", []string{"sharp", "soft", "round"}, func(m *Manner) *string { return &m.Corners }},
	{"density", []string{"airy", "even", "packed"}, func(m *Manner) *string { return &m.Density }},
	{"contrast", []string{"quiet", "clear", "loud"}, func(m *Manner) *string { return &m.Contrast }},
	{"pictures", []string{"plain", "framed", "toned"}, func(m *Manner) *string { return &m.Pictures }},
	{"lines", []string{"none", "fine", "bold"}, func(m *Manner) *string { return &m.Lines }},
	{"ornament", []string{"none", "pattern", "cut"}, func(m *Manner) *string { return &m.Ornament }},
	{"edge", []string{"none", "fine", "bold"}, func(m *Manner) *string { return &m.Edge }},
	{"edgeColour", []string{"lead", "accent", "ink"}, func(m *Manner) *string { return &m.EdgeColour }},
}

// Of is what a manner says of the step, "" for nothing.
func (s MannerStep) Of(m Manner) string { return *s.at(&m) }

// String says the manner as people do: "sharp corners, even density, cut ornament";
// what is none is left out.
func (m Manner) String() string {
	var out []string
	for _, s := range MannerSteps {
		if s.Name == "edgeColour" {
			if m.Edge != "" && m.Edge != "none" && m.EdgeColour != "" {
				out[len(out)-1] += " in the " + m.EdgeColour + " colour"
			}
		} else if v := s.Of(m); v != "" && v != "none" {
			out = append(out, v+" "+s.Name)
		}
	}
	return strings.Join(out, ", ")
}

// OfRole is the first colour of the kit with a role.
func (k *Kit) OfRole(r Role) (Colour, bool) {
	for _, c := range k.Colours() {
		if c.Role == r {
			return c, true
		}
	}
	return Colour{}, false
}

func (m Manner) check() error {
	for _, s := range MannerSteps {
		if v := s.Of(m); v != "" && !slices.Contains(s.Choices, v) {
			return fmt.Errorf("%w: manner.%s %q: want one of %s", ErrKit, s.Name, v, strings.Join(s.Choices, ", "))
		}
	}
	return nil
}

// MannerWith is the kit's manner, every step of it: what the kit says, and where it
// says nothing what the rule proposes from the face of the headlines, the shapes of
// the leading logo and the strength of the colours.
func (k *Kit) MannerWith(head typeset.Character) Manner {
	m, proposed := k.Manner, k.proposeManner(head)
	for _, s := range MannerSteps {
		if s.Of(m) == "" {
			*s.at(&m) = s.Of(proposed)
		}
	}
	return m
}

// The rule's thresholds were set by eye on twelve kits of very different character.
const (
	heavyStem  = 0.135 // em: a stem from which a headline is loud by itself
	lightStem  = 0.095 // em: one up to which it is quiet
	strongTint = 0.17  // OKLCh chroma from which a colour is strong
	mostRound  = 0.62  // share (0-1) of a logo's strokes that are curves, from which it is round
	mostSharp  = 0.25
)

func (k *Kit) proposeManner(head typeset.Character) Manner {
	var style Style
	if len(k.TypeSets) > 0 {
		style = k.TypeSets[0].Levels[Headline]
	}
	serif := head.Structure == typeset.SerifStructure
	strength := 0.0
	for _, c := range k.Colours() {
		if c.Role == Lead || c.Role == Accent {
			strength = max(strength, c.Value.OKLCh().C)
		}
	}
	m := Manner{Corners: "soft", Density: "even", Contrast: "clear", Pictures: "plain", Lines: "fine", Ornament: "cut", Edge: "none", EdgeColour: string(Lead)}
	switch {
	case (head.Stem >= heavyStem || style.Upper) && strength >= strongTint, style.Upper && head.Stem >= heavyStem:
		m.Contrast, m.Density, m.Lines = "loud", "packed", "bold"
	case head.Stem <= lightStem || serif && strength < strongTint:
		m.Contrast, m.Density = "quiet", "airy"
	}
	round, known := k.roundness()
	switch {
	case head.Structure == typeset.ScriptStructure, known && round >= mostRound && !serif:
		m.Corners = "round"
	case known && round <= mostSharp, head.Structure == typeset.MonoStructure, head.Structure == typeset.SlabStructure, serif && head.Contrast() > 2.5:
		m.Corners = "sharp"
	}
	if m.Corners == "round" && m.Lines == "fine" {
		m.Lines = "none"
	}
	for _, p := range k.Pictures {
		if p.Kind == Pattern {
			m.Ornament = "pattern"
		}
	}
	return m
}

// roundness is the share (0-1) of the strokes of the leading logo that are curves;
// false where there is no vector logo to tell by.
func (k *Kit) roundness() (share float64, ok bool) {
	var art *Art
	for _, l := range k.Logos {
		if l.Art != nil && l.Art.SVG != "" && (art == nil || l.Lead) {
			art = l.Art
		}
	}
	if art == nil {
		return 0, false
	}
	s := art.SVG[:min(len(art.SVG), 20_000)]
	curves := 4 * (strings.Count(s, "<circle") + strings.Count(s, "<ellipse"))
	lines := 4 * strings.Count(s, "<rect")
	for rest := s; ; {
		i := strings.Index(rest, ` d="`)
		if i < 0 {
			break
		}
		rest = rest[i+4:]
		end := max(0, strings.IndexByte(rest, '"'))
		for _, r := range rest[:end] {
			switch r {
			case 'C', 'c', 'S', 's', 'Q', 'q', 'T', 't', 'A', 'a':
				curves++
			case 'L', 'l', 'H', 'h', 'V', 'v', 'Z', 'z':
				lines++
			}
		}
		rest = rest[end:]
	}
	if curves+lines == 0 {
		return 0, false
	}
	return float64(curves) / float64(curves+lines), true
}
