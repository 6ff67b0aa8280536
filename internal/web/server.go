// Package web is the interface: routes, handlers and view models, one file per
// screen. Handlers read a request, ask package app, and show or answer; what may
// be done, and what comes of it, is decided there. What a screen shows of it (on
// which ground a logo lies, which pieces stand on a shelf) is decided here.
package web

import (
	"context"
	"io/fs"
	"log/slog"
	"net/http"
	"net/netip"
	"strings"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/go-chi/chi/v5"

	"aspenridge/assets"
	"aspenridge/internal/app"
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
