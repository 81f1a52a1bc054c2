-- Up Migration

-- Whether an outcome says that a message was left: that is no conversation, and the second pass calls them again.
alter table outcomes
  add column leaves_message boolean not null default false;
update outcomes
set leaves_message = true
where name = 'Left voicemail';

-- People handed over to be called, by one caller or by several who share them.
create table call_blocks (
  id uuid primary key,
  name text not null check (name <> ''),
  purpose text not null check (purpose in ('first_contact', 'follow_up', 'service', 'event')),
  -- What to say; a template with merge fields.
  script text not null default '' check (length(script) <= 20000),
  created_by uuid not null references users,
  created_at timestamptz(3) not null,
  due_on date,
  -- What is to come of it in all: so many calls, conversations or meetings.
  target int check (target > 0),
  target_of text not null default 'conversation' check (target_of in ('call', 'conversation', 'meeting')),
  sort text not null default 'list' check (sort in ('list', 'score', 'untried')),
  -- Which numbers are called; empty: of any kind, with any status that may be called, with whatever tags. Of tags, a
  -- number has all.
  phone_kinds text[] not null default '{}',
  phone_statuses text[] not null default '{}',
  phone_tags text[] not null default '{}',
  -- How often everyone may be called in it: two once the second pass has begun.
  pass int not null default 1 check (pass between 1 and 9),
  pay_basis text not null default 'none' check (pay_basis in ('none', 'call', 'conversation', 'meeting')),
  -- In the team's currency, for each.
  pay_rate numeric(10, 2) not null default 0 check (pay_rate >= 0),
  closed_at timestamptz(3),
  version int not null default 1
);
create index call_blocks_open on call_blocks (created_at) where closed_at is null;

create table call_block_callers (
  block_id uuid not null references call_blocks on delete cascade,
  user_id uuid not null references users,
  primary key (block_id, user_id)
);
create index call_block_callers_by_user on call_block_callers (user_id);

-- Who is in it. `taken_by` has them in hand or next; after a while without a sign of life others may take them (by the
-- machine's clock). `skipped_why` says why they are not called.
create table call_block_people (
  block_id uuid not null references call_blocks on delete cascade,
  prospect_id uuid not null references prospects,
  position int not null,
  taken_by uuid references users,
  taken_at timestamptz,
  skipped_at timestamptz(3),
  skipped_by uuid references users,
  skipped_why text check (skipped_why <> ''),
  removed_at timestamptz(3),
  primary key (block_id, prospect_id),
  constraint call_block_people_taken check ((taken_by is null) = (taken_at is null)),
  constraint call_block_people_skipped check ((skipped_at is null) = (skipped_why is null))
);
create index call_block_people_by_prospect on call_block_people (prospect_id);
create index call_block_people_taken_by on call_block_people (block_id, taken_by) where taken_by is not null;

-- When callers worked a block, by the machine's clock. One that has gone silent ended when it was last seen.
create table call_block_sittings (
  id bigint generated always as identity primary key,
  block_id uuid not null references call_blocks on delete cascade,
  user_id uuid not null references users,
  started_at timestamptz not null default now(),
  last_seen_at timestamptz not null default now(),
  ended_at timestamptz
);
create index call_block_sittings_by_block on call_block_sittings (block_id, user_id);
-- A caller works in one block at a time.
create unique index call_block_sittings_open on call_block_sittings (user_id) where ended_at is null;

-- The calls of a block are the outcomes that were logged in it.
create index events_by_block on events ((payload ->> 'blockId')) where payload ? 'blockId';
