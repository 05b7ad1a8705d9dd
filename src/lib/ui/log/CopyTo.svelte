<script lang="ts">
  import { counted } from '#core/text/quantities';
  import type { OtherClip } from '#core/wire/spans';
  import { api } from '../common/api';
  import Dialog from '../common/Dialog.svelte';

  /** The clips that ran at the same moment, one of which gets the chosen spans too. */
  interface Props {
    id: string;
    count: number;
    onchoose: (clip: OtherClip) => void;
    onclose: () => void;
  }
  const { id, count, onchoose, onclose }: Props = $props();
  const clips = $derived(api.get(`/api/items/${id}/beside`));
  const lies = ({ later, by }: OtherClip): string =>
    `${Math.abs(later) < 0.02 ? 'begins with it' : `begins ${Math.abs(later).toFixed(1)} s ${later > 0 ? 'later' : 'earlier'}`}, by ${by}`;
</script>

<Dialog title="Copy {counted(count, 'span')} to" {onclose}>
  {#await clips}
    <p class="pencil">Looking for clips of the same moment …</p>
  {:then found}
    {#if found.length === 0}
      <p>
        No other clip is known to have run then: its timecode or the time it was taken would tell.
      </p>
    {:else}
      <ul>
        {#each found as clip (clip.id)}
          <li>
            <button type="button" onclick={() => onchoose(clip)}>
              <strong>{clip.name}</strong>
              <span class="mono pencil">{clip.number}</span>
              <span class="pencil">{lies(clip)}</span>
            </button>
          </li>
        {/each}
      </ul>
      <p class="pencil">What lies outside of that clip is left out.</p>
    {/if}
  {:catch error}
    <p role="alert">{(error as Error).message}</p>
  {/await}
</Dialog>

<style>
  ul {
    margin: 0 0 10px;
    padding: 0;
    list-style: none;
  }
  button {
    display: flex;
    width: 100%;
    gap: 10px;
    align-items: baseline;
    padding: 9px 0;
    background: none;
    border: 0;
    border-bottom: 1px solid var(--rule);
    text-align: left;
  }
</style>
