<script lang="ts">
  import { onMount, untrack } from 'svelte';
  import type OpenSeadragon from 'openseadragon';
  import { api } from '../common/api';
  import { hear } from '../common/live';

  interface Tiles {
    state: 'ready' | 'waiting' | 'failed';
    reason: string | null;
    width: number;
    height: number;
    size: number;
    overlap: number;
  }
  interface Props {
    id: string;
    /** Address of the picture that is shown until every pixel is there. */
    picture: string;
    /** px of the original, upright; 0 where unknown */
    width: number;
    alt: string;
    /** Every pixel is asked for; false where the picture is all there is. */
    deep?: boolean;
    /** What shows through it stands on a checked ground. */
    checked?: boolean;
    /** Address of what is laid over it, as wide as it is. */
    over?: string | null;
    /** Called where it moves: what lies beside it follows. */
    onview?: (view: View) => void;
  }
  /** Middle and width of what is seen, in parts of the picture's width. */
  export interface View {
    x: number;
    y: number;
    width: number;
  }
  const {
    id,
    picture,
    width,
    alt,
    deep = true,
    checked = false,
    over = null,
    onview,
  }: Props = $props();
  let holder = $state<HTMLElement>();
  let viewer = $state.raw<OpenSeadragon.Viewer | null>(null);
  let lib: typeof OpenSeadragon | null = null;
  let tiles = $state<Tiles | null>(null);
  let percent = $state(0);
  /** Address of the picture that is seen. */
  let seen = $state('');
  let isHome = true;
  let tiled = '';
  const calm = (): boolean => matchMedia('(prefers-reduced-motion: reduce)').matches;

  onMount(() => {
    let gone = false;
    void import('openseadragon').then(({ default: open }) => {
      if (gone || !holder) return;
      lib = open;
      viewer = open({
        element: holder,
        showNavigationControl: false,
        animationTime: calm() ? 0 : 0.3,
        maxZoomPixelRatio: 8,
        minZoomImageRatio: 0.8,
        visibilityRatio: 0.5,
        imageLoaderLimit: 6,
        drawer: 'canvas',
        gestureSettingsMouse: { clickToZoom: false, dblClickToZoom: true },
      });
      viewer.addHandler('animation', told);
      viewer.addHandler('update-viewport', told);
      // The page has its own keys; the viewer's would answer twice.
      viewer.addHandler('canvas-key', (event) => (event.preventDefaultAction = true));
    });
    return () => {
      gone = true;
      viewer?.destroy();
      viewer = null;
    };
  });

  function told(): void {
    const image = viewer?.world.getItemAt(0);
    if (!viewer || !image) return;
    const zoom = viewer.viewport.getZoom(true);
    const wide = width || image.getContentSize().x;
    percent = Math.round(
      ((zoom * viewer.viewport.getContainerSize().x * devicePixelRatio) / wide) * 100,
    );
    isHome = Math.abs(zoom / viewer.viewport.getHomeZoom() - 1) < 0.01;
    const { x, y } = viewer.viewport.getCenter(true);
    onview?.({ x, y, width: 1 / zoom });
  }

  // The next picture takes the place of the last one, at the same spot, when it has come: nothing flickers.
  $effect(() => {
    const source = viewer;
    const url = picture;
    if (!source || seen === url) return;
    let gone = false;
    const image = new Image();
    image.src = url;
    void image
      .decode()
      .then(() => {
        if (!gone) place(source, url, image.naturalWidth, image.naturalHeight, () => gone);
      })
      .catch(() => {
        if (!gone) seen = url;
      });
    return () => {
      gone = true;
    };
  });

  /** The whole picture as one tile. */
  function place(
    source: OpenSeadragon.Viewer,
    url: string,
    wide: number,
    high: number,
    isGone: () => boolean,
  ): void {
    const kept = isHome || source.world.getItemCount() === 0 ? null : view();
    const whole = { width: wide, height: high, tileWidth: wide, tileHeight: high };
    source.addTiledImage({
      tileSource: { ...whole, minLevel: 0, maxLevel: 0, getTileUrl: () => url },
      success: ({ item: own }: { item: OpenSeadragon.TiledImage }) => {
        const begin = (): void => {
          for (let at = source.world.getItemCount() - 1; at >= 0; at -= 1) {
            const old = source.world.getItemAt(at);
            if (old !== own) source.world.removeItem(old);
          }
          tiled = '';
          if (kept) show(kept, true);
          else source.viewport.goHome(true);
          seen = url;
          told();
        };
        // Until it is drawn the last one stays; longer than a moment nobody waits.
        const until = performance.now() + 1000;
        const wait = (): void => {
          if (isGone()) source.world.removeItem(own);
          else if (own.getFullyLoaded() || performance.now() > until) begin();
          else requestAnimationFrame(wait);
        };
        wait();
      },
    } as never);
  }

  let isGone = false;
  $effect(() => () => void (isGone = true));
  async function ask(): Promise<void> {
    if (!deep || tiles?.state === 'ready') return;
    const wished = id;
    const found = await api.get(`/api/items/${wished}/tiles`).catch(() => tiles);
    // Who left the page meanwhile has no item any more.
    if (!isGone && wished === id) tiles = found;
  }
  $effect(() => {
    const wished = id;
    untrack(() => (tiles = null));
    // Every pixel is asked for once the whole is seen: making them takes a core for a while.
    if (seen !== picture) return;
    // What it finds is not what it depends on.
    untrack(() => void ask());
    const again = setInterval(() => {
      if (tiles?.state === 'waiting') void ask();
    }, 1500);
    const deaf = hear((message) => {
      if (message.about === 'again' || (message.about === 'items' && message.ids.includes(wished)))
        void ask();
    });
    return () => {
      clearInterval(again);
      deaf();
    };
  });

  // Every pixel comes over what is seen already.
  $effect(() => {
    if (tiles?.state !== 'ready' || !viewer || seen !== picture || tiled === id) return;
    tiled = id;
    const { width: wide, height, size, overlap } = tiles;
    const own = id;
    viewer.addTiledImage({
      x: 0,
      y: 0,
      width: 1,
      tileSource: {
        width: wide,
        height,
        tileSize: size,
        tileOverlap: overlap,
        getTileUrl: (level: number, x: number, y: number) =>
          `/api/items/${own}/tiles/${level}/${x}_${y}.jpeg`,
      } as unknown as OpenSeadragon.TileSourceOptions,
    });
  });

  // Laid over what is seen, tiles included.
  $effect(() => {
    const source = viewer;
    void [seen, tiles?.state];
    if (!source || !over || seen !== picture) return;
    let laid: OpenSeadragon.TiledImage | null = null;
    let gone = false;
    source.addSimpleImage({
      url: over,
      width: 1,
      success: (event) => {
        laid = (event as unknown as { item: OpenSeadragon.TiledImage }).item;
        if (gone) source.world.removeItem(laid);
      },
    });
    return () => {
      gone = true;
      if (laid) source.world.removeItem(laid);
    };
  });

  function view(): View {
    const { x, y } = viewer!.viewport.getCenter();
    return { x, y, width: 1 / viewer!.viewport.getZoom() };
  }
  /** Show a part of the picture; who moves another beside it says so at once. */
  export function show({ x, y, width: part }: View, now = false): void {
    if (!viewer || !lib) return;
    viewer.viewport.zoomTo(1 / part, undefined, now);
    viewer.viewport.panTo(new lib.Point(x, y), now);
  }
  export function fit(): void {
    viewer?.viewport.goHome();
  }
  /** The whole room is filled, the picture cut at its longer sides. */
  export function fill(): void {
    const image = viewer?.world.getItemAt(0);
    if (!viewer || !image) return;
    const { x, y } = viewer.viewport.getContainerSize();
    const proportion = image.getContentSize().x / image.getContentSize().y;
    viewer.viewport.zoomTo(Math.max(1, x / y / proportion));
  }
  /** Pixels of the screen for one of the picture. */
  export function actual(times = 1): void {
    if (!viewer) return;
    const wide = width || viewer.world.getItemAt(0)?.getContentSize().x || 1;
    viewer.viewport.zoomTo(
      (wide * times) / devicePixelRatio / viewer.viewport.getContainerSize().x,
    );
  }
  export function by(factor: number): void {
    viewer?.viewport.zoomBy(factor);
    viewer?.viewport.applyConstraints();
  }
  export const isAtHome = (): boolean => isHome;
</script>

<div
  class="zoom"
  class:checked
  data-over={over !== null}
  data-ready={seen === picture}
  data-deep={tiles?.state === 'ready'}
>
  {#if seen === ''}<img src={picture} {alt} fetchpriority="high" decoding="sync" />{/if}
  <div bind:this={holder} class="viewer" role="img" aria-label={alt}></div>
  <p class="state" aria-live="polite">
    {#if tiles?.state === 'failed'}{tiles.reason}{:else if deep && tiles?.state !== 'ready' && percent > 90}preparing
      every pixel …{:else if percent}{percent} %{/if}
  </p>
</div>

<style>
  .zoom,
  .viewer {
    position: absolute;
    inset: 0;
  }
  .checked {
    background: repeating-conic-gradient(var(--rule) 0 25%, var(--paper) 0 50%) 0 0 / 22px 22px;
  }
  img {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    object-fit: contain;
  }
  .state {
    position: absolute;
    right: 14px;
    bottom: 10px;
    padding: 1px 7px;
    border-radius: 3px;
    background: rgb(29 35 32 / 0.8);
    color: #fdfcf9;
    font: 11.5px var(--mono);
  }
  .state:empty {
    display: none;
  }
</style>
