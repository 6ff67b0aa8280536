-- +goose Up
-- Somebody asks for a change that goes beyond what their kit leaves to everybody.
create table requests (
    id uuid primary key default gen_random_uuid(),
    workspace_id uuid not null references workspaces on delete cascade,
    brief_id uuid not null references documents on delete cascade,
    rail text not null,
    words text not null,                   -- what is the matter
    why text not null default '',          -- as who asks says it
    ops json not null,                     -- the change
    piece text not null default '',        -- placement it shows on first
    pieces int not null default 0,         -- on how many it shows
    was text not null default '',          -- hashes of pictures of that piece, before and after
    becomes text not null default '',
    user_id uuid,
    name text not null,
    at timestamptz not null default now(),
    answer text not null default '' check (answer in ('', 'piece', 'brief', 'no')),
    said text not null default '',         -- with the answer
    answered_by text not null default '',
    answered_at timestamptz
);
create index requests_workspace on requests (workspace_id, at desc);

-- Rails that do not hold a brief.
create table rail_exceptions (
    workspace_id uuid not null references workspaces on delete cascade,
    brief_id uuid not null references documents on delete cascade,
    rail text not null,
    made_by text not null,
    at timestamptz not null default now(),
    primary key (brief_id, rail)
);

-- +goose Down
drop table rail_exceptions, requests;
