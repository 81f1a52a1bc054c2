-- Up Migration

-- What says that a person's zone is theirs (core/places): it was given, the address decides it, the area of a number does,
-- or it is a guess; then they are called only inside hours that are right in every zone that is possible.
alter table prospects add column zone_from text not null default 'given' check (zone_from in ('given', 'address', 'number', 'guess'));
update prospects set zone_from = case when zone_by_hand then 'given' when country is not null then 'address' else 'guess' end;
alter table import_rows add column zone_from text;
