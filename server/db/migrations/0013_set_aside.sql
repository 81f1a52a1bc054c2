-- Up Migration

-- Due work that fails is tried three times and then set aside, so that it never stops the work beside it. `crashes`
-- counts how often a program ended while it had the entry in hand; such entries are handled one at a time.
alter table agenda
  add column failures int not null default 0,
  add column crashes int not null default 0,
  add column last_error text,
  add column set_aside_at timestamptz;
drop index agenda_next;
create index agenda_next on agenda (kind, at, ref_id) where set_aside_at is null;
create index agenda_set_aside on agenda (set_aside_at) where set_aside_at is not null;

-- Which entries each loop of each worker has in hand, so that it is known what a worker was doing when it ended.
create table work_in_hand (
  worker_id text not null,
  loop text not null,
  ref_ids uuid[] not null,
  primary key (worker_id, loop)
);

-- Where a worker runs, so that another program on the same machine can see at once that it has ended.
alter table worker_pools add column host text, add column process_id int;

-- An email is claimed (still queued), then handed over one of a few at a time (sending). When it was claimed, by the
-- machine's clock: a claim that is old is taken from a worker that does not answer.
-- `accepted_at` is when the mail server took it, until the engine has been told.
alter table messages add column claimed_at timestamptz, add column accepted_at timestamptz;
drop index messages_sending;
create index messages_claimed on messages (claimed_by) where claimed_by is not null;
-- Emails that wait for a person are found by the task about them: an index that asks for the state of every email would make sending slow.
create index tasks_about_email on tasks (message_id) where kind = 'check_mail' and state = 'open';

-- Email that came back to us, kept as it came until it has been read; set aside after the third failure.
create table incoming_email (
  id uuid primary key,
  message_ids uuid[] not null check (cardinality(message_ids) > 0),
  envelope_from text not null default '',
  raw bytea not null,
  received_at timestamptz not null default now(),
  attempts int not null default 0,
  retry_at timestamptz not null default now(),
  last_error text,
  set_aside_at timestamptz
);
alter table incoming_email alter column raw set storage external;
create index incoming_email_next on incoming_email (retry_at, id) where set_aside_at is null;

-- A claim ends with the email's time in the queue, whoever ends it.
create function end_claim() returns trigger language plpgsql as $$
begin
  new.claimed_by := null;
  new.claimed_at := null;
  return new;
end $$;
create trigger messages_claim_ended before update of state on messages for each row
  when (new.claimed_by is not null and new.state not in ('queued', 'sending')) execute function end_claim();

-- What an email that came back is (core/email/incoming).
alter table replies add column kind text not null default 'reply' check (kind in ('reply', 'automatic', 'bounce', 'delayed', 'receipt', 'complaint'));
update replies set kind = 'automatic' where automatic;
