<script lang="ts">
  import { area, line, scaleLinear } from 'd3';
  import { goto } from '$app/navigation';
  import { knownField } from '#core/fields/registry';
  import { formatQuery } from '#core/query/grammar';
  import { EVERYTHING, has, is, not, type Condition, type Query } from '#core/query/tree';
  import { ratedWords } from '#core/query/words';
  import { formatBytes, formatCount } from '#core/text/quantities';
  import Figure from '$lib/ui/census/Figure.svelte';
  import { freshen } from '$lib/ui/common/freshen';
  import { calmly, hear, isAboutCounts } from '$lib/ui/common/live';
  import Sentence from '$lib/ui/sentence/Sentence.svelte';
  import Bars from '$lib/ui/timeline/Bars.svelte';
  import type { PageProps } from './$types';

  const { data }: PageProps = $props();
  const text = $derived(formatQuery(data.query));
  const address = (query: Query): string =>
    `/catalogue?q=${encodeURIComponent(formatQuery(query))}`;
  const withIt = (condition: Condition): string =>
    address({ ...EVERYTHING, where: [...data.query.where, condition] });

  $effect(() => {
    const soon = calmly(() => void freshen('mindful:census'), 1500);
    return hear((message) => {
      if (isAboutCounts(message)) soon();
    });
  });
  const ask = (query: Query): void =>
    void goto(`/census?q=${encodeURIComponent(formatQuery(query))}`, { keepFocus: true });

  const hours = $derived(
    Array.from({ length: 24 }, (_, hour) => {
      const at = String(hour).padStart(2, '0');
      return {
        label: `${hour}:00`,
        count: data.census.hours.bins.find((bin) => bin.at === at)?.count ?? 0,
      };
    }),
  );
  const WIDTH = 270;
  const HEIGHT = 96;
  const growth = $derived.by(() => {
    let sum = 0;
    const points = data.census.growth.bins.map(({ bytes }) => (sum += bytes));
    return points.length === 1 ? [0, ...points] : points;
  });
  const x = $derived(scaleLinear([0, Math.max(1, growth.length - 1)], [0, WIDTH]));
  const y = $derived(scaleLinear([0, Math.max(1, growth.at(-1) ?? 1)], [HEIGHT, 4]));
  const curve = $derived(
    line<number>(
      (_, at) => x(at),
      (value) => y(value),
    )(growth) ?? '',
  );
  const under = $derived(
    area<number>(
      (_, at) => x(at),
      HEIGHT,
      (value) => y(value),
    )(growth) ?? '',
  );
  const lately = $derived(data.census.growth.bins.at(-1));
  const TONES: Record<string, string> = {
    creditLine: 'wax',
    single: 'wax',
    missing: 'wax',
    taken: 'ochre',
    terms: 'ochre',
    twin: 'ochre',
  };
</script>

<svelte:head><title>Census · Mindful Archive</title></svelte:head>

<div class="census">
  <section class="ask" aria-label="The sentence">
    <div>
      <h1 class="unseen">Census</h1>
      <Sentence
        query={data.query}
        labels={data.labels}
        total={data.census.total}
        onchange={ask}
        isCounted
      />
      {#if data.unclear}<p class="wrong" role="alert">
          {data.unclear} Everything is counted instead.
        </p>{/if}
    </div>
    <div class="acts">
      <button class="button" type="button" onclick={() => window.print()}>Print</button>
      <a class="button" href="/api/catalogue/census?q={encodeURIComponent(text)}" download
        >Save as CSV</a
      >
    </div>
  </section>
  <div class="sheet">
    <section class="gaps">
      <h2>What is missing</h2>
      <p class="pencil">Each opens what it counts.</p>
      <ul>
        {#each data.census.gaps as { key, label, count, q } (key)}
          <li>
            <a
              href="/catalogue?q={encodeURIComponent(q)}"
              class={count === 0 ? 'well' : (TONES[key] ?? 'plain')}
              ><b>{formatCount(count)}</b><span>{label}</span></a
            >
          </li>
        {/each}
      </ul>
    </section>
    <div class="figures">
      {#each data.census.fields as { key, choices, lacking } (key)}
        {@const field = knownField(key)}
        <Figure
          {field}
          {choices}
          {lacking}
          hrefOf={(value) => withIt(value === null ? not(has(key)) : is(key, value))}
          wordsOf={({ label, value }) =>
            key === 'rating' ? ratedWords(Number(value), Number(value)) : label}
        />
      {/each}
      <section>
        <h2>Hours of the day</h2>
        <Bars
          bars={hours}
          height={96}
          label="How many were taken at which hour"
          ticks={[0, 6, 12, 18].map((at) => ({ at, text: `${at}:00` }))}
          onchoose={() => void goto(address(data.query))}
        />
      </section>
      <section>
        <h2>Growth</h2>
        <p class="pencil">
          {formatBytes(data.census.bytes)}{#if lately}, {formatBytes(lately.bytes)} in {lately.at}{/if}
        </p>
        <svg
          width={WIDTH}
          height={HEIGHT}
          role="img"
          aria-label="Bytes held, by the month brought in"
        >
          <path class="under" d={under} /><path class="curve" d={curve} />
          <line x1="0" x2={WIDTH} y1={HEIGHT - 0.5} y2={HEIGHT - 0.5} />
        </svg>
      </section>
    </div>
  </div>
</div>

<style>
  .census {
    display: grid;
    grid-template-rows: auto minmax(0, 1fr);
    height: 100%;
  }
  .ask {
    display: flex;
    gap: 24px;
    justify-content: space-between;
    align-items: center;
    min-height: 58px;
    padding: 10px 16px;
    border-bottom: 1px solid var(--ink);
    background: var(--card);
  }
  .acts {
    display: flex;
    gap: 8px;
    flex: none;
  }
  .sheet {
    padding: 14px 24px 40px;
    overflow: auto;
  }
  h2 {
    font: 500 16.5px var(--book);
  }
  .gaps {
    margin-bottom: 14px;
    border-bottom: 1px solid var(--rule);
    padding-bottom: 10px;
  }
  .gaps ul {
    display: flex;
    flex-wrap: wrap;
    gap: 6px 34px;
  }
  .gaps a {
    display: grid;
    color: inherit;
    text-decoration: none;
  }
  .gaps b {
    font: 500 28px/1.2 var(--book);
  }
  .gaps span {
    color: var(--pencil);
  }
  .wax b {
    color: var(--wax);
  }
  .ochre b {
    color: var(--ochre);
  }
  .well b {
    color: var(--verdigris);
  }
  .plain b {
    color: var(--pencil);
  }
  .gaps a:hover span {
    text-decoration: underline;
  }
  .figures {
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(270px, 1fr));
    gap: 20px 40px;
  }
  .under {
    fill: var(--wash);
  }
  .curve {
    fill: none;
    stroke: var(--verdigris);
    stroke-width: 2;
  }
  line {
    stroke: var(--ink);
  }
  @media print {
    .acts,
    .ask :global(.more) {
      display: none;
    }
    .sheet {
      overflow: visible;
    }
  }
</style>
