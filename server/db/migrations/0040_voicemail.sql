-- Up Migration

-- The messages a user leaves in voicemail boxes, recorded or uploaded by them.
create table voicemail_messages (
  id uuid primary key,
  user_id uuid not null references users on delete cascade,
  name text not null check (length(btrim(name)) between 1 and 60),
  -- The first is the one that the key leaves.
  position int not null check (position >= 0),
  media_type text not null check (media_type in ('audio/wav', 'audio/ogg')),
  seconds double precision not null check (seconds > 0 and seconds <= 60),
  content bytea not null check (length(content) <= 12000000),
  created_at timestamptz(3) not null,
  constraint voicemail_messages_by_user unique (user_id, position) deferrable
);

-- The message that was left with a call.
alter table calls
  add column voicemail_id uuid references voicemail_messages on delete set null,
  add column voicemail_at timestamptz(3);
create index calls_by_voicemail on calls (voicemail_id) where voicemail_id is not null;
