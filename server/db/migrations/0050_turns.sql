-- Up Migration

-- Whose turn it is to be given a prospect: the lowest number. `id` is the user.
create table assignment_turns (
  id uuid primary key references users on delete cascade,
  number int not null
);
