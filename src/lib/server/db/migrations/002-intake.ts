/** Intake in full: decisions, sources that are emptied, second copies, counters, plans, likeness, lineage. */
export const intake = `
alter table accession
  add column started_at timestamptz,
  add column reason text,
  add column manifests text[] not null default '{}';

alter table accession_entry
  add column decision text not null default 'new' check (decision in ('new', 'again', 'version')),
  add column version_of uuid references item,
  add column source_state text not null default 'kept'
    check (source_state in ('kept', 'due', 'removed', 'refused')),
  add column source_reason text,
  add column source_facts jsonb,
  add column verified_at timestamptz,
  add column second_state text not null default 'none'
    check (second_state in ('none', 'due', 'done', 'failed')),
  add column second_reason text,
  add column clock_shift integer,
  add column listed boolean not null default false,
  add column given jsonb,
  add column bundle_folder text,
  add column parts jsonb,
  add check ((decision = 'version') = (version_of is not null));
create index accession_entry_due on accession_entry (accession_id) where source_state = 'due' or second_state = 'due';

create table intake_plan (
  id uuid primary key,
  name text not null check (name <> ''),
  mode text not null check (mode in ('in-place', 'copy', 'move')),
  place_id uuid references place on delete cascade,
  plan jsonb not null,
  created_by uuid references person on delete set null,
  created_at timestamptz not null default now()
);
create unique index intake_plan_name on intake_plan (lower(name));

create table counter (
  place_id uuid not null references place on delete cascade,
  pattern text not null,
  scope text not null,
  next integer not null check (next >= 0),
  primary key (place_id, pattern, scope)
);

alter table item add column likeness bigint, add column likeness_made boolean not null default false;
create index item_likeness_open on item (id) where not likeness_made and deleted_at is null;

create table lineage (
  item_id uuid not null references item on delete cascade,
  kind text not null check (kind in
    ('edited from', 'version of', 'part of', 'output of', 'same shot as', 'twin of', 'lookalike of')),
  of_id uuid not null references item on delete cascade,
  created_by uuid references person on delete set null,
  created_at timestamptz not null default now(),
  primary key (item_id, kind, of_id),
  check (item_id <> of_id)
);
create index lineage_of on lineage (of_id);

alter table scan_file
  add column essence_hash text,
  add column likeness bigint,
  add column twin_position integer,
  add column alike jsonb not null default '[]';
alter table scan add column alike_done boolean not null default false;

alter table place
  add column here boolean not null default true,
  add column away_since timestamptz,
  add column watched boolean not null default true,
  add column looked_at timestamptz;
alter table file add column missing_since timestamptz;
create table setting (key text primary key, value jsonb not null);
create index file_inode on file (place_id, inode);
`;
