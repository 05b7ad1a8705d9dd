<script lang="ts">
  import { goto } from '$app/navigation';
  import { counted, formatBytes, formatCount, formatEta } from '#core/text/quantities';
  import { api } from '../common/api';
  import { sayDone, sayWrong } from '../common/notices.svelte';
  import PatternField from '../rename/PatternField.svelte';

  interface Place {
    id: string;
    name: string;
    root: string;
    handsOff: boolean;
  }
  interface Preview {
    lines: {
      position: number;
      from: string;
      folder: string;
      name: string;
      problem: string | null;
    }[];
    folders: { path: string; count: number; joins: number }[];
    problems: number;
    bytes: number;
  }
  interface Props {
    scanId: string;
    positions: number[];
    name: string;
    /** Everything was looked at: dates and what is held are known. */
    ready: boolean;
    places: Place[];
    canAddPlace: boolean;
    remembered: Record<string, unknown> | null;
  }
  const { scanId, positions, name, ready, places, canAddPlace, remembered }: Props = $props();
  /** What a verified copy of a card reaches here: read, write, read back. */
  const BYTES_PER_SECOND = 60e6;

  const text = (key: string, fallback: string): string =>
    typeof remembered?.[key] === 'string' ? (remembered[key] as string) : fallback;
  // svelte-ignore state_referenced_locally
  let placeId = $state(
    places.find(({ id }) => id === remembered?.['placeId'])?.id ??
      places.find(({ handsOff }) => !handsOff)?.id ??
      '',
  );
  let filing = $state(text('filing', 'Wind Week/[taken yyyy-MM-dd]/[camera]'));
  let naming = $state(text('naming', 'SLT-[taken MMdd]-[counter 0001 by day]'));
  let terms = $state(text('terms', ''));
  // svelte-ignore state_referenced_locally
  let title = $state(name);
  let newPlace = $state('');
  let preview = $state.raw<Preview | null>(null);
  let wrong = $state('');
  let busy = $state(false);
  let showsAll = $state(false);
  const plan = $derived({
    filing,
    naming,
    terms: terms
      .split(',')
      .map((term) => term.trim())
      .filter(Boolean),
  });

  $effect(() => {
    const wish = { scanId, positions, placeId, plan };
    void ready;
    if (!placeId) return;
    const timer = setTimeout(() => {
      api
        .post<Preview>('/api/intake/plan', wish)
        .then((found) => {
          preview = found;
          wrong = '';
        })
        .catch((error: Error) => (wrong = error.message));
    }, 200);
    return () => clearTimeout(timer);
  });

  async function addPlace(): Promise<void> {
    try {
      const place = await api.post<Place>('/api/places', { name: newPlace });
      places.push(place);
      placeId = place.id;
      newPlace = '';
    } catch (error) {
      sayWrong(error);
    }
  }

  async function start(): Promise<void> {
    busy = true;
    try {
      const { number } = await api.post<{ number: string }>('/api/intake/accessions', {
        scanId,
        positions,
        placeId,
        title: title.trim() || name,
        plan,
      });
      void api.put('/api/remembered/intake-plan', { placeId, filing, naming, terms });
      sayDone(`Accession ${number} is underway.`, {
        label: 'See it arrive',
        run: () => goto(`/catalogue?q=${encodeURIComponent(`accession ${number}`)}`),
      });
      await goto('/intake');
    } catch (error) {
      wrong = (error as Error).message;
    } finally {
      busy = false;
    }
  }
  const place = $derived(places.find(({ id }) => id === placeId));
  const lines = $derived(
    preview
      ? showsAll
        ? preview.lines
        : [...preview.lines.slice(0, 3), ...preview.lines.slice(3).slice(-1)]
      : [],
  );
</script>

<aside class="plan" aria-label="Intake plan">
  <div class="body">
    <h2>
      <label
        >Accession <input
          class="title"
          bind:value={title}
          aria-label="Title of the accession"
        /></label
      >
    </h2>
    <ol>
      <li>
        <p>Bring them in by <strong>copying and verifying</strong>; leave the source as it is.</p>
      </li>
      <li>
        <p>
          File them in
          <select class="choice" aria-label="Place" bind:value={placeId}>
            {#each places as one (one.id)}<option value={one.id} disabled={one.handsOff}
                >{one.name}</option
              >{/each}
          </select>
          under
        </p>
        {#if canAddPlace}
          <form class="new" onsubmit={(event) => (event.preventDefault(), void addPlace())}>
            <input
              class="field"
              bind:value={newPlace}
              aria-label="Name of a new place"
              placeholder="or a new place"
            />
            {#if newPlace.trim()}<button class="button" type="submit">Make it</button>{/if}
          </form>
        {/if}
        <PatternField
          value={filing}
          label="Filing pattern"
          folders
          onchange={(value) => (filing = value)}
        />
        {#if preview}
          <ul class="mono result">
            {#each preview.folders.slice(0, 6) as folder (folder.path)}
              <li>
                <span>{folder.path ? `${folder.path}/` : `${place?.name ?? ''}/`}</span><span
                  >{folder.count} new{folder.joins ? `, joins ${folder.joins}` : ''}</span
                >
              </li>
            {/each}
            {#if preview.folders.length > 6}<li>
                and {preview.folders.length - 6} folders more
              </li>{/if}
          </ul>
        {/if}
      </li>
      <li>
        <p>Name them</p>
        <PatternField value={naming} label="Name pattern" onchange={(value) => (naming = value)} />
        {#if preview}
          <ul class="mono result names">
            {#each lines as line (line.position)}
              <li class:bad={line.problem}>
                <span class="pencil">{line.from}</span><span
                  >{line.name}{#if line.problem}<em> {line.problem}</em>{/if}</span
                >
              </li>
            {/each}
          </ul>
          {#if preview.lines.length > 4}
            <button class="link" type="button" onclick={() => (showsAll = !showsAll)}
              >{showsAll
                ? 'Show a few'
                : `Show all ${formatCount(preview.lines.length)} names`}</button
            >
          {/if}
        {/if}
      </li>
      <li>
        <p>Give them the terms</p>
        <input class="field" bind:value={terms} aria-label="Terms" placeholder="Kite, Wind Week" />
      </li>
      <li>
        <p>Skip <strong>what is already held</strong>, unless you tick it.</p>
      </li>
    </ol>
    {#if wrong}<p class="wrong" role="alert">{wrong}</p>{/if}
  </div>
  <footer>
    <button
      class="button act"
      type="button"
      disabled={busy ||
        !ready ||
        positions.length === 0 ||
        !placeId ||
        wrong !== '' ||
        (preview?.problems ?? 1) > 0}
      onclick={() => void start()}
    >
      Bring in {counted(positions.length, 'item')}
    </button>
    {#if !ready}<span class="caution">still looking through it</span>
    {:else if preview}
      <span class="mono pencil"
        >{formatBytes(preview.bytes)} · {formatEta(preview.bytes / BYTES_PER_SECOND)}</span
      >
      {#if preview.problems}<span class="wrong"
          >{counted(preview.problems, 'name')} cannot be given</span
        >{/if}
    {/if}
  </footer>
</aside>

<style>
  .plan {
    display: grid;
    grid-template-rows: minmax(0, 1fr) auto;
    min-height: 0;
    border-left: 1px solid var(--ink);
    background: var(--card);
  }
  .body {
    padding: 12px 20px;
    overflow: auto;
  }
  h2 {
    padding-bottom: 8px;
    white-space: nowrap;
  }
  h2 label {
    display: flex;
    gap: 6px;
    align-items: baseline;
  }
  .title {
    flex: 1;
    min-width: 0;
    border: 0;
    border-bottom: 1px solid transparent;
    background: none;
    font: italic 20px var(--book);
    color: var(--verdigris);
  }
  .title:hover {
    border-color: var(--rule);
  }
  ol {
    counter-reset: step;
  }
  ol > li {
    position: relative;
    padding: 10px 0 10px 30px;
    border-top: 1px solid var(--rule);
    counter-increment: step;
  }
  ol > li::before {
    content: counter(step);
    position: absolute;
    left: 0;
    top: 9px;
    color: var(--pencil);
    font: 16.5px var(--book);
  }
  ol p {
    margin-bottom: 6px;
    font: 16.5px/1.35 var(--book);
  }
  li:last-child p {
    margin: 0;
  }
  strong {
    color: var(--ink);
    font-weight: 600;
  }
  select.choice option {
    font-style: normal;
    background: var(--card);
    color: var(--ink);
  }
  .new {
    display: flex;
    gap: 6px;
    margin-bottom: 6px;
  }
  .result {
    margin-top: 6px;
  }
  .result li {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto;
    gap: 10px;
    overflow-wrap: anywhere;
  }
  .names li {
    grid-template-columns: minmax(0, 1fr) minmax(0, 1.3fr);
  }
  em {
    color: var(--wax);
  }
  footer {
    display: flex;
    gap: 12px;
    align-items: center;
    padding: 12px 20px;
    border-top: 1px solid var(--ink);
    background: var(--paper);
  }
</style>
