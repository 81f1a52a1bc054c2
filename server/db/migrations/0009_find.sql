-- Up Migration

-- People and companies are looked for by the beginning of what is typed: of first and last names, addresses and numbers.
create index prospects_by_last_name on prospects (split_part(name_key, ' ', -1) text_pattern_ops);
drop index companies_by_name;
create index companies_by_name on companies (name_key text_pattern_ops);
drop index emails_by_address;
create unique index emails_by_address on emails (address text_pattern_ops);
drop index phones_by_number;
create index phones_by_number on phones (number text_pattern_ops);

-- A rep's own people, newest first, with what nearly every list asks of them: read from the index alone.
drop index prospects_by_owner;
create index prospects_by_owner on prospects (owner_id, created_at desc, id desc) include (working, merged_into) where owner_id is not null;
