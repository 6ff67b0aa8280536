package web

import (
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"
	"rsc.io/qr"

	"aspenridge/internal/app"
	"aspenridge/internal/core/spec"
)

// toPhone makes a short-lived page of the files and shows its address as a QR
// code.
func (s *Server) toPhone(w http.ResponseWriter, r *http.Request) error {
	m, id, err := about(r)
	var token string
	var until time.Time
	if err == nil {
		token, until, err = s.app.Files.ToPhone(r.Context(), m, id, handOverOf(r.URL.Query()))
	}
	if err != nil {
		return err
	}
	address := s.origin(r) + "/p/" + token
	code, err := qr.Encode(address, qr.M)
	if err != nil {
		return err
	}
	host, _, _ := strings.Cut(r.Host, ":")
	reply(w, http.StatusOK, map[string]any{
		"address": address, "minutes": int(time.Until(until).Minutes() + 0.5), "code": qrSVG(code),
		"local": host == "localhost" || strings.HasPrefix(host, "127."),
	})
	return nil
}

// qrSVG draws a QR code with its quiet zone of four modules (ISO/IEC 18004).
func qrSVG(c *qr.Code) string {
	const quiet = 4
	n := c.Size + 2*quiet
	var b strings.Builder
	fmt.Fprintf(&b, `<svg viewBox="0 0 %d %d" role="img" aria-label="QR code of the address"><rect width="%d" height="%d" fill="#fff"/><path fill="#10201b" d="`, n, n, n, n)
	for y := range c.Size {
		for x := range c.Size {
			if c.Black(x, y) {
				fmt.Fprintf(&b, "M%d %dh1v1h-1z", x+quiet, y+quiet)
			}
		}
	}
	b.WriteString(`"/></svg>`)
	return b.String()
}

type phonePage struct {
	Title    string
	Minutes  int
	Captions []app.Caption
	Looks    []string // letters, when there are several
	Files    []phoneFile
}

type phoneFile struct {
	Name, Place, Src, Alt string
	Look                  string // its letter
	First                 bool   // of its look, when there are several
}

// onPhone is the page itself: pictures to keep and the caption to copy. Nobody
// signs in there; the token is the right to it.
func (s *Server) onPhone(w http.ResponseWriter, r *http.Request) error {
	_, set, h, until, err := s.app.Files.OnPhone(r.Context(), chi.URLParam(r, "token"))
	if err != nil {
		return err
	}
	plans, err := set.Plans(h)
	if err != nil {
		return err
	}
	p := phonePage{Title: set.Title(), Minutes: int(time.Until(until).Minutes() + 0.5), Captions: set.Captions()}
	for _, pl := range plans {
		f := phoneFile{Name: pl.Name(pl.Formats[0]), Place: pl.Piece.Placement.Name, Src: "/p/" + chi.URLParam(r, "token") + "/" + url.PathEscape(pl.Key), Alt: pl.Piece.Scene.Alt, Look: set.LookName(pl.Piece.Look.ID)}
		if n := len(p.Looks); n == 0 || p.Looks[n-1] != f.Look {
			p.Looks, f.First = append(p.Looks, f.Look), true
		}
		p.Files = append(p.Files, f)
	}
	if len(p.Looks) < 2 { // nothing to tell apart
		p.Looks = nil
		for i := range p.Files {
			p.Files[i].First = false
		}
	}
	w.Header().Set("Cache-Control", "no-store")
	s.show(w, r, "phone", frame{Title: p.Title, Screen: "phone", Page: p})
	return nil
}

// phonePicture is one file of the page for a phone.
func (s *Server) phonePicture(w http.ResponseWriter, r *http.Request) error {
	m, set, h, _, err := s.app.Files.OnPhone(r.Context(), chi.URLParam(r, "token"))
	if err != nil {
		return err
	}
	key, _ := url.PathUnescape(chi.URLParam(r, "key"))
	pl, f, err := s.app.Files.DrawChosen(r.Context(), m, set, h, key)
	if err != nil {
		return err
	}
	kind, _ := spec.FormatOf(f.Format)
	w.Header().Set("Content-Type", kind.Type)
	w.Header().Set("Cache-Control", "private, max-age=600")
	if r.URL.Query().Get("keep") != "" {
		w.Header().Set("Content-Disposition", attachment(pl.Name(f.Format)))
	}
	_, _ = w.Write(f.Data)
	return nil
}
