-- +goose Up
-- What a piece looked like when a comment was made: hashes of its drawing and of a picture of it.
alter table proof_comments add column hash text not null default '', add column shot text not null default '';

-- +goose Down
alter table proof_comments drop column hash, drop column shot;
