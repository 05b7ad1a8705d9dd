<script lang="ts">
  import { stageOfKey } from '#core/stages/stages';
  import { goto } from '$app/navigation';
  import { can } from '#core/people/roles';
  import { differing } from '#core/records/differing';
  import type { Exposure } from '#core/pixels/measure';
  import { formatQuery } from '#core/query/grammar';
  import { api } from '$lib/ui/common/api';
  import { freshen } from '$lib/ui/common/freshen';
  import { sayWrong } from '$lib/ui/common/notices.svelte';
  import Pips from '$lib/ui/common/Pips.svelte';
  import Zoom, { type View } from '$lib/ui/close/Zoom.svelte';
  import type { PageProps } from './$types';

  const { data }: PageProps = $props();
  let zooms = $state<Record<string, Zoom | undefined>>({});
  let linked = $state(true);
  let at = $state(0);
  let view = $state.raw<View | null>(null);
  let measures = $state<Record<string, { sharpness: number; exposure: Exposure }>>({});
  const focused = $derived(data.items[Math.min(at, data.items.length - 1)]);
  const mayDescribe = $derived(can(data.actor.role, 'describe'));
  const differences = $derived(differing(data.items));
  const sharpest = $derived(Math.max(...data.items.map(({ id }) => measures[id]?.sharpness ?? -1)));
  const address = (numbers: string[]): string =>
    `/side?items=${numbers.join(',')}&q=${encodeURIComponent(formatQuery(data.query))}`;

  /** Who is looked at leads: the others, moved by us, do not answer. */
  function moved(id: string, seen: View): void {
    if (id !== focused?.id) return;
    view = seen;
    if (linked)
      for (const other of data.items) if (other.id !== id) zooms[other.id]?.show(seen, true);
  }

  // What is seen is measured once it rests.
  $effect(() => {
    const items = data.items;
    const seen = view;
    const soon = setTimeout(() => {
      for (const { id, width, height } of items) {
        if (!width || !height || !seen) continue;
        const wide = Math.min(1, seen.width);
        const tall = Math.min(1, seen.width * (width / height));
        const part = (middle: number, length: number): number =>
          Math.min(1 - length, Math.max(0, middle - length / 2));
        void api
          .get(`/api/items/${id}/measure`, {
            left: part(seen.x, wide),
            top: part((seen.y * width) / height, tall),
            width: wide,
            height: tall,
          })
          .then((found) => (measures[id] = found))
          .catch(() => undefined);
      }
    }, 450);
    return () => clearTimeout(soon);
  });

  /** The next of the result that does not lie here yet. */
  async function candidate(): Promise<string | null> {
    const here = new Set(data.items.map(({ id }) => id));
    const q = formatQuery(data.query);
    const last = data.items.at(-1)!.id;
    const near = await api.get('/api/catalogue/neighbours', { q, id: last }).catch(() => null);
    const from = (near?.index ?? -1) + 1;
    const tiles = await api.get('/api/catalogue/tiles', { q, offset: from, limit: 40 });
    return tiles.find(({ id, rating }) => !here.has(id) && rating >= 0)?.number ?? null;
  }
  async function swap(): Promise<void> {
    if (!focused) return;
    const next = await candidate();
    const rest = data.items.filter(({ id }) => id !== focused.id).map(({ number }) => number);
    if (next) await goto(address([...rest, next]), { replaceState: true });
    else if (rest.length > 0) await goto(address(rest), { replaceState: true });
    else await goto(`/catalogue?q=${encodeURIComponent(formatQuery(data.query))}`);
    at = Math.min(at, data.items.length - 1);
  }
  async function judge(change: { rating: number } | { stage: string }): Promise<void> {
    if (!focused || !mayDescribe) return;
    await api.patch('/api/records', { ids: [focused.id], change });
    await freshen('mindful:item');
  }
  const keep = (): Promise<void> => judge({ rating: Math.max(1, focused?.record.rating ?? 0) });
  async function reject(): Promise<void> {
    await judge({ rating: -1 });
    await swap();
  }

  function keys(event: KeyboardEvent): void {
    const target = event.target as HTMLElement;
    if (/^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName) || event.ctrlKey || event.metaKey) return;
    const { key } = event;
    const own = focused ? zooms[focused.id] : undefined;
    const mark = stageOfKey(data.stages, key);
    if (event.altKey && key === 'Enter') linked = !linked;
    else if (event.altKey) return;
    else if (key === 'ArrowLeft') at = Math.max(0, at - 1);
    else if (key === 'ArrowRight') at = Math.min(data.items.length - 1, at + 1);
    else if (/^[0-5]$/.test(key)) void judge({ rating: Number(key) }).catch(sayWrong);
    else if (mark) void judge({ stage: mark.name }).catch(sayWrong);
    else if (key === 'ArrowUp') void keep().catch(sayWrong);
    else if (key === 'ArrowDown' || key.toLowerCase() === 'n') void reject().catch(sayWrong);
    else if (key === ' ' && target.tagName !== 'BUTTON') void swap().catch(sayWrong);
    else if (key === 'Enter' && target.tagName !== 'BUTTON' && target.tagName !== 'A') {
      if (own?.isAtHome()) own.actual();
      else own?.fit();
    } else if (key === '+' || key === '=') own?.by(1.4);
    else if (key === '-') own?.by(1 / 1.4);
    else if (key === 'Escape') history.back();
    else return;
    event.preventDefault();
  }
  const percent = (part: number): string => `${Math.round(part * 100)} %`;
</script>

<svelte:head><title>Side by side · Mindful Archive</title></svelte:head>
<svelte:window onkeydown={keys} />

<div class="side">
  <header>
    <h1>Side by side</h1>
    <label><input type="checkbox" bind:checked={linked} /> move together</label>
    <span class="pencil">
      {#if differences.length > 0}They differ in {differences
          .slice(0, 6)
          .join(', ')}.{:else if data.items.length > 1}Their data agree.{/if}
    </span>
    <a class="link" href="/catalogue?q={encodeURIComponent(formatQuery(data.query))}"
      >To the wall <kbd>Esc</kbd></a
    >
  </header>
  <div class="panes" style:--columns={data.items.length > 3 ? 3 : data.items.length}>
    {#each data.items as item, index (item.id)}
      {@const measured = measures[item.id]}
      <section
        aria-label={item.tile.name}
        aria-current={index === at ? 'true' : undefined}
        onpointerdown={() => (at = index)}
        onwheel={() => (at = index)}
      >
        <div class="room">
          {#if item.tile.pictureState === 'ready'}
            <Zoom
              bind:this={zooms[item.id]}
              id={item.id}
              picture="/api/pictures/{item.tile.picture}/large"
              width={item.width ?? 0}
              alt={item.record.title || item.tile.name}
              onview={(seen) => moved(item.id, seen)}
            />
          {:else}<p class="why">{item.noPicture ?? 'The picture is on its way.'}</p>{/if}
        </div>
        <footer>
          <span class="mono name">{item.tile.name}</span>
          <Pips rating={item.record.rating} />
          <span class="mono facts" class:best={measured && measured.sharpness === sharpest}>
            {#if measured}sharp {measured.sharpness} · light {percent(
                measured.exposure.mean,
              )}{measured.exposure.white > 0.005
                ? ` · burnt ${percent(measured.exposure.white)}`
                : ''}{measured.exposure.black > 0.02
                ? ` · black ${percent(measured.exposure.black)}`
                : ''}{/if}
          </span>
          {#if mayDescribe}
            <span class="verdicts">
              <button
                class="link"
                type="button"
                onclick={() => {
                  at = index;
                  void keep().catch(sayWrong);
                }}>Keep <kbd>↑</kbd></button
              >
              <button
                class="link"
                type="button"
                onclick={() => {
                  at = index;
                  void reject().catch(sayWrong);
                }}>Reject <kbd>↓</kbd></button
              >
            </span>
          {/if}
          <button
            class="link"
            type="button"
            onclick={() => {
              at = index;
              void swap().catch(sayWrong);
            }}>Next instead <kbd>Space</kbd></button
          >
        </footer>
      </section>
    {/each}
  </div>
</div>

<style>
  .side {
    display: grid;
    grid-template-rows: 44px minmax(0, 1fr);
    height: 100%;
    background: var(--well);
  }
  header {
    display: flex;
    gap: 20px;
    align-items: baseline;
    padding: 9px 18px;
    white-space: nowrap;
    overflow: hidden;
  }
  header .link {
    margin-left: auto;
  }
  .panes {
    display: grid;
    grid-template-columns: repeat(var(--columns), minmax(0, 1fr));
    grid-auto-rows: minmax(0, 1fr);
    gap: 6px;
    padding: 0 6px 6px;
    min-height: 0;
  }
  section {
    display: grid;
    grid-template-rows: minmax(0, 1fr) auto;
    border: 2px solid transparent;
    border-radius: 4px;
    min-height: 0;
    background: var(--card);
    overflow: hidden;
  }
  section[aria-current] {
    border-color: var(--verdigris);
  }
  .room {
    position: relative;
    min-height: 0;
    background: var(--well);
  }
  footer {
    display: flex;
    flex-wrap: wrap;
    gap: 2px 14px;
    align-items: baseline;
    padding: 5px 10px;
  }
  .name {
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .facts {
    min-width: 150px;
  }
  .best {
    color: var(--verdigris);
    font-weight: 700;
  }
  .verdicts {
    display: flex;
    gap: 10px;
    margin-left: auto;
  }
  .why {
    display: grid;
    place-content: center;
    height: 100%;
    padding: 20px;
    text-align: center;
  }
</style>
