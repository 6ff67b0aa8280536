package web

import (
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/raster"
)

// handOverOf reads the choice of files from an address or a form.
func handOverOf(q url.Values) app.HandOver {
	return app.HandOver{
		Look: q.Get("look"), Skip: q["skip"], Format: q.Get("format"), Scale: q.Get("scale"),
		Transparent: q.Get("transparent") != "", Videos: q.Get("videos") != "", Names: q.Get("names"),
	}
}

type handOverPage struct {
	ID       string
	Choice   app.HandOver
	Looks    []keptLook
	Formats  []string
	Pattern  string
	Files    []fileRow
	ToLookAt int    // findings that are more than notes
	Parcel   string // the job of the last one, while it is packed or can be fetched
	Captions []app.Caption
	Videos   []app.MadeVideo
	Moving   []movingPiece
	MovingAs []string // formats of those
}

// movingPiece is a piece of the set that moves besides standing still.
type movingPiece struct {
	brief.Movement
	Place spec.Placement
}

func movingPieces(set *app.Set) (out []movingPiece) {
	for _, p := range set.Placements() {
		if m, ok := set.Brief.Moves(p); ok {
			out = append(out, movingPiece{m, p})
		}
	}
	return out
}

// fileRow is a file on the list, before it is drawn.
type fileRow struct {
	app.Plan
	Mini   mini
	Name   string // without its ending where that is decided by weight
	Format string
	Look   string // letter, "" when there is only one
	Bare   bool   // without its ground
	Done   bool
	Skip   bool
	Notes  int
	Query  string
}

// handOver is the page from which files are taken.
func (s *Server) handOver(w http.ResponseWriter, r *http.Request) error {
	set, f, err := s.opened(r, "handover")
	if err != nil {
		return err
	}
	h := handOverOf(r.URL.Query())
	p := handOverPage{ID: set.Doc.ID.String(), Choice: h, Looks: s.trayOf(set).Looks, Formats: raster.Formats, Pattern: app.NamePattern, Captions: set.Captions(), Moving: movingPieces(set), MovingAs: app.MovingFormats}
	if p.Files, err = s.fileRows(r, set, h); err != nil {
		return err
	}
	p.ToLookAt = set.ToLookAt()
	if p.Videos, err = s.app.Files.Videos(r.Context(), member(r), set); err != nil {
		return err
	}
	switch j, err := s.app.Files.LastParcel(r.Context(), member(r), set); {
	case err == nil:
		p.Parcel = j.ID.String()
	case err != nil && !errors.Is(err, app.ErrNotFound):
		return err
	}
	f.Page = p
	s.show(w, r, "handover", f)
	return nil
}

func (s *Server) fileRows(r *http.Request, set *app.Set, h app.HandOver) ([]fileRow, error) {
	m := member(r)
	done, err := s.app.Sets.Finished(r.Context(), m, set.Doc.ID)
	if err != nil {
		return nil, err
	}
	skip := map[string]bool{}
	for _, k := range h.Skip {
		skip[k] = true
	}
	h.Skip = nil // what is left out stays on the list
	plans, err := set.Plans(h)
	if err != nil {
		return nil, err
	}
	var out []fileRow
	for i, pl := range plans {
		p := pl.Piece.Placement
		row := fileRow{Plan: pl, Format: pl.Formats[0], Name: pl.Name(pl.Formats[0])}
		if h.Look == "all" && len(set.Looks) > 1 {
			row.Look = set.LookName(pl.Piece.Look.ID)
		}
		drawn := pl.Piece.Scene
		if row.Bare = h.Transparent && canDoWithout(pl.Formats[0]); row.Bare {
			drawn = drawn.WithoutGround()
		}
		row.Mini = miniOf(drawn, p, fmt.Sprintf("f%d-", i), 56, 0)
		_, row.Done = done[pl.Key]
		row.Skip = skip[pl.Key]
		row.Notes = len(flagged(pl.Piece.Findings))
		q := url.Values{"key": {pl.Key}, "look": {h.Look}, "format": {h.Format}, "scale": {h.Scale}}
		if h.Transparent {
			q.Set("transparent", "1")
		}
		row.Query = q.Encode()
		out = append(out, row)
	}
	return out, nil
}

// files answers with the list for another choice.
func (s *Server) files(w http.ResponseWriter, r *http.Request) error {
	set, err := s.set(r)
	var rows []fileRow
	if err == nil {
		rows, err = s.fileRows(r, set, handOverOf(r.URL.Query()))
	}
	if err != nil {
		return err
	}
	return s.replyPart(w, r, "handover", "files", rows, map[string]any{"count": len(rows)})
}

// weigh draws one file and tells what came of it.
func (s *Server) weigh(w http.ResponseWriter, r *http.Request) error {
	m := member(r)
	set, err := s.set(r)
	if err != nil {
		return err
	}
	pl, f, err := s.app.Files.DrawChosen(r.Context(), m, set, handOverOf(r.URL.Query()), r.URL.Query().Get("key"))
	if err != nil {
		return err
	}
	reply(w, http.StatusOK, map[string]any{"bytes": len(f.Data), "limit": pl.Limit, "format": f.Format, "how": f.How, "heavy": f.TooMuch, "name": pl.Name(f.Format)})
	return nil
}

// canDoWithout reports whether files of a format may have no ground.
func canDoWithout(format string) bool {
	f, _ := spec.FormatOf(format)
	return f.Clear
}

func (s *Server) download(w http.ResponseWriter, r *http.Request) error {
	m, id, err := about(r)
	format := chi.URLParam(r, "format")
	kind, known := spec.FormatOf(format)
	if err == nil && !known {
		err = fmt.Errorf("%w: format %q: want %s", app.ErrInvalid, format, strings.Join(raster.Formats, ", "))
	}
	var name string
	var data []byte
	if err == nil {
		name, data, err = s.app.Files.Download(r.Context(), m, id, chi.URLParam(r, "placement"), format)
	}
	if err != nil {
		return err
	}
	w.Header().Set("Content-Type", kind.Type)
	w.Header().Set("Content-Disposition", attachment(name))
	_, _ = w.Write(data)
	return nil
}

// downloadAll streams the chosen files; how many they are stands in a header, so
// that the page can show how far it is.
func (s *Server) downloadAll(w http.ResponseWriter, r *http.Request) error {
	set, err := s.set(r)
	if err != nil {
		return err
	}
	m := member(r)
	h := handOverOf(r.URL.Query())
	plans, err := s.app.Files.Plans(r.Context(), m, set, h)
	if err != nil {
		return err
	}
	w.Header().Set("Content-Type", "application/zip")
	w.Header().Set("Content-Disposition", attachment(piece.FileName(set.Title())+".zip"))
	w.Header().Set("X-Files", strconv.Itoa(len(plans)))
	if err := s.app.Files.DownloadAll(r.Context(), m, set, &patientWriter{w, http.NewResponseController(w)}, h, nil); err != nil {
		// the headers are out: break the connection so that nobody keeps half a ZIP
		s.log.Error("download", "brief", set.Doc.ID, "error", err)
		panic(http.ErrAbortHandler)
	}
	return nil
}

// readTime is how long a client may read nothing of a download before it is let
// go.
const readTime = 2 * time.Minute

// patientWriter gives the client time for every piece of what is sent.
type patientWriter struct {
	w  io.Writer
	rc *http.ResponseController
}

func (p *patientWriter) Write(b []byte) (int, error) {
	_ = p.rc.SetWriteDeadline(time.Now().Add(readTime))
	return p.w.Write(b)
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
