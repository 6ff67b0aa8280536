// Package stage sets up whole applications for tests and for the pictures in
// docs/screenshots: a database of their own on the cluster scripts/postgres
// runs, a folder of files, the server on a free port of loopback.
package stage

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"github.com/alexedwards/argon2id"

	"aspenridge/demo"
	"aspenridge/internal/app"
	"aspenridge/internal/blob"
	"aspenridge/internal/store"
	"aspenridge/internal/web"
)

// Stage is an application that runs.
type Stage struct {
	App      *app.App
	Store    *store.Store // what it stands on
	Blobs    *blob.Store
	URL      string // http://127.0.0.1:port
	Database string // URL of its database
	Files    string // folder of its files
	Proxy    *Proxy // with Far
	closers  []func()
}

// Options says what is set up.
type Options struct {
	Demo   bool                            // load the demo
	Strong bool                            // passwords cost what they cost people
	Work   bool                            // jobs are done
	Now    func() time.Time                // nil for the clock
	Far    bool                            // the database is reached by way of a [Proxy]
	Log    io.Writer                       // of requests, nil for none
	Wrap   func(http.Handler) http.Handler // around the server, nil for nothing
	Web    web.Options
}

// Quick hashes passwords of accounts that only a test signs in to.
var Quick = &argon2id.Params{Memory: 64, Iterations: 1, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// Open sets an application up and serves it. The caller's program must call
// raster.ChildMain first thing.
func Open(ctx context.Context, o Options) (*Stage, error) {
	s := &Stage{}
	if err := s.open(ctx, o); err != nil {
		s.Close()
		return nil, err
	}
	return s, nil
}

func (s *Stage) open(ctx context.Context, o Options) (err error) {
	if s.Files, err = os.MkdirTemp("", "aspenridge-files-"); err != nil {
		return err
	}
	s.closers = append(s.closers, func() { _ = os.RemoveAll(s.Files) })
	like := ""
	if o.Demo && !o.Strong {
		if like, err = theDemo.copied(ctx, s.Files); err != nil {
			return err
		}
	}
	st, u, drop, err := newStore(ctx, like)
	if err != nil {
		return err
	}
	s.Database, s.closers = u, append(s.closers, drop)
	if o.Far {
		if s.Proxy, err = NewProxy(u); err != nil {
			return err
		}
		s.closers = append(s.closers, s.Proxy.Close)
		if st, err = store.Open(ctx, s.Proxy.URL, 10*time.Second); err != nil {
			return err
		}
		s.closers = append(s.closers, st.Close)
	}
	b, err := blob.Open(s.Files, "", "")
	if err != nil {
		return err
	}
	how := app.Options{Now: o.Now, Hashing: Quick, Beat: 100 * time.Millisecond, Log: slog.New(slog.DiscardHandler)}
	if o.Strong {
		how.Hashing = nil
	}
	if s.App, err = app.New(st, b, how); err != nil {
		return err
	}
	s.Store, s.Blobs = st, b
	if o.Demo && like == "" {
		if err := demo.Load(ctx, s.App); err != nil {
			return err
		}
	}
	ctx, cancel := context.WithCancel(ctx)
	s.closers = append(s.closers, cancel)
	if o.Work {
		var working sync.WaitGroup
		working.Go(func() { _ = s.App.Work.Run(ctx, 2) })
		s.closers = append(s.closers, func() { cancel(); working.Wait() })
	}
	if o.Log == nil {
		o.Log = io.Discard
	}
	s.URL, err = s.serve(ctx, s.App, o)
	return err
}

// serve serves an application on a port of its own and says where.
func (s *Stage) serve(ctx context.Context, a *app.App, o Options) (url string, err error) {
	o.Web.Sample = demo.Fill
	o.Web.Log = slog.New(slog.NewTextHandler(o.Log, nil))
	var h http.Handler
	if h, err = web.New(ctx, a, o.Web); err != nil {
		return "", err
	}
	if o.Wrap != nil {
		h = o.Wrap(h)
	}
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return "", err
	}
	srv := &http.Server{Handler: h, ReadHeaderTimeout: 5 * time.Second, ErrorLog: slog.NewLogLogger(o.Web.Log.Handler(), slog.LevelWarn)}
	go func() { _ = srv.Serve(ln) }()
	s.closers = append(s.closers, func() { _ = srv.Close() })
	return "http://" + ln.Addr().String(), nil
}

// Another serves the same database and files by a server of its own and says where.
func (s *Stage) Another(ctx context.Context, o web.Options) (url string, err error) {
	a, err := app.New(s.Store, s.Blobs, app.Options{Hashing: Quick, Log: slog.New(slog.DiscardHandler)})
	if err != nil {
		return "", err
	}
	return s.serve(ctx, a, Options{Web: o, Log: io.Discard})
}

// A Template is an application as it was loaded once, for whoever needs it over and over
// to begin with a copy of. Safe for concurrent use.
type Template struct {
	Load func(context.Context, *app.App) error

	mu              sync.Mutex
	database, files string
	drop            func()
}

// theDemo is what every stage of this process with the demo begins with.
var theDemo = Template{Load: demo.Load}

// Done takes down what stages share; a program that opens one with the demo calls it
// last.
func Done() { theDemo.Drop() }

// NewStore makes a database like the template's, and puts its files into a folder; drop
// closes and removes the database.
func (t *Template) NewStore(ctx context.Context, files string) (st *store.Store, drop func(), err error) {
	like, err := t.copied(ctx, files)
	if err != nil {
		return nil, nil, err
	}
	st, _, drop, err = newStore(ctx, like)
	return st, drop, err
}

// Drop forgets what was loaded.
func (t *Template) Drop() {
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.drop != nil {
		t.drop()
	}
	t.database, t.drop = "", nil
}

// copied puts the files into a folder and returns the name of the database to copy.
func (t *Template) copied(ctx context.Context, files string) (database string, err error) {
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.database == "" {
		if err := t.load(ctx); err != nil {
			return "", err
		}
	}
	return t.database, os.CopyFS(files, os.DirFS(t.files))
}

func (t *Template) load(ctx context.Context) (err error) {
	st, u, remove, err := newStore(ctx, "")
	if err != nil {
		return err
	}
	defer st.Close() // a database in use is not copied
	files, err := os.MkdirTemp("", "aspenridge-files-")
	drop := func() { remove(); _ = os.RemoveAll(files) }
	defer func() {
		if err != nil {
			drop()
		}
	}()
	if err != nil {
		return err
	}
	b, err := blob.Open(files, "", "")
	if err != nil {
		return err
	}
	a, err := app.New(st, b, app.Options{Hashing: Quick})
	if err != nil {
		return err
	}
	if err := t.Load(ctx, a); err != nil {
		return err
	}
	at, err := url.Parse(u)
	if err != nil {
		return err
	}
	t.database, t.files, t.drop = strings.TrimPrefix(at.Path, "/"), files, drop
	return nil
}

// Close takes everything down again, the database too.
func (s *Stage) Close() {
	for i := len(s.closers) - 1; i >= 0; i-- {
		s.closers[i]()
	}
	s.closers = nil
}

// NewStore makes a database of its own, brought up to date; drop closes and
// removes it.
func NewStore(ctx context.Context) (st *store.Store, databaseURL string, drop func(), err error) {
	return newStore(ctx, "")
}

// newStore is NewStore with what another database holds, if like names one.
func newStore(ctx context.Context, like string) (st *store.Store, databaseURL string, drop func(), err error) {
	if like == "" {
		if like, err = upToDate(ctx); err != nil {
			return nil, "", nil, err
		}
	}
	databaseURL, remove, err := newDatabase(ctx, like)
	if err != nil {
		return nil, "", nil, err
	}
	st, err = store.Open(ctx, databaseURL, 10*time.Second)
	if err != nil {
		remove()
		return nil, "", nil, err
	}
	return st, databaseURL, func() { st.Close(); remove() }, nil
}

// upToDate is the name of a database to copy that has the schema and nothing in it. It
// stays on the cluster, for the tests to come as well; the program it was made by is in
// its name, since its schema is that program's.
func upToDate(ctx context.Context) (name string, err error) {
	base, err := cluster()
	if err != nil {
		return "", err
	}
	name = "like_" + store.Schema()
	c, err := pgx.Connect(ctx, base)
	if err != nil {
		return "", fmt.Errorf("the tests' database: %w (scripts/postgres start)", err)
	}
	defer c.Close(ctx) // and with it the lock
	if _, err := c.Exec(ctx, `select pg_advisory_lock(hashtextextended($1, 0))`, name); err != nil {
		return "", err
	}
	var there bool
	if err := c.QueryRow(ctx, `select exists (select from pg_database where datname = $1)`, name).Scan(&there); err != nil || there {
		return name, err
	}
	made := name + "_coming" // one that was cut short is never taken for whole
	for _, sql := range []string{`drop database if exists "` + made + `" with (force)`, `create database "` + made + `"`} {
		if _, err := c.Exec(ctx, sql); err != nil {
			return "", err
		}
	}
	at, err := url.Parse(base)
	if err != nil {
		return "", err
	}
	at.Path = "/" + made
	st, err := store.Open(ctx, at.String(), 10*time.Second)
	if err != nil {
		return "", err
	}
	err = st.Migrate(ctx)
	st.Close() // a database in use is not copied
	if err == nil {
		_, err = c.Exec(ctx, `alter database "`+made+`" rename to "`+name+`"`)
	}
	return name, err
}

// NewDatabase makes an empty database; drop removes it.
func NewDatabase(ctx context.Context) (databaseURL string, drop func(), err error) {
	return newDatabase(ctx, "")
}

func newDatabase(ctx context.Context, like string) (databaseURL string, drop func(), err error) {
	base, err := cluster()
	if err != nil {
		return "", nil, err
	}
	name := "t_" + uuid.NewString()[:8]
	run := func(ctx context.Context, sql string) error {
		c, err := pgx.Connect(ctx, base)
		if err != nil {
			return fmt.Errorf("the tests' database: %w (scripts/postgres start)", err)
		}
		defer c.Close(ctx)
		_, err = c.Exec(ctx, sql)
		return err
	}
	create := `create database "` + name + `"`
	if like != "" {
		create += ` template "` + like + `"`
	}
	if err := run(ctx, create); err != nil {
		return "", nil, err
	}
	u, err := url.Parse(base)
	if err != nil {
		return "", nil, err
	}
	u.Path = "/" + name
	return u.String(), func() {
		ctx, cancel := context.WithTimeout(context.Background(), 10*time.Second)
		defer cancel()
		_ = run(ctx, `drop database if exists "`+name+`" with (force)`)
	}, nil
}

// cluster is the URL of the PostgreSQL that scripts/postgres started.
func cluster() (string, error) {
	if u := os.Getenv("ASPENRIDGE_DATABASE_URL"); u != "" {
		return u, nil
	}
	root, err := Root()
	if err != nil {
		return "", err
	}
	data, err := os.ReadFile(filepath.Join(root, "var", "database-url"))
	if err != nil {
		return "", errors.New("no PostgreSQL runs for the tests: scripts/postgres start")
	}
	return string(data[:len(data)-1]), nil
}

// Root is the folder of the project.
func Root() (string, error) {
	dir, err := os.Getwd()
	if err != nil {
		return "", err
	}
	for {
		if _, err := os.Stat(filepath.Join(dir, "go.mod")); err == nil {
			return dir, nil
		}
		if parent := filepath.Dir(dir); parent != dir {
			dir = parent
			continue
		}
		return "", errors.New("not inside the project: no go.mod above")
	}
}
