-- Up Migration

-- One action on many prospects: whom it changes and whom it skips with the reason, both kept.
create table bulk_actions (
  id uuid primary key,
  user_id uuid not null references users,
  action jsonb not null,
  -- Whom it was asked for, in words.
  about text not null,
  status text not null check (status in ('waiting', 'running', 'done')),
  touches int not null default 0,
  done int not null default 0,
  at timestamptz(3) not null,
  ended_at timestamptz(3)
);
create index bulk_actions_latest on bulk_actions (user_id, at desc);
-- A bulk action is undone once.
create unique index bulk_actions_undone on bulk_actions ((action ->> 'actionId')) where action ->> 'type' = 'undo';

create table bulk_people (
  action_id uuid not null references bulk_actions on delete cascade,
  prospect_id uuid not null references prospects on delete cascade,
  -- Their place, for what goes in turn.
  place int not null,
  -- Why they are skipped; null for those who are changed.
  reason text,
  done boolean not null default false,
  -- What was changed of each ({"owner_id": [before, after]}), or the events it was done by: with these it is undone as a
  -- whole. `unchanged` is what an undo has left as it is.
  changes jsonb,
  events uuid[],
  unchanged text,
  primary key (action_id, prospect_id)
);
create index bulk_people_open on bulk_people (action_id, place) where reason is null and not done;
