-- Up Migration

-- What somebody's behavior is worth, in points, and from how many of them they are hot or warm (our defaults; whoever has
-- fewer, but some, is cold). A touch is worth what its kind says, a call that reached them what a conversation says.
alter table team
  add column points jsonb not null default '{"reply": 10, "conversation": 5, "meeting": 15, "visit": 1, "opened": 1}' check (jsonb_typeof(points) = 'object'),
  add column hot_from int not null default 20,
  add column warm_from int not null default 8 check (warm_from >= 1 and hot_from > warm_from);

-- The score lies beside the person like all that touches come to. The rating follows it for whoever is not rated by hand.
alter table prospects add column score int not null default 0, add column rated_by_score boolean not null default true;
update prospects set rated_by_score = false where rating is not null;

create function rating_of(score int) returns text language sql stable as
$$ select case when $1 >= hot_from then 'hot' when $1 >= warm_from then 'warm' when $1 > 0 then 'cold' end from team $$;
create function rate_by_score() returns trigger language plpgsql as $$
begin
  new.rating := rating_of(new.score);
  return new;
end $$;
create trigger prospects_rated before update of score, rated_by_score on prospects for each row
  when (new.rated_by_score and ((new.score, new.rated_by_score) is distinct from (old.score, old.rated_by_score))) execute function rate_by_score();

-- What one touch is worth.
create function points_of(kind text, counts_as text, points jsonb) returns int language sql immutable as
$$ select case when kind in ('reply', 'meeting', 'visit') then coalesce((points ->> kind)::int, 0) else 0 end + case when counts_as = 'conversation' then coalesce((points ->> 'conversation')::int, 0) else 0 end $$;

create or replace function touches_added() returns trigger language plpgsql as $$
begin
  update prospects p set last_touch_at = greatest(p.last_touch_at, a.last), last_call_at = greatest(p.last_call_at, a.call), last_text_at = greatest(p.last_text_at, a.text),
    last_email_at = greatest(p.last_email_at, a.email), last_reply_at = greatest(p.last_reply_at, a.reply), last_meeting_at = greatest(p.last_meeting_at, a.meeting),
    last_visit_at = greatest(p.last_visit_at, a.visit), attempts = p.attempts + a.attempts, conversations = p.conversations + a.conversations, score = p.score + a.points,
    last_outcome_id = case when p.last_outcome_at > a.outcome_at or a.outcome_at is null then p.last_outcome_id else a.outcome_id end, last_outcome_at = greatest(p.last_outcome_at, a.outcome_at)
  from (select prospect_id, max(at) as last, max(at) filter (where kind = 'call') as call, max(at) filter (where kind = 'text') as text, max(at) filter (where kind = 'email') as email,
      max(at) filter (where kind = 'reply') as reply, max(at) filter (where kind = 'meeting') as meeting, max(at) filter (where kind = 'visit') as visit,
      count(*) filter (where counts_as = 'attempt') as attempts, count(*) filter (where counts_as = 'conversation') as conversations, sum(points_of(kind, counts_as, t.points)) as points,
      max(at) filter (where outcome_id is not null) as outcome_at, (array_agg(outcome_id order by at desc, id desc) filter (where outcome_id is not null))[1] as outcome_id
    from added cross join team t group by prospect_id) a where p.id = a.prospect_id;
  return null;
end $$;

create or replace function count_touches(ids uuid[]) returns void language plpgsql as $$
begin
  perform from prospects p where p.id = any(ids) order by p.id for no key update;
  update prospects p set last_touch_at = a.last, last_call_at = a.call, last_text_at = a.text, last_email_at = a.email, last_reply_at = a.reply, last_meeting_at = a.meeting, last_visit_at = a.visit,
    attempts = coalesce(a.attempts, 0), conversations = coalesce(a.conversations, 0), last_outcome_at = a.outcome_at, last_outcome_id = a.outcome_id,
    score = coalesce(a.points, 0) + coalesce(m.opened * (t.points ->> 'opened')::int, 0)
  from prospects q cross join team t left join (select prospect_id, max(at) as last, max(at) filter (where kind = 'call') as call, max(at) filter (where kind = 'text') as text, max(at) filter (where kind = 'email') as email,
      max(at) filter (where kind = 'reply') as reply, max(at) filter (where kind = 'meeting') as meeting, max(at) filter (where kind = 'visit') as visit,
      count(*) filter (where counts_as = 'attempt') as attempts, count(*) filter (where counts_as = 'conversation') as conversations, sum(points_of(kind, counts_as, t.points)) as points,
      max(at) filter (where outcome_id is not null) as outcome_at, (array_agg(outcome_id order by at desc, id desc) filter (where outcome_id is not null))[1] as outcome_id
    from touches cross join team t where ids is null or prospect_id = any(ids) group by prospect_id) a on a.prospect_id = q.id
    left join (select prospect_id, count(*) as opened from messages where opened_at is not null and (ids is null or prospect_id = any(ids)) group by prospect_id) m on m.prospect_id = q.id
  where p.id = q.id and (ids is null or q.id = any(ids));
end $$;

-- The first opening of a mail counts, whoever notes it.
create function mail_opened() returns trigger language plpgsql as $$
begin
  update prospects p set score = p.score + coalesce((t.points ->> 'opened')::int, 0) from team t where p.id = new.prospect_id;
  return null;
end $$;
create trigger messages_opened after update of opened_at on messages for each row when (old.opened_at is null and new.opened_at is not null) execute function mail_opened();

select count_touches(null);
