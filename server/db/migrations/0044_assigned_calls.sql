-- Up Migration

-- Calls that were assigned to a user.
alter table notifications
  drop constraint notifications_kind_check,
  add constraint notifications_kind_check check (
    kind in (
      'reply', 'handed_over', 'calls_assigned', 'call_block', 'outcome', 'email_failed', 'missed_call', 'bulk', 'import'
    )
  );
