-- +goose Up
-- Nothing one workspace asks for reads what others have: whatever points at a row is found from it.
create index documents_workspace on documents (workspace_id, kind);
create index workspaces_default_kit on workspaces (default_kit) where default_kit is not null;
create index finished_version on finished (version_id) where version_id is not null;
create index finished_workspace on finished (workspace_id);
create index links_workspace on links (workspace_id);
create index phone_links_brief on phone_links (brief_id);
create index phone_links_workspace on phone_links (workspace_id);
create index jobs_person on jobs (person_id);
create index proof_links_workspace on proof_links (workspace_id);
create index proof_comments_about on proof_comments (about) where about is not null;
create index proof_comments_workspace on proof_comments (workspace_id);
create index proof_decisions_link on proof_decisions (link_id) where link_id is not null;
create index proof_decisions_workspace on proof_decisions (workspace_id);
create index invitations_made_by on invitations (made_by) where made_by is not null;
create index invitations_used_by on invitations (used_by) where used_by is not null;
create index mails_user on mails (user_id) where user_id is not null;
create index resets_asked_user on resets_asked (user_id) where user_id is not null;
create index requests_brief on requests (brief_id);
create index rail_exceptions_workspace on rail_exceptions (workspace_id);
create index record_document on record (document_id) where document_id is not null;
create index record_at on record (workspace_id, at desc) where to_user is null;
create index files_hash on files (hash);

-- Who changed a document in which hour, how often: the record is read from here, not from the log.
create table edit_hours (
    workspace_id uuid not null,
    document_id uuid not null references documents on delete cascade,
    actor uuid not null,
    hour timestamptz not null,
    first_at timestamptz not null,
    last_at timestamptz not null,
    times int not null,
    primary key (document_id, actor, hour)
);
create index edit_hours_last on edit_hours (workspace_id, last_at desc);
insert into edit_hours select workspace_id, document_id, actor, date_trunc('hour', at), min(at), max(at), count(*) from edits group by 1, 2, 3, 4;

-- +goose Down
drop table edit_hours;
drop index documents_workspace, workspaces_default_kit, finished_version, finished_workspace, links_workspace, phone_links_brief, phone_links_workspace, jobs_person, proof_links_workspace, proof_comments_about, proof_comments_workspace,
    proof_decisions_link, proof_decisions_workspace, invitations_made_by, invitations_used_by, mails_user, resets_asked_user, requests_brief, rail_exceptions_workspace, record_document, record_at, files_hash;
