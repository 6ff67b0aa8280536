package store

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5"
)

// Version is a kit as it stood at a moment.
type Version struct {
	ID    int64
	Kit   ID
	Seq   int64
	At    time.Time
	Name  string
	Doc   []byte // the kit's own document
	Whole []byte // with its parents in it
}

const versionColumns = `id, kit_id, seq, at, name, doc::text, whole::text`

func scanVersion(row pgx.CollectableRow) (v Version, err error) {
	var doc, whole string
	err = row.Scan(&v.ID, &v.Kit, &v.Seq, &v.At, &v.Name, &doc, &whole)
	v.Doc, v.Whole = []byte(doc), []byte(whole)
	return v, err
}

// RecordVersion keeps a kit as it stands; one that was kept already in this
// state is not kept twice. It returns the version's number either way.
func (s *Store) RecordVersion(ctx context.Context, workspace ID, v Version) (id int64, err error) {
	err = s.inTurn(ctx, []string{v.Kit.String()}, func(tx pgx.Tx) error {
		err := tx.QueryRow(ctx, `select id from versions where workspace_id = $1 and kit_id = $2 and seq = $3 and whole::text = $4 order by id desc limit 1`,
			workspace, v.Kit, v.Seq, v.Whole).Scan(&id)
		if notFound(err) != ErrNotFound {
			return err
		}
		return tx.QueryRow(ctx, `insert into versions (kit_id, workspace_id, seq, name, doc, whole) values ($1, $2, $3, $4, $5, $6) returning id`,
			v.Kit, workspace, v.Seq, v.Name, v.Doc, v.Whole).Scan(&id)
	})
	return id, err
}

// Versions lists a kit's versions, latest first.
func (s *Store) Versions(ctx context.Context, workspace, kit ID, limit int) ([]Version, error) {
	rows, err := s.Pool.Query(ctx, `select `+versionColumns+` from versions where workspace_id = $1 and kit_id = $2 order by id desc limit $3`, workspace, kit, limit)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, scanVersion)
}

// Version reads one.
func (s *Store) Version(ctx context.Context, workspace, kit ID, id int64) (Version, error) {
	rows, err := s.Pool.Query(ctx, `select `+versionColumns+` from versions where workspace_id = $1 and kit_id = $2 and id = $3`, workspace, kit, id)
	if err != nil {
		return Version{}, err
	}
	v, err := pgx.CollectExactlyOneRow(rows, scanVersion)
	return v, notFound(err)
}

// NameVersion gives a version a name.
func (s *Store) NameVersion(ctx context.Context, workspace, kit ID, id int64, name string) error {
	tag, err := s.Pool.Exec(ctx, `update versions set name = $4 where workspace_id = $1 and kit_id = $2 and id = $3`, workspace, kit, id, name)
	if err == nil && tag.RowsAffected() == 0 {
		err = ErrNotFound
	}
	return err
}

// QuietSince says when a document was last changed, whether it ever was, and
// whether it is a kit.
func (s *Store) QuietSince(ctx context.Context, workspace, id ID) (at time.Time, kit, changed bool, err error) {
	err = s.Pool.QueryRow(ctx, `select coalesce(e.at, 'epoch'), d.kind = 'kit', e.at is not null from documents d
		left join lateral (select at from edits where workspace_id = $1 and document_id = d.id order by seq desc limit 1) e on true
		where d.workspace_id = $1 and d.id = $2`, workspace, id).Scan(&at, &kit, &changed)
	return at, kit, changed, notFound(err)
}

// Finished is a piece as it went out.
type Finished struct {
	Brief      ID
	Kit        ID
	Placement  string
	At         time.Time
	KitVersion *int64 // of the kit, nil when it is not kept any more
	Hash       string // of the drawing, to tell whether it would look different now
	Look       []byte
	SVG        string // hash of the file, self-contained, at scale 1
	Report     []byte
}

const finishedColumns = `brief_id, kit_id, placement, at, version_id, hash, look, svg, report`

// Finish freezes pieces; one that was frozen takes the new state.
func (s *Store) Finish(ctx context.Context, workspace ID, list ...Finished) error {
	return s.tx(ctx, func(tx pgx.Tx) error {
		for _, f := range list {
			if _, err := tx.Exec(ctx, `insert into finished (workspace_id, brief_id, kit_id, placement, version_id, hash, look, svg, report)
				select $1, $2, $3, $4, $5, $6, $7, $8, $9 where exists (select from documents where id = $2 and workspace_id = $1)
				on conflict (brief_id, placement) do update set kit_id = excluded.kit_id, at = now(), version_id = excluded.version_id,
				hash = excluded.hash, look = excluded.look, svg = excluded.svg, report = excluded.report`,
				workspace, f.Brief, f.Kit, f.Placement, f.KitVersion, f.Hash, f.Look, f.SVG, f.Report); err != nil {
				return err
			}
		}
		return nil
	})
}

// FinishedOf lists the finished pieces of a brief.
func (s *Store) FinishedOf(ctx context.Context, workspace, brief ID) ([]Finished, error) {
	rows, err := s.Pool.Query(ctx, `select `+finishedColumns+` from finished where workspace_id = $1 and brief_id = $2 order by placement`, workspace, brief)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Finished])
}

// FinishedWith lists the finished pieces made with a kit or one that follows it.
func (s *Store) FinishedWith(ctx context.Context, workspace, kit ID) ([]Finished, error) {
	rows, err := s.Pool.Query(ctx, family+`select `+finishedColumns+` from finished where workspace_id = $1 and kit_id in (select id from family)
		order by brief_id, placement limit 2000`, workspace, kit)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Finished])
}

// CountFinished says how many finished pieces were made with a kit or one that
// follows it.
func (s *Store) CountFinished(ctx context.Context, workspace, kit ID) (n int, err error) {
	err = s.Pool.QueryRow(ctx, family+`select count(*) from finished where workspace_id = $1 and kit_id in (select id from family)`, workspace, kit).Scan(&n)
	return n, err
}

// Reopen lets a brief's finished pieces follow again.
func (s *Store) Reopen(ctx context.Context, workspace, brief ID, keys ...string) error {
	_, err := s.Pool.Exec(ctx, `delete from finished where workspace_id = $1 and brief_id = $2 and (cardinality($3::text[]) = 0 or placement = any($3))`, workspace, brief, append([]string{}, keys...))
	return err
}
