-- Up Migration

-- What work an outcome can be logged on.
alter table outcomes
  add used_for text[] not null default '{call}'
    check (used_for <@ '{call,reply,task}'),
  add check (cardinality(used_for) > 0);

-- What was said on the phone can be said in a reply.
update outcomes
set used_for = '{call,reply}'
where counts_as = 'conversation';
