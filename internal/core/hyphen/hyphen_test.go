package hyphen

import (
	"strings"
	"testing"
	"unicode"
)

// divided is a word with hyphens wherever it may be divided.
func divided(word, language string) string {
	runes, from, out := []rune(word), 0, []string{}
	for _, n := range Points(word, language) {
		out, from = append(out, string(runes[from:n])), n
	}
	return strings.Join(append(out, string(runes[from:])), "-")
}

// TestWordsAsDictionariesDivideThem: German after the Duden's rules of 2006 (compounds
// at their joints), English after the Oxford spelling dictionary, the others after
// their academies' rules of syllables, "hyphen-a-tion" as the title of Liang's thesis
// has it; from memory, and only where three letters stand on both sides.
func TestWordsAsDictionariesDivideThem(t *testing.T) {
	for language, words := range map[string][]string{
		"de": {"Rog-gen-schrot-vor-teig", "Wild-was-ser-si-cher-heits-grund-la-gen", "Sau-er-teig-brot", "Haus-tür"},
		"en": {"under-stand-ing", "won-der-ful", "hyphen-a-tion", "how-ever"},
		"fr": {"ordi-na-teur", "cha-pitre"},
		"es": {"ven-tana", "mari-posa"},
		"it": {"biblio-teca", "gior-nale"},
		"nl": {"school-boe-ken", "zwem-bad"},
		"pl": {"kaja-kowa"},
		"pt": {"bra-si-leiro"},
		"sv": {"hus-båt"},
	} {
		for _, want := range words {
			if got := divided(strings.ReplaceAll(want, "-", ""), language); got != want {
				t.Errorf("%s: %s, the dictionary %s", language, got, want)
			}
		}
	}
}

func TestWhatIsNotDivided(t *testing.T) {
	for _, w := range []string{"", "Haus", "larkmoor.example", "A4-Plakate", "2027", "İstanbulluoğlu", strings.Repeat("x", 5)} {
		if p := Points(w, "de"); len(p) > 0 && strings.ContainsFunc(w, func(r rune) bool { return !unicode.IsLetter(r) }) {
			t.Errorf("%q is divided at %v", w, p)
		}
	}
	if p := Points("Sauerteigbrot", "xx"); p != nil {
		t.Errorf("a word of an unknown language is divided at %v", p)
	}
	for _, p := range Points("Donaudampfschifffahrtsgesellschaftskapitän", "de") {
		if p < 3 {
			t.Error("two letters stand alone")
		}
	}
}

func TestTheLanguageIsGuessed(t *testing.T) {
	for want, texts := range map[string][]string{
		"de": {"Jeden Donnerstag frisch aus dem Holzofen", "Wildwassersicherheitsgrundlagen für Einsteigerinnen", "Sauerteigbrot mit Roggenschrotvorteig"},
		"en": {"The winter roast is here", "Quiet water, first strokes with your friends", "Lift something heavy this spring"},
		"fr": {"Le marché de la place est ouvert pour vous", "Nos pains sont prêts"},
		"es": {"La lección de guitarra para todos", "El mejor café del barrio"},
		"it": {"Il pane della domenica è pronto", "Lezione di cucina per gli amici"},
		"nl": {"Het beste brood van de stad", "Zwemles voor kinderen op zaterdag"},
		"pl": {"Szkoła kajakowa dla każdego", "Dzień dobry, to jest nasz chleb"},
		"pt": {"A lição de violão para você", "O pão da manhã é feito com carinho"},
		"sv": {"Kanelbullar är på väg till dig", "Vår skola för kajak och segling"},
		"":   {"", "هدوء", "42"},
	} {
		for _, s := range texts {
			if got := Guess(s); got != want {
				t.Errorf("%q: %q, want %q", s, got, want)
			}
		}
	}
}
