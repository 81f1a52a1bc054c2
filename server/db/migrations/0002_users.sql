-- Up Migration

create table users (
  id uuid primary key,
  email text not null unique check (email = lower(email) and email like '%_@_%'),
  name text not null check (name <> ''),
  role text not null check (role in ('rep', 'manager', 'admin')),
  -- Who works together: the name of their team, the same for all of it. A list can be for one of these.
  team text check (team <> ''),
  time_zone text not null,
  -- How the user reads dates and times.
  date_style text not null default 'us' check (date_style in ('us', 'us_24', 'day_first')),
  active boolean not null default true,
  password_hash text not null,
  must_change_password boolean not null default false,
  -- The secret of a second factor (RFC 6238), encrypted; the last time step that was used, so that no code works twice.
  second_factor text,
  second_factor_step bigint,
  daily_calls int not null default 50 check (daily_calls >= 0),
  daily_conversations int not null default 10 check (daily_conversations >= 0),
  daily_meetings int not null default 2 check (daily_meetings >= 0),
  daily_email_cap int not null default 400 check (daily_email_cap >= 0),
  email_spacing_seconds int not null default 45 check (email_spacing_seconds >= 0),
  -- What ends an email in the user's name.
  signature text not null default '' check (length(signature) <= 2000),
  -- When the user closed the guide of the first day.
  setup_hidden_at timestamptz,
  version int not null default 1
);

create table sessions (
  token_hash bytea primary key,
  id uuid not null unique default gen_random_uuid(),
  user_id uuid not null references users on delete cascade,
  started_at timestamptz not null default now(),
  last_seen_at timestamptz not null default now(),
  expires_at timestamptz not null,
  agent text not null default '',
  address text not null default ''
);
create index sessions_by_user on sessions (user_id);

-- Each try to sign in, noted before it is judged, so that many at once are counted too.
create table sign_in_attempts (
  id bigint generated always as identity primary key,
  email text not null,
  address text not null,
  at timestamptz not null default now()
);
create index sign_in_attempts_by_email on sign_in_attempts (email, at);
create index sign_in_attempts_by_address on sign_in_attempts (address, at);

create table password_resets (
  token_hash bytea primary key,
  user_id uuid not null references users on delete cascade,
  by_id uuid references users,
  expires_at timestamptz not null,
  used_at timestamptz
);
create index password_resets_by_user on password_resets (user_id);

-- `rights`: what the key may do: read, write, or also manage (where its user may).
create table api_keys (
  id uuid primary key,
  user_id uuid not null references users on delete cascade,
  name text not null check (name <> ''),
  key_hash bytea not null unique,
  hint text not null,
  rights text not null default 'write' check (rights in ('read', 'write', 'manage')),
  created_at timestamptz not null default now(),
  expires_at timestamptz not null default now() + interval '1 year',
  last_used_at timestamptz,
  revoked_at timestamptz
);
