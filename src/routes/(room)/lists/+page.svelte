<script lang="ts">
  import { goto } from '$app/navigation';
  import { can } from '#core/people/roles';
  import { formatCount } from '#core/text/quantities';
  import { freshen } from '$lib/ui/common/freshen';
  import { calmly, hear } from '$lib/ui/common/live';
  import TermCard from '$lib/ui/lists/TermCard.svelte';
  import TermTree from '$lib/ui/lists/TermTree.svelte';
  import type { PageProps } from './$types';

  const { data }: PageProps = $props();
  const mayManage = $derived(can(data.actor.role, 'manage'));
  let tree = $state<ReturnType<typeof TermTree>>();
  /** What a new term is to stand under; undefined: none is made. */
  let making = $state<{ under: string | null; name: string } | null>(null);
  let exchanges = $state(false);

  const again = async (): Promise<void> => {
    await freshen('mindful:lists');
    await tree?.again();
  };
  $effect(() => {
    const soon = calmly(() => void again());
    return hear(({ about }) => {
      if (about === 'lists' || about === 'again') soon();
    });
  });
  const open = (id: string | null): Promise<void> =>
    goto(id ? `/lists?term=${id}` : '/lists', { keepFocus: true, noScroll: true });
</script>

<svelte:head
  ><title>{data.card ? `${data.card.entry.label} · ` : ''}Thesaurus · Mindful Archive</title
  ></svelte:head
>

<div class="page">
  <section aria-label="Terms">
    <TermTree
      bind:this={tree}
      top={data.top}
      chosen={data.card?.id ?? null}
      {mayManage}
      onopen={open}
      onchanged={again}
    />
    <p class="foot">
      {#if mayManage}<button
          class="button"
          type="button"
          onclick={() => (making = { under: null, name: '' })}>Make a term …</button
        >{/if}
      <button class="link" type="button" onclick={() => (exchanges = true)}
        >{mayManage ? 'Files in and out …' : 'As a file …'}</button
      >
    </p>
  </section>
  {#if data.card}
    {#key data.card.id}
      <TermCard
        card={data.card}
        {mayManage}
        onmake={() => (making = { under: data.card!.id, name: data.card!.entry.label })}
        onopen={open}
        onchanged={again}
      />
    {/key}
  {:else}
    <div class="empty">
      <p>
        {data.isGone
          ? 'This term is on the list no more: it was merged into another, or taken off.'
          : data.top.total === 0
            ? 'There are no terms yet. They come with files, are typed on the record card, or taken in from a file.'
            : `${formatCount(data.top.total)} terms stand at the top. Choose one to see what it is called, what stands under it, and what it was given to.`}
      </p>
      {#if mayManage && data.top.total > 0}<p class="pencil">
          Drag a term onto another to put it there; with Ctrl it stays where it was as well.
        </p>{/if}
    </div>
  {/if}
</div>

{#if making}
  {#await import('$lib/ui/lists/MakeTermDialog.svelte') then { default: MakeTermDialog }}
    <MakeTermDialog
      under={making!.under}
      name={making!.name}
      ondone={async (id) => {
        await again();
        await open(id);
      }}
      onclose={() => (making = null)}
    />
  {/await}
{/if}
{#if exchanges}
  {#await import('$lib/ui/lists/ExchangeDialog.svelte') then { default: ExchangeDialog }}
    <ExchangeDialog {mayManage} ondone={again} onclose={() => (exchanges = false)} />
  {/await}
{/if}

<style>
  .page {
    display: grid;
    grid-template-columns: minmax(360px, 5fr) minmax(0, 7fr);
    height: 100%;
  }
  section {
    display: grid;
    grid-template-rows: minmax(0, 1fr) auto;
    min-height: 0;
    border-right: 1px solid var(--rule);
  }
  .foot {
    display: flex;
    gap: 16px;
    align-items: center;
    padding: 10px 24px;
    border-top: 1px solid var(--rule);
  }
  .empty {
    max-width: 480px;
    padding: 28px 32px;
    font: 16.5px/1.5 var(--book);
  }
  .empty .pencil {
    margin-top: 10px;
    font: 13px/1.45 var(--plain);
  }
  @media (max-width: 760px) {
    .page {
      grid-template-columns: minmax(0, 1fr);
      grid-auto-rows: auto;
      overflow: auto;
    }
    section {
      max-height: 60dvh;
    }
  }
</style>
