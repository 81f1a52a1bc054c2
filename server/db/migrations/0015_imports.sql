-- Up Migration

create table imports (
  id uuid primary key,
  user_id uuid not null references users,
  file_name text not null,
  status text not null
    check (status in ('uploading', 'uploaded', 'checking', 'checked', 'writing', 'done', 'failed')),
  bytes bigint not null default 0,
  dialect jsonb,
  headings text[],
  samples jsonb,
  mapping jsonb,
  date_order text not null default 'month' check (date_order in ('month', 'day')),
  known_action text not null default 'skip' check (known_action in ('skip', 'fill', 'overwrite')),
  own_contacts boolean not null default false,
  owner_id uuid references users,
  owner_ids uuid[] not null default '{}',
  -- What holds for the whole file.
  whole jsonb not null default '{}' check (jsonb_typeof(whole) = 'object'),
  counts jsonb not null default '{}',
  progress int not null default 0,
  problem text,
  created_at timestamptz(3) not null,
  version int not null default 1
);

create table import_chunks (
  import_id uuid not null references imports on delete cascade,
  seq int not null,
  bytes bytea not null,
  primary key (import_id, seq)
);
-- Written once, read once and deleted: compressing it costs more than it saves.
alter table import_chunks alter column bytes set storage external;

-- Rows of a file, read and checked, before anything is written. Lost with a crash, and made again.
create unlogged table import_rows (
  import_id uuid not null,
  row_no int not null,
  -- The row as it stood in the file; kept only where it is invalid, to be handed back.
  cells jsonb,
  error text,
  -- What was left out of a row that was taken.
  dropped text,
  new_id uuid not null default gen_random_uuid(),
  merged_into int,
  first_name text,
  last_name text,
  name_key text,
  title text,
  company text,
  company_key text,
  domain text,
  email text,
  phone text,
  mobile text,
  country text,
  region text,
  city text,
  postal_code text,
  time_zone text,
  time_zone_from text,
  source text,
  note text,
  -- What a row has beyond the usual columns: values of custom fields, tags, lists, past touches.
  extra jsonb,
  primary key (import_id, row_no)
);

-- How the columns of one kind of file are mapped, saved under a name.
create table import_mappings (
  id uuid primary key,
  name text not null check (name <> ''),
  headings text[] not null,
  mapping jsonb not null,
  created_at timestamptz(3) not null
);
create unique index import_mappings_by_name on import_mappings (lower(name));
