<script lang="ts">
  import { goto } from '$app/navigation';
  import { can } from '#core/people/roles';
  import { counted } from '#core/text/quantities';
  import { api } from '$lib/ui/common/api';
  import { freshen } from '$lib/ui/common/freshen';
  import { calmly, hear } from '$lib/ui/common/live';
  import { did } from '$lib/ui/common/undoing';
  import { sayWrong } from '$lib/ui/common/notices.svelte';
  import type { PageProps } from './$types';

  const { data }: PageProps = $props();
  let name = $state('');
  let called = $state('');

  $effect(() => {
    const soon = calmly(() => void freshen('mindful:collections'), 800);
    return hear(({ about }) => {
      if (about === 'collections' || about === 'again') soon();
    });
  });
  async function make(): Promise<void> {
    try {
      const { id } = await api.post('/api/collections', { name });
      await goto(`/collections/${id}`);
    } catch (error) {
      sayWrong(error);
    }
  }
  async function makeSequence(): Promise<void> {
    try {
      const { id, operation } = await api.post('/api/sequences', { name: called });
      if (operation) did(operation);
      await goto(`/collections/sequences/${id}`);
    } catch (error) {
      sayWrong(error);
    }
  }
</script>

<svelte:head><title>Collections · Mindful Archive</title></svelte:head>

{#snippet card(
  href: string,
  one: { name: string; note: string; cover: readonly string[] },
  count: string,
  kind = '',
)}
  <li>
    <a {href}>
      <span class="cover">
        {#each one.cover as picture, index (index)}<img
            src="/api/pictures/{picture}/small"
            alt=""
            loading="lazy"
          />{:else}<span class="blank">nothing in it yet</span>{/each}
      </span>
      <strong>{one.name}</strong>
      {#if kind === 'standing'}<em>standing</em>{/if}
      <span class="pencil">{count}{one.note ? ` · ${one.note}` : ''}</span>
    </a>
  </li>
{/snippet}

<div class="page">
  <header>
    <div>
      <h1>Collections</h1>
      <p class="pencil">
        Hand-picked ones have an order of their own; standing ones fill themselves by a sentence.
        What is taken out of one stays in the archive.
      </p>
    </div>
    {#if can(data.actor.role, 'collect')}
      <form onsubmit={(event) => (event.preventDefault(), void make())}>
        <input
          class="field"
          bind:value={name}
          aria-label="Name of a new collection"
          placeholder="a new collection"
        />
        <button class="button act" type="submit" disabled={!name.trim()}>Make it</button>
      </form>
    {/if}
  </header>
  <ul>
    {#each data.collections as one (one.id)}
      {@render card(`/collections/${one.id}`, one, counted(one.count, 'item'), one.kind)}
    {:else}
      <li class="none">
        There is no collection yet. Select pictures in the catalogue and choose Collect.
      </li>
    {/each}
  </ul>
  <header class="more">
    <div>
      <h2>Rough sequences</h2>
      <p class="pencil">Spans, clips and stills in an order, played one after the other.</p>
    </div>
    {#if can(data.actor.role, 'collect')}
      <form onsubmit={(event) => (event.preventDefault(), void makeSequence())}>
        <input
          class="field"
          bind:value={called}
          maxlength="200"
          aria-label="Name of a new sequence"
          placeholder="a new sequence"
        />
        <button class="button" type="submit" disabled={!called.trim()}>Make it</button>
      </form>
    {/if}
  </header>
  <ul>
    {#each data.sequences as one (one.id)}
      {@render card(`/collections/sequences/${one.id}`, one, counted(one.pieces, 'piece'))}
    {:else}
      <li class="none">There is no sequence yet.</li>
    {/each}
  </ul>
</div>

<style>
  .page {
    height: 100%;
    padding: 20px 24px;
    overflow: auto;
  }
  header {
    display: flex;
    justify-content: space-between;
    align-items: end;
    margin-bottom: 20px;
  }
  .more {
    margin-top: 32px;
  }
  h2 {
    font: 23px/1.2 var(--book);
  }
  h1 {
    font-size: 28px;
  }
  form {
    display: flex;
    gap: 8px;
  }
  ul {
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(280px, 1fr));
    gap: 20px;
  }
  a {
    display: grid;
    color: var(--ink);
    text-decoration: none;
  }
  strong {
    margin-top: 8px;
    font: 500 20px/1.25 var(--book);
  }
  .cover {
    display: grid;
    grid-template: 1fr 1fr / 1fr 1fr;
    gap: 2px;
    aspect-ratio: 3 / 2;
    border: 1px solid var(--rule);
    background: var(--well);
    overflow: hidden;
  }
  a:hover .cover {
    border-color: var(--verdigris);
  }
  img {
    width: 100%;
    height: 100%;
    min-height: 0;
    object-fit: cover;
  }
  img:only-child {
    grid-area: 1 / 1 / 3 / 3;
  }
  .blank {
    grid-area: 1 / 1 / 3 / 3;
    place-self: center;
    color: var(--pencil);
  }
  .none {
    grid-column: 1 / -1;
    font: 16.5px var(--book);
  }
</style>
