-- +goose Up
-- Somebody may be narrowed to some kits, with what is made of them, and some briefs. Where all
-- of those are gone they see nothing, not everything.
alter table members add column narrowed boolean not null default false;
create table member_scopes (
    workspace_id uuid not null,
    user_id uuid not null,
    document_id uuid not null references documents on delete cascade,
    primary key (workspace_id, user_id, document_id),
    foreign key (workspace_id, user_id) references members on delete cascade
);
create index member_scopes_document on member_scopes (document_id);
alter table invitations add column scope uuid[];       -- null for everything

-- +goose Down
alter table invitations drop column scope;
drop table member_scopes;
alter table members drop column narrowed;
