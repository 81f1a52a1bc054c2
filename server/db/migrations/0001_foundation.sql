-- Up Migration

-- The world's clock. Nothing that depends on the time of day reads now(): the demo moves this clock, tests freeze it.
-- `target` is where a moving clock is headed; the agenda takes it there, stop by stop.
create table clock (
  only_row boolean primary key default true check (only_row),
  ahead interval not null default '0',
  frozen_at timestamptz(3),
  target timestamptz(3),
  started_at timestamptz(3) not null default clock_timestamp()
);
insert into clock default values;

create function world_now() returns timestamptz(3) language sql stable parallel safe as
$$ select coalesce(frozen_at, (clock_timestamp() + ahead)::timestamptz(3)) from clock $$;

-- A moment as core counts it: whole milliseconds since 1970.
create function ms(moment timestamptz) returns bigint language sql immutable strict parallel safe as
$$ select (extract(epoch from moment) * 1000)::bigint $$;
create function from_ms(ms bigint) returns timestamptz(3) language sql immutable strict parallel safe as
$$ select (timestamptz 'epoch' + make_interval(secs => ms / 1000.0))::timestamptz(3) $$;

create table users (
  id uuid primary key,
  email text not null unique check (email = lower(email) and email like '%_@_%'),
  name text not null check (name <> ''),
  role text not null check (role in ('rep', 'manager', 'admin')),
  password_hash text not null,
  zone text not null,
  active boolean not null default true,
  daily_calls int not null default 50 check (daily_calls >= 0),
  daily_conversations int not null default 10 check (daily_conversations >= 0),
  daily_meetings int not null default 2 check (daily_meetings >= 0),
  daily_mail_cap int not null default 400 check (daily_mail_cap >= 0),
  mail_spacing_s int not null default 45 check (mail_spacing_s >= 0),
  version int not null default 1
);

create table sessions (
  token_hash bytea primary key,
  user_id uuid not null references users on delete cascade,
  started_at timestamptz not null default now(),
  expires_at timestamptz not null,
  agent text not null default ''
);
create index sessions_by_user on sessions (user_id);

create table sign_in_failures (email text not null, at timestamptz not null default now());
create index sign_in_failures_by_email on sign_in_failures (email, at);

create table api_keys (
  id uuid primary key,
  user_id uuid not null references users on delete cascade,
  name text not null check (name <> ''),
  key_hash bytea not null unique,
  hint text not null,
  created_at timestamptz not null default now(),
  revoked_at timestamptz
);

create table team (
  only_row boolean primary key default true check (only_row),
  name text not null default 'Your team',
  postal_address text not null default '',
  country text not null default 'US' check (country ~ '^[A-Z]{2}$'),
  zone text not null default 'America/New_York',
  shares_all boolean not null default false,
  call_days int[] not null default '{1,2,3,4,5}',
  call_from int not null default 480,
  call_to int not null default 1080 check (call_from < call_to and call_from >= 0 and call_to <= 1440),
  fallback_days int not null default 30 check (fallback_days between 1 and 730),
  attempts_allowed int not null default 3 check (attempts_allowed between 1 and 99),
  first_touch_from text, first_touch_to text, answered_stage text,
  playbook_version int not null default 1
);
insert into team default values;

create table stages (
  id text primary key check (id ~ '^[a-z_]+$'),
  name text not null unique,
  kind text not null check (kind in ('open', 'parked', 'won', 'closed')),
  position int not null unique,
  gate jsonb not null default '{}'
);

create table outcomes (
  id uuid primary key,
  name text not null check (name <> ''),
  position int not null,
  counts_as text not null check (counts_as in ('attempt', 'conversation', 'neither')),
  asks text[] not null default '{}',
  reasons text[] not null default '{}',
  consequences jsonb not null default '[]',
  archived_at timestamptz
);

create table companies (
  id uuid primary key,
  name text not null,
  name_key text not null,
  domain text,
  standing text not null default 'open' check (standing in ('open', 'in_deal', 'customer', 'not_a_fit', 'do_not_contact')),
  country text, region text, city text,
  created_at timestamptz(3) not null,
  version int not null default 1
);
create unique index companies_by_domain on companies (domain) where domain is not null;
create index companies_by_name on companies (name_key);

create table imports (
  id uuid primary key,
  user_id uuid not null references users,
  file_name text not null,
  state text not null check (state in ('uploading', 'uploaded', 'checking', 'checked', 'writing', 'done', 'failed')),
  bytes bigint not null default 0,
  dialect jsonb,
  headings text[],
  samples jsonb,
  mapping jsonb,
  owner_id uuid references users,
  known_action text not null default 'skip' check (known_action in ('skip', 'fill', 'overwrite')),
  counts jsonb not null default '{}',
  progress int not null default 0,
  problem text,
  created_at timestamptz(3) not null,
  version int not null default 1
);

create table import_chunks (
  import_id uuid not null references imports on delete cascade,
  seq int not null,
  bytes bytea not null,
  primary key (import_id, seq)
);

create table prospects (
  id uuid primary key,
  first_name text not null default '',
  last_name text not null default '',
  name_key text not null check (name_key <> ''),
  title text,
  company_id uuid references companies,
  owner_id uuid references users,
  stage_id text not null references stages,
  zone text not null,
  country text, region text, city text, source text,
  stop_call boolean not null default false,
  stop_email boolean not null default false,
  import_id uuid references imports on delete set null,
  created_at timestamptz(3) not null,
  version int not null default 1
);
create index prospects_by_company on prospects (company_id) where company_id is not null;
create index prospects_by_import on prospects (import_id) where import_id is not null;
create index prospects_by_name on prospects (name_key text_pattern_ops, id);
create index prospects_newest on prospects (created_at desc, id desc);

create table emails (
  id uuid primary key,
  prospect_id uuid not null references prospects on delete cascade,
  address text not null check (address = lower(address)),
  standing text not null default 'ok' check (standing in ('ok', 'bounced')),
  position int not null default 0
);
create unique index emails_by_address on emails (address);
create index emails_by_prospect on emails (prospect_id);

create table phones (
  id uuid primary key,
  prospect_id uuid not null references prospects on delete cascade,
  number text not null check (number ~ '^\+[1-9][0-9]{1,14}$'),
  kind text not null default 'work' check (kind in ('work', 'mobile', 'home', 'other')),
  standing text not null default 'unverified' check (standing in ('unverified', 'correct', 'wrong', 'disconnected', 'do_not_call')),
  position int not null default 0
);
create unique index phones_by_prospect on phones (prospect_id, number);
create index phones_by_number on phones (number);

create table cadences (
  id uuid primary key,
  name text not null check (name <> ''),
  state text not null default 'draft' check (state in ('draft', 'active', 'archived')),
  cold boolean not null default true,
  window_days int[] not null default '{1,2,3,4,5}',
  window_from int not null default 480,
  window_to int not null default 1020 check (window_from < window_to and window_from >= 0 and window_to <= 1440),
  replied_scope text not null default 'person' check (replied_scope in ('person', 'company')),
  booked_scope text not null default 'company' check (booked_scope in ('person', 'company')),
  owner_id uuid references users,
  created_at timestamptz(3) not null,
  version int not null default 1
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
  archived_at timestamptz
);
create unique index cadence_steps_in_order on cadence_steps (cadence_id, position) where archived_at is null;

create table enrollments (
  id uuid primary key,
  prospect_id uuid not null references prospects,
  cadence_id uuid not null references cadences,
  step_id uuid not null references cadence_steps,
  state text not null check (state in ('waiting', 'active', 'paused', 'ended')),
  due_at timestamptz(3),
  by_id uuid references users,
  started_at timestamptz(3) not null,
  ended_at timestamptz(3),
  exit text,
  check ((state = 'waiting') = (due_at is not null)),
  check ((state = 'ended') = (ended_at is not null and exit is not null))
);
-- One open way through a cadence at a time.
create unique index enrollments_open on enrollments (prospect_id, cadence_id) where state <> 'ended';
create index enrollments_by_cadence on enrollments (cadence_id, state);

create table appointments (
  id uuid primary key,
  prospect_id uuid not null references prospects,
  user_id uuid references users,
  title text not null,
  start_at timestamptz(3) not null,
  end_at timestamptz(3) not null check (end_at > start_at),
  zone text not null,
  state text not null check (state in ('booked', 'cancelled')),
  sequence int not null default 0
);
create index appointments_by_prospect on appointments (prospect_id);
create index appointments_by_user on appointments (user_id, start_at);

create table messages (
  id uuid primary key,
  prospect_id uuid not null references prospects,
  kind text not null check (kind in ('step', 'personal', 'invitation')),
  enrollment_id uuid references enrollments,
  step_id uuid references cadence_steps,
  appointment_id uuid,
  email_id uuid not null references emails,
  sender_id uuid references users,
  state text not null check (state in ('queued', 'sending', 'sent', 'unconfirmed', 'failed', 'held', 'cancelled')),
  send_at timestamptz(3) not null,
  sent_at timestamptz(3),
  -- What it says: written with the message (personal), or filled in from the step when it leaves.
  subject text, body text,
  header_id text unique,
  in_reply_to text,
  attempts int not null default 0,
  trouble text,
  claimed_by text,
  -- Whether the sender's cap and spacing have given it its moment.
  slotted boolean not null default false,
  opened_at timestamptz(3),
  opens int not null default 0,
  check ((kind = 'step') = (enrollment_id is not null and step_id is not null))
);
-- Once per enrollment and step, whatever crashes or runs twice.
create unique index messages_once on messages (enrollment_id, step_id) where enrollment_id is not null;
create index messages_by_prospect on messages (prospect_id);
create index messages_sending on messages (claimed_by) where state = 'sending';

-- What a sender has used up of the day's cap, and when the last slot was given. Locked while slots are given.
create table mail_senders (
  user_id uuid primary key references users on delete cascade,
  day date,
  given int not null default 0,
  last_slot_at timestamptz(3)
);

create table replies (
  id uuid primary key,
  prospect_id uuid not null references prospects,
  message_id uuid references messages,
  header_id text unique,
  subject text not null default '',
  body text not null default '',
  received_at timestamptz(3) not null,
  automatic boolean not null default false
);
create index replies_by_prospect on replies (prospect_id, received_at);

create table tasks (
  id uuid primary key,
  prospect_id uuid not null references prospects,
  owner_id uuid references users,
  kind text not null check (kind in ('call', 'task', 'call_back', 'reply', 'follow_up', 'check_mail', 'meeting_result')),
  lane smallint not null check (lane between 0 and 2),
  title text not null,
  due_at timestamptz(3) not null,
  state text not null check (state in ('open', 'done', 'cancelled')),
  done_at timestamptz(3),
  enrollment_id uuid references enrollments,
  step_id uuid references cadence_steps,
  message_id uuid,
  zone text not null,
  check ((state = 'open') = (done_at is null))
);
create unique index tasks_once on tasks (enrollment_id, step_id) where step_id is not null;
create index tasks_queue on tasks (owner_id, lane, due_at, id) where state = 'open';
create index tasks_by_prospect on tasks (prospect_id);
create index tasks_done on tasks (owner_id, done_at) where state = 'done';

create table touches (
  id uuid primary key,
  prospect_id uuid not null references prospects,
  kind text not null check (kind in ('call', 'email', 'reply', 'meeting', 'task')),
  at timestamptz(3) not null,
  user_id uuid references users,
  outcome_id uuid references outcomes,
  counts_as text not null check (counts_as in ('attempt', 'conversation', 'neither')),
  reason text,
  phone_id uuid, enrollment_id uuid, step_id uuid, message_id uuid
);
create index touches_by_prospect on touches (prospect_id, at);
create index touches_by_user on touches (user_id, at);

create table deals (
  id uuid primary key,
  company_id uuid references companies,
  prospect_id uuid not null references prospects,
  owner_id uuid references users,
  name text not null,
  state text not null check (state in ('open', 'won', 'lost')),
  likelihood int not null check (likelihood between 0 and 100),
  opened_at timestamptz(3) not null
);
create index deals_by_prospect on deals (prospect_id);

create table notes (
  id uuid primary key,
  prospect_id uuid not null references prospects on delete cascade,
  user_id uuid references users,
  happening_id uuid,
  at timestamptz(3) not null,
  body text not null check (body <> '')
);
create index notes_by_prospect on notes (prospect_id, at);

-- The journal: what happened, and every change it made. Append only; ids and values, no prose about persons.
create table happenings (
  id uuid primary key,
  at timestamptz(3) not null,
  kind text not null,
  prospect_id uuid,
  actor_id uuid,
  cause_id uuid references happenings,
  data jsonb not null default '{}'
);
create index happenings_by_prospect on happenings (prospect_id, at);
create index happenings_by_cause on happenings (cause_id) where cause_id is not null;
-- A happening is taken back once.
create unique index happenings_undone on happenings ((data ->> 'targetId')) where kind = 'undone';

create table effects (
  happening_id uuid not null references happenings,
  seq int not null,
  kind text not null,
  entity text not null,
  entity_id uuid not null,
  -- Whom it concerns; null for a change of a company.
  prospect_id uuid,
  before jsonb,
  after jsonb,
  because jsonb not null,
  primary key (happening_id, seq)
);

create index effects_by_prospect on effects (prospect_id) where prospect_id is not null;

create function journal_is_append_only() returns trigger language plpgsql as
$$ begin raise exception 'The journal is append only'; end $$;
create trigger happenings_append_only before update or delete on happenings for each statement execute function journal_is_append_only();
create trigger effects_append_only before update or delete on effects for each statement execute function journal_is_append_only();

-- What waits in the world's time: at most one entry for a row.
create table agenda (
  ref_id uuid primary key,
  kind text not null check (kind in ('step', 'mail')),
  at timestamptz(3) not null,
  prospect_id uuid not null,
  cause_id uuid
);
create index agenda_next on agenda (kind, at, ref_id);

-- Rows of a prospect file, read and judged, before anything is written. Lost with a crash, and made again.
create unlogged table import_rows (
  import_id uuid not null,
  row_no int not null,
  -- The row as it stood in the file; kept only where it cannot be taken, to be handed back.
  cells jsonb,
  wrong text,
  new_id uuid not null default gen_random_uuid(),
  merged_into int,
  first_name text, last_name text, name_key text, title text, company text, company_key text, domain text,
  email text, phone text, mobile text, country text, region text, city text, zone text, source text, note text,
  primary key (import_id, row_no)
);

-- Calls on the line, as the line reports them.
create table calls (
  id uuid primary key,
  user_id uuid not null references users,
  prospect_id uuid not null references prospects,
  phone_id uuid not null references phones on delete cascade,
  line_ref text,
  started_at timestamptz(3) not null,
  ended_at timestamptz(3)
);
create index calls_by_user on calls (user_id, started_at);

-- Which worker processes are alive: each holds the advisory lock of its number for as long as it lives.
create table worker_pools (
  id bigint generated always as identity primary key,
  pool_id text not null unique,
  job_workers text[] not null default '{}',
  started_at timestamptz not null default now()
);
