package store

import (
	"context"
	"encoding/json"
	"time"
)

// PutPhoneLink records a short-lived page of a brief's files and forgets those
// that have ended.
func (s *Store) PutPhoneLink(ctx context.Context, workspace, brief ID, token string, choice json.RawMessage, until time.Time) error {
	_, err := s.Pool.Exec(ctx, `with gone as (delete from phone_links where expires_at < now())
		insert into phone_links (token, workspace_id, brief_id, choice, expires_at) select $1, $2, $3, $4, $5
		where exists (select from documents where id = $3 and workspace_id = $2 and kind = 'brief')
		on conflict (token) do nothing`, token, workspace, brief, choice, until)
	return err
}

// PhoneLink finds what a token shows, while it lives.
func (s *Store) PhoneLink(ctx context.Context, token string, now time.Time) (workspace, brief ID, choice json.RawMessage, until time.Time, err error) {
	err = s.Pool.QueryRow(ctx, `select l.workspace_id, l.brief_id, l.choice, l.expires_at from phone_links l join documents d on d.id = l.brief_id
		where l.token = $1 and l.expires_at > $2 and d.deleted_at is null`, token, now).Scan(&workspace, &brief, &choice, &until)
	return workspace, brief, choice, until, notFound(err)
}
