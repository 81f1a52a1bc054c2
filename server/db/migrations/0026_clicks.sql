-- Up Migration

-- When a link of an email was first clicked, how often, and which link it was. Team: whether links are counted at all.
alter table email_messages
  add column clicked_at timestamptz(3),
  add column clicks int not null default 0,
  add column clicked_url text;
alter table team add column count_clicks boolean not null default true;
