package store

import (
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

// ErrNobody means that a change names nobody who makes it.
var ErrNobody = errors.New("nobody is said to make this change")

// Checked is a change before it is made, inside of its transaction.
type Checked struct {
	By       Member
	Document Document     // as it is; of a new one what it will be
	Before   *edit.Object // nil for a new document
	After    *edit.Object
	Like     *ID    // of a new document: the one it is a copy of
	Brought  []File // files that come with it
}

// Check looks at a change before it is made. An error refuses it.
type Check func(ctx context.Context, r Reader, c Checked) error

func (s *Store) check(ctx context.Context, tx pgx.Tx, c Checked) error {
	if c.By.ID == (ID{}) {
		return ErrNobody
	}
	if s.Check == nil {
		return nil
	}
	return s.Check(ctx, Reader{tx, c.Document.Workspace}, c)
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
	By     Member // who makes it
	Typing bool   // may join the row of the last keys on the same path
	Files  []File // it brings along, recorded with it
	Seen   *int64 // the seq it was made up from, nil for any
}

// ErrMoved means a document is not as it was when a change was made up.
var ErrMoved = errors.New("it has changed meanwhile")

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
// nothing is changed. It returns the documents as they are then.
func (s *Store) Edit(ctx context.Context, workspace ID, changes ...Change) (docs []Document, err error) {
	if len(changes) == 0 {
		return nil, nil
	}
	by := changes[0].By
	err = s.changing(ctx, by, thingsOf(workspace, changes), func(tx pgx.Tx) error {
		locked, err := s.lock(ctx, tx, workspace, by, changes)
		if err != nil {
			return err
		}
		docs = make([]Document, len(changes))
		for i, c := range changes {
			if docs[i], err = s.edit(ctx, tx, locked[c.ID], c); err != nil {
				return err
			}
		}
		return nil
	})
	return docs, err
}

// thingsOf is what some changes are about: their documents, and where kits are among them the kits
// of the workspace, of which one is changed at a time.
func thingsOf(workspace ID, changes []Change) (out []string) {
	for _, c := range changes {
		if out = append(out, c.ID.String()); c.Kind == "kit" {
			out = append(out, kitsOf(workspace))
		}
	}
	return out
}

func kitsOf(workspace ID) string { return "kits of " + workspace.String() }

// lock notes the change somebody sends as made, reads the documents of some changes
// and keeps others from changing them; always in the same order, so that nobody waits
// for somebody who waits for him.
func (s *Store) lock(ctx context.Context, tx pgx.Tx, workspace ID, by Member, changes []Change) (map[ID]Document, error) {
	var ids []ID
	family := false // a kit may be among them
	for _, c := range changes {
		if !slices.Contains(ids, c.ID) {
			ids = append(ids, c.ID)
		}
		family = family || c.Kind != "brief" && c.Kind != "channels"
	}
	if family {
		var kits int
		if err := tx.QueryRow(ctx, `select count(*) from documents where workspace_id = $1 and id = any($2) and kind = 'kit'`, workspace, ids).Scan(&kits); err != nil {
			return nil, err
		}
		if kits > 0 {
			if err := familyLock(ctx, tx, workspace); err != nil {
				return nil, err
			}
		}
	}
	change := ""
	if by.once != nil && !by.once.claimed {
		change = by.once.id
	}
	rows, err := tx.Query(ctx, `with claimed as (insert into changes (workspace_id, id, result) select $1, $3, '' where $3 <> '' on conflict do nothing returning 1)
		select `+documentColumns+`, $3 = '' or exists (select from claimed) from documents where workspace_id = $1 and id = any($2) order by id for update`, workspace, ids, change)
	if err != nil {
		return nil, err
	}
	out := map[ID]Document{}
	for rows.Next() {
		var claimed bool
		d, err := scanDocument(rows, &claimed)
		if err == nil && !claimed {
			err = ErrRepeated
		}
		if err != nil {
			rows.Close()
			return nil, err
		}
		out[d.ID] = d
	}
	if err := rows.Err(); err != nil {
		return nil, err
	}
	if change != "" {
		by.once.claimed = true
	}
	for _, c := range changes {
		d, ok := out[c.ID]
		switch {
		case !ok || c.Kind != "" && d.Kind != c.Kind:
			return nil, ErrNotFound
		case c.Seen != nil && *c.Seen != d.Seq:
			return nil, ErrMoved
		}
	}
	return out, nil
}

// edit makes one change to a locked document.
func (s *Store) edit(ctx context.Context, tx pgx.Tx, d Document, c Change) (Document, error) {
	before, err := edit.ParseObject(d.Doc)
	if err != nil {
		return d, err
	}
	doc, err := edit.ParseObject(d.Doc)
	if err != nil {
		return d, err
	}
	op, err := lists[d.Kind].Prepare(c.Op, NewMemberID)
	if err != nil {
		return d, err
	}
	done, err := edit.Do(doc, op)
	if errors.Is(err, edit.ErrGone) && c.Base < d.Seq { // somebody took it away
		return d, &Conflict{Path: c.Op.Path, Theirs: json.RawMessage("null"), Yours: c.Op.Value, Seq: d.Seq}
	}
	if err != nil {
		return d, err
	}
	if err := conflicts(ctx, tx, d, before, c, done); err != nil {
		return d, err
	}
	lists[d.Kind].Identify(doc, NewMemberID) // lists whose members had none before
	if err := putFiles(ctx, tx, c.By.ID, c.Files); err != nil {
		return d, err
	}
	if err := s.check(ctx, tx, Checked{By: c.By, Document: d, Before: before, After: doc, Brought: c.Files}); err != nil {
		return d, err
	}
	row := logRow{actor: c.By.ID, client: c.Client, kind: "do", path: strings.Join(done.Paths, "\n"), op: asJSON(done.Op), inv: asJSON(done.Inverse), typing: c.Typing}
	return record(ctx, tx, d, doc, row)
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

// record writes a document as a change leaves it, and the change into the log; what is
// typed within a pause joins the row of the keys before it, also where the first of them
// changed something before its words, which is taken back with them. The document's number moves
// with everything another process may have to see.
func record(ctx context.Context, tx pgx.Tx, d Document, doc *edit.Object, r logRow) (Document, error) {
	data, err := edit.Marshal(doc)
	if err != nil {
		return d, err
	}
	name, said := called(d.Kind, doc)
	before := d.Seq
	d.Doc, d.Name, d.Seq = data, name, before+1
	err = tx.QueryRow(ctx, `with typed as (
			update edits set op = $10::json, upto = $3, at = now()
			where $13 and workspace_id = $1 and document_id = $2 and upto = $4 and kind = 'do' and client = $6
				and (path = $9 or right(path, length($9) + 1) = chr(10) || $9) and at > now() - $14::interval
			returning seq),
		logged as (
			insert into edits (document_id, workspace_id, seq, upto, actor, client, kind, reverts, path, op, inverse)
			select $2, $1, $3, $3, $5, $6, $7, $8, $9, $10::json, $11::json where not exists (select from typed)),
		saved as (
			update documents set doc = $12::json, places = places_of($12::json), seq = $3, name = $15, said = $16, kit_id = $17, updated_at = now(),
				undoable = case when exists (select from typed) then undoable when $7 = 'undo' then greatest(0, undoable - 1) else least($18, undoable + 1) end,
				redoable = case when exists (select from typed) then redoable when $7 = 'undo' then redoable + 1 when $7 = 'redo' then greatest(0, redoable - 1) else 0 end
			where workspace_id = $1 and id = $2 returning updated_at, undoable, redoable),
		counted as (
			insert into edit_hours (workspace_id, document_id, actor, hour, first_at, last_at, times) values ($1, $2, $5, date_trunc('hour', now()), now(), now(), 1)
			on conflict (document_id, actor, hour) do update set last_at = now(), times = edit_hours.times + case when exists (select from typed) then 0 else 1 end)
		select updated_at, undoable, redoable from saved, pg_notify('document', $19)`,
		d.Workspace, d.ID, d.Seq, before, r.actor, r.client, r.kind, r.reverts, r.path, r.op, r.inv, data,
		r.typing, typingPause, name, said, d.KitID, historyDepth, moved(d)).Scan(&d.UpdatedAt, &d.Undoable, &d.Redoable)
	return d, err
}

// moved is what others are told of a document that has changed.
func moved(d Document) string { return fmt.Sprintf("%s %d", d.ID, d.Seq) }

// called is what a document is called in lists, and what a brief is found by.
func called(kind string, doc *edit.Object) (name, said string) {
	switch kind {
	case "kit":
		name, _ = brand.Own(doc).Get("name").(string)
	case "brief":
		return brief.TitleOf(doc), brief.WordsIn(doc)
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
	typing       bool
}
