-- Up Migration

create table tasks (
  id uuid primary key,
  prospect_id uuid not null references prospects,
  owner_id uuid references users,
  kind text not null
    check (
      kind in ('first_contact', 'call', 'task', 'call_back', 'reply', 'follow_up', 'check_mail', 'meeting_result')
    ),
  priority smallint not null check (priority between 0 and 3),
  title text not null,
  due_at timestamptz(3) not null,
  status text not null check (status in ('open', 'done', 'cancelled')),
  done_at timestamptz(3),
  enrollment_id uuid references enrollments,
  step_id uuid references cadence_steps,
  message_id uuid,
  -- The prospect's time zone, so that the queue is read from one table.
  time_zone text not null,
  constraint tasks_check check ((status = 'open') = (done_at is null))
);
create unique index tasks_once on tasks (enrollment_id, step_id) where step_id is not null;
create index tasks_queue on tasks (owner_id, priority, due_at, id) where status = 'open';
create index tasks_by_prospect on tasks (prospect_id);
create index tasks_done on tasks (owner_id, done_at) where status = 'done';
-- Emails that wait for a user are found by the task about them: an index on the status of every email would make sending
-- slow.
create index tasks_about_email on tasks (message_id) where kind = 'check_mail' and status = 'open';

create table touches (
  id uuid primary key,
  prospect_id uuid not null references prospects,
  kind text not null check (kind in ('call', 'text', 'email', 'reply', 'meeting', 'task', 'visit')),
  at timestamptz(3) not null,
  user_id uuid references users,
  outcome_id uuid references outcomes,
  counts_as text not null check (counts_as in ('attempt', 'conversation', 'none')),
  reason text,
  phone_id uuid,
  enrollment_id uuid,
  step_id uuid,
  message_id uuid
);
create index touches_by_prospect on touches (prospect_id, at);
create index touches_by_user on touches (user_id, at);

-- Calls as the dialer reports them. `logged_by` is the event by which the outcome was logged; null while it has none.
create table calls (
  id uuid primary key,
  user_id uuid not null references users,
  prospect_id uuid not null references prospects,
  phone_id uuid not null references phones on delete cascade,
  line_ref text,
  started_at timestamptz(3) not null,
  ended_at timestamptz(3),
  logged_by uuid
);
create index calls_by_user on calls (user_id, started_at);
create index calls_without_outcome on calls (user_id, started_at) where logged_by is null;

create table meetings (
  id uuid primary key,
  prospect_id uuid not null references prospects,
  user_id uuid references users,
  title text not null,
  -- When it was booked: weeks are counted by it.
  booked_at timestamptz(3),
  start_at timestamptz(3) not null,
  end_at timestamptz(3) not null,
  time_zone text not null,
  -- Where it is: a link, an address, who calls which number.
  place text check (length(place) <= 300),
  status text not null check (status in ('booked', 'cancelled', 'held', 'no_show')),
  -- How often it was changed since the first invitation (RFC 5545, SEQUENCE).
  sequence int not null default 0,
  constraint meetings_check check (end_at > start_at)
);
create index meetings_by_prospect on meetings (prospect_id);
create index meetings_by_user on meetings (user_id, start_at);
create index meetings_booked on meetings (user_id, booked_at);

create table deals (
  id uuid primary key,
  company_id uuid references companies,
  prospect_id uuid not null references prospects,
  owner_id uuid references users,
  name text not null,
  status text not null check (status in ('open', 'won', 'lost')),
  deal_stage_id text references deal_stages,
  -- Percent.
  likelihood int not null check (likelihood between 0 and 100),
  -- In the team's currency.
  value numeric(14, 2) check (value >= 0),
  expected_close date,
  opened_at timestamptz(3) not null,
  closed_at timestamptz(3),
  close_reason text check (length(close_reason) <= 500),
  custom jsonb not null default '{}' check (jsonb_typeof(custom) = 'object'),
  constraint deals_closed check (status <> 'open' or closed_at is null)
);
create index deals_by_prospect on deals (prospect_id);
create index deals_by_company on deals (company_id) where company_id is not null;
create index deals_by_owner on deals (owner_id, status, expected_close);
create index deals_by_state on deals (status, opened_at);
create index deals_opened on deals (owner_id, opened_at);
create index deals_closed_by on deals (owner_id, closed_at) where status = 'won';
