-- Up Migration

-- A paused cadence takes no steps and sends none of its email until it is resumed.
create table cadences (
  id uuid primary key,
  name text not null check (name <> ''),
  status text not null default 'draft' check (status in ('draft', 'active', 'paused', 'archived')),
  cold boolean not null default true,
  window_days int[] not null default '{1,2,3,4,5}',
  window_from int not null default 480,
  window_to int not null default 1020,
  replied_scope text not null default 'person' check (replied_scope in ('person', 'company')),
  booked_scope text not null default 'company' check (booked_scope in ('person', 'company')),
  owner_id uuid references users,
  created_at timestamptz(3) not null,
  version int not null default 1,
  constraint cadences_check check (window_from < window_to and window_from >= 0 and window_to <= 1440)
);

create table cadence_steps (
  id uuid primary key,
  cadence_id uuid not null references cadences on delete cascade,
  position int not null check (position >= 0),
  kind text not null check (kind in ('email', 'call', 'task')),
  wait_amount int not null check (wait_amount between 0 and 730),
  wait_unit text not null check (wait_unit in ('hours', 'days', 'business_days')),
  name text not null default '',
  subject text not null default '',
  body text not null default '',
  -- Left out where the step before it was not done.
  requires_previous boolean not null default false,
  archived_at timestamptz,
  -- The step that followed a deleted one when it was deleted; null after the last.
  followed_by uuid references cadence_steps
);
create unique index cadence_steps_in_order on cadence_steps (cadence_id, position) where archived_at is null;

create table enrollments (
  id uuid primary key,
  prospect_id uuid not null references prospects,
  cadence_id uuid not null references cadences,
  step_id uuid not null references cadence_steps,
  status text not null check (status in ('waiting', 'active', 'paused', 'ended')),
  due_at timestamptz(3),
  by_id uuid references users,
  started_at timestamptz(3) not null,
  ended_at timestamptz(3),
  exit text,
  constraint enrollments_check check ((status = 'waiting') = (due_at is not null)),
  constraint enrollments_check1 check ((status = 'ended') = (ended_at is not null and exit is not null))
);
-- One open enrollment in a cadence at a time.
create unique index enrollments_open on enrollments (prospect_id, cadence_id) where status <> 'ended';
create index enrollments_by_cadence on enrollments (cadence_id, status);
