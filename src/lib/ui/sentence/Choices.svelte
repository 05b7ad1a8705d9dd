<script lang="ts">
  import type { Choice } from '#core/catalogue/tile';
  import { KIND_WORDS, type Kind } from '#core/kinds/kinds';
  import { formatQuery } from '#core/query/grammar';
  import { LACK_WORDS, ORDER_WORDS, ratedWords, takenWords } from '#core/query/sentence';
  import { ORDERS, type ClauseField, type Lackable, type Query } from '#core/query/tree';
  import { takenFromText } from '#core/records/taken';
  import { formatCount } from '#core/text/quantities';
  import { api } from '../common/api';

  interface Props {
    query: Query;
    field: ClauseField | 'order';
    onchange: (query: Query) => void;
  }
  const { query, field, onchange }: Props = $props();
  let choices = $state<Choice[] | null>(null);
  let filter = $state('');
  let wrong = $state('');

  /** Of many terms the server tells the most given ones; letters find any. */
  const typed = $derived(field === 'terms' ? filter.trim() : '');
  $effect(() => {
    if (field === 'order') return;
    const asked = typed;
    const ask = (): void => {
      api
        .get<Choice[]>('/api/catalogue/choices', { q: formatQuery(query), field, typed: asked })
        .then((found) => {
          if (asked === typed) choices = found;
        })
        .catch((error: Error) => (wrong = error.message));
    };
    const soon = setTimeout(ask, asked ? 150 : 0);
    return () => clearTimeout(soon);
  });

  interface Row {
    label: string;
    count: number | null;
    on: boolean;
    depth: number;
    next: Query;
  }

  const toggled = <T,>(list: T[] | undefined, value: T): T[] | undefined => {
    const next = list?.includes(value)
      ? list.filter((one) => one !== value)
      : [...(list ?? []), value];
    return next.length ? next : undefined;
  };
  const summed = (from: number, to: number): number =>
    (choices ?? [])
      .filter(({ value }) => Number(value) >= from && Number(value) <= to)
      .reduce((sum, { count }) => sum + count, 0);

  function ratedRows(): Row[] {
    const steps: [number, number][] = [
      [1, 5],
      [2, 5],
      [3, 5],
      [4, 5],
      [5, 5],
      [0, 0],
      [-1, -1],
      [0, 5],
    ];
    return steps.map(([min, max]) => ({
      label: ratedWords({ min, max }),
      count: summed(min, max),
      depth: 0,
      on: query.rated?.min === min && query.rated.max === max,
      next: { ...query, rated: { min, max } },
    }));
  }

  /** Years with their months, latest first. */
  function takenRows(): Row[] {
    const all = choices ?? [];
    const years = all.filter(({ value }) => value.length === 4);
    const row = (value: string, count: number, depth: number): Row => ({
      label: takenWords(value).replace(/^in /, ''),
      count,
      depth,
      on: query.taken === value,
      next: { ...query, taken: value },
    });
    const unknown = all.find(({ value }) => value === 'unknown');
    return [
      ...years.flatMap((year) => [
        row(year.value, year.count, 0),
        ...all
          .filter(({ value }) => value.startsWith(`${year.value}-`))
          .map(({ value, count }) => row(value, count, 1)),
      ]),
      ...(unknown ? [row('unknown', unknown.count, 0)] : []),
    ];
  }

  function folderRows(): Row[] {
    return (choices ?? []).map(({ value, count }) => {
      const slash = value.indexOf('/');
      const folder = {
        place: slash < 0 ? value : value.slice(0, slash),
        path: slash < 0 ? '' : value.slice(slash + 1),
        deep: query.folder?.deep ?? true,
      };
      return {
        label: value.slice(value.lastIndexOf('/') + 1),
        count,
        depth: value.split('/').length - 1,
        on: query.folder?.place === folder.place && query.folder.path === folder.path,
        next: { ...query, folder },
      };
    });
  }

  const rows = $derived.by((): Row[] => {
    const plain = (make: (value: string) => { label: string; on: boolean; next: Query }): Row[] =>
      (choices ?? []).map(({ value, count, under }) => ({
        count,
        depth: under ? 1 : 0,
        ...make(value),
      }));
    switch (field) {
      case 'order':
        return ORDERS.filter((by) => by !== 'hand' || query.collection).map((by) => ({
          label: ORDER_WORDS[by],
          count: null,
          depth: 0,
          on: query.order.by === by,
          next: {
            ...query,
            order: {
              by,
              down:
                query.order.by === by
                  ? !query.order.down
                  : by === 'taken' || by === 'rating' || by === 'brought' || by === 'size',
            },
          },
        }));
      case 'rated':
        return ratedRows();
      case 'taken':
        return takenRows();
      case 'folder':
        return folderRows();
      case 'kinds':
        return plain((value) => ({
          label: KIND_WORDS[value as Kind],
          on: query.kinds?.includes(value as Kind) ?? false,
          next: { ...query, kinds: toggled(query.kinds, value as Kind) },
        }));
      case 'stages':
        return plain((value) => ({
          label: value || 'none yet',
          on: query.stages?.includes(value) ?? false,
          next: { ...query, stages: toggled(query.stages, value) },
        }));
      case 'terms':
        return plain((value) => ({
          label: value,
          on: query.terms?.includes(value) ?? false,
          next: { ...query, terms: toggled(query.terms, value) },
        }));
      case 'lacking':
        return plain((value) => ({
          label: LACK_WORDS[value as Lackable],
          on: query.lacking?.includes(value as Lackable) ?? false,
          next: { ...query, lacking: toggled(query.lacking, value as Lackable) },
        }));
      case 'accession':
        return plain((value) => ({
          label: value,
          on: query.accession === value,
          next: { ...query, accession: value },
        }));
      case 'collection':
        return plain((value) => ({
          label: value,
          on: query.collection === value,
          next: { ...query, collection: value },
        }));
      default:
        return [];
    }
  });
  const shown = $derived(
    filter ? rows.filter(({ label }) => label.toLowerCase().includes(filter.toLowerCase())) : rows,
  );
  const isWords = $derived(field === 'words' || field === 'number');
  // svelte-ignore state_referenced_locally
  let text = $state(
    field === 'words'
      ? (query.words ?? '')
      : field === 'taken'
        ? (query.taken ?? '')
        : (query.number ?? ''),
  );

  function acceptText(): void {
    const value = text.trim();
    if (field === 'taken' && value && value !== 'unknown' && !takenFromText(value))
      return void (wrong = `“${value}” is no date; write 2026, 2026-09 or 2026-09-01/2026-09-12.`);
    onchange({ ...query, [field]: value || undefined });
  }
</script>

{#if isWords || field === 'taken'}
  <form onsubmit={(event) => (event.preventDefault(), acceptText())}>
    <input
      class="field"
      bind:value={text}
      aria-label={field === 'taken' ? 'Date or span' : 'Words'}
      placeholder={field === 'taken' ? '2026-09-01/2026-09-12' : 'words in names, texts, terms'}
    />
    <button class="button act" type="submit">Set</button>
  </form>
{/if}
{#if wrong}<p class="wrong note" role="alert">{wrong}</p>{/if}
{#if rows.length > 12 || filter}
  <div class="filter">
    <input
      class="field"
      bind:value={filter}
      aria-label="Narrow the choices"
      placeholder="narrow the choices"
    />
  </div>
{/if}
{#if field === 'folder' && query.folder}
  {@const folder = query.folder}
  <div class="levels" role="group" aria-label="Levels">
    <button
      type="button"
      aria-pressed={folder.deep}
      onclick={() => onchange({ ...query, folder: { ...folder, deep: true } })}>all levels</button
    >
    <button
      type="button"
      aria-pressed={!folder.deep}
      onclick={() => onchange({ ...query, folder: { ...folder, deep: false } })}>this level</button
    >
  </div>
{/if}
<ul>
  <!-- Folders of one name may lie at one depth: their place in the list tells them apart. -->
  {#each shown as row, at (at)}
    <li>
      <button
        class="row"
        class:on={row.on}
        class:none={row.count === 0}
        type="button"
        aria-pressed={row.on}
        style="padding-left:{14 + row.depth * 14}px"
        onclick={() => onchange(row.next)}
      >
        <span
          >{row.label}{#if field === 'order' && row.on}<em>
              · {query.order.down ? 'downwards' : 'upwards'}, turn</em
            >{/if}</span
        >
        {#if row.count !== null}<span class="mono">{formatCount(row.count)}</span>{/if}
      </button>
    </li>
  {:else}
    {#if !isWords}<li class="note pencil">
        {choices === null && field !== 'order' ? 'Counting …' : 'Nothing to choose.'}
      </li>{/if}
  {/each}
</ul>
{#if field !== 'order' && query[field] !== undefined}
  <button class="row any" type="button" onclick={() => onchange({ ...query, [field]: undefined })}
    >any: leave this out</button
  >
{/if}

<style>
  form,
  .filter {
    display: flex;
    gap: 8px;
    padding: 4px 12px 8px;
  }
  .row {
    display: flex;
    justify-content: space-between;
    gap: 16px;
    width: 100%;
    padding: 4px 14px;
    border: 0;
    background: none;
    text-align: left;
  }
  .row:hover {
    background: var(--wash);
  }
  .row.on {
    background: var(--wash);
    color: var(--verdigris);
    font-weight: 700;
  }
  .row.none {
    color: var(--pencil);
  }
  .any {
    margin-top: 4px;
    border-top: 1px solid var(--rule);
    padding-top: 8px;
    color: var(--verdigris);
  }
  .note {
    padding: 4px 14px;
  }
  em {
    color: var(--pencil);
    font-weight: 400;
  }
  .levels {
    display: flex;
    margin: 2px 12px 8px;
    border: 1px solid var(--rule);
    border-radius: 4px;
    overflow: hidden;
  }
  .levels button {
    flex: 1;
    border: 0;
    padding: 4px;
    background: none;
  }
  .levels button[aria-pressed='true'] {
    background: var(--ink);
    color: var(--card);
  }
</style>
