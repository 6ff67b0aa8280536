-- +goose Up
-- What roles there are is said by the application alone (internal/core/roles).
alter table members drop constraint members_role_check;
alter table invitations drop constraint invitations_role_check;

-- +goose Down
update members set role = 'commenter' where role not in ('owner', 'editor', 'commenter', 'viewer');
update invitations set role = 'commenter' where role not in ('owner', 'editor', 'commenter', 'viewer');
alter table members add constraint members_role_check check (role in ('owner', 'editor', 'commenter', 'viewer'));
alter table invitations add constraint invitations_role_check check (role in ('owner', 'editor', 'commenter', 'viewer'));
