-- Up Migration

-- Of an archived step: the version of its cadence that people who were under way finish. null for one that was deleted.
alter table cadence_steps
  add of_version int check (of_version is null or archived_at is not null);
create index cadence_steps_of_versions on cadence_steps (cadence_id, of_version) where of_version is not null;
