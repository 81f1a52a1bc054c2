-- Up Migration

-- What the team works before the rest of the queue, in order (core/queue/priorities).
alter table team add column queue_priorities jsonb not null default '[]'
  check (jsonb_typeof(queue_priorities) = 'array');
