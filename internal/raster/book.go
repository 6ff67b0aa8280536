package raster

import (
	"bytes"
	"context"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"

	"aspenridge/internal/core/guide"
	"aspenridge/internal/core/scene"
)

// Book draws pages as one PDF: shapes and letters as vectors, words selectable.
// Fonts of the kit are never embedded, their letters are outlines; the layer of
// words for search is in a free face. The same pages give the same bytes.
func (s *Studio) Book(ctx context.Context, pages []guide.Page) ([]byte, error) {
	dir, err := os.MkdirTemp("", "aspenridge-book-")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(dir)
	args := []string{"-f", "pdf", "--dpi-x=96", "--dpi-y=96"}
	for n, p := range pages {
		svg, err := s.sheet(ctx, p, n)
		if err != nil {
			return nil, err
		}
		name := filepath.Join(dir, fmt.Sprintf("%03d.svg", n))
		if err := os.WriteFile(name, []byte(svg), 0o600); err != nil {
			return nil, err
		}
		args = append(args, name)
	}
	cmd := exec.CommandContext(ctx, "rsvg-convert", args...)
	cmd.Env = append(os.Environ(), "SOURCE_DATE_EPOCH=1767225600", "TZ=UTC")
	var stdout, stderr bytes.Buffer
	cmd.Stdout, cmd.Stderr = &stdout, &limited{&stderr, 2000}
	if err := cmd.Run(); err != nil {
		return nil, fmt.Errorf("rsvg-convert: %v %s", err, strings.TrimSpace(stderr.String()))
	}
	return stdout.Bytes(), nil
}

// sheet writes a page with its pieces inside.
func (s *Studio) sheet(ctx context.Context, p guide.Page, n int) (string, error) {
	var b strings.Builder
	o := scene.Options{Selectable: true, IDs: "p" + strconv.Itoa(n) + "-"}
	b.WriteString(p.Scene.Open(o))
	for _, g := range p.Scene.Groups(o) {
		b.WriteString(g.SVG)
	}
	for i, at := range p.Pieces {
		// twice as fine as it is shown: it is printed
		svg, err := s.SVG(ctx, at.Scene, Output{Format: "pdf", Scale: min(1, 2*at.Scale), IDs: fmt.Sprintf("p%d-%d-", n, i)})
		if err != nil {
			return "", err
		}
		_, inner, _ := strings.Cut(svg, ">")
		fmt.Fprintf(&b, `<svg x="%g" y="%g" width="%g" height="%g" viewBox="0 0 %d %d">%s`, at.X, at.Y, float64(at.Scene.W)*at.Scale, float64(at.Scene.H)*at.Scale, at.Scene.W, at.Scene.H, inner)
	}
	b.WriteString("</svg>")
	return b.String(), nil
}
