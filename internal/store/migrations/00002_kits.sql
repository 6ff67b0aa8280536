-- +goose Up
-- A deleted document is kept until its deletion can no longer be taken back.
alter table documents add column deleted_at timestamptz;
create index documents_parent on documents ((doc -> '$extensions' -> 'aspenridge' ->> 'parent')) where kind = 'kit';
create index documents_kit_names on documents (workspace_id, lower(name)) where kind = 'kit' and archived_at is null and deleted_at is null;

alter table workspaces add column default_kit uuid references documents on delete set null;

alter table files drop constraint files_kind_check;
alter table files add constraint files_kind_check check (kind in ('picture', 'logo', 'font', 'clip'));

-- A kit as it stood at a quiet moment: its own document, and with its parents in
-- it.
create table versions (
    id bigint generated always as identity primary key,
    kit_id uuid not null references documents on delete cascade,
    workspace_id uuid not null,
    seq bigint not null,
    at timestamptz not null default now(),
    name text not null default '',
    doc json not null,
    whole json not null
);
create index versions_kit on versions (kit_id, id desc);

-- A piece as it went out: it changes only when somebody brings it forward.
create table finished (
    brief_id uuid not null references documents on delete cascade,
    workspace_id uuid not null,
    kit_id uuid not null references documents,
    placement text not null,
    at timestamptz not null default now(),
    version_id bigint references versions on delete set null,
    hash text not null,
    look json not null,
    svg text not null, -- hash of the file in the blob store
    report json not null,
    primary key (brief_id, placement)
);
create index finished_kit on finished (kit_id);

-- A read-only way to a kit's guidelines for somebody without an account.
create table links (
    token text primary key,
    workspace_id uuid not null references workspaces on delete cascade,
    kit_id uuid not null references documents on delete cascade,
    created_at timestamptz not null default now()
);
create index links_kit on links (kit_id);

-- +goose Down
delete from files where kind = 'clip';
alter table files drop constraint files_kind_check;
alter table files add constraint files_kind_check check (kind in ('picture', 'logo', 'font'));
drop table links, finished, versions;
alter table workspaces drop column default_kit;
drop index documents_parent, documents_kit_names;
alter table documents drop column deleted_at;
