-- +goose Up
create table workspaces (
    id uuid primary key default gen_random_uuid(),
    name text not null,
    created_at timestamptz not null default now()
);

create table users (
    id uuid primary key default gen_random_uuid(),
    email text not null,
    name text not null,
    password_hash text not null,
    created_at timestamptz not null default now()
);
create unique index users_email on users (lower(email));

create table members (
    workspace_id uuid not null references workspaces on delete cascade,
    user_id uuid not null references users on delete cascade,
    role text not null check (role in ('owner', 'editor', 'commenter', 'viewer')),
    primary key (workspace_id, user_id)
);
create index members_user on members (user_id);

-- A kit or a brief: an ordered JSON document that changes by operations only.
create table documents (
    id uuid primary key default gen_random_uuid(),
    workspace_id uuid not null references workspaces on delete cascade,
    kind text not null check (kind in ('kit', 'brief')),
    kit_id uuid references documents,
    name text not null default '',
    doc json not null,
    seq bigint not null default 0,
    created_at timestamptz not null default now(),
    updated_at timestamptz not null default now(),
    archived_at timestamptz
);
create index documents_list on documents (workspace_id, kind, updated_at desc) where archived_at is null;
create index documents_kit on documents (kit_id) where kit_id is not null;

-- Every change, with what changes it back. Typing on one path coalesces into
-- one row: seq is its first number, upto its last.
create table edits (
    document_id uuid not null references documents on delete cascade,
    workspace_id uuid not null,
    seq bigint not null,
    upto bigint not null,
    actor uuid not null,
    client text not null,
    at timestamptz not null default now(),
    kind text not null check (kind in ('do', 'undo', 'redo')),
    reverts bigint,
    path text not null,
    op json not null,
    inverse json not null,
    primary key (document_id, seq)
);

-- What people uploaded, by content. The bytes are in the blob store.
create table files (
    workspace_id uuid not null references workspaces on delete cascade,
    hash text not null,
    kind text not null check (kind in ('picture', 'logo', 'font')),
    name text not null,
    type text not null,
    bytes bigint not null,
    facts json not null,
    created_at timestamptz not null default now(),
    primary key (workspace_id, kind, hash)
);

create table sessions (
    token text primary key,
    data bytea not null,
    expiry timestamptz not null
);
create index sessions_expiry on sessions (expiry);

-- +goose Down
drop table sessions, files, edits, documents, members, users, workspaces;
