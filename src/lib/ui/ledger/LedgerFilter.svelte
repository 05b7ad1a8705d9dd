<script lang="ts">
  import { DEEDS } from '#core/deeds/kinds';
  import { goto } from '$app/navigation';
  import { takenFromText } from '#core/records/taken';
  import { wordsOfDate } from '#core/text/dateWords';

  /** Who, what kind, when, what about: one sentence whose parts are chosen; the address holds them. */
  interface Wish {
    who?: string | undefined;
    kind?: string | undefined;
    from?: string | undefined;
    to?: string | undefined;
    about?: string | undefined;
  }
  interface Props {
    wish: Wish;
    people: { id: string; name: string }[];
  }
  const { wish, people }: Props = $props();
  const isOpen = $derived(Object.values(wish).every((part) => !part));

  let wrong = $state<'from' | 'to' | null>(null);
  /** A day in words, or a month or year: its first or last day. */
  function day(end: 'from' | 'to', text: string): void {
    const taken = text.trim() === '' ? null : takenFromText(text);
    wrong = text.trim() !== '' && !taken ? end : null;
    if (!wrong) say({ [end]: taken ? taken[end].slice(0, 10) : undefined });
  }

  function say(changes: Wish): void {
    const said = Object.entries({ ...wish, ...changes }).filter(
      (part): part is [string, string] => !!part[1],
    );
    void goto(`/ledger?${new URLSearchParams(said).toString()}`, {
      keepFocus: true,
      noScroll: true,
      replaceState: true,
    });
  }
</script>

<form class="sentence" onsubmit={(event) => event.preventDefault()}>
  Changes of
  <select
    class="choice"
    aria-label="Kind of change"
    value={wish.kind ?? ''}
    onchange={(event) => say({ kind: event.currentTarget.value })}
  >
    <option value="">every kind</option>
    {#each Object.entries(DEEDS) as [kind, { of }] (kind)}<option value={kind}>{of}</option>{/each}
  </select>
  by
  <select
    class="choice"
    aria-label="Who"
    value={wish.who ?? ''}
    onchange={(event) => say({ who: event.currentTarget.value })}
  >
    <option value="">anyone</option>
    {#each people as { id, name } (id)}<option value={id}>{name}</option>{/each}
    <option value="none">the command line</option>
  </select>
  from
  <input
    class="choice day"
    type="text"
    aria-label="First day"
    placeholder="any day"
    aria-invalid={wrong === 'from'}
    value={wish.from ? wordsOfDate(wish.from) : ''}
    onchange={(event) => day('from', event.currentTarget.value)}
  />
  to
  <input
    class="choice day"
    type="text"
    aria-label="Last day"
    placeholder="today"
    aria-invalid={wrong === 'to'}
    value={wish.to ? wordsOfDate(wish.to) : ''}
    onchange={(event) => day('to', event.currentTarget.value)}
  />
  about
  <input
    class="choice"
    type="search"
    aria-label="Catalogue number or words"
    placeholder="2026.014.0237, or words"
    value={wish.about ?? ''}
    onchange={(event) => say({ about: event.currentTarget.value.trim() })}
  />
  {#if wrong}<span class="wrong" role="alert"
      >no day; write 12 September 2026 or September 2026</span
    >{/if}
  {#if !isOpen}<a class="link" href="/ledger">everything</a>{/if}
</form>

<style>
  .sentence {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 8px;
    align-items: baseline;
    margin-top: 12px;
    font: 20px/1.6 var(--book);
  }
  .sentence .choice {
    font: italic 18px/1.4 var(--book);
  }
  .day {
    width: 8em;
  }
  .wrong {
    font: 13px var(--plain);
  }
  .link {
    font: 13px var(--plain);
  }
</style>
