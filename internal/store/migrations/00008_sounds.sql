-- +goose Up
alter table files drop constraint files_kind_check;
alter table files add constraint files_kind_check check (kind in ('picture', 'logo', 'font', 'clip', 'sound'));

-- +goose Down
delete from files where kind = 'sound';
alter table files drop constraint files_kind_check;
alter table files add constraint files_kind_check check (kind in ('picture', 'logo', 'font', 'clip'));
