<script lang="ts">
  import type { Change } from '#core/naming/piece';
  import { CHANGE_CHOICES } from '#core/naming/words';

  /** Something done to the text of a piece. */
  interface Props {
    change: Change;
    /** null: not done any more */
    onchange: (change: Change | null) => void;
  }
  const { change, onchange }: Props = $props();
  const label = $derived(CHANGE_CHOICES.find(({ does }) => does === change.does)?.label ?? '');
  const set = (part: object): void => onchange({ ...change, ...part } as Change);
  const MOST = 999;
  const whole = (value: string, least = 1): number =>
    Math.max(least, Math.min(MOST, Math.trunc(Number(value) || 1)));
</script>

{#snippet count(words: string, value: number | null, give: (value: string) => void, least = 1)}
  <input
    class="field"
    type="number"
    min={least}
    aria-label={words}
    {value}
    onchange={(event) => give(event.currentTarget.value)}
  />
{/snippet}
{#snippet text(words: string, value: string, give: (value: string) => void, size = 6, hint = '')}
  <input
    class="field mono"
    {size}
    aria-label={words}
    placeholder={hint}
    {value}
    onchange={(event) => give(event.currentTarget.value)}
  />
{/snippet}

<span class="change">
  <span>{label}</span>
  {#if change.does === 'first' || change.does === 'last'}
    {@render count('How many', change.count, (value) => set({ count: whole(value) }))}
  {:else if change.does === 'from'}
    {@render count('From character', change.from, (value) => set({ from: whole(value) }))}
    {@render count('To character', change.to, (value) =>
      set({ to: value === '' ? null : whole(value) }),
    )}
  {:else if change.does === 'part'}
    {@render count(
      'Which part; from the end with a minus',
      change.number,
      (value) => set({ number: Math.min(99, whole(value, -99)) || 1 }),
      -99,
    )}
    {@render text('Between what', change.by, (value) => set({ by: value || '_' }), 3)}
  {:else if change.does === 'replace'}
    {@render text('What', change.what, (value) => set({ what: value || change.what }))}
    {@render text('By what', change.with, (value) => set({ with: value }))}
  {:else if change.does === 'match' || change.does === 'rewrite'}
    {@render text('Regular expression', change.regex, (value) => set({ regex: value }), 14)}
    {@render text(
      'Said as',
      change.as ?? '',
      (value) => set({ as: change.does === 'match' && value === '' ? null : value }),
      8,
      'as $1',
    )}
  {/if}
  <button class="link" type="button" aria-label="Leave out: {label}" onclick={() => onchange(null)}
    >×</button
  >
</span>

<style>
  .change {
    display: inline-flex;
    gap: 5px;
    align-items: center;
    padding: 0 2px 0 8px;
    border-left: 2px solid var(--rule);
  }
  button {
    min-width: 24px;
    min-height: 24px;
    text-decoration: none;
  }
</style>
