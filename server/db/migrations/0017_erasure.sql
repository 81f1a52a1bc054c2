-- Up Migration

-- What people wrote with an event: reasons, overrides. Beside the event log, which is append only, so that a person can be
-- erased and the log stays true.
create table happening_texts (
  happening_id uuid primary key references happenings,
  prospect_id uuid not null,
  texts jsonb not null check (jsonb_typeof(texts) = 'object')
);
create index happening_texts_by_prospect on happening_texts (prospect_id);

-- The log so far is cleaned of them once, in the only way there is.
alter table happenings disable trigger happenings_append_only;
alter table effects disable trigger effects_append_only;
insert into happening_texts (happening_id, prospect_id, texts)
  select id, prospect_id, jsonb_strip_nulls(jsonb_build_object('reason', coalesce(data #>> '{details,reason}', data ->> 'reason')))
  from happenings
  where prospect_id is not null and coalesce(data #>> '{details,reason}', data ->> 'reason') is not null;
update happenings
  set data = (data - 'reason' - 'title' - 'why') #- '{details,reason}' #- '{details,meeting,title}'
  where data ?| array['reason', 'title', 'why'] or data -> 'details' ?| array['reason', 'meeting'];
update effects
  set because = because - 'says'
  where because ->> 'says' like 'Gate overridden:%' or because ->> 'says' ~ ' is (not (to be contacted|a fit)|in a deal|a customer)$';
update effects set after = after - 'reason', before = before - 'reason' where entity = 'touch';
alter table happenings enable trigger happenings_append_only;
alter table effects enable trigger effects_append_only;

-- When a person was erased on request.
alter table prospects add column erased_at timestamptz(3);
