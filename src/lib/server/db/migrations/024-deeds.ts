/** Large changes are done by a worker: what is wished, and what came of it. */
export const deeds = `
create table deed_wish (
  job_id uuid primary key references job on delete cascade,
  verb text not null,
  wish jsonb not null,
  -- What was answered, or why it could not be done.
  outcome jsonb
);
`;
