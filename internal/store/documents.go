package store

import (
	"context"
	"fmt"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgxpool"

	"aspenridge/internal/core/edit"
)

// Document is a kit or a brief as it stands.
type Document struct {
	ID        ID
	Workspace ID
	Kind      string // kit or brief
	KitID     *ID    // of a brief
	Name      string
	Doc       []byte
	Seq       int64
	UpdatedAt time.Time
	Undoable  int // steps that can be taken back
	Redoable  int // and put back

	Hidden bool // on creation: on no list until [Store.Show]
}

// CreateDocument puts a new document in, with the files it brings along: somebody's, and where it
// is a copy the one it is like (nil for none).
func (s *Store) CreateDocument(ctx context.Context, by Member, d Document, like *ID, files ...File) (Document, error) {
	var things []string
	if d.Kind == "kit" {
		things = []string{kitsOf(d.Workspace)}
	}
	err := s.changing(ctx, by, things, func(tx pgx.Tx) error {
		doc, err := edit.ParseObject(d.Doc)
		if err != nil {
			return err
		}
		lists[d.Kind].Identify(doc, NewMemberID)
		if d.Kind == "kit" {
			if err := familyLock(ctx, tx, d.Workspace); err != nil {
				return err
			}
		}
		if err := putFiles(ctx, tx, by.ID, files); err != nil {
			return err
		}
		if err := s.check(ctx, tx, Checked{By: by, Document: d, After: doc, Like: like, Brought: files}); err != nil {
			return err
		}
		if d.Doc, err = edit.Marshal(doc); err != nil {
			return err
		}
		var said string
		d.Name, said = called(d.Kind, doc)
		err = tx.QueryRow(ctx, `insert into documents (workspace_id, kind, kit_id, name, said, doc, places, identified, deleted_at)
			values ($1, $2, $3, $4, $5, $6, places_of($6), true, case when $7 then now() end) returning id, updated_at`,
			d.Workspace, d.Kind, d.KitID, d.Name, said, d.Doc, d.Hidden).Scan(&d.ID, &d.UpdatedAt)
		if err == nil && like != nil { // what an owner left to the one it is a copy of
			_, err = tx.Exec(ctx, `insert into rail_exceptions (workspace_id, brief_id, rail, made_by) select workspace_id, $3, rail, made_by from rail_exceptions where workspace_id = $1 and brief_id = $2`, d.Workspace, *like, d.ID)
		}
		if err != nil || d.Hidden { // whoever hides it shows it when it is whole
			return err
		}
		return claim(ctx, tx, by, d.ID.String())
	})
	if err != nil { // the transaction failed, so the id was never stored
		return Document{}, err
	}
	return d, nil
}

// CreateChannels puts the document of a workspace's own channels in, or returns
// the one that is there.
func (s *Store) CreateChannels(ctx context.Context, d Document) (Document, error) {
	if _, err := s.Pool.Exec(ctx, `insert into documents (workspace_id, kind, name, doc, identified) values ($1, 'channels', $2, $3, true) on conflict do nothing`, d.Workspace, d.Name, d.Doc); err != nil {
		return d, err
	}
	return s.ChannelsOf(ctx, d.Workspace)
}

// Show puts a document that was created hidden on the lists.
func (s *Store) Show(ctx context.Context, by Member, id ID) error {
	return s.ShowAll(ctx, by, id.String(), id)
}

// ShowAll is [Store.Show] of several, all of them or none; result is what the change
// somebody sends answers with.
func (s *Store) ShowAll(ctx context.Context, by Member, result string, ids ...ID) error {
	return s.changing(ctx, by, nil, func(tx pgx.Tx) error {
		tag, err := tx.Exec(ctx, `update documents set deleted_at = null where workspace_id = $1 and id = any($2)`, by.Workspace, ids)
		if err == nil && int(tag.RowsAffected()) != len(ids) {
			err = ErrNotFound
		}
		if err != nil {
			return err
		}
		return claim(ctx, tx, by, result)
	})
}

const documentColumns = `id, workspace_id, kind, kit_id, name, doc::text, seq, updated_at, undoable, redoable`

// scanDocument reads [documentColumns] and what follows them.
func scanDocument(row pgx.Row, more ...any) (d Document, err error) {
	var doc string
	err = row.Scan(append([]any{&d.ID, &d.Workspace, &d.Kind, &d.KitID, &d.Name, &doc, &d.Seq, &d.UpdatedAt, &d.Undoable, &d.Redoable}, more...)...)
	d.Doc = []byte(doc)
	return d, notFound(err)
}

// querier is a pool or a transaction.
type querier interface {
	Query(context.Context, string, ...any) (pgx.Rows, error)
	QueryRow(context.Context, string, ...any) pgx.Row
}

// execer is a pool or a transaction that changes things.
type execer interface {
	Exec(context.Context, string, ...any) (pgconn.CommandTag, error)
}

// Reader reads a workspace, from within a change before it is made or from
// outside of it.
type Reader struct {
	q         querier
	workspace ID
}

// Reading is how a workspace stands now.
func (s *Store) Reading(workspace ID) Reader { return Reader{s.Pool, workspace} }

// Document reads one.
func (r Reader) Document(ctx context.Context, id ID) (Document, error) {
	return scanDocument(r.q.QueryRow(ctx, `select `+documentColumns+` from documents where workspace_id = $1 and id = $2`, r.workspace, id))
}

// Followers are the kits that follow a kit, directly or through others.
func (r Reader) Followers(ctx context.Context, kit ID) ([]Document, error) {
	rows, err := r.q.Query(ctx, family+`select `+documentColumns+` from documents where workspace_id = $1 and id in (select id from family) and id <> $2`, r.workspace, kit)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (Document, error) { return scanDocument(r) })
}

// Lacking are those of some files, by their hashes, that are not the
// workspace's.
func (r Reader) Lacking(ctx context.Context, hashes []string) ([]string, error) {
	rows, err := r.q.Query(ctx, `select h from unnest($2::text[]) h where not exists (select from files where workspace_id = $1 and hash = h)`, r.workspace, hashes)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowTo[string])
}

// Document reads one.
func (s *Store) Document(ctx context.Context, workspace, id ID) (Document, error) {
	return s.Reading(workspace).Document(ctx, id)
}

// Seqs reads only how far documents have come; those that are not there are left
// out.
func (s *Store) Seqs(ctx context.Context, workspace ID, ids ...ID) (map[ID]int64, error) {
	return s.Reading(workspace).Seqs(ctx, ids...)
}

// Seqs is [Store.Seqs] of a reader.
func (r Reader) Seqs(ctx context.Context, ids ...ID) (map[ID]int64, error) {
	out := map[ID]int64{}
	if len(ids) == 0 {
		return out, nil
	}
	rows, err := r.q.Query(ctx, `select id, seq from documents where workspace_id = $1 and id = any($2)`, r.workspace, ids)
	if err != nil {
		return nil, err
	}
	var id ID
	var seq int64
	_, err = pgx.ForEachRow(rows, []any{&id, &seq}, func() error { out[id] = seq; return nil })
	return out, err
}

// Progress is how far documents of a workspace have come, read at one moment.
type Progress struct {
	Seqs        map[ID]int64 // of those asked for that are there
	Channels    int64        // of the document of own channels
	OwnChannels bool         // there is one
}

// ProgressOf reads only how far documents have come, and the own channels.
func (s *Store) ProgressOf(ctx context.Context, workspace ID, ids ...ID) (Progress, error) {
	at := Progress{Seqs: map[ID]int64{}}
	if ids == nil {
		ids = []ID{}
	}
	rows, err := s.Pool.Query(ctx, `select id, seq, kind = 'channels' from documents where workspace_id = $1 and (id = any($2) or kind = 'channels')`, workspace, ids)
	if err != nil {
		return at, err
	}
	var id ID
	var seq int64
	var channels bool
	_, err = pgx.ForEachRow(rows, []any{&id, &seq, &channels}, func() error {
		at.Seqs[id] = seq
		if channels {
			at.Channels, at.OwnChannels = seq, true
		}
		return nil
	})
	return at, err
}

// Steps says whether something can be taken back and put back.
type Steps struct{ Undo, Redo bool }

// Steps of the document.
func (d Document) Steps() Steps { return Steps{d.Undoable > 0, d.Redoable > 0} }

// BriefsOf lists the briefs of a kit, latest first.
func (s *Store) BriefsOf(ctx context.Context, workspace, kit ID, limit int) ([]Document, error) {
	rows, err := s.Pool.Query(ctx, `select `+documentColumns+` from documents
		where workspace_id = $1 and kit_id = $2 and kind = 'brief' and archived_at is null and deleted_at is null order by updated_at desc limit $3`, workspace, kit, limit)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (Document, error) { return scanDocument(r) })
}

// ChannelsOf is the document of a workspace's own channels, wherever it was put;
// ErrNotFound before there is one.
func (s *Store) ChannelsOf(ctx context.Context, workspace ID) (Document, error) {
	return scanDocument(s.Pool.QueryRow(ctx, `select `+documentColumns+` from documents where workspace_id = $1 and kind = 'channels'`, workspace))
}

// BriefQuery asks for a page of briefs.
type BriefQuery struct {
	// Find is words that all occur in what a brief says or what its kit is called.
	Find []string
	// Places are, for each word, placements that are called so; a brief that goes to
	// one has the word too.
	Places [][]string
	Offset int
	Limit  int
	In     Scope
}

// FindBriefs lists a page of briefs, latest first, and says whether more follow. Nothing is
// counted: the list is read in its order until the page is full.
func (s *Store) FindBriefs(ctx context.Context, workspace ID, q BriefQuery) (page []Document, more bool, err error) {
	where := ` from documents where workspace_id = $1 and kind = 'brief' and archived_at is null and deleted_at is null and ($2::uuid[] is null or id = any($2) or kit_id = any($2))`
	args := []any{workspace, q.In.briefs()}
	for i, w := range q.Find {
		args = append(args, strings.ToLower(w), q.Places[i])
		where += fmt.Sprintf(` and (strpos(said, $%[1]d) > 0 or places && $%[2]d
			or kit_id in (select k.id from documents k where k.workspace_id = $1 and k.kind = 'kit' and strpos(lower(k.name), $%[1]d) > 0))`, len(args)-1, len(args))
	}
	args = append(args, q.Limit+1, q.Offset)
	rows, err := s.Pool.Query(ctx, fmt.Sprintf(`select %s%s order by updated_at desc, id limit $%d offset $%d`, documentColumns, where, len(args)-1, len(args)), args...)
	if err != nil {
		return nil, false, err
	}
	page, err = pgx.CollectRows(rows, func(r pgx.CollectableRow) (Document, error) { return scanDocument(r) })
	if more = len(page) > q.Limit; more {
		page = page[:q.Limit]
	}
	return page, more, err
}

// Documents lists a kind, latest first.
func (s *Store) Documents(ctx context.Context, workspace ID, kind string, limit int) ([]Document, error) {
	rows, err := s.Pool.Query(ctx, `select `+documentColumns+` from documents
		where workspace_id = $1 and kind = $2 and archived_at is null and deleted_at is null order by updated_at desc limit $3`, workspace, kind, limit)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (Document, error) { return scanDocument(r) })
}

// Desk is what lies on a workspace's desk beside its briefs.
type Desk struct {
	Kits    []Document // latest first
	Away    []Document // of every kind, put away latest first
	Default ID         // the kit new briefs start with, zero for none
}

// Desk reads it as far as somebody sees it, up to so many kits and things put away.
func (s *Store) Desk(ctx context.Context, workspace ID, in Scope, kits, away int) (d Desk, err error) {
	rows, err := s.Pool.Query(ctx, `(select `+documentColumns+`, false, (`+defaultKit+`) from documents
			where workspace_id = $1 and kind = 'kit' and archived_at is null and deleted_at is null and ($4::uuid[] is null or id = any($4)) order by updated_at desc limit $2)
		union all (select `+documentColumns+`, true, null from documents
			where workspace_id = $1 and archived_at is not null and deleted_at is null and ($5::uuid[] is null or id = any($5) or kit_id = any($5)) order by archived_at desc limit $3)`, workspace, kits, away, in.kits(), in.briefs())
	if err != nil {
		return d, err
	}
	var putAway bool
	var def *ID
	defer rows.Close()
	for rows.Next() {
		doc, err := scanDocument(rows, &putAway, &def)
		switch {
		case err != nil:
			return d, err
		case putAway:
			d.Away = append(d.Away, doc)
		default:
			d.Kits = append(d.Kits, doc)
		}
		if def != nil {
			d.Default = *def
		}
	}
	return d, rows.Err()
}

// BriefsNaming lists the briefs of a kit, archived ones too, whose document holds
// a text, latest first.
func (s *Store) BriefsNaming(ctx context.Context, workspace, kit ID, text string) ([]Document, error) {
	rows, err := s.Pool.Query(ctx, `select `+documentColumns+` from documents
		where workspace_id = $1 and kit_id = $2 and strpos(doc::text, $3) > 0 order by updated_at desc limit 500`, workspace, kit, text)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (Document, error) { return scanDocument(r) })
}

// Archive takes a document off the lists, or puts it back.
func (s *Store) Archive(ctx context.Context, workspace, id ID, away bool) error {
	tag, err := s.Pool.Exec(ctx, `update documents set archived_at = case when $3 then now() end where workspace_id = $1 and id = $2 and kind <> 'channels'`, workspace, id, away)
	if err == nil && tag.RowsAffected() == 0 {
		err = ErrNotFound
	}
	return err
}

// listenQuiet is after how long without a word the listening connection is tried.
const listenQuiet = 15 * time.Second

// Notify tells everybody who listens that something has changed.
func (s *Store) Notify(ctx context.Context, id ID) error {
	_, err := s.Pool.Exec(ctx, `select pg_notify('document', $1::text || ' 0')`, id.String())
	return err
}

// Listen calls f for every change of any document until ctx ends; it reconnects
// when the connection breaks.
func (s *Store) Listen(ctx context.Context, f func(id ID, seq int64), here func(id ID, what string)) {
	for ctx.Err() == nil {
		if conn, err := s.Pool.Acquire(ctx); err == nil {
			_ = hear(ctx, conn, f, here) // it is heard anew
			gone, cancel := context.WithTimeout(context.Background(), time.Second)
			_ = conn.Conn().Close(gone)
			cancel()
			conn.Release()
		}
		select {
		case <-ctx.Done():
		case <-time.After(300 * time.Millisecond):
		}
	}
}

// SayHere tells who watches a document something that is not kept: up to some thousand letters.
func (s *Store) SayHere(ctx context.Context, id ID, what string) error {
	_, err := s.Pool.Exec(ctx, `select pg_notify('here', $1)`, id.String()+" "+what)
	return err
}

// hear hears notices on one connection until that ends.
func hear(ctx context.Context, conn *pgxpool.Conn, f func(id ID, seq int64), here func(id ID, what string)) error {
	if _, err := conn.Exec(ctx, `listen document; listen here`); err != nil {
		return err
	}
	for {
		quiet, cancel := context.WithTimeout(ctx, listenQuiet)
		n, err := conn.Conn().WaitForNotification(quiet)
		cancel()
		if err != nil && ctx.Err() == nil && pgconn.Timeout(err) { // is anybody there?
			answer, cancel := context.WithTimeout(ctx, 5*time.Second)
			err = conn.Ping(answer)
			cancel()
			if err == nil {
				continue
			}
		}
		if err != nil {
			return err
		}
		if n.Channel == "here" {
			if id, what, ok := strings.Cut(n.Payload, " "); ok {
				if u, err := parseID(id); err == nil {
					here(u, what)
				}
			}
			continue
		}
		var id string
		var seq int64
		if _, err := fmt.Sscanf(n.Payload, "%s %d", &id, &seq); err != nil {
			continue
		}
		if u, err := parseID(id); err == nil {
			f(u, seq)
		}
	}
}
