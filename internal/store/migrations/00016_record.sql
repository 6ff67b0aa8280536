-- +goose Up
-- Who did what. Changes of documents are in their own logs (edits) and joined when it is read.
create table record (
    id bigint generated always as identity primary key,
    workspace_id uuid not null references workspaces on delete cascade,
    at timestamptz not null default now(),
    user_id uuid,                                      -- null for a guest
    name text not null,
    kind text not null,
    document_id uuid references documents on delete set null,
    kit_id uuid,                                       -- of a brief
    words text not null,
    to_user uuid                                       -- whom alone it is for, null for who may
);
create index record_workspace on record (workspace_id, id desc);

-- How somebody hears of what concerns them: on the Desk alone, by mail at once, or once a day.
alter table members
    add column tells text not null default 'desk' check (tells in ('desk', 'mail', 'digest')),
    add column told_to bigint not null default 0,      -- the last of the record they have been told
    add column told_at timestamptz not null default now();

-- +goose Down
alter table members drop column tells, drop column told_to, drop column told_at;
drop table record;
