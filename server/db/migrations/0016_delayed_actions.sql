-- Up Migration

-- Actions of outcomes that wait for their time; scheduled_actions holds when. They stay after they were done, skipped or
-- canceled, for undo and for the activity.
create table delayed_actions (
  id uuid primary key,
  prospect_id uuid not null references prospects,
  -- What is done: an action with its values (core/actions).
  action jsonb not null check (action ? 'type'),
  run_at timestamptz(3) not null,
  status text not null check (status in ('waiting', 'done', 'skipped', 'cancelled')),
  done_at timestamptz(3),
  outcome_id uuid references outcomes,
  phone_id uuid,
  enrollment_id uuid references enrollments,
  constraint delayed_actions_check check ((status = 'waiting') = (done_at is null))
);
create index delayed_actions_waiting on delayed_actions (prospect_id) where status = 'waiting';

alter table scheduled_actions
  drop constraint scheduled_actions_kind_check,
  add constraint scheduled_actions_kind_check check (kind in ('step', 'email', 'action'));

alter table cadence_steps
  drop constraint cadence_steps_wait_unit_check,
  add constraint cadence_steps_wait_unit_check
    check (wait_unit in ('minutes', 'hours', 'days', 'business_days', 'weeks'));

-- Prospects who were put on a list by an outcome belong to no batch.
alter table list_members alter column batch_id drop not null;

-- What must be known of a person before an outcome can be logged: fields as gates name them.
alter table outcomes add column required_fields text[] not null default '{}';

-- A task of an outcome says what it is, how long it waits, and whose it is.
update outcomes o
set actions = (
  select jsonb_agg(
    case
      when a.value ->> 'type' = 'makeTask' and a.value ? 'days' then
        (a.value - 'days') || jsonb_build_object(
          'task', 'follow_up', 'wait', jsonb_build_object('amount', a.value -> 'days', 'unit', 'days'), 'whose', 'owner'
        )
      else a.value
    end
    order by a.ordinality
  )
  from jsonb_array_elements(o.actions) with ordinality a
)
where actions @> '[{"type": "makeTask"}]';

-- Down Migration
