<script lang="ts">
  import { untrack } from 'svelte';
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { frameWords, lengthWords, type Stretch } from '#core/footage/span';
  import { MARK_NAMES, MARKS } from '#core/footage/marks';
  import { parseTimecode } from '#core/footage/timecode';
  import { isAboutAny } from '#core/live/messages';
  import { can } from '#core/people/roles';
  import { stageOfKey } from '#core/stages/stages';
  import { counted, formatCount } from '#core/text/quantities';
  import { api } from '$lib/ui/common/api';
  import { calmly, hear } from '$lib/ui/common/live';
  import { sayDone, sayWrong } from '$lib/ui/common/notices.svelte';
  import { did, redoLast, undoLast } from '$lib/ui/common/undoing';
  import Media from '$lib/ui/film/Media.svelte';
  import { Player } from '$lib/ui/film/player.svelte';
  import SpanList from '$lib/ui/log/SpanList.svelte';
  import Timeline from '$lib/ui/log/Timeline.svelte';
  import CopyTo from '$lib/ui/log/CopyTo.svelte';
  import Propose from '$lib/ui/log/Propose.svelte';
  import { changeOf, textOf, valueOf, WRITTEN, writtenOf, type Part } from '$lib/ui/log/written';
  import type { Proposal } from '#core/footage/propose';
  import { partAt } from '#core/footage/view';
  import type { SpansDeed } from '#core/wire/spans';
  import type { PageProps } from './$types';

  const { data }: PageProps = $props();
  const player = new Player();
  const { clip, item } = $derived(data);
  const counting = $derived({ rate: clip.rate, start: clip.start });
  const mayChange = $derived(can(data.actor.role, 'describe'));
  const large = $derived(`/api/pictures/${data.tile.picture}/large`);
  const title = $derived(item.record.title || data.tile.name);
  const proxy = $derived(item.jobs.find(({ task }) => task === 'proxy'));
  const hasProxy = $derived(item.renditions.some(({ recipe }) => recipe === 'proxy'));

  let spans = $derived(data.spans);
  let selected = $state<string | null>(null);
  const chosen = $derived(spans.find(({ id }) => id === selected) ?? null);
  /** Chosen beside it. */
  let also = $state.raw<ReadonlySet<string>>(new Set());
  /** All that are chosen, in the order of their frames. */
  const chosenIds = $derived(
    spans.flatMap(({ id }) => (id === selected || also.has(id) ? id : [])),
  );
  let setIn = $state<number | null>(null);
  let setOut = $state<number | null>(null);
  let loops = $state(false);
  let writes = $state<Part | null>(null);
  let proposes = $state(false);
  let proposed = $state.raw<readonly Proposal[]>([]);
  let panel = $state<Propose>();
  let copies = $state(false);
  let timeline = $state<Timeline>();

  const picked = $derived(
    spans.filter(({ isMarker }) => !isMarker).reduce((sum, { from, to }) => sum + to - from, 0),
  );
  const markers = $derived(spans.filter(({ isMarker }) => isMarker).length);
  const summary = $derived(
    `${counted(spans.length - markers, 'span')} · ${counted(markers, 'marker')} · ${lengthWords(picked, clip.rate)} of ${lengthWords(player.count, clip.rate)} picked`,
  );

  $effect(() => player.ask(clip.id));
  $effect(() => player.watch());
  $effect(() => {
    void clip.id;
    untrack(() => {
      [setIn, setOut, loops, writes] = [null, null, false, null];
      [proposes, copies, proposed, also] = [false, false, [], new Set()];
      const wished = page.params['number'];
      selected = data.spans.find(({ number }) => number === wished)?.id ?? null;
    });
  });
  // Who comes by a span's number begins at its frame, as soon as frames are known.
  let led = '';
  $effect(() => {
    const { media, film, length } = player;
    if (!media || !film || length === 0 || !chosen || led === page.params['number']) return;
    if (chosen.number !== page.params['number']) return;
    led = chosen.number;
    untrack(() => player.goTo(chosen.from));
  });
  $effect(() => {
    if (!loops || !chosen || !player.plays) return;
    if (player.frame >= chosen.to - 1 || player.frame < chosen.from) player.goTo(chosen.from);
  });

  async function refresh(): Promise<void> {
    const wished = clip.id;
    const found = await api.get(`/api/items/${wished}/spans`);
    if (wished === clip.id) spans = found;
  }
  $effect(() => {
    const own = clip.id;
    const soon = calmly(() => void refresh().catch(() => undefined), 120);
    return hear((message) => {
      const isOurs =
        message.about === 'items' && isAboutAny(message, [own, ...spans.map(({ id }) => id)]);
      if (isOurs || message.about === 'again') soon();
    });
  });

  /** Do something and keep how it is taken back; what is shown follows. */
  async function act(run: () => Promise<{ operation: string | null } | undefined>): Promise<void> {
    try {
      const done = await run();
      if (done?.operation) did(done.operation);
      await refresh();
    } catch (error) {
      sayWrong(error);
    }
  }
  async function keep(isMarker: boolean): Promise<void> {
    const [first, last] = isMarker
      ? [player.frame, player.frame]
      : [setIn ?? player.frame, setOut ?? player.frame];
    await act(async () => {
      const { ids, operation } = await api.post(`/api/items/${clip.id}/spans`, {
        spans: [{ first, last, isMarker }],
      });
      selected = ids[0] ?? null;
      return { operation };
    });
    if (!isMarker) [setIn, setOut] = [null, null];
  }
  function change(id: string, stretch: Partial<Stretch>): void {
    const span = spans.find((one) => one.id === id);
    const seen = span && { from: span.from, to: span.to };
    void act(() => api.patch(`/api/spans/${id}`, { ...stretch, ...(seen && { seen }) }));
  }
  const describe = (said: { rating?: number; stage?: string }): Promise<void> =>
    act(() => api.patch('/api/records', { ids: chosenIds, change: said }));
  const doTo = (deed: SpansDeed): Promise<void> =>
    act(async () => {
      const done = await api.post('/api/spans', deed);
      if (done.ids[0] && (deed.does === 'join' || deed.does === 'split')) {
        also = new Set();
        selected = done.ids[0];
      }
      return done;
    });
  const intoXmp = (): Promise<void> =>
    act(async () => {
      const done = await api.post('/api/spans', { does: 'write', id: clip.id });
      sayDone('Its spans are written into its XMP as soon as its turn comes.');
      return done;
    });
  const shownAt = $derived({
    ...{ times: player.times, count: player.count, rate: clip.rate },
    duration: player.film?.duration || player.count / clip.rate,
  });
  function written(id: string, text: string | null): void {
    const part = writes;
    const span = spans.find((one) => one.id === id);
    if (!part || !span) return;
    writes = null;
    const ids = chosenIds;
    const { field } = writtenOf(part);
    const isOne = ids.length <= 1;
    if (text === null || (isOne && text.trim() === textOf(span, part))) return;
    if (!isOne && text.trim() === '') return;
    const isCounted = part === 'scene' || part === 'shot' || part === 'take';
    if (!isOne && part === 'take')
      return void doTo({ does: 'count', ids, field: 'take', from: text });
    // A number with a plus behind it counts up from one to the next.
    const counts = /^(.*\d)\s*\+$/.exec(text.trim());
    if (!isOne && isCounted && counts && field !== 'take')
      return void doTo({ does: 'count', ids, field: field as 'shotScene', from: counts[1]! });
    void act(() =>
      api.patch('/api/records', {
        ...{ ids, change: changeOf(part, text, isOne) },
        // What somebody else wrote meanwhile is not overwritten.
        ...(isOne && {
          versions: { [id]: span.version },
          base: { [field]: valueOf(part, textOf(span, part)) },
        }),
      }),
    );
  }
  /** Keep what was proposed, so many in a request. */
  async function keepProposed(all: readonly Proposal[]): Promise<void> {
    proposes = false;
    proposed = [];
    for (let at = 0; at < all.length; at += 500)
      await act(async () => {
        const { ids, operation } = await api.post(`/api/items/${clip.id}/spans`, {
          spans: all
            .slice(at, at + 500)
            .map(({ from, to, title: name }) => ({ first: from, last: to - 1, title: name })),
        });
        selected = ids[0] ?? null;
        return { operation };
      });
  }
  async function drop(): Promise<void> {
    if (!chosen) return;
    const at = spans.findIndex(({ id }) => id === chosen.id);
    const ids = chosenIds;
    await act(() => api.post('/api/spans', { does: 'drop', ids }));
    also = new Set();
    selected = spans[Math.min(at, spans.length - 1)]?.id ?? null;
  }
  function select(id: string, how: 'one' | 'more' | 'upto' = 'one'): void {
    const from = spans.findIndex((one) => one.id === selected);
    const to = spans.findIndex((one) => one.id === id);
    if (how === 'more') {
      const isOff = chosenIds.includes(id) && chosenIds.length > 1;
      const next = isOff ? chosenIds.filter((one) => one !== id) : [...chosenIds, id];
      if (!isOff || id === selected) selected = isOff ? next[0]! : id;
      also = new Set(next);
      return;
    }
    also =
      how === 'upto' && from >= 0
        ? new Set([
            ...chosenIds,
            ...spans.slice(Math.min(from, to), Math.max(from, to) + 1).map((one) => one.id),
          ])
        : new Set();
    selected = id;
    if (spans[to]) player.goTo(spans[to].from);
  }
  function choose(by: number, isMore = false): void {
    const at = spans.findIndex(({ id }) => id === selected);
    const next = spans[at < 0 ? (by > 0 ? 0 : spans.length - 1) : at + by];
    if (next) select(next.id, isMore ? 'upto' : 'one');
  }
  const address = (number: string): string => `/catalogue/${number}/log${page.url.search}`;
  const turn = (number: string | null): void => {
    if (number) void goto(address(number), { noScroll: true, keepFocus: true });
  };
  const back = $derived(
    `/catalogue/${clip.number}${data.q ? `?q=${encodeURIComponent(data.q)}` : ''}`,
  );

  let typed = $state('');
  let goes = $state<HTMLInputElement>();
  /** A timecode, a frame by its number, or seconds with an “s”. */
  function jump(): void {
    const text = typed.trim();
    const start = clip.start === null ? null : parseTimecode(clip.start, clip.rate);
    const code = parseTimecode(text, clip.rate);
    if (code) player.goTo(code.frame - (start?.frame ?? 0));
    else if (/^\d+$/.test(text)) player.goTo(Number(text));
    else if (/^\d+(\.\d+)?\s*s$/.test(text)) player.seekTo(parseFloat(text));
    else return sayWrong(new Error(`“${text}” is no timecode, frame or time in seconds (12.5 s).`));
    typed = '';
    goes?.blur();
  }

  function keys(event: KeyboardEvent): void {
    const target = event.target as HTMLElement;
    const { key } = event;
    // Who writes, or chooses in a dialog, logs nothing by it.
    if (copies || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName)) return;
    // A link or button elsewhere does what it says.
    const isOther = target.closest('a, button') && !target.closest('li, .timeline');
    if (isOther && (key === 'Enter' || key === ' ')) return;
    if (event.ctrlKey || event.metaKey) {
      const pressed = key.toLowerCase();
      if (pressed === 'a' && spans.length > 0) {
        also = new Set(spans.map(({ id }) => id));
        selected ??= spans[0]!.id;
        return event.preventDefault();
      }
      if (pressed !== 'z' && pressed !== 'y') return;
      const run = pressed === 'y' || event.shiftKey ? redoLast : undoLast;
      void run().then(refresh).catch(sayWrong);
      return event.preventDefault();
    }
    if (proposes && panel?.press(event)) return event.preventDefault();
    const second = Math.max(1, Math.round(clip.rate));
    const low = key.toLowerCase();
    // Letters alone go through the clip: with Shift they give stages.
    const stage = event.shiftKey ? stageOfKey(data.stages, key) : undefined;
    const part = WRITTEN.find((one) => one.key === low)?.part;
    const mark = event.altKey && /^[1-5]$/.test(key) ? MARKS[Number(key) - 1]! : null;
    if (mayChange && chosen && stage) void describe({ stage: stage.name });
    else if (key === ' ') player.toggle();
    else if (low === 'l') player.forward();
    else if (low === 'k') player.stop();
    else if (low === 'j') player.backward();
    else if (key === ',' || (key === 'ArrowLeft' && !event.shiftKey)) player.step(-1);
    else if (key === '.' || (key === 'ArrowRight' && !event.shiftKey)) player.step(1);
    else if (key === 'ArrowLeft') player.step(-second);
    else if (key === 'ArrowRight') player.step(second);
    else if (key === 'Home') player.goTo(0);
    else if (key === 'End') player.goTo(player.count - 1);
    else if (key === 'ArrowUp') choose(-1, event.shiftKey);
    else if (key === 'ArrowDown') choose(1, event.shiftKey);
    else if (key === 'PageUp') turn(data.previous);
    else if (key === 'PageDown') turn(data.next);
    else if (key === '+' || key === '=') timeline?.zoom(1.5);
    else if (key === '-') timeline?.zoom(1 / 1.5);
    else if (low === 'g') goes?.focus();
    else if (low === 'r' && chosen) {
      loops = !loops;
      if (loops) player.goTo(chosen.from);
    } else if (key === 'Escape') {
      if (timeline?.giveUp()) return;
      if (setIn !== null || setOut !== null) [setIn, setOut] = [null, null];
      else if (also.size > 0) also = new Set();
      else if (selected) selected = null;
      else void goto(back);
    } else if (!mayChange) return;
    else if (low === 'i') setIn = player.frame;
    else if (low === 'o') setOut = player.frame;
    else if (key === 'Enter') void keep(false);
    else if (low === 'm') void keep(true);
    else if (low === 'p') proposes = !proposes;
    else if (chosen && mark)
      void doTo({ does: 'mark', ids: chosenIds, mark: chosen.mark === mark ? '' : mark });
    else if (chosen && part) writes = part;
    else if (low === 'u' && chosenIds.length > 1) void doTo({ does: 'join', ids: chosenIds });
    else if (low === 'x' && chosen) void doTo({ does: 'split', id: chosen.id, at: player.frame });
    else if (low === 'c' && chosen) copies = true;
    else if (chosen && key === '[') change(chosen.id, { from: player.frame });
    else if (chosen && key === ']') change(chosen.id, { to: player.frame + 1 });
    else if (chosen && (key === 'Delete' || key === 'Backspace')) void drop();
    else if (chosen && /^[0-5]$/.test(key)) void describe({ rating: Number(key) });
    else if (chosen && low === 'n') void describe({ rating: -1 });
    else return;
    event.preventDefault();
  }
  const inWords = $derived(
    [
      setIn !== null && `in ${frameWords(counting, setIn)}`,
      setOut !== null && `out ${frameWords(counting, setOut)}`,
      setIn !== null && setOut !== null && lengthWords(Math.abs(setOut - setIn) + 1, clip.rate),
    ]
      .filter(Boolean)
      .join(' · '),
  );
</script>

<svelte:head><title>Log of {title} · Mindful Archive</title></svelte:head>
<svelte:window onkeydown={keys} />

<div class="log">
  <section aria-label="Player">
    <header>
      <h1>{title}</h1>
      <span class="mono pencil"
        >{[
          clip.number,
          item.record.title && data.tile.name,
          item.technical.frameRate && `${item.technical.frameRate} fps`,
          lengthWords(player.count, clip.rate),
        ]
          .filter(Boolean)
          .join(' · ')}</span
      >
      <a class="link" href={back}>To the clip <kbd>Esc</kbd></a>
    </header>
    <div
      class="stage"
      data-frame={player.frame}
      data-frames={player.count}
      data-speed={player.speed}
    >
      {#if proxy && !hasProxy && proxy.state !== 'failed'}
        <p>A proxy browsers can play is being made.</p>
      {:else if player.failed || proxy?.state === 'failed'}
        <p>This file cannot be played here{proxy?.reason ? `: ${proxy.reason}` : ''}.</p>
      {:else}
        {#if item.kind === 'sound'}<p>{data.tile.name}</p>{/if}
        <Media
          {player}
          id={clip.id}
          isFootage={item.kind === 'footage'}
          poster={data.tile.pictureState === 'ready' ? large : null}
        />
      {/if}
    </div>
    <div class="line">
      <output class="mono code">{frameWords(counting, player.frame)}</output>
      <span class="mono pencil facts"
        >frame {formatCount(player.frame)} · {(player.frame / clip.rate).toFixed(2)} s{player.speed !==
          0 && player.speed !== 1
          ? ` · ${player.speed} ×`
          : ''}{loops ? ' · loop' : ''}<br />{inWords || 'nothing set'}</span
      >
      <form
        onsubmit={(event) => {
          event.preventDefault();
          jump();
        }}
      >
        <input
          class="mono"
          bind:this={goes}
          bind:value={typed}
          aria-label="Go to timecode, frame or seconds"
          placeholder="go to"
          onkeydown={(event) => event.key === 'Escape' && goes?.blur()}
        />
      </form>
      <span class="keys">
        <kbd>J</kbd><kbd>K</kbd><kbd>L</kbd> through
        {#if mayChange}<kbd>I</kbd><kbd>O</kbd> in, out <kbd>Enter</kbd> keep <kbd>M</kbd> marker{/if}
      </span>
    </div>
    <Timeline
      bind:this={timeline}
      id={clip.id}
      film={player.film}
      times={player.times}
      count={player.count}
      frame={player.frame}
      {counting}
      {spans}
      {proposed}
      partAt={(frame) => partAt(frame, shownAt)}
      {selected}
      {setIn}
      {setOut}
      {mayChange}
      onseek={(frame) => {
        player.stop();
        player.goTo(frame);
      }}
      onselect={(id) => ([selected, also] = [id, new Set()])}
      onchange={(id, stretch) => change(id, stretch)}
    />
    <footer>
      {#if data.previous}<a class="link" href={address(data.previous)}
          >Previous clip <kbd>Page Up</kbd></a
        >{/if}
      <span class="pencil">{formatCount(data.index + 1)} of {formatCount(data.total)}</span>
      {#if data.next}<a class="link" href={address(data.next)}>Next clip <kbd>Page Down</kbd></a
        >{/if}
    </footer>
  </section>
  <aside aria-label="Log">
    <header>
      <h2>Log</h2>
      <span class="pencil" data-part="summary">{summary}</span>
      {#if mayChange && spans.length > 0}<button
          class="link"
          type="button"
          title="Spans are notes here; other programs find them in the clip’s XMP"
          onclick={() => void intoXmp()}>Write into its XMP</button
        >{/if}
    </header>
    {#if proposes}
      <Propose
        bind:this={panel}
        film={player.film}
        times={player.times}
        count={player.count}
        {counting}
        onshow={(all) => (proposed = all)}
        onseek={(frame) => {
          player.stop();
          player.goTo(frame);
        }}
        onkeep={(all) => void keepProposed(all)}
        onclose={() => ([proposes, proposed] = [false, []])}
      />
    {:else if spans.length === 0}
      <div class="empty pencil">
        <p>Nothing is kept of this clip yet.</p>
        {#if mayChange}<p>
            Set an in with <kbd>I</kbd> and an out with <kbd>O</kbd>, then <kbd>Enter</kbd> keeps
            what lies between. <kbd>P</kbd> proposes spans.
          </p>{/if}
      </div>
    {:else}
      <SpanList
        id={clip.id}
        strip={player.film?.strip}
        partAt={(frame) => partAt(frame, shownAt)}
        {spans}
        {counting}
        {selected}
        chosen={new Set(chosenIds)}
        count={player.film ? player.count : null}
        {writes}
        onselect={select}
        onwritten={written}
      />
    {/if}
    {#if chosen && mayChange && !proposes}
      <p class="more pencil">
        {#if chosenIds.length > 1}<span class="one">{counted(chosenIds.length, 'span')}:</span>{/if}
        {#each WRITTEN as one (one.key)}<span class="one"
            ><kbd>{one.key.toUpperCase()}</kbd> {one.label.toLowerCase()}</span
          >{/each}
        <span class="one"><kbd>0</kbd>–<kbd>5</kbd> pips</span>
        <span class="one"><kbd>[</kbd><kbd>]</kbd> trim</span>
        <span class="one"><kbd>R</kbd> loop</span>
        {#if chosenIds.length > 1}<span class="one"><kbd>U</kbd> join</span>{:else}<span class="one"
            ><kbd>X</kbd> split</span
          >{/if}
        <span class="one"><kbd>C</kbd> copy to a clip</span>
        <span class="one"><kbd>P</kbd> propose</span>
        <span class="one"><kbd>Del</kbd> let go</span>
        {#each MARKS as mark, at (mark)}<span class="one"
            ><kbd>Alt {at + 1}</kbd> {MARK_NAMES[mark]}</span
          >{/each}
      </p>
    {/if}
  </aside>
</div>

{#if copies}
  <CopyTo
    id={clip.id}
    count={chosenIds.length}
    onchoose={(other) => {
      copies = false;
      void doTo({ does: 'copy', ids: chosenIds, to: other.id });
    }}
    onclose={() => (copies = false)}
  />
{/if}

<style>
  .log {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 390px;
    overflow: hidden;
    height: calc(100vh - 44px);
  }
  section {
    display: grid;
    grid-template-rows: auto minmax(0, 1fr) auto auto auto;
    gap: 8px;
    min-height: 0;
    padding: 10px 18px;
    background: var(--well);
  }
  section > header {
    display: flex;
    gap: 12px;
    align-items: baseline;
    min-width: 0;
  }
  h1 {
    margin: 0;
    font: 21px/1.2 var(--book);
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  section > header .link {
    margin-left: auto;
    white-space: nowrap;
  }
  .stage {
    display: grid;
    min-height: 0;
    background: #161817;
    border-radius: 3px;
  }
  .stage p {
    place-self: center;
    color: #eceae4;
    font: 19px/1.4 var(--book);
  }
  .line {
    display: flex;
    gap: 16px;
    align-items: center;
    min-height: 42px;
  }
  .code {
    font-size: 23px;
    font-weight: 600;
  }
  .facts {
    font-size: 12px;
    line-height: 1.4;
  }
  .line input {
    width: 120px;
    min-height: 28px;
    padding: 2px 6px;
    background: var(--card);
    border: 1px solid var(--rule);
    border-radius: 3px;
  }
  .keys {
    margin-left: auto;
    white-space: nowrap;
  }
  section > footer {
    display: flex;
    gap: 16px;
    justify-content: center;
    min-height: 22px;
  }
  aside {
    display: grid;
    grid-template-rows: auto minmax(0, 1fr) auto;
    min-width: 0;
    min-height: 0;
    background: var(--card);
    border-left: 1px solid var(--ink);
  }
  aside header {
    padding: 10px 16px;
    border-bottom: 1px solid var(--rule);
  }
  h2 {
    margin: 0;
    font: 21px/1.2 var(--book);
  }
  .empty {
    margin: 24px 16px;
    font: 17px/1.5 var(--book);
  }
  .more {
    display: flex;
    flex-wrap: wrap;
    gap: 6px 12px;
    margin: 0;
    padding: 10px 16px;
    border-top: 1px solid var(--rule);
  }
  .one {
    white-space: nowrap;
  }
  @media (max-width: 820px) {
    .log {
      grid-template-columns: minmax(0, 1fr);
      grid-template-rows: auto auto;
      height: auto;
    }
    .stage {
      aspect-ratio: 16 / 9;
    }
    .keys {
      display: none;
    }
    .line,
    section > header {
      flex-wrap: wrap;
    }
    .facts {
      white-space: nowrap;
    }
    aside {
      border-left: 0;
      border-top: 1px solid var(--ink);
    }
  }
</style>
