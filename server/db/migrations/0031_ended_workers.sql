-- Up Migration

-- A worker that has ended is remembered for a while: what its last statements claim is taken up too.
alter table worker_pools add column ended_at timestamptz(3);
