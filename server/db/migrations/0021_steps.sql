-- Up Migration

-- Steps that are texts, social touches and meetings, and emails that wait for their rep; each is work of its own kind.
alter table cadence_steps
  drop constraint cadence_steps_kind_check,
  add constraint cadence_steps_kind_check
    check (kind in ('email', 'call', 'text', 'social', 'task', 'meeting', 'branch')),
  -- The time of day a wait in days ends at, in minutes since midnight where the prospect is.
  add column wait_at int
    check (wait_at is null or wait_at between 0 and 1439 and wait_unit not in ('minutes', 'hours')),
  -- Of an email: whether its rep looks at it and sends it.
  add column review boolean not null default false,
  -- Of a social touch: where it is made.
  add column link text not null default '';
alter table tasks
  drop constraint tasks_kind_check,
  add constraint tasks_kind_check
    check (
      kind in (
        'first_contact', 'call', 'task', 'call_back', 'reply', 'follow_up', 'email', 'text', 'social', 'meeting',
        'check_mail', 'meeting_result'
      )
    );
alter table touches
  drop constraint touches_kind_check,
  add constraint touches_kind_check
    check (kind in ('call', 'text', 'email', 'reply', 'meeting', 'social', 'task', 'visit'));
-- Whether the text of a step's email is the rep's own: then nothing is filled in when it leaves.
alter table email_messages add column written boolean not null default false;
