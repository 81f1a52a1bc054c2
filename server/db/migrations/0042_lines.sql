-- Up Migration

-- Several lines at once: how many are dialed for each caller of a block at most, what someone hears who answers while no
-- caller is free, and whether voicemail boxes get the caller's message. Blocks of one campaign are counted together.
alter table call_blocks
  add column lines int not null default 1 check (lines between 1 and 3),
  add column campaign text check (length(campaign) between 1 and 120),
  add column call_back_message text not null default '' check (length(call_back_message) <= 500),
  add column leaves_messages boolean not null default false,
  add constraint call_blocks_lines_message check (lines = 1 or call_back_message <> '');
update call_blocks
set campaign = name;
alter table call_blocks
  alter column campaign set not null;

-- Whom to call first: they answered, and no caller was free.
alter table call_block_people
  add column answered_at timestamptz(3);

-- What a call of several lines is in: `dialing` until the exchange has it, `ringing` until it ends or is answered;
-- `connected` once a caller is on the line. The others are how it ended; `failed` where the exchange did not take it.
alter table calls
  add column block_id uuid references call_blocks on delete set null,
  add column campaign text,
  add column line_status text check (
    line_status in (
      'dialing', 'ringing', 'connected', 'completed', 'abandoned', 'no_answer', 'busy', 'rejected', 'voicemail',
      'message_left', 'not_in_service', 'failed'
    )
  ),
  add column answered_at timestamptz(3),
  add column connected_at timestamptz(3),
  add constraint calls_of_lines check (line_status is null or campaign is not null);
create index calls_by_campaign on calls (lower(campaign), started_at) where campaign is not null;
create index calls_of_block on calls (block_id, started_at) where block_id is not null;
create index calls_under_way on calls (block_id) where line_status in ('dialing', 'ringing', 'connected');

-- A caller's sitting while lines are dialed for them: since when they wait for a call, and which they have.
alter table call_block_sittings
  add column lines_on boolean not null default false,
  add column waiting_since timestamptz,
  add column call_id uuid references calls on delete set null,
  add constraint call_block_sittings_waiting check (waiting_since is null or (lines_on and call_id is null));

-- The outcome that is logged by itself where a call of several lines ends without a person.
create table line_outcomes (
  result text primary key check (
    result in ('no_answer', 'busy', 'rejected', 'voicemail', 'message_left', 'not_in_service')
  ),
  outcome_id uuid not null references outcomes
);
insert into line_outcomes (result, outcome_id)
select distinct on (r.result) r.result, o.id
from (
  values
    ('no_answer', 'No answer'), ('busy', 'Busy'), ('rejected', 'No answer'), ('voicemail', 'No answer'),
    ('message_left', 'Left voicemail'), ('not_in_service', 'Wrong number')
) as r(result, name)
  join outcomes o on o.name = r.name and o.archived_at is null
order by r.result, o.position;
