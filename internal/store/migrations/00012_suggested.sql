-- +goose Up
-- Other words for the part a comment is about.
alter table proof_comments add column suggests text not null default '', add column taken_at timestamptz;

-- +goose Down
alter table proof_comments drop column suggests, drop column taken_at;
