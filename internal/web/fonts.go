package web

import (
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/go-chi/chi/v5"

	"aspenridge/assets"
	"aspenridge/internal/app"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/typeset"
)

// ownFontRow is a font file of the kit as the sheet shows it.
type ownFontRow struct {
	brand.Font
	origin
	Index int
	Facts []string
	Plain string // what its embedding permission means, in plain words
}

func ownFonts(k *app.Kit) []ownFontRow {
	var out []ownFontRow
	for i, f := range k.Fonts {
		row := ownFontRow{Font: f, origin: fileOrigin(k, "fonts", i), Index: i}
		style := f.Facts.Style
		if f.Facts.Variable {
			style = "variable, at its default"
		}
		row.Facts = []string{strings.TrimSpace(fmt.Sprintf("%s %d", style, f.Facts.Weight)), f.Facts.Format, fmt.Sprintf("%d glyphs", f.Facts.Glyphs), strings.Join(f.Facts.Scripts, ", ")}
		switch f.Facts.Embedding {
		case typeset.Restricted:
			row.Plain = "The file forbids embedding without the maker’s leave. Ask for it before you confirm; pieces carry outlines, never the font itself."
		case typeset.Preview:
			row.Plain = "The file allows showing and printing, not editing."
		}
		if f.Facts.Unkerned {
			row.Plain = strings.TrimSpace(row.Plain + " Its kerning cannot be read: pairs like “AV” stand further apart than its maker meant.")
		}
		out = append(out, row)
	}
	return out
}

// chooseFrom lists the families of the pickers, the kit's own first.
func chooseFrom(k *brand.Kit) []assets.Family {
	var out []assets.Family
	for _, f := range k.Fonts {
		if f.Family != "" && !slices.ContainsFunc(out, func(o assets.Family) bool { return o.Family == f.Family }) {
			out = append(out, assets.Family{Family: f.Family, Kind: "own", Words: []string{"your own"}})
		}
	}
	for _, f := range assets.Families() {
		if f.Kind != "fallback" {
			out = append(out, f)
		}
	}
	return out
}

// kitFontSheet declares the kit's own faces, so that the sheet can show them.
func (s *Server) kitFontSheet(w http.ResponseWriter, r *http.Request) error {
	k, err := s.kitOf(r)
	if err != nil {
		return err
	}
	writeFontSheet(w, k, "/own-fonts/")
	return nil
}

func writeFontSheet(w http.ResponseWriter, k *app.Kit, base string) {
	var b strings.Builder
	for _, f := range k.Fonts {
		if f.Family == "" {
			continue
		}
		style := "normal"
		if f.Facts.Italic {
			style = "italic"
		}
		name := cssString(f.Family)
		fmt.Fprintf(&b, "@font-face{font-family:%s;font-weight:%d;font-style:%s;font-display:swap;src:url(%s%s)}.face-%s{font-family:%s}", name, f.Facts.Weight, style, base, app.HashOf(f.File), slug(f.Family), name)
	}
	w.Header().Set("Content-Type", "text/css; charset=utf-8")
	w.Header().Set("Cache-Control", "no-cache")
	_, _ = w.Write([]byte(b.String()))
}

// cssString quotes a name a file brought along (CSS Syntax 3, section 4.3.5).
func cssString(s string) string {
	var b strings.Builder
	b.WriteByte('"')
	for _, r := range s {
		if r < ' ' || r == '"' || r == '\\' || r == '<' || r > '~' {
			fmt.Fprintf(&b, "\\%x ", r)
		} else {
			b.WriteRune(r)
		}
	}
	return b.String() + `"`
}

func (s *Server) ownFont(w http.ResponseWriter, r *http.Request) error {
	m := member(r)
	data, err := s.app.Brand.FontFile(r.Context(), m, chi.URLParam(r, "hash"))
	if err != nil {
		return err
	}
	w.Header().Set("Content-Type", "font/sfnt")
	w.Header().Set("Cache-Control", "private, max-age=31536000, immutable")
	_, _ = w.Write(data)
	return nil
}
