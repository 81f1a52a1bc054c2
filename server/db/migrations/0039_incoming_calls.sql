-- Up Migration

-- Calls that came in over the exchange. Whose they are is asked by the number when they are read.
create table incoming_calls (
  id uuid primary key,
  -- The exchange's name for it.
  line_ref text not null unique,
  -- E.164.
  number text not null,
  -- Who it rings for; null where it rings for everyone.
  user_id uuid references users,
  status text not null default 'ringing' check (status in ('ringing', 'answered', 'over', 'missed')),
  rang_at timestamptz(3) not null,
  -- By the machine's clock: so long a call rings at most.
  created_at timestamptz(3) not null default now(),
  answered_by uuid references users,
  answered_at timestamptz(3),
  ended_at timestamptz(3),
  -- It needs nothing any more: an answered call was logged, a missed one of an unknown number was seen to.
  seen_at timestamptz(3),
  constraint incoming_calls_answered check ((answered_by is null) = (status in ('ringing', 'missed')))
);
-- What rings, or is under way.
create index incoming_calls_live on incoming_calls (created_at) where status in ('ringing', 'answered');
-- Calls that are over and still need something.
create index incoming_calls_unseen on incoming_calls (created_at) where status in ('missed', 'over') and seen_at is null;
create index incoming_calls_by_number on incoming_calls (number);

alter table notifications
  drop constraint notifications_kind_check,
  add constraint notifications_kind_check
    check (
      kind in ('reply', 'handed_over', 'call_block', 'outcome', 'email_failed', 'missed_call', 'bulk', 'import')
    );
