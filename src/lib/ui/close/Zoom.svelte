<script lang="ts">
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
    picture: string;
    alt: string;
  }
  const { id, picture, alt }: Props = $props();
  let holder = $state<HTMLElement>();
  let viewer: OpenSeadragon.Viewer | null = null;
  let tiles = $state<Tiles | null>(null);
  let percent = $state(0);
  let ready = $state(false);

  async function ask(): Promise<void> {
    if (tiles?.state === 'ready') return;
    tiles = await api.get<Tiles>(`/api/items/${id}/tiles`).catch(() => tiles);
  }

  $effect(() => {
    void ask();
    const again = setInterval(() => {
      if (tiles?.state === 'waiting') void ask();
    }, 2000);
    const deaf = hear((message) => {
      if (message.about === 'again' || (message.about === 'items' && message.ids.includes(id)))
        void ask();
    });
    return () => {
      clearInterval(again);
      deaf();
    };
  });

  $effect(() => {
    if (tiles?.state !== 'ready' || !holder || viewer) return;
    const { width, height, size, overlap } = tiles;
    const element = holder;
    let gone = false;
    void import('openseadragon').then(({ default: open }) => {
      if (gone) return;
      viewer = open({
        element,
        showNavigationControl: false,
        animationTime: matchMedia('(prefers-reduced-motion: reduce)').matches ? 0 : 0.35,
        maxZoomPixelRatio: 4,
        minZoomImageRatio: 1,
        visibilityRatio: 0.6,
        gestureSettingsMouse: { clickToZoom: false, dblClickToZoom: true },
        tileSources: {
          width,
          height,
          tileSize: size,
          tileOverlap: overlap,
          getTileUrl: (level: number, x: number, y: number) =>
            `/api/items/${id}/tiles/${level}/${x}_${y}.jpeg`,
        } as unknown as OpenSeadragon.TileSourceOptions,
      });
      viewer.addHandler('open', () => (ready = true));
      viewer.addHandler('zoom', ({ zoom }) => {
        percent = viewer
          ? Math.round(
              viewer.viewport.viewportToImageZoom(zoom ?? viewer.viewport.getZoom()) *
                100 *
                devicePixelRatio,
            )
          : 0;
      });
      // The page has its own keys; the viewer's would answer twice.
      viewer.addHandler('canvas-key', (event) => (event.preventDefaultAction = true));
    });
    return () => {
      gone = true;
      viewer?.destroy();
      viewer = null;
      ready = false;
    };
  });

  export function fit(): void {
    viewer?.viewport.goHome();
  }
  /** One picture pixel on one screen pixel. */
  export function actual(): void {
    if (viewer) viewer.viewport.zoomTo(viewer.viewport.imageToViewportZoom(1 / devicePixelRatio));
  }
  export function by(factor: number): void {
    viewer?.viewport.zoomBy(factor);
    viewer?.viewport.applyConstraints();
  }
</script>

<div class="zoom" data-ready={ready}>
  {#if !ready}<img src="/api/pictures/{picture}/large" {alt} />{/if}
  <div bind:this={holder} class="viewer" role="img" aria-label={alt}></div>
  <p class="state" aria-live="polite">
    {#if tiles?.state === 'failed'}{tiles.reason}{:else if !ready}preparing every pixel …{:else if percent}{percent}
      %{/if}
  </p>
</div>

<style>
  .zoom,
  .viewer {
    position: absolute;
    inset: 0;
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
