<script lang="ts">
  import type { Picked } from '#core/query/picked';
  import { counted, formatBytes } from '#core/text/quantities';
  import { summaryOf } from '../common/summary';

  export interface Verb {
    label: string;
    run: () => void;
  }
  interface Props {
    ids: Picked;
    count: number;
    verbs: Verb[];
    onclear: () => void;
  }
  const { ids, count, verbs, onclear }: Props = $props();
  let facts = $state<{ bytes: number; lacks: number } | null>(null);
  const key = $derived(JSON.stringify(ids));

  $effect(() => {
    const asked = key;
    const timer = setTimeout(() => {
      void summaryOf(ids)
        .then(({ bytes, lackCredit }) => {
          if (asked === key) facts = { bytes, lacks: lackCredit };
        })
        .catch(() => (facts = null));
    }, 150);
    return () => clearTimeout(timer);
  });
</script>

<div class="bar" role="toolbar" aria-label="Selection">
  <strong>{counted(count, 'selected', 'selected')}</strong>
  {#if facts}
    <span class="mono">{formatBytes(facts.bytes)}</span>
    {#if facts.lacks}<span class="lack"
        >{facts.lacks === 1 ? '1 lacks a credit' : `${facts.lacks} lack a credit`}</span
      >{/if}
  {/if}
  <span class="verbs">
    {#each verbs as { label, run } (label)}<button type="button" onclick={run}>{label}</button
      >{/each}
    <button class="let" type="button" onclick={onclear}>Let go</button>
  </span>
</div>

<style>
  .bar {
    position: absolute;
    left: 14px;
    right: 26px;
    bottom: 14px;
    z-index: 15;
    display: flex;
    gap: 12px;
    align-items: center;
    height: 36px;
    padding: 0 12px;
    white-space: nowrap;
    border-radius: 4px;
    background: var(--bar);
    color: var(--bar-ink);
  }
  .lack {
    color: #ecc06a;
  }
  .verbs {
    display: flex;
    gap: 9px;
    margin-left: auto;
  }
  button {
    border: 0;
    padding: 4px 2px;
    background: none;
    font-weight: 600;
  }
  button:hover {
    text-decoration: underline;
  }
  .let {
    color: #b8beb9;
    font-weight: 400;
  }
  /* A phone, or a narrow window beside another program. */
  @media (max-width: 760px) {
    .bar {
      left: 0;
      right: 0;
      bottom: 0;
      flex-wrap: wrap;
      gap: 2px 12px;
      height: auto;
      max-height: 60%;
      padding: 6px 10px;
      overflow: auto;
      border-radius: 0;
      white-space: normal;
    }
    .verbs {
      flex-wrap: wrap;
      margin-left: 0;
    }
    button {
      min-height: 32px;
    }
  }
</style>
