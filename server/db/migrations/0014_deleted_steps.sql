-- Up Migration

-- The step that followed a deleted one when it was deleted; null after the last.
alter table cadence_steps add column followed_by uuid references cadence_steps;

-- Who did what in a day is asked every few seconds by every open Desk.
create index happenings_by_actor on happenings (actor_id, at) where actor_id is not null;
