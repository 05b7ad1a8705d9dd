/**
 * Bursts: frames that are nearly the same and the one that stands for them; a person's own folding is left alone. Documents
 * told apart by what they are. Two items that look alike are tied once, whichever of them found the other;
 * clips are known by hashes of some of their frames. Files move into a
 * wastebasket, which is emptied for good. And of what the cache holds, when it was last looked at.
 */
export const bursts = `
alter table item
  add column burst uuid,
  add column burst_lead boolean not null default true,
  add column burst_size smallint not null default 1,
  add column burst_reason text,
  add column burst_by_hand boolean not null default false;
create index item_burst on item (burst) where burst is not null;
delete from lineage l using lineage m
  where l.kind in ('twin of', 'lookalike of') and m.kind in ('twin of', 'lookalike of')
  and (l.item_id, l.of_id) = (m.of_id, m.item_id) and l.item_id > m.item_id;
delete from lineage l using lineage m
  where l.kind = 'lookalike of' and m.kind = 'twin of' and (l.item_id, l.of_id) = (m.item_id, m.of_id);
create unique index lineage_alike on lineage (least(item_id, of_id), greatest(item_id, of_id))
  where kind in ('twin of', 'lookalike of');
alter table operation_step drop constraint operation_step_action_check,
  add check (action in ('rename', 'record', 'rewrite', 'folder', 'move'));
alter table operation add column emptied_at timestamptz;
create table clip_look (
  item_id uuid primary key references item on delete cascade,
  times real[] not null,
  frames bigint[] not null,
  bands integer[] not null
);
create index clip_look_bands on clip_look using gin (bands);
alter table rendition add column used_at timestamptz not null default now();
create index rendition_oldest on rendition (used_at)
  where recipe in ('tiles', 'large', 'room', 'proxy') or recipe like 'page-%';
create index file_picture on file (picture_key);
update item i set format = lower(substring(f.name from '\\.([^.]+)$'))
  from file f where f.item_id = i.id and f.role = 'original' and i.format = 'office'
  and lower(substring(f.name from '\\.([^.]+)$')) in ('docx', 'xlsx', 'pptx', 'odt', 'ods', 'idml');
`;
