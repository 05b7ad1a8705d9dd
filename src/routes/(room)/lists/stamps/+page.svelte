<script lang="ts">
  import type { StampEntry } from '#core/lists/entries';
  import { can } from '#core/people/roles';
  import { FIELDS, type FieldKey } from '#core/records/fields';
  import { writtenAs } from '#core/records/written';
  import { WAY_WORDS } from '#core/stamps/stamp';
  import StampDialog from '$lib/ui/lists/StampDialog.svelte';
  import ListPage from '$lib/ui/lists/ListPage.svelte';
  import type { PageProps } from './$types';

  const { data }: PageProps = $props();
  const mayDescribe = $derived(can(data.actor.role, 'describe'));
  let opened = $state.raw<{ id: string | null; entry: StampEntry } | null>(null);
  const projects = $derived([...new Set(data.stamps.map(({ project }) => project))]);

  const labelOf = (field: string): string => FIELDS[field as FieldKey]?.label ?? field;
</script>

<ListPage title="Stamps">
  {#snippet lead()}
    Prepared values of a record, put onto one item or ten thousand from the record card, while
    bringing in, or on the command line. Pieces in braces stand for what an item says itself.
  {/snippet}
  {#each projects as project (project)}
    {#if project || projects.length > 1}<h2>{project || 'Of no project'}</h2>{/if}
    <ul>
      {#each data.stamps.filter((one) => one.project === project) as { id, ...entry } (id)}
        <li>
          {#if mayDescribe}<button
              class="name"
              type="button"
              onclick={() => (opened = { id, entry })}>{entry.name}</button
            >{:else}<span class="name">{entry.name}</span>{/if}
          <span class="says">
            {#each entry.lines as { field, way, value } (field)}
              <span
                ><span class="pencil">{labelOf(field)}, {WAY_WORDS[way]}:</span>
                {writtenAs(value) || 'empty'}</span
              >
            {/each}
          </span>
        </li>
      {/each}
    </ul>
  {:else}
    <p class="none">No stamps yet: make one for what you write again and again.</p>
  {/each}
  {#if mayDescribe}
    <p class="new">
      <button
        class="button"
        type="button"
        onclick={() => (opened = { id: null, entry: { name: '', project: '', lines: [] } })}
        >Make a stamp …</button
      >
    </p>
  {/if}
</ListPage>

{#if opened}
  <StampDialog id={opened.id} seen={opened.entry} {projects} onclose={() => (opened = null)} />
{/if}

<style>
  li {
    display: grid;
    grid-template-columns: minmax(140px, 240px) minmax(0, 1fr);
    gap: 16px;
    align-items: baseline;
    padding: 7px 0;
  }
  .says {
    display: flex;
    flex-wrap: wrap;
    gap: 2px 18px;
  }
</style>
