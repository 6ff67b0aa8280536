package app

import (
	"strings"
	"unicode"

	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/scene"
)

// pieceWord is a word as it stands on a piece.
type pieceWord struct {
	text string
	nth  int        // of those alike in its part, from 0
	box  [4]float64 // 0-1 of the piece
}

// wordsIn are the words of a part of a piece, as they are read; none of one that was moved by
// hand, whose words lie elsewhere than they were solved.
func wordsIn(pc *piece.Piece, slot string) (out []pieceWord) {
	w, h := float64(pc.Scene.W), float64(pc.Scene.H)
	count := map[string]int{}
	for i := range pc.Scene.Parts {
		p := &pc.Scene.Parts[i]
		if p.Slot != slot || !p.Words() || p.Moved != nil {
			continue
		}
		for _, l := range p.Lines {
			for _, one := range wordsOfLine(p, l) {
				one.nth = count[one.text]
				count[one.text]++
				one.box = [4]float64{one.box[0] / w, one.box[1] / h, one.box[2] / w, one.box[3] / h}
				out = append(out, one)
			}
		}
	}
	return out
}

// Where letters are over and under their baseline, of their size (common practice).
const (
	ascends  = 0.8
	descends = 0.25
)

// wordsOfLine are those of one line, with their boxes in px.
func wordsOfLine(p *scene.Part, l scene.TextLine) (out []pieceWord) {
	runes := []rune(l.Line.Text)
	size := p.Size(l)
	for i := 0; i < len(runes); {
		if unicode.IsSpace(runes[i]) {
			i++
			continue
		}
		j := i
		for j < len(runes) && !unicode.IsSpace(runes[j]) {
			j++
		}
		left, right, found := 0.0, 0.0, false
		for _, c := range l.Line.Clusters {
			if c.Rune >= i && c.Rune < j {
				if !found || c.X < left {
					left = c.X
				}
				if !found || c.X+c.Advance > right {
					right = c.X + c.Advance
				}
				found = true
			}
		}
		if text := bareWord(string(runes[i:j])); found && text != "" {
			out = append(out, pieceWord{text: text, box: [4]float64{l.X + left*size, l.Y - ascends*size, (right - left) * size, (ascends + descends) * size}})
		}
		i = j
	}
	return out
}

// bareWord is a word without the marks around it, in small letters.
func bareWord(s string) string {
	return strings.ToLower(strings.TrimFunc(s, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsNumber(r) }))
}

// wordAt is the word of a part a spot lies on, 0-1 of the piece; false for none.
func wordAt(pc *piece.Piece, slot string, x, y float64) (pieceWord, bool) {
	for _, w := range wordsIn(pc, slot) {
		if x >= w.box[0] && x <= w.box[0]+w.box[2] && y >= w.box[1] && y <= w.box[1]+w.box[3] {
			return w, true
		}
	}
	return pieceWord{}, false
}

// wordBox is where a word of a part is now, 0-1 of the piece; false where it is not said there
// any more.
func wordBox(pc *piece.Piece, c Comment) (box [4]float64, ok bool) {
	for _, w := range wordsIn(pc, c.Part) {
		if w.text == c.Word && (w.nth == c.Nth || !ok) {
			box, ok = w.box, true
		}
	}
	return box, ok
}
