<script lang="ts">
  import { untrack } from 'svelte';
  import { isAboutAny } from '#core/live/messages';
  import { stageOfKey } from '#core/stages/stages';
  import { goto, preloadData } from '$app/navigation';
  import { page } from '$app/state';
  import { formatByKey, isNamedOtherwise, moves } from '#core/kinds/kinds';
  import { can } from '#core/people/roles';
  import { formatQuery } from '#core/query/grammar';
  import { formatCount } from '#core/text/quantities';
  import { withAgainst } from '$lib/ui/close/against';
  import BurstBar from '$lib/ui/close/BurstBar.svelte';
  import Drawing from '$lib/ui/close/Drawing.svelte';
  import Film from '$lib/ui/close/Film.svelte';
  import Tones from '$lib/ui/close/Tones.svelte';
  import PassBar from '$lib/ui/close/PassBar.svelte';
  import Pages from '$lib/ui/close/Pages.svelte';
  import { countedAt } from '#core/footage/span';
  import Spans from '$lib/ui/close/Spans.svelte';
  import Show from '$lib/ui/close/Show.svelte';
  import Specimen from '$lib/ui/close/Specimen.svelte';
  import Strip from '$lib/ui/close/Strip.svelte';
  import Wipe from '$lib/ui/close/Wipe.svelte';
  import Zoom from '$lib/ui/close/Zoom.svelte';
  import { api } from '$lib/ui/common/api';
  import { sayDone, sayWrong } from '$lib/ui/common/notices.svelte';
  import Foldaway from '$lib/ui/common/Foldaway.svelte';
  import { freshen } from '$lib/ui/common/freshen';
  import { calmly, hear } from '$lib/ui/common/live';
  import { kept } from '$lib/ui/close/kept.svelte';
  import RecordCard from '$lib/ui/record/RecordCard.svelte';
  import type { PageProps } from './$types';

  const { data }: PageProps = $props();
  /** What is zoomed, whatever it is. */
  interface Near {
    fit: () => void;
    fill: () => void;
    actual: (times?: number) => void;
    by: (factor: number) => void;
    isAtHome: () => boolean;
  }
  let zoomed = $state<Near>();
  let pages = $state<Pages>();
  let film = $state<Film>();
  let show = $state<Show>();
  let card = $state<RecordCard>();
  let stage = $state<HTMLElement>();
  const canDescribe = $derived(can(data.actor.role, 'describe'));
  const format = $derived(formatByKey(data.item.format));
  /** What the picture is held against, by the address. */
  const against = $derived(
    data.relatives.find(({ number }) => number === page.url.searchParams.get('against')) ?? null,
  );
  /** Address of a picture of the light that is lost. */
  let lost = $state<string | null>(null);
  const look = $derived(
    data.item.kind === 'sound' || data.item.kind === 'footage'
      ? 'film'
      : data.tile.pictureState !== 'ready'
        ? 'none'
        : against
          ? 'wipe'
          : moves(data.item.format, data.item.technical.frames) && can(data.actor.role, 'original')
            ? 'drawing'
            : (format.look === 'pages' && (data.item.technical.pages ?? 1) === 1) ||
                // A drawing shown as itself is the original.
                (format.look === 'drawing' && !can(data.actor.role, 'original'))
              ? 'picture'
              : (format.look ?? 'picture'),
  );
  const near = $derived<Near | undefined>(look === 'pages' ? pages : zoomed);
  const isClear = $derived(data.item.technical.transparency !== undefined);
  const zooms = $derived(
    look === 'picture' || look === 'pages' || look === 'drawing' || look === 'lines',
  );
  const large = $derived(`/api/pictures/${data.tile.picture}/large`);
  const alt = $derived(data.item.record.caption || data.item.record.title || data.tile.name);
  /** The same result, and nothing held against another one. */
  const around = $derived(withAgainst(page.url.search, null));
  const address = (number: string): string => `/catalogue/${number}${around}`;
  /** Held against the next of its relatives; after the last one alone. */
  const heldAgainst = $derived.by((): string => {
    const next = data.relatives[against ? data.relatives.indexOf(against) + 1 : 0];
    return `/catalogue/${data.item.number}${withAgainst(page.url.search, next?.number ?? null)}`;
  });
  const back = $derived(`/catalogue${around}`);

  // The next and the last picture are there before one turns to them.
  const turned = $derived([data.next, data.previous].flatMap((number) => number ?? []).join());
  const hanging = $derived(data.beside.join());
  $effect(() => {
    for (const number of turned.split(','))
      if (number) void preloadData(untrack(() => address(number)));
  });
  $effect(() => {
    for (const picture of hanging.split(','))
      if (picture) new Image().src = `/api/pictures/${picture}/large`;
  });
  $effect(() => {
    const { id } = data.item;
    const soon = calmly(() => void freshen('mindful:item'), 600);
    return hear((message) => {
      if (message.about === 'again' || (message.about === 'items' && isAboutAny(message, [id])))
        soon();
    });
  });

  const describe = (change: Parameters<RecordCard['change']>[0]): void => {
    if (canDescribe) void card?.change(change);
  };
  /** One verdict, and on to the next; the last one ends the pass. */
  let judged = '';
  async function judge(rating: number): Promise<void> {
    const { item, next } = data;
    // A key pressed again before the next one is there is none for it.
    if (!canDescribe || judged === item.id) return;
    judged = item.id;
    try {
      await card?.change({ rating });
      if (next) turn(next);
      else await freshen('mindful:item');
    } finally {
      if (!next) judged = '';
    }
  }
  // Who comes back to one may judge it anew.
  $effect(() => {
    if (data.item.id !== judged) judged = '';
  });
  /** The picture is made anew: a tool may have been mended meanwhile. */
  async function again(): Promise<void> {
    await api.post(`/api/items/${data.item.id}/picture`, {});
    sayDone('Its picture is being made.');
  }
  /** How its picture is taken from now on; null: as without a wish. */
  const choose = (choice: { moment: number } | { developed: true } | null): void =>
    void api
      .post(`/api/items/${data.item.id}/picture`, { choice })
      .then(() =>
        sayDone(choice === null ? 'It has its usual picture.' : 'This is its picture now.'),
      )
      .catch(sayWrong);
  const isChosen = $derived(/-(t\d+|developed)$/.test(data.tile.picture));
  /** What of this result was rated so. */
  const rated = (from: number | null, to: number | null): string =>
    formatQuery({
      ...data.query,
      where: [...data.query.where, { field: 'rating', test: 'range', values: [from, to] }],
    });
  const turn = (number: string | null): void => {
    if (number) void goto(address(number), { noScroll: true, keepFocus: true });
  };
  function closer(times: number): void {
    if (near?.isAtHome()) near.actual(times);
    else near?.fit();
  }

  function keys(event: KeyboardEvent): void {
    const target = event.target as HTMLElement;
    if (/^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName) || event.ctrlKey || event.metaKey) return;
    const { key } = event;
    const isButton = target.tagName === 'BUTTON' || target.tagName === 'A';
    const mark = stageOfKey(data.stages, key);
    if (event.altKey) {
      if (key === 'ArrowDown') kept.strip = !kept.strip;
      else if (key === 'ArrowUp') kept.tones = !kept.tones;
      else if (key === 'Enter') show?.start();
      else return;
    } else if (data.pass && key === 'ArrowUp')
      void judge(Math.max(1, data.item.record.rating)).catch(sayWrong);
    else if (data.pass && (key === 'ArrowDown' || key.toLowerCase() === 'n'))
      void judge(-1).catch(sayWrong);
    else if (data.pass && /^[1-5]$/.test(key)) void judge(Number(key)).catch(sayWrong);
    else if (/^[0-5]$/.test(key)) describe({ rating: Number(key) });
    else if (key.toLowerCase() === 'n') describe({ rating: -1 });
    else if (mark) describe({ stage: mark.name });
    else if (key === 'ArrowLeft') turn(data.previous);
    else if (key === 'ArrowRight') turn(data.next);
    else if (key === 'PageUp') pages?.turn(-1);
    else if (key === 'PageDown') pages?.turn(1);
    else if (key === 'Escape') {
      if (!show?.stop()) void goto(back);
    } else if (key === ' ' && !isButton) {
      if (!show?.pause()) film?.toggle();
    } else if (key === ',') film?.step(-1);
    else if (key === '.') film?.step(1);
    else if (key === 'Enter' && !isButton && look === 'film')
      void goto(`/catalogue/${data.item.number}/log${around}`);
    else if (key === 'Enter' && !isButton) closer(event.shiftKey ? 2 : 1);
    else if (key === '*') near?.fill();
    else if (key === '|' && data.relatives[0]) void goto(heldAgainst, { keepFocus: true });
    else if (key === '#' && kept.tones) kept.lost = !kept.lost;
    else if (key === '+' || key === '=') near?.by(1.4);
    else if (key === '-') near?.by(1 / 1.4);
    else return;
    event.preventDefault();
  }
</script>

<svelte:head>
  <title>{data.item.record.title || data.tile.name} · Mindful Archive</title>
  {#if data.tile.pictureState === 'ready' && look !== 'drawing'}<link
      rel="preload"
      as="image"
      type="image/webp"
      href={large}
      fetchpriority="high"
    />{/if}
</svelte:head>
<svelte:window onkeydown={keys} />

<div class="close">
  <section class="stage" aria-label="Close view" bind:this={stage}>
    <header>
      <h1>{data.item.record.title || data.tile.name}</h1>
      <span class="mono pencil"
        >{data.item.number}{data.item.record.title ? ` · ${data.tile.name}` : ''}{data.item.width
          ? ` · ${data.item.width} × ${data.item.height}`
          : ''}{isNamedOtherwise(data.item.format, data.tile.name)
          ? ` · named otherwise: it is ${format.name}`
          : ''}</span
      >
      {#if look === 'film'}<a class="link" href="/catalogue/{data.item.number}/log{around}"
          >Log <kbd>Enter</kbd></a
        >{/if}
    </header>
    <div class="bars">
      {#if data.pass}
        <PassBar
          {...data.pass}
          total={data.total}
          keptAt="/catalogue?q={encodeURIComponent(rated(1, null))}"
          rejectedOf={can(data.actor.role, 'rename') ? { q: rated(null, -1), except: [] } : null}
          ondone={() => void goto(back)}
          onkeep={() => void judge(Math.max(1, data.item.record.rating)).catch(sayWrong)}
          onreject={() => void judge(-1).catch(sayWrong)}
          onlater={() => turn(data.next)}
        />
      {/if}
      {#if data.tile.burstSize > 1}
        <BurstBar
          id={data.item.id}
          burst={data.tile.burst}
          size={data.tile.burstSize}
          lead={data.tile.burstLead}
          reason={data.item.burstReason}
          {canDescribe}
        />
      {/if}
    </div>
    <div class="room" data-look={look}>
      {#if look === 'film'}
        <Film
          bind:this={film}
          id={data.item.id}
          kind={data.item.kind}
          poster={data.tile.pictureState === 'ready' ? large : null}
          technical={data.item.technical}
          proxyMade={data.item.renditions.some(({ recipe }) => recipe === 'proxy')}
          jobs={data.item.jobs}
          format={data.item.format}
          moment={canDescribe ? (at) => choose(at === null ? null : { moment: at }) : null}
          {isChosen}
        />
      {:else if look === 'none'}
        <div class="why">
          <p>{data.item.noPicture ?? 'The picture is on its way.'}</p>
          {#if data.item.noPictureDetail}<p class="mono pencil">{data.item.noPictureDetail}</p>{/if}
          {#if data.item.noPicture && canDescribe}<p>
              <button class="button" type="button" onclick={() => void again().catch(sayWrong)}
                >Try again</button
              >
            </p>{/if}
        </div>
      {:else if look === 'wipe' && against}
        <Wipe
          picture={large}
          other="/api/pictures/{against.picture}/large"
          name={data.item.number}
          otherName={against.number}
        />
      {:else if look === 'drawing'}
        <Drawing bind:this={zoomed} id={data.item.id} {alt} />
      {:else if look === 'specimen'}
        <Specimen id={data.item.id} picture={large} {alt} />
      {:else if look === 'pages'}
        <Pages
          bind:this={pages}
          id={data.item.id}
          picture={large}
          {alt}
          pages={data.item.technical.pages ?? 1}
          hasText={data.item.format === 'pdf'}
        />
      {:else}
        <Zoom
          bind:this={zoomed}
          id={data.item.id}
          picture={large}
          width={data.item.width ?? 0}
          {alt}
          deep={look === 'picture' && !(isClear && kept.checked)}
          checked={isClear && kept.checked}
          over={kept.tones && kept.lost && data.item.kind === 'photo' ? lost : null}
        />
      {/if}
      {#if kept.tones && look !== 'none' && look !== 'film' && look !== 'wipe'}<Tones
          picture={large}
          onlost={(url) => (lost = url)}
          seen={data.item.kind === 'photo'}
        />{/if}
      <Show bind:this={show} {stage} ready={large} onturn={() => turn(data.next ?? data.first)} />
    </div>
    <footer>
      <a class="link" href={back}>To the wall <kbd>Esc</kbd></a>
      <span class="turn">
        {#if data.previous}<a class="link" href={address(data.previous)}><kbd>←</kbd> Previous</a
          >{/if}
        <span class="pencil">{formatCount(data.index + 1)} of {formatCount(data.total)}</span>
        {#if data.next}<a class="link" href={address(data.next)}>Next <kbd>→</kbd></a>{/if}
      </span>
      <span class="near">
        {#if zooms}
          <button class="link" type="button" onclick={() => near?.fit()}>Fit</button>
          <button class="link" type="button" onclick={() => near?.fill()}>Fill <kbd>*</kbd></button>
          <button class="link" type="button" onclick={() => near?.actual(1)}
            >1 : 1 <kbd>Enter</kbd></button
          >
          <button class="link" type="button" onclick={() => near?.actual(2)}>2 : 1</button>
          <button class="link" type="button" aria-label="Further" onclick={() => near?.by(1 / 1.4)}
            ><kbd>−</kbd></button
          >
          <button class="link" type="button" aria-label="Nearer" onclick={() => near?.by(1.4)}
            ><kbd>+</kbd></button
          >
          <button
            class="link"
            type="button"
            aria-pressed={kept.tones}
            onclick={() => (kept.tones = !kept.tones)}>Histogram</button
          >
          {#if data.item.format === 'raw' && canDescribe}<button
              class="link"
              type="button"
              aria-pressed={isChosen}
              onclick={() => choose(isChosen ? null : { developed: true })}>Develop</button
            >{/if}
          {#if isClear}<button
              class="link"
              type="button"
              aria-pressed={kept.checked}
              onclick={() => (kept.checked = !kept.checked)}>Checked</button
            >{/if}
        {/if}
        {#if against}
          <span class="pencil">{against.kind} {against.number}</span>
          {#if data.relatives.length > 1}<a class="link" href={heldAgainst}>Next <kbd>/</kbd></a
            >{/if}
          <a class="link" href={address(data.item.number)}>Alone</a>
        {:else if data.relatives[0]}<a class="link" href={heldAgainst}>Wipe <kbd>|</kbd></a>{/if}
        <button
          class="link"
          type="button"
          aria-pressed={kept.strip}
          onclick={() => (kept.strip = !kept.strip)}>Strip</button
        >
        <button class="link" type="button" onclick={() => show?.start()}>Show</button>
      </span>
    </footer>
    {#if look === 'film'}
      <Spans
        id={data.item.id}
        counting={{
          rate: countedAt(data.item.technical.frameRate),
          start: data.item.technical.timecode ?? null,
        }}
        search={page.url.search}
      />
    {/if}
    {#if kept.strip}
      <Strip query={formatQuery(data.query)} index={data.index} total={data.total} {address} />
    {/if}
  </section>
  <Foldaway label="Record card" name="card" width={292}>
    <RecordCard
      bind:this={card}
      ids={[data.item.id]}
      count={1}
      q={page.url.searchParams.get('q') ?? ''}
      stages={data.stages}
      first={data.cardFields}
      rules={data.rules}
      canManage={can(data.actor.role, 'manage')}
      onwalk={(step) => turn(step > 0 ? data.next : data.previous)}
      canRename={can(data.actor.role, 'rename')}
      {canDescribe}
      canOriginal={can(data.actor.role, 'original')}
    />
  </Foldaway>
</div>

<style>
  .close {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto;
    height: 100%;
  }
  .stage {
    display: grid;
    grid-template-rows: 44px auto minmax(0, 1fr) 40px auto;
    min-height: 0;
    background: var(--well);
  }
  header,
  footer {
    display: flex;
    gap: 14px;
    align-items: baseline;
    padding: 9px 18px;
    white-space: nowrap;
    overflow: hidden;
  }
  footer {
    justify-content: space-between;
    background: var(--paper);
    border-top: 1px solid var(--rule);
  }
  .turn,
  .near {
    display: flex;
    gap: 14px;
    align-items: baseline;
  }
  .bars :global(.bar) {
    display: flex;
    gap: 18px;
    align-items: baseline;
    padding: 6px 18px;
    background: var(--card);
    border-block: 1px solid var(--rule);
    white-space: nowrap;
    overflow: hidden;
  }
  .bars :global(.verdicts) {
    display: flex;
    gap: 16px;
    margin-left: auto;
  }
  .room {
    position: relative;
    min-height: 0;
  }
  .why {
    display: grid;
    place-content: center;
    height: 100%;
    padding: 40px;
    font: 20px/1.4 var(--book);
    text-align: center;
  }
  .link :global(kbd) {
    color: var(--ink);
  }
  @media (max-width: 760px) {
    .close {
      grid-template: minmax(0, 1fr) auto / minmax(0, 1fr);
    }
    .close > :global(.side) {
      max-height: 40dvh;
    }
    .stage {
      grid-template-rows: auto auto minmax(0, 1fr) auto auto;
    }
    header,
    footer,
    .bars :global(.bar),
    .bars :global(.verdicts) {
      flex-wrap: wrap;
      gap: 4px 12px;
      padding: 6px 8px;
      margin-left: 0;
      white-space: normal;
    }
    .turn,
    .near {
      flex-wrap: wrap;
      gap: 4px 12px;
    }
  }
</style>
