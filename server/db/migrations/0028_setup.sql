-- Up Migration

-- What ends an email in a user's name, and whether they have put the guide of their first day away.
alter table users
  add column signature text not null default '' check (length(signature) <= 2000),
  add column setup_hidden_at timestamptz;

-- When the team's settings were first saved by somebody.
alter table team add column saved_at timestamptz;
