<script lang="ts">
  import { api } from '../common/api';
  import { freshen } from '../common/freshen';
  import { sayWrong } from '../common/notices.svelte';

  /** Which burst a frame belongs to, and what can be done about it. */
  interface Props {
    id: string;
    burst: string | null;
    size: number;
    lead: boolean;
    reason: string | null;
    canDescribe: boolean;
  }
  const { id, burst, size, lead, reason, canDescribe }: Props = $props();
  async function act(wish: 'first' | 'unfold'): Promise<void> {
    await api.post('/api/bursts', { ids: [id], act: wish });
    await freshen('mindful:item');
  }
</script>

<p class="bar">
  <span
    >{lead ? 'Stands for' : 'Behind another of'}
    {size} frames that are nearly the same{reason ? `: ${reason}` : ''}.</span
  >
  <span class="verdicts">
    <a class="link" href="/catalogue?q={encodeURIComponent(`burst "${burst}"`)}">All of them</a>
    {#if canDescribe}
      {#if !lead}<button
          class="link"
          type="button"
          onclick={() => void act('first').catch(sayWrong)}>Put first</button
        >{/if}
      <button class="link" type="button" onclick={() => void act('unfold').catch(sayWrong)}
        >Take apart</button
      >
    {/if}
  </span>
</p>
