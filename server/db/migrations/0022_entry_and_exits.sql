-- Up Migration

-- Who may enter a cadence (core/cadence/entry) and what ends it (core/cadence/exits).
alter table cadences
  add column entry jsonb not null default '{}' check (jsonb_typeof(entry) = 'object'),
  add column exits jsonb not null default '{}' check (jsonb_typeof(exits) = 'object');
update cadences set exits = jsonb_build_object('replied', replied_scope, 'booked', booked_scope);
alter table cadences drop column replied_scope, drop column booked_scope;
-- When someone left which cadence.
create index enrollments_ended on enrollments (prospect_id, cadence_id, ended_at) where status = 'ended';
-- The day on which someone starts a cadence of which only so many start a day; null while that is not settled.
alter table enrollments add column intake_day date;
create index enrollments_intake on enrollments (cadence_id, intake_day) where intake_day is not null;
