-- Up Migration

create table prospects (
  id uuid primary key,
  first_name text not null default '',
  last_name text not null default '',
  name_key text not null check (name_key <> ''),
  title text,
  company_id uuid references companies,
  owner_id uuid references users,
  -- Who keeps the relationship.
  relationship_owner_id uuid references users,
  stage_id text not null references stages,
  status text not null default 'active' check (status in ('active', 'paused', 'archived')),
  rating text check (rating in ('hot', 'warm', 'cold')),
  score int not null default 0,
  -- The rating follows the score until a user sets it.
  rated_by_score boolean not null default true,
  time_zone text not null,
  -- Whether a user has set the time zone; else it follows the address, then the number.
  time_zone_is_manual boolean not null default false,
  -- What the time zone was found by (core/places): given, the address, the area of a number, or a guess; then they are
  -- called only inside hours that are right in every zone that is possible.
  time_zone_from text not null default 'given' check (time_zone_from in ('given', 'address', 'number', 'guess')),
  country text,
  region text,
  city text,
  postal_code text,
  -- Written by the triggers below alone and never deleted from places, so that a foreign key would only cost every row.
  place_id int,
  source text,
  -- The user's own contacts, imported: known before, so never new.
  own_contact boolean not null default false,
  stop_call boolean not null default false,
  stop_email boolean not null default false,
  -- Which types of email the prospect accepts.
  email_types text[] not null default '{one_to_one,marketing,requested}'
    check (email_types <@ '{one_to_one,marketing,requested}'),
  custom jsonb not null default '{}' check (jsonb_typeof(custom) = 'object'),
  -- Not a foreign key: an import that added prospects is never deleted, and checking it for each of a million rows took
  -- longer than writing them.
  import_id uuid,
  -- What the prospect's touches come to, so that lists and orders read one row for each. Kept true by the triggers on
  -- touches, by any program.
  attempts int not null default 0,
  conversations int not null default 0,
  last_touch_at timestamptz(3),
  last_call_at timestamptz(3),
  last_text_at timestamptz(3),
  last_email_at timestamptz(3),
  last_reply_at timestamptz(3),
  last_meeting_at timestamptz(3),
  last_visit_at timestamptz(3),
  last_outcome_at timestamptz(3),
  last_outcome_id uuid,
  -- Two rows that are one person: the duplicate points to the primary, with nothing of its own left.
  merged_into uuid references prospects check (merged_into <> id),
  -- When the person was erased on request.
  erased_at timestamptz(3),
  created_at timestamptz(3) not null,
  version int not null default 1
);
create index prospects_by_company on prospects (company_id) where company_id is not null;
-- A rep's own prospects, newest first, with what nearly every list asks of them: read from the index alone.
create index prospects_by_owner on prospects (owner_id, created_at, id) include (status, merged_into)
  where owner_id is not null;
create index prospects_by_stage_id on prospects (stage_id) where merged_into is null;
create index prospects_by_name on prospects (name_key text_pattern_ops, id);
create index prospects_by_last_name on prospects (split_part(name_key, ' ', -1) text_pattern_ops);
-- Prospects who come together have ids that follow each other: this index grows at its end, which costs a fraction of
-- growing at its beginning, and is read backwards for the newest.
create index prospects_newest on prospects (created_at, id);
create index prospects_by_last_reply on prospects (last_reply_at desc nulls last, id desc)
  where last_reply_at is not null;
create index prospects_by_silence on prospects (last_touch_at, id);
-- In the order in which touch goals fall due, for the two usual ways of counting touches.
create index prospects_by_contact on prospects (
  coalesce(greatest(last_call_at, last_text_at, last_email_at, last_meeting_at), created_at),
  id
);
create index prospects_by_talk on prospects (coalesce(greatest(last_call_at, last_text_at), created_at), id);
create index prospects_by_place on prospects (place_id) where place_id is not null;
create index prospects_by_source on prospects (source) where source is not null;
-- Prospects of one file lie side by side: the span of each stretch of the table is enough to find them by.
create index prospects_by_import on prospects using brin (import_id) with (pages_per_range = 32);
create index prospects_merged on prospects (merged_into) where merged_into is not null;

create trigger prospects_placed before insert on prospects
  for each row when (new.city <> '') execute function find_place();
create trigger prospects_moved before update of city, region, country on prospects
  for each row when ((new.city, new.region, new.country) is distinct from (old.city, old.region, old.country))
  execute function find_place();
-- Also where a file adds them with their foreign keys checked in one go (server/imports/write.ts).
alter table prospects
  enable always trigger prospects_placed,
  enable always trigger prospects_moved;

create table email_addresses (
  id uuid primary key,
  prospect_id uuid not null references prospects on delete cascade,
  address text not null check (address = lower(address)),
  status text not null default 'ok' check (status in ('ok', 'bounced')),
  position int not null default 0
);
create unique index email_addresses_by_address on email_addresses (address text_pattern_ops);
create index email_addresses_by_prospect on email_addresses (prospect_id);

create table phones (
  id uuid primary key,
  prospect_id uuid not null references prospects on delete cascade,
  -- E.164.
  number text not null check (number ~ '^\+[1-9][0-9]{1,14}$'),
  kind text not null default 'work' check (kind in ('work', 'mobile', 'home', 'other')),
  status text not null default 'unverified'
    check (status in ('unverified', 'correct', 'wrong', 'disconnected', 'do_not_call')),
  -- What the team says of a number beside its status ("direct line", "assistant").
  tags text[] not null default '{}',
  position int not null default 0
);
create unique index phones_by_prospect on phones (prospect_id, number);
create index phones_by_number on phones (number text_pattern_ops);

create table notes (
  id uuid primary key,
  prospect_id uuid not null references prospects on delete cascade,
  user_id uuid references users,
  event_id uuid,
  at timestamptz(3) not null,
  body text not null check (body <> ''),
  pinned boolean not null default false
);
create index notes_by_prospect on notes (prospect_id, at);
create unique index notes_pinned on notes (prospect_id) where pinned;

create table prospect_tags (
  prospect_id uuid not null references prospects on delete cascade,
  tag_id uuid not null references tags on delete cascade,
  primary key (prospect_id, tag_id)
);
create index prospect_tags_by_tag on prospect_tags (tag_id, prospect_id);

-- What was moved from the duplicate to the primary, so that it can be moved back.
create table merges (
  id uuid primary key,
  primary_id uuid not null references prospects,
  duplicate_id uuid not null references prospects check (duplicate_id <> primary_id),
  by_id uuid references users,
  at timestamptz(3) not null,
  moved jsonb not null,
  undone_at timestamptz(3)
);
create unique index merges_not_undone on merges (duplicate_id) where undone_at is null;
create index merges_latest on merges (at desc);

-- Pairs that a user found to be two people.
create table not_duplicates (
  one_id uuid not null references prospects on delete cascade,
  other_id uuid not null references prospects on delete cascade check (other_id > one_id),
  by_id uuid references users,
  at timestamptz(3) not null,
  primary key (one_id, other_id)
);

-- The rating of a score, by the team's thresholds.
create function rating_of(score int) returns text
language sql stable as $$
  select case
      when $1 >= hot_from then 'hot'
      when $1 >= warm_from then 'warm'
      when $1 > 0 then 'cold'
    end
  from team
$$;
create function rate_by_score() returns trigger
language plpgsql as $$
begin
  new.rating := rating_of(new.score);
  return new;
end $$;
create trigger prospects_rated before update of score, rated_by_score on prospects
  for each row
  when (new.rated_by_score and ((new.score, new.rated_by_score) is distinct from (old.score, old.rated_by_score)))
  execute function rate_by_score();
