package brand

import (
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"aspenridge/internal/core/colour"
)

// A style guide, as people paste it, says what each thing is: "Primary colour: River #0F3D4C",
// "Headings: Gabarito Bold", and parts it by headings of its own. What is said so goes where it
// belongs; the rest of such a text is not taken for what a post says.

// More of what lines can be, where they say so themselves.
const (
	LineField LineKind = "field" // one text of the kit, see Told.Field
	LineList  LineKind = "list"  // several, see Told.Items
	LineFont  LineKind = "font"  // Text is a family with what stands behind it
	LineCopy  LineKind = "copy"  // words of a card, see Told.Field
	LineOther LineKind = "other" // of a style guide, and nothing a kit has a place for
)

// label is what some words before a colon say of what stands behind it.
type label struct {
	kind  LineKind
	field string // of the kit, or of a card
	words string
}

// labels are in English, German, French and Spanish.
var labels = []label{
	{LineName, "", "brand, brand name, name, company, company name, business, business name, marke, markenname, firma, unternehmen, marque, nom, entreprise, marca, nombre, empresa"},
	{LineField, "tagline", "tagline, slogan, claim, motto, strapline, signature, leitsatz, accroche, lema, eslogan"},
	{LineWebsite, "", "website, web, url, site, homepage, internet, webseite, site web, sitio web, página web"},
	{LinePhone, "", "phone, tel, telephone, telefon, téléphone, teléfono"},
	{LineField, "place", "address, location, visit us, adresse, standort, ort, anschrift, lieu, dirección, lugar"},
	{LineHandle, "", "handle, handles, social, social media, social handle, account, soziale medien, réseaux sociaux, redes sociales"},
	{LineList, "hashtags", "hashtag, hashtags"},
	{LineList, "values", "values, brand values, our values, personality, werte, markenwerte, valeurs, valores"},
	{LineList, "callsToAction", "call to action, calls to action, cta, ctas, buttons, button text, handlungsaufforderung, appel à l'action, llamada a la acción"},
	{LineField, "voice/sounds", "tone, tone of voice, voice, brand voice, we sound, how we sound, tonalität, tonfall, sprache der marke, ton, tono"},
	{LineField, "voice/reader", "audience, target audience, reader, customers, who we speak to, zielgruppe, leser, public, público"},
	{LineField, "voice/sentences", "sentences, sentence style, satzbau, sätze, phrases, frases"},
	{LineList, "voice/says", "we say, words we use, vocabulary, wir sagen, nous disons, decimos"},
	{LineList, "voice/neverSays", "never say, we never say, never, avoid, words to avoid, don't say, do not say, wir sagen nie, vermeiden, tabu, à éviter, evitar"},
	{LineCopy, "headline", "headline, überschrift, schlagzeile, titel, titre, título"},
	{LineCopy, "body", "body, text, copy, fließtext, texte, texto"},
	{LineCopy, "subheading", "subheading, subheadline, subline, unterzeile, sous-titre, subtítulo"},
	{LineOther, "", "mission, vision, about, about us, story, history, über uns, à propos, sobre nosotros, purpose, promise, clear space, minimum size, spacing, version, date, contact, schutzraum, mindestgröße"},
}

// fontLabels say which level a family is for; with "font" in them they need no heading of type
// above them.
var fontLabels = map[Level]string{
	Headline: "headline, headlines, heading, headings, title, titles, display, h1, h2, primary, überschrift, überschriften, titre, titres, título, títulos",
	Body:     "body, body text, body copy, text, copy, paragraph, paragraphs, running text, secondary, fließtext, grundtext, lauftext, texte, texto, párrafo",
}

// colourLabels say what role a colour has.
var colourLabels = map[Role]string{
	Lead:    "primary, main, brand, lead, hauptfarbe, primärfarbe, primaire, principal, primario",
	Support: "secondary, supporting, support, sekundärfarbe, secondaire, secundario",
	Accent:  "accent, highlight, akzent, akzentfarbe, accentuation, acento",
	Ground:  "background, paper, light, hintergrund, fond, fondo",
	Ink:     "text, ink, dark, textfarbe, texte, tinta",
}

// sections are headings of a style guide; typeSection and voiceSections say what the lines below
// them are about.
const (
	sections     = "colours, colors, colour palette, color palette, palette, brand colours, brand colors, logo, logos, imagery, photography, contact, contact details, basics, identity, brand, brand identity, brand guidelines, style guide, overview, farben, farbpalette, bilder, kontakt, couleurs, palette de couleurs, colores, paleta"
	typeSections = "typography, type, fonts, font, typefaces, schrift, schriften, typografie, typographie, polices, tipografía, fuentes"
)

// guideTitle is what follows the name in the title of a style guide.
var guideTitle = regexp.MustCompile(`(?i)[\s:|–—-]*\b(?:brand guidelines?|brand guide|brand book|style ?guide|brand sheet|markenhandbuch|styleguide|charte graphique|guía de estilo)\b.*$`)

// fontWord marks a label as one of a font by itself.
var fontWord = regexp.MustCompile(`(?i)\b(?:fonts?|typefaces?|schriften?|schriftart|polices?|fuentes?|tipograf\p{L}+)\b`)

var colourWord = regexp.MustCompile(`(?i)\b(?:colou?rs?|farben?|couleurs?|color(?:es)?)\b`)

// betweenLabel is what stands between a label and what it labels.
var betweenLabel = regexp.MustCompile(`\s*(?::|\t|\s=\s|\s[–—]\s|\s-\s)\s*`)

// plainLine is a line without the marks of a list or of a heading around it.
func plainLine(line string) string {
	line = strings.TrimSpace(line)
	for _, mark := range []string{"######", "#####", "####", "###", "##", "#", "-", "*", "•", "–", "—"} {
		if rest, ok := strings.CutPrefix(line, mark+" "); ok {
			line = strings.TrimSpace(rest)
		}
	}
	return strings.TrimSpace(strings.ReplaceAll(strings.ReplaceAll(line, "**", ""), "__", ""))
}

func among(word, list string) bool {
	return slices.Contains(strings.Split(list, ", "), word)
}

// guideReader reads the lines of a text that may be a style guide, one after the other.
type guideReader struct {
	section string // "type", "voice/sounds", "colours" ... under which heading a line stands
	told    int    // lines that said what they are, and headings
}

// read says what a line is by its label, or by the heading it stands under; false for one that
// does not say. Nothing comes of a heading.
func (g *guideReader) read(line string) (out []GivenLine, ok bool) {
	line = plainLine(line)
	if title := guideTitle.ReplaceAllString(line, ""); title != line {
		g.told++
		if title == "" {
			return nil, true
		}
		return []GivenLine{{Kind: LineName, Text: title, Says: true}}, true
	}
	at := betweenLabel.FindStringIndex(line)
	label, value := strings.TrimSuffix(line, ":"), ""
	if at != nil {
		label, value = line[:at[0]], strings.TrimSpace(line[at[1]:])
	}
	label = strings.ToLower(strings.TrimSpace(label))
	if value == "" {
		return nil, g.heading(label)
	}
	if len(strings.Fields(label)) > 4 {
		return nil, false
	}
	if told, ok := g.labelled(label, value); ok {
		g.told++
		told.Says = true
		if g.section != "" && (told.Field == "" || told.Field == "place") && told.Kind != LineFont && told.Kind != LineColours {
			g.section = "other" // what comes below is not under that heading any more
		}
		return []GivenLine{told}, true
	}
	return nil, false
}

// heading takes a line for a heading of a style guide.
func (g *guideReader) heading(name string) bool {
	switch {
	case among(name, typeSections):
		g.section = "type"
	case among(name, sections):
		g.section = "other"
	default:
		i := slices.IndexFunc(labels, func(l label) bool {
			return (l.kind == LineField || l.kind == LineList || l.kind == LineOther) && among(name, l.words)
		})
		if i < 0 {
			return false
		}
		g.section = string(labels[i].kind) + " " + labels[i].field
	}
	g.told++
	return true
}

// below is what a line without a label is under its heading; false where that does not say.
func (g *guideReader) below(line string) (GivenLine, bool) {
	kind, field, ok := strings.Cut(g.section, " ")
	line = plainLine(line)
	switch {
	case g.section == "type":
		return GivenLine{Kind: LineFont, Text: line, Says: true}, true
	case !ok:
		return GivenLine{}, false
	case LineKind(kind) == LineList:
		return GivenLine{Kind: LineList, Field: field, Items: items(line), Text: line, Says: true}, true
	}
	return GivenLine{Kind: LineKind(kind), Field: field, Text: line, Says: true}, true
}

func (g *guideReader) labelled(label, value string) (GivenLine, bool) {
	if list, _, err := colour.ReadList(value); err == nil && len(list) > 0 && (strings.ContainsAny(value, "#(") || colourWord.MatchString(label)) {
		return colourOf(label, list), true
	}
	if level, ok := g.fontLevel(label); ok {
		return GivenLine{Kind: LineFont, Level: level, Text: value}, true
	}
	for _, l := range labels {
		if !among(label, l.words) {
			continue
		}
		t := GivenLine{Kind: l.kind, Field: l.field, Text: value}
		switch l.kind {
		case LineList:
			t.Items = items(value)
		case LineWebsite:
			if !webAddress.MatchString(value) {
				return t, false
			}
			t.Text = BareAddress(value)
		case LineHandle:
			if !handle.MatchString(value) {
				return t, false
			}
		case LinePhone:
			if !telephone.MatchString(value) {
				return t, false
			}
		case LineField:
			if l.field == "place" && webAddress.MatchString(value) { // an address of the web
				t = GivenLine{Kind: LineWebsite, Text: BareAddress(value)}
			}
		}
		return t, true
	}
	if g.section != "" && g.section != "type" { // a label of its own, in a style guide
		return GivenLine{Kind: LineOther, Text: label + ": " + value}, true
	}
	return GivenLine{}, false
}

// fontLevel is the level a label of a font is for, "" for all of them.
func (g *guideReader) fontLevel(label string) (Level, bool) {
	named := fontWord.MatchString(label)
	bare := strings.Trim(fontWord.ReplaceAllString(label, ""), " &:")
	for _, level := range []Level{Headline, Body} {
		for _, w := range strings.FieldsFunc(bare, func(r rune) bool { return r == '&' || r == '/' || r == ',' }) {
			if among(strings.TrimSpace(w), fontLabels[level]) && (named || g.section == "type") {
				return level, true
			}
		}
	}
	return "", named && bare == ""
}

// colourOf is a colour with its name and role as a label says them; what else stands beside it
// is the same colour in another notation.
func colourOf(label string, list []colour.Named) GivenLine {
	c := list[0]
	bare := strings.Trim(colourWord.ReplaceAllString(label, ""), " -:")
	role := Role("")
	for r, words := range colourLabels {
		if among(strings.TrimRight(bare, " 0123456789"), words) {
			role = r
		}
	}
	c.Name = strings.Trim(c.Name, " -–—:,/|()")
	if !hasLetters(c.Name) || notation.MatchString(c.Name) {
		c.Name = ""
	}
	if c.Name == "" && role == "" {
		c.Name = capitalised(label)
	}
	return GivenLine{Kind: LineColours, Text: label, Colours: []colour.Named{c}, Roles: []Role{role}}
}

var notation = regexp.MustCompile(`(?i)^(?:hex|rgb|cmyk|hsl|lab|oklch)$`)

func hasLetters(s string) bool { return strings.IndexFunc(s, unicode.IsLetter) >= 0 }

func capitalised(s string) string {
	r := []rune(s)
	if len(r) > 0 {
		r[0] = unicode.ToUpper(r[0])
	}
	return string(r)
}

func items(s string) []string {
	var out []string
	for _, v := range strings.FieldsFunc(s, func(r rune) bool { return r == ',' || r == ';' || r == '|' || r == '/' || r == '•' || r == '·' }) {
		if v = strings.Trim(v, " .\"“”„'"); v != "" {
			out = append(out, v)
		}
	}
	return out
}

// weightWords are what weights are called behind a family (CSS Fonts 4, 2.2.1).
var weightWords = map[string]int{
	"thin": 100, "extralight": 200, "light": 300, "regular": 400, "normal": 400, "book": 400, "medium": 500,
	"semibold": 600, "demibold": 600, "demi": 600, "bold": 700, "extrabold": 800, "heavy": 900, "black": 900,
}

// FamilyIn finds a family among known ones at the beginning of a text, and the weight that
// stands behind it, 0 for none: "Gabarito Bold, 48 px".
func FamilyIn(text string, known []string) (family string, weight int, ok bool) {
	low := strings.ToLower(text)
	for _, k := range known {
		if rest, is := strings.CutPrefix(low, strings.ToLower(k)); is && len(k) > len(family) && (rest == "" || !unicode.IsLetter([]rune(rest)[0])) {
			family, ok = k, true
		}
	}
	if !ok {
		return "", 0, false
	}
	for _, w := range strings.FieldsFunc(strings.NewReplacer("semi bold", "semibold", "extra bold", "extrabold", "semi-bold", "semibold", "extra-bold", "extrabold").Replace(low[len(family):]), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }) {
		if v, is := weightWords[w]; is {
			return family, v, true
		}
		if v, err := strconv.Atoi(w); err == nil && v >= 100 && v <= 900 && v%100 == 0 {
			return family, v, true
		}
	}
	return family, 0, true
}
