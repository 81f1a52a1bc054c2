-- Up Migration

-- What the team as a whole decided.
create table team (
  only_row boolean primary key default true check (only_row),
  name text not null default 'Your team',
  postal_address text not null default '',
  country text not null default 'US' check (country ~ '^[A-Z]{2}$'),
  time_zone text not null default 'America/New_York',
  -- ISO 4217.
  currency text not null default 'USD' check (currency ~ '^[A-Z]{3}$'),
  -- Whether reps see everyone's prospects.
  shares_all boolean not null default false,
  idle_minutes int not null default 720 check (idle_minutes between 5 and 20160),
  call_days int[] not null default '{1,2,3,4,5}',
  call_from int not null default 480,
  call_to int not null default 1080,
  fallback_days int not null default 30 check (fallback_days between 1 and 730),
  -- When a prospect who did not answer is called again, and whether attempts count without a call.
  retry_days int not null default 2 check (retry_days between 1 and 60),
  counts_uncalled boolean not null default false,
  attempts_allowed int not null default 3 check (attempts_allowed between 1 and 99),
  first_touch_from text,
  first_touch_to text,
  answered_stage text,
  -- What behavior is worth, in points, and from how many points a prospect is hot or warm (our defaults; with fewer, but
  -- some, cold). A touch is worth what its kind says, a call that reached them what a conversation says.
  points jsonb not null
    default '{"reply": 10, "conversation": 5, "meeting": 15, "visit": 1, "opened": 1}'
    check (jsonb_typeof(points) = 'object'),
  hot_from int not null default 20,
  warm_from int not null default 8,
  playbook_version int not null default 1,
  -- Part of the fingerprint under which an erased person's address or number is remembered.
  contact_salt uuid not null default gen_random_uuid(),
  -- When the settings were first saved by a user.
  saved_at timestamptz,
  constraint team_check check (call_from < call_to and call_from >= 0 and call_to <= 1440),
  constraint team_check1 check (warm_from >= 1 and hot_from > warm_from)
);
insert into team default values;

create table stages (
  id text primary key check (id ~ '^[a-z0-9_-]+$'),
  name text not null,
  kind text not null check (kind in ('open', 'paused', 'won', 'closed')),
  -- Checked at the end of the statement, so that stages can be reordered.
  position int not null unique deferrable initially immediate,
  gate jsonb not null default '{}',
  -- An archived stage stays for what was logged with it.
  archived_at timestamptz(3)
);
create unique index stages_by_name on stages (lower(btrim(name))) where archived_at is null;

-- Where new prospects stand: the first open stage.
create function first_stage() returns text
language sql stable as $$
  select id from stages where kind = 'open' and archived_at is null order by position limit 1
$$;

create table outcomes (
  id uuid primary key,
  name text not null check (name <> ''),
  position int not null,
  counts_as text not null check (counts_as in ('attempt', 'conversation', 'none')),
  required_inputs text[] not null default '{}',
  reasons text[] not null default '{}',
  actions jsonb not null default '[]',
  -- An outcome that stops contact is a conversation, but adds nothing to the score.
  stops boolean not null generated always as (actions @> '[{"type": "stop"}]') stored,
  archived_at timestamptz
);

-- The stages a deal goes through, with how likely each usually makes it (common practice, no published source). An
-- archived stage stays for the deals that were in it.
create table deal_stages (
  id text primary key,
  name text not null check (btrim(name) <> ''),
  position int not null,
  likelihood int not null check (likelihood between 0 and 100),
  archived_at timestamptz(3)
);
create unique index deal_stages_by_name on deal_stages (lower(name)) where archived_at is null;
insert into deal_stages (id, name, position, likelihood) values
  ('meeting', 'Meeting set', 0, 15),
  ('qualified', 'Qualified', 1, 40),
  ('proposal', 'Proposal', 2, 60),
  ('negotiation', 'Negotiation', 3, 80);

-- custom fields. Values lie in `custom` of their row under the field's id: text and links as text, dates as
-- "2026-11-23", numbers and money as numbers, yes and no as booleans, several choices as a list; checked when written.
create table custom_fields (
  id uuid primary key,
  of text not null check (of in ('prospect', 'company', 'deal')),
  name text not null check (name <> ''),
  kind text not null check (kind in ('text', 'number', 'money', 'date', 'yesNo', 'choice', 'choices', 'link')),
  choices text[] not null default '{}',
  required boolean not null default false,
  default_value jsonb,
  -- Whether filters on it are to be fast among many prospects: then it has an index of its own
  -- (server/db/fieldIndexes.ts).
  indexed boolean not null default false,
  position int not null,
  version int not null default 1,
  constraint custom_fields_check check ((kind in ('choice', 'choices')) = (cardinality(choices) > 0)),
  constraint custom_fields_check1 check (not indexed or of <> 'deal')
);
create unique index custom_fields_by_name on custom_fields (of, lower(name));

create table tags (
  id uuid primary key,
  name text not null check (name <> '' and length(name) <= 60),
  created_at timestamptz(3) not null
);
create unique index tags_by_name on tags (lower(name));

-- Where prospects come from: what it cost, and the other names it has in files.
create table sources (
  name text primary key check (name <> ''),
  cost numeric(14, 2) not null default 0 check (cost >= 0),
  aliases text[] not null default '{}'
);
create unique index sources_by_name on sources (lower(name));
