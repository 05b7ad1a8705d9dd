<script lang="ts">
  import { formatPattern } from '#core/naming/grammar';
  import type { Change } from '#core/naming/piece';

  /** Something in present names said otherwise: a pattern of one piece, found and replaced by words. */
  const { onchange }: { onchange: (pattern: string) => void } = $props();
  let what = $state('');
  let by = $state('');
  let isRegex = $state(false);

  $effect(() => {
    const changes: Change[] =
      what === ''
        ? []
        : isRegex
          ? [{ does: 'rewrite', regex: what, as: by }]
          : [{ does: 'replace', what, with: by }];
    onchange(formatPattern([{ choices: [{ source: { of: 'word', word: 'name' }, changes }] }]));
  });
</script>

<div class="find">
  <label
    >Find <input
      class="field mono"
      bind:value={what}
      placeholder={isRegex ? '(\\d+)_(\\w+)' : 'old'}
      spellcheck="false"
      autocomplete="off"
    /></label
  >
  <label
    >replace with <input
      class="field mono"
      bind:value={by}
      placeholder={isRegex ? '$2-$1' : 'new'}
      spellcheck="false"
      autocomplete="off"
    /></label
  >
  <label class="tick"
    ><input type="checkbox" bind:checked={isRegex} /> as a regular expression</label
  >
  <p class="pencil">
    In the present name, without its extension.{#if isRegex}
      RE2 syntax; (?i) ignores case; $1 and $&lt;name&gt; are groups.{/if}
  </p>
</div>

<style>
  .find {
    display: flex;
    flex-wrap: wrap;
    gap: 6px 16px;
    align-items: center;
  }
  label {
    display: flex;
    gap: 8px;
    align-items: center;
    white-space: nowrap;
  }
  .field {
    width: 220px;
  }
  p {
    flex-basis: 100%;
  }
</style>
