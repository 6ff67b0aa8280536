-- +goose Up
alter table members add column suspended_at timestamptz, add column joined_at timestamptz not null default now();

-- Somebody is asked into a workspace. The token itself is not kept.
create table invitations (
    id uuid primary key default gen_random_uuid(),
    workspace_id uuid not null references workspaces on delete cascade,
    email text not null default '',      -- whom it is for; '' for whoever has the link
    role text not null check (role in ('owner', 'editor', 'commenter', 'viewer')),
    token_hash bytea not null unique,
    made_by uuid not null references users,
    made_at timestamptz not null default now(),
    expires_at timestamptz not null,
    ended_at timestamptz,
    used_at timestamptz,
    used_by uuid references users
);
create index invitations_workspace on invitations (workspace_id, made_at desc);

-- What would be sent by mail: a box in the house stands in for it.
create table mails (
    id uuid primary key default gen_random_uuid(),
    workspace_id uuid not null references workspaces on delete cascade,
    recipient text not null,
    subject text not null,
    body text not null,
    at timestamptz not null default now()
);
create index mails_workspace on mails (workspace_id, at desc);

-- +goose Down
drop table mails, invitations;
alter table members drop column suspended_at, drop column joined_at;
