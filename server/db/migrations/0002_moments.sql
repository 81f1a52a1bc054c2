-- Up Migration

-- The same moments, written with what PostgreSQL holds for immutable, so that it puts them into the queries that use
-- them: a function that calls something only stable is called row by row, which cost a fifth of logging an outcome.
create or replace function ms(moment timestamptz) returns bigint language sql immutable strict parallel safe as
$$ select (extract(epoch from moment - timestamptz '1970-01-01 00:00:00+00') * 1000)::bigint $$;
create or replace function from_ms(ms bigint) returns timestamptz(3) language sql immutable strict parallel safe as
$$ select to_timestamp(ms / 1000.0::double precision)::timestamptz(3) $$;

-- It reads a row, so it cannot be put into a query; this language at least keeps its plan from one call to the next.
create or replace function world_now() returns timestamptz(3) language plpgsql stable parallel safe as
$$ begin return (select coalesce(frozen_at, (clock_timestamp() + ahead)::timestamptz(3)) from clock); end $$;
