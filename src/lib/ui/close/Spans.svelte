<script lang="ts">
  import { frameWords, lengthWords } from '#core/footage/span';
  import { isAboutAny } from '#core/live/messages';
  import { counted } from '#core/text/quantities';
  import type { ShownSpan } from '#core/wire/spans';
  import { api } from '../common/api';
  import { calmly, hear } from '../common/live';
  import Pips from '../common/Pips.svelte';

  /** Spans and markers of a clip; each leads to its frame in the log. */
  interface Props {
    id: string;
    counting: { rate: number; start: string | null };
    /** Part of the address behind the number. */
    search: string;
  }
  const { id, counting, search }: Props = $props();
  let spans = $state.raw<ShownSpan[]>([]);

  async function look(): Promise<void> {
    const wished = id;
    const found = await api.get(`/api/items/${wished}/spans`).catch(() => []);
    if (wished === id) spans = found;
  }
  $effect(() => {
    const own = id;
    void look();
    const soon = calmly(() => void look(), 300);
    return hear((message) => {
      if (message.about === 'again') soon();
      if (message.about === 'items' && isAboutAny(message, [own, ...spans.map((one) => one.id)]))
        soon();
    });
  });
</script>

{#if spans.length > 0}
  <details open>
    <summary>{counted(spans.length, 'span')} of it</summary>
    <ol>
      {#each spans as span (span.id)}
        <li>
          <a href="/catalogue/{span.number}/log{search}">
            <span class="mono pencil">{frameWords(counting, span.from)}</span>
            <strong>{span.title || (span.isMarker ? 'Marker' : 'No name yet')}</strong>
            {#if !span.isMarker}<span class="pencil"
                >{lengthWords(span.to - span.from, counting.rate)}</span
              >{/if}
            <Pips rating={span.rating} />
          </a>
        </li>
      {/each}
    </ol>
  </details>
{/if}

<style>
  details {
    padding: 8px 16px;
    border-top: 1px solid var(--rule);
    background: var(--card);
  }
  summary {
    cursor: pointer;
  }
  ol {
    max-height: 120px;
    margin: 6px 0 0;
    columns: 300px;
    padding: 0;
    list-style: none;
    overflow-y: auto;
  }
  a {
    display: flex;
    gap: 8px;
    align-items: baseline;
    padding: 3px 0;
    color: inherit;
    text-decoration: none;
  }
  a:hover strong {
    text-decoration: underline;
  }
</style>
