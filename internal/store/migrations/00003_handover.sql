-- +goose Up
-- A page with the files of a brief for somebody's own phone: short-lived.
create table phone_links (
    token text primary key,
    workspace_id uuid not null references workspaces on delete cascade,
    brief_id uuid not null references documents on delete cascade,
    choice json not null,
    expires_at timestamptz not null
);
create index phone_links_age on phone_links (expires_at);

-- A workspace's own channels are a document of their own.
alter table documents drop constraint documents_kind_check;
alter table documents add constraint documents_kind_check check (kind in ('kit', 'brief', 'channels'));
create unique index documents_channels on documents (workspace_id) where kind = 'channels';

-- +goose Down
delete from documents where kind = 'channels';
drop index documents_channels;
alter table documents drop constraint documents_kind_check;
alter table documents add constraint documents_kind_check check (kind in ('kit', 'brief'));
drop table phone_links;
