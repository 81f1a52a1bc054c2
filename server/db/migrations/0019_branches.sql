-- Up Migration

-- A branch is a step that sends prospects on by what has happened or is known: the first of its ways that fits. Steps of
-- a way name it; behind the last of them one goes on behind the branch, or is through.
alter table cadence_steps
  drop constraint cadence_steps_kind_check,
  drop constraint cadence_steps_wait_unit_check,
  add column way_id uuid,
  -- [{id, name, when, ends}], the last one for everyone else (core/cadence/ways).
  add column ways jsonb not null default '[]',
  -- Whether the wait of a branch ends as soon as something happens that one of its ways is about.
  add column ends_early boolean not null default false,
  add constraint cadence_steps_kind_check check (kind in ('email', 'call', 'task', 'branch')),
  add constraint cadence_steps_wait_unit_check
    check (wait_unit in ('minutes', 'hours', 'days', 'business_days', 'weeks')),
  add constraint cadence_steps_ways_check check ((kind = 'branch') = (jsonb_array_length(ways) > 0));
