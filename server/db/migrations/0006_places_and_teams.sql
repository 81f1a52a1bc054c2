-- Up Migration

-- The gazetteer: towns of the world and where they lie (longitude, latitude in degrees). Filled once, from the package it ships in.
create function place_key(name text) returns text language sql immutable parallel safe as $$
  select btrim(regexp_replace(translate(replace(replace(regexp_replace(normalize(lower(name), nfd), '[\u0300-\u036f]', '', 'g'), 'ß', 'ss'), 'æ', 'ae'), 'øłđı', 'oldi'), '[^[:alnum:]]+', ' ', 'g'))
$$;
create table places (
  id int primary key,
  name text not null,
  name_key text not null generated always as (place_key(name)) stored,
  country text not null check (country ~ '^[A-Z]{2}$'),
  region text,
  -- Under which names its region is known; empty where that is not known.
  region_keys text[] not null default '{}',
  population int not null,
  position point not null check (position[0] between -180 and 180 and position[1] between -90 and 90)
);
create index places_by_name on places (name_key text_pattern_ops, population desc);
create index places_by_position on places using gist (position);

-- The most populous town (arguments by number: the columns are of the same names) of the name in the region and country. Where the region's names are known, it must be one of them; without a country, it must be said.
create function place_of(city text, region text, country text) returns int language sql stable parallel safe as $$
  select x.id from places x
  where x.name_key = place_key($1) and (coalesce($3, '') = '' or x.country = upper($3))
    and (case when coalesce($2, '') = '' or x.region_keys = '{}' then coalesce($3, '') <> '' else place_key($2) = any(x.region_keys) end)
  order by x.population desc, x.id limit 1
$$;

-- The way over the ground between two positions, in kilometers (the haversine formula on a sphere of the mean radius).
create function km_between(a point, b point) returns float8 language sql immutable parallel safe as $$
  select 2 * 6371.0088 * asin(sqrt(least(1, power(sin(radians(b[1] - a[1]) / 2), 2) + cos(radians(a[1])) * cos(radians(b[1])) * power(sin(radians(b[0] - a[0]) / 2), 2))))
$$;

-- Where people and companies are: found from the address whenever that changes, whoever changes it. Written by these
-- triggers alone and never taken from places, so that a foreign key would only cost every row of a file.
alter table companies add column place_id int;
alter table prospects add column place_id int;
create function find_place() returns trigger language plpgsql as $$
begin
  new.place_id := place_of(new.city, new.region, new.country);
  return new;
end $$;
create trigger prospects_placed before insert on prospects for each row when (new.city <> '') execute function find_place();
create trigger prospects_moved before update of city, region, country on prospects for each row
  when ((new.city, new.region, new.country) is distinct from (old.city, old.region, old.country)) execute function find_place();
create trigger companies_placed before insert on companies for each row when (new.city <> '') execute function find_place();
create trigger companies_moved before update of city, region, country on companies for each row
  when ((new.city, new.region, new.country) is distinct from (old.city, old.region, old.country)) execute function find_place();
create index prospects_by_place on prospects (place_id) where place_id is not null;
create index companies_by_place on companies (place_id) where place_id is not null;

-- Who works together: the name of their team, the same for all of it. A list can be for one of these.
alter table users add column team text check (team <> '');
alter table lists add column team text check (team <> '');
alter table lists drop constraint lists_audience_check;
alter table lists add constraint lists_audience_check check (audience in ('me', 'named', 'team', 'everyone') and (audience = 'team') = (team is not null));
-- How a list is told when it is opened: by person, by company, or on the map.
alter table lists add column told_by text not null default 'people' check (told_by in ('people', 'companies', 'map'));

-- Of which kind mail to many is: asked again when it leaves, for somebody may have changed their mind.
alter table messages add column mail_kind text check (mail_kind in ('one_to_one', 'marketing', 'requested'));
