-- Up Migration

-- People of a call block who were handed to another dialer: when, by whom, with what.
create table call_exports (
  id uuid primary key,
  block_id uuid not null references call_blocks on delete cascade,
  dialer text not null check (length(btrim(dialer)) between 1 and 80),
  campaign text not null check (length(campaign) between 1 and 120),
  caller_numbers text[] not null default '{}' check (cardinality(caller_numbers) <= 50),
  message text not null default '' check (length(message) <= 2000),
  exported_by uuid not null references users,
  exported_at timestamptz(3) not null,
  -- Since when those without a result are called here again.
  ended_at timestamptz(3)
);
create index call_exports_by_block on call_exports (block_id, exported_at);

-- Who was handed over; the id is what a result names. `result_at` is when the first result came back.
create table call_export_people (
  id uuid primary key,
  export_id uuid not null references call_exports on delete cascade,
  prospect_id uuid not null references prospects,
  phone_id uuid references phones on delete set null,
  number text not null,
  position int not null,
  result_at timestamptz(3),
  constraint call_export_people_once unique (export_id, prospect_id)
);
create index call_export_people_by_number on call_export_people (export_id, number);
create index call_export_people_out on call_export_people (prospect_id) where result_at is null;
create index call_export_people_by_phone on call_export_people (phone_id) where phone_id is not null;

-- The export in which someone of a block is out; nobody calls them here meanwhile.
alter table call_block_people
  add column export_id uuid references call_exports on delete set null;
create index call_block_people_out on call_block_people (export_id) where export_id is not null;

-- What another dialer calls an outcome; both in lower case.
create table dialer_outcomes (
  dialer text not null check (dialer = lower(dialer)),
  word text not null check (word = lower(word)),
  outcome_id uuid not null references outcomes,
  primary key (dialer, word)
);

-- Results as they came, a row each: `waiting` to be logged, logged now or before, or unreadable until it is corrected.
-- `content` is what the row says, by field; it is emptied once it is logged.
create table call_results (
  id uuid primary key,
  export_id uuid not null references call_exports on delete cascade,
  file_name text,
  row_number int not null,
  content jsonb not null,
  received_by uuid not null references users,
  received_at timestamptz(3) not null,
  status text not null default 'waiting' check (status in ('waiting', 'logged', 'known', 'unreadable')),
  error_field text,
  error text,
  prospect_id uuid references prospects,
  event_id uuid,
  constraint call_results_unreadable check ((status = 'unreadable') = (error is not null))
);
create index call_results_open on call_results (export_id, status, received_at, row_number);
create index call_results_by_prospect on call_results (prospect_id) where prospect_id is not null;
