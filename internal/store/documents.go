package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"

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
}

// CreateDocument puts a new document in.
func (s *Store) CreateDocument(ctx context.Context, d Document) (Document, error) {
	err := s.Pool.QueryRow(ctx, `insert into documents (workspace_id, kind, kit_id, name, doc) values ($1, $2, $3, $4, $5) returning id, updated_at`,
		d.Workspace, d.Kind, d.KitID, d.Name, d.Doc).Scan(&d.ID, &d.UpdatedAt)
	return d, err
}

const documentColumns = `id, workspace_id, kind, kit_id, name, doc::text, seq, updated_at`

func scanDocument(row pgx.Row) (d Document, err error) {
	var doc string
	err = row.Scan(&d.ID, &d.Workspace, &d.Kind, &d.KitID, &d.Name, &doc, &d.Seq, &d.UpdatedAt)
	d.Doc = []byte(doc)
	return d, notFound(err)
}

// Document reads one.
func (s *Store) Document(ctx context.Context, workspace, id ID) (Document, error) {
	return scanDocument(s.Pool.QueryRow(ctx, `select `+documentColumns+` from documents where workspace_id = $1 and id = $2`, workspace, id))
}

// Seqs reads only how far documents have come, in the order asked.
func (s *Store) Seqs(ctx context.Context, workspace ID, ids ...ID) ([]int64, error) {
	out := make([]int64, len(ids))
	for i, id := range ids {
		if err := s.Pool.QueryRow(ctx, `select seq from documents where workspace_id = $1 and id = $2`, workspace, id).Scan(&out[i]); err != nil {
			return nil, notFound(err)
		}
	}
	return out, nil
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

// PutAway lists what was archived, of every kind, latest first.
func (s *Store) PutAway(ctx context.Context, workspace ID, limit int) ([]Document, error) {
	rows, err := s.Pool.Query(ctx, `select `+documentColumns+` from documents
		where workspace_id = $1 and archived_at is not null and deleted_at is null order by archived_at desc limit $2`, workspace, limit)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (Document, error) { return scanDocument(r) })
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

// Change is a request to change a document.
type Change struct {
	Op     edit.Op
	Base   int64  // the seq the change was made on
	Client string // the tab it comes from
	Actor  ID
	Typing bool // may join the row of the last keys on the same path
}

// Conflict is returned when somebody else changed the same part since the base.
type Conflict struct {
	Path   string
	Theirs json.RawMessage // what stands there now
	Yours  json.RawMessage
	Seq    int64
}

func (c *Conflict) Error() string {
	return fmt.Sprintf("%s was changed elsewhere meanwhile", c.Path)
}

// typingPause is how long after the last key a new one starts a new step of
// undo.
const typingPause = 1500 * time.Millisecond

// Edit applies a change: the document, its name and the log move together or
// not at all. Changes to other parts made since the base merge; one to the same
// part by another tab is a [*Conflict] and nothing is changed.
func (s *Store) Edit(ctx context.Context, workspace, id ID, c Change) (seq int64, err error) {
	err = s.tx(ctx, func(tx pgx.Tx) error {
		d, doc, err := lock(ctx, tx, workspace, id)
		if err != nil {
			return err
		}
		if err := conflicts(ctx, tx, d, doc, c); err != nil {
			return err
		}
		inverse, err := edit.Apply(doc, c.Op)
		if err != nil {
			return err
		}
		seq = d.Seq + 1
		op, inv := asJSON(c.Op), asJSON(inverse)
		if c.Typing {
			tag, err := tx.Exec(ctx, `update edits set op = $3, upto = $4, at = now()
				where document_id = $1 and upto = $2 and kind = 'do' and path = $5 and client = $6 and at > now() - $7::interval`,
				id, d.Seq, op, seq, c.Op.Path, c.Client, typingPause)
			if err != nil {
				return err
			}
			if tag.RowsAffected() == 1 {
				return save(ctx, tx, d, doc, seq)
			}
		}
		if err := log(ctx, tx, d, seq, c.Actor, c.Client, "do", nil, c.Op.Path, op, inv); err != nil {
			return err
		}
		return save(ctx, tx, d, doc, seq)
	})
	return seq, err
}

func asJSON(v any) []byte {
	b, err := json.Marshal(v)
	if err != nil {
		panic(err) // operations are made of JSON
	}
	return b
}

func lock(ctx context.Context, tx pgx.Tx, workspace, id ID) (Document, *edit.Object, error) {
	d, err := scanDocument(tx.QueryRow(ctx, `select `+documentColumns+` from documents where workspace_id = $1 and id = $2 for update`, workspace, id))
	if err != nil {
		return d, nil, err
	}
	doc, err := edit.ParseObject(d.Doc)
	return d, doc, err
}

func conflicts(ctx context.Context, tx pgx.Tx, d Document, doc *edit.Object, c Change) error {
	if c.Base >= d.Seq {
		return nil
	}
	rows, err := tx.Query(ctx, `select path from edits where document_id = $1 and upto > $2 and client <> $3`, d.ID, c.Base, c.Client)
	if err != nil {
		return err
	}
	paths, err := pgx.CollectRows(rows, pgx.RowTo[string])
	if err != nil {
		return err
	}
	for _, p := range paths {
		if edit.Overlaps(p, c.Op.Path) {
			v, _ := edit.Lookup(doc, c.Op.Path)
			theirs, err := edit.Marshal(v)
			if err != nil {
				return err
			}
			return &Conflict{Path: c.Op.Path, Theirs: theirs, Yours: c.Op.Value, Seq: d.Seq}
		}
	}
	return nil
}

func save(ctx context.Context, tx pgx.Tx, d Document, doc *edit.Object, seq int64) error {
	data, err := edit.Marshal(doc)
	if err != nil {
		return err
	}
	if len(data) > edit.MaxBytes {
		return fmt.Errorf("the document grew to %d kB: at most %d kB", len(data)/1000, edit.MaxBytes/1000)
	}
	name, _ := doc.Get("name").(string)
	if d.Kind == "kit" {
		name, _ = doc.Object("$extensions").Object("aspenridge").Get("name").(string)
	}
	if _, err = tx.Exec(ctx, `update documents set doc = $2, seq = $3, name = $4, updated_at = now() where id = $1`, d.ID, data, seq, name); err != nil {
		return err
	}
	_, err = tx.Exec(ctx, `select pg_notify('document', $1)`, fmt.Sprintf("%s %d", d.ID, seq))
	return err
}

func log(ctx context.Context, tx pgx.Tx, d Document, seq int64, actor ID, client, kind string, reverts *int64, path string, op, inverse []byte) error {
	_, err := tx.Exec(ctx, `insert into edits (document_id, workspace_id, seq, upto, actor, client, kind, reverts, path, op, inverse)
		values ($1, $2, $3, $3, $4, $5, $6, $7, $8, $9, $10)`, d.ID, d.Workspace, seq, actor, client, kind, reverts, path, op, inverse)
	return err
}

// Step says what can be undone and redone.
type Step struct{ Undo, Redo bool }

type logRow struct {
	seq     int64
	kind    string
	reverts *int64
	path    string
	op, inv []byte
}

// stacks walks the log as an editor would: a change can be undone, an undone
// one redone until something new is done.
func stacks(rows []logRow) (undo, redo []logRow) {
	for _, r := range rows {
		switch r.kind {
		case "do":
			undo, redo = append(undo, r), nil
		case "undo":
			if n := len(undo); n > 0 {
				undo = undo[:n-1]
			}
			redo = append(redo, r)
		case "redo":
			if n := len(redo); n > 0 {
				redo = redo[:n-1]
			}
			undo = append(undo, r)
		}
	}
	return undo, redo
}

// historyDepth is how many rows of the log undo looks at.
const historyDepth = 2000

func history(ctx context.Context, q interface {
	Query(context.Context, string, ...any) (pgx.Rows, error)
}, id ID) (undo, redo []logRow, err error) {
	rows, err := q.Query(ctx, `select seq, kind, reverts, path, op::text, inverse::text from
		(select * from edits where document_id = $1 order by seq desc limit $2) e order by seq`, id, historyDepth)
	if err != nil {
		return nil, nil, err
	}
	list, err := pgx.CollectRows(rows, func(r pgx.CollectableRow) (l logRow, err error) {
		var op, inv string
		err = r.Scan(&l.seq, &l.kind, &l.reverts, &l.path, &op, &inv)
		l.op, l.inv = []byte(op), []byte(inv)
		return l, err
	})
	if err != nil {
		return nil, nil, err
	}
	undo, redo = stacks(list)
	return undo, redo, nil
}

// Steps says what can be undone and redone on a document.
func (s *Store) Steps(ctx context.Context, workspace, id ID) (Step, error) {
	if _, err := s.Seqs(ctx, workspace, id); err != nil {
		return Step{}, err
	}
	undo, redo, err := history(ctx, s.Pool, id)
	return Step{len(undo) > 0, len(redo) > 0}, err
}

// Revert undoes the last change, or redoes the last one undone. It appends to
// the log like any change. ErrNotFound means there is nothing to revert.
func (s *Store) Revert(ctx context.Context, workspace, id, actor ID, client string, redo bool) (path string, seq int64, err error) {
	err = s.tx(ctx, func(tx pgx.Tx) error {
		d, doc, err := lock(ctx, tx, workspace, id)
		if err != nil {
			return err
		}
		undoable, redoable, err := history(ctx, tx, id)
		if err != nil {
			return err
		}
		from, kind := undoable, "undo"
		if redo {
			from, kind = redoable, "redo"
		}
		if len(from) == 0 {
			return ErrNotFound
		}
		last := from[len(from)-1]
		var op edit.Op
		if err := json.Unmarshal(last.inv, &op); err != nil {
			return err
		}
		inverse, err := edit.Apply(doc, op)
		if err != nil {
			return err
		}
		seq, path = d.Seq+1, op.Path
		if err := log(ctx, tx, d, seq, actor, client, kind, &last.seq, op.Path, asJSON(op), asJSON(inverse)); err != nil {
			return err
		}
		return save(ctx, tx, d, doc, seq)
	})
	return path, seq, err
}

// Archive takes a document off the lists, or puts it back.
func (s *Store) Archive(ctx context.Context, workspace, id ID, away bool) error {
	tag, err := s.Pool.Exec(ctx, `update documents set archived_at = case when $3 then now() end where workspace_id = $1 and id = $2`, workspace, id, away)
	if err == nil && tag.RowsAffected() == 0 {
		err = ErrNotFound
	}
	return err
}

// Listen calls f for every change of any document until ctx ends; it reconnects
// when the connection breaks.
func (s *Store) Listen(ctx context.Context, f func(id ID, seq int64)) {
	for ctx.Err() == nil {
		conn, err := s.Pool.Acquire(ctx)
		if err == nil {
			_, err = conn.Exec(ctx, `listen document`)
			for err == nil {
				n, werr := conn.Conn().WaitForNotification(ctx)
				if err = werr; err != nil {
					break
				}
				var id string
				var seq int64
				if _, serr := fmt.Sscanf(n.Payload, "%s %d", &id, &seq); serr == nil {
					if u, perr := parseID(id); perr == nil {
						f(u, seq)
					}
				}
			}
			_ = conn.Conn().Close(context.Background())
			conn.Release()
		}
		select {
		case <-ctx.Done():
		case <-time.After(300 * time.Millisecond):
		}
	}
}
