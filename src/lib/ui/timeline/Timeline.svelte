<script lang="ts">
  import { formatQuery } from '#core/query/grammar';
  import { has, isCondition, not, replaced, type Query } from '#core/query/tree';
  import { dateWords, withinWords } from '#core/query/words';
  import { takenFromText } from '#core/records/taken';
  import { formatCount } from '#core/text/quantities';
  import type { Density, Unit } from '#core/timeline/bins';
  import { spanOf, stepsOf, type Step } from '#core/timeline/steps';
  import { api } from '../common/api';
  import Bars from './Bars.svelte';

  interface Props {
    query: Query;
    /** Changes when what was counted is true no more. */
    version: unknown;
    onask: (query: Query) => void;
  }
  const { query, version, onask }: Props = $props();
  const at = $derived(
    query.where.findIndex(
      (node) => isCondition(node) && node.field === 'taken' && node.test === 'within' && !node.not,
    ),
  );
  const chosen = $derived.by(() => {
    const node = query.where[at];
    return node && isCondition(node) ? String(node.values[0]) : null;
  });
  const whole = $derived(at >= 0 ? replaced(query, at, null) : query);
  let all = $state.raw<Density | null>(null);
  let near = $state.raw<Density | null>(null);
  let wrong = $state('');

  const ask = (q: string, unit: Unit): Promise<Density> =>
    api.get('/api/catalogue/density', { q, unit });
  $effect(() => {
    void version;
    const q = formatQuery(whole);
    ask(q, 'month')
      .then((found) => (all = found))
      .catch((error: Error) => (wrong = error.message));
  });
  const DAY_MS = 86_400_000;
  $effect(() => {
    void version;
    const span = chosen ? takenFromText(chosen) : null;
    if (!span) return void (near = null);
    const days = (Date.parse(`${span.to}Z`) - Date.parse(`${span.from}Z`)) / DAY_MS;
    const q = formatQuery(query);
    ask(q, days <= 5 ? 'hour' : days <= 400 ? 'day' : 'month')
      .then((found) => (near = found))
      .catch((error: Error) => (wrong = error.message));
  });

  const top = $derived(stepsOf(all?.bins ?? [], 'month'));
  const below = $derived(near ? stepsOf(near.bins, near.unit) : null);
  const marked = $derived.by((): [number, number] | null => {
    const span = chosen ? takenFromText(chosen) : null;
    if (!span) return null;
    const inside = ({ edtf }: Step): boolean => {
      const own = takenFromText(edtf);
      return own !== null && own.from <= span.to && own.to >= span.from;
    };
    const first = top.steps.findIndex(inside);
    const last = top.steps.findLastIndex(inside);
    return first < 0 ? null : [first, last];
  });
  const dated = $derived((all?.bins ?? []).reduce((sum, { count }) => sum + count, 0));
  const wide = $derived((all?.wide ?? []).reduce((sum, { count }) => sum + count, 0));

  function choose(steps: Step[], from: number, to: number): void {
    const [first, last] = [steps[from], steps[to]];
    if (!first || !last) return;
    onask(replaced(query, at, { field: 'taken', test: 'within', values: [spanOf(first, last)] }));
  }
  /** A label where a year, or a month, begins. */
  function ticksOf(steps: Step[], unit: Unit): { at: number; text: string }[] {
    const found: { at: number; text: string }[] = [];
    let last = '';
    steps.forEach(({ edtf, label }, index) => {
      const text =
        unit === 'month'
          ? edtf.slice(0, 4)
          : unit === 'day'
            ? label.split(' ').slice(1).join(' ')
            : unit === 'hour'
              ? label.split(',')[0]!
              : label;
      if (text !== last) found.push({ at: index, text });
      last = text;
    });
    const every = Math.ceil(found.length / 14);
    return found.filter((_, index) => index % every === 0);
  }
</script>

<section class="timeline" aria-label="Timeline">
  <header>
    <h2>
      {top.steps.length ? `${top.steps[0]!.label} to ${top.steps.at(-1)!.label}` : 'No dates'}
    </h2>
    <span class="pencil">
      {formatCount(dated)} dated ·
      <button
        class="link"
        type="button"
        onclick={() => onask({ ...whole, where: [...whole.where, not(has('taken'))] })}
        >{formatCount(all?.unknown ?? 0)} undated</button
      >{#if wide}
        · {formatCount(wide)} known less exactly than a month{/if}
    </span>
    {#if chosen}<button class="link" type="button" onclick={() => onask(whole)}
        >the whole span</button
      >{/if}
  </header>
  {#if wrong}<p class="wrong" role="alert">{wrong}</p>{/if}
  <Bars
    bars={top.steps}
    label="How many were taken when; drag to restrict"
    chosen={marked}
    ticks={ticksOf(top.steps, top.unit)}
    brushes
    onchoose={(from, to) => choose(top.steps, from, to)}
  />
  {#if chosen && below && below.steps.length > 1}
    <header class="near">
      <h2>{withinWords(chosen).replace(/^(in|on|from) /, '')}</h2>
      <span class="pencil">drag to restrict, Enter to look at it on the wall</span>
    </header>
    <Bars
      bars={below.steps}
      label="The chosen span, nearer: {dateWords(chosen)}"
      height={64}
      ticks={ticksOf(below.steps, below.unit)}
      brushes
      onchoose={(from, to) => choose(below.steps, from, to)}
    />
  {/if}
</section>

<style>
  .timeline {
    padding: 8px 24px 10px;
    border-bottom: 1px solid var(--ink);
    background: var(--card);
  }
  header {
    display: flex;
    gap: 14px;
    align-items: baseline;
    margin-bottom: 6px;
  }
  .near {
    margin-top: 8px;
  }
  h2 {
    font: 500 16.5px var(--book);
  }
  .link {
    border: 0;
    padding: 0;
    background: none;
  }
</style>
