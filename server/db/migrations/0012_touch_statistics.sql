-- Up Migration

-- What one touch is worth.
create function points_of(kind text, counts_as text, points jsonb) returns int
language sql immutable as $$
  select case when kind in ('reply', 'meeting', 'visit') then coalesce((points ->> kind)::int, 0) else 0 end
    + case when counts_as = 'conversation' then coalesce((points ->> 'conversation')::int, 0) else 0 end
$$;

-- What touches come to, by prospect.
create function touch_totals(rows touches[]) returns table (
  prospect_id uuid,
  last timestamptz,
  call timestamptz,
  text timestamptz,
  email timestamptz,
  reply timestamptz,
  meeting timestamptz,
  visit timestamptz,
  attempts bigint,
  conversations bigint,
  points bigint,
  outcome_at timestamptz,
  outcome_id uuid
)
language sql stable as $$
  select x.prospect_id,
    max(x.at),
    max(x.at) filter (where x.kind = 'call'),
    max(x.at) filter (where x.kind = 'text'),
    max(x.at) filter (where x.kind = 'email'),
    max(x.at) filter (where x.kind = 'reply'),
    max(x.at) filter (where x.kind = 'meeting'),
    max(x.at) filter (where x.kind = 'visit'),
    count(*) filter (where x.counts_as = 'attempt'),
    count(*) filter (where x.counts_as = 'conversation'),
    sum(points_of(x.kind, case when o.stops then 'none' else x.counts_as end, t.points)),
    max(x.at) filter (where x.outcome_id is not null),
    (array_agg(x.outcome_id order by x.at desc, x.id desc) filter (where x.outcome_id is not null))[1]
  from unnest(rows) x
    cross join team t
    left join outcomes o on o.id = x.outcome_id
  group by x.prospect_id
$$;

-- New touches are added to what there was. The rows are a variable, so that `touch_totals` is planned once a session
-- with the statement around it: with a query as its argument it is planned anew for every touch.
create function touches_added() returns trigger
language plpgsql as $$
declare
  rows touches[] := array(select row(x.*)::touches from added x);
begin
  update prospects p
  set last_touch_at = greatest(p.last_touch_at, a.last),
    last_call_at = greatest(p.last_call_at, a.call),
    last_text_at = greatest(p.last_text_at, a.text),
    last_email_at = greatest(p.last_email_at, a.email),
    last_reply_at = greatest(p.last_reply_at, a.reply),
    last_meeting_at = greatest(p.last_meeting_at, a.meeting),
    last_visit_at = greatest(p.last_visit_at, a.visit),
    attempts = p.attempts + a.attempts,
    conversations = p.conversations + a.conversations,
    score = p.score + a.points,
    last_outcome_id = case
      when p.last_outcome_at > a.outcome_at or a.outcome_at is null then p.last_outcome_id
      else a.outcome_id
    end,
    last_outcome_at = greatest(p.last_outcome_at, a.outcome_at)
  from touch_totals(rows) a
  where p.id = a.prospect_id;
  return null;
end $$;

-- Counts again what the touches of the given prospects come to. Their rows are locked first, so that what others are
-- just writing is seen.
create function count_touches(ids uuid[]) returns void
language plpgsql as $$
declare
  rows touches[];
begin
  perform from prospects p where p.id = any(ids) order by p.id for no key update;
  rows := array(select x from touches x where x.prospect_id = any(ids));
  update prospects p
  set last_touch_at = a.last,
    last_call_at = a.call,
    last_text_at = a.text,
    last_email_at = a.email,
    last_reply_at = a.reply,
    last_meeting_at = a.meeting,
    last_visit_at = a.visit,
    attempts = coalesce(a.attempts, 0),
    conversations = coalesce(a.conversations, 0),
    last_outcome_at = a.outcome_at,
    last_outcome_id = a.outcome_id,
    score = coalesce(a.points, 0) + coalesce(m.opened * (t.points ->> 'opened')::int, 0)
  from prospects q
    cross join team t
    left join touch_totals(rows) a
      on a.prospect_id = q.id
    left join (
      select prospect_id, count(*) as opened
      from email_messages
      where opened_at is not null and prospect_id = any(ids)
      group by prospect_id
    ) m on m.prospect_id = q.id
  where p.id = q.id and q.id = any(ids);
end $$;

create function touches_removed() returns trigger
language plpgsql as $$
begin
  perform count_touches(array(select distinct prospect_id from removed));
  return null;
end $$;
create function touches_changed() returns trigger
language plpgsql as $$
begin
  perform count_touches(array(select prospect_id from removed union select prospect_id from added));
  return null;
end $$;
create trigger touches_added after insert on touches
  referencing new table as added for each statement execute function touches_added();
create trigger touches_removed after delete on touches
  referencing old table as removed for each statement execute function touches_removed();
create trigger touches_changed after update on touches
  referencing old table as removed new table as added for each statement execute function touches_changed();

-- Only the first opening of an email counts.
create function mail_opened() returns trigger
language plpgsql as $$
begin
  update prospects p
  set score = p.score + coalesce((t.points ->> 'opened')::int, 0)
  from team t
  where p.id = new.prospect_id;
  return null;
end $$;
create trigger email_messages_opened after update of opened_at on email_messages
  for each row when (old.opened_at is null and new.opened_at is not null) execute function mail_opened();
