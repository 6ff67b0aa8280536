-- +goose Up
-- A way in for somebody without an account, to one brief. The token itself is not kept.
create table proof_links (
    id uuid primary key default gen_random_uuid(),
    workspace_id uuid not null references workspaces on delete cascade,
    brief_id uuid not null references documents on delete cascade,
    token_hash bytea not null unique,
    name text not null,                    -- whom it is for
    password_hash text not null default '',
    expires_at timestamptz,
    made_by uuid not null,
    made_at timestamptz not null default now(),
    seen_at timestamptz,                   -- when it was opened last
    ended_at timestamptz
);
create index proof_links_brief on proof_links (brief_id);

-- What is said about a piece, anchored to a part of it.
create table proof_comments (
    id uuid primary key default gen_random_uuid(),
    workspace_id uuid not null references workspaces on delete cascade,
    brief_id uuid not null references documents on delete cascade,
    piece text not null,                   -- placement, with the card
    part text not null default '',         -- slot; '' for the piece as a whole
    x real not null default 0,             -- 0-1 of the part, else of the piece
    y real not null default 0,
    about uuid references proof_comments on delete cascade, -- the first of its thread
    name text not null,
    user_id uuid,
    link_id uuid references proof_links,
    words text not null,
    seq bigint not null,                   -- of the brief when it was said
    at timestamptz not null default now(),
    resolved_at timestamptz,
    resolved_by text not null default ''
);
create index proof_comments_brief on proof_comments (brief_id, at);

-- Approved, or asked for changes: every one is kept, the last of each person counts.
create table proof_decisions (
    id bigint generated always as identity primary key,
    workspace_id uuid not null references workspaces on delete cascade,
    brief_id uuid not null references documents on delete cascade,
    piece text not null,
    verdict text not null check (verdict in ('approved', 'changes')),
    name text not null,
    user_id uuid,
    link_id uuid references proof_links,
    hash text not null,                    -- of the drawing it is about
    was jsonb not null,                    -- its report
    shot text not null,                    -- hash of its picture
    seq bigint not null,
    at timestamptz not null default now()
);
create index proof_decisions_brief on proof_decisions (brief_id, piece, id desc);

-- +goose Down
drop table proof_decisions, proof_comments, proof_links;
