<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import type { Tile } from '#core/catalogue/tile';
  import {
    isCut,
    movedPiece,
    startsOf,
    thingsToKnow,
    trimmedPiece,
    type Piece,
  } from '#core/footage/sequence';
  import { frameWords } from '#core/footage/span';
  import { formatQuery } from '#core/query/grammar';
  import type { Query } from '#core/query/tree';
  import { can } from '#core/people/roles';
  import { counted, formatCount, formatDuration } from '#core/text/quantities';
  import type { SequenceChange, ShownPiece } from '#core/wire/sequences';
  import { api } from '$lib/ui/common/api';
  import { dragged } from '$lib/ui/common/drag';
  import { freshen } from '$lib/ui/common/freshen';
  import { calmly, hear } from '$lib/ui/common/live';
  import { sayDone, sayWrong } from '$lib/ui/common/notices.svelte';
  import Pips from '$lib/ui/common/Pips.svelte';
  import { did, redoLast, undoLast } from '$lib/ui/common/undoing';
  import Sentence from '$lib/ui/sentence/Sentence.svelte';
  import { SequencePlayer } from '$lib/ui/sequence/player.svelte';
  import type { PageProps } from './$types';

  const { data }: PageProps = $props();
  const player = new SequencePlayer();
  const { sequence } = $derived(data);
  const mayChange = $derived(can(data.actor.role, 'collect'));
  const own = $derived(sequence.rate);
  const lengths = $derived(player.lengths);
  const starts = $derived(startsOf(lengths));
  const known = $derived(thingsToKnow(sequence.pieces, own));
  const inIt = $derived(new Set(sequence.pieces.map(({ piece }) => piece.item)));
  const pieces = $derived(sequence.pieces.map(({ piece }) => piece));

  let selected = $state<string | null>(null);
  const at = $derived(pieces.findIndex(({ id }) => id === selected));
  const chosen = $derived<ShownPiece | null>(sequence.pieces[at] ?? null);
  let offer = $state(-1);
  let edits = $state<'name' | 'note' | null>(null);
  let room = $state(0);
  let nearer = $state(1);
  /** As wide as all of it has room, and by how much it was drawn nearer. */
  const pxPerSecond = $derived(
    Math.min(80, Math.max(2, (room - 170) / Math.max(1, player.count / own))) * nearer,
  );

  $effect(() => player.take(sequence));
  $effect(() => () => player.end());
  $effect(() => {
    const soon = calmly(() => void freshen('mindful:sequence'), 150);
    return hear((message) => {
      const isOurs = message.about === 'items' && message.ids.some((id) => inIt.has(id));
      if (message.about === 'collections' || message.about === 'again' || isOurs) soon();
    });
  });

  async function act(run: () => Promise<{ operation: string | null }>): Promise<void> {
    try {
      const { operation } = await run();
      if (operation) did(operation);
      await freshen('mindful:sequence');
    } catch (error) {
      sayWrong(error);
      await freshen('mindful:sequence');
    }
  }
  const change = (wish: Omit<SequenceChange, 'add'>): Promise<void> =>
    act(() => api.patch(`/api/sequences/${sequence.id}`, wish));
  const order = (next: Piece[]): Promise<void> => change({ pieces: next, seen: pieces });
  async function add(items: string[], before: string | null = null): Promise<void> {
    const here = before ?? pieces[at + 1]?.id ?? null;
    await act(async () => {
      const done = await api.patch(`/api/sequences/${sequence.id}`, {
        add: { items, before: here },
      });
      if (done.left > 0) sayDone('It has no picture and no length that is known: it was left out.');
      return done;
    });
  }
  function move(by: number): void {
    if (at < 0) return;
    void order(movedPiece(pieces, at, at + by));
  }
  function lay(id: string, onto: string): void {
    const from = pieces.findIndex((one) => one.id === id);
    const to = pieces.findIndex((one) => one.id === onto);
    if (from >= 0 && to >= 0) void order(movedPiece(pieces, from, to));
  }
  const replace = (next: Piece): Promise<void> =>
    order(pieces.map((one) => (one.id === next.id ? next : one)));
  /** One end of the chosen piece so many frames of its clip later; a still stands longer. */
  function trim(end: 'from' | 'to', by: number): void {
    if (!chosen) return;
    const { piece, frames } = chosen;
    if (isCut(piece)) void replace(trimmedPiece(piece, end, by, Math.max(frames ?? 0, piece.to)));
    else void replace({ ...piece, seconds: Math.max(1 / own, piece.seconds + by / own) });
  }
  /** One end of the piece that is seen set to the frame that is seen. */
  function set(end: 'from' | 'to'): void {
    const { piece, clipFrame } = player;
    if (!piece || clipFrame === null || !isCut(piece.piece)) return;
    selected = piece.piece.id;
    const next =
      end === 'from' ? { ...piece.piece, from: clipFrame } : { ...piece.piece, to: clipFrame + 1 };
    if (next.to > next.from) void replace(next);
  }
  function drop(): void {
    if (at < 0) return;
    const next = pieces[at + 1] ?? pieces[at - 1];
    void order(pieces.filter((_, one) => one !== at));
    selected = next?.id ?? null;
  }
  function gap(): void {
    const piece: Piece = { id: crypto.randomUUID(), item: null, seconds: 1 };
    void order([...pieces.slice(0, at + 1), piece, ...pieces.slice(at + 1)]);
    selected = piece.id;
  }
  function select(id: string): void {
    selected = id;
    const index = pieces.findIndex((one) => one.id === id);
    if (!player.plays) player.goTo(starts[index] ?? 0);
  }
  function choose(by: number): void {
    const next = pieces[at < 0 ? (by > 0 ? 0 : pieces.length - 1) : at + by];
    if (next) select(next.id);
  }
  async function copy(): Promise<void> {
    try {
      const { id, operation } = await api.post(`/api/sequences/${sequence.id}`);
      if (operation) did(operation);
      await goto(`/collections/sequences/${id}${page.url.search}`);
    } catch (error) {
      sayWrong(error);
    }
  }
  async function letGo(): Promise<void> {
    try {
      const { operation } = await api.delete(`/api/sequences/${sequence.id}`);
      if (operation) did(operation);
      await goto('/collections');
      sayDone(`“${sequence.name}” was let go of; the ledger gives it back.`);
    } catch (error) {
      sayWrong(error);
    }
  }
  const ask = (query: Query): void =>
    void goto(`?q=${encodeURIComponent(formatQuery(query))}`, { keepFocus: true, noScroll: true });

  function keys(event: KeyboardEvent): void {
    const { key } = event;
    const target = event.target as HTMLElement;
    if (/^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName)) return;
    if (target.closest('a, button') && !target.closest('li') && (key === 'Enter' || key === ' '))
      return;
    if (event.ctrlKey || event.metaKey) {
      const low = key.toLowerCase();
      if (low === 'z' || low === 'y') {
        const run = low === 'y' || event.shiftKey ? redoLast : undoLast;
        void run()
          .then(() => freshen('mindful:sequence'))
          .catch(sayWrong);
      } else if (mayChange && key === 'ArrowLeft') trim('from', -1);
      else if (mayChange && key === 'ArrowRight') trim('from', 1);
      else return;
      return event.preventDefault();
    }
    if (key === ' ') player.toggle();
    else if (key === ',') player.step(-1);
    else if (key === '.') player.step(1);
    else if (key === 'Home') player.goTo(0);
    else if (key === 'End') player.goTo(player.count - 1);
    else if (key === 'ArrowDown') offer = Math.min(offer + 1, data.offers.length - 1);
    else if (key === 'ArrowUp') offer = Math.max(offer - 1, -1);
    else if (key === 'ArrowLeft' && !event.altKey && !event.shiftKey) choose(-1);
    else if (key === 'ArrowRight' && !event.altKey && !event.shiftKey) choose(1);
    else if (key === '+' || key === '=') nearer = Math.min(20, nearer * 1.4);
    else if (key === '-') nearer = Math.max(0.5, nearer / 1.4);
    else if (key === 'Escape') selected = null;
    else if (!mayChange) return;
    else if (key === 'ArrowLeft' && event.altKey) move(-1);
    else if (key === 'ArrowRight' && event.altKey) move(1);
    else if (key === 'ArrowLeft') trim('to', -1);
    else if (key === 'ArrowRight') trim('to', 1);
    else if (key === '[') set('from');
    else if (key === ']') set('to');
    else if (key === 'Delete' || key === 'Backspace') drop();
    else if (key.toLowerCase() === 'g') gap();
    else if (key === 'Enter' && data.offers[offer]) void add([data.offers[offer]!.id]);
    else return;
    event.preventDefault();
  }

  const timecode = (frame: number): string =>
    frameWords({ rate: own, start: '00:00:00:00' }, frame);
  /** `05:12`, seconds and frames; with minutes where there are any. */
  function lengthOf(index: number): string {
    const whole = timecode(lengths[index] ?? 0);
    return whole.slice(whole.startsWith('00:00') ? 6 : 3);
  }
  const wide = (index: number): number => Math.max(72, ((lengths[index] ?? 0) / own) * pxPerSecond);
  const seenName = $derived(
    player.piece
      ? player.piece.kind === 'gap'
        ? 'in a gap'
        : `in “${player.piece.name}”${
            player.clipFrame !== null && player.piece.rate !== null
              ? `, ${frameWords({ rate: player.piece.rate, start: player.piece.start }, player.clipFrame)} of its clip`
              : ''
          }`
      : '',
  );
  const facts = (tile: Tile): string =>
    [
      tile.number,
      tile.isMarker ? 'marker' : tile.duration ? formatDuration(tile.duration) : tile.kind,
    ].join(' · ');
  const focused = (node: HTMLInputElement): void => {
    node.focus();
    node.select();
  };
  function written(part: 'name' | 'note', text: string | null): void {
    edits = null;
    if (text === null || text.trim() === sequence[part]) return;
    void change({ [part]: text.trim() });
  }
</script>

<svelte:head><title>{sequence.name} · Mindful Archive</title></svelte:head>
<svelte:window onkeydown={keys} />

{#snippet line(part: 'name' | 'note', label: string, maxlength: number)}
  <input
    class="field"
    aria-label={label}
    {maxlength}
    value={sequence[part]}
    use:focused
    onkeydown={(event) => {
      if (event.key === 'Enter') written(part, event.currentTarget.value);
      else if (event.key === 'Escape') written(part, null);
    }}
    onblur={(event) => written(part, event.currentTarget.value)}
  />
{/snippet}

<div class="sequence">
  <header>
    {#if edits === 'name'}
      {@render line('name', 'Name', 200)}
    {:else}
      <h1>{sequence.name}</h1>
    {/if}
    <span class="mono pencil"
      >rough sequence · {counted(pieces.length, 'piece')} · {timecode(player.count)} · {Math.round(
        own * 1000,
      ) / 1000} fps</span
    >
    <span class="verbs">
      {#if mayChange}
        <button class="link" type="button" onclick={() => (edits = 'name')}>Name it</button>
        <button class="link" type="button" onclick={() => void copy()}>Copy it</button>
        <button class="link" type="button" onclick={() => void letGo()}>Let it go</button>
      {/if}
      <a class="link" href="/collections">To the collections</a>
    </span>
  </header>
  <section aria-label="Player">
    <div
      class="stage"
      data-frame={player.frame}
      data-frames={player.count}
      data-at={player.place.at}
    >
      {#each [0, 1] as const as side (side)}
        <video
          bind:this={player.videos[side]}
          class:seen={player.side === side}
          preload="auto"
          playsinline
          onclick={() => player.toggle()}
        ></video>
      {/each}
      {#if player.piece?.kind === 'still' && player.piece.picture}
        <img src="/api/pictures/{player.piece.picture}/large" alt={player.piece.name} />
      {:else if player.piece?.missing}
        <p>“{player.piece.name}” {player.piece.missing}.</p>
      {:else if pieces.length === 0}
        <p>Nothing is in it yet.</p>
      {/if}
    </div>
    <div class="line">
      <output class="mono code">{timecode(player.frame)}</output>
      <span class="pencil">{seenName}</span>
      <span class="keys">
        <kbd>Space</kbd> play <kbd>,</kbd><kbd>.</kbd> frame
        {#if mayChange}<kbd>[</kbd><kbd>]</kbd> trim <kbd>Alt</kbd><kbd>←</kbd> move it
          <kbd>G</kbd> gap{/if}
      </span>
    </div>
  </section>
  <aside aria-label="To choose from">
    <h2>To choose from</h2>
    <Sentence query={data.query} labels={data.labels} total={data.found} onchange={ask} isCounted />
    <ol>
      {#each data.offers as tile, index (tile.id)}
        <li
          class:at={index === offer}
          use:dragged={{ kind: 'offer', id: tile.id, isFixed: !mayChange, takes: {} }}
        >
          <button
            type="button"
            tabindex="-1"
            onclick={() => (offer = index)}
            ondblclick={() => mayChange && void add([tile.id])}
          >
            {#if tile.pictureState === 'ready'}
              <img
                src="/api/pictures/{tile.picture}/small"
                alt=""
                loading="lazy"
                draggable="false"
              />
              {#if tile.lastPicture}<img
                  src="/api/pictures/{tile.lastPicture}/small"
                  alt=""
                  loading="lazy"
                  draggable="false"
                />{/if}
            {/if}
            <span class="told">
              <strong
                >{tile.title || tile.name}{#if inIt.has(tile.id)}<em>in it</em>{/if}</strong
              >
              <span class="mono pencil">{facts(tile)}</span>
              <Pips rating={tile.rating} />
            </span>
          </button>
          {#if mayChange && index === offer}<button
              class="link"
              type="button"
              onclick={() => void add([tile.id])}>Put it in <kbd>Enter</kbd></button
            >{/if}
        </li>
      {:else}
        <li class="none pencil">Nothing is found; ask more widely.</li>
      {/each}
    </ol>
    {#if data.found > data.offers.length}<p class="pencil">
        The first {formatCount(data.offers.length)}; a narrower sentence shows the others.
      </p>{/if}
  </aside>
  <footer bind:clientWidth={room}>
    <ol class="pieces" aria-label="Pieces">
      {#each sequence.pieces as shown, index (shown.piece.id)}
        <li
          class:selected={shown.piece.id === selected}
          class:seen={index === player.place.at}
          class:wrong={shown.missing !== null || shown.beyond > 0}
          style:width="{wide(index)}px"
          data-piece={shown.number ?? shown.kind}
          use:dragged={{
            kind: 'piece',
            id: shown.piece.id,
            isFixed: !mayChange,
            takes: {
              piece: (id) => lay(id, shown.piece.id),
              offer: (id) => void add([id], shown.piece.id),
            },
          }}
        >
          <button type="button" tabindex="-1" onclick={() => select(shown.piece.id)}>
            <span class="pictures">
              {#each [shown.picture, shown.lastPicture] as picture, one (one)}{#if picture}<img
                    src="/api/pictures/{picture}/small"
                    alt=""
                    loading="lazy"
                    draggable="false"
                  />{/if}{/each}
            </span>
            <strong>{shown.name}</strong>
            <span class="mono pencil">{lengthOf(index)}</span>
          </button>
        </li>
      {/each}
      {#if mayChange}
        <li
          class="last pencil"
          use:dragged={{
            kind: 'end',
            id: 'end',
            isFixed: true,
            takes: {
              piece: (id) =>
                void order(
                  movedPiece(
                    pieces,
                    pieces.findIndex((one) => one.id === id),
                    pieces.length,
                  ),
                ),
              offer: (id) => void add([id], 'end'),
            },
          }}
        >
          drop a span, a clip or a still here
        </li>
      {/if}
    </ol>
    <div class="known">
      {#if known.length > 0}
        <details>
          <summary><b>{counted(known.length, 'thing')} to know:</b> {known[0]}</summary>
          <ul>
            {#each known.slice(1) as one (one)}<li>{one}</li>{/each}
          </ul>
        </details>
      {/if}
      {#if mayChange}
        <label
          >stills stand for <input
            class="mono"
            type="number"
            min="0.5"
            max="600"
            step="0.5"
            value={sequence.stills}
            onchange={(event) => void change({ stills: Number(event.currentTarget.value) || 5 })}
          /> s</label
        >
        <label
          ><input
            type="checkbox"
            checked={sequence.sound}
            onchange={(event) => void change({ sound: event.currentTarget.checked })}
          /> sound of the clips</label
        >
        <label
          >counted in <select
            value={String(own)}
            onchange={(event) => void change({ rate: Number(event.currentTarget.value) })}
          >
            {#each [...new Set( [own, 23.976, 24, 25, 29.97, 30, 50, 59.94, 60] )].sort((a, b) => a - b) as rate (rate)}<option
                value={String(rate)}>{rate} fps</option
              >{/each}
          </select></label
        >
      {/if}
      <button class="link note" type="button" disabled={!mayChange} onclick={() => (edits = 'note')}
        >{sequence.note || 'Write a note'}</button
      >
      <span class="pencil still">nothing is cut: the clips stay as they are</span>
    </div>
    {#if edits === 'note'}
      {@render line('note', 'Note', 2000)}
    {/if}
  </footer>
</div>

<style>
  .sequence {
    display: grid;
    grid-template: auto minmax(0, 1fr) auto / minmax(0, 1fr) 440px;
    height: calc(100vh - 44px);
  }
  header {
    display: flex;
    grid-column: 1 / -1;
    gap: 12px;
    align-items: baseline;
    padding: 12px 20px;
    background: var(--card);
    border-bottom: 1px solid var(--ink);
  }
  h1 {
    margin: 0;
    font: 21px/1.2 var(--book);
  }
  .verbs {
    display: flex;
    gap: 16px;
    margin-left: auto;
  }
  section {
    display: grid;
    grid-template-rows: minmax(0, 1fr) auto;
    gap: 8px;
    min-height: 0;
    padding: 12px 20px;
    background: var(--well);
  }
  .stage {
    position: relative;
    display: grid;
    min-height: 0;
    background: #161817;
    border-radius: 3px;
    overflow: hidden;
  }
  .stage video,
  .stage img {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    object-fit: contain;
  }
  .stage video {
    visibility: hidden;
  }
  .stage video.seen {
    visibility: visible;
  }
  .stage p {
    place-self: center;
    color: #eceae4;
    font: 19px/1.4 var(--book);
  }
  .line {
    display: flex;
    gap: 14px;
    align-items: center;
    min-height: 40px;
  }
  .code {
    font-size: 23px;
    font-weight: 600;
  }
  .keys {
    margin-left: auto;
    white-space: nowrap;
  }
  aside {
    display: grid;
    grid-template-rows: auto auto minmax(0, 1fr) auto;
    min-height: 0;
    padding: 12px 18px;
    background: var(--card);
    border-left: 1px solid var(--ink);
  }
  h2 {
    margin: 0 0 6px;
    font: 19px/1.2 var(--book);
  }
  aside ol {
    margin: 10px 0 0;
    padding: 0;
    list-style: none;
    overflow-y: auto;
  }
  aside li {
    display: flex;
    align-items: center;
    border-top: 1px solid var(--rule);
  }
  aside li.at {
    background: var(--wash);
  }
  aside li button:first-child {
    display: flex;
    flex: 1;
    gap: 10px;
    min-width: 0;
    padding: 9px 0;
    background: none;
    border: 0;
    text-align: left;
  }
  aside img {
    width: 72px;
    height: 46px;
    object-fit: cover;
    border: 1px solid var(--rule);
  }
  .told {
    display: grid;
    gap: 2px;
    min-width: 0;
  }
  .told em {
    margin-left: 6px;
    color: var(--verdigris);
    font-style: normal;
    font-weight: 400;
    font-size: 12px;
  }
  footer {
    grid-column: 1 / -1;
    display: grid;
    gap: 10px;
    padding: 12px 20px 14px;
    background: var(--paper);
    border-top: 1px solid var(--ink);
  }
  .pieces {
    display: flex;
    gap: 4px;
    min-height: 106px;
    margin: 0;
    padding: 2px;
    list-style: none;
    overflow-x: auto;
  }
  .pieces li {
    flex: none;
    border: 1px solid var(--rule);
    border-radius: 3px;
    background: var(--card);
    overflow: hidden;
  }
  .pieces li.seen {
    border-color: var(--ink);
  }
  .pieces li.selected {
    border-color: var(--verdigris);
    box-shadow: 0 0 0 1px var(--verdigris);
  }
  .pieces li.wrong {
    border-bottom: 3px solid var(--ochre);
  }
  .pieces li:global(.over) {
    border-left: 4px solid var(--verdigris);
  }
  .pieces li.last {
    display: grid;
    width: 116px;
    place-content: center;
    padding: 8px;
    border-style: dashed;
    background: none;
  }
  .pieces button {
    display: grid;
    width: 100%;
    padding: 0 0 5px;
    background: none;
    border: 0;
    text-align: left;
  }
  .pieces strong,
  .pieces button > .mono {
    padding: 2px 6px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .pictures {
    display: flex;
    height: 58px;
    background: var(--well);
    overflow: hidden;
  }
  .pictures img {
    flex: 1;
    min-width: 0;
    object-fit: cover;
  }
  .known {
    display: flex;
    flex-wrap: wrap;
    gap: 6px 24px;
    align-items: baseline;
  }
  .known b {
    color: var(--ochre);
  }
  .known input[type='number'] {
    width: 62px;
  }
  .known ul {
    margin: 4px 0 0;
    padding-left: 18px;
  }
  .note {
    max-width: 320px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .still {
    margin-left: auto;
  }
  .none {
    padding: 12px 0;
  }
  @media (max-width: 900px) {
    .sequence {
      grid-template: auto auto auto auto / minmax(0, 1fr);
      height: auto;
    }
    .stage {
      aspect-ratio: 16 / 9;
    }
    header,
    .line {
      flex-wrap: wrap;
    }
    .keys {
      display: none;
    }
    aside {
      border-left: 0;
      border-top: 1px solid var(--ink);
    }
  }
</style>
