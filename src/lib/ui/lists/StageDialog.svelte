<script lang="ts">
  import type { StageEntry } from '#core/lists/entries';
  import {
    freeKeys,
    STAGE_COLOURS,
    STAGE_SHAPES,
    type Stage,
    type StageColour,
    type StageShape,
  } from '#core/stages/stages';
  import { counted } from '#core/text/quantities';
  import { api } from '../common/api';
  import Dialog from '../common/Dialog.svelte';
  import StageMark from '../common/StageMark.svelte';
  import { act } from './act';

  /** A stage made or changed: what it is called, its mark and its key. */
  interface Props {
    stage: (Stage & StageEntry & { items: number }) | null;
    stages: readonly Stage[];
    ondone: () => unknown;
    onclose: () => void;
  }
  const { stage, stages, ondone, onclose }: Props = $props();
  // svelte-ignore state_referenced_locally
  let { name, shape, colour, key, retired } = $state<{
    name: string;
    shape: StageShape;
    colour: StageColour;
    key: string | null;
    retired: boolean;
  }>({
    name: stage?.name ?? '',
    shape: stage?.shape ?? 'ring',
    colour: stage?.colour ?? 'slate',
    key: stage?.key ?? null,
    retired: stage?.retired ?? false,
  });
  const keys = $derived(freeKeys(stages.filter(({ id }) => id !== stage?.id)));
  const seen = $derived.by((): StageEntry | undefined => {
    if (!stage) return undefined;
    const { name: was, shape: form, colour: hue, key: letter, position, formerly } = stage;
    return {
      name: was,
      shape: form,
      colour: hue,
      key: letter,
      position,
      formerly,
      retired: stage.retired,
    };
  });

  async function save(): Promise<void> {
    const entry = { name: name.trim(), shape, colour, key, retired };
    const done = await act(
      stage ? 'Stage changed' : 'Stage made',
      () =>
        stage
          ? api.patch(`/api/lists/stages/${stage.id}`, { entry, seen })
          : api.post('/api/lists/stages', { entry }),
      ondone,
    );
    if (done) onclose();
  }
  async function drop(): Promise<void> {
    const done = await act(
      'Taken off the list',
      () => api.delete(`/api/lists/stages/${stage!.id}`),
      ondone,
    );
    if (done) onclose();
  }
</script>

<Dialog title={stage ? `Stage: ${stage.name}` : 'A new stage'} {onclose}>
  <div class="form">
    <label
      ><span class="label">Name</span><input
        class="field"
        bind:value={name}
        maxlength="200"
      /></label
    >
    <fieldset>
      <legend class="label">Mark</legend>
      <div class="marks">
        {#each STAGE_SHAPES as one (one)}
          <label class:is={shape === one}>
            <input class="unseen" type="radio" bind:group={shape} value={one} />
            <StageMark stage={{ name: one, shape: one, colour }} />
            <span>{one}</span>
          </label>
        {/each}
      </div>
    </fieldset>
    <fieldset>
      <legend class="label">Colour</legend>
      <div class="marks">
        {#each STAGE_COLOURS as one (one)}
          <label class:is={colour === one}>
            <input class="unseen" type="radio" bind:group={colour} value={one} />
            <StageMark stage={{ name: one, shape, colour: one }} />
            <span>{one}</span>
          </label>
        {/each}
      </div>
    </fieldset>
    <label
      ><span class="label">Key</span>
      <select class="field" bind:value={key} disabled={retired}>
        <option value={null}>none</option>
        {#each keys as letter (letter)}<option value={letter}>{letter.toUpperCase()}</option>{/each}
      </select></label
    >
    {#if stage}
      <label class="check"
        ><input type="checkbox" bind:checked={retired} /> Retired: not offered any more, its key is free
        again</label
      >
      {#if name.trim() !== stage.name && stage.items > 0}
        <p class="caution">
          {counted(stage.items, 'record')} and their files will say “{name.trim()}”. Files that
          still say “{stage.name}” are read as this stage.
        </p>
      {/if}
    {/if}
  </div>
  {#snippet foot()}
    <button
      class="button act"
      type="button"
      disabled={name.trim() === ''}
      onclick={() => void save()}>{stage ? 'Save the stage' : 'Make the stage'}</button
    >
    {#if stage && stage.items === 0}<button class="button" type="button" onclick={() => void drop()}
        >Take it off the list</button
      >{/if}
  {/snippet}
</Dialog>

<style>
  .form {
    display: grid;
    gap: 14px;
  }
  fieldset {
    border: 0;
    padding: 0;
    margin: 0;
  }
  legend {
    padding: 0;
  }
  .marks {
    display: flex;
    flex-wrap: wrap;
    gap: 6px;
  }
  .marks label {
    display: flex;
    gap: 6px;
    align-items: center;
    padding: 4px 8px;
    border: 1px solid var(--rule);
    border-radius: 3px;
  }
  .marks label.is {
    border-color: var(--ink);
    background: var(--wash);
  }
  .marks label:focus-within {
    outline: 2px solid var(--verdigris);
    outline-offset: 1px;
  }
  .check {
    display: flex;
    gap: 8px;
    align-items: center;
  }
</style>
