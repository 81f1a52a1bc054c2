-- Up Migration

-- A cadence that is not shared is its owner’s alone: others neither see nor start it. `category` and `description` say
-- what it is for.
alter table cadences
  add column shared boolean not null default true,
  add column category text not null default '',
  add column description text not null default '',
  add constraint cadences_own check (shared or owner_id is not null);
