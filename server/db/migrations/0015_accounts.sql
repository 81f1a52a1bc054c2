-- Up Migration

alter table users
  add column must_change_password boolean not null default false,
  -- The secret of a second factor (RFC 6238), sealed; the last time step that was used, so that no code works twice.
  add column second_factor text,
  add column second_factor_step bigint;

alter table team add column idle_minutes int not null default 720 check (idle_minutes between 5 and 20160);

alter table sessions
  add column id uuid not null unique default gen_random_uuid(),
  add column last_seen_at timestamptz not null default now(),
  add column address text not null default '';

-- Each try to sign in, noted before it is judged, so that many at once are counted too.
drop table sign_in_failures;
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

-- What a key may do: read, write, or also manage (where its user may).
alter table api_keys
  add column rights text not null default 'write' check (rights in ('read', 'write', 'manage')),
  add column expires_at timestamptz not null default now() + interval '1 year',
  add column last_used_at timestamptz;
update api_keys set rights = 'manage';
