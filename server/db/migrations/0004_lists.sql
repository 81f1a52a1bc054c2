-- Up Migration

-- Fields of the team's own. Values lie in `custom` of their row under the field's id: text and links as text, dates as
-- "2026-11-23", numbers and money as numbers, yes and no as booleans, several choices as a list; checked when written.
create table custom_fields (
  id uuid primary key,
  of text not null check (of in ('prospect', 'company', 'deal')),
  name text not null check (name <> ''),
  kind text not null check (kind in ('text', 'number', 'money', 'date', 'yesNo', 'choice', 'choices', 'link')),
  choices text[] not null default '{}',
  required boolean not null default false,
  default_value jsonb,
  position int not null,
  version int not null default 1,
  check ((kind in ('choice', 'choices')) = (cardinality(choices) > 0))
);
create unique index custom_fields_by_name on custom_fields (of, lower(name));

alter table prospects
  add column rating text check (rating in ('hot', 'warm', 'cold')),
  add column working text not null default 'in_work' check (working in ('in_work', 'resting', 'removed')),
  add column kept_by uuid references users,
  add column postal_code text,
  add column custom jsonb not null default '{}' check (jsonb_typeof(custom) = 'object');
alter table companies
  add column industry text,
  add column size int check (size >= 0),
  add column custom jsonb not null default '{}' check (jsonb_typeof(custom) = 'object');
alter table deals
  add column value numeric(14, 2) check (value >= 0),
  add column custom jsonb not null default '{}' check (jsonb_typeof(custom) = 'object');
create index deals_by_company on deals (company_id) where company_id is not null;
alter table notes add column pinned boolean not null default false;
create unique index notes_pinned on notes (prospect_id) where pinned;

alter table touches drop constraint touches_kind_check;
alter table touches add constraint touches_kind_check check (kind in ('call', 'text', 'email', 'reply', 'meeting', 'task', 'visit'));

create table tags (
  id uuid primary key,
  name text not null check (name <> '' and length(name) <= 60),
  created_at timestamptz(3) not null
);
create unique index tags_by_name on tags (lower(name));
create table prospect_tags (
  prospect_id uuid not null references prospects on delete cascade,
  tag_id uuid not null references tags on delete cascade,
  primary key (prospect_id, tag_id)
);
create index prospect_tags_by_tag on prospect_tags (tag_id, prospect_id);

create table lists (
  id uuid primary key,
  name text not null check (name <> ''),
  kind text not null check (kind in ('live', 'fixed')),
  -- What a live list is; a fixed list keeps the filters of its additions.
  filter jsonb,
  columns jsonb not null default '[]',
  sort jsonb,
  -- The order in which lists are worked.
  position int not null,
  owner_id uuid references users,
  audience text not null default 'everyone' check (audience in ('me', 'named', 'everyone')),
  touch_every_days int check (touch_every_days between 1 and 1000),
  touch_kinds text[] not null default '{call,text,email,meeting}',
  created_at timestamptz(3) not null,
  version int not null default 1,
  check ((kind = 'live') = (filter is not null))
);
create index lists_in_order on lists (position, id);
-- Names are told apart among those that everyone sees.
create unique index lists_by_name on lists (lower(name)) where audience = 'everyone';

create table list_viewers (
  list_id uuid not null references lists on delete cascade,
  user_id uuid not null references users on delete cascade,
  primary key (list_id, user_id)
);

-- How a fixed list came about: each addition with its filter (null for people put in by hand), its moment and its count.
create table list_additions (
  id uuid primary key,
  list_id uuid not null references lists on delete cascade,
  filter jsonb,
  at timestamptz(3) not null,
  by_id uuid references users,
  count int not null,
  -- The order in which they were made, whatever the world's clock said.
  seq bigint not null generated always as identity
);
create index list_additions_by_list on list_additions (list_id, at);

create table list_members (
  list_id uuid not null references lists on delete cascade,
  prospect_id uuid not null references prospects on delete cascade,
  addition_id uuid not null references list_additions on delete cascade,
  primary key (list_id, prospect_id)
);
create index list_members_by_prospect on list_members (prospect_id);

create index prospects_by_owner on prospects (owner_id) where owner_id is not null;

-- Who was dealt with while which list was worked: a live list's people leave it by what is done with them.
create table list_work (
  list_id uuid not null references lists on delete cascade,
  prospect_id uuid not null references prospects on delete cascade,
  user_id uuid references users,
  at timestamptz(3) not null,
  -- What was done; where that is taken back, they have not been dealt with.
  happening_id uuid not null primary key
);
create index list_work_by_list on list_work (list_id, at);

-- The sources there are are found by hopping along this.
create index prospects_by_source on prospects (source) where source is not null;

-- One change to many people at once: whom it touches and whom it leaves out with the reason, both kept.
create table bulk_actions (
  id uuid primary key,
  user_id uuid not null references users,
  action jsonb not null,
  -- Whom it was asked for, in words.
  about text not null,
  state text not null check (state in ('waiting', 'running', 'done')),
  touches int not null default 0,
  done int not null default 0,
  at timestamptz(3) not null,
  ended_at timestamptz(3)
);
create index bulk_actions_latest on bulk_actions (user_id, at desc);
create table bulk_people (
  action_id uuid not null references bulk_actions on delete cascade,
  prospect_id uuid not null references prospects on delete cascade,
  -- Their place, for what goes in turn.
  place int not null,
  -- Why they are left out; null for those who are touched.
  reason text,
  done boolean not null default false,
  primary key (action_id, prospect_id)
);
create index bulk_people_open on bulk_people (action_id, place) where reason is null and not done;
