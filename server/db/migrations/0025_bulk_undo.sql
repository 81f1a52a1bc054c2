-- Up Migration

-- What a bulk action changed of each person ({"owner_id": [before, after]}), or the events it was done by: with these it is
-- undone as a whole. `kept` is what an undo has left as it is.
alter table bulk_people
  add column changes jsonb,
  add column events uuid[],
  add column kept text;

-- A bulk action is undone once.
create unique index bulk_actions_undone on bulk_actions ((action ->> 'actionId')) where action ->> 'do' = 'undo';
