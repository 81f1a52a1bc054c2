-- Stages that are no longer used stay for what was logged with them.
alter table stages add column archived_at timestamptz(3);

-- Where new people stand: the first stage in work.
create function first_stage() returns text
language sql stable
as $$ select id from stages where kind = 'open' and archived_at is null order by position limit 1 $$;

create unique index stages_by_name on stages (lower(btrim(name))) where archived_at is null;
create index prospects_by_stage_id on prospects (stage_id) where merged_into is null;

alter table stages drop constraint stages_id_check;
alter table stages add constraint stages_id_check check (id ~ '^[a-z0-9_-]+$');
-- A name may come again once its stage is archived; places are checked when all have been given.
alter table stages drop constraint stages_name_key;
alter table stages drop constraint stages_position_key;
alter table stages add constraint stages_position_key unique (position) deferrable initially immediate;
