<script lang="ts">
  import type { Picked } from '#core/query/picked';
  import { parseAmount, type DateLine, type DateWish } from '#core/records/dates';
  import { parseOffset } from '#core/records/taken';
  import { shownDate } from '#core/text/dateWords';
  import { counted } from '#core/text/quantities';
  import { api } from '../common/api';
  import type { BodyOf } from '../common/wire';
  import Changes from '../common/Changes.svelte';
  import Dialog from '../common/Dialog.svelte';
  import { Previewed, type Answer } from '../common/previewed.svelte';
  import Segments from '../common/Segments.svelte';
  import { sayChanged } from '../common/undoing';

  /** Dates of what is selected, set at once: every one is shown before and after. */
  interface Props {
    ids: Picked;
    count: number;
    onclose: () => void;
  }
  const { ids, count, onclose }: Props = $props();
  type Act = DateWish['act'];
  const ACTS: { value: Act; words: string }[] = [
    { value: 'shift', words: 'Move by' },
    { value: 'set', words: 'Set to' },
    { value: 'zone', words: 'Time zone' },
    { value: 'read', words: 'From names' },
    { value: 'spread', words: 'Spread' },
  ];
  let act = $state<Act>('shift');
  let amount = $state('');
  let text = $state('');
  let offset = $state('');
  let keeps = $state<'clock' | 'moment'>('clock');
  let from = $state<'name' | 'original' | 'folder'>('name');
  let pattern = $state('');
  let first = $state('');
  let every = $state(1);
  /** Spread over what is known of the day, instead of by the clock. */
  let isEven = $state(false);

  /** What is wished; null while it is not said whole. */
  const wish = $derived.by((): DateWish | null => {
    if (act === 'shift') {
      const parsed = parseAmount(amount);
      return parsed && { act, amount: parsed };
    }
    if (act === 'set') return text.trim() ? { act, text } : null;
    if (act === 'zone') {
      const minutes = parseOffset(offset);
      return minutes === null ? null : { act, offset: minutes, keeps };
    }
    if (act === 'read') return { act, from, pattern: pattern.trim() };
    if (isEven) return { act, from: first, every: null };
    return first.trim() ? { act, from: first, every } : null;
  });

  const seen = new Previewed<BodyOf<'POST', '/api/dates/preview'>, Answer & { lines: DateLine[] }>(
    (asked) => api.post('/api/dates/preview', asked),
    () => wish && { ids, wish },
  );
  const lines = $derived('lines' in seen.told ? seen.told.lines : []);

  const told = (date: string): string =>
    date === '' ? 'no date' : /\d:\d/.test(date) ? date : shownDate(date);

  async function set(): Promise<void> {
    if (!wish) return;
    const wished = { ids, wish };
    const isDone = await seen.act(async (fingerprint) => {
      const done = await api.post('/api/dates', { ...wished, fingerprint });
      sayChanged(done, `The dates of ${counted(done.changed, 'item')} are set.`);
    });
    if (!isDone) return;
    onclose();
  }
</script>

<Dialog title="Dates of {counted(count, 'item')}" wide {onclose}>
  <Segments label="What is done to them" options={ACTS} value={act} onchange={(to) => (act = to)} />
  <div class="wish">
    {#if act === 'shift'}
      <input class="field" bind:value={amount} placeholder="+1h 30m" aria-label="Amount" />
      <span class="pencil"
        >years y, months mo, days d, hours h, minutes m, seconds s; − to go back</span
      >
    {:else if act === 'set'}
      <input class="field" bind:value={text} placeholder="2026-09~" aria-label="Date" />
      <span class="pencil"
        >2026-09-12 19:42, or as little as is known: 2026, September 2026, about 1974, perhaps
        summer 1962, the 1970s, from 2019 to 2021</span
      >
    {:else if act === 'zone'}
      <input class="field" bind:value={offset} placeholder="+01:00" aria-label="Offset from UTC" />
      <label><input type="radio" bind:group={keeps} value="clock" /> the clock stays</label>
      <label><input type="radio" bind:group={keeps} value="moment" /> the moment stays</label>
    {:else if act === 'read'}
      <select class="field" bind:value={from} aria-label="Where the date stands">
        <option value="name">in the name</option>
        <option value="original">in the name it came with</option>
        <option value="folder">in the folder</option>
      </select>
      <input
        class="field"
        bind:value={pattern}
        placeholder="yyyyMMdd_HHmmss"
        aria-label="Pattern of the date"
      />
      <span class="pencil">without a pattern the usual ones are tried</span>
    {:else}
      <label><input type="radio" bind:group={isEven} value={false} /> from a moment on</label>
      <label
        ><input type="radio" bind:group={isEven} value={true} /> evenly within a day, a month …</label
      >
      <input
        class="field"
        bind:value={first}
        placeholder={isEven ? 'what is known of each' : '2026-09-12 10:00'}
        aria-label={isEven ? 'Within which date' : 'When the first was taken'}
      />
      {#if isEven}<span>in the order selected</span>{:else}
        <span>every</span>
        <input
          class="field few"
          type="number"
          min="1"
          max="86400"
          bind:value={every}
          aria-label="Seconds"
        />
        <span>s, in the order selected</span>
      {/if}
    {/if}
  </div>
  {#if seen.wrong}<p class="wrong" role="alert">{seen.wrong}</p>{/if}
  <Changes label="Dates before and after" count={lines.length} columns="1.2fr 1fr 1fr 1.1fr">
    {#snippet cells(at)}
      {@const line = lines[at]!}
      <span class="mono" role="cell">{line.name}</span>
      <span class="mono pencil" role="cell" title={line.before}>{told(line.before)}</span>
      <span class="mono" role="cell" class:same={line.before === line.after} title={line.after}
        >{line.problem ? '' : told(line.after)}</span
      >
      <span class="caution" role="cell">{line.problem ?? ''}</span>
    {/snippet}
  </Changes>
  {#snippet foot()}
    <button class="button act" type="button" disabled={!seen.ready} onclick={() => void set()}
      >Set {counted(seen.ready ? seen.told.changed : 0, 'date')}</button
    >
    <span class="pencil" aria-live="polite"
      >{seen.told.problems > 0
        ? `${counted(seen.told.problems, 'item')} stay as they are.`
        : 'The ledger gives the former dates back.'}</span
    >
  {/snippet}
</Dialog>

<style>
  .wish label {
    display: flex;
    gap: 6px;
    align-items: center;
  }
  .wish {
    display: flex;
    flex-wrap: wrap;
    gap: 8px 12px;
    align-items: center;
    margin: 12px 0;
  }
  .wish .field {
    width: 210px;
  }
  .wish .few {
    width: 80px;
  }
  .same {
    color: var(--pencil);
  }
</style>
