-- A paused cadence takes no steps and sends none of its email until it is resumed.
alter table cadences drop constraint cadences_state_check;
alter table cadences add constraint cadences_state_check check (state in ('draft', 'active', 'paused', 'archived'));
