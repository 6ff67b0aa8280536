-- +goose Up
-- Where a brief goes, beside its document: a search by places would else read every document.
-- +goose StatementBegin
create function places_of(doc json) returns text[] language sql immutable parallel safe as $$
  select array(select json_array_elements_text(case json_typeof(doc -> 'placements') when 'array' then doc -> 'placements' else '[]' end))
$$;
-- +goose StatementEnd
alter table documents add column places text[] not null default '{}';
update documents set places = places_of(doc) where kind = 'brief';

-- +goose Down
alter table documents drop column places;
drop function places_of(json);
