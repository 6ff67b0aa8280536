-- +goose Up
-- Tries of secrets (passwords, codes) by what they count for: an account, a network, both. Kept
-- here so that they hold over all servers. key is a hash: addresses people type are not kept.
create table tries (
    key bytea primary key,
    failures int not null,
    next_at timestamptz not null,          -- when the last try that was let in was due
    last_at timestamptz not null,
    told_at timestamptz                    -- when the account's owner was told
);
create index tries_last on tries (last_at);

-- How often a network asked for something, by the minute or the day. It may be lost with the
-- database's memory.
create unlogged table visits (
    key bytea not null,
    since timestamptz not null,
    n int not null,
    primary key (key, since)
);
create index visits_since on visits (since);

-- What is this installation's alone.
create table installation (
    one boolean primary key default true check (one),
    secret bytea not null,
    address text not null default ''       -- where people find it
);
insert into installation (secret) values (decode(replace(gen_random_uuid()::text || gen_random_uuid()::text, '-', ''), 'hex'));

-- An address belongs to the one account that has confirmed it.
alter table users
    add column confirmed_at timestamptz,
    add column lapses_at timestamptz;      -- unless the address is confirmed before; null for never
update users u set confirmed_at = created_at
    where not exists (select from users o where lower(o.email) = lower(u.email) and (o.created_at, o.id) < (u.created_at, u.id));
create unique index users_confirmed on users (lower(email)) where confirmed_at is not null;
create index users_lapse on users (lapses_at) where lapses_at is not null;

alter table account_tokens drop constraint account_tokens_kind_check;
alter table account_tokens add constraint account_tokens_kind_check check (kind in ('reset', 'email', 'sign-up'));
alter table resets_asked add column user_id uuid references users on delete cascade; -- who wants their address confirmed; null for a password

alter table mails add column kind text not null default '';   -- invitation, sign-up, guesses: what is limited
create index mails_recipient on mails (lower(recipient), kind, at desc);

alter table user_sessions add column failures int not null default 0; -- wrong passwords said in it
alter table workspaces
    add column demands_codes boolean not null default false,  -- of everybody in it
    add column arriving_since timestamptz;                     -- it is being filled from a file; null once it is there
create index workspaces_arriving on workspaces (arriving_since) where arriving_since is not null;

-- Comments can be taken out, by who made them and by owners; a link can be closed to comments,
-- and can be one whose verdicts let pieces be handed over.
alter table proof_comments add column deleted_at timestamptz, add column deleted_by text not null default '';
create index proof_comments_link on proof_comments (link_id, at) where link_id is not null;
alter table proof_links
    add column closed boolean not null default false,
    add column approves boolean not null default false;
alter table proof_decisions add column guest boolean not null default false;
update proof_decisions set guest = link_id is not null;

-- Who brought a file: somebody narrowed to some kits names files of those, and their own.
create table file_people (
    workspace_id uuid not null references workspaces on delete cascade,
    hash text not null,
    user_id uuid not null,
    primary key (workspace_id, hash, user_id)
);

-- Jobs are done by turns between workspaces, in lines of their own for short and long ones.
alter table jobs
    add column line text not null default 'short' check (line in ('short', 'long')),
    add column failures int not null default 0,
    add column not_before timestamptz not null default now(),
    add column begun_at timestamptz,
    add column limit_ms bigint not null default 0;            -- of one attempt, 0 for the default
create index jobs_line on jobs (line, workspace_id, created_at) where state in ('waiting', 'working');

-- +goose Down
drop index jobs_line;
alter table jobs drop column line, drop column failures, drop column not_before, drop column begun_at, drop column limit_ms;
drop table file_people, installation, visits, tries;
alter table proof_decisions drop column guest;
alter table proof_links drop column closed, drop column approves;
drop index proof_comments_link;
alter table proof_comments drop column deleted_at, drop column deleted_by;
alter table workspaces drop column demands_codes, drop column arriving_since;
alter table user_sessions drop column failures;
drop index mails_recipient;
alter table mails drop column kind;
alter table resets_asked drop column user_id;
delete from account_tokens where kind = 'sign-up';
alter table account_tokens drop constraint account_tokens_kind_check;
alter table account_tokens add constraint account_tokens_kind_check check (kind in ('reset', 'email'));
drop index users_lapse, users_confirmed;
alter table users drop column confirmed_at, drop column lapses_at;
