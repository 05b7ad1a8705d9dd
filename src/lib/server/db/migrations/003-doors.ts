/** Session tokens are kept as hashes; tries are counted, devices known, people shut out. */
export const doors = `
update session set token = encode(sha256(convert_to(token, 'UTF8')), 'hex');
alter table person add column shut_out_at timestamptz;
drop table sign_in_try;
create table try_count (
  key text primary key,
  tries integer not null,
  since timestamptz not null default now()
);
create index try_count_since on try_count (since);
create table known_device (
  token_hash text primary key,
  person_id uuid not null references person on delete cascade,
  used_at timestamptz not null default now()
);
create index known_device_person on known_device (person_id, used_at);
`;
