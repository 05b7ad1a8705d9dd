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
  const whole = (value: string, least = 1): number =>
    Math.max(least, Math.min(999, Math.trunc(Number(value) || least)));
</script>

<span class="change">
  <span>{label}</span>
  {#if change.does === 'first' || change.does === 'last'}
    <input
      class="field"
      type="number"
      min="1"
      aria-label="How many"
      value={change.count}
      onchange={(event) => set({ count: whole(event.currentTarget.value) })}
    />
  {:else if change.does === 'from'}
    <input
      class="field"
      type="number"
      min="1"
      aria-label="From character"
      value={change.from}
      onchange={(event) => set({ from: whole(event.currentTarget.value) })}
    />
    <input
      class="field"
      type="number"
      min="1"
      aria-label="To character"
      value={change.to ?? ''}
      onchange={({ currentTarget: { value } }) => set({ to: value === '' ? null : whole(value) })}
    />
  {:else if change.does === 'part'}
    <input
      class="field"
      type="number"
      aria-label="Which part; from the end with a minus"
      value={change.number}
      onchange={(event) =>
        set({
          number: Math.max(-99, Math.min(99, Math.trunc(Number(event.currentTarget.value)))) || 1,
        })}
    />
    <input
      class="field mono"
      size="3"
      aria-label="Between what"
      value={change.by}
      onchange={(event) => set({ by: event.currentTarget.value || '_' })}
    />
  {:else if change.does === 'replace'}
    <input
      class="field mono"
      size="6"
      aria-label="What"
      value={change.what}
      onchange={(event) => set({ what: event.currentTarget.value || change.what })}
    />
    <input
      class="field mono"
      size="6"
      aria-label="By what"
      value={change.with}
      onchange={(event) => set({ with: event.currentTarget.value })}
    />
  {:else if change.does === 'match' || change.does === 'rewrite'}
    <input
      class="field mono"
      size="14"
      aria-label="Regular expression"
      value={change.regex}
      onchange={(event) => set({ regex: event.currentTarget.value })}
    />
    <input
      class="field mono"
      size="8"
      aria-label="Said as"
      placeholder="as $1"
      value={change.as ?? ''}
      onchange={({ currentTarget: { value } }) =>
        set({ as: change.does === 'match' && value === '' ? null : value })}
    />
  {/if}
  <button class="link" type="button" aria-label="Leave out: {label}" onclick={() => onchange(null)}
    >✕</button
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
