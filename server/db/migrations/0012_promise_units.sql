-- Up Migration

-- A promise is made in days, weeks or months of the calendar: "every 3 months" is no number of days.
alter table lists rename column touch_every_days to touch_every;
alter table lists add column touch_unit text not null default 'days' check (touch_unit in ('days', 'weeks', 'months'));
