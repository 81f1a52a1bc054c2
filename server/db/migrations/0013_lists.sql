-- Up Migration

create table lists (
  id uuid primary key,
  name text not null check (name <> ''),
  kind text not null check (kind in ('live', 'fixed')),
  -- What a live list is; a fixed list keeps the filters of its batches.
  filter jsonb,
  columns jsonb not null default '[]',
  sort jsonb,
  -- The order in which lists are worked.
  position int not null,
  owner_id uuid references users,
  visibility text not null default 'everyone',
  team text check (team <> ''),
  -- How a list is shown when it is opened.
  default_view text not null default 'people' check (default_view in ('people', 'companies', 'map')),
  -- The touch goal, in units of the calendar: "every 3 months" is no number of days.
  touch_every int,
  touch_unit text not null default 'days' check (touch_unit in ('days', 'weeks', 'months')),
  touch_kinds text[] not null default '{call,text,email,meeting}',
  created_at timestamptz(3) not null,
  version int not null default 1,
  constraint lists_check check ((kind = 'live') = (filter is not null)),
  constraint lists_visibility_check
    check (visibility in ('me', 'named', 'team', 'everyone') and (visibility = 'team') = (team is not null)),
  constraint lists_touch_every_check check (touch_every between 1 and 1000)
);
create index lists_in_order on lists (position, id);
-- Names are unique among the lists that everyone sees.
create unique index lists_by_name on lists (lower(name)) where visibility = 'everyone';

create table list_shares (
  list_id uuid not null references lists on delete cascade,
  user_id uuid not null references users on delete cascade,
  primary key (list_id, user_id)
);

-- How a fixed list came about: each batch with its filter (null for prospects added by hand), its moment and its count.
create table list_batches (
  id uuid primary key,
  list_id uuid not null references lists on delete cascade,
  filter jsonb,
  at timestamptz(3) not null,
  by_id uuid references users,
  count int not null,
  -- The order in which they were added, whatever the clock said.
  seq bigint not null generated always as identity
);
create index list_batches_by_list on list_batches (list_id, at);

create table list_members (
  list_id uuid not null references lists on delete cascade,
  prospect_id uuid not null references prospects on delete cascade,
  batch_id uuid not null references list_batches on delete cascade,
  primary key (list_id, prospect_id)
);
create index list_members_by_prospect on list_members (prospect_id);

-- Who was handled while which list was worked: the prospects of a live list leave it by what is done with them. Where
-- the event is undone, they have not been handled.
create table handled_prospects (
  list_id uuid not null references lists on delete cascade,
  prospect_id uuid not null references prospects on delete cascade,
  user_id uuid references users,
  at timestamptz(3) not null,
  event_id uuid not null primary key
);
create index handled_prospects_by_list on handled_prospects (list_id, at);
