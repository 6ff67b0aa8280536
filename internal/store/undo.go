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

// standing is a row of the log that can be taken back, or put back, and who it is of.
type standing struct {
	seq   int64
	actor ID
}

// stacks walks the log as an editor would: a change can be undone, an undone one redone
// until who undid it does something new.
func stacks(rows []logRow) (undo, redo []standing) {
	without := func(list []standing, r logRow) []standing {
		if r.reverts != nil {
			if i := slices.IndexFunc(list, func(s standing) bool { return s.seq == *r.reverts }); i >= 0 {
				return slices.Delete(list, i, i+1)
			}
		}
		return list[:max(0, len(list)-1)] // it lies deeper than was looked
	}
	for _, r := range rows {
		own := standing{r.seq, r.actor}
		switch r.kind {
		case "do":
			undo = append(undo, own)
			redo = slices.DeleteFunc(redo, func(s standing) bool { return s.actor == r.actor })
		case "undo":
			undo, redo = without(undo, r), append(redo, own)
		case "redo":
			undo, redo = append(undo, own), without(redo, r)
		}
	}
	return undo, redo
}

// historyDepth is how many rows of the log undo looks at.
const historyDepth = 10000

// history lists what can be undone and redone.
func history(ctx context.Context, q querier, workspace, id ID) (undo, redo []standing, err error) {
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
// nobody else changed anything of since; false for none.
func nextOf(ctx context.Context, q querier, workspace, id, actor ID, list []standing) (int64, bool, error) {
	var later []int64 // of others
	paths := map[int64][]string{}
	for i := len(list) - 1; i >= 0; i-- {
		s := list[i]
		if s.actor != actor {
			later = append(later, s.seq)
			continue
		}
		if len(later) == 0 {
			return s.seq, true, nil
		}
		if err := pathsOf(ctx, q, workspace, id, append(later, s.seq), paths); err != nil {
			return 0, false, err
		}
		if !slices.ContainsFunc(later, func(o int64) bool { return overlap(paths[s.seq], paths[o]) }) {
			return s.seq, true, nil
		}
	}
	return 0, false, nil
}

// pathsOf adds the paths rows of the log changed to those that are known.
func pathsOf(ctx context.Context, q querier, workspace, id ID, seqs []int64, known map[int64][]string) error {
	seqs = slices.DeleteFunc(slices.Clone(seqs), func(s int64) bool { return known[s] != nil })
	if len(seqs) == 0 {
		return nil
	}
	rows, err := q.Query(ctx, `select seq, path from edits where workspace_id = $1 and document_id = $2 and seq = any($3)`, workspace, id, seqs)
	if err != nil {
		return err
	}
	var seq int64
	var path string
	_, err = pgx.ForEachRow(rows, []any{&seq, &path}, func() error {
		known[seq] = strings.Split(path, "\n")
		return nil
	})
	return err
}

// overlap reports whether one of the paths is, or lies in, one of the others.
func overlap(some, others []string) bool {
	for _, p := range some {
		for _, q := range others {
			if p == q || strings.HasPrefix(p, q+"/") || strings.HasPrefix(q, p+"/") {
				return true
			}
		}
	}
	return false
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
	err = s.changing(ctx, r.By, func(tx pgx.Tx) error {
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
	return s.changing(ctx, by, func(tx pgx.Tx) error {
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
		seqOf := func(s standing) bool { return s.seq == to }
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
	was := d
	kind := map[bool]string{false: "undo", true: "redo"}[r.Redo]
	var paths []string
	for _, last := range rows {
		op, err := inverseOf(ctx, tx, d.Workspace, d.ID, last)
		if err != nil {
			return d, nil, err
		}
		done, err := edit.Do(doc, op)
		if err != nil {
			return d, nil, err
		}
		lists[d.Kind].Identify(doc, NewMemberID)
		row := logRow{actor: r.By.ID, client: r.Client, kind: kind, reverts: &last, path: strings.Join(done.Paths, "\n"), op: asJSON(done.Op), inv: asJSON(done.Inverse)}
		if d, err = record(ctx, tx, d, doc, row); err != nil {
			return d, nil, err
		}
		paths = append(paths, done.Paths...)
	}
	return d, paths, s.check(ctx, tx, Checked{By: r.By, Document: was, Before: before, After: doc})
}

// Mend brings a document back to the last state good accepts, going back over
// the log, as one change more. ErrNotFound when there is no such state.
func (s *Store) Mend(ctx context.Context, workspace, id ID, by Member, client string, good func(ctx context.Context, r Reader, d Document, doc *edit.Object) error) error {
	return s.changing(ctx, by, func(tx pgx.Tx) error {
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
