package store

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"github.com/jackc/pgx/v5"
)

// Request is that somebody asks for a change that goes beyond a rail of its kit.
type Request struct {
	ID         ID
	Brief      ID
	BriefName  string
	Rail       string
	Words, Why string
	Ops        json.RawMessage
	Placement  string // placement it shows on first, "" for none
	Pieces     int    // on how many it shows
	Was        string // hashes of pictures of that piece, before and after
	Becomes    string
	By         *ID
	Name       string
	At         time.Time
	Answer     string // piece, brief or no; "" while it is open
	Said       string
	AnsweredBy string
	AnsweredAt *time.Time
}

const requestColumns = `r.id, r.brief_id, d.name, r.rail, r.words, r.why, r.ops, r.piece, r.pieces, r.was, r.becomes, r.user_id, r.name, r.at, r.answer, r.said, r.answered_by, r.answered_at
	from requests r join documents d on d.id = r.brief_id`

// PutRequest keeps one, once by its id; [ErrTaken] where the brief has most open ones already.
func (s *Store) PutRequest(ctx context.Context, workspace ID, r Request, most int) (fresh bool, err error) {
	tag, err := s.Pool.Exec(ctx, `insert into requests (workspace_id, brief_id, rail, words, why, ops, piece, pieces, was, becomes, user_id, name, id)
		select $1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $14 where (select count(*) from requests where brief_id = $2 and answer = '') < $13 on conflict (id) do nothing`,
		workspace, r.Brief, r.Rail, r.Words, r.Why, r.Ops, r.Placement, r.Pieces, r.Was, r.Becomes, r.By, r.Name, most, r.ID)
	if err != nil || tag.RowsAffected() == 1 {
		return err == nil, err
	}
	if _, err = s.Request(ctx, workspace, r.ID); errors.Is(err, ErrNotFound) {
		err = ErrTaken
	}
	return false, err
}

// OpenRequests are those of a workspace nobody has answered, the oldest first.
func (s *Store) OpenRequests(ctx context.Context, workspace ID, most int) ([]Request, error) {
	return s.requests(ctx, `where r.workspace_id = $1 and r.answer = '' and d.deleted_at is null order by r.at limit $2`, workspace, most)
}

// RequestsBy are those of a person that are open, or were answered since a time, the newest first.
func (s *Store) RequestsBy(ctx context.Context, workspace, user ID, since time.Time, most int) ([]Request, error) {
	return s.requests(ctx, `where r.workspace_id = $1 and r.user_id = $2 and (r.answer = '' or r.answered_at > $3) and d.deleted_at is null order by coalesce(r.answered_at, r.at) desc limit $4`, workspace, user, since, most)
}

// Request is one of a workspace.
func (s *Store) Request(ctx context.Context, workspace, id ID) (Request, error) {
	list, err := s.requests(ctx, `where r.workspace_id = $1 and r.id = $2`, workspace, id)
	if err == nil && len(list) == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return Request{}, err
	}
	return list[0], nil
}

func (s *Store) requests(ctx context.Context, which string, args ...any) ([]Request, error) {
	rows, err := s.Pool.Query(ctx, `select `+requestColumns+` `+which, args...)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Request])
}

// AnswerRequest answers one, once, and with "brief" lifts its rail from the whole brief;
// [ErrNotFound] for one that was answered.
func (s *Store) AnswerRequest(ctx context.Context, workspace, id ID, answer, said, by string) error {
	return s.tx(ctx, func(tx pgx.Tx) error {
		var brief ID
		var rail string
		err := tx.QueryRow(ctx, `update requests set answer = $3, said = $4, answered_by = $5, answered_at = now() where workspace_id = $1 and id = $2 and answer = '' returning brief_id, rail`, workspace, id, answer, said, by).Scan(&brief, &rail)
		if err != nil {
			return notFound(err)
		}
		if answer != "brief" {
			return nil
		}
		_, err = tx.Exec(ctx, `insert into rail_exceptions (workspace_id, brief_id, rail, made_by) values ($1, $2, $3, $4) on conflict do nothing`, workspace, brief, rail, by)
		return err
	})
}

// Exceptions are the rails that do not hold a brief.
func (r Reader) Exceptions(ctx context.Context, brief ID) ([]string, error) {
	rows, err := r.q.Query(ctx, `select rail from rail_exceptions where workspace_id = $1 and brief_id = $2`, r.workspace, brief)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowTo[string])
}
