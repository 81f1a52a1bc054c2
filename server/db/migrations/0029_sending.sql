-- Up Migration

-- When email of cadences may go out, by name: minutes after midnight on ISO weekdays, by the prospect's or the sender's
-- clock, closed on the holidays of one of them or on none.
create table sending_windows (
  id uuid primary key,
  name text not null check (name <> ''),
  days int[] not null check (cardinality(days) > 0 and days <@ '{1,2,3,4,5,6,7}'),
  opens int not null,
  closes int not null,
  clock text not null default 'prospect' check (clock in ('prospect', 'sender')),
  holidays text not null default 'prospect' check (holidays in ('prospect', 'team', 'none')),
  -- The one of cadences that name none.
  is_default boolean not null default false,
  version int not null default 1,
  constraint sending_windows_hours check (opens >= 0 and opens < closes and closes <= 1440)
);
create unique index sending_windows_by_name on sending_windows (lower(name));
create unique index sending_windows_default on sending_windows (is_default) where is_default;

insert into sending_windows (id, name, days, opens, closes, is_default)
values (gen_random_uuid(), 'Business hours', '{1,2,3,4,5}', 480, 1020, true);

-- The hours that cadences had until now, each kept once.
insert into sending_windows (id, name, days, opens, closes)
select
  gen_random_uuid(),
  to_char(make_interval(mins => h.opens), 'FMHH24:MI') || '–' || to_char(make_interval(mins => h.closes), 'FMHH24:MI')
    || case when h.days = '{1,2,3,4,5}' then '' else ' on days ' || array_to_string(h.days, ', ') end,
  h.days, h.opens, h.closes
from (select distinct window_days as days, window_from as opens, window_to as closes from cadences) h
where (h.days, h.opens, h.closes) <> ('{1,2,3,4,5}'::int[], 480, 1020);

create function default_window_id() returns uuid
language sql stable as $$
  select id
  from sending_windows
  where is_default
$$;

alter table cadences
  add column window_id uuid references sending_windows default default_window_id();
update cadences c
set window_id = w.id
from sending_windows w
where (w.days, w.opens, w.closes) = (c.window_days, c.window_from, c.window_to);
alter table cadences
  alter column window_id set not null,
  drop constraint cadences_check,
  drop column window_days,
  drop column window_from,
  drop column window_to;
create index cadences_by_window on cadences (window_id);

-- How a user's email is sent. The pause between two emails is the spacing and, by chance, up to `jitter` percent more.
-- `email_ramp_first` and `email_ramp_more`: a slow start, so many on the first day of sending, so many more on each day
-- after it, until the cap.
alter table users
  add column email_jitter int not null default 0 check (email_jitter between 0 and 200),
  add column email_domain_cap int check (email_domain_cap > 0),
  add column email_ramp_first int check (email_ramp_first > 0),
  add column email_ramp_more int check (email_ramp_more > 0),
  add constraint users_ramp check ((email_ramp_first is null) = (email_ramp_more is null));

alter table email_senders
  add column days_sent int not null default 0,
  -- What was given on `day`, by receiving domain.
  add column domains jsonb not null default '{}';

-- What an email in the queue waits for; null while nothing has put it off.
alter table email_messages
  add column waits_for text check (waits_for in ('window', 'cap', 'domain', 'spacing'));

-- When an email that found no room was due at first: it goes before what comes due at the same time.
alter table scheduled_actions
  add column first_at timestamptz(3);
drop index scheduled_actions_next;
create index scheduled_actions_next on scheduled_actions (kind, at, first_at, ref_id) where set_aside_at is null;
