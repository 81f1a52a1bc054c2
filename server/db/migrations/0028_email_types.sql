-- Up Migration

-- The type of a cadence's emails; null: one to one where it is cold, otherwise requested.
alter table cadences
  add column email_type text check (email_type in ('one_to_one', 'marketing', 'requested'));
