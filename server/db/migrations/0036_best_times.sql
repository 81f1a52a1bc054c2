-- Up Migration

-- What the calls of the last year came to, by kind of company and by hour of the week where the people called are: what
-- the best time to call is learned from. A job works it out anew every hour.
create table call_hours (
  -- The company's industry in lower case; '' where it is not known.
  industry text not null,
  weekday int not null check (weekday between 1 and 7),
  hour int not null check (hour between 0 and 23),
  calls int not null check (calls > 0),
  reached int not null check (reached between 0 and calls),
  learned_at timestamptz not null,
  primary key (industry, weekday, hour)
);

alter table call_blocks
  drop constraint call_blocks_sort_check,
  add constraint call_blocks_sort_check check (sort in ('list', 'score', 'untried', 'likely'));
