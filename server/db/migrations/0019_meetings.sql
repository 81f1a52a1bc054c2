-- Meetings are held or not, and say where they are.
alter table appointments drop constraint appointments_state_check;
alter table appointments add constraint appointments_state_check check (state in ('booked', 'cancelled', 'held', 'no_show'));
alter table appointments add column place text check (length(place) <= 300);
