-- Up Migration

-- A stage of deals that is not offered any more stays for the deals that were in it.
alter table deal_stages add column archived_at timestamptz(3);
create unique index deal_stages_by_name on deal_stages (lower(name)) where archived_at is null;
