-- People who are new wait for a first contact, behind what is due.
alter table tasks drop constraint tasks_kind_check;
alter table tasks add constraint tasks_kind_check
  check (kind in ('first_contact', 'call', 'task', 'call_back', 'reply', 'follow_up', 'check_mail', 'meeting_result'));
alter table tasks drop constraint tasks_lane_check;
alter table tasks add constraint tasks_lane_check check (lane between 0 and 3);

-- When somebody who did not answer is called again, and whether attempts count without a call.
alter table team add column retry_days int not null default 2 check (retry_days between 1 and 60);
alter table team add column counts_uncalled boolean not null default false;

-- The event by which the outcome of a call was logged; null while it has none.
alter table calls add column logged_by uuid;
create index calls_without_outcome on calls (user_id, started_at) where logged_by is null;
