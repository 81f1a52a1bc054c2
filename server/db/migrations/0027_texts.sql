-- Up Migration

-- Whether a number may be sent texts: its person agreed, wants none (a rep was told so), or said STOP, which only START
-- lifts.
alter table phones
  add column text_consent text not null default 'unknown'
    check (text_consent in ('unknown', 'given', 'declined', 'stopped'));

-- Numbers that said STOP: a prospect who gets one later gets it with that.
create table text_stops (
  number text primary key,
  at timestamptz(3) not null
);
create function keep_text_stop() returns trigger
language plpgsql as $$
begin
  if exists (select from text_stops s where s.number = new.number) then
    new.text_consent := 'stopped';
  end if;
  return new;
end $$;
create trigger phones_text_stop before insert or update of number on phones
  for each row execute function keep_text_stop();
alter table phones enable always trigger phones_text_stop;

-- Text messages that went over the gateway, out and in. Without a prospect: from a number that nobody here has. Without
-- a user, one that is sent by itself: the answer to STOP, START and HELP.
create table text_messages (
  id uuid primary key,
  prospect_id uuid references prospects,
  phone_id uuid references phones,
  number text not null,
  direction text not null check (direction in ('out', 'in')),
  body text not null,
  status text not null check (status in ('queued', 'sent', 'delivered', 'failed', 'received')),
  user_id uuid references users,
  at timestamptz(3) not null,
  error text,
  constraint text_messages_check check ((direction = 'in') = (status = 'received'))
);
create index text_messages_by_prospect on text_messages (prospect_id, at);
create index text_messages_by_number on text_messages (number, at);
