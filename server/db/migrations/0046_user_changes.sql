-- Up Migration

-- A new or read notification, and a call that comes in, reach the browsers of those whom they concern at once. What is
-- said names the user; nothing for everyone.
create function say_notifications_changed() returns trigger
language plpgsql as $$
begin
  perform pg_notify('user_changed', 'notifications ' || user_id)
  from (select distinct user_id from changed) c;
  return null;
end $$;
create trigger notifications_added after insert on notifications
  referencing new table as changed
  for each statement execute function say_notifications_changed();
create trigger notifications_changed after update on notifications
  referencing new table as changed
  for each statement execute function say_notifications_changed();

create function say_incoming_calls_changed() returns trigger
language plpgsql as $$
begin
  perform pg_notify('user_changed', 'calls');
  return null;
end $$;
create trigger incoming_calls_changed after insert or update or delete on incoming_calls
  for each statement execute function say_incoming_calls_changed();
