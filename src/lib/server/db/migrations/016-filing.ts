/** Names that count on from batch to batch, and patterns that are kept. */
export const filing = `
-- Other programs look in it: they know files by the names and folders they have.
alter table place add column shared boolean not null default false;

create table named_counter (
  name text primary key check (name <> '' and length(name) <= 200),
  next bigint not null
);

create table kept_pattern (
  id uuid primary key,
  purpose text not null check (purpose in ('naming', 'filing')),
  name text not null check (trim(name) <> '' and length(name) <= 100),
  pattern text not null check (length(pattern) <= 1000),
  -- What goes with it: the rule for clashes, the extension, what happens where a piece is missing.
  choices jsonb not null default '{}',
  made_by uuid references person,
  made_at timestamptz not null default now()
);
create unique index kept_pattern_name on kept_pattern (purpose, lower(name));
`;
