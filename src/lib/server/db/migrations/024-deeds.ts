/** Large changes are done by a worker: what is wished, and what came of it. */
export const deeds = `
create table deed_wish (
  job_id uuid primary key references job on delete cascade,
  verb text not null,
  wish jsonb not null,
  -- What was answered, or why it could not be done.
  outcome jsonb
);
-- What guests take away is kept, too, and goes as the other large pictures do.
drop index rendition_oldest;
create index rendition_oldest on rendition (used_at)
  where recipe in ('tiles', 'large', 'room', 'room-jpeg', 'proxy') or recipe like 'page-%';
`;
