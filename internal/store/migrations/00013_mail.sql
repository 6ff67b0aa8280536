-- +goose Up
-- Mail waits here until it is sent, by a worker; where none is sent it stays to be looked at.
alter table mails
    alter column workspace_id drop not null,           -- null for what is about an account
    add column user_id uuid references users on delete cascade,
    add column sent_at timestamptz,
    add column tries int not null default 0,
    add column next_at timestamptz not null default now(),
    add column why text not null default '';           -- it could not be sent
create index mails_waiting on mails (next_at) where sent_at is null;

-- Somebody asked for another password. Whether the address has an account is looked up by a
-- worker: the answer takes as long, and says the same, either way.
create table resets_asked (
    id bigint generated always as identity primary key,
    email text not null,
    way text not null,                                 -- how addresses of links begin
    at timestamptz not null default now()
);

-- What a link in a mail is good for, once. The token itself is not kept.
create table account_tokens (
    hash bytea primary key,
    user_id uuid not null references users on delete cascade,
    kind text not null check (kind in ('reset', 'email')),
    email text not null default '',                    -- the one that is confirmed
    made_at timestamptz not null default now(),
    expires_at timestamptz not null,
    used_at timestamptz
);
create index account_tokens_user on account_tokens (user_id);

-- A browser somebody is signed in with.
create table user_sessions (
    id uuid primary key default gen_random_uuid(),
    user_id uuid not null references users on delete cascade,
    begun_at timestamptz not null default now(),
    seen_at timestamptz not null default now(),
    device text not null,
    network text not null,
    ended_at timestamptz
);
create index user_sessions_user on user_sessions (user_id);
alter table users drop column signed_out_at;

-- What somebody made stays when their account goes.
alter table invitations
    alter column made_by drop not null,
    drop constraint invitations_made_by_fkey, drop constraint invitations_used_by_fkey,
    add constraint invitations_made_by_fkey foreign key (made_by) references users on delete set null,
    add constraint invitations_used_by_fkey foreign key (used_by) references users on delete set null;

-- +goose Down
alter table users add column signed_out_at timestamptz;
drop table user_sessions, account_tokens, resets_asked;
delete from mails where workspace_id is null;
drop index mails_waiting;
alter table mails alter column workspace_id set not null,
    drop column user_id, drop column sent_at, drop column tries, drop column next_at, drop column why;
