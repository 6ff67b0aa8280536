package store

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"aspenridge/internal/core/edit"
)

// revertible is a row of the log that can be taken back, or put back, and who it is of.
type revertible struct {
	seq   int64
	actor ID
}

// stacks walks the log as an editor would: a change can be undone, an undone one redone
// until who undid it does something new.
func stacks(rows []logRow) (undo, redo []revertible) {
	without := func(list []revertible, r logRow) []revertible {
		for i := len(list) - 1; r.reverts != nil && i >= 0; i-- { // mostly the last
			if list[i].seq == *r.reverts {
				return slices.Delete(list, i, i+1)
			}
		}
		return list[:max(0, len(list)-1)] // it lies deeper than was looked
	}
	undid := map[ID]bool{} // who has something to put back
	for _, r := range rows {
		own := revertible{r.seq, r.actor}
		switch r.kind {
		case "do":
			undo = append(undo, own)
			if undid[r.actor] {
				redo = slices.DeleteFunc(redo, func(s revertible) bool { return s.actor == r.actor })
				undid[r.actor] = false
			}
		case "undo":
			undo, redo = without(undo, r), append(redo, own)
			undid[r.actor] = true
		case "redo":
			undo, redo = append(undo, own), without(redo, r)
		}
	}
	return undo, redo
}

// historyDepth is how many rows of the log undo looks at.
const historyDepth = 10000

// history lists what can be undone and redone.
func history(ctx context.Context, q querier, workspace, id ID) (undo, redo []revertible, err error) {
	rows, err := q.Query(ctx, `select seq, kind, actor, reverts from
		(select seq, kind, actor, reverts from edits where workspace_id = $3 and document_id = $1 order by seq desc limit $2) e order by seq`, id, historyDepth, workspace)
	if err != nil {
		return nil, nil, err
	}
	list, err := pgx.CollectRows(rows, func(r pgx.CollectableRow) (l logRow, err error) {
		err = r.Scan(&l.seq, &l.kind, &l.actor, &l.reverts)
		return l, err
	})
	if err != nil {
		return nil, nil, err
	}
	undo, redo = stacks(list)
	return undo, redo, nil
}

// nextOf is which of what stands one person takes back next: the last of their own that
// nobody else changed anything of since; false for none. It asks once for what was changed, and
// only where somebody else changed something later.
func nextOf(ctx context.Context, q querier, workspace, id, actor ID, list []revertible) (int64, bool, error) {
	own := slices.ContainsFunc(list, func(s revertible) bool { return s.actor == actor })
	switch n := len(list); {
	case !own:
		return 0, false, nil
	case list[n-1].actor == actor:
		return list[n-1].seq, true, nil
	}
	seqs := make([]int64, len(list))
	for i, s := range list {
		seqs[i] = s.seq
	}
	rows, err := q.Query(ctx, `select seq, path from edits where workspace_id = $1 and document_id = $2 and seq = any($3)`, workspace, id, seqs)
	if err != nil {
		return 0, false, err
	}
	paths := make(map[int64][]string, len(list))
	var seq int64
	var path string
	if _, err = pgx.ForEachRow(rows, []any{&seq, &path}, func() error {
		paths[seq] = strings.Split(path, "\n")
		return nil
	}); err != nil {
		return 0, false, err
	}
	theirs := touched{}
	for _, s := range slices.Backward(list) {
		if s.actor != actor {
			theirs.add(paths[s.seq])
		} else if !theirs.overlaps(paths[s.seq]) {
			return s.seq, true, nil
		}
	}
	return 0, false, nil
}

// touched are paths that were changed, and what lies above them.
type touched map[string]bool // true for what was changed itself

func (t touched) add(paths []string) {
	for _, p := range paths {
		t[p] = true
		for above(&p) {
			t[p] = t[p]
		}
	}
}

// overlaps reports whether one of the paths is one of these, or lies in one or around one.
func (t touched) overlaps(paths []string) bool {
	for _, p := range paths {
		if _, around := t[p]; around {
			return true
		}
		for above(&p) {
			if t[p] {
				return true
			}
		}
	}
	return false
}

// above goes from a path to the one around it; false from the topmost.
func above(p *string) bool {
	i := strings.LastIndexByte(*p, '/')
	if i < 0 {
		return false
	}
	*p = (*p)[:i]
	return true
}

// Past is a change that can be gone back over, or to.
type Past struct {
	Seq     int64
	At      time.Time
	By      string // who made it
	Undone  bool   // it was taken back and can be put back
	Op      edit.Op
	Inverse edit.Op
}

// Past lists the changes of a document that can be taken back and those that can be put
// back, the latest first, most at most.
func (s *Store) Past(ctx context.Context, workspace, id ID, most int) ([]Past, error) {
	undo, redo, err := history(ctx, s.Pool, workspace, id)
	if err != nil {
		return nil, err
	}
	undone := map[int64]bool{}
	var order []int64 // as they follow each other, once all that was undone is put back
	for _, s := range undo {
		order = append(order, s.seq)
	}
	slices.Reverse(redo)
	for _, s := range redo {
		undone[s.seq] = true
		order = append(order, s.seq)
	}
	slices.Reverse(order)
	order = order[:min(len(order), most)]
	rows, err := s.Pool.Query(ctx, `select e.seq, e.at, coalesce(p.name, ''), e.op::text, e.inverse::text from edits e left join users p on p.id = e.actor
		where e.workspace_id = $1 and e.document_id = $2 and e.seq = any($3)`, workspace, id, order)
	if err != nil {
		return nil, err
	}
	found := map[int64]Past{}
	list, err := pgx.CollectRows(rows, func(r pgx.CollectableRow) (p Past, err error) {
		var op, inverse string
		if err = r.Scan(&p.Seq, &p.At, &p.By, &op, &inverse); err == nil {
			err = cmp.Or(json.Unmarshal([]byte(op), &p.Op), json.Unmarshal([]byte(inverse), &p.Inverse))
		}
		return p, err
	})
	for _, p := range list {
		p.Undone = undone[p.Seq]
		if p.Undone { // the row is of the taking back: what it did back is what would be done
			p.Op, p.Inverse = p.Inverse, p.Op
		}
		found[p.Seq] = p
	}
	out := make([]Past, 0, len(order))
	for _, seq := range order {
		if p, ok := found[seq]; ok {
			out = append(out, p)
		}
	}
	return out, err
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

// Reverting is who takes back, or with Redo puts back, what they did last themselves and nobody
// else changed anything of since.
type Reverting struct {
	By     Member
	Client string
	Redo   bool
}

// next is the row of the log somebody takes back, or puts back, next.
func next(ctx context.Context, q querier, workspace, id ID, r Reverting) (int64, error) {
	from, redoable, err := history(ctx, q, workspace, id)
	if err != nil {
		return 0, err
	}
	if r.Redo {
		from = redoable
	}
	if len(from) == 0 {
		return 0, ErrNothing
	}
	last, own, err := nextOf(ctx, q, workspace, id, r.By.ID, from)
	if err == nil && !own {
		err = ErrNothing
	}
	return last, err
}

// Next is what [Store.Revert] would do: the operation, and the one that takes it back.
// ErrNothing means there is nothing to revert.
func (s *Store) Next(ctx context.Context, workspace, id ID, r Reverting) (st edit.Step, err error) {
	last, err := next(ctx, s.Pool, workspace, id, r)
	if err != nil {
		return st, err
	}
	var op, inverse string
	err = s.Pool.QueryRow(ctx, `select op::text, inverse::text from edits where workspace_id = $1 and document_id = $2 and seq = $3`, workspace, id, last).Scan(&op, &inverse)
	if err == nil {
		err = cmp.Or(json.Unmarshal([]byte(inverse), &st.Op), json.Unmarshal([]byte(op), &st.Inverse))
	}
	return st, err
}

// Revert undoes a change, or redoes one that was undone. It appends to the log like any
// change. ErrNothing means there is nothing to revert.
func (s *Store) Revert(ctx context.Context, workspace, id ID, r Reverting) (path string, seq int64, err error) {
	err = s.changing(ctx, r.By, []string{id.String()}, func(tx pgx.Tx) error {
		docs, err := s.lock(ctx, tx, workspace, r.By, []Change{{ID: id}})
		if err != nil {
			return err
		}
		last, err := next(ctx, tx, workspace, id, r)
		if err != nil {
			return err
		}
		d, paths, err := s.revert(ctx, tx, docs[id], r, last)
		if err == nil {
			path, seq = paths[0], d.Seq
		}
		return err
	})
	return path, seq, err
}

// RevertTo takes changes back, or puts them back, one after the other until the one of a number is
// the last that is done, whoever made them; 0 takes all back. All of it is done or none of it. base
// is the number of the document whose list of changes was seen: where somebody else changed it since
// a [*Conflict] says what, and a number that is not in the list any more is ErrNothing.
func (s *Store) RevertTo(ctx context.Context, workspace, id ID, by Member, client string, to, base int64) error {
	return s.changing(ctx, by, []string{id.String()}, func(tx pgx.Tx) error {
		docs, err := s.lock(ctx, tx, workspace, by, []Change{{ID: id}})
		if err != nil {
			return err
		}
		d := docs[id]
		if err := movedByOthers(ctx, tx, d, by.ID, base); err != nil {
			return err
		}
		done, undone, err := history(ctx, tx, workspace, id)
		if err != nil {
			return err
		}
		seqOf := func(s revertible) bool { return s.seq == to }
		r := Reverting{By: by, Client: client}
		steps := done
		switch i := slices.IndexFunc(done, seqOf); {
		case to == 0:
		case i >= 0:
			steps = done[i+1:]
		default:
			r.Redo = true
			if i = slices.IndexFunc(undone, seqOf); i < 0 {
				return ErrNothing
			}
			steps = undone[i:]
		}
		var last []int64
		for _, step := range slices.Backward(steps) {
			last = append(last, step.seq)
		}
		if len(last) > 0 {
			_, _, err = s.revert(ctx, tx, d, r, last...)
		}
		return err
	})
}

// movedByOthers is a [*Conflict] with the last change somebody else made of a document since it had
// a number, nil for none.
func movedByOthers(ctx context.Context, tx pgx.Tx, d Document, me ID, base int64) error {
	var paths string
	err := tx.QueryRow(ctx, `select path from edits where workspace_id = $1 and document_id = $2 and upto > $3 and actor <> $4 order by seq desc limit 1`, d.Workspace, d.ID, base, me).Scan(&paths)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil
	}
	if err != nil {
		return err
	}
	path, _, _ := strings.Cut(paths, "\n")
	c := &Conflict{Path: path, Theirs: json.RawMessage("null"), Yours: json.RawMessage("null"), Seq: d.Seq}
	doc, err := edit.ParseObject(d.Doc)
	if err != nil {
		return err
	}
	if v, ok := edit.Lookup(doc, path); ok {
		c.Theirs = asJSON(v)
	}
	return c
}

// revert reverts rows of the log one after the other, and checks what comes of all of them.
func (s *Store) revert(ctx context.Context, tx pgx.Tx, d Document, r Reverting, rows ...int64) (Document, []string, error) {
	before, err := edit.ParseObject(d.Doc)
	if err != nil {
		return d, nil, err
	}
	doc, err := edit.ParseObject(d.Doc)
	if err != nil {
		return d, nil, err
	}
	ops, err := inversesOf(ctx, tx, d, rows)
	if err != nil {
		return d, nil, err
	}
	was := d
	var paths []string
	log := make([]logRow, len(rows))
	for i, last := range rows {
		done, err := edit.Do(doc, ops[i])
		if err != nil {
			return d, nil, err
		}
		lists[d.Kind].Identify(doc, NewMemberID)
		log[i] = logRow{seq: d.Seq + int64(i) + 1, reverts: &last, path: strings.Join(done.Paths, "\n"), op: asJSON(done.Op), inv: asJSON(done.Inverse)}
		paths = append(paths, done.Paths...)
	}
	if err := s.check(ctx, tx, Checked{By: r.By, Document: was, Before: before, After: doc}); err != nil {
		return d, nil, err
	}
	d, err = recordReverts(ctx, tx, d, doc, r, log)
	return d, paths, err
}

// inversesOf are what changes rows of the log back, in their order.
func inversesOf(ctx context.Context, tx pgx.Tx, d Document, seqs []int64) ([]edit.Op, error) {
	rows, err := tx.Query(ctx, `select inverse::text from unnest($3::bigint[]) with ordinality as s(seq, n)
		join edits e on e.workspace_id = $1 and e.document_id = $2 and e.seq = s.seq order by n`, d.Workspace, d.ID, seqs)
	if err != nil {
		return nil, err
	}
	list, err := pgx.CollectRows(rows, pgx.RowTo[string])
	if err != nil {
		return nil, err
	}
	if len(list) != len(seqs) {
		return nil, ErrNotFound
	}
	ops := make([]edit.Op, len(list))
	for i, inverse := range list {
		if err := json.Unmarshal([]byte(inverse), &ops[i]); err != nil {
			return nil, err
		}
	}
	return ops, nil
}

// recordReverts writes a document as changes that were taken back, or put back, leave it, and each
// of them into the log.
func recordReverts(ctx context.Context, tx pgx.Tx, d Document, doc *edit.Object, r Reverting, log []logRow) (Document, error) {
	data, err := edit.Marshal(doc)
	if err != nil {
		return d, err
	}
	name, said := called(d.Kind, doc)
	d.Doc, d.Name, d.Seq = data, name, d.Seq+int64(len(log))
	var seqs, reverts []int64
	var paths, ops, inverses []string
	for _, l := range log {
		seqs, reverts = append(seqs, l.seq), append(reverts, *l.reverts)
		paths, ops, inverses = append(paths, l.path), append(ops, string(l.op)), append(inverses, string(l.inv))
	}
	kind := map[bool]string{false: "undo", true: "redo"}[r.Redo]
	err = tx.QueryRow(ctx, `with logged as (
			insert into edits (document_id, workspace_id, seq, upto, actor, client, kind, reverts, path, op, inverse)
			select $2, $1, s, s, $3, $4, $5, r, p, o::json, i::json from unnest($6::bigint[], $7::bigint[], $8::text[], $9::text[], $10::text[]) as l(s, r, p, o, i)),
		saved as (
			update documents set doc = $11::json, places = places_of($11::json), seq = $12, name = $13, said = $14, updated_at = now(),
				undoable = case when $5 = 'undo' then greatest(0, undoable - $15) else least($16, undoable + $15) end,
				redoable = case when $5 = 'undo' then redoable + $15 else greatest(0, redoable - $15) end
			where workspace_id = $1 and id = $2 returning updated_at, undoable, redoable),
		counted as (
			insert into edit_hours (workspace_id, document_id, actor, hour, first_at, last_at, times) values ($1, $2, $3, date_trunc('hour', now()), now(), now(), $15)
			on conflict (document_id, actor, hour) do update set last_at = now(), times = edit_hours.times + $15)
		select updated_at, undoable, redoable from saved, pg_notify('document', $17)`,
		d.Workspace, d.ID, r.By.ID, r.Client, kind, seqs, reverts, paths, ops, inverses, data, d.Seq, name, said, len(log), historyDepth, moved(d)).Scan(&d.UpdatedAt, &d.Undoable, &d.Redoable)
	return d, err
}

// Mend brings a document back to the last state good accepts, going back over
// the log, as one change more. ErrNotFound when there is no such state.
func (s *Store) Mend(ctx context.Context, workspace, id ID, by Member, client string, good func(ctx context.Context, r Reader, d Document, doc *edit.Object) error) error {
	return s.changing(ctx, by, []string{id.String()}, func(tx pgx.Tx) error {
		docs, err := s.lock(ctx, tx, workspace, by, []Change{{ID: id}})
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
			row := logRow{actor: by.ID, client: client, kind: "do", path: strings.Join(done.Paths, "\n"), op: asJSON(done.Op), inv: asJSON(done.Inverse)}
			_, err = record(ctx, tx, d, now, row)
			return err
		}
		return ErrNotFound
	})
}
