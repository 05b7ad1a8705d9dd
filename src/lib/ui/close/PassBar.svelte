<script lang="ts">
  import type { Picked } from '#core/query/picked';
  import { formatCount } from '#core/text/quantities';
  import Discard from '../wastebasket/Discard.svelte';

  /** A pass of verdicts: how far it is, and the keys for it. */
  interface Props {
    kept: number;
    rejected: number;
    total: number;
    /** Address of what was kept. */
    keptAt: string;
    /** What was rejected, to be let go; null where one may not. */
    rejectedOf: Picked | null;
    ondone: () => void;
    onkeep: () => void;
    onreject: () => void;
    onlater: () => void;
  }
  const { kept, rejected, total, keptAt, rejectedOf, ondone, onkeep, onreject, onlater }: Props =
    $props();
  let discards = $state(false);
</script>

<p class="bar" role="status">
  <strong>Pass</strong>
  <span>{formatCount(kept)} kept</span>
  <span>{formatCount(rejected)} rejected</span>
  <span>{formatCount(Math.max(0, total - kept - rejected))} to go</span>
  <span class="verdicts">
    <button class="link" type="button" onclick={onkeep}>Keep <kbd>↑</kbd></button>
    <button class="link" type="button" onclick={onreject}>Reject <kbd>↓</kbd></button>
    <button class="link" type="button" onclick={onlater}>Later <kbd>→</kbd></button>
    <a class="link" href={keptAt}>What is kept</a>
    <a class="link" href="{keptAt}&cull=1">Second pass</a>
    {#if rejectedOf && rejected > 0}<button
        class="link"
        type="button"
        onclick={() => (discards = true)}>Discard rejected</button
      >{/if}
  </span>
</p>
{#if discards && rejectedOf}<Discard
    ids={rejectedOf}
    onclose={() => (discards = false)}
    {ondone}
  />{/if}
