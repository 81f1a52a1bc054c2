-- Up Migration

-- A call block that was handed to a caller.
alter table notifications
  drop constraint notifications_kind_check,
  add constraint notifications_kind_check
    check (kind in ('reply', 'handed_over', 'call_block', 'outcome', 'email_failed', 'bulk', 'import'));
