-- +goose Up
-- A comment may be about an area: how wide and high it is, 0-1 of the part its middle lies on,
-- else of the piece. Or about a word of its part: which of those alike, from 0.
alter table proof_comments
    add column w real not null default 0, add column h real not null default 0,
    add column word text not null default '', add column nth int not null default 0;

-- +goose Down
alter table proof_comments drop column w, drop column h, drop column word, drop column nth;
