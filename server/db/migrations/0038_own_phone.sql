-- Up Migration

-- How a user calls: by the dialer that is connected, or on their own phone.
alter table users add column calls_with text not null default 'dialer' check (calls_with in ('dialer', 'own_phone'));

-- How a call was made; one on a user's own phone has no name on a line.
alter table calls add column made_with text not null default 'dialer' check (made_with in ('dialer', 'own_phone'));
