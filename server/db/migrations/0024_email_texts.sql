-- Up Migration

-- Files of emails: attachments, and pictures in the text. One that nothing refers to is deleted after a week.
create table files (
  id uuid primary key,
  name text not null check (name <> ''),
  media_type text not null,
  bytes int not null check (bytes between 1 and 10000000),
  content bytea not null,
  user_id uuid references users,
  created_at timestamptz(3) not null
);
-- Written once and read whole; most of what people attach is compressed already.
alter table files alter column content set storage external;

-- Texts that are kept once and used in many places: whole emails, and snippets that are put into one. `html` is the
-- text with its formatting, null where it has none; `body` says the same in plain text. Sources and stages name the
-- prospects to whom an email is offered first.
create table email_templates (
  id uuid primary key,
  kind text not null check (kind in ('email', 'snippet')),
  name text not null check (name <> ''),
  category text not null default '',
  owner_id uuid references users,
  shared boolean not null default true,
  subject text not null default '',
  body text not null,
  html text,
  attachments uuid[] not null default '{}',
  sources text[] not null default '{}',
  stages text[] not null default '{}',
  archived_at timestamptz(3),
  created_at timestamptz(3) not null,
  version int not null default 1,
  constraint email_templates_own check (shared or owner_id is not null)
);
create index email_templates_in_order on email_templates (kind, name, id);

-- A step that uses a template says what the template says, whoever changes either of them.
alter table cadence_steps
  add column html text,
  add column attachments uuid[] not null default '{}',
  add column template_id uuid references email_templates;
create index cadence_steps_by_template on cadence_steps (template_id) where template_id is not null;
create function take_template_text() returns trigger
language plpgsql as $$
begin
  select t.subject, t.body, t.html, t.attachments
  into new.subject, new.body, new.html, new.attachments
  from email_templates t
  where t.id = new.template_id;
  return new;
end $$;
create trigger cadence_steps_template before insert or update on cadence_steps
  for each row when (new.template_id is not null)
  execute function take_template_text();
create function give_template_text() returns trigger
language plpgsql as $$
begin
  update cadence_steps
  set subject = new.subject
  where template_id = new.id;
  return null;
end $$;
create trigger email_templates_text after update of subject, body, html, attachments on email_templates
  for each row execute function give_template_text();

-- What a rep wrote, or what goes to many; of a step what it says is read when the email leaves.
alter table email_messages
  add column html text,
  add column attachments uuid[] not null default '{}';

create index email_messages_with_files on email_messages (id) where html is not null or attachments <> '{}';

alter table system_emails add column html text;
