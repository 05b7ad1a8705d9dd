<script lang="ts">
  import { goto, preloadData } from '$app/navigation';
  import { page } from '$app/state';
  import { can } from '#core/people/roles';
  import { formatCount } from '#core/text/quantities';
  import Player from '$lib/ui/close/Player.svelte';
  import Zoom from '$lib/ui/close/Zoom.svelte';
  import Foldaway from '$lib/ui/common/Foldaway.svelte';
  import { freshen } from '$lib/ui/common/freshen';
  import { calmly, hear } from '$lib/ui/common/live';
  import RecordCard from '$lib/ui/record/RecordCard.svelte';
  import type { PageProps } from './$types';

  const { data }: PageProps = $props();
  let zoom = $state<Zoom>();
  let card = $state<RecordCard>();
  const plays = $derived(data.item.kind === 'footage' || data.item.kind === 'sound');
  const address = (number: string): string => `/catalogue/${number}${page.url.search}`;
  const back = $derived(`/catalogue${page.url.search}`);

  $effect(() => {
    if (data.next) void preloadData(address(data.next));
  });
  $effect(() => {
    const { id } = data.item;
    const soon = calmly(() => void freshen('mindful:item'), 600);
    return hear((message) => {
      if (
        message.about === 'again' ||
        (message.about === 'items' && (message.ids.includes(id) || message.ids.length === 0))
      )
        soon();
    });
  });

  const describe = (change: Parameters<RecordCard['change']>[0]): void => {
    if (can(data.actor.role, 'describe')) void card?.change(change);
  };
  let isActual = false;
  function closer(): void {
    isActual = !isActual;
    if (isActual) zoom?.actual();
    else zoom?.fit();
  }

  function keys(event: KeyboardEvent): void {
    const target = event.target as HTMLElement;
    if (
      /^(INPUT|TEXTAREA|SELECT|VIDEO|AUDIO)$/.test(target.tagName) ||
      event.ctrlKey ||
      event.metaKey ||
      event.altKey
    )
      return;
    const { key } = event;
    const stage = data.stages.find((one) => one.key === key.toLowerCase());
    if (/^[0-5]$/.test(key)) describe({ rating: Number(key) });
    else if (key.toLowerCase() === 'n') describe({ rating: -1 });
    else if (stage) describe({ stage: stage.name });
    else if (key === 'ArrowLeft' && data.previous) void goto(address(data.previous));
    else if (key === 'ArrowRight' && data.next) void goto(address(data.next));
    else if (key === 'Escape') void goto(back);
    else if (key === 'Enter' && target.tagName !== 'BUTTON' && target.tagName !== 'A') closer();
    else if (key === '+' || key === '=') zoom?.by(1.4);
    else if (key === '-') zoom?.by(1 / 1.4);
    else return;
    event.preventDefault();
  }
</script>

<svelte:head
  ><title>{data.item.record.title || data.tile.name} · Mindful Archive</title></svelte:head
>
<svelte:window onkeydown={keys} />

<div class="close">
  <section class="stage" aria-label="Close view">
    <header>
      <h1>{data.item.record.title || data.tile.name}</h1>
      <span class="mono pencil"
        >{data.item.number} · {data.tile.name}{data.item.width
          ? ` · ${data.item.width} × ${data.item.height}`
          : ''}</span
      >
    </header>
    <div class="room">
      {#key data.item.id}
        {#if plays}
          <Player
            id={data.item.id}
            kind={data.item.kind}
            poster={data.tile.pictureState === 'ready'
              ? `/api/pictures/${data.tile.picture}/large`
              : null}
            technical={data.item.technical}
            proxyMade={data.item.renditions.some(({ recipe }) => recipe === 'proxy')}
            jobs={data.item.jobs}
            format={data.item.format}
          />
        {:else if data.tile.pictureState === 'ready'}
          <Zoom
            bind:this={zoom}
            id={data.item.id}
            picture={data.tile.picture}
            alt={data.item.record.caption || data.item.record.title || data.tile.name}
          />
        {:else}
          <p class="why">{data.item.noPicture ?? 'The picture is on its way.'}</p>
        {/if}
      {/key}
    </div>
    <footer>
      <a class="link" href={back}>To the wall <kbd>Esc</kbd></a>
      <span class="turn">
        {#if data.previous}<a class="link" href={address(data.previous)}><kbd>←</kbd> Previous</a
          >{/if}
        <span class="pencil">{formatCount(data.index + 1)} of {formatCount(data.total)}</span>
        {#if data.next}<a class="link" href={address(data.next)}>Next <kbd>→</kbd></a>{/if}
      </span>
      {#if !plays && data.tile.pictureState === 'ready'}
        <span class="near">
          <button class="link" type="button" onclick={() => zoom?.fit()}>Fit</button>
          <button class="link" type="button" onclick={() => zoom?.actual()}
            >1 : 1 <kbd>Enter</kbd></button
          >
          <button class="link" type="button" aria-label="Further" onclick={() => zoom?.by(1 / 1.4)}
            ><kbd>−</kbd></button
          >
          <button class="link" type="button" aria-label="Nearer" onclick={() => zoom?.by(1.4)}
            ><kbd>+</kbd></button
          >
        </span>
      {/if}
    </footer>
  </section>
  <Foldaway label="Record card" name="card" width={292}>
    <RecordCard
      bind:this={card}
      ids={[data.item.id]}
      count={1}
      q={page.url.searchParams.get('q') ?? ''}
      stages={data.stages}
      canDescribe={can(data.actor.role, 'describe')}
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
    grid-template-rows: 44px minmax(0, 1fr) 40px;
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
</style>
