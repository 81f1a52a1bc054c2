-- Up Migration

-- Whether calls over the exchange are recorded, which is announced at their start, and for how many days it is kept.
alter table team
  add column records_calls boolean not null default false,
  add column recordings_kept_days int not null default 30 check (recordings_kept_days between 1 and 730);

-- What became of the recording of a call; null for one that was not recorded.
alter table calls
  add column recording text check (recording in ('on', 'stopped', 'ready', 'saved', 'lost', 'deleted'));

-- Recordings that are kept.
create table call_recordings (
  call_id uuid primary key references calls on delete cascade,
  media_type text not null check (media_type in ('audio/wav', 'audio/ogg')),
  seconds double precision not null check (seconds >= 0),
  content bytea not null,
  delete_at timestamptz(3) not null
);
create index call_recordings_by_end on call_recordings (delete_at);
create index calls_by_outcome on calls (logged_by) where logged_by is not null;
create index calls_by_line on calls (line_ref) where line_ref is not null;
