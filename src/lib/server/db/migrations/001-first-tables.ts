/** People, holdings, items and records, accessions, the ledger, collections, reading rooms, work. */
export const firstTables = `
create sequence change_number;

create table person (
  id uuid primary key,
  name text not null,
  email text not null unique,
  email_verified boolean not null default false,
  image text,
  role text not null default 'teammate'
    check (role in ('keeper', 'contributor', 'teammate', 'rights-desk')),
  created_at timestamptz not null default now(),
  updated_at timestamptz not null default now()
);
create table session (
  id uuid primary key,
  person_id uuid not null references person on delete cascade,
  token text not null unique,
  expires_at timestamptz not null,
  ip_address text,
  user_agent text,
  created_at timestamptz not null default now(),
  updated_at timestamptz not null default now()
);
create index session_person on session (person_id);
create table account (
  id uuid primary key,
  person_id uuid not null references person on delete cascade,
  account_id text not null,
  provider_id text not null,
  access_token text,
  refresh_token text,
  id_token text,
  access_token_expires_at timestamptz,
  refresh_token_expires_at timestamptz,
  scope text,
  password text,
  created_at timestamptz not null default now(),
  updated_at timestamptz not null default now()
);
create index account_person on account (person_id);
create table verification (
  id uuid primary key,
  identifier text not null,
  value text not null,
  expires_at timestamptz not null,
  created_at timestamptz default now(),
  updated_at timestamptz default now()
);
create table sign_in_try (
  id uuid primary key,
  email text not null,
  address text not null,
  at timestamptz not null default now()
);
create index sign_in_try_recent on sign_in_try (email, at);
create table remembered (
  person_id uuid not null references person on delete cascade,
  key text not null,
  value jsonb not null,
  primary key (person_id, key)
);

create table place (
  id uuid primary key,
  name text not null,
  root text not null unique,
  hands_off boolean not null default false,
  created_at timestamptz not null default now(),
  check (name <> '' and position('/' in name) = 0)
);
create unique index place_name on place (lower(name));
create table folder (
  id uuid primary key,
  place_id uuid not null references place,
  parent_id uuid references folder,
  path text not null,
  name text not null,
  unique (place_id, path),
  check ((path = '') = (parent_id is null))
);
create index folder_parent on folder (parent_id);
create index folder_path on folder (place_id, path text_pattern_ops);

create table stage (
  id uuid primary key,
  name text not null,
  shape text not null,
  colour text not null,
  key text not null unique,
  position integer not null
);
create unique index stage_name on stage (lower(name));
create table term (
  id uuid primary key,
  label text not null,
  broader_id uuid references term,
  check (label <> '')
);
create unique index term_label on term (lower(label));

create table accession (
  id uuid primary key,
  year integer not null,
  number integer not null,
  title text not null,
  source jsonb not null,
  plan jsonb not null,
  root text not null,
  mode text not null check (mode in ('in-place', 'copy', 'move')),
  place_id uuid not null references place,
  state text not null default 'planned'
    check (state in ('planned', 'running', 'paused', 'done', 'cancelled', 'failed')),
  created_by uuid references person on delete set null,
  created_at timestamptz not null default now(),
  finished_at timestamptz,
  unique (year, number)
);
create table item (
  id uuid primary key,
  number text not null unique,
  accession_id uuid not null references accession,
  kind text not null,
  media_type text not null,
  format text not null,
  original_name text not null,
  version integer not null default 1,
  title text not null default '',
  caption text not null default '',
  creator text[] not null default '{}',
  credit_line text not null default '',
  copyright_notice text not null default '',
  rating smallint not null default 0 check (rating between -1 and 5),
  stage_id uuid references stage,
  taken_edtf text,
  taken_from timestamp,
  taken_to timestamp,
  taken_offset smallint,
  provenance jsonb not null default '{}',
  technical jsonb not null default '{}',
  camera text not null default '',
  latitude double precision,
  longitude double precision,
  width integer,
  height integer,
  duration double precision,
  no_picture text,
  words tsvector,
  change_no bigint not null default nextval('change_number'),
  created_at timestamptz not null default now(),
  deleted_at timestamptz,
  check ((taken_edtf is null) = (taken_from is null) and (taken_from is null) = (taken_to is null))
);
create index item_taken on item (taken_from desc nulls last, id) where deleted_at is null;
create index item_accession on item (accession_id);
create index item_stage on item (stage_id);
create index item_change on item (change_no);
create index item_words on item using gin (words);
create table item_term (
  item_id uuid not null references item on delete cascade,
  term_id uuid not null references term on delete cascade,
  primary key (item_id, term_id)
);
create index item_term_term on item_term (term_id);
create table file (
  id uuid primary key,
  item_id uuid not null references item,
  place_id uuid not null references place,
  folder_id uuid not null references folder,
  name text not null check (name <> '' and position('/' in name) = 0),
  role text not null check (role in ('original', 'companion', 'sidecar', 'part', 'second-copy')),
  size bigint not null,
  modified_ns numeric(20) not null,
  inode numeric(20) not null,
  content_hash text not null,
  essence_hash text,
  picture_key text not null,
  written_version integer not null default 1,
  write_problem text,
  state text not null default 'present' check (state in ('present', 'missing', 'changed')),
  verified_at timestamptz,
  unique (folder_id, name) deferrable initially deferred
);
create unique index file_one_original on file (item_id) where role = 'original';
create index file_item on file (item_id);
create index file_content on file (content_hash);
create index file_essence on file (essence_hash);

create table accession_entry (
  id uuid primary key,
  accession_id uuid not null references accession on delete cascade,
  position integer not null,
  source_path text not null,
  size bigint not null,
  state text not null default 'planned'
    check (state in ('planned', 'placing', 'done', 'skipped', 'failed')),
  reason text,
  folder text,
  name text,
  content_hash text,
  facts jsonb,
  item_id uuid references item,
  unique (accession_id, position),
  unique (accession_id, source_path)
);
create index accession_entry_content on accession_entry (content_hash) where item_id is not null;
create index accession_entry_open on accession_entry (accession_id, position)
  where state in ('planned', 'placing');

create table scan (
  id uuid primary key,
  source jsonb not null,
  root text not null,
  state text not null default 'running' check (state in ('running', 'done', 'failed')),
  reason text,
  created_by uuid references person on delete cascade,
  created_at timestamptz not null default now()
);
create table scan_file (
  scan_id uuid not null references scan on delete cascade,
  position integer not null,
  path text not null,
  size bigint not null,
  modified_ns numeric(20) not null,
  looked_at boolean not null default false,
  kind text not null default 'other',
  format text not null default '',
  content_hash text,
  held_item_id uuid references item,
  taken_from timestamp,
  taken_precision text,
  camera text not null default '',
  creator text not null default '',
  title text not null default '',
  aspect real not null default 1.5,
  problem text,
  primary key (scan_id, position),
  unique (scan_id, path)
);

create table operation (
  id uuid primary key,
  kind text not null,
  summary text not null,
  state text not null default 'planned'
    check (state in ('planned', 'doing', 'done', 'undone', 'failed')),
  actor_id uuid references person on delete set null,
  undoes uuid references operation,
  total integer not null default 0,
  created_at timestamptz not null default now(),
  finished_at timestamptz
);
create index operation_recent on operation (created_at desc);
create unique index operation_undone_once on operation (undoes) where state <> 'failed';
create table operation_step (
  operation_id uuid not null references operation,
  position integer not null,
  action text not null check (action in ('rename', 'record', 'rewrite')),
  item_id uuid references item,
  file_id uuid references file,
  before jsonb not null,
  after jsonb not null,
  state text not null default 'planned'
    check (state in ('planned', 'doing', 'done', 'undone', 'failed')),
  reason text,
  primary key (operation_id, position)
);
create index operation_step_open on operation_step (operation_id, position)
  where state in ('planned', 'doing');
create index operation_step_item on operation_step (item_id);

create table rendition (
  picture_key text not null,
  recipe text not null,
  width integer,
  height integer,
  bytes bigint,
  problem text,
  made_at timestamptz not null default now(),
  primary key (picture_key, recipe)
);

create table collection (
  id uuid primary key,
  name text not null check (name <> ''),
  note text not null default '',
  kind text not null default 'hand-picked' check (kind in ('hand-picked', 'standing')),
  parent_id uuid references collection,
  created_by uuid references person on delete set null,
  created_at timestamptz not null default now(),
  deleted_at timestamptz
);
create unique index collection_name on collection (lower(name)) where deleted_at is null;
create table collection_item (
  collection_id uuid not null references collection on delete cascade,
  item_id uuid not null references item,
  position integer not null,
  note text not null default '',
  added_at timestamptz not null default now(),
  primary key (collection_id, item_id),
  unique (collection_id, position) deferrable initially deferred
);
create index collection_item_item on collection_item (item_id);

create table reading_room (
  id uuid primary key,
  token_hash text not null unique,
  title text not null,
  greeting text not null default '',
  collection_id uuid not null references collection,
  sizes text[] not null,
  expires_at timestamptz not null,
  revoked_at timestamptz,
  created_by uuid references person on delete set null,
  created_at timestamptz not null default now()
);
create table room_visit (
  id uuid primary key,
  room_id uuid not null references reading_room on delete cascade,
  first_at timestamptz not null default now(),
  last_at timestamptz not null default now(),
  name text not null default ''
);
create index room_visit_room on room_visit (room_id);
create table room_pick (
  visit_id uuid not null references room_visit on delete cascade,
  item_id uuid not null references item,
  at timestamptz not null default now(),
  primary key (visit_id, item_id)
);
create table room_download (
  id uuid primary key,
  room_id uuid not null references reading_room on delete cascade,
  visit_id uuid references room_visit on delete set null,
  item_id uuid not null references item,
  size text not null,
  at timestamptz not null default now()
);
create index room_download_room on room_download (room_id);

create table job (
  id uuid primary key,
  task text not null,
  title text not null,
  subject text not null default '',
  parent_id uuid references job on delete cascade,
  item_id uuid references item,
  accession_id uuid references accession,
  operation_id uuid references operation,
  state text not null default 'waiting'
    check (state in ('waiting', 'running', 'paused', 'done', 'failed', 'cancelled')),
  wish text not null default 'run' check (wish in ('run', 'pause', 'cancel')),
  done bigint not null default 0,
  total bigint not null default 0,
  unit text not null default '',
  attempts integer not null default 0,
  reason text,
  created_by uuid references person on delete set null,
  created_at timestamptz not null default now(),
  started_at timestamptz,
  finished_at timestamptz
);
create index job_open on job (created_at) where state in ('waiting', 'running', 'paused');
create index job_recent on job (finished_at desc) where parent_id is null;
create index job_parent on job (parent_id, state);
create index job_item on job (item_id);
create unique index job_once on job (task, subject) where state = 'waiting' and subject <> '';
create table worker (
  id uuid primary key,
  host text not null,
  pid integer not null,
  locks text[] not null default '{}',
  seen_at timestamptz not null default now()
);
`;
