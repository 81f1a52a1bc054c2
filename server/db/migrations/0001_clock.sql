-- Up Migration

-- The clock of this installation. Nothing that depends on the time of day reads now(): the demo moves this clock, tests
-- freeze it. `target` is where a moving clock is headed; a worker takes it there, stop by stop.
create table clock (
  only_row boolean primary key default true check (only_row),
  ahead interval not null default '0',
  frozen_at timestamptz(3),
  target timestamptz(3),
  started_at timestamptz(3) not null default clock_timestamp()
);
insert into clock default values;

-- It reads a row, so it cannot be inlined into a query; this language at least keeps its plan from one call to the next.
create function world_now() returns timestamptz(3)
language plpgsql stable parallel safe as $$
begin
  return (select coalesce(frozen_at, (clock_timestamp() + ahead)::timestamptz(3)) from clock);
end $$;

-- A moment as core counts it: whole milliseconds since 1970. Written with what PostgreSQL holds for immutable, so that
-- it is inlined: a function that calls something only stable is called row by row.
create function ms(moment timestamptz) returns bigint
language sql immutable strict parallel safe as $$
  select (extract(epoch from moment - timestamptz '1970-01-01 00:00:00+00') * 1000)::bigint
$$;
create function from_ms(ms bigint) returns timestamptz(3)
language sql immutable strict parallel safe as $$
  select to_timestamp(ms / 1000.0::double precision)::timestamptz(3)
$$;
