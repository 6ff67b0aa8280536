-- +goose Up
-- Work that is done beside requests. A row is what people see of it; who does it when
-- is the queue's affair (river's tables, see internal/jobs).
create table jobs (
    id uuid primary key default gen_random_uuid(),
    workspace_id uuid not null references workspaces on delete cascade,
    person_id uuid not null references users on delete cascade,
    kind text not null,
    about uuid,                 -- the document it is about
    args jsonb not null,
    state text not null default 'waiting' check (state in ('waiting', 'working', 'done', 'failed', 'stopped')),
    steps int not null default 0,
    of_steps int not null default 0,
    attempt int not null default 0,   -- whoever works on it writes only as this one
    result jsonb,
    said text not null default '',    -- why it failed, for people
    entry bigint,                     -- in the queue
    beat_at timestamptz not null default now(),
    created_at timestamptz not null default now(),
    ended_at timestamptz
);
-- asked for twice, done once
create unique index jobs_open on jobs (workspace_id, person_id, kind, md5(args::text)) where state in ('waiting', 'working');
create index jobs_about on jobs (workspace_id, about, created_at desc);
create index jobs_silent on jobs (beat_at) where state = 'working';
create index jobs_old on jobs (ended_at) where ended_at is not null;

-- +goose Down
drop table jobs;
