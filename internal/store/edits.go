package store

import (
	"cmp"
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/spec"
)

// lists are the lists of each kind of document whose members have ids.
var lists = map[string]edit.Lists{"kit": brand.Lists, "brief": brief.Lists, "channels": spec.Lists}

// NewMemberID is an id for a member of a list: 40 random bits, in letters and
// digits.
func NewMemberID() string { return strings.ToLower(rand.Text()[:8]) }

// Check looks at a document as a change would leave it, before the change is
// made and inside of its transaction; before is nil for a new document. An error
// refuses the change.
type Check func(ctx context.Context, r Reader, d Document, before, after *edit.Object) error

func (s *Store) check(ctx context.Context, tx pgx.Tx, d Document, before, after *edit.Object) error {
	if s.Check == nil {
		return nil
	}
	return s.Check(ctx, Reader{tx, d.Workspace}, d, before, after)
}

// familyLock lets one change of kits through at a time in a workspace: what one
// kit says counts in those that follow it.
func familyLock(ctx context.Context, tx pgx.Tx, workspace ID) error {
	_, err := tx.Exec(ctx, `select pg_advisory_xact_lock(hashtextextended($1, 7))`, workspace.String())
	return err
}

// Change is a request to change a document.
type Change struct {
	ID     ID     // of the document
	Kind   string // the document must be of, "" for any
	Op     edit.Op
	Base   int64  // the seq the change was made on
	Client string // the tab it comes from
	Actor  ID
	Typing bool   // may join the row of the last keys on the same path
	Files  []File // it brings along, recorded with it
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

// Edit applies changes, each to a document of its own: the documents, their
// names and the log move together or not at all. Changes to other parts made
// since the base merge; one to the same part by another tab is a [*Conflict] and
// nothing is changed. It returns how far each document has come.
func (s *Store) Edit(ctx context.Context, workspace ID, changes ...Change) (seqs []int64, err error) {
	err = s.tx(ctx, func(tx pgx.Tx) error {
		if err := claim(ctx, tx, workspace, ""); err != nil {
			return err
		}
		docs, err := s.lock(ctx, tx, workspace, changes)
		if err != nil {
			return err
		}
		seqs = make([]int64, len(changes))
		for i, c := range changes {
			if seqs[i], err = s.edit(ctx, tx, docs[c.ID], c); err != nil {
				return err
			}
		}
		return nil
	})
	return seqs, err
}

// lock reads the documents of some changes and keeps others from changing them;
// always in the same order, so that nobody waits for somebody who waits for him.
func (s *Store) lock(ctx context.Context, tx pgx.Tx, workspace ID, changes []Change) (map[ID]Document, error) {
	var ids []ID
	for _, c := range changes {
		if !slices.Contains(ids, c.ID) {
			ids = append(ids, c.ID)
		}
	}
	var kits int
	if err := tx.QueryRow(ctx, `select count(*) from documents where workspace_id = $1 and id = any($2) and kind = 'kit'`, workspace, ids).Scan(&kits); err != nil {
		return nil, err
	}
	if kits > 0 {
		if err := familyLock(ctx, tx, workspace); err != nil {
			return nil, err
		}
	}
	rows, err := tx.Query(ctx, `select `+documentColumns+` from documents where workspace_id = $1 and id = any($2) order by id for update`, workspace, ids)
	if err != nil {
		return nil, err
	}
	list, err := pgx.CollectRows(rows, func(r pgx.CollectableRow) (Document, error) { return scanDocument(r) })
	if err != nil {
		return nil, err
	}
	out := map[ID]Document{}
	for _, d := range list {
		out[d.ID] = d
	}
	for _, c := range changes {
		if d, ok := out[c.ID]; !ok || c.Kind != "" && d.Kind != c.Kind {
			return nil, ErrNotFound
		}
	}
	return out, nil
}

// edit makes one change to a locked document.
func (s *Store) edit(ctx context.Context, tx pgx.Tx, d Document, c Change) (seq int64, err error) {
	before, err := edit.ParseObject(d.Doc)
	if err != nil {
		return 0, err
	}
	doc, err := edit.ParseObject(d.Doc)
	if err != nil {
		return 0, err
	}
	op, err := lists[d.Kind].Prepare(c.Op, NewMemberID)
	if err != nil {
		return 0, err
	}
	done, err := edit.Do(doc, op)
	if errors.Is(err, edit.ErrGone) && c.Base < d.Seq { // somebody took it away
		return 0, &Conflict{Path: c.Op.Path, Theirs: json.RawMessage("null"), Yours: c.Op.Value, Seq: d.Seq}
	}
	if err != nil {
		return 0, err
	}
	if err := conflicts(ctx, tx, d, before, c, done); err != nil {
		return 0, err
	}
	lists[d.Kind].Identify(doc, NewMemberID) // lists whose members had none before
	if err := putFiles(ctx, tx, c.Files); err != nil {
		return 0, err
	}
	if err := s.check(ctx, tx, d, before, doc); err != nil {
		return 0, err
	}
	seq = d.Seq + 1
	row := logRow{actor: c.Actor, client: c.Client, kind: "do", path: strings.Join(done.Paths, "\n"), op: asJSON(done.Op), inv: asJSON(done.Inverse)}
	if c.Typing {
		tag, err := tx.Exec(ctx, `update edits set op = $3, upto = $4, at = now()
			where workspace_id = $8 and document_id = $1 and upto = $2 and kind = 'do' and path = $5 and client = $6 and at > now() - $7::interval`,
			d.ID, d.Seq, row.op, seq, row.path, c.Client, typingPause, d.Workspace)
		if err != nil {
			return 0, err
		}
		if tag.RowsAffected() == 1 {
			return seq, save(ctx, tx, d, doc, seq)
		}
	}
	if err := log(ctx, tx, d, seq, row); err != nil {
		return 0, err
	}
	return seq, save(ctx, tx, d, doc, seq)
}

func asJSON(v any) []byte {
	b, err := json.Marshal(v)
	if err != nil {
		panic(err) // operations are made of JSON
	}
	return b
}

// conflicts looks for what others changed since the base in the parts a change
// touches.
func conflicts(ctx context.Context, tx pgx.Tx, d Document, doc *edit.Object, c Change, done edit.Done) error {
	if c.Base >= d.Seq {
		return nil
	}
	rows, err := tx.Query(ctx, `select path from edits where workspace_id = $4 and document_id = $1 and upto > $2 and client <> $3`, d.ID, c.Base, c.Client, d.Workspace)
	if err != nil {
		return err
	}
	theirs, err := pgx.CollectRows(rows, pgx.RowTo[string])
	if err != nil {
		return err
	}
	for _, p := range theirs {
		at, ok := edit.Overlap(done.Paths, strings.Split(p, "\n"))
		if !ok {
			continue
		}
		v, _ := edit.Lookup(doc, at)
		theirs, err := edit.Marshal(v)
		if err != nil {
			return err
		}
		return &Conflict{Path: at, Theirs: theirs, Yours: valueFor(c.Op, at), Seq: d.Seq}
	}
	return nil
}

// valueFor is what an operation puts at a path, nil for nothing.
func valueFor(op edit.Op, path string) json.RawMessage {
	if len(op.All) == 0 {
		return op.Value
	}
	for _, o := range op.All {
		if o.Path == path {
			return o.Value
		}
	}
	return nil
}

// save writes a document as it is now. Its number moves with everything another
// process may have to see.
func save(ctx context.Context, tx pgx.Tx, d Document, doc *edit.Object, seq int64) error {
	data, err := edit.Marshal(doc)
	if err != nil {
		return err
	}
	name, said := called(d.Kind, doc)
	if _, err = tx.Exec(ctx, `update documents set doc = $3, seq = $4, name = $5, said = $6, kit_id = $7, updated_at = now() where workspace_id = $1 and id = $2`, d.Workspace, d.ID, data, seq, name, said, d.KitID); err != nil {
		return err
	}
	_, err = tx.Exec(ctx, `select pg_notify('document', $1)`, fmt.Sprintf("%s %d", d.ID, seq))
	return err
}

// called is what a document is called in lists, and what a brief is found by.
func called(kind string, doc *edit.Object) (name, said string) {
	switch kind {
	case "kit":
		name, _ = brand.Own(doc).Get("name").(string)
	case "brief":
		return brief.TitleOf(doc), brief.SaidIn(doc)
	default:
		name, _ = doc.Get("name").(string)
	}
	return name, ""
}

// logRow is a row of the log: op and inverse are read only where they are
// needed, since they can be as large as documents.
type logRow struct {
	seq          int64
	actor        ID
	client, kind string
	reverts      *int64
	path         string
	op, inv      []byte
}

func log(ctx context.Context, tx pgx.Tx, d Document, seq int64, r logRow) error {
	_, err := tx.Exec(ctx, `insert into edits (document_id, workspace_id, seq, upto, actor, client, kind, reverts, path, op, inverse)
		values ($1, $2, $3, $3, $4, $5, $6, $7, $8, $9, $10)`, d.ID, d.Workspace, seq, r.actor, r.client, r.kind, r.reverts, r.path, r.op, r.inv)
	return err
}

// Step says what can be undone and redone.
type Step struct{ Undo, Redo bool }

// stacks walks the log as an editor would: a change can be undone, an undone
// one redone until something new is done.
func stacks(rows []logRow) (undo, redo []int64) {
	for _, r := range rows {
		switch r.kind {
		case "do":
			undo, redo = append(undo, r.seq), nil
		case "undo":
			if n := len(undo); n > 0 {
				undo = undo[:n-1]
			}
			redo = append(redo, r.seq)
		case "redo":
			if n := len(redo); n > 0 {
				redo = redo[:n-1]
			}
			undo = append(undo, r.seq)
		}
	}
	return undo, redo
}

// historyDepth is how many rows of the log undo looks at.
const historyDepth = 2000

// history lists what can be undone and redone, as numbers of rows.
func history(ctx context.Context, q querier, workspace, id ID) (undo, redo []int64, err error) {
	rows, err := q.Query(ctx, `select seq, kind from
		(select seq, kind from edits where workspace_id = $3 and document_id = $1 order by seq desc limit $2) e order by seq`, id, historyDepth, workspace)
	if err != nil {
		return nil, nil, err
	}
	list, err := pgx.CollectRows(rows, func(r pgx.CollectableRow) (l logRow, err error) {
		err = r.Scan(&l.seq, &l.kind)
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
	if seqs, err := s.Seqs(ctx, workspace, id); err != nil || len(seqs) == 0 {
		return Step{}, cmp.Or(err, ErrNotFound)
	}
	undo, redo, err := history(ctx, s.Pool, workspace, id)
	return Step{len(undo) > 0, len(redo) > 0}, err
}

// inverseOf is what changes a row of the log back.
func inverseOf(ctx context.Context, q querier, workspace, id ID, seq int64) (op edit.Op, err error) {
	var inverse string
	if err = q.QueryRow(ctx, `select inverse::text from edits where workspace_id = $1 and document_id = $2 and seq = $3`, workspace, id, seq).Scan(&inverse); err != nil {
		return op, notFound(err)
	}
	return op, json.Unmarshal([]byte(inverse), &op)
}

// StepsOf are the steps a client made of a document after one number and up to
// another, the latest first.
func (s *Store) StepsOf(ctx context.Context, workspace, id ID, client string, after, upto int64) ([]edit.Step, error) {
	rows, err := s.Pool.Query(ctx, `select op::text, inverse::text from edits
		where workspace_id = $1 and document_id = $2 and seq > $3 and seq <= $4 and client = $5 and kind = 'do' order by seq desc`, workspace, id, after, upto, client)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (st edit.Step, err error) {
		var op, inverse string
		if err = r.Scan(&op, &inverse); err == nil {
			err = cmp.Or(json.Unmarshal([]byte(op), &st.Op), json.Unmarshal([]byte(inverse), &st.Inverse))
		}
		return st, err
	})
}

// Revert undoes the last change, or redoes the last one undone. It appends to
// the log like any change. ErrNothing means there is nothing to revert.
func (s *Store) Revert(ctx context.Context, workspace, id, actor ID, client string, redo bool) (path string, seq int64, err error) {
	err = s.tx(ctx, func(tx pgx.Tx) error {
		if err := claim(ctx, tx, workspace, ""); err != nil {
			return err
		}
		docs, err := s.lock(ctx, tx, workspace, []Change{{ID: id}})
		if err != nil {
			return err
		}
		d := docs[id]
		from, redoable, err := history(ctx, tx, workspace, id)
		if err != nil {
			return err
		}
		kind := "undo"
		if redo {
			from, kind = redoable, "redo"
		}
		if len(from) == 0 {
			return ErrNothing
		}
		last := from[len(from)-1]
		op, err := inverseOf(ctx, tx, workspace, id, last)
		if err != nil {
			return err
		}
		before, err := edit.ParseObject(d.Doc)
		if err != nil {
			return err
		}
		doc, err := edit.ParseObject(d.Doc)
		if err != nil {
			return err
		}
		done, err := edit.Do(doc, op)
		if err != nil {
			return err
		}
		lists[d.Kind].Identify(doc, NewMemberID)
		if err := s.check(ctx, tx, d, before, doc); err != nil {
			return err
		}
		seq, path = d.Seq+1, done.Paths[0]
		row := logRow{actor: actor, client: client, kind: kind, reverts: &last, path: strings.Join(done.Paths, "\n"), op: asJSON(done.Op), inv: asJSON(done.Inverse)}
		if err := log(ctx, tx, d, seq, row); err != nil {
			return err
		}
		return save(ctx, tx, d, doc, seq)
	})
	return path, seq, err
}

// Mend brings a document back to the last state good accepts, going back over
// the log, as one change more. ErrNotFound when there is no such state.
func (s *Store) Mend(ctx context.Context, workspace, id, actor ID, client string, good func(ctx context.Context, r Reader, d Document, doc *edit.Object) error) error {
	return s.tx(ctx, func(tx pgx.Tx) error {
		docs, err := s.lock(ctx, tx, workspace, []Change{{ID: id}})
		if err != nil {
			return err
		}
		d := docs[id]
		now, err := edit.ParseDeep(d.Doc)
		if err != nil {
			return err
		}
		doc, err := edit.ParseDeep(d.Doc)
		if err != nil {
			return err
		}
		rows, err := tx.Query(ctx, `select seq from edits where workspace_id = $1 and document_id = $2 order by seq desc limit $3`, workspace, id, historyDepth)
		if err != nil {
			return err
		}
		seqs, err := pgx.CollectRows(rows, pgx.RowTo[int64])
		if err != nil {
			return err
		}
		for _, seq := range seqs {
			op, err := inverseOf(ctx, tx, workspace, id, seq)
			if err != nil {
				return err
			}
			if _, err := edit.Do(doc, op); err != nil {
				return ErrNotFound
			}
			if good(ctx, Reader{tx, workspace}, d, doc) != nil {
				continue
			}
			done, err := edit.Do(now, edit.Op{All: edit.Diff(now, doc)})
			if err != nil {
				return err
			}
			row := logRow{actor: actor, client: client, kind: "do", path: strings.Join(done.Paths, "\n"), op: asJSON(done.Op), inv: asJSON(done.Inverse)}
			if err := log(ctx, tx, d, d.Seq+1, row); err != nil {
				return err
			}
			return save(ctx, tx, d, now, d.Seq+1)
		}
		return ErrNotFound
	})
}
