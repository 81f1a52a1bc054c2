-- Up Migration

-- Whether a note is required with every attempt.
alter table team add column attempt_notes boolean not null default false;
-- Words a team has for how a call went, in the order they are offered; none where it does not ask.
alter table team add column call_qualities text[] not null default '{Good,Fair,Poor}'
  check (cardinality(call_qualities) <= 5);

-- How a call went, in one of the team's words of that day, and whether it succeeded; null where nobody said.
alter table touches
  add column quality text check (length(quality) <= 30),
  add column succeeded boolean;
