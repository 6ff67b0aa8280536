package web

import (
	"bytes"
	"context"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"hash/fnv"
	"html/template"
	"io"
	"io/fs"
	"mime"
	"net/http"
	"net/url"
	"os"
	"path"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"
	"unicode/utf8"

	"github.com/go-chi/chi/v5"

	"aspenridge/internal/account"
	"aspenridge/internal/app"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/core/typeset"
	"aspenridge/internal/gate"
	"aspenridge/internal/raster"
	"aspenridge/web"
)

// pages are the parsed templates: each screen with the shared parts.
type pages struct{ byName map[string]*template.Template }

// buildTag changes whenever a static file does.
var buildTag = func() string {
	h := fnv.New64a()
	_ = fs.WalkDir(web.Files, ".", func(p string, d fs.DirEntry, err error) error {
		if err == nil && !d.IsDir() {
			data, _ := web.Files.ReadFile(p)
			_, _ = h.Write(data)
		}
		return err
	})
	return `"` + strconv.FormatUint(h.Sum64(), 36) + `"`
}()

func itoa(n int) string { return strconv.Itoa(n) }

// slug makes a class name of a family's: letters and digits, the rest dashes.
func slug(s string) string {
	return strings.Map(func(r rune) rune {
		if r >= 'a' && r <= 'z' || r >= '0' && r <= '9' {
			return r
		}
		return '-'
	}, strings.ToLower(s))
}

var functions = template.FuncMap{
	"slug":      slug,
	"b64":       base64.StdEncoding.EncodeToString,
	"num":       typeset.Num,
	"svg":       func(s string) template.HTML { return template.HTML(s) }, // written by package scene, or cleaned on import
	"ratio":     func(f float64) string { return strconv.FormatFloat(f, 'f', 1, 64) },
	"on":        inkOn,
	"add":       func(a, b int) int { return a + b },
	"upto":      func(n int) []int { return make([]int, n) },
	"str":       deref,
	"plain":     plain,
	"of":        inSentence,
	"upper":     strings.ToUpper,
	"moment":    moment,
	"languages": func() []language { return languages },
	"tongue":    languageName,
	"kBn":       func(n int) int { return n / 1000 },
	"kB":        func(n int) string { return strconv.Itoa(n/1000) + " kB" },
	"mb":        func(n int64) string { return fmt.Sprintf("%.1f MB", float64(n)/1e6) },
	"json": func(v any) (string, error) {
		b, err := json.Marshal(v)
		return string(b), err
	},
}

// moment writes a time for people: in UTC, until the page writes it as of where they are
// (moments in shell.js).
func moment(t time.Time) template.HTML {
	t = t.UTC()
	return template.HTML(`<time datetime="` + t.Format(time.RFC3339) + `" data-moment>` + t.Format("2 Jan 2006, 15:04") + ` UTC</time>`)
}

// inSentence writes a choice as it stands in a sentence.
func inSentence(id string) string {
	switch id {
	case "none":
		return "nothing"
	case "free":
		return "where you clicked"
	case "callToAction":
		return "the call to action"
	case "picture", "clip":
		return "a " + id
	case "logo", "tagline", "address":
		return "the " + id
	}
	return plain(id)
}

// plain writes an id like "for-dark" as words.
func plain(id string) string { return strings.ReplaceAll(id, "-", " ") }

func deref(s *string) string {
	if s == nil {
		return ""
	}
	return *s
}

// inkOn is the ink of our own labels on a swatch.
func inkOn(c colour.RGB) string {
	if colour.Contrast(c, colour.White) > colour.Contrast(c, colour.Black) {
		return "#FFFFFF"
	}
	return "#10201B"
}

func parsePages() (*pages, error) {
	p := &pages{map[string]*template.Template{}}
	shared, err := template.New("shared").Funcs(functions).ParseFS(web.Files, "templates/_*.html")
	if err != nil {
		return nil, err
	}
	names, err := fs.Glob(web.Files, "templates/*.html")
	if err != nil {
		return nil, err
	}
	for _, n := range names {
		base := path.Base(n)
		if strings.HasPrefix(base, "_") {
			continue
		}
		t, err := shared.Clone()
		if err != nil {
			return nil, err
		}
		t.Funcs(template.FuncMap{"part": func(name string, data any) (template.HTML, error) { // where a table says which
			var b bytes.Buffer
			err := t.ExecuteTemplate(&b, name, data)
			return template.HTML(b.String()), err
		}, "tag": func(html template.HTML) string { return tagOf(string(html)) }})
		if t, err = t.ParseFS(web.Files, n); err != nil {
			return nil, err
		}
		p.byName[strings.TrimSuffix(base, ".html")] = t
	}
	return p, nil
}

// frame is what every page shows around its own part.
type frame struct {
	Title  string
	Member app.Member
	Screen string // start, looks, mat, kit, desk
	Kit    *app.Kit
	Set    *app.Set
	Undoes string // id of the document undo acts on
	Steps  app.Steps
	Watch  string // ids of the documents whose changes this page follows
	Build  string
	Page   any
}

// May reports whether who looks at the page has a capability.
func (f frame) May(c roles.Capability) bool { return f.Member.May(c) }

func (f frame) Initials() string {
	out := ""
	for _, w := range strings.Fields(f.Member.Name) {
		if r := []rune(w); len(out) < 2 && len(r) > 0 {
			out += strings.ToUpper(string(r[0]))
		}
	}
	return out
}

func (s *Server) show(w http.ResponseWriter, r *http.Request, name string, f frame) {
	f.Member = member(r)
	f.Build = strings.Trim(buildTag, `"`)
	s.render(w, r, name, "page", http.StatusOK, f)
}

// drafts are where pages are written before they go out; with the pieces in them
// they take up to a megabyte.
var drafts = sync.Pool{New: func() any { return new(bytes.Buffer) }}

func (s *Server) render(w http.ResponseWriter, r *http.Request, name, block string, status int, data any) {
	b := drafts.Get().(*bytes.Buffer)
	defer drafts.Put(b)
	b.Reset()
	if err := s.pages.byName[name].ExecuteTemplate(b, block, data); err != nil {
		s.log.Error("template", "page", name, "error", err)
		http.Error(w, "this page could not be drawn", http.StatusInternalServerError)
		return
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.Header().Set("Cache-Control", "no-store")
	w.WriteHeader(status)
	_, _ = w.Write(b.Bytes())
}

func (s *Server) fragment(name, block string, data any) (string, error) {
	var b bytes.Buffer
	err := s.pages.byName[name].ExecuteTemplate(&b, block, data)
	return b.String(), err
}

// tagOf tells one drawing of a part of a page from another: a page says which it shows, and is
// sent what differs.
func tagOf(html string) string {
	h := fnv.New64a()
	_, _ = h.Write([]byte(html))
	return strconv.FormatUint(h.Sum64(), 36)
}

// replyPart answers with a part of a page as "html", and with what else there is
// to say.
func (s *Server) replyPart(w http.ResponseWriter, r *http.Request, page, part string, data any, more map[string]any) error {
	html, err := s.fragment(page, part, data)
	if err != nil {
		return err
	}
	if more == nil {
		more = map[string]any{}
	}
	more["html"] = html
	reply(w, http.StatusOK, more)
	return nil
}

func wantsJSON(r *http.Request) bool {
	return strings.Contains(r.Header.Get("Accept"), "application/json")
}

func reply(w http.ResponseWriter, status int, v any) {
	w.Header().Set("Content-Type", "application/json")
	w.Header().Set("Cache-Control", "no-store")
	w.WriteHeader(status)
	enc := json.NewEncoder(w)
	enc.SetEscapeHTML(false)
	_ = enc.Encode(v)
}

// The faults that are nobody else's.
var (
	errOften = errors.New("that was asked for too often; wait a minute")
	errFault = errors.New("a fault of ours")
)

// plainly says what was wrong without the names of files and kinds of error that
// stand before it, which mean something on the command line alone.
func plainly(err error) string {
	words := err.Error()
	for _, prefix := range []string{app.ErrInvalid.Error(), edit.ErrPath.Error(), brand.ErrKit.Error(), brief.ErrBrief.Error()} {
		words = strings.TrimPrefix(words, prefix+": ")
	}
	return words
}

// mostWords is how many bytes come at most with a request that brings no file.
const mostWords = 1 << 20

// errNoText means that what came is no text.
var errNoText = errors.New("there is a character in it that is none (NUL, or broken UTF-8); take it out, or copy it again as text")

// readable refuses fields of a form or an address that are no text.
func readable(r *http.Request) error {
	if kind, _, _ := mime.ParseMediaType(r.Header.Get("Content-Type")); kind == "application/x-www-form-urlencoded" {
		if err := r.ParseForm(); err != nil {
			var tooLarge *http.MaxBytesError
			if errors.As(err, &tooLarge) {
				return err
			}
			return fmt.Errorf("%w: the form cannot be read: %v", app.ErrInvalid, err)
		}
	}
	for _, fields := range []url.Values{r.URL.Query(), r.PostForm} {
		for name, list := range fields {
			for _, v := range append(list, name) {
				if !utf8.ValidString(v) || strings.ContainsRune(v, 0) {
					return errNoText
				}
			}
		}
	}
	return nil
}

// problem turns an error into words and a status, in one place.
func (s *Server) problem(w http.ResponseWriter, r *http.Request, err error) {
	status, words := http.StatusInternalServerError, "something went wrong here; nothing you did is lost"
	if errors.Is(r.Context().Err(), context.Canceled) { // nobody waits for the answer
		return
	}
	var conflict *app.Conflict
	var tooLarge *http.MaxBytesError
	var rail *app.Railed
	switch {
	case errors.Is(err, app.ErrAsked):
		reply(w, http.StatusAccepted, map[string]any{"asked": true})
		return
	case errors.As(err, &rail) && wantsJSON(r):
		answer := map[string]any{"error": rail.Words, "rail": rail.Rail}
		if rail.Ask {
			answer["ask"] = true
		}
		reply(w, http.StatusForbidden, answer)
		return
	case errors.As(err, &rail):
		status, words = http.StatusForbidden, rail.Words
	case errors.As(err, &conflict):
		reply(w, http.StatusConflict, map[string]any{"error": "this was changed elsewhere meanwhile", "path": conflict.Path, "theirs": conflict.Theirs, "yours": conflict.Yours, "seq": conflict.Seq})
		return
	case errors.As(err, &tooLarge):
		most := int64(raster.MaxBytes)
		if tooLarge.Limit > most+1<<20 { // a film, or a sound
			most = tooLarge.Limit
		}
		status, words = http.StatusRequestEntityTooLarge, fmt.Sprintf("the file is too large: at most %d MB are taken", most>>20)
		if tooLarge.Limit <= mostWords {
			words = fmt.Sprintf("that is too much at once: at most %d kB of words are taken; send it in parts", tooLarge.Limit>>10)
		}
	case errors.Is(err, app.ErrNotFound):
		status, words = http.StatusNotFound, "there is nothing here (any more)"
	case errors.Is(err, errOften):
		w.Header().Set("Retry-After", "60")
		status, words = http.StatusTooManyRequests, errOften.Error()
	case errors.Is(err, account.ErrBusy):
		w.Header().Set("Retry-After", "2")
		status, words = http.StatusServiceUnavailable, account.ErrBusy.Error()
	case errors.Is(err, gate.ErrCrowded), errors.Is(err, context.DeadlineExceeded) && !app.Away(err):
		w.Header().Set("Retry-After", "3")
		status, words = http.StatusServiceUnavailable, gate.ErrCrowded.Error()
	case errors.Is(err, app.ErrFilesAway):
		w.Header().Set("Retry-After", "3")
		status, words = http.StatusServiceUnavailable, "the place where files are kept does not answer just now; nothing you did is lost, try again in a moment"
		s.log.Error("files away", "path", redactToken(r.URL.Path), "error", err)
	case errors.Is(err, syscall.ENOSPC):
		status, words = http.StatusInsufficientStorage, "the server has no storage left; nothing you did is lost. Tell the person who runs it"
		s.log.Error("no room", "path", redactToken(r.URL.Path), "error", err)
	case app.Away(err):
		w.Header().Set("Retry-After", "1")
		status, words = http.StatusServiceUnavailable, "the database does not answer just now; nothing you did is lost, and it is tried again"
		s.log.Error("database away", "path", redactToken(r.URL.Path), "error", err)
	case app.Unstorable(err), errors.Is(err, errNoText):
		status, words = http.StatusUnprocessableEntity, errNoText.Error()
	case errors.Is(err, os.ErrDeadlineExceeded):
		status, words = http.StatusRequestTimeout, "the request took too long to arrive"
	case errors.Is(err, app.ErrNotAllowed):
		s.log.Warn("not allowed", "path", redactToken(r.URL.Path), "method", r.Method, "person", member(r).ID, "workspace", member(r).Workspace)
		status, words = http.StatusForbidden, app.ErrNotAllowed.Error()
	case errors.Is(err, app.ErrInvalid), errors.Is(err, raster.ErrFile), errors.Is(err, brand.ErrKit), errors.Is(err, brief.ErrBrief), errors.Is(err, colour.ErrSyntax), errors.Is(err, raster.ErrSize):
		status, words = http.StatusUnprocessableEntity, plainly(err)
	default:
		s.log.Error("request failed", "path", redactToken(r.URL.Path), "error", err)
	}
	if wantsJSON(r) {
		reply(w, status, map[string]string{"error": words})
		return
	}
	if status == http.StatusServiceUnavailable && r.Method == http.MethodGet {
		w.Header().Set("Refresh", "3") // the page tries again by itself
	}
	f := frame{Title: "Not here", Page: words, Build: strings.Trim(buildTag, `"`)}
	f.Member = member(r)
	s.render(w, r, "problem", "page", status, f)
}

func pathID(r *http.Request) (app.ID, error) {
	id, err := app.ParseID(chi.URLParam(r, "id"))
	if err != nil {
		return id, app.ErrNotFound
	}
	return id, nil
}

func readJSON(r *http.Request, into any) error {
	data, err := io.ReadAll(r.Body)
	if err == nil && !utf8.Valid(data) { // it would be read with signs in place of what is broken
		return errNoText
	}
	if err == nil {
		err = json.Unmarshal(data, into)
	}
	if err != nil {
		var tooLarge *http.MaxBytesError
		if errors.As(err, &tooLarge) {
			return err
		}
		if errors.Is(err, os.ErrDeadlineExceeded) {
			return err
		}
		return fmt.Errorf("%w: the request is not what this page sends; reload the page and try again", app.ErrInvalid)
	}
	return nil
}
