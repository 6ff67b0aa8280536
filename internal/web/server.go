// Package web is the interface: routes, handlers and view models, one file per
// screen. Handlers read a request, ask package app, and show or answer; what may
// be done, and what comes of it, is decided there. What a screen shows of it (on
// which ground a logo lies, which pieces stand on a shelf) is decided here.
package web

import (
	"context"
	"io"
	"io/fs"
	"log/slog"
	"net/http"
	"net/netip"
	"runtime/debug"
	"strings"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"
	"github.com/klauspost/compress/gzip"

	"aspenridge/assets"
	"aspenridge/internal/app"
	"aspenridge/internal/gate"
	"aspenridge/web"
)

// Options says how the interface is served.
type Options struct {
	Secure   bool           // behind TLS: cookies only travel there
	Proxies  []netip.Prefix // whose word is taken for where a request comes from
	Log      *slog.Logger   // nil for the default
	SignIns  int            // failed sign-ins of a network before further ones are slowed, 0 for 20
	Slow     time.Duration  // what the first slow one waits, 0 for half a second
	Lifetime time.Duration  // of a session at most, 0 for 90 days

	// Address is where people find it, like https://kit.company.example: links begin so. "" for
	// loopback alone, by whatever name that has.
	Address  string
	Hosts    []string // further names it is asked for by, with their ports
	Security string   // contact for reports of faults, like mailto:… or https://… ("" for none)
	Mailbox  bool     // what would be sent about accounts can be looked at by whoever can reach the server: for demonstrations

	// Sample puts a brand to look round in into a workspace; nil for none.
	Sample func(ctx context.Context, a *app.App, m app.Member) (kit app.ID, err error)
}

// Server serves the interface.
type Server struct {
	app      *app.App
	sessions *scs.SessionManager
	pages    *pages
	events   *hub
	log      *slog.Logger
	secure   bool // served over TLS
	address  string
	mailbox  bool
	proxies  []netip.Prefix
	hosts    []string      // names besides that of the address
	signIns  int           // wrong guesses of a network before further ones are slowed
	slow     time.Duration // what the first slow one waits
	security string        // security.txt, "" for none
	links    linkFiles
	sample   func(ctx context.Context, a *app.App, m app.Member) (kit app.ID, err error)
	handler  http.Handler
}

// New puts the server together; ctx ends its background work.
func New(ctx context.Context, a *app.App, o Options) (*Server, error) {
	if o.Log == nil {
		o.Log = slog.Default()
	}
	if o.SignIns == 0 {
		o.SignIns = 20
	}
	if o.Slow == 0 {
		o.Slow = 500 * time.Millisecond
	}
	if o.Lifetime == 0 {
		o.Lifetime = 90 * 24 * time.Hour
	}
	p, err := parsePages()
	if err != nil {
		return nil, err
	}
	s := &Server{app: a, pages: p, events: newHub(), log: o.Log, secure: o.Secure, proxies: o.Proxies, address: strings.TrimSuffix(o.Address, "/"), mailbox: o.Mailbox && !a.People.Sends(), sample: o.Sample, sessions: scs.New()}
	s.hosts, s.signIns, s.slow, s.security = o.Hosts, o.SignIns, o.Slow, securityTxt(o.Security, s.address, time.Now())
	s.sessions.Store = a.People.Sessions()
	s.sessions.Lifetime = o.Lifetime
	s.sessions.ErrorFunc = s.problem
	s.sessions.Cookie.Name = "aspenridge"
	if o.Secure { // no other host, and nobody over plain HTTP, can set it (RFC 6265bis)
		s.sessions.Cookie.Name = "__Host-aspenridge"
	}
	s.sessions.Cookie.HttpOnly = true
	s.sessions.Cookie.SameSite = http.SameSiteLaxMode
	s.sessions.Cookie.Secure = o.Secure
	go a.Listen(ctx, s.events.publish, s.events.present)
	s.handler = s.routes(o)
	return s, nil
}

// compressed packs what is text on its way out; pages are large, with the pieces
// drawn in them, and packing them well takes longer than drawing them.
func compressed() func(http.Handler) http.Handler {
	c := middleware.NewCompressor(1, "text/html", "text/css", "text/javascript", "application/json", "image/svg+xml", "font/ttf")
	c.SetEncoder("gzip", func(w io.Writer, level int) io.Writer {
		z, err := gzip.NewWriterLevel(w, level)
		if err != nil {
			panic(err) // the level is above
		}
		return z
	})
	return c.Handler
}

func (s *Server) ServeHTTP(w http.ResponseWriter, r *http.Request) { s.handler.ServeHTTP(w, r) }

// handler answers a request, or says why it cannot.
type handler func(w http.ResponseWriter, r *http.Request) error

// do answers with a handler; what goes wrong is put into words in one place.
func (s *Server) do(h handler) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		err := readable(r)
		if err == nil {
			err = h(w, r)
		}
		if err != nil {
			s.problem(w, r, err)
		}
	}
}

// often refuses a network that asks for pages of links too often, over all servers.
func (s *Server) often(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if s.app.People.Often(r.Context(), "links", s.network(r), 600, time.Minute) {
			s.problem(w, r, errOften)
			return
		}
		next.ServeHTTP(w, r)
	})
}

// answerTime is how long an answer may take that draws no files: a database that
// says nothing any more is taken for one that is away.
const answerTime = 20 * time.Second

// byTurns lets requests that compose pieces in as there are processors, by turns between
// workspaces and keys before pages, until they have something to write. While they wait for
// the database they have no place ([gate.Outside]): whoever reads slowly, or waits for a lock,
// keeps nobody else waiting.
func (s *Server) byTurns(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		ctx := r.Context()
		if strings.HasSuffix(r.URL.Path, "/sync") {
			ctx = gate.Ahead(ctx)
		}
		ctx, place, err := s.app.Composing.Take(ctx)
		if err != nil {
			s.problem(w, r, err)
			return
		}
		defer place.Leave()
		next.ServeHTTP(leavingWriter{w, place.Leave}, r.WithContext(ctx))
	})
}

// leavingWriter gives a place at a gate back with the first thing that is written.
type leavingWriter struct {
	http.ResponseWriter
	leave func()
}

func (l leavingWriter) WriteHeader(status int) {
	l.leave()
	l.ResponseWriter.WriteHeader(status)
}

func (l leavingWriter) Write(b []byte) (int, error) {
	l.leave()
	return l.ResponseWriter.Write(b)
}

// Unwrap is for [http.ResponseController].
func (l leavingWriter) Unwrap() http.ResponseWriter { return l.ResponseWriter }

// inTime gives up on an answer that takes too long.
func inTime(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		ctx, cancel := context.WithTimeout(r.Context(), answerTime)
		defer cancel()
		next.ServeHTTP(w, r.WithContext(ctx))
	})
}

// recovered answers a fault of ours like any other problem, and notes where it
// was.
func (s *Server) recovered(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		defer func() {
			switch fault := recover(); fault {
			case nil:
			case http.ErrAbortHandler:
				panic(fault)
			default:
				s.log.Error("fault", "path", redactToken(r.URL.Path), "error", fault, "at", string(debug.Stack()))
				s.problem(w, r, errFault)
			}
		}()
		next.ServeHTTP(w, r)
	})
}

// policy is the content security policy: everything comes from here, nothing
// is inline; markup enters a page only through the one function that takes what
// the server has written (shell.js). Pictures inside logos are data URIs.
const policy = "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data: blob:; media-src 'self' blob:; font-src 'self'; " +
	"connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'; require-trusted-types-for 'script'; trusted-types aspenridge"

func (s *Server) secured(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		h := w.Header()
		h.Set("Content-Security-Policy", policy)
		h.Set("X-Content-Type-Options", "nosniff")
		if s.secure {
			h.Set("Strict-Transport-Security", "max-age=31536000; includeSubDomains")
		}
		h.Set("Referrer-Policy", "same-origin")
		h.Set("Cross-Origin-Opener-Policy", "same-origin")
		next.ServeHTTP(w, r)
	})
}

func limitBody(n int64) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			r.Body = http.MaxBytesReader(w, r.Body, n)
			next.ServeHTTP(w, r)
		})
	}
}

func (s *Server) logged(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		start := time.Now()
		ww := middleware.NewWrapResponseWriter(w, r.ProtoMajor)
		next.ServeHTTP(ww, r)
		if !strings.HasPrefix(r.URL.Path, "/static/") && !strings.HasPrefix(r.URL.Path, "/fonts") {
			s.log.Info("request", "method", r.Method, "path", redactToken(r.URL.Path), "status", ww.Status(), "bytes", ww.BytesWritten(), "ms", time.Since(start).Milliseconds())
		}
	})
}

// redactToken is an address without the secret in it, where it has one.
func redactToken(path string) string {
	for _, way := range []string{"/g/", "/p/", "/see/", "/join/", "/reset/", "/confirm/"} {
		if rest, ok := strings.CutPrefix(path, way); ok {
			_, after, more := strings.Cut(rest, "/")
			if more {
				after = "/" + after
			}
			return way + "…" + after
		}
	}
	return path
}

func (s *Server) ready(w http.ResponseWriter, r *http.Request) {
	ctx, cancel := context.WithTimeout(r.Context(), 2*time.Second)
	defer cancel()
	if err := s.app.Ready(ctx); err != nil {
		http.Error(w, "the database does not answer", http.StatusServiceUnavailable)
		return
	}
	_, _ = w.Write([]byte("ready\n"))
}

func (s *Server) static() http.HandlerFunc {
	files := http.StripPrefix("/static/", http.FileServerFS(web.Static()))
	return func(w http.ResponseWriter, r *http.Request) {
		if f, err := fs.Stat(web.Static(), strings.TrimPrefix(r.URL.Path, "/static/")); err != nil || f.IsDir() { // folders are not listed
			s.problem(w, r, app.ErrNotFound)
			return
		}
		w.Header().Set("Cache-Control", "no-cache")
		w.Header().Set("ETag", buildTag)
		if r.Header.Get("If-None-Match") == buildTag {
			w.WriteHeader(http.StatusNotModified)
			return
		}
		files.ServeHTTP(w, r)
	}
}

func font(w http.ResponseWriter, r *http.Request) {
	data, err := assets.Font(chi.URLParam(r, "file"))
	if err != nil || !strings.HasSuffix(chi.URLParam(r, "file"), ".ttf") {
		http.NotFound(w, r)
		return
	}
	w.Header().Set("Content-Type", "font/ttf")
	w.Header().Set("Cache-Control", "public, max-age=31536000, immutable")
	_, _ = w.Write(data)
}

// fontSheet declares every shipped face, so that names can be shown in their
// own letters; a browser fetches only those it uses. Each family also gets a
// class to be set in, since inline styles are not allowed.
func fontSheet(w http.ResponseWriter, _ *http.Request) {
	var b strings.Builder
	for _, f := range assets.Families() {
		for _, face := range f.Faces {
			b.WriteString(`@font-face{font-family:"` + f.Family + `";font-weight:` + itoa(face.Weight) + `;font-display:swap;src:url(/fonts/` + face.File + `) format("truetype")}`)
		}
		b.WriteString(`.face-` + slug(f.Family) + `{font-family:"` + f.Family + `"}`)
	}
	w.Header().Set("Content-Type", "text/css; charset=utf-8")
	w.Header().Set("Cache-Control", "public, max-age=3600")
	_, _ = w.Write([]byte(b.String()))
}
