-- Up Migration

-- A form on the web: what it asks, what is done with who sends it.
create table forms (
  id uuid primary key,
  name text not null check (btrim(name) <> ''),
  -- The end of its public address.
  key text not null unique check (key ~ '^[A-Za-z0-9_-]{10,40}$'),
  heading text not null,
  intro text not null default '',
  button text not null default 'Send',
  thanks text not null,
  -- Where the browser goes on to afterwards.
  next_url text,
  -- In order: {"key": …, "label": …, "required": …}; a key of core/forms, or the id of a custom field.
  fields jsonb not null check (jsonb_typeof(fields) = 'array'),
  -- What stands beside the box by which marketing emails are agreed to; empty without one.
  consent text not null default '',
  source text,
  actions jsonb not null default '[]' check (jsonb_typeof(actions) = 'array'),
  version int not null default 1,
  archived_at timestamptz(3),
  created_at timestamptz(3) not null
);
create unique index forms_by_name on forms (lower(name)) where archived_at is null;

-- What was sent with a form, as it was sent; `id` is that of the event.
create table form_submissions (
  id uuid primary key,
  form_id uuid not null references forms,
  prospect_id uuid not null references prospects on delete cascade,
  at timestamptz(3) not null,
  is_new boolean not null,
  -- In order: {"label": …, "value": …}; empty once the prospect is erased.
  answers jsonb not null check (jsonb_typeof(answers) = 'array')
);
create index form_submissions_by_form on form_submissions (form_id, at);
create index form_submissions_by_prospect on form_submissions (prospect_id);

alter table events add column form_id uuid;
alter table events drop constraint events_have_a_subject;
alter table events add constraint events_have_a_subject
  check (num_nonnulls(prospect_id, company_id, list_id, form_id) > 0);
create index events_by_form on events (form_id, at) where form_id is not null;

alter table notifications
  drop constraint notifications_kind_check,
  add constraint notifications_kind_check check (
    kind in (
      'reply', 'handed_over', 'calls_assigned', 'call_block', 'outcome', 'email_failed', 'missed_call', 'unknown_text',
      'form_sent', 'bulk', 'import'
    )
  );
