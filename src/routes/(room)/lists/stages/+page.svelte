<script lang="ts">
  import { can } from '#core/people/roles';
  import { MOST_STAGES } from '#core/stages/stages';
  import { counted } from '#core/text/quantities';
  import { api } from '$lib/ui/common/api';
  import { freshen } from '$lib/ui/common/freshen';
  import StageMark from '$lib/ui/common/StageMark.svelte';
  import { act } from '$lib/ui/lists/act';
  import { withEntry } from '$lib/ui/lists/address';
  import StageDialog from '$lib/ui/lists/StageDialog.svelte';
  import MergeStageDialog from '$lib/ui/lists/MergeStageDialog.svelte';
  import ListPage from '$lib/ui/lists/ListPage.svelte';
  import type { PageProps } from './$types';

  const { data }: PageProps = $props();
  type Listed = (typeof data.listed)[number];
  const mayManage = $derived(can(data.actor.role, 'manage'));
  const inUse = $derived(data.listed.filter(({ retired }) => !retired));
  const retired = $derived(data.listed.filter((one) => one.retired));
  let opened = $state.raw<Listed | 'new' | null>(null);
  let merging = $state.raw<Listed | null>(null);
  /** Everybody’s card and keys show them. */
  const again = (): Promise<void> => freshen('mindful:card');

  async function move(stage: Listed, by: -1 | 1): Promise<void> {
    const ids = data.listed.map(({ id }) => id);
    const other = inUse[inUse.indexOf(stage) + by];
    if (!other) return;
    const [from, to] = [ids.indexOf(stage.id), ids.indexOf(other.id)];
    [ids[from], ids[to]] = [ids[to]!, ids[from]!];
    await act('Order changed', () => api.put('/api/lists/stages', { ids }), again);
  }
  function keys(event: KeyboardEvent, stage: Listed): void {
    if (!event.altKey || (event.key !== 'ArrowUp' && event.key !== 'ArrowDown')) return;
    event.preventDefault();
    void move(stage, event.key === 'ArrowUp' ? -1 : 1);
  }
</script>

{#snippet line(stage: Listed)}
  <li>
    <StageMark {stage} />
    {#if mayManage}<button
        class="name"
        type="button"
        onclick={() => (opened = stage)}
        onkeydown={(event) => keys(event, stage)}>{stage.name}</button
      >{:else}<span class="name">{stage.name}</span>{/if}
    <span class="key"
      >{#if stage.key}<kbd>{stage.key.toUpperCase()}</kbd>{/if}</span
    >
    <a class="count" href={withEntry('stage', stage.id)}>{counted(stage.items, 'item')}</a>
    <span class="pencil former"
      >{stage.formerly.length > 0 ? `formerly ${stage.formerly.join(', ')}` : ''}</span
    >
    {#if mayManage}
      <span class="acts">
        {#if !stage.retired}
          <button
            class="link"
            type="button"
            aria-label="Up: {stage.name}"
            disabled={inUse[0] === stage}
            onclick={() => void move(stage, -1)}>Up</button
          >
          <button
            class="link"
            type="button"
            aria-label="Down: {stage.name}"
            disabled={inUse.at(-1) === stage}
            onclick={() => void move(stage, 1)}>Down</button
          >
        {/if}
        <button
          class="link"
          type="button"
          aria-label="Merge … {stage.name}"
          onclick={() => (merging = stage)}>Merge …</button
        >
      </span>
    {/if}
  </li>
{/snippet}

<ListPage title="Stages" counts>
  {#snippet lead()}
    The team’s own words for how far an item is. What one is called changes in records, files and
    kept queries at once; the ledger takes it back.
  {/snippet}
  <ul>
    {#each inUse as stage (stage.id)}{@render line(stage)}{/each}
  </ul>
  {#if mayManage}
    <p class="new">
      <button
        class="button"
        type="button"
        disabled={inUse.length >= MOST_STAGES}
        onclick={() => (opened = 'new')}>Make a stage …</button
      >
      <span class="pencil"
        >{inUse.length} of {MOST_STAGES} in use. Alt and arrows on a name move it.</span
      >
    </p>
  {/if}
  {#if retired.length > 0}
    <h2>Retired</h2>
    <p class="pencil">Not offered any more; items that are at them stay.</p>
    <ul>
      {#each retired as stage (stage.id)}{@render line(stage)}{/each}
    </ul>
  {/if}
</ListPage>

{#if opened}
  <StageDialog
    stage={opened === 'new' ? null : opened}
    stages={data.listed}
    ondone={again}
    onclose={() => (opened = null)}
  />
{/if}
{#if merging}
  <MergeStageDialog
    stage={merging}
    stages={data.listed}
    ondone={again}
    onclose={() => (merging = null)}
  />
{/if}

<style>
  li {
    display: grid;
    grid-template-columns: 11px minmax(140px, 220px) 40px 110px minmax(0, 1fr) auto;
    gap: 14px;
    align-items: center;
    min-height: 40px;
  }
  .count {
    text-align: right;
  }
  .former {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .acts {
    display: flex;
    gap: 14px;
  }
  .acts button {
    min-height: 28px;
  }
  @media (max-width: 760px) {
    li {
      grid-template-columns: 11px minmax(0, 1fr) 40px auto;
    }
    .former {
      display: none;
    }
    .acts {
      grid-column: 2 / -1;
      flex-wrap: wrap;
    }
  }
</style>
