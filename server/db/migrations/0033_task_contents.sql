-- Up Migration

-- What a planned to-do says: the script of a call, the text of an email, what to do. All that are planned together share it.
create table task_contents (
  -- The event or the bulk action by which they were planned.
  id uuid primary key,
  subject text not null,
  body text not null,
  html text,
  attachments uuid[] not null
);
alter table tasks add column content_id uuid references task_contents;
create index tasks_by_content on tasks (content_id) where content_id is not null;
