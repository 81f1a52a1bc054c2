-- Up Migration

-- Where people are is found out however they come, also where a file brings them with their foreign keys asked in one go
-- (server/imports/write.ts).
alter table prospects enable always trigger prospects_placed, enable always trigger prospects_moved;

-- People of one file lie side by side: the span of each stretch of the table is enough to find them by.
drop index prospects_by_import;
create index prospects_by_import on prospects using brin (import_id) with (pages_per_range = 32);
