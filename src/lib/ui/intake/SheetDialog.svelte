<script lang="ts">
  import { counted } from '#core/text/quantities';
  import { api } from '../common/api';
  import Dialog from '../common/Dialog.svelte';
  import Listing from '../common/Listing.svelte';
  import { sayDone } from '../common/notices.svelte';
  import { fromInput } from '../uploads/gather';
  import { uploads } from '../uploads/queue.svelte';
  import { draftFrom, planOf, type PlaceChoice } from './draft';

  interface Problem {
    line: number;
    column: string;
    problem: string;
  }
  interface DryRun {
    sheet: string;
    unknown: string[];
    good: number;
    faults: number;
    unused: number;
    /** The first of the faults. */
    problems: Problem[];
    toFetch: number;
  }
  interface Props {
    places: PlaceChoice[];
    onclose: () => void;
  }
  const { places, onclose }: Props = $props();
  let run = $state<DryRun | null>(null);
  let wrong = $state('');
  let busy = $state(false);
  // svelte-ignore state_referenced_locally
  let draft = $state({ ...draftFrom(null, '', places), filing: '{taken yyyy}', naming: '{name}' });

  async function work(act: () => Promise<void>): Promise<void> {
    busy = true;
    wrong = '';
    try {
      await act();
    } catch (error) {
      wrong = (error as Error).message;
    } finally {
      busy = false;
    }
  }
  const send = (files: FileList): Promise<void> =>
    work(async () => {
      const gathered = fromInput(files);
      await uploads.prepare(gathered, gathered[0]?.path ?? 'Spreadsheet', 'sheet');
      uploads.start();
    });
  const check = (fetch = false): Promise<void> =>
    work(async () => {
      run = await api.post('/api/intake/sheets', { parcel: uploads.parcel, fetch });
      while (fetch && run.toFetch > 0) {
        await new Promise((resolve) => setTimeout(resolve, 800));
        run = await api.post('/api/intake/sheets', { parcel: uploads.parcel });
      }
    });
  const start = (): Promise<void> =>
    work(async () => {
      const { number } = await api.put('/api/intake/sheets', {
        parcel: uploads.parcel,
        placeId: draft.placeId,
        title: run!.sheet.replace(/\.[^.]+$/, ''),
        plan: planOf(draft),
      });
      uploads.forget();
      sayDone(`Accession ${number} is underway.`);
      onclose();
    });

  $effect(() => {
    if (uploads.ready && !run && !busy && !wrong) void check();
  });
</script>

<Dialog title="A spreadsheet" wide {onclose}>
  {#if uploads.list.length === 0}
    <p class="lead">
      Take the template, name a file or an address in each row, and send it with its files: loose,
      or in a ZIP. Nothing comes in before you have seen what is wrong.
    </p>
    <p class="acts">
      <a class="button" href="/api/intake/sheets?format=xlsx">Template (.xlsx)</a>
      <a class="button" href="/api/intake/sheets?format=csv">Template (.csv)</a>
      <label class="button act"
        >Send a sheet and its files<input
          class="unseen"
          type="file"
          multiple
          disabled={busy}
          aria-label="Send a sheet and its files"
          onchange={(event) => void send(event.currentTarget.files!)}
        /></label
      >
    </p>
  {:else if !run}
    <p aria-live="polite">
      {uploads.ready
        ? 'Checking it …'
        : `Sending, ${Math.round((100 * uploads.sent) / Math.max(1, uploads.total))} %`}
    </p>
  {:else}
    <p class="lead">
      <span class="mono">{run.sheet}</span>: {counted(run.good, 'row')} good,
      {counted(run.faults, 'fault')}{run.unused
        ? `, ${counted(run.unused, 'file')} that no row names`
        : ''}.
    </p>
    {#if run.unknown.length}<p class="caution">
        Columns nobody knows: {run.unknown.join(', ')}.
      </p>{/if}
    {#if run.problems.length}
      <Listing>
        <thead
          ><tr
            ><th scope="col">Row</th><th scope="col">Column</th><th scope="col">What is wrong</th
            ></tr
          ></thead
        >
        <tbody>
          {#each run.problems as problem, at (at)}
            <tr
              ><td class="mono">{problem.line || ''}</td><td>{problem.column}</td><td
                >{problem.problem}</td
              ></tr
            >
          {/each}
        </tbody>
      </Listing>
      {#if run.faults > run.problems.length}<p class="pencil">
          And {counted(run.faults - run.problems.length, 'more fault')}; mend these first.
        </p>{/if}
    {/if}
    <p class="acts into">
      File them in
      <select class="choice" aria-label="Place for the rows" bind:value={draft.placeId}>
        {#each places.filter(({ handsOff }) => !handsOff) as place (place.id)}<option
            value={place.id}>{place.name}</option
          >{/each}
      </select>
      under <input class="field mono" aria-label="Filing of the rows" bind:value={draft.filing} />
      named
      <input class="field mono" aria-label="Names of the rows" bind:value={draft.naming} />
    </p>
  {/if}
  {#if wrong}<p class="wrong" role="alert">{wrong}</p>{/if}
  {#snippet foot()}
    {#if run}
      {#if run.toFetch > 0}<button
          class="button act"
          type="button"
          disabled={busy}
          onclick={() => void check(true)}
          >{busy ? 'Fetching …' : `Fetch ${counted(run.toFetch, 'address', 'addresses')}`}</button
        >
      {:else}<button
          class="button act"
          type="button"
          disabled={busy || run.good === 0}
          onclick={() => void start()}>Bring in {counted(run.good, 'good row')}</button
        >{/if}
    {/if}
    {#if uploads.list.length}<button
        class="link"
        type="button"
        onclick={() => (uploads.forget(), (run = null), (wrong = ''))}>Begin anew</button
      >{/if}
  {/snippet}
</Dialog>

<style>
  .lead {
    margin-bottom: 10px;
    font: 16.5px/1.4 var(--book);
  }
  .acts {
    display: flex;
    flex-wrap: wrap;
    gap: 8px;
    align-items: center;
  }
  .into {
    margin-top: 12px;
  }
  label:focus-within {
    outline: 2px solid var(--ink);
    outline-offset: 1px;
  }
</style>
