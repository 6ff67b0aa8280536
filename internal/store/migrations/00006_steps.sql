-- +goose Up
-- How many steps can be taken back and put back, written with every change, so that
-- nobody reads the log to know. Taken back is undone; what is done anew ends putting
-- back.
alter table documents add column undoable int not null default 0, add column redoable int not null default 0;
update documents d set
    undoable = least(2000, greatest(0, s.done - s.undone)),
    redoable = greatest(0, s.back)
from (
    select e.document_id,
        count(*) filter (where e.kind <> 'undo') as done,
        count(*) filter (where e.kind = 'undo') as undone,
        count(*) filter (where e.kind = 'undo' and e.seq > l.seq) - count(*) filter (where e.kind = 'redo' and e.seq > l.seq) as back
    from edits e join (
        select document_id, coalesce(max(seq) filter (where kind = 'do'), -1) as seq from edits group by document_id
    ) l using (document_id)
    group by e.document_id
) s
where s.document_id = d.id;

-- +goose Down
alter table documents drop column undoable, drop column redoable;
