<script lang="ts">
  import { page } from '$app/state';
  import { counted, formatDuration } from '#core/text/quantities';
  import { api } from '$lib/ui/common/api';
  import { sayWrong } from '$lib/ui/common/notices.svelte';
  import RoomLook from '$lib/ui/rooms/RoomLook.svelte';
  import type { PageProps } from './$types';

  const { data }: PageProps = $props();
  // svelte-ignore state_referenced_locally
  let picked = $state<Record<string, boolean>>(
    Object.fromEntries(data.items.map((item) => [item.id, item.picked])),
  );
  let onlyPicks = $state(false);
  let looksAt = $state<string | null>(null);
  const base = $derived(`/r/${page.params['token']}` as const);
  const picks = $derived(data.items.filter(({ id }) => picked[id]));
  const shown = $derived(onlyPicks ? picks : data.items);
  const at = $derived(shown.findIndex(({ id }) => id === looksAt));
  const until = $derived(
    new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'long', year: 'numeric' }).format(
      new Date(data.expiresAt),
    ),
  );

  async function toggle(id: string): Promise<void> {
    picked[id] = !picked[id];
    try {
      await api.post(`${base}/pick`, { itemId: id, picked: picked[id] ?? false });
    } catch (error) {
      picked[id] = !picked[id];
      sayWrong(error);
    }
  }
</script>

<svelte:head><title>{data.title}</title><meta name="robots" content="noindex" /></svelte:head>

<main>
  <header>
    <h1>{data.title}</h1>
    {#if data.greeting}<p class="greeting">{data.greeting}</p>{/if}
    <p class="facts">
      <span>{counted(data.items.length, 'item')}</span>
      <button
        class="link"
        type="button"
        aria-pressed={onlyPicks}
        disabled={picks.length === 0 && !onlyPicks}
        onclick={() => (onlyPicks = !onlyPicks)}
        >{onlyPicks ? 'Show all' : `Your picks: ${picks.length}`}</button
      >
      <span>Open until {until}</span>
    </p>
  </header>
  {#if data.items.length === 0}<p class="none">Nothing hangs here yet. Look in again later.</p>{/if}
  <ul>
    {#each shown as item (item.id)}
      {@const aspect = item.width && item.height ? item.width / item.height : 1.5}
      <li style="--aspect:{Math.min(2.6, Math.max(0.6, aspect))}">
        <button
          class="picture"
          type="button"
          aria-label="Look closer at {item.title || item.name}"
          onclick={() => (looksAt = item.id)}
        >
          {#if item.noPicture}<span class="why">{item.name}</span>{:else}<img
              src="{base}/picture/{item.id}/medium"
              alt={item.caption || item.title || item.name}
              loading="lazy"
            />{/if}
          {#if item.duration}<span class="badge">{formatDuration(item.duration)}</span>{/if}
        </button>
        <div class="strip">
          <span>{item.title || item.name}</span>
          <button
            class="pick"
            class:on={picked[item.id]}
            type="button"
            aria-pressed={picked[item.id]}
            aria-label="Pick {item.title || item.name}"
            onclick={() => void toggle(item.id)}>{picked[item.id] ? 'Picked' : 'Pick'}</button
          >
        </div>
      </li>
    {/each}
  </ul>
  <footer>
    From Mindful Archive. Pictures stay with their makers; ask before you publish them.
  </footer>
</main>

{#if at >= 0}
  <RoomLook
    item={shown[at]!}
    {base}
    picked={picked[shown[at]!.id] ?? false}
    ontoggle={() => void toggle(shown[at]!.id)}
    onclose={() => (looksAt = null)}
    onturn={(step) => (looksAt = shown[(at + step + shown.length) % shown.length]!.id)}
  />
{/if}

<style>
  main {
    max-width: 1320px;
    margin: 0 auto;
    padding: 44px 32px 60px;
  }
  header {
    max-width: 680px;
    margin-bottom: 28px;
  }
  h1 {
    font: 500 clamp(28px, 5vw, 44px)/1.1 var(--book);
  }
  .greeting {
    margin-top: 10px;
    font: 16.5px/1.5 var(--book);
    white-space: pre-line;
  }
  .facts {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 20px;
    margin-top: 12px;
    color: var(--pencil);
  }
  ul {
    display: flex;
    flex-wrap: wrap;
    gap: 20px 14px;
  }
  ul::after {
    content: '';
    flex-grow: 100;
  }
  li {
    flex: calc(var(--aspect) * 10) 1 calc(var(--aspect) * 250px);
    max-width: calc(var(--aspect) * 360px);
  }
  .picture {
    position: relative;
    display: block;
    width: 100%;
    aspect-ratio: var(--aspect);
    border: 0;
    padding: 0;
    background: var(--well);
    overflow: hidden;
    cursor: zoom-in;
  }
  img {
    width: 100%;
    height: 100%;
    object-fit: cover;
    display: block;
  }
  .why {
    font: 13px var(--mono);
  }
  .badge {
    position: absolute;
    right: 8px;
    top: 8px;
    padding: 1px 6px;
    background: rgb(29 35 32 / 0.86);
    color: #fdfcf9;
    font: 11.5px var(--mono);
  }
  .strip {
    display: flex;
    justify-content: space-between;
    gap: 12px;
    align-items: center;
    padding-top: 6px;
    font: 16.5px/1.3 var(--book);
  }
  .pick {
    flex: none;
    min-height: 28px;
    padding: 2px 12px;
    border: 1px solid var(--rule);
    border-radius: 14px;
    background: none;
    font: 600 13px var(--plain);
  }
  .pick.on {
    border-color: var(--verdigris);
    background: var(--verdigris);
    color: var(--on-act);
  }
  footer {
    margin-top: 48px;
    padding-top: 12px;
    border-top: 1px solid var(--rule);
    color: var(--pencil);
  }
  .none {
    font: 20px var(--book);
  }
  @media (max-width: 560px) {
    main {
      padding: 28px 16px 40px;
    }
    ul {
      gap: 24px;
    }
    li {
      flex: 1 1 100%;
      max-width: none;
    }
  }
</style>
