package store

import (
	"context"
	"encoding/json"
	"time"

	"github.com/jackc/pgx/v5"
)

// ProofLink is a way in for somebody without an account, to one brief.
type ProofLink struct {
	ID        ID
	Workspace ID
	Brief     ID
	Name      string // whom it is for
	Password  string // its hash, "" for none
	Expires   *time.Time
	Made      time.Time
	Seen      *time.Time
	By        ID   // who made it
	Closed    bool // nothing more is said by it
	Approves  bool // what is approved by it is signed off
}

// Comment is something said about a piece.
type Comment struct {
	ID       ID
	Piece    string
	Part     string  // slot, "" for the piece as a whole
	X, Y     float64 // its spot, or the middle of its area: 0-1 of the part, else of the piece
	W, H     float64 // of its area, in the same way; 0 for a spot
	Word     string  // of its part, "" for none
	Nth      int     // which of those alike, from 0
	About    *ID     // the first of its thread
	By       By
	Words    string
	Seq      int64  // of the brief when it was said
	Hash     string // of the piece as it was drawn then, "" for an answer
	Shot     string // hash of a picture of it
	At       time.Time
	Resolved *time.Time
	Resolver string
	Suggests string     // other words for its part, "" for none
	Taken    *time.Time // when they were taken
}

// By is who says something: a person with an account, or whoever came by a link.
type By struct {
	Name   string
	Person *ID
	Link   *ID
}

// Shown is the name as others see it: that of a guest is what they say it is.
func (b By) Shown() string {
	if b.Link != nil {
		return "guest, says to be " + b.Name
	}
	return b.Name
}

// Decision is a piece approved, or sent back.
type Decision struct {
	Piece   string
	Verdict string // approved, changes
	By      By
	Hash    string // of the drawing it is about
	Was     json.RawMessage
	Shot    string // hash of its picture
	Seq     int64
	At      time.Time
}

// PutProofLink makes a link to a brief, by the hash of its token.
func (s *Store) PutProofLink(ctx context.Context, l ProofLink, token []byte, by ID) error {
	tag, err := s.Pool.Exec(ctx, `insert into proof_links (id, workspace_id, brief_id, token_hash, name, password_hash, expires_at, made_by, closed, approves) select $1, $2, $3, $4, $5, $6, $7, $8, $9, $10
		where exists (select from documents where id = $3 and workspace_id = $2 and kind = 'brief' and deleted_at is null)
		on conflict (id) do update set name = excluded.name where proof_links.token_hash = excluded.token_hash`,
		l.ID, l.Workspace, l.Brief, token, l.Name, l.Password, l.Expires, by, l.Closed, l.Approves)
	if err == nil && tag.RowsAffected() == 0 {
		return ErrNotFound
	}
	return err
}

const proofLink = `l.id, l.workspace_id, l.brief_id, l.name, l.password_hash, l.expires_at, l.made_at, l.seen_at, l.made_by, l.closed, l.approves`

// ProofLinks are the links to a brief that have not been ended, the newest first.
func (s *Store) ProofLinks(ctx context.Context, workspace, brief ID) ([]ProofLink, error) {
	rows, err := s.Pool.Query(ctx, `select `+proofLink+` from proof_links l where l.workspace_id = $1 and l.brief_id = $2 and l.ended_at is null order by l.made_at desc`, workspace, brief)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[ProofLink])
}

// ProofLink finds a link that lives by the hash of its token, and notes that it was used.
func (s *Store) ProofLink(ctx context.Context, token []byte, now time.Time) (ProofLink, error) {
	rows, err := s.Pool.Query(ctx, `update proof_links l set seen_at = $2 from documents d
		where l.token_hash = $1 and l.ended_at is null and (l.expires_at is null or l.expires_at > $2) and d.id = l.brief_id and d.deleted_at is null returning `+proofLink, token, now)
	if err != nil {
		return ProofLink{}, err
	}
	l, err := pgx.CollectExactlyOneRow(rows, pgx.RowToStructByPos[ProofLink])
	return l, notFound(err)
}

// EndProofLink ends a link; what was said by it stays.
func (s *Store) EndProofLink(ctx context.Context, workspace, brief, link ID) error {
	_, err := s.Pool.Exec(ctx, `update proof_links set ended_at = now() where workspace_id = $1 and brief_id = $2 and id = $3 and ended_at is null`, workspace, brief, link)
	return err
}

// CloseProofLink has nothing more said by a link, or lets it be said again.
func (s *Store) CloseProofLink(ctx context.Context, workspace, brief, link ID, closed bool) error {
	tag, err := s.Pool.Exec(ctx, `update proof_links set closed = $4 where workspace_id = $1 and brief_id = $2 and id = $3 and ended_at is null`, workspace, brief, link, closed)
	if err == nil && tag.RowsAffected() == 0 {
		return ErrNotFound
	}
	return err
}

// LinksOf are links by their ids, ended ones as well.
func (s *Store) LinksOf(ctx context.Context, workspace ID, ids []ID) (map[ID]ProofLink, error) {
	rows, err := s.Pool.Query(ctx, `select `+proofLink+` from proof_links l where l.workspace_id = $1 and l.id = any($2)`, workspace, ids)
	if err != nil {
		return nil, err
	}
	list, err := pgx.CollectRows(rows, pgx.RowToStructByPos[ProofLink])
	out := map[ID]ProofLink{}
	for _, l := range list {
		out[l.ID] = l
	}
	return out, err
}

// CommentsBy counts what was said by a link since a time.
func (s *Store) CommentsBy(ctx context.Context, link ID, since time.Time) (n int, err error) {
	err = s.Pool.QueryRow(ctx, `select count(*) from proof_comments where link_id = $1 and at > $2`, link, since).Scan(&n)
	return n, err
}

// DeleteComment takes a comment out, with what answers it: one that somebody made themselves, or
// with anyones whoever did. What it said stays in the record.
func (s *Store) DeleteComment(ctx context.Context, workspace, brief, comment ID, by By, anyones bool) (words string, err error) {
	err = s.Pool.QueryRow(ctx, `update proof_comments set deleted_at = now(), deleted_by = $4
		where workspace_id = $1 and brief_id = $2 and id = $3 and deleted_at is null
		and ($5 or user_id = $6 or link_id = $7 and lower(name) = lower($8)) returning words`,
		workspace, brief, comment, by.Shown(), anyones, by.Person, by.Link, by.Name).Scan(&words)
	if err != nil {
		return "", notFound(err)
	}
	return words, s.Notify(ctx, brief)
}

// PutComment keeps a comment, and tells who watches the brief. One that is there already is
// not kept again.
func (s *Store) PutComment(ctx context.Context, workspace, brief ID, c Comment) (fresh bool, err error) {
	tag, err := s.Pool.Exec(ctx, `insert into proof_comments (id, workspace_id, brief_id, piece, part, x, y, about, name, user_id, link_id, words, seq, suggests, w, h, word, nth, hash, shot)
		select $1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15, $16, $17, $18, $19, $20
		where $8::uuid is null or exists (select from proof_comments where id = $8 and brief_id = $3 and piece = $4 and about is null and deleted_at is null)
		on conflict (id) do nothing`,
		c.ID, workspace, brief, c.Piece, c.Part, c.X, c.Y, c.About, c.By.Name, c.By.Person, c.By.Link, c.Words, c.Seq, c.Suggests, c.W, c.H, c.Word, c.Nth, c.Hash, c.Shot)
	if err != nil {
		return false, err
	}
	if tag.RowsAffected() == 0 { // it is there, or what it answers is not
		var there bool
		err := s.Pool.QueryRow(ctx, `select exists (select from proof_comments where id = $1 and brief_id = $2)`, c.ID, brief).Scan(&there)
		if err == nil && !there {
			err = ErrNotFound
		}
		return false, err
	}
	return true, s.Notify(ctx, brief)
}

// Comments are what was said about a brief's pieces, the oldest first: of so many threads that
// were begun last the first so many answers.
func (s *Store) Comments(ctx context.Context, workspace, brief ID, threads, answers int) ([]Comment, error) {
	rows, err := s.Pool.Query(ctx, `with t as (select id from proof_comments where workspace_id = $1 and brief_id = $2 and about is null and deleted_at is null order by at desc, id desc limit $3),
		c as (select *, row_number() over (partition by about order by at, id) as n from proof_comments where workspace_id = $1 and brief_id = $2 and deleted_at is null and (id in (select id from t) or about in (select id from t)))
		select id, piece, part, x, y, about, name, user_id, link_id, words, seq, at, resolved_at, resolved_by, suggests, taken_at, w, h, word, nth, hash, shot
		from c where about is null or n <= $4 order by at, id`, workspace, brief, threads, answers)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(row pgx.CollectableRow) (c Comment, err error) {
		err = row.Scan(&c.ID, &c.Piece, &c.Part, &c.X, &c.Y, &c.About, &c.By.Name, &c.By.Person, &c.By.Link, &c.Words, &c.Seq, &c.At, &c.Resolved, &c.Resolver, &c.Suggests, &c.Taken, &c.W, &c.H, &c.Word, &c.Nth, &c.Hash, &c.Shot)
		return c, err
	})
}

// CommentShot reports whether a comment on a brief was made when a piece looked like a picture.
func (s *Store) CommentShot(ctx context.Context, workspace, brief ID, shot string) (there bool, err error) {
	err = s.Pool.QueryRow(ctx, `select exists (select from proof_comments where workspace_id = $1 and brief_id = $2 and shot = $3 and shot <> '' and deleted_at is null)`, workspace, brief, shot).Scan(&there)
	return there, err
}

// OpenComments counts the threads of a brief that are not resolved, by piece.
func (s *Store) OpenComments(ctx context.Context, workspace, brief ID) (map[string]int, error) {
	rows, err := s.Pool.Query(ctx, `select piece, count(*) from proof_comments where workspace_id = $1 and brief_id = $2 and about is null and resolved_at is null and deleted_at is null group by piece`, workspace, brief)
	if err != nil {
		return nil, err
	}
	out := map[string]int{}
	var piece string
	var n int
	_, err = pgx.ForEachRow(rows, []any{&piece, &n}, func() error { out[piece] = n; return nil })
	return out, err
}

// Discussed is what is said of a brief's pieces and nobody is done with yet.
type Discussed struct {
	Brief ID
	Name  string // of the brief
	Open  int    // threads
	By    string // who said the last thing
	Words string
	Piece string
	At    time.Time
}

// Waiting is what is said of briefs of a workspace, on the desk, and nobody is done with: what
// was said last comes first.
func (s *Store) Waiting(ctx context.Context, workspace ID, in Scope, most int) ([]Discussed, error) {
	rows, err := s.Pool.Query(ctx, `select c.brief_id, d.name, c.open, c.name, c.words, c.piece, c.at from (
			select distinct on (brief_id) brief_id, case when link_id is null then name else 'guest, says to be ' || name end as name, words, piece, at, count(*) over (partition by brief_id) as open
			from proof_comments where workspace_id = $1 and about is null and resolved_at is null and deleted_at is null order by brief_id, at desc
		) c join documents d on d.id = c.brief_id and d.archived_at is null and d.deleted_at is null and ($3::uuid[] is null or d.id = any($3) or d.kit_id = any($3))
		order by c.at desc limit $2`, workspace, most, in.briefs())
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Discussed])
}

// ResolveComment says that a thread is done with, or that it is not.
func (s *Store) ResolveComment(ctx context.Context, workspace, brief, comment ID, by string, done bool) error {
	tag, err := s.Pool.Exec(ctx, `update proof_comments set resolved_at = case when $5 then now() end, resolved_by = case when $5 then $4 else '' end
		where workspace_id = $1 and brief_id = $2 and id = $3 and about is null and deleted_at is null`, workspace, brief, comment, by, done)
	if err == nil && tag.RowsAffected() == 0 {
		return ErrNotFound
	}
	if err != nil {
		return err
	}
	return s.Notify(ctx, brief)
}

// TakeComment notes that the words a comment suggests were taken, and that it is done with.
func (s *Store) TakeComment(ctx context.Context, workspace, brief, comment ID, by string) error {
	_, err := s.Pool.Exec(ctx, `update proof_comments set taken_at = now(), resolved_at = coalesce(resolved_at, now()), resolved_by = $4
		where workspace_id = $1 and brief_id = $2 and id = $3`, workspace, brief, comment, by)
	if err != nil {
		return err
	}
	return s.Notify(ctx, brief)
}

// PutDecisions keeps what was decided about pieces of a brief at once, with the line of the record
// that tells of it: all of it, once.
func (s *Store) PutDecisions(ctx context.Context, by Member, brief ID, list []Decision, n Note) error {
	workspace := by.Workspace
	err := s.changing(ctx, by, nil, func(tx pgx.Tx) error {
		if err := claim(ctx, tx, by, ""); err != nil {
			return err
		}
		for _, d := range list {
			if _, err := tx.Exec(ctx, `insert into proof_decisions (workspace_id, brief_id, piece, verdict, name, user_id, link_id, hash, was, shot, seq) values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11)`,
				workspace, brief, d.Piece, d.Verdict, d.By.Name, d.By.Person, d.By.Link, d.Hash, d.Was, d.Shot, d.Seq); err != nil {
				return err
			}
		}
		return putNote(ctx, tx, workspace, n)
	})
	if err != nil {
		return err
	}
	return s.Notify(ctx, brief)
}

// Editors say who made a brief what it was at some numbers: the last change up to each.
func (s *Store) Editors(ctx context.Context, workspace, brief ID, seqs []int64) (map[int64]ID, error) {
	rows, err := s.Pool.Query(ctx, `select q, (select actor from edits where workspace_id = $1 and document_id = $2 and seq <= q order by seq desc limit 1) from unnest($3::bigint[]) q`, workspace, brief, seqs)
	if err != nil {
		return nil, err
	}
	out := map[int64]ID{}
	var seq int64
	var who *ID
	_, err = pgx.ForEachRow(rows, []any{&seq, &who}, func() error {
		if who != nil {
			out[seq] = *who
		}
		return nil
	})
	return out, err
}

// Decisions are all that was decided about a brief's pieces, the oldest first.
func (s *Store) Decisions(ctx context.Context, workspace, brief ID) ([]Decision, error) {
	rows, err := s.Pool.Query(ctx, `select piece, verdict, name, user_id, link_id, hash, was, shot, seq, at from proof_decisions where workspace_id = $1 and brief_id = $2 order by id`, workspace, brief)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(row pgx.CollectableRow) (d Decision, err error) {
		err = row.Scan(&d.Piece, &d.Verdict, &d.By.Name, &d.By.Person, &d.By.Link, &d.Hash, &d.Was, &d.Shot, &d.Seq, &d.At)
		return d, err
	})
}
