-- Up Migration

-- What happens to a company is an event of its own. An event happens to a prospect, to a company, or to a company by
-- way of a prospect who is there.
alter table events add column company_id uuid;
alter table event_texts alter column prospect_id drop not null;
alter table events disable trigger events_append_only;
update events e
set company_id = f.entity_id
from effects f
where e.kind = 'companyStatusSet' and f.event_id = e.id and f.entity = 'company';
alter table events enable trigger events_append_only;
alter table events add constraint events_have_a_subject check (prospect_id is not null or company_id is not null);
create index events_by_company on events (company_id, at) where company_id is not null;
create index effects_by_company on effects (entity_id) where entity = 'company';

-- Positions are given before a transaction is committed, so a later one can be seen before an earlier one. Each writer of
-- events states first from which position on, by a lock that ends with the transaction: who reads the log in order stops
-- there, and misses none.
create unique index events_in_order on events (position);
create function event_positions_from() returns trigger
language plpgsql as $$
begin
  perform pg_advisory_xact_lock_shared(45, (case when is_called then last_value else 0 end)::bit(32)::int)
  from events_position_seq;
  return null;
end $$;
create trigger events_positions_from before insert on events
  for each statement execute function event_positions_from();

-- An id of version 7 (RFC 9562, 5.7): the time in milliseconds, and what is random. Rows that come together lie together
-- in their indexes.
create function new_id() returns uuid
language sql volatile as $$
  select encode(
    set_bit(
      set_bit(
        overlay(
          uuid_send(gen_random_uuid())
          placing substring(int8send((extract(epoch from clock_timestamp()) * 1000)::bigint) from 3)
          from 1 for 6
        ),
        52, 1
      ),
      53, 1
    ),
    'hex'
  )::uuid
$$;
