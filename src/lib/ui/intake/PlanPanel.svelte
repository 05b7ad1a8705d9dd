<script lang="ts">
  import type { PlanPreview } from '#core/intake/plan';
  import { counted, formatBytes, formatCount, formatEta } from '#core/text/quantities';
  import { api } from '../common/api';
  import { sayDone, sayWrong } from '../common/notices.svelte';
  import PatternField from '../rename/PatternField.svelte';
  import { decisionsFor, type Decisions } from './choice';
  import { planOf, type Draft, type PlaceChoice } from './draft';
  import PlanClocks from './PlanClocks.svelte';
  import PlanResult from './PlanResult.svelte';
  import PlanStamp from './PlanStamp.svelte';
  import SavedPlans from './SavedPlans.svelte';
  import type { NamedPlan, Scan, ScanFile } from './types';

  interface Props {
    scan: Scan;
    /** Files of this group. */
    files: ScanFile[];
    decisions: Decisions;
    /** Folders that come in as one item each. */
    bundles: string[];
    draft: Draft;
    /** Everything was looked at: dates and what is held are known. */
    ready: boolean;
    places: PlaceChoice[];
    /** Bytes a second at which the latest accessions came in; null before the first. */
    speed: number | null;
    plans: NamedPlan[];
    canAddPlace: boolean;
    /** With the number of the accession that began. */
    onstarted: (number: string) => void;
  }
  let {
    scan,
    files,
    decisions,
    bundles,
    draft = $bindable(),
    ready,
    places,
    speed,
    plans,
    canAddPlace,
    onstarted,
  }: Props = $props();
  const MOST_FOLDERS = 6;

  let newPlace = $state('');
  let preview = $state.raw<PlanPreview | null>(null);
  let wrong = $state('');
  let busy = $state(false);
  let showsAll = $state(false);
  const positions = $derived(files.map(({ position }) => position));
  const plan = $derived(planOf(draft));
  const place = $derived(places.find(({ id }) => id === draft.placeId));
  const second = $derived(places.find(({ id }) => id === draft.secondCopyId));
  const bytes = $derived(files.reduce((sum, { size }) => sum + size, 0));
  const amount = $derived(`${counted(files.length, 'file')} (${formatBytes(bytes)})`);
  const needsWord = $derived(draft.mode === 'move' && !draft.secondCopyId);
  const folders = $derived.by(() => {
    const all = preview?.folders ?? [];
    const rows = all.slice(0, MOST_FOLDERS).map(({ path, count, joins }) => ({
      key: path,
      left: `${path || (place?.name ?? '')}/`,
      right: `${count} new${joins ? `, joins ${joins}` : ''}`,
    }));
    const more = all.length - rows.length;
    return more > 0 ? [...rows, { key: '…', left: `and ${more} folders more`, right: '' }] : rows;
  });
  const names = $derived.by(() => {
    const all = preview?.lines ?? [];
    const shown = showsAll ? all : [...all.slice(0, 3), ...all.slice(3).slice(-1)];
    return shown.map(({ position, from, name, problem }) => ({
      key: position,
      left: from,
      right: name,
      problem,
    }));
  });

  $effect(() => {
    const wish = { scanId: scan.id, positions, placeId: draft.placeId, plan };
    void ready;
    if (!draft.placeId || draft.mode === 'in-place') {
      preview = null;
      wrong = '';
      return;
    }
    const timer = setTimeout(() => {
      api
        .post('/api/intake/plan', wish)
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
      const made = await api.post('/api/places', { name: newPlace });
      places.push(made);
      draft.placeId = made.id;
      newPlace = '';
    } catch (error) {
      sayWrong(error);
    }
  }

  async function startOver(): Promise<void> {
    try {
      await api.delete('/api/intake/counters', { placeId: draft.placeId, pattern: draft.naming });
      draft.countersGoOn = true;
      preview = await api.post('/api/intake/plan', {
        scanId: scan.id,
        positions,
        placeId: draft.placeId,
        plan,
      });
    } catch (error) {
      sayWrong(error);
    }
  }

  async function start(): Promise<void> {
    busy = true;
    try {
      const { number } = await api.post('/api/intake/accessions', {
        scanId: scan.id,
        positions,
        mode: draft.mode,
        placeId: draft.mode === 'in-place' ? null : draft.placeId,
        title: draft.title.trim() || scan.source.name,
        plan,
        singleCopy: draft.singleCopy,
        decisions: decisionsFor(files, decisions),
        bundles: $state.snapshot(bundles),
      });
      sayDone(`Accession ${number} is underway.`);
      onstarted(number);
    } catch (error) {
      wrong = (error as Error).message;
    } finally {
      busy = false;
    }
  }
</script>

<aside class="plan" aria-label="Intake plan">
  <div class="body">
    <h2>
      <label
        >Accession <input
          class="title"
          bind:value={draft.title}
          aria-label="Title of the accession"
        /></label
      >
    </h2>
    <SavedPlans {plans} {places} bind:draft />
    <ol>
      <li>
        <p>
          Bring them in by
          <select class="choice" aria-label="Way in" bind:value={draft.mode}>
            <option value="copy">copying and verifying</option>
            <option value="move">moving: copy, verify, then delete there</option>
            <option value="in-place">keeping them in place</option>
          </select>
        </p>
        <p class="says">
          {#if draft.mode === 'copy'}
            {amount} from <span class="mono">{scan.root}</span> to
            <span class="mono">{place?.root ?? '…'}</span>. The source stays as it is; emptying it
            is a step of its own afterwards.
          {:else if draft.mode === 'move'}
            {amount} from <span class="mono">{scan.root}</span> to
            <span class="mono">{place?.root ?? '…'}</span>. Each source file is deleted once its own
            copy was read back and found the same.
          {:else}
            {amount} stay where they are; not a byte in <span class="mono">{scan.root}</span> is touched.
            The folder becomes a place, and what others do in it is followed.
          {/if}
        </p>
        {#if needsWord}
          <label class="word"
            ><input type="checkbox" bind:checked={draft.singleCopy} /> Afterwards there is one copy
            only, in
            <span class="mono">{place?.root}</span>: that will do.</label
          >
        {/if}
      </li>
      {#if draft.mode !== 'in-place'}
        <li>
          <p>
            File them in
            <select class="choice" aria-label="Place" bind:value={draft.placeId}>
              {#each places as one (one.id)}<option value={one.id} disabled={one.handsOff}
                  >{one.name}{one.handsOff ? ' (hands off)' : ''}</option
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
            value={draft.filing}
            label="Filing pattern"
            folders
            early
            onchange={(value) => (draft.filing = value)}
          />
          {#if preview}
            <PlanResult rows={folders} />
          {/if}
        </li>
        <li>
          <p>Name them</p>
          <PatternField
            value={draft.naming}
            label="Name pattern"
            early
            onchange={(value) => (draft.naming = value)}
          />
          {#if preview}
            <PlanResult rows={names} even />
            {#if preview.lines.length > 4}
              <button class="link" type="button" onclick={() => (showsAll = !showsAll)}
                >{showsAll
                  ? 'Show a few'
                  : `Show all ${formatCount(preview.lines.length)} names`}</button
              >
            {/if}
          {/if}
          {#if draft.naming.includes('[counter')}
            <label class="word"
              ><input type="checkbox" bind:checked={draft.countersGoOn} /> Counters go on from earlier
              accessions</label
            >
            {#if draft.countersGoOn && preview && preview.counters > 0}<button
                class="link"
                type="button"
                onclick={() => void startOver()}>Let them begin again</button
              >{/if}
          {/if}
        </li>
        <li>
          <p>
            Keep
            <select class="choice" aria-label="Second copy" bind:value={draft.secondCopyId}>
              <option value="">no second copy</option>
              {#each places.filter(({ id, handsOff }) => id !== draft.placeId && !handsOff) as one (one.id)}<option
                  value={one.id}>a second copy in {one.name}</option
                >{/each}
            </select>
          </p>
          {#if second}<p class="says">
              Verified as the first, in <span class="mono">{second.root}</span>.
            </p>{/if}
        </li>
      {/if}
      <li>
        <p>Give them the terms</p>
        <input
          class="field"
          bind:value={draft.terms}
          aria-label="Terms"
          placeholder="Harbour, Portrait"
        />
      </li>
      <li><PlanStamp bind:draft /></li>
      <li><PlanClocks bind:draft files={scan.files} /></li>
    </ol>
    {#if wrong}<p class="wrong" role="alert">{wrong}</p>{/if}
  </div>
  <footer>
    <button
      class="button act"
      type="button"
      disabled={busy ||
        !ready ||
        files.length === 0 ||
        wrong !== '' ||
        (needsWord && !draft.singleCopy) ||
        (draft.mode !== 'in-place' && (!draft.placeId || (preview?.problems ?? 1) > 0))}
      onclick={() => void start()}
    >
      Bring in {counted(files.length, 'item')}
    </button>
    {#if !ready}<span class="caution">still looking through it</span>
    {:else if files.length > 0}
      <span class="mono pencil"
        >{formatBytes(bytes)}{draft.mode === 'in-place' || !speed
          ? ''
          : ` · ${formatEta(bytes / speed)}`}</span
      >
      {#if preview?.problems}<span class="wrong"
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
    padding-bottom: 4px;
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
  ol > li > p {
    margin-bottom: 6px;
    font: 16.5px/1.35 var(--book);
  }
  ol > li > p.says {
    color: var(--pencil);
    font: 13px/1.4 var(--plain);
    overflow-wrap: anywhere;
  }
  .word {
    display: block;
    margin-top: 6px;
    overflow-wrap: anywhere;
  }
  select.choice {
    max-width: 100%;
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
  footer {
    display: flex;
    gap: 12px;
    align-items: center;
    padding: 12px 20px;
    border-top: 1px solid var(--ink);
    background: var(--paper);
  }
</style>
