-- Up Migration

-- Companies that were merged: the row that went, and the ids of what moved, so that it can be undone.
create table company_merges (
  id uuid primary key,
  kept_id uuid not null,
  gone_id uuid not null,
  gone jsonb not null,
  moved jsonb not null,
  by_id uuid references users,
  at timestamptz(3) not null,
  undone_at timestamptz(3)
);
create index company_merges_by_gone on company_merges (gone_id) where undone_at is null;
create index company_merges_latest on company_merges (at desc) where undone_at is null;

-- What a company was also called, or also wrote from: a file that uses it means this company.
create table company_aliases (
  kind text not null check (kind in ('domain', 'name')),
  value text not null check (value <> ''),
  company_id uuid not null references companies on delete cascade,
  primary key (kind, value)
);
create index company_aliases_by_company on company_aliases (company_id);
