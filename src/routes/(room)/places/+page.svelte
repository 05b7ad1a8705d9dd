<script lang="ts">
  import { counted, formatBytes } from '#core/text/quantities';
  import { api } from '$lib/ui/common/api';
  import type { BodyOf } from '$lib/ui/common/wire';
  import { freshen } from '$lib/ui/common/freshen';
  import { calmly, hear } from '$lib/ui/common/live';
  import { sayDone, sayWrong } from '$lib/ui/common/notices.svelte';
  import FolderDialog from '$lib/ui/intake/FolderDialog.svelte';
  import { instant } from '$lib/ui/wall/dates';
  import type { PageProps } from './$types';

  const { data }: PageProps = $props();
  let points = $state<string | null>(null);

  $effect(() => {
    const soon = calmly(() => void freshen('mindful:places'), 1000);
    return hear(({ about }) => {
      if (about === 'places' || about === 'job' || about === 'again') soon();
    });
  });

  async function act(run: () => Promise<unknown>, said: string): Promise<void> {
    try {
      await run();
      sayDone(said);
      await freshen('mindful:places');
    } catch (error) {
      sayWrong(error);
    }
  }
  type PlaceChange = BodyOf<'PATCH', '/api/places/[id]'>;
  const change = (id: string, body: PlaceChange, said: string): Promise<void> =>
    act(() => api.patch(`/api/places/${id}`, body), said);
  type Said = (name: string) => string;
  /** What a keeper decides of a place, and what is said when it is so and when it is not. */
  const TOGGLES: {
    key: 'handsOff' | 'beside' | 'shared' | 'watched';
    words: string;
    on: Said;
    off: Said;
  }[] = [
    {
      key: 'handsOff',
      words: 'Hands off: nothing of ours renames, moves or writes in it',
      on: (name) => `Nothing of ours writes in “${name}” now.`,
      off: (name) => `“${name}” may be written to.`,
    },
    {
      key: 'beside',
      words: 'Records beside the files, never into them',
      on: (name) => `Records of “${name}” are written beside its files from now on.`,
      off: (name) => `Records of “${name}” are written into its files from now on.`,
    },
    {
      key: 'shared',
      words: 'Other programs look in it: say so before names or folders change',
      on: (name) => `Whoever renames or files in “${name}” is told that others look there.`,
      off: (name) => `“${name}” is for the archive alone.`,
    },
    {
      key: 'watched',
      words: 'Watch it',
      on: (name) => `“${name}” is watched.`,
      off: (name) => `“${name}” is compared only when you ask.`,
    },
  ];
</script>

<svelte:head><title>Places · Mindful Archive</title></svelte:head>

<div class="places">
  <header>
    <h1>Places</h1>
    <p class="lead">
      The folders on disk that are looked after. What other programs do in them is followed: records
      go with their files.
    </p>
  </header>
  {#each data.places as place (place.id)}
    <section aria-label={place.name}>
      <h2>
        {place.name}
        {#if place.here}<span class="state here">here</span>{:else}<span class="state away"
            >away{place.awaySince ? ` since ${instant(place.awaySince)}` : ''}</span
          >{/if}
        {#if place.handsOff}<span class="state">hands off</span>{/if}
      </h2>
      <p class="mono">{place.root}</p>
      <p>
        {counted(place.items, 'item')}, {formatBytes(place.bytes)}{#if place.missing}, <span
            class="caution">{place.missing} missing</span
          >{/if}
        <span class="pencil"
          >· {place.lookedAt ? `compared ${instant(place.lookedAt)}` : 'not compared yet'}</span
        >
      </p>
      {#if !place.here}<p class="caution">
          Its records and pictures stay. It returns by itself when its folder is there again, or you
          point it to where it lies now.
        </p>{/if}
      {#if place.here && place.watched && place.deaf}<p class="caution">
          This system does not tell of every change in it ({place.deaf}). It is compared by itself
          every half minute instead; where that takes long, less often.
        </p>{/if}
      <p class="acts">
        {#each TOGGLES as { key, words, on, off } (key)}
          <label
            ><input
              type="checkbox"
              checked={place[key]}
              disabled={key === 'beside' && place.handsOff}
              onchange={({ currentTarget: { checked } }) =>
                void change(place.id, { [key]: checked }, (checked ? on : off)(place.name))}
            />
            {words}</label
          >
        {/each}
      </p>
      <p class="acts">
        <button
          class="button"
          type="button"
          disabled={!place.here}
          onclick={() =>
            void act(
              () => api.post(`/api/places/${place.id}`),
              `“${place.name}” is being compared with its disk.`,
            )}>Compare now</button
        >
        <button class="button" type="button" onclick={() => (points = place.id)}
          >Point to another folder</button
        >
        <a class="button" href="/catalogue?q={encodeURIComponent(`in "${place.name}"`)}"
          >See its items</a
        >
      </p>
    </section>
  {:else}
    <p class="lead">There is no place yet. Bring a folder in and it becomes the first.</p>
  {/each}
</div>

{#if points}
  <FolderDialog
    onclose={() => (points = null)}
    onchoose={(root) => {
      const id = points!;
      points = null;
      void change(id, { root }, 'It points there now; its files are being matched.');
    }}
  />
{/if}

<style>
  .places {
    height: 100%;
    padding: 16px 24px;
    overflow: auto;
  }
  h1 {
    font: 28px/1.2 var(--book);
  }
  .lead {
    max-width: 640px;
    font: 16.5px/1.4 var(--book);
  }
  section {
    max-width: 820px;
    margin-top: 16px;
    padding: 12px 0;
    border-top: 1px solid var(--ink);
  }
  h2 {
    display: flex;
    gap: 10px;
    align-items: baseline;
    font: 20px var(--book);
  }
  section p {
    margin-top: 4px;
    overflow-wrap: anywhere;
  }
  .state {
    font: 600 11.5px var(--plain);
    color: var(--pencil);
  }
  .here {
    color: var(--verdigris);
  }
  .away {
    color: var(--wax);
  }
  .acts {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 16px;
  }
</style>
