-- Up Migration

-- People hired just to call: they see their call blocks, their to-dos and who is in hand.
alter table users
  drop constraint users_role_check,
  add constraint users_role_check check (role in ('rep', 'caller', 'manager', 'admin'));
