<script lang="ts">
  import type { SpotEntry } from '#core/lists/entries';
  import { formatPosition, parsePosition } from '#core/geo/position';
  import type { Naming, PositionLine, PositionWish } from '#core/positions/wish';
  import type { Picked } from '#core/query/picked';
  import { amountSeconds, parseAmount } from '#core/records/dates';
  import { counted } from '#core/text/quantities';
  import { api } from '../common/api';
  import type { BodyOf } from '../common/wire';
  import Changes from '../common/Changes.svelte';
  import Dialog from '../common/Dialog.svelte';
  import { Previewed, type Answer } from '../common/previewed.svelte';
  import Segments from '../common/Segments.svelte';
  import { sayChanged } from '../common/undoing';
  import TrackChoice, { type TrackWish } from './TrackChoice.svelte';

  /** Where what is selected was taken, set at once: every position is shown before and after. */
  interface Props {
    ids: Picked;
    count: number;
    /** A position it begins with. */
    at?: string;
    onclose: () => void;
  }
  const { ids, count, at = '', onclose }: Props = $props();
  type Act = PositionWish['act'];
  const ACTS: { value: Act; words: string }[] = [
    { value: 'set', words: 'Set to' },
    { value: 'track', words: 'From a track' },
    { value: 'neighbours', words: 'From neighbours' },
    { value: 'stay', words: 'Names only' },
  ];
  let act = $state<Act>('set');
  // svelte-ignore state_referenced_locally
  let text = $state(at);
  let track = $state.raw<TrackWish | null>(null);
  let near = $state('10m');
  let spots = $state.raw<(SpotEntry & { id: string })[]>([]);
  let naming = $state<Naming>({ into: [], over: false });
  const SIDE_WORDS = { created: 'where it was made', shown: 'what it shows' } as const;
  const NAMING = 'mindful-naming';

  $effect(() => {
    const kept = localStorage.getItem(NAMING);
    if (kept) naming = JSON.parse(kept) as Naming;
    api
      .get('/api/lists/spots')
      .then((found) => (spots = found))
      .catch(() => undefined);
  });
  function name(side: Naming['into'][number], isOn: boolean): void {
    const others = naming.into.filter((one) => one !== side);
    naming.into = isOn ? [...others, side] : others;
  }

  /** What is wished; null while it is not said whole. */
  const wish = $derived.by((): PositionWish | null => {
    if (act === 'set') return text.trim() === '' || parsePosition(text) ? { act, text } : null;
    if (act === 'track') return track && { act, ...track };
    if (act === 'stay') return naming.into.length > 0 ? { act } : null;
    const amount = parseAmount(near);
    const minutes = amount ? Math.ceil(amountSeconds(amount) / 60) : 0;
    return minutes > 0 ? { act, minutes } : null;
  });
  const unread = $derived(act === 'set' && text.trim() !== '' && !parsePosition(text));
  const seen = new Previewed<
    BodyOf<'POST', '/api/positions/preview'>,
    Answer & { lines: PositionLine[] }
  >(
    (asked) => api.post('/api/positions/preview', asked),
    () => wish && { ids, wish, naming: $state.snapshot(naming) },
  );
  const lines = $derived('lines' in seen.told ? seen.told.lines : []);

  async function set(): Promise<void> {
    if (!wish) return;
    const wished = { ids, wish, naming };
    const isDone = await seen.act(async (fingerprint) => {
      const done = await api.post('/api/positions', { ...wished, fingerprint });
      localStorage.setItem(NAMING, JSON.stringify(naming));
      sayChanged(done, `Where ${counted(done.changed, 'item')} were taken is set.`);
    });
    if (!isDone) return;
    onclose();
  }
</script>

<Dialog title="Where {counted(count, 'item')} {count === 1 ? 'was' : 'were'} taken" wide {onclose}>
  <Segments label="How it is told" options={ACTS} value={act} onchange={(to) => (act = to)} />
  <div class="wish">
    {#if act === 'set'}
      <input
        class="field long"
        bind:value={text}
        placeholder="54.3207, 10.1349"
        aria-label="Position"
      />
      {#if spots.length > 0}
        <select
          class="field"
          aria-label="A kept place"
          value=""
          onchange={(event) => {
            const spot = spots.find(({ id }) => id === event.currentTarget.value);
            if (spot) text = formatPosition(spot);
            event.currentTarget.value = '';
          }}
        >
          <option value="" disabled>a kept place …</option>
          {#each spots as { id, name: called } (id)}<option value={id}>{called}</option>{/each}
        </select>
      {/if}
      <span class="pencil"
        >{unread
          ? 'no position yet'
          : 'degrees, or degrees with minutes and seconds: 54° 19′ 14″ N, 10° 8′ 6″ E; empty forgets it'}</span
      >
    {:else if act === 'track'}
      <TrackChoice onchange={(to) => (track = to)} />
    {:else if act === 'neighbours'}
      <span>those without a position get that of what was taken nearest in time, within</span>
      <input class="field few" bind:value={near} aria-label="How near in time" />
    {:else}
      <span>they stay where they are; the names of the place are looked up</span>
    {/if}
  </div>
  <div class="wish names">
    <span>names into the fields of</span>
    {#each ['created', 'shown'] as const as side (side)}
      <label
        ><input
          type="checkbox"
          checked={naming.into.includes(side)}
          onchange={(event) => name(side, event.currentTarget.checked)}
        />
        {SIDE_WORDS[side]}</label
      >
    {/each}
    <label><input type="checkbox" bind:checked={naming.over} /> also over what stands there</label>
  </div>
  {#if seen.wrong}<p class="wrong" role="alert">{seen.wrong}</p>{/if}
  {#if act === 'track' && !track}<p class="pencil">
      Bring the track of a receiver: where it was when each of them was taken is shown here before
      it is set.
    </p>{/if}
  <Changes label="Positions before and after" count={lines.length} columns="1fr 150px 150px 1.8fr">
    {#snippet cells(index)}
      {@const line = lines[index]!}
      <span class="mono" role="cell">{line.name}</span>
      <span class="mono pencil" role="cell">{line.before || 'none'}</span>
      <span class="mono" role="cell" class:same={line.before === line.after}
        >{line.after || 'none'}</span
      >
      <span role="cell" title={line.problem ?? line.names}
        >{#if line.problem}<span class="caution">{line.problem}</span>{:else}{line.names}{/if}</span
      >
    {/snippet}
  </Changes>
  {#snippet foot()}
    <button class="button act" type="button" disabled={!seen.ready} onclick={() => void set()}
      >Set {counted(seen.ready ? seen.told.changed : 0, 'record')}</button
    >
    <span class="pencil" aria-live="polite"
      >{seen.told.problems > 0
        ? `${counted(seen.told.problems, 'item')} ${seen.told.problems === 1 ? 'stays' : 'stay'} as ${seen.told.problems === 1 ? 'it is' : 'they are'}.`
        : 'The ledger gives the former positions back.'}</span
    >
    <span class="pencil credit">Names: GeoNames, CC BY 4.0.</span>
  {/snippet}
</Dialog>

<style>
  .wish {
    display: flex;
    flex-wrap: wrap;
    gap: 8px 12px;
    align-items: center;
    margin: 12px 0;
  }
  .names {
    margin-top: 0;
  }
  .wish label {
    display: flex;
    gap: 6px;
    align-items: center;
  }
  .wish .field {
    width: 180px;
  }
  .wish .long {
    width: 260px;
  }
  .wish .few {
    width: 80px;
  }
  .same {
    color: var(--pencil);
  }
  .credit {
    margin-left: auto;
  }
</style>
