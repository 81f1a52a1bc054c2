-- Up Migration

-- Emails that are no part of anybody's history: one to oneself, to see how it looks; one to an address of our own, which
-- shows that email leaves and comes back; an invitation to the team. The text is kept until it is sent. Times are the machine's.
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
