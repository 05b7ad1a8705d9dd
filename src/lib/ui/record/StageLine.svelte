<script lang="ts">
  import { offeredStages, type Stage } from '#core/stages/stages';
  import StageMark from '../common/StageMark.svelte';
  import CardLine from './CardLine.svelte';

  interface Props {
    stage: { value: string; mixed: number };
    stages: Stage[];
    disabled: boolean;
    onpick: (stage: string) => void;
  }
  const { stage, stages, disabled, onpick }: Props = $props();
  const mark = $derived(stage.mixed ? undefined : stages.find(({ name }) => name === stage.value));
</script>

<CardLine label="Stage">
  <span class="stage">
    {#if mark}<StageMark stage={mark} />{/if}
    {#if !disabled}
      <select
        aria-label="Stage"
        value={stage.mixed ? 'mixed' : stage.value}
        onchange={(event) => onpick(event.currentTarget.value)}
      >
        {#if stage.mixed}<option value="mixed" disabled>{stage.mixed} different</option>{/if}
        <option value="">none yet</option>
        {#each offeredStages(stages, stage.mixed ? '' : stage.value) as { name } (name)}<option
            value={name}>{name}</option
          >{/each}
      </select>
    {:else}{stage.mixed ? `${stage.mixed} different` : stage.value || 'none yet'}{/if}
  </span>
</CardLine>

<style>
  .stage {
    display: flex;
    gap: 6px;
    align-items: center;
  }
  select {
    border: 0;
    margin-left: -4px;
    padding: 0;
    background: none;
  }
  option {
    background: var(--card);
  }
</style>
