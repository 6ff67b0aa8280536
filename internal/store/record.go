package store

import (
	"context"
	"fmt"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
)

// Note is something that was done, as the record keeps it.
type Note struct {
	User     *ID // nil for a guest
	Name     string
	Kind     string
	Document *ID
	Words    string
	To       *ID // whom alone it is for, nil for who may
}

// PutNote keeps one.
func (s *Store) PutNote(ctx context.Context, workspace ID, n Note) error {
	return putNote(ctx, s.Pool, workspace, n)
}

func putNote(ctx context.Context, db execer, workspace ID, n Note) error {
	_, err := db.Exec(ctx, `insert into record (workspace_id, user_id, name, kind, document_id, kit_id, words, to_user)
		values ($1, $2, $3, $4, $5, (select coalesce(kit_id, id) from documents where id = $5), $6, $7)`, workspace, n.User, n.Name, n.Kind, n.Document, n.Words, n.To)
	return err
}

// Entry is a line of the record.
type Entry struct {
	At       time.Time
	Until    time.Time // of changes, which are gathered
	Name     string
	Kind     string
	Document *ID
	Title    string // of the document
	Of       string // kit or brief
	Words    string
	Times    int
}

// RecordQuery asks for a page of the record.
type RecordQuery struct {
	Person   *ID
	Document *ID    // a brief, or a kit with all that is made of it
	Kind     string // "" for every kind
	Before   time.Time
	Limit    int
	In       Scope
}

// Record is a page of it, the newest first: what was noted, and changes of documents gathered by
// person and hour.
func (s *Store) Record(ctx context.Context, workspace ID, q RecordQuery) ([]Entry, error) {
	args := []any{workspace, q.Before, q.In.briefs(), q.Limit}
	notes, changes := "", ""
	add := func(note, change string, v any) {
		args = append(args, v)
		n := fmt.Sprint("$", len(args))
		notes += " and " + strings.ReplaceAll(note, "?", n)
		changes += " and " + strings.ReplaceAll(change, "?", n)
	}
	if q.Person != nil {
		add("r.user_id = ?", "h.actor = ?", *q.Person)
	}
	if q.Document != nil {
		add("(r.document_id = ? or r.kit_id = ?)", "(d.id = ? or d.kit_id = ?)", *q.Document)
	}
	if q.Kind != "" {
		add("r.kind = ?", "'change' = ?::text", q.Kind)
	}
	rows, err := s.Pool.Query(ctx, `with all_of as (
		(select r.at, r.at as until, r.name, r.kind, r.document_id, r.words, 1 as times from record r
			where r.workspace_id = $1 and r.at < $2 and r.to_user is null and ($3::uuid[] is null or r.document_id = any($3) or r.kit_id = any($3))`+notes+`
			order by r.at desc limit $4)
		union all
		(select h.first_at, h.last_at, coalesce(u.name, 'somebody'), 'change', h.document_id, '', h.times
			from edit_hours h join documents d on d.id = h.document_id left join users u on u.id = h.actor
			where h.workspace_id = $1 and h.last_at < $2 and ($3::uuid[] is null or d.id = any($3) or d.kit_id = any($3))`+changes+`
			order by h.last_at desc limit $4))
		select all_of.at, all_of.until, all_of.name, all_of.kind, all_of.document_id, coalesce(d.name, ''), coalesce(d.kind, ''), all_of.words, all_of.times
		from all_of left join documents d on d.id = all_of.document_id order by all_of.until desc limit $4`, args...)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Entry])
}

// NotifyChoices are how somebody hears of what concerns them.
var NotifyChoices = []string{"desk", "mail", "digest"}

// NotifyChoiceOf is how somebody of a workspace hears of things.
func (s *Store) NotifyChoiceOf(ctx context.Context, workspace, user ID) (how string, err error) {
	err = s.Pool.QueryRow(ctx, `select tells from members where workspace_id = $1 and user_id = $2`, workspace, user).Scan(&how)
	return how, notFound(err)
}

// SetTells says how somebody of a workspace hears of things from now on.
func (s *Store) SetTells(ctx context.Context, workspace, user ID, how string, now time.Time) error {
	_, err := s.Pool.Exec(ctx, `update members set tells = $3, told_to = coalesce((select max(id) from record where workspace_id = $1), 0), told_at = $4 where workspace_id = $1 and user_id = $2`, workspace, user, how, now)
	return err
}

// Listener is somebody who is told by mail.
type Listener struct {
	Member
	LineTo int64
}

// Listeners are those who are told in some way, and were told last before a time; of whom there
// is anything new.
func (s *Store) Listeners(ctx context.Context, how string, before time.Time, most int) ([]Listener, error) {
	rows, err := s.Pool.Query(ctx, `select u.id, u.email, u.name, w.id, w.name, m.role, `+scope+`, m.told_to
		from members m join users u on u.id = m.user_id join workspaces w on w.id = m.workspace_id
		where m.tells = $1 and m.suspended_at is null and m.told_at < $2 and exists (select from record r where r.workspace_id = m.workspace_id and r.id > m.told_to) limit $3`, how, before, most)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (l Listener, err error) {
		return l, r.Scan(&l.ID, &l.Email, &l.Name, &l.Workspace, &l.WorkspaceName, &l.Role, &l.Narrowed, &l.Only, &l.Through, &l.LineTo)
	})
}

// News is what of the record concerns somebody.
type News struct {
	Name, Kind, Words string
	Document          *ID
	Title             string
	At                time.Time
}

// TakeNews takes what of some kinds of the record somebody has not been told, done by others, and
// notes that they are told all of it now, with the mail that does.
func (s *Store) TakeNews(ctx context.Context, l Listener, kinds []string, now time.Time, write func([]News) *Mail) error {
	return s.tx(ctx, func(tx pgx.Tx) error {
		var told, last int64
		if err := tx.QueryRow(ctx, `select told_to, (select coalesce(max(id), 0) from record where workspace_id = $1) from members where workspace_id = $1 and user_id = $2 for update`, l.Workspace, l.ID).Scan(&told, &last); err != nil {
			return notFound(err)
		}
		rows, err := tx.Query(ctx, `select r.name, r.kind, r.words, r.document_id, coalesce(d.name, ''), r.at from record r left join documents d on d.id = r.document_id
			where r.workspace_id = $1 and r.id > $2 and r.id <= $3 and r.user_id is distinct from $4
			and (r.to_user = $4 or r.to_user is null and r.kind = any($5) and ($6::uuid[] is null or r.document_id = any($6) or r.kit_id = any($6))) order by r.id limit 200`,
			l.Workspace, told, last, l.ID, kinds, l.briefs())
		if err != nil {
			return err
		}
		news, err := pgx.CollectRows(rows, pgx.RowToStructByPos[News])
		if err != nil {
			return err
		}
		if m := write(news); m != nil {
			if err := putMail(ctx, tx, *m); err != nil {
				return err
			}
		}
		_, err = tx.Exec(ctx, `update members set told_to = $3, told_at = $4 where workspace_id = $1 and user_id = $2`, l.Workspace, l.ID, last, now)
		return err
	})
}

// ForMe is what was said to somebody alone of late, the newest first.
func (s *Store) ForMe(ctx context.Context, workspace, user ID, since time.Time, most int) ([]News, error) {
	rows, err := s.Pool.Query(ctx, `select r.name, r.kind, r.words, r.document_id, coalesce(d.name, ''), r.at from record r left join documents d on d.id = r.document_id
		where r.workspace_id = $1 and r.to_user = $2 and r.at > $3 order by r.id desc limit $4`, workspace, user, since, most)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[News])
}

// Unseen is a brief with finished pieces its kit has changed since.
type Unseen struct {
	Brief  ID
	Name   string
	Kit    string
	Pieces int
}

// UnseenChanges are the briefs of a workspace whose finished pieces have not seen a change of
// their kit, as far as somebody sees them.
func (s *Store) UnseenChanges(ctx context.Context, workspace ID, in Scope, most int) ([]Unseen, error) {
	rows, err := s.Pool.Query(ctx, `select d.id, d.name, k.name, count(*)::int from finished f join documents d on d.id = f.brief_id join documents k on k.id = f.kit_id left join versions v on v.id = f.version_id
		where f.workspace_id = $1 and d.archived_at is null and d.deleted_at is null and k.seq > coalesce(v.seq, 0) and ($2::uuid[] is null or d.id = any($2) or d.kit_id = any($2))
		group by d.id, d.name, k.name, d.updated_at order by d.updated_at desc limit $3`, workspace, in.briefs(), most)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Unseen])
}

// Shown is a brief that waits to be approved.
type Shown struct {
	Brief ID
	Links []string // whom it was shown to and who has not decided about it since
}

// DatedBriefs are briefs with a date or the end of an offer before a day, the latest of those
// days first.
func (s *Store) DatedBriefs(ctx context.Context, workspace ID, in Scope, before time.Time, most int) ([]ID, error) {
	rows, err := s.Pool.Query(ctx, `select d.id from documents d
		cross join lateral (select max(v) as day from json_array_elements(d.doc -> 'cards') c
			cross join lateral unnest(array[c #>> '{offer,until}', c #>> '{when,date}']) v where v <> '' and v < $3) lapsed
		where d.workspace_id = $1 and d.kind = 'brief' and d.archived_at is null and d.deleted_at is null and ($2::uuid[] is null or d.id = any($2) or d.kit_id = any($2))
		and lapsed.day is not null order by lapsed.day desc, d.id limit $4`, workspace, in.briefs(), before.Format(time.DateOnly), most)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowTo[ID])
}

// ShownBriefs are briefs that were shown to somebody, or decided about, the last first; from is
// how many of them are left out.
func (s *Store) ShownBriefs(ctx context.Context, workspace ID, in Scope, from, most int) ([]Shown, error) {
	rows, err := s.Pool.Query(ctx, `select d.id, coalesce((select array_agg(l.name order by l.made_at) from proof_links l where l.brief_id = d.id and l.ended_at is null and (l.expires_at is null or l.expires_at > now())
			and not exists (select from proof_decisions p where p.link_id = l.id)), '{}') from documents d
		where d.workspace_id = $1 and d.kind = 'brief' and d.archived_at is null and d.deleted_at is null and ($2::uuid[] is null or d.id = any($2) or d.kit_id = any($2))
		and (exists (select from proof_links l where l.workspace_id = $1 and l.brief_id = d.id and l.ended_at is null) or exists (select from proof_decisions p where p.workspace_id = $1 and p.brief_id = d.id))
		order by d.updated_at desc, d.id offset $4 limit $3`, workspace, in.briefs(), most, from)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Shown])
}
