-- Up Migration

-- What is done with prospects behind the last step of a cadence: actions as outcomes have them (core/actions).
alter table cadences add column after_last jsonb not null default '[]';
