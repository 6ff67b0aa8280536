// Package web is the interface: routes, handlers and view models, one file per
// screen. Handlers read a request, ask package app, and show or answer; what may
// be done, and what comes of it, is decided there. What a screen shows of it (on
// which ground a logo lies, which pieces stand on a shelf) is decided here.
package web

import (
	"context"
	"io"
	"log/slog"
	"net/http"
	"net/netip"
	"runtime"
	"runtime/debug"
	"slices"
	"strings"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"
	"github.com/go-chi/httprate"
	"github.com/klauspost/compress/gzip"

	"aspenridge/assets"
	"aspenridge/internal/app"
	"aspenridge/internal/gate"
	"aspenridge/internal/raster"
	"aspenridge/web"
)

// Options says how the interface is served.
type Options struct {
	Secure   bool           // behind TLS: cookies only travel there
	Proxies  []netip.Prefix // whose word is taken for where a request comes from
	Log      *slog.Logger   // nil for the default
	SignIns  int            // failed sign-ins of a network before further ones are slowed, 0 for 20
	Slow     time.Duration  // what the first slow one waits, 0 for half a second
	Lifetime time.Duration  // of a session, 0 for 30 days

	Address string // where people find it, like https://kit.company.example: links in mails begin so
	Mailbox bool   // what would be sent about accounts can be looked at by whoever can reach the server: for demonstrations

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
	guesses  *throttle // by account and network
	networks *throttle // by network alone
	links    linkFiles
	sample   func(ctx context.Context, a *app.App, m app.Member) (kit app.ID, err error)
	handler  http.Handler

	composing *gate.Gate // of requests that compute themselves
}

// composers is how many requests may compute at a time.
func composers() int { return max(2, runtime.NumCPU()) }

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
		o.Lifetime = 30 * 24 * time.Hour
	}
	p, err := parsePages()
	if err != nil {
		return nil, err
	}
	s := &Server{app: a, pages: p, events: newHub(), log: o.Log, secure: o.Secure, proxies: o.Proxies, address: strings.TrimSuffix(o.Address, "/"), mailbox: o.Mailbox && !a.People.Sends(), sample: o.Sample, sessions: scs.New(), composing: gate.New(composers(), 0)}
	s.guesses, s.networks = newThrottle(min(5, o.SignIns), o.Slow), newThrottle(o.SignIns, o.Slow)
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

func (s *Server) routes(o Options) http.Handler {
	r := chi.NewRouter()
	r.Use(s.recovered, s.logged, s.secured, within(smallBody, 0), compressed())
	r.Get("/healthz", func(w http.ResponseWriter, _ *http.Request) { _, _ = w.Write([]byte("ok\n")) })
	r.Get("/readyz", s.ready)
	r.Get("/static/*", s.static())
	r.Get("/fonts/{file}", font)
	r.Get("/fonts.css", fontSheet)
	r.Route("/g/{token}", func(r chi.Router) { // guidelines for whoever has the link
		r.Use(s.often)
		r.Get("/", s.do(s.readGuidelines))
		r.Get("/guidelines.pdf", s.do(s.readPDF))
		r.Get("/fonts.css", s.do(s.readFonts))
		r.Get("/own-fonts/{hash}", s.do(s.byLink(s.ownFont)))
		r.Get("/pictures/{hash}/{crop}/{size}", s.do(s.byLink(s.picture)))
	})
	r.Route("/p/{token}", func(r chi.Router) { // files for somebody's phone
		r.Use(s.often)
		r.Get("/", s.do(s.onPhone))
		r.Get("/{key}", s.do(s.phonePicture))
	})

	r.Route("/see/{token}", func(r chi.Router) { // a set for whoever has the link
		r.Use(s.often, http.NewCrossOriginProtection().Handler, limitBody(64<<10), inTime, s.sessions.LoadAndSave, s.byTurns)
		r.Get("/", s.do(s.see))
		r.Post("/unlock", s.do(s.unlock))
		s.proofRoutes(r, r, s.byLinkOf)
	})

	r.Group(func(r chi.Router) {
		r.Use(http.NewCrossOriginProtection().Handler, inTime, s.sessions.LoadAndSave)
		r.Get("/sign-in", s.signInPage)
		r.Get("/sign-up", s.signUpPage)
		r.Group(func(r chi.Router) {
			r.Use(limitBody(64 << 10))
			r.Post("/sign-in", s.do(s.signIn))
			r.Get("/sign-in/code", s.codePage)
			r.Post("/sign-in/code", s.do(s.signInCode))
			r.Post("/sign-up", s.do(s.signUp))
			r.Get("/forgot", s.forgotPage)
			r.Post("/forgot", s.do(s.forgot))
			r.Get("/mailbox", s.do(s.accountMails))
			r.With(s.often).Get("/reset/{token}", s.do(s.resetPage))
			r.With(s.often).Post("/reset/{token}", s.do(s.reset))
			r.With(s.often).Get("/confirm/{token}", s.do(s.confirmPage))
			r.With(s.often).Post("/confirm/{token}", s.do(s.confirm))
			r.With(s.often).Get("/join/{token}", s.do(s.invited))
			r.With(s.often).Post("/join/{token}", s.do(s.join))
		})
		r.Group(func(r chi.Router) {
			r.Use(s.signedIn, s.inReach, s.byTurns, asChange, asking)
			s.shown(r)
			s.oneself(r.With(limitBody(64 << 10)))
			s.managed(r.With(limitBody(64<<10), s.needs("manage")))
			s.changed(r.With(limitBody(1<<20), s.needs("change")))
			s.wide(r.With(limitBody(1<<20), s.needs("change"), s.needsAll))
			r.With(limitBody(64<<10)).Route("/briefs/{id}/proof", func(r chi.Router) {
				r.Get("/", s.byPerson(s.proof))
				r.With(s.needs("change")).Post("/take", s.byPerson(s.takeWords))
				r.With(s.needs("change")).Post("/links", s.byPerson(s.newLink))
				r.With(s.needs("change")).Post("/links/end", s.byPerson(s.endLink))
				s.proofRoutes(r, r.With(s.needs("comment")), s.byPerson)
			})
			received := r.With(within(smallBody, uploadRate), s.needs("change"))
			r.With(within(smallBody, uploadRate), limitBody(app.MostArchiveBytes)).Post("/workspaces/bring", s.do(s.importWorkspace))
			s.received(received.With(limitBody(raster.MaxBytes + 1<<20)))
			all := received.With(limitBody(raster.MaxBytes+1<<20), s.needsAll)
			all.Post("/give", s.do(s.give))
			all.Post("/kits/import", s.do(s.importKit))
			received.With(limitBody(app.MostClipBytes)).Post("/briefs/{id}/clips", s.do(s.bringClip))
			received.With(limitBody(app.MostSoundBytes)).Post("/sounds", s.do(s.bringSound))
		})
	})
	r.NotFound(func(w http.ResponseWriter, r *http.Request) { s.problem(w, r, app.ErrNotFound) })
	return r
}

// shown are the pages, parts of pages and files of somebody who is signed in.
func (s *Server) shown(r chi.Router) {
	r.Get("/", s.home)
	r.Get("/account", s.do(s.me))
	r.Get("/team", s.do(s.team))
	r.Get("/account.json", s.do(s.myData))
	r.With(s.needs("manage")).Get("/workspace.zip", s.do(s.exportWorkspace))
	r.Get("/workspaces", s.do(s.workspaces))
	r.Get("/desk", s.do(s.desk))
	r.Get("/desk/briefs", s.do(s.findBriefs))
	r.Get("/desk/today", s.do(s.today))
	r.With(s.needs("change")).Get("/record", s.do(s.record))
	r.With(s.needs("change")).Get("/record.csv", s.do(s.recordCSV))
	r.Get("/events", s.do(s.streamEvents))
	r.Get("/pictures/{hash}/{crop}/{size}", s.do(s.picture))
	r.Get("/pictures/{hash}/colours", s.do(s.pictureColours))
	r.Get("/icons", s.do(s.icons))
	r.Get("/kits", s.do(s.kits))
	r.Get("/kits/names", s.do(s.kitNames))
	r.Get("/kits/begin", s.do(s.findCharacter))
	r.Get("/kits/new", s.do(s.newKitPage))
	r.Get("/kits/{id}", s.do(s.kit))
	r.Get("/kits/{id}/sheet", s.do(s.kitSheet))
	r.Get("/kits/{id}/slip/{kind}/*", s.do(s.kitSlip))
	r.Get("/kits/{id}/take/{what}", s.do(s.takeAlong))
	r.Get("/kits/{id}/fonts.css", s.do(s.kitFontSheet))
	r.Get("/kits/{id}/try", s.do(s.tryCopy))
	r.Get("/kits/{id}/uses", s.do(s.uses))
	r.Get("/kits/{id}/guidelines", s.do(s.guidelines))
	r.Get("/kits/{id}/guidelines.pdf", s.do(s.guidelinesPDF))
	r.Get("/kits/{id}/compare", s.do(s.compare))
	r.Get("/kits/{id}/forward", s.do(s.kitForward))
	r.Get("/briefs/{id}/forward", s.do(s.briefForward))
	r.Get("/briefs/{id}/finished/{placement}.svg", s.do(s.frozen))
	r.Get("/clips/{hash}", s.do(s.clip))
	r.Get("/own-fonts/{hash}", s.do(s.ownFont))
	r.Get("/briefs/{id}/start", s.do(s.start))
	r.Get("/briefs/{id}/minis", s.do(s.minis))
	r.Get("/briefs/{id}/preview", s.do(s.preview))
	r.Get("/briefs/{id}/examples", s.do(s.examples))
	r.Get("/briefs/{id}/places", s.do(s.places))
	r.Get("/channels", s.do(s.channels))
	r.Get("/channels.json", s.do(s.exportChannels))
	r.Get("/briefs/{id}/looks", s.do(s.looks))
	r.Get("/briefs/{id}/looks/more", s.do(s.moreLooks))
	r.Get("/briefs/{id}/mat", s.do(s.mat))
	r.Get("/briefs/{id}/matters", s.do(s.matters))
	r.Get("/briefs/{id}/colourways", s.do(s.colourways))
	r.Get("/briefs/{id}/pieces/{placement}.{format}", s.do(s.download))
	r.Get("/briefs/{id}/set.zip", s.do(s.downloadAll))
	r.Get("/briefs/{id}/video", s.do(s.video))
	r.Get("/briefs/{id}/video/sound.wav", s.do(s.sound))
	r.Get("/briefs/{id}/video/captions.{format}", s.do(s.captions))
	r.Get("/briefs/{id}/handover", s.do(s.handOver))
	r.Get("/briefs/{id}/handover/files", s.do(s.files))
	r.Get("/briefs/{id}/handover/weigh", s.do(s.weigh))
	r.Get("/jobs/{id}/events", s.do(s.streamJob))
	r.Get("/parcels/{id}", s.do(s.parcel))
	r.Get("/requests/{id}/{which}", s.do(s.snapshot))
}

// needs lets only those through whose role lets them do something in this workspace.
func (s *Server) needs(what string) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			if !app.May(member(r), what) {
				s.problem(w, r, app.ErrNotAllowed)
				return
			}
			next.ServeHTTP(w, r)
		})
	}
}

// needsAll lets only those through who see all of the workspace.
func (s *Server) needsAll(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if member(r).Narrowed {
			s.problem(w, r, app.ErrNotAllowed)
			return
		}
		next.ServeHTTP(w, r)
	})
}

// oneself is what everybody may: their account, where they are, what they had done.
func (s *Server) oneself(r chi.Router) {
	r.Post("/sign-out", s.do(s.signOut))
	r.Post("/account/name", s.do(s.renameMe))
	r.Post("/account/password", s.do(s.changePassword))
	r.Post("/account/email", s.do(s.changeEmail))
	r.Post("/account/tells", s.do(s.setTells))
	r.Post("/account/delete", s.do(s.deleteMe))
	r.Post("/account/sign-out", s.do(s.signOutEverywhere))
	r.Post("/account/sign-out/there", s.do(s.signOutThere))
	r.Post("/account/codes", s.do(s.beginCodes))
	r.Post("/account/codes/ask", s.do(s.askCodes))
	r.Post("/account/codes/end", s.do(s.noCodes))
	r.Post("/team/remove", s.onTeam(s.removePerson)) // oneself; others by who manages
	r.Post("/workspaces", s.do(s.newWorkspace))
	r.Post("/workspaces/open", s.do(s.openWorkspace))
	r.Post("/jobs/{id}/stop", s.do(s.stopJob))
	r.Post("/briefs/{id}/parcel", s.do(s.pack))
	r.Post("/briefs/{id}/here", s.do(s.here))
}

// managed is what those do who have the say in a workspace.
func (s *Server) managed(r chi.Router) {
	r.Post("/team/role", s.onTeam(s.setRole))
	r.Post("/team/scope", s.onTeam(s.setScope))
	r.Post("/team/suspend", s.onTeam(s.suspend))
	r.Post("/team/invite", s.do(s.invite))
	r.Post("/team/invitations/end", s.do(s.endInvitation))
	r.Post("/team/name", s.do(s.renameWorkspace))
	r.Post("/requests/{id}", s.do(s.answer))
}

// wide is what those do who see all of a workspace.
func (s *Server) wide(r chi.Router) {
	r.Post("/kits", s.do(s.newKit))
	r.Post("/sample", s.do(s.lookRound))
	r.Post("/give/back", s.do(s.takeBack))
	r.Post("/kits/begin", s.do(s.startKit))
	r.Post("/kits/{id}/duplicate", s.do(s.duplicateKit))
	r.Post("/channels", s.do(s.changeChannels))
	r.Post("/kits/{id}/default", s.do(s.makeDefault))
}

// changed are the changes people make.
func (s *Server) changed(r chi.Router) {
	r.Post("/briefs", s.do(s.newBrief))
	r.Post("/kits/{id}/edit", s.do(s.editKit))
	r.Post("/briefs/{id}/edit", s.do(s.editBrief))
	r.Post("/briefs/{id}/again", s.do(s.makeAgain))
	r.Post("/briefs/{id}/example", s.do(s.beginFrom))
	r.Post("/briefs/{id}/looks", s.do(s.changeLooks))
	r.Post("/briefs/{id}/looks/compare", s.do(s.compareLooks))
	r.Post("/briefs/{id}/looks/large", s.do(s.largeLook))
	r.Post("/briefs/{id}/sync", s.do(s.sync))
	r.Get("/briefs/{id}/past", s.do(s.past))
	r.Get("/briefs/{id}/past/{seq}", s.do(s.pastPiece))
	r.Post("/briefs/{id}/go-to", s.do(s.goTo))
	r.Post("/documents/{id}/undo", s.do(s.undo))
	r.Post("/briefs/{id}/kit", s.do(s.useKit))
	r.Post("/briefs/{id}/finish", s.do(s.finish))
	r.Post("/briefs/{id}/video/sync", s.do(s.syncVideo))
	r.Post("/briefs/{id}/clips/frame", s.do(s.showFrame))
	r.Post("/briefs/{id}/video/make", s.do(s.makeVideo))
	r.Post("/briefs/{id}/phone", s.do(s.toPhone))
	r.Post("/briefs/{id}/picture", s.do(s.usePicture))
	r.Post("/briefs/{id}/promote", s.do(s.promote))
	r.Post("/forward", s.do(s.bringForward))
	r.Post("/documents/{id}/archive", s.do(s.archive))
	r.Post("/documents/{id}/mend", s.do(s.mend))
	r.Post("/documents/{id}/delete", s.do(s.remove))
}

// received are the files people give.
func (s *Server) received(r chi.Router) {
	r.Post("/kits/{id}/logos", s.do(s.intake(s.app.Brand.AddLogo, s.kitSheet)))
	r.Post("/kits/{id}/logos/{item}", s.do(s.replaceItem(s.app.Brand.ReplaceLogo)))
	r.Post("/kits/{id}/fonts/{item}", s.do(s.replaceItem(s.app.Brand.ReplaceFont)))
	r.Post("/kits/{id}/pictures", s.do(s.intake(s.app.Brand.AddBrandPicture, s.kitSheet)))
	r.Post("/kits/{id}/fonts", s.do(s.intake(s.app.Brand.AddFont, s.kitSheet)))
	r.Post("/briefs/{id}/pictures", s.do(s.onCard(s.app.Briefs.AddPicture)))
	r.Post("/briefs/{id}/pictures/first", s.do(s.placePicture))
	r.Post("/briefs/{id}/pictures/kept", s.do(s.keepPicture))
	r.Post("/briefs/{id}/portrait", s.do(s.onCard(s.app.Briefs.AddPortrait)))
}

// handler answers a request, or says why it cannot.
type handler func(w http.ResponseWriter, r *http.Request) error

// do answers with a handler; what goes wrong is put into words in one place.
func (s *Server) do(h handler) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		if err := h(w, r); err != nil {
			s.problem(w, r, err)
		}
	}
}

// often refuses a network that asks for pages of links too often.
func (s *Server) often(next http.Handler) http.Handler {
	limit := httprate.LimitBy(600, time.Minute, func(r *http.Request) (string, error) { return s.network(r), nil },
		httprate.WithLimitHandler(func(w http.ResponseWriter, r *http.Request) { s.problem(w, r, errOften) }))
	return limit(next)
}

// answerTime is how long an answer may take that draws no files: a database that
// says nothing any more is taken for one that is away.
const answerTime = 20 * time.Second

// longOnes are the parts of addresses behind which files are read in or drawn, or that
// stay open.
var longOnes = []string{"/events", "/set.zip", "/parcels/", "/pieces/", "/weigh", "/guidelines.pdf", "/import", "/logos", "/fonts", "/pictures", "/decide", "/clips", "/sounds", "/sound.wav", "/portrait", "/kit.zip", "/finish", "/forward", "/begin", "/give", "/sample", "/workspace.zip", "/workspaces/bring", "/desk/today", "/record.csv"}

func takesLong(r *http.Request) bool {
	return slices.ContainsFunc(longOnes, func(part string) bool { return strings.Contains(r.URL.Path, part) })
}

// byTurns lets requests that compose pieces in as there are processors, by turns between
// workspaces and keys before pages, until they have something to write: whoever reads
// slowly holds nobody up.
func (s *Server) byTurns(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if takesLong(r) {
			next.ServeHTTP(w, r)
			return
		}
		ctx := r.Context()
		if strings.HasSuffix(r.URL.Path, "/sync") {
			ctx = gate.Ahead(ctx)
		}
		leave, err := s.composing.Enter(ctx, 0)
		if err != nil {
			s.problem(w, r, err)
			return
		}
		defer leave()
		next.ServeHTTP(leavingWriter{w, leave}, r)
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
		if !takesLong(r) {
			ctx, cancel := context.WithTimeout(r.Context(), answerTime)
			defer cancel()
			r = r.WithContext(ctx)
		}
		next.ServeHTTP(w, r)
	})
}

// asChange reads the id of the change a request makes, so that it is made once
// however often it arrives.
func asChange(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if id := r.Header.Get("X-Change"); id != "" && len(id) <= 64 && r.Method == http.MethodPost {
			r = r.WithContext(app.AsChange(r.Context(), id))
		}
		next.ServeHTTP(w, r)
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
				s.log.Error("fault", "path", untold(r.URL.Path), "error", fault, "at", string(debug.Stack()))
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
			s.log.Info("request", "method", r.Method, "path", untold(r.URL.Path), "status", ww.Status(), "bytes", ww.BytesWritten(), "ms", time.Since(start).Milliseconds())
		}
	})
}

// untold is an address without the secret in it, where it has one.
func untold(path string) string {
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
