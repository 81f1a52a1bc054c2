-- What was left out of a row that was taken, and what holds for a whole file.
alter table import_rows add column dropped text;
alter table imports
  add column date_order text not null default 'month' check (date_order in ('month', 'day')),
  add column whole jsonb not null default '{}' check (jsonb_typeof(whole) = 'object'),
  add column owner_ids uuid[] not null default '{}';
