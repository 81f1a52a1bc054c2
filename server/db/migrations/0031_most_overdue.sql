-- Up Migration

-- With more overdue than this, nobody new is assigned to a rep; null: no limit. That there is a limit is common practice,
-- without a published source; the number is ours.
alter table team
  add column most_overdue int default 30 check (most_overdue > 0);
