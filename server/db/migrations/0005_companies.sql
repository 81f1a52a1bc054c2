-- Up Migration

create table companies (
  id uuid primary key,
  name text not null,
  name_key text not null,
  domain text,
  status text not null default 'open'
    check (status in ('open', 'in_deal', 'customer', 'not_a_fit', 'do_not_contact')),
  country text,
  region text,
  city text,
  -- Written by the triggers below alone and never deleted from places, so that a foreign key would only cost every row.
  place_id int,
  industry text,
  size int check (size >= 0),
  custom jsonb not null default '{}' check (jsonb_typeof(custom) = 'object'),
  created_at timestamptz(3) not null,
  version int not null default 1
);
create unique index companies_by_domain on companies (domain) where domain is not null;
create index companies_by_name on companies (name_key text_pattern_ops);
create index companies_by_status on companies (status) where status <> 'open';
create index companies_by_place on companies (place_id) where place_id is not null;

create trigger companies_placed before insert on companies
  for each row when (new.city <> '') execute function find_place();
create trigger companies_moved before update of city, region, country on companies
  for each row when ((new.city, new.region, new.country) is distinct from (old.city, old.region, old.country))
  execute function find_place();

create table company_notes (
  id uuid primary key,
  company_id uuid not null references companies on delete cascade,
  user_id uuid references users,
  at timestamptz(3) not null,
  body text not null check (body <> '')
);
create index company_notes_by_company on company_notes (company_id, at);

create table company_links (
  id uuid primary key,
  company_id uuid not null references companies on delete cascade,
  url text not null check (url ~* '^https?://'),
  label text not null default '',
  position int not null
);
create index company_links_by_company on company_links (company_id, position);

-- What a company was also called, or also wrote from: a file that uses it means this company.
create table company_aliases (
  kind text not null check (kind in ('domain', 'name')),
  value text not null check (value <> ''),
  company_id uuid not null references companies on delete cascade,
  primary key (kind, value)
);
create index company_aliases_by_company on company_aliases (company_id);

-- Companies that were merged: the row that was deleted, and the ids of what moved, so that it can be undone.
create table company_merges (
  id uuid primary key,
  primary_id uuid not null,
  duplicate_id uuid not null,
  duplicate jsonb not null,
  moved jsonb not null,
  by_id uuid references users,
  at timestamptz(3) not null,
  undone_at timestamptz(3)
);
create index company_merges_by_duplicate on company_merges (duplicate_id) where undone_at is null;
create index company_merges_latest on company_merges (at desc) where undone_at is null;
