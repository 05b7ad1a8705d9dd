<script lang="ts">
  import { EMPTY_RECORD, type FieldKey } from '#core/records/fields';
  import Columns3 from '@lucide/svelte/icons/columns-3';
  import { untrack } from 'svelte';
  import { isPlain, moved, resized, type Column } from '#core/register/columns';
  import { valueWritten } from '#core/records/written';
  import { can, knownField } from '#core/fields/registry';
  import type { Picked } from '#core/query/picked';
  import type { Query } from '#core/query/tree';
  import type { Stage } from '#core/stages/stages';
  import { counted } from '#core/text/quantities';
  import { api } from '../common/api';
  import { sayDone, sayWrong } from '../common/notices.svelte';
  import Rows from '../common/Rows.svelte';
  import Sheet from '../common/Sheet.svelte';
  import SheetRow from '../sentence/SheetRow.svelte';
  import { carried } from '../wall/carry';
  import { Paged } from '../wall/paged.svelte';
  import type { Selection } from '../wall/selection.svelte';
  import type { TileStore } from '../wall/tiles.svelte';
  import Cell from './Cell.svelte';
  import ColumnsSheet from './ColumnsSheet.svelte';
  import Head from './Head.svelte';
  import { saveTable, tableText } from './table';

  interface Props {
    total: number;
    store: TileStore;
    selection: Selection;
    focus: number;
    order: Query['order'];
    stages: Stage[];
    columns: Column[];
    canDescribe: boolean;
    /** Folded words that were searched for. */
    words: readonly string[];
    /** Changes when what was fetched is true no more. */
    version: unknown;
    oncolumns: (columns: Column[]) => void;
    onpick: (index: number, event: MouseEvent) => void;
    onopen: (index: number) => void;
    onorder: (by: string) => void;
    onkeys: (event: KeyboardEvent) => void;
    onmove: (from: number, to: number, event: KeyboardEvent) => void;
  }
  let {
    total,
    store,
    selection,
    focus = $bindable(-1),
    order,
    stages,
    columns,
    canDescribe,
    words,
    version,
    oncolumns,
    onpick,
    onopen,
    onorder,
    onkeys,
    onmove,
  }: Props = $props();
  let rows = $state<Rows>();
  let grid = $state<HTMLElement>();
  let side = $state(0);
  /** Column the keyboard stands on. */
  let at = $state(0);
  let writes = $state(false);
  let choosing = $state<HTMLElement>();
  let seen: [number, number] = [0, 0];

  type Cells = { id: string; values: Record<string, unknown> };
  const keysShown = $derived(columns.map(({ key }) => key).join(','));
  const cells = $derived.by(() => {
    const fields = keysShown;
    const { query } = store;
    return new Paged<Cells>((offset, limit) =>
      api.get('/api/catalogue/cells', { q: query, offset, limit, fields }),
    );
  });
  $effect(() => {
    const own = cells;
    untrack(() => void own.want(...seen));
  });
  $effect(() => {
    void version;
    untrack(() => void cells.refresh());
  });

  const PICTURE = 48;
  const GAP = 8;
  const EDGE = 12;
  const template = $derived(
    `${PICTURE}px ${columns.map(({ width }) => `${width}px`).join(' ')} minmax(0, 1fr)`,
  );
  const wide = $derived(
    EDGE * 2 + PICTURE + columns.reduce((sum, { width }) => sum + width + GAP, 0) + GAP,
  );

  const picked = (): Picked => {
    const id = store.at(focus)?.id;
    return selection.size > 0 ? selection.picked : id ? [id] : { q: store.query, except: [] };
  };
  async function copy(): Promise<void> {
    try {
      // Browsers keep the clipboard from pages that came without encryption.
      if (!window.isSecureContext) return await saveTable(picked(), columns);
      await navigator.clipboard.writeText(await tableText(picked(), columns));
      sayDone(`${counted(selection.size || (focus >= 0 ? 1 : total), 'row')} copied as CSV.`);
    } catch (error) {
      sayWrong(error);
    }
  }

  function keys(event: KeyboardEvent): void {
    if (writes) return;
    const moves: Record<string, number> = {
      ArrowDown: 1,
      ArrowUp: -1,
      PageDown: 15,
      PageUp: -15,
      Home: -Infinity,
      End: Infinity,
    };
    const aside: Record<string, number> = { ArrowRight: 1, ArrowLeft: -1 };
    if (event.key.toLowerCase() === 'c' && (event.ctrlKey || event.metaKey)) void copy();
    else if (aside[event.key] && !event.altKey)
      at = Math.max(0, Math.min(columns.length - 1, at + aside[event.key]!));
    // A name is the file's: the page knows how that is changed.
    else if (event.key === 'F2' && focus >= 0 && columns[at]?.key !== 'name') write(at);
    else {
      const step = moves[event.key];
      if (step === undefined) return onkeys(event);
      const before = focus;
      focus = Math.max(0, Math.min(total - 1, focus + step));
      rows?.show(focus);
      onmove(before, focus, event);
    }
    event.preventDefault();
  }

  function write(column: number): void {
    const field = knownField(columns[column]!.key);
    if (!can(field, 'edit'))
      return sayWrong(new Error(`${field.label} is read from the file or known to the archive.`));
    if (!canDescribe) return;
    if (!isPlain(field)) return sayWrong(new Error(`${field.label} is chosen on the record card.`));
    at = column;
    writes = true;
  }

  /** What was seen in the cell; a date is shown in other words than it is kept. */
  const baseOf = (key: FieldKey, values: Record<string, unknown>): Record<string, unknown> =>
    key === 'taken' ? {} : { [key]: values[key] ?? EMPTY_RECORD[key] };

  /** One record changes; who else changed it since is told, not overwritten. */
  async function save(index: number, text: string | null, next: boolean): Promise<void> {
    writes = false;
    grid?.focus({ preventScroll: true });
    const [row, tile] = [cells.at(index), store.at(index)];
    const field = knownField(columns[at]!.key);
    if (text !== null && row && tile) {
      const change = { [field.key]: valueWritten(field, text) };
      try {
        await api.patch('/api/records', {
          ids: [row.id],
          change,
          versions: { [row.id]: tile.version },
          base: baseOf(field.key as FieldKey, row.values),
        });
      } catch (error) {
        sayWrong(error);
      }
      await Promise.all([cells.refresh(), store.refresh()]);
    }
    if (next && index + 1 < total) {
      focus = index + 1;
      rows?.show(focus);
      selection.clear();
    }
  }
</script>

<div
  bind:this={grid}
  class="register"
  role="grid"
  aria-label="Register"
  aria-rowcount={total + 1}
  aria-colcount={columns.length + 1}
  aria-multiselectable="true"
  aria-activedescendant={focus >= 0 ? `cell-${focus}-${at}` : undefined}
  tabindex="0"
  onkeydown={keys}
>
  <div class="top" role="rowgroup">
    <div
      class="line head"
      role="row"
      aria-rowindex={1}
      style="grid-template-columns:{template};min-width:{wide}px;transform:translateX({-side}px)"
    >
      <div role="columnheader" class="corner">
        <button
          type="button"
          aria-label="Columns"
          aria-haspopup="dialog"
          aria-expanded={choosing !== undefined}
          onclick={(event) => (choosing = choosing ? undefined : event.currentTarget)}
          ><Columns3 size={15} aria-hidden="true" /></button
        >
      </div>
      {#each columns as column, place (column.key)}
        <Head
          {column}
          {place}
          {order}
          {onorder}
          onresize={(width) => oncolumns(resized(columns, column.key, width))}
          onplace={(key, to) => oncolumns(moved(columns, key, to))}
        />
      {/each}
    </div>
  </div>
  <div class="rest" role="rowgroup">
    <Rows
      bind:this={rows}
      count={total}
      rowHeight={40}
      {wide}
      onvisible={(from, to) => {
        seen = [from, to];
        void store.want(from, to);
        void untrack(() => cells).want(from, to);
      }}
      onside={(left) => (side = left)}
    >
      {#snippet row(index)}
        {@const tile = store.at(index)}
        {@const values = cells.at(index)?.values}
        <!-- svelte-ignore a11y_click_events_have_key_events -->
        <div
          class="line"
          class:selected={tile && selection.has(tile.id)}
          id="row-{index}"
          use:carried={tile?.id}
          class:focused={index === focus}
          role="row"
          tabindex="-1"
          style="grid-template-columns:{template}"
          aria-rowindex={index + 2}
          aria-selected={tile ? selection.has(tile.id) : false}
          onclick={(event) => onpick(index, event)}
          ondblclick={() => onopen(index)}
        >
          <div role="gridcell" class="thumb">
            {#if tile?.pictureState === 'ready'}<img
                src="/api/pictures/{tile.picture}/small"
                alt=""
                loading="lazy"
              />{/if}
          </div>
          {#each columns as { key }, place (key)}
            <Cell
              id="cell-{index}-{place}"
              field={knownField(key)}
              value={values?.[key]}
              known={values !== undefined}
              {stages}
              {words}
              marked={index === focus && place === at}
              writes={writes && index === focus && place === at}
              onpoint={() => {
                if (!writes) at = place;
              }}
              onwrite={canDescribe && isPlain(knownField(key)) ? () => write(place) : undefined}
              onsave={(text, next) => void save(index, text, next)}
            />
          {/each}
        </div>
      {/snippet}
    </Rows>
  </div>
</div>
{#if choosing}
  <Sheet label="Columns" anchor={choosing} onclose={() => (choosing = undefined)}>
    <SheetRow onclick={() => void copy()}
      >copy {selection.size ? 'what is selected' : focus >= 0 ? 'this row' : 'everything'} as CSV
      <kbd>Ctrl C</kbd></SheetRow
    >
    <SheetRow onclick={() => void saveTable(picked(), columns).catch(sayWrong)}
      >save it as a CSV file</SheetRow
    >
    <hr />
    <ColumnsSheet {columns} onchange={oncolumns} />
  </Sheet>
{/if}

<style>
  .register {
    display: grid;
    grid-template-rows: 32px minmax(0, 1fr);
    height: 100%;
    background: var(--card);
    outline-offset: -2px;
    min-width: 0;
  }
  .top {
    overflow: hidden;
    scrollbar-gutter: stable;
  }
  .rest {
    min-height: 0;
  }
  .line {
    display: grid;
    gap: 8px;
    align-items: center;
    height: 40px;
    padding: 0 12px;
    border-bottom: 1px solid var(--rule);
    user-select: none;
    cursor: default;
  }
  .head {
    height: 32px;
    border-bottom: 1px solid var(--ink);
  }
  .corner button {
    border: 1px solid var(--rule);
    border-radius: 4px;
    width: 32px;
    min-height: 24px;
    padding: 3px 0 0;
    background: none;
  }
  .line.selected {
    background: var(--wash);
  }
  .line.focused {
    outline: 2px solid var(--ink);
    outline-offset: -2px;
  }
  hr {
    border: 0;
    border-top: 1px solid var(--rule);
  }
  img {
    display: block;
    width: 48px;
    height: 32px;
    object-fit: cover;
    background: var(--well);
  }
</style>
