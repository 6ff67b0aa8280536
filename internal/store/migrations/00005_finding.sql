-- +goose Up
-- What a brief says, in small letters, to find it by; and what it is called while
-- nobody has named it. Both are written with every change.
alter table documents add column said text not null default '';
update documents set
    name = coalesce(nullif(name, ''), left(doc -> 'cards' -> 0 ->> 'headline', 60), ''),
    said = lower(coalesce(doc ->> 'name', '') || ' ' || coalesce(doc ->> 'cards', '') || ' ' || coalesce(doc ->> 'placements', ''))
where kind = 'brief';

-- +goose Down
alter table documents drop column said;
