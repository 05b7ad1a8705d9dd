<script lang="ts">
  import { formatName } from '#core/kinds/kinds';
  import type { Tile } from '#core/catalogue/tile';
  import type { Stage } from '#core/stages/stages';
  import { formatDuration } from '#core/text/quantities';
  import Marked from '../common/Marked.svelte';
  import Pips from '../common/Pips.svelte';
  import { carried } from './carry';
  import StageMark from '../common/StageMark.svelte';
  import Moving from './Moving.svelte';

  const REST_MS = 350;
  interface Props {
    tile: Tile | undefined;
    id: string;
    index: number;
    total: number;
    width: number;
    height: number;
    selected: boolean;
    focused: boolean;
    stages: Stage[];
    /** Folded words that were searched for. */
    words?: readonly string[];
    onclick: (event: MouseEvent) => void;
    ondblclick: () => void;
    /** Unfolds a burst in place, or folds it again; null where none is folded. */
    onburst?: ((burst: string) => void) | null;
  }
  const {
    tile,
    id,
    index,
    total,
    width,
    height,
    selected,
    focused,
    stages,
    words = [],
    onclick,
    ondblclick,
    onburst = null,
  }: Props = $props();
  /** One rests on it a moment: a span moves then. */
  let moves = $state(false);
  let resting: ReturnType<typeof setTimeout>;
  function rest(isOn: boolean): void {
    clearTimeout(resting);
    if (!isOn) moves = false;
    else if (tile?.lastPicture) resting = setTimeout(() => (moves = true), REST_MS);
  }
  /** Moments of its clip at which it begins and ends, as the names of its pictures tell them. */
  const ends = $derived.by(() => {
    const at = (picture: string): number => Number(/-t(\d+)$/.exec(picture)?.[1] ?? 0) / 1000;
    return { from: at(tile?.picture ?? ''), to: at(tile?.lastPicture ?? '') };
  });
  const stage = $derived(stages.find((candidate) => candidate.id === tile?.stage));
  /** A span is called as it was named; until then as its clip. */
  const stem = $derived(
    (tile?.kind === 'span' && tile.title) || (tile?.name.replace(/\.[^.]{1,11}$/, '') ?? ''),
  );
</script>

<!-- The keyboard lives on the list itself, which names the active tile. -->
<!-- svelte-ignore a11y_click_events_have_key_events -->
<div
  {id}
  use:carried={tile?.id}
  class="tile"
  class:selected
  class:focused
  role="option"
  tabindex="-1"
  aria-selected={selected}
  aria-posinset={index + 1}
  aria-setsize={total}
  {onclick}
  {ondblclick}
  onpointerenter={() => rest(true)}
  onpointerleave={() => rest(false)}
>
  <div class="picture" style="height:{height}px">
    {#if tile?.pictureState === 'ready' && tile.lastPicture}
      <span class="ends">
        {#each [tile.picture, tile.lastPicture] as picture (picture)}<img
            src="/api/pictures/{picture}/small"
            alt=""
            loading="lazy"
            draggable="false"
          />{/each}
      </span>
      {#if moves}<Moving id={tile.id} {...ends} />{/if}
    {:else if tile?.pictureState === 'ready'}
      {@const size = Math.max(width, height) > 340 ? 'medium' : 'small'}
      <img
        src="/api/pictures/{tile.picture}/{size}"
        srcset="/api/pictures/{tile.picture}/small 360w, /api/pictures/{tile.picture}/medium 720w"
        sizes="{Math.round(width)}px"
        alt=""
        loading="lazy"
        draggable="false"
      />
    {:else if tile?.pictureState === 'none'}
      <p><strong>{formatName(tile.format)}</strong>{tile.noPicture}</p>
    {:else if tile}
      <p>Picture on its way</p>
    {/if}
    {#if tile && tile.fileState !== 'present'}<span class="where"
        >{tile.fileState === 'away' ? 'place is away' : tile.fileState}</span
      >{/if}
    {#if tile && tile.burstSize > 1}
      {@const alike = tile.burstLead ? `${tile.burstSize} alike` : 'alike'}
      {#if onburst && tile.burst && tile.burstLead}
        {@const { burst } = tile}
        <!-- The keyboard does it on the list itself. -->
        <!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_static_element_interactions -->
        <span
          class="badge folds"
          title="Unfold or fold here"
          onclick={(event) => {
            event.stopPropagation();
            onburst(burst);
          }}>{alike}</span
        >
      {:else}<span class="badge">{alike}</span>{/if}
    {/if}
    {#if tile?.duration}<span class="badge"
        >{tile.kind === 'span'
          ? tile.isMarker
            ? 'marker'
            : `${tile.duration.toFixed(1)} s · span`
          : `${formatDuration(tile.duration)}${tile.kind === 'sound' ? ' · sound' : ''}`}</span
      >{/if}
  </div>
  <div class="strip">
    <span class="name" title={tile?.name}
      ><Marked text={stem} {words} /><span class="unseen"
        >{tile?.title && tile.title !== stem ? `, ${tile.title}` : ''}</span
      ></span
    >
    <span class="marks" class:bare={!stage && !tile?.rating}>
      {#if stage}<StageMark {stage} />{/if}
      {#if tile}<Pips rating={tile.rating} />{/if}
    </span>
  </div>
</div>

<style>
  .tile {
    container: tile / inline-size;
    height: 100%;
    border: 1px solid var(--rule);
    border-radius: 2px;
    background: var(--card);
    cursor: default;
    user-select: none;
    overflow: hidden;
  }
  .tile.selected {
    border-color: var(--verdigris);
    box-shadow: 0 0 0 1px var(--verdigris);
    background: var(--wash);
  }
  .tile.focused {
    outline: 2px solid var(--ink);
    outline-offset: 1px;
  }
  .picture {
    position: relative;
    background: var(--well);
    overflow: hidden;
  }
  img {
    display: block;
    width: 100%;
    height: 100%;
    object-fit: cover;
  }
  .ends {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 2px;
    width: 100%;
    height: 100%;
  }
  .ends img {
    min-width: 0;
  }
  p {
    display: grid;
    place-content: center;
    gap: 4px;
    height: 100%;
    padding: 8px 12px;
    color: var(--pencil);
    font-size: 11.5px;
    text-align: center;
  }
  .where {
    position: absolute;
    left: 0;
    bottom: 0;
    padding: 1px 6px;
    background: var(--card);
    color: var(--wax);
    font-size: 11.5px;
    font-weight: 600;
  }
  .badge {
    position: absolute;
    top: 6px;
    right: 6px;
    padding: 1px 6px;
    border-radius: 2px;
    background: rgb(29 35 32 / 0.86);
    color: #fdfcf9;
    font: 11.5px var(--mono);
  }
  .folds {
    cursor: pointer;
  }
  .marks {
    display: flex;
    gap: 6px;
    align-items: center;
  }
  /* On a narrow tile the name has the strip to itself; the marks stand at the foot of the picture. */
  @container tile (max-width: 168px) {
    .marks {
      position: absolute;
      right: 4px;
      bottom: calc(100% + 4px);
      padding: 2px 5px;
      border-radius: 3px;
      background: color-mix(in srgb, var(--card) 88%, transparent);
    }
    .marks.bare {
      display: none;
    }
  }
  .strip {
    position: relative;
    display: flex;
    gap: 6px;
    align-items: center;
    height: 27px;
    padding: 0 6px;
  }
  .name {
    flex: 1;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    font: 11.5px var(--mono);
  }
</style>
