-- +goose Up
-- Members of lists have ids; documents from before are given theirs once.
alter table documents add column identified boolean not null default false;

-- The log is asked for what came after a number.
create index edits_after on edits (document_id, upto);

-- Requests that have changed something, by an id of their sender's: one that
-- arrives again is not made again. result is what it answered with.
create table changes (
    workspace_id uuid not null references workspaces on delete cascade,
    id text not null,
    result text not null default '',
    at timestamptz not null default now(),
    primary key (workspace_id, id)
);
create index changes_age on changes (at);

-- Nobody learns from signing up which addresses have an account: an address may
-- have several until it is confirmed.
drop index users_email;
create index users_email on users (lower(email));

-- +goose Down
drop index users_email;
create unique index users_email on users (lower(email));
drop table changes;
drop index edits_after;
alter table documents drop column identified;
