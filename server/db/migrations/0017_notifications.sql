-- Up Migration

-- What a user is to know of: replies, prospects handed to them, what an outcome says, emails that could not go, and what
-- long work came to. Ids and codes alone; the sentence is made when it is read.
create table notifications (
  id uuid primary key,
  -- The order in which they were made.
  position bigint not null generated always as identity,
  user_id uuid not null references users on delete cascade,
  kind text not null check (kind in ('reply', 'handed_over', 'outcome', 'email_failed', 'bulk', 'import')),
  -- The prospect it is about; null for what is about many.
  prospect_id uuid references prospects on delete cascade,
  -- The outcome, the bulk action or the import.
  ref_id uuid,
  -- Who did it; null for the prospect or the system.
  by_id uuid references users,
  -- How many prospects it is about.
  count int not null default 1 check (count >= 1),
  at timestamptz(3) not null,
  read_at timestamptz(3),
  emailed_at timestamptz(3)
);
create index notifications_by_user on notifications (user_id, position);
create index notifications_unread on notifications (user_id) where read_at is null;

alter table users add column notify_by_email boolean not null default false;

alter table system_emails
  drop constraint system_emails_kind_check,
  add constraint system_emails_kind_check check (kind in ('test', 'round_trip', 'invite', 'notifications'));

-- Down Migration
