package spec

import "testing"

// FuzzPlace reads any text as a place or a size.
func FuzzPlace(f *testing.F) {
	for _, s := range []string{"story", "card-tall+2", "1200x628", "10 x 15 cm at 300 dpi", "1e9x1", "card-tall+999999999999", "+", "0x0"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		if p, err := Directory(Catalogue()).Parse(text); err == nil && (p.Width < 1 || p.Height < 1 || p.Card < 0) {
			t.Errorf("%q is %+v", text, p)
		}
		_, _, _ = ParseSize(text)
		Directory(Catalogue()).Search(text)
	})
}
