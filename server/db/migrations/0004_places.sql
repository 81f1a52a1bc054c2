-- Up Migration

-- The gazetteer: towns of the world and where they lie (longitude, latitude in degrees). Filled once, from the package
-- it ships in.
create function place_key(name text) returns text
language sql immutable parallel safe as $$
  select btrim(
    regexp_replace(
      translate(
        replace(
          replace(regexp_replace(normalize(lower(name), nfd), '[\u0300-\u036f]', '', 'g'), 'ß', 'ss'),
          'æ',
          'ae'
        ),
        'øłđı',
        'oldi'
      ),
      '[^[:alnum:]]+',
      ' ',
      'g'
    )
  )
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

-- The most populous town of the name in the region and country (arguments by number: the columns have the same names).
-- Where the region's names are known, it must be one of them; without a region, the country must be given.
create function place_of(city text, region text, country text) returns int
language sql stable parallel safe as $$
  select x.id
  from places x
  where x.name_key = place_key($1)
    and (coalesce($3, '') = '' or x.country = upper($3))
    and (
      case
        when coalesce($2, '') = '' or x.region_keys = '{}' then coalesce($3, '') <> ''
        else place_key($2) = any(x.region_keys)
      end
    )
  order by x.population desc, x.id
  limit 1
$$;

-- The distance over the ground between two positions, in kilometers (the haversine formula on a sphere of the mean
-- radius).
create function km_between(a point, b point) returns float8
language sql immutable parallel safe as $$
  select 2 * 6371.0088 * asin(
    sqrt(
      least(
        1,
        power(sin(radians(b[1] - a[1]) / 2), 2)
          + cos(radians(a[1])) * cos(radians(b[1])) * power(sin(radians(b[0] - a[0]) / 2), 2)
      )
    )
  )
$$;

-- Finds where a row is from its address whenever that changes, by any program.
create function find_place() returns trigger
language plpgsql as $$
begin
  new.place_id := place_of(new.city, new.region, new.country);
  return new;
end $$;
