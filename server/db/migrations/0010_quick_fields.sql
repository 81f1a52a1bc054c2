-- Up Migration

-- Whether filters on a field are to be quick among many people: then it has an index of its own (server/db/fieldIndexes.ts).
alter table custom_fields add column quick boolean not null default false check (not quick or of <> 'deal');
