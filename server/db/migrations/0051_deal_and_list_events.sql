-- Up Migration

-- An event happens to a prospect, a company, a deal or a list: to a deal by way of its prospect, to a list by itself.
alter table events add column deal_id uuid;
alter table events add column list_id uuid;
alter table events disable trigger events_append_only;
update events
set deal_id = (payload ->> 'dealId')::uuid
where payload ? 'dealId';
alter table events enable trigger events_append_only;
alter table events drop constraint events_have_a_subject;
alter table events add constraint events_have_a_subject check (num_nonnulls(prospect_id, company_id, list_id) > 0);
create index events_by_deal on events (deal_id, at) where deal_id is not null;
create index events_by_list on events (list_id, at) where list_id is not null;
create index effects_by_deal on effects (entity_id) where entity = 'deal';
