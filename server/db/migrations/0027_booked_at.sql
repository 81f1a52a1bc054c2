-- Up Migration

-- When a meeting was booked: weeks are counted by it.
alter table appointments add column booked_at timestamptz(3);
update appointments a
set booked_at = h.at
from effects e
  join happenings h on h.id = e.happening_id
where e.kind = 'bookMeeting'
  and e.entity_id = a.id;
create index appointments_booked on appointments (user_id, booked_at);
create index deals_opened on deals (owner_id, opened_at);
create index deals_closed_by on deals (owner_id, closed_at) where state = 'won';
