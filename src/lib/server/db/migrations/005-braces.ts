/** Name patterns have their pieces in braces: those that are kept are written anew. */
export const braces = `
create function pg_temp.braced(pattern text) returns text language sql immutable as $$
  select replace(regexp_replace(replace(replace(pattern, '{', '{{'), '[[', chr(1)),
    '\\[([^\\[\\]]+)\\]', '{\\1}', 'g'), chr(1), '[')
$$;
create function pg_temp.braced_plan(plan jsonb) returns jsonb language sql immutable as $$
  select plan
    || case when plan ? 'filing' then jsonb_build_object('filing', pg_temp.braced(plan->>'filing')) else '{}' end
    || case when plan ? 'naming' then jsonb_build_object('naming', pg_temp.braced(plan->>'naming')) else '{}' end
$$;
update intake_plan set plan = pg_temp.braced_plan(plan);
update accession set plan = pg_temp.braced_plan(plan);
update counter set pattern = pg_temp.braced(pattern), scope = regexp_replace(scope, '^\\[([^\\[\\]]+)\\]', '{\\1}');
update remembered set value = jsonb_set(value, '{plan}', pg_temp.braced_plan(value->'plan'))
  where key like 'intake-plan%' and value ? 'plan';
update remembered set value = jsonb_set(value, '{pattern}', to_jsonb(pg_temp.braced(value->>'pattern')))
  where key = 'rename-pattern' and value ? 'pattern';
update setting set value = jsonb_set(value, '{plan}', pg_temp.braced_plan(value->'plan'))
  where key = 'drop-zone' and value ? 'plan';
`;
