package web

import (
	"fmt"
	"net/http"
	"strings"

	"github.com/go-chi/chi/v5"

	"aspenridge/internal/app"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/raster"
)

var mediaTypes = map[string]string{"png": "image/png", "jpeg": "image/jpeg", "webp": "image/webp", "svg": "image/svg+xml", "pdf": "application/pdf"}

func (s *Server) download(w http.ResponseWriter, r *http.Request) {
	m, _ := member(r)
	id, err := pathID(r)
	format := chi.URLParam(r, "format")
	if err == nil && mediaTypes[format] == "" {
		err = fmt.Errorf("%w: format %q: want %s", app.ErrInvalid, format, strings.Join(raster.Formats, ", "))
	}
	var name string
	var data []byte
	if err == nil {
		name, data, err = s.app.Download(r.Context(), m, id, chi.URLParam(r, "placement"), format)
	}
	if err != nil {
		s.problem(w, r, err)
		return
	}
	w.Header().Set("Content-Type", mediaTypes[format])
	w.Header().Set("Content-Disposition", attachment(name))
	_, _ = w.Write(data)
}

func (s *Server) downloadAll(w http.ResponseWriter, r *http.Request) {
	set, err := s.set(r)
	if err != nil {
		s.problem(w, r, err)
		return
	}
	m, _ := member(r)
	name := set.FileName(spec.Placement{ID: "set"}, "zip")
	name, _, _ = strings.Cut(name, "_set_")
	w.Header().Set("Content-Type", "application/zip")
	w.Header().Set("Content-Disposition", attachment(name+".zip"))
	if err := s.app.DownloadAll(r.Context(), m, set, w, "png"); err != nil {
		// the headers are out: break the connection so that nobody keeps half a ZIP
		s.log.Error("download", "brief", set.Doc.ID, "error", err)
		panic(http.ErrAbortHandler)
	}
}

// attachment names a download; the plain form is for old clients, the starred
// one (RFC 6266) carries any letter.
func attachment(name string) string {
	plain := strings.Map(func(r rune) rune {
		if r > '~' || r < ' ' || r == '"' || r == '\\' {
			return '-'
		}
		return r
	}, name)
	var star strings.Builder
	for _, b := range []byte(name) {
		if b >= 'a' && b <= 'z' || b >= 'A' && b <= 'Z' || b >= '0' && b <= '9' || strings.IndexByte("-._", b) >= 0 {
			star.WriteByte(b)
		} else {
			fmt.Fprintf(&star, "%%%02X", b)
		}
	}
	return `attachment; filename="` + plain + `"; filename*=UTF-8''` + star.String()
}
