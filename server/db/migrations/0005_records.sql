-- Up Migration

-- What a person's touches come to, beside the person, so that lists and orders read one row for each. Kept true by the
-- triggers on touches below, whoever writes them.
alter table prospects
  add column last_touch_at timestamptz(3), add column last_call_at timestamptz(3), add column last_text_at timestamptz(3),
  add column last_email_at timestamptz(3), add column last_reply_at timestamptz(3), add column last_meeting_at timestamptz(3),
  add column last_visit_at timestamptz(3), add column last_outcome_at timestamptz(3), add column last_outcome_id uuid,
  add column attempts int not null default 0, add column conversations int not null default 0;

create function touches_added() returns trigger language plpgsql as $$
begin
  update prospects p set last_touch_at = greatest(p.last_touch_at, a.last), last_call_at = greatest(p.last_call_at, a.call), last_text_at = greatest(p.last_text_at, a.text),
    last_email_at = greatest(p.last_email_at, a.email), last_reply_at = greatest(p.last_reply_at, a.reply), last_meeting_at = greatest(p.last_meeting_at, a.meeting),
    last_visit_at = greatest(p.last_visit_at, a.visit), attempts = p.attempts + a.attempts, conversations = p.conversations + a.conversations,
    last_outcome_id = case when p.last_outcome_at > a.outcome_at or a.outcome_at is null then p.last_outcome_id else a.outcome_id end, last_outcome_at = greatest(p.last_outcome_at, a.outcome_at)
  from (select prospect_id, max(at) as last, max(at) filter (where kind = 'call') as call, max(at) filter (where kind = 'text') as text, max(at) filter (where kind = 'email') as email,
      max(at) filter (where kind = 'reply') as reply, max(at) filter (where kind = 'meeting') as meeting, max(at) filter (where kind = 'visit') as visit,
      count(*) filter (where counts_as = 'attempt') as attempts, count(*) filter (where counts_as = 'conversation') as conversations,
      max(at) filter (where outcome_id is not null) as outcome_at, (array_agg(outcome_id order by at desc, id desc) filter (where outcome_id is not null))[1] as outcome_id
    from added group by prospect_id) a where p.id = a.prospect_id;
  return null;
end $$;

-- Works out anew what people's touches come to, for those who are given; everyone where null. Their rows are locked
-- first, so that what others are just writing is seen.
create function count_touches(ids uuid[]) returns void language plpgsql as $$
begin
  perform from prospects p where p.id = any(ids) order by p.id for no key update;
  update prospects p set last_touch_at = a.last, last_call_at = a.call, last_text_at = a.text, last_email_at = a.email, last_reply_at = a.reply, last_meeting_at = a.meeting, last_visit_at = a.visit,
    attempts = coalesce(a.attempts, 0), conversations = coalesce(a.conversations, 0), last_outcome_at = a.outcome_at, last_outcome_id = a.outcome_id
  from prospects q left join (select prospect_id, max(at) as last, max(at) filter (where kind = 'call') as call, max(at) filter (where kind = 'text') as text, max(at) filter (where kind = 'email') as email,
      max(at) filter (where kind = 'reply') as reply, max(at) filter (where kind = 'meeting') as meeting, max(at) filter (where kind = 'visit') as visit,
      count(*) filter (where counts_as = 'attempt') as attempts, count(*) filter (where counts_as = 'conversation') as conversations,
      max(at) filter (where outcome_id is not null) as outcome_at, (array_agg(outcome_id order by at desc, id desc) filter (where outcome_id is not null))[1] as outcome_id
    from touches where ids is null or prospect_id = any(ids) group by prospect_id) a on a.prospect_id = q.id
  where p.id = q.id and (ids is null or q.id = any(ids));
end $$;

create function touches_removed() returns trigger language plpgsql as $$
begin
  perform count_touches(array(select distinct prospect_id from gone));
  return null;
end $$;
create function touches_changed() returns trigger language plpgsql as $$
begin
  perform count_touches(array(select prospect_id from gone union select prospect_id from added));
  return null;
end $$;
create trigger touches_added after insert on touches referencing new table as added for each statement execute function touches_added();
create trigger touches_removed after delete on touches referencing old table as gone for each statement execute function touches_removed();
create trigger touches_changed after update on touches referencing old table as gone new table as added for each statement execute function touches_changed();
select count_touches(null);

-- Whoever wrote last comes first; whoever was longest left alone.
create index prospects_by_last_reply on prospects (last_reply_at desc nulls last, id desc) where last_reply_at is not null;
create index prospects_by_silence on prospects (last_touch_at, id);
-- In the order in which promises fall due, for the two usual ways of counting touches.
create index prospects_by_contact on prospects (coalesce(greatest(last_call_at, last_text_at, last_email_at, last_meeting_at), created_at), id);
create index prospects_by_talk on prospects (coalesce(greatest(last_call_at, last_text_at), created_at), id);
create index companies_apart on companies (standing) where standing <> 'open';

-- Two rows that are one person: the one that went lies behind the one that was kept, with nothing of its own left; what
-- moved is written down, so that it can be moved back.
alter table prospects add column merged_into uuid references prospects check (merged_into <> id);
create index prospects_merged on prospects (merged_into) where merged_into is not null;
create table merges (
  id uuid primary key,
  kept_id uuid not null references prospects,
  gone_id uuid not null references prospects check (gone_id <> kept_id),
  by_id uuid references users,
  at timestamptz(3) not null,
  moved jsonb not null,
  undone_at timestamptz(3)
);
create unique index merges_standing on merges (gone_id) where undone_at is null;
create index merges_latest on merges (at desc);
-- Pairs somebody has looked at and found to be two people.
create table told_apart (
  one_id uuid not null references prospects on delete cascade,
  other_id uuid not null references prospects on delete cascade check (other_id > one_id),
  by_id uuid references users,
  at timestamptz(3) not null,
  primary key (one_id, other_id)
);

-- What the team says of a number beside its standing ("direct line", "assistant").
alter table phones add column tags text[] not null default '{}';
-- Whether somebody has said where a person's clock stands; else it follows their address, then their number.
alter table prospects add column zone_by_hand boolean not null default false;
-- Which kinds of mail a person takes.
alter table prospects add column mail_choices text[] not null default '{one_to_one,marketing,requested}' check (mail_choices <@ '{one_to_one,marketing,requested}');

create table company_notes (
  id uuid primary key,
  company_id uuid not null references companies on delete cascade,
  user_id uuid references users,
  at timestamptz(3) not null,
  body text not null check (body <> '')
);
create index company_notes_by_company on company_notes (company_id, at);
create table company_links (
  id uuid primary key,
  company_id uuid not null references companies on delete cascade,
  url text not null check (url ~* '^https?://'),
  says text not null default '',
  position int not null
);
create index company_links_by_company on company_links (company_id, position);

-- Where people come from: what it cost, and the other names it goes by in files.
create table sources (
  name text primary key check (name <> ''),
  cost numeric(14, 2) not null default 0 check (cost >= 0),
  aliases text[] not null default '{}'
);
create unique index sources_by_name on sources (lower(name));
insert into sources (name) select distinct on (lower(source)) source from prospects where coalesce(source, '') <> '' order by lower(source), source;

-- How the columns of a kind of file are read, kept under a name.
create table import_mappings (
  id uuid primary key,
  name text not null check (name <> ''),
  headings text[] not null,
  mapping jsonb not null,
  created_at timestamptz(3) not null
);
create unique index import_mappings_by_name on import_mappings (lower(name));

-- Somebody's own contacts, brought in by file: known before, so never new.
alter table prospects add column own_contact boolean not null default false;
alter table imports add column own_contacts boolean not null default false;

-- What a row brings beyond the usual columns: values of own fields, tags, lists, past touches.
alter table import_rows add column extra jsonb, add column postal_code text;

-- A rep's own people, newest first.
drop index prospects_by_owner;
create index prospects_by_owner on prospects (owner_id, created_at desc, id desc) where owner_id is not null;

-- Mail to many: a template filled in for each when it leaves, with the way out that every such mail has.
alter table messages drop constraint messages_kind_check;
alter table messages add constraint messages_kind_check check (kind in ('step', 'personal', 'invitation', 'bulk'));
