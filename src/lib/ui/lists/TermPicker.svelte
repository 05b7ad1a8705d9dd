<script lang="ts">
  import { api } from '../common/api';

  /** One term chosen by letters of any of its labels. */
  interface Props {
    label: string;
    /** Ids that are no choice. */
    without?: readonly string[];
    onpick: (term: { id: string; label: string }) => void;
  }
  const { label, without = [], onpick }: Props = $props();
  const id = $props.id();
  let typed = $state('');
  let found = $state.raw<{ id: string; label: string; by: string | null }[]>([]);
  const MOST = 12;
  const offers = $derived(found.filter((one) => !without.includes(one.id)).slice(0, MOST));

  async function ask(): Promise<void> {
    const wish = typed.trim();
    const chosen = offers.find((one) => one.label === wish);
    if (chosen) return pick(chosen);
    const { terms } = wish
      ? await api.get('/api/lists/terms', { typed: wish }).catch(() => ({ terms: [] }))
      : { terms: [] };
    if (wish === typed.trim()) found = terms;
  }
  function pick(term: { id: string; label: string }): void {
    typed = '';
    found = [];
    onpick(term);
  }
  function keys(event: KeyboardEvent): void {
    if (event.key !== 'Enter') return;
    event.preventDefault();
    if (offers[0]) pick(offers[0]);
  }
</script>

<input
  class="field"
  list={id}
  aria-label={label}
  placeholder={label.toLowerCase()}
  bind:value={typed}
  oninput={() => void ask()}
  onkeydown={keys}
/>
<datalist {id}>
  {#each offers as one (one.id)}<option value={one.label}>{one.by ?? ''}</option>{/each}
</datalist>
