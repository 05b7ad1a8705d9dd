<script lang="ts">
  import { afterNavigate, replaceState } from '$app/navigation';
  import { page } from '$app/state';
  import type { SpotEntry } from '#core/lists/entries';
  import { can } from '#core/people/roles';
  import { formatPosition, parsePosition } from '#core/geo/position';
  import { nearSpot } from '$lib/ui/lists/address';
  import ListPage from '$lib/ui/lists/ListPage.svelte';
  import SpotDialog from '$lib/ui/lists/SpotDialog.svelte';
  import type { PageProps } from './$types';

  const { data }: PageProps = $props();
  const mayDescribe = $derived(can(data.actor.role, 'describe'));
  const BLANK: SpotEntry = {
    name: '',
    latitude: 0,
    longitude: 0,
    radius: 100,
    sublocation: '',
    city: '',
    state: '',
    country: '',
    note: '',
  };
  let opened = $state.raw<{ id: string | null; entry: SpotEntry } | null>(null);
  function open(one: (typeof data.spots)[number]): void {
    const { id, ...entry } = one;
    opened = { id, entry };
  }
  // The Atlas leads here with a position in its hand; once.
  afterNavigate(() => {
    const at = parsePosition(page.url.searchParams.get('at') ?? '');
    if (!at) return;
    if (mayDescribe) opened = { id: null, entry: { ...BLANK, ...at } };
    replaceState('/lists/spots', {});
  });
  const metres = (radius: number): string =>
    radius < 1000 ? `${Math.round(radius)} m` : `${(radius / 1000).toFixed(1)} km`;
</script>

<ListPage title="Kept places">
  {#snippet lead()}
    Places of your own on the Atlas. Within its radius a place gives its names to what was taken
    there; where it says nothing, the gazetteer does.
  {/snippet}
  {#if data.spots.length === 0}<p class="none">
      No places yet{mayDescribe ? ': keep the workshop, or the north groyne.' : '.'}
    </p>{/if}
  <ul>
    {#each data.spots as one (one.id)}
      <li>
        {#if mayDescribe}<button class="name" type="button" onclick={() => open(one)}
            >{one.name}</button
          >{:else}<span class="name">{one.name}</span>{/if}
        <span class="mono">{formatPosition(one)}</span>
        <span>within {metres(one.radius)}</span>
        <span class="pencil"
          >{[one.sublocation, one.city, one.state, one.country].filter(Boolean).join(', ')}</span
        >
        <a href={nearSpot(one)}>what was taken here</a>
      </li>
    {/each}
  </ul>
  {#if mayDescribe}
    <p class="new">
      <button class="button" type="button" onclick={() => (opened = { id: null, entry: BLANK })}
        >Keep a place …</button
      >
      <span class="pencil">Or choose “keep a place” on the Atlas and click where it is.</span>
    </p>
  {/if}
</ListPage>

{#if opened}
  <SpotDialog id={opened.id} seen={opened.entry} onclose={() => (opened = null)} />
{/if}

<style>
  li {
    display: grid;
    grid-template-columns: 200px 190px 110px minmax(0, 1fr) 150px;
    gap: 14px;
    align-items: baseline;
    min-height: 38px;
    padding-top: 6px;
  }
</style>
