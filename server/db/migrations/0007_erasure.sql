-- Up Migration

-- How an erased person could be reached, as a fingerprint alone (SHA-256 with the team's own salt): it cannot be read
-- back, and a prospect who is added again with the same address or number is not emailed or called.
create table erased_contacts (
  fingerprint bytea primary key check (length(fingerprint) = 32)
);

create function contact_fingerprint(contact text) returns bytea
language sql stable as $$
  select sha256(convert_to(contact_salt::text || contact, 'UTF8'))
  from team
$$;

create function keep_erased_from_email() returns trigger
language plpgsql as $$
begin
  if not exists (select from erased_contacts) then
    return null;
  end if;
  update prospects p
  set stop_email = true
  from added a
  where p.id = a.prospect_id
    and not p.stop_email
    and exists (select from erased_contacts e where e.fingerprint = contact_fingerprint(a.address));
  return null;
end $$;
create trigger erased_addresses after insert on email_addresses
  referencing new table as added for each statement execute function keep_erased_from_email();
create trigger erased_addresses_changed after update on email_addresses
  referencing new table as added for each statement execute function keep_erased_from_email();

create function keep_erased_from_calls() returns trigger
language plpgsql as $$
begin
  if not exists (select from erased_contacts) then
    return null;
  end if;
  update phones n
  set status = 'do_not_call'
  from added a
  where n.id = a.id
    and n.status <> 'do_not_call'
    and exists (select from erased_contacts e where e.fingerprint = contact_fingerprint(a.number));
  return null;
end $$;
create trigger erased_numbers after insert on phones
  referencing new table as added for each statement execute function keep_erased_from_calls();
