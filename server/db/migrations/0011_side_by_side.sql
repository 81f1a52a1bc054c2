-- Up Migration

-- People who come together have ids that follow each other: these indexes grow at their end, which costs a fraction of
-- growing at their beginning, and are read backwards for the newest.
drop index prospects_newest;
create index prospects_newest on prospects (created_at, id);
drop index prospects_by_owner;
create index prospects_by_owner on prospects (owner_id, created_at, id) include (working, merged_into) where owner_id is not null;
