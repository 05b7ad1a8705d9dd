<script lang="ts">
  import type { Merged } from '#core/records/merge';
  import { breaks, ruleWords, type HouseRule } from '#core/records/rules';

  /** What the rules of the house ask for and the chosen items do not say. */
  interface Props {
    merged: Merged;
    rules: readonly HouseRule[];
    many: boolean;
  }
  const { merged, rules, many }: Props = $props();
  // Where they differ, each is judged by itself: the sentence finds those that are not ready.
  const broken = $derived(
    rules.filter(
      (rule) => merged[rule.field].mixed === 0 && breaks(merged[rule.field].value, rule),
    ),
  );
</script>

{#if broken.length > 0}
  <p class="caution">
    Not ready{many ? ', any of them' : ''}: {broken
      .map((rule) => ruleWords(merged[rule.field].value, rule))
      .join('; ')}.
  </p>
{/if}

<style>
  p {
    margin: 8px 0;
  }
</style>
