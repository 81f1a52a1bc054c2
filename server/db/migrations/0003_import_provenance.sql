-- Up Migration

-- Where somebody came from is remembered, not depended on: an import that brought people is never deleted, and asking
-- after it for each of a million rows took longer than writing them.
alter table prospects drop constraint prospects_import_id_fkey;

-- Pieces of uploaded files are written once, read once and deleted: squeezing them costs more than it saves.
alter table import_chunks alter column bytes set storage external;
