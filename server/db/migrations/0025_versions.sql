-- Up Migration

-- Other texts of a step, which some prospects get in place of its own: up to three, each with its weight. `weight` is
-- that of the step's own text.
alter table cadence_steps
  add column weight int not null default 1 check (weight between 0 and 100),
  add column versions jsonb not null default '[]' check (jsonb_typeof(versions) = 'array');
-- Which version an email is: the step's own id for its own text. It stays, whatever becomes of the weights.
alter table email_messages add column version_id uuid;
create index email_messages_by_version on email_messages (step_id, prospect_id) where version_id is not null;
