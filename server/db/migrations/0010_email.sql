-- Up Migration

-- An email is claimed (still queued), then handed over one of a few at a time (sending). `claimed_at` is by the machine's
-- clock: a claim that is old is taken from a worker that does not answer. `accepted_at` is when the mail server took it,
-- until the engine has recorded that.
create table email_messages (
  id uuid primary key,
  prospect_id uuid not null references prospects,
  kind text not null check (kind in ('step', 'personal', 'invitation', 'bulk')),
  -- The type of an email to many: checked again when it leaves, for the prospect may have opted out of it.
  email_type text check (email_type in ('one_to_one', 'marketing', 'requested')),
  enrollment_id uuid references enrollments,
  step_id uuid references cadence_steps,
  meeting_id uuid,
  email_address_id uuid not null references email_addresses,
  sender_id uuid references users,
  status text not null
    check (status in ('queued', 'sending', 'sent', 'unconfirmed', 'failed', 'held', 'cancelled')),
  send_at timestamptz(3) not null,
  sent_at timestamptz(3),
  -- Written with the email (personal), or filled in from the step when it leaves.
  subject text,
  body text,
  header_id text unique,
  in_reply_to text,
  attempts int not null default 0,
  last_error text,
  claimed_by text,
  claimed_at timestamptz,
  accepted_at timestamptz,
  -- Whether the sender's cap and spacing have given it its moment.
  slotted boolean not null default false,
  opened_at timestamptz(3),
  opens int not null default 0,
  constraint email_messages_check check ((kind = 'step') = (enrollment_id is not null and step_id is not null))
);
-- Once per enrollment and step, whatever crashes or runs twice.
create unique index email_messages_once on email_messages (enrollment_id, step_id) where enrollment_id is not null;
create index email_messages_by_prospect on email_messages (prospect_id);
create index email_messages_claimed on email_messages (claimed_by) where claimed_by is not null;

-- A claim ends with the email's time in the queue, however that ends.
create function end_claim() returns trigger
language plpgsql as $$
begin
  new.claimed_by := null;
  new.claimed_at := null;
  return new;
end $$;
create trigger email_messages_claim_ended before update of status on email_messages
  for each row when (new.claimed_by is not null and new.status not in ('queued', 'sending'))
  execute function end_claim();

-- What a sender has used of the day's cap, and when the last slot was given. Locked while slots are given.
create table email_senders (
  user_id uuid primary key references users on delete cascade,
  day date,
  given int not null default 0,
  last_slot_at timestamptz(3)
);

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
-- Written once, read once and deleted: compressing it costs more than it saves.
alter table incoming_email alter column raw set storage external;
create index incoming_email_next on incoming_email (retry_at, id) where set_aside_at is null;

-- `kind`: what an email that came back is (core/email/incoming).
create table replies (
  id uuid primary key,
  prospect_id uuid not null references prospects,
  message_id uuid references email_messages,
  header_id text unique,
  kind text not null default 'reply'
    check (kind in ('reply', 'automatic', 'bounce', 'delayed', 'receipt', 'complaint')),
  automatic boolean not null default false,
  subject text not null default '',
  body text not null default '',
  received_at timestamptz(3) not null
);
create index replies_by_prospect on replies (prospect_id, received_at);

-- Emails that are no part of a prospect's activity: a test to oneself; one to an address of our own, which shows that
-- email leaves and comes back; an invitation to the team. The text is kept until it is sent. Times are the machine's.
create table system_emails (
  id uuid primary key,
  -- Who asked for it; it is sent in their name.
  user_id uuid not null references users,
  kind text not null check (kind in ('test', 'round_trip', 'invite')),
  to_address text not null,
  subject text not null,
  body text not null,
  asked_at timestamptz(3) not null default now(),
  sent_at timestamptz(3),
  returned_at timestamptz(3),
  error text
);
create index system_emails_returned on system_emails (returned_at) where kind = 'round_trip';
