-- Up Migration

-- The event log: what happened, and every change it made. Append only; ids, values and codes, no text about people.
create table events (
  id uuid primary key,
  -- The order in which events were written: of two at one moment, the later one has the higher.
  position bigint generated always as identity,
  at timestamptz(3) not null,
  kind text not null,
  prospect_id uuid,
  actor_id uuid,
  caused_by_event_id uuid references events,
  payload jsonb not null default '{}'
);
create index events_by_prospect on events (prospect_id, at);
create index events_by_cause on events (caused_by_event_id) where caused_by_event_id is not null;
-- Who did what in a day is asked every few seconds by every open Desk.
create index events_by_actor on events (actor_id, at) where actor_id is not null;
-- An event is undone once.
create unique index events_undone on events ((payload ->> 'targetId')) where kind = 'undone';

create table effects (
  event_id uuid not null references events,
  seq int not null,
  kind text not null,
  entity text not null,
  entity_id uuid not null,
  -- The prospect it concerns; null for a change of a company.
  prospect_id uuid,
  before jsonb,
  after jsonb,
  cause jsonb not null,
  primary key (event_id, seq)
);
create index effects_by_prospect on effects (prospect_id) where prospect_id is not null;

create function event_log_is_append_only() returns trigger
language plpgsql as $$
begin
  raise exception 'The event log is append only';
end $$;
create trigger events_append_only before update or delete on events
  for each statement execute function event_log_is_append_only();
create trigger effects_append_only before update or delete on effects
  for each statement execute function event_log_is_append_only();

-- What people wrote with an event: reasons, overrides. Beside the log, so that a person can be erased and the log stays
-- true.
create table event_texts (
  event_id uuid primary key references events,
  prospect_id uuid not null,
  texts jsonb not null check (jsonb_typeof(texts) = 'object')
);
create index event_texts_by_prospect on event_texts (prospect_id);

-- What is due later: at most one entry for a row. Work that fails is tried three times and then set aside, so that it
-- never stops the work beside it. `crashes` counts how often a program ended while it had the entry in hand; such entries
-- are handled one at a time.
create table scheduled_actions (
  ref_id uuid primary key,
  kind text not null check (kind in ('step', 'email')),
  at timestamptz(3) not null,
  prospect_id uuid not null,
  caused_by_event_id uuid,
  failures int not null default 0,
  crashes int not null default 0,
  last_error text,
  set_aside_at timestamptz
);
create index scheduled_actions_next on scheduled_actions (kind, at, ref_id) where set_aside_at is null;
create index scheduled_actions_set_aside on scheduled_actions (set_aside_at) where set_aside_at is not null;

-- Which worker processes are alive: each holds the advisory lock of its number for as long as it lives. Where it runs is
-- noted so that another program on the same machine can see at once that it has ended; one that has ended is remembered
-- for a while, so that what its last statements claim is found too.
create table worker_pools (
  id bigint generated always as identity primary key,
  pool_id text not null unique,
  job_workers text[] not null default '{}',
  host text,
  process_id int,
  started_at timestamptz not null default now(),
  ended_at timestamptz(3)
);

-- Which entries each loop of each worker has in hand, so that it is known what a worker was doing when it ended.
create table work_in_hand (
  worker_id text not null,
  loop text not null,
  ref_ids uuid[] not null,
  primary key (worker_id, loop)
);
