/** Rough sequences: spans, clips and stills in an order. */
export const sequences = `
create table sequence (
  id uuid primary key,
  name text not null,
  note text not null default '',
  rate double precision not null,
  stills double precision not null,
  sound boolean not null,
  pieces jsonb not null,
  created_by uuid,
  created_at timestamptz not null default now()
);
`;
