-- Up Migration

-- A text from a number that nobody here has.
alter table notifications
  drop constraint notifications_kind_check,
  add constraint notifications_kind_check check (
    kind in (
      'reply', 'handed_over', 'calls_assigned', 'call_block', 'outcome', 'email_failed', 'missed_call', 'unknown_text',
      'bulk', 'import'
    )
  );

-- Texts that came from a number before anyone had it are those of the prospect who gets it.
create function take_texts() returns trigger
language plpgsql as $$
begin
  update text_messages m
  set prospect_id = n.prospect_id, phone_id = n.id
  from changed n
  where m.number = n.number and m.prospect_id is null;
  return null;
end $$;
create trigger phones_added_take_texts after insert on phones
  referencing new table as changed
  for each statement execute function take_texts();
create trigger phones_changed_take_texts after update on phones
  referencing new table as changed
  for each statement execute function take_texts();
-- Also where an import puts off what follows from rows.
alter table phones enable always trigger phones_added_take_texts;
