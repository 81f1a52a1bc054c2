-- Up Migration

-- The open calls of the whole team, as a manager reads them: first what is due first.
create index tasks_open_calls on tasks (due_at, id) where status = 'open' and kind in ('call', 'call_back');
