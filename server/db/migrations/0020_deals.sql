-- The stages a deal goes through, with how likely each usually makes it (common practice, no published source).
create table deal_stages (
  id text primary key,
  name text not null check (btrim(name) <> ''),
  position int not null,
  likelihood int not null check (likelihood between 0 and 100)
);
insert into deal_stages (id, name, position, likelihood) values
  ('meeting', 'Meeting set', 0, 15),
  ('qualified', 'Qualified', 1, 40),
  ('proposal', 'Proposal', 2, 60),
  ('negotiation', 'Negotiation', 3, 80);

-- ISO 4217.
alter table team add column currency text not null default 'USD' check (currency ~ '^[A-Z]{3}$');

alter table deals
  add column deal_stage_id text references deal_stages,
  add column expected_close date,
  add column closed_at timestamptz(3),
  add column close_reason text check (length(close_reason) <= 500);
update deals set closed_at = opened_at where state <> 'open';
alter table deals add constraint deals_closed check (state <> 'open' or closed_at is null);
create index deals_by_owner on deals (owner_id, state, expected_close);
create index deals_by_state on deals (state, opened_at);
