/**
 * The archive's own lists: stages that were called otherwise and are retired; a thesaurus whose terms stand under
 * several broader ones, are related, known by other labels and languages; contributors; stamps. Every change of them is
 * an operation of the ledger. And what files said when records last agreed with them; places whose records go beside files.
 */
export const lists = `
alter table stage alter column key drop not null,
  drop constraint stage_key_key,
  add constraint stage_key unique (key) deferrable,
  add column formerly text[] not null default '{}',
  add column retired boolean not null default false;
update stage set key = null where key like 'other-%';

alter table term add column note text not null default '', add column retired boolean not null default false;
drop index term_broader;
create table term_broader (
  term_id uuid not null references term on delete cascade,
  broader_id uuid not null references term on delete cascade,
  primary key (term_id, broader_id),
  check (term_id <> broader_id)
);
create index term_narrower on term_broader (broader_id);
insert into term_broader (term_id, broader_id) select id, broader_id from term where broader_id is not null;
alter table term drop column broader_id;
create table term_related (
  term_id uuid not null references term on delete cascade,
  related_id uuid not null references term on delete cascade,
  primary key (term_id, related_id),
  check (term_id < related_id)
);
create index term_related_other on term_related (related_id);
alter index term_label rename to term_own_label;
create table term_label (
  term_id uuid not null references term on delete cascade,
  kind text not null check (kind in ('preferred', 'also', 'hidden')),
  lang text not null default '',
  label text not null check (label <> ''),
  primary key (term_id, label, lang)
);
create index term_label_lower on term_label (lower(label));
create index term_label_letters on term (lower(label) text_pattern_ops);

create table contributor (
  id uuid primary key,
  name text not null check (name <> ''),
  kind text not null check (kind in ('person', 'agency')),
  also text[] not null,
  credit_line text not null,
  copyright_notice text not null,
  usage_terms text not null,
  email text not null,
  phone text not null,
  web text not null,
  note text not null,
  retired boolean not null
);
create unique index contributor_name on contributor (lower(name));
create index item_creators on item using gin (creator);
create table stamp (
  id uuid primary key,
  name text not null check (name <> ''),
  project text not null,
  lines jsonb not null
);
create unique index stamp_name on stamp (lower(project), lower(name));

-- Labels of the rules of the house that an item breaks; as core/records/rules.
create function rule_texts(i item, key text) returns text[] language sql stable as $$
  select array_remove(case key
    when 'title' then array[i.title]
    when 'caption' then array[i.caption]
    when 'creator' then i.creator
    when 'creditLine' then array[i.credit_line]
    when 'copyrightNotice' then array[i.copyright_notice]
    when 'rating' then array[nullif(i.rating, 0)::text]
    when 'stage' then array[i.stage_id::text]
    when 'taken' then array[i.taken_edtf]
    when 'terms' then array(select it.term_id::text from item_term it where it.item_id = i.id)
    else case jsonb_typeof(i.record -> key)
      when 'array' then array(select jsonb_array_elements_text(i.record -> key))
      else array[i.record ->> key] end
    end, '')
$$;
create function broken_rules(i item, rules jsonb) returns text[] language sql stable as $$
  select coalesce(array_agg(rule ->> 'label' order by rule ->> 'label'), '{}')
  from jsonb_array_elements(coalesce(rules, '[]')) rule
    cross join lateral (select array_remove(rule_texts(i, rule ->> 'field'), null) as texts) said
  where case when cardinality(said.texts) = 0 then (rule ->> 'required')::boolean
    else jsonb_array_length(rule -> 'allowed') > 0
      and exists (select from unnest(said.texts) as text where not rule -> 'allowed' ? text) end
$$;

-- What a file said when it was last read or written, and the fields both sides changed since.
alter table file add column told jsonb;
alter table item add column disputes jsonb not null default '{}';
alter table place add column beside boolean not null default false;

create function log_term() returns trigger language plpgsql as $$
begin
  insert into change_log (kind, subject) values ('term', coalesce(new.term_id, old.term_id));
  return null;
end $$;
create trigger log_named after insert or update or delete on term_broader for each row execute function log_term();
create trigger log_named after insert or update or delete on term_label for each row execute function log_term();

alter table operation_step drop constraint operation_step_action_check,
  add check (action in ('rename', 'record', 'rewrite', 'folder', 'move', 'entry'));
`;
