<script lang="ts">
  /** A drawing at any size: the browser draws it anew at each, so that it stays crisp. */
  interface Props {
    id: string;
    alt: string;
  }
  const { id, alt }: Props = $props();
  const MOST = 64;
  let room = $state({ width: 0, height: 0 });
  let natural = $state({ width: 0, height: 0 });
  /** A drawing without a size has that of a picture without one (CSS 2.2, 10.3.2). */
  const own = $derived({ width: natural.width || 300, height: natural.height || 150 });
  /** Times the size that fits, and where its middle is, in px from that of the room. */
  let scale = $state(1);
  let at = $state({ x: 0, y: 0 });
  let holds: { x: number; y: number } | null = null;
  const fitting = $derived(Math.min(room.width / own.width, room.height / own.height) * 0.94);
  const width = $derived(own.width * fitting * scale);
  const height = $derived(own.height * fitting * scale);

  function to(wished: number, x = 0, y = 0): void {
    const next = Math.min(MOST, Math.max(0.5, wished));
    const factor = next / scale;
    at = { x: x + (at.x - x) * factor, y: y + (at.y - y) * factor };
    scale = next;
  }
  export function fit(): void {
    scale = 1;
    at = { x: 0, y: 0 };
  }
  export const fill = (): void =>
    to(Math.max(room.width / own.width, room.height / own.height) / fitting);
  export const actual = (times = 1): void => to(times / fitting);
  export const by = (factor: number): void => to(scale * factor);
  export const isAtHome = (): boolean => scale === 1;
  $effect(() => {
    void id;
    fit();
  });
</script>

<!-- svelte-ignore a11y_no_static_element_interactions -->
<div
  class="drawing"
  bind:clientWidth={room.width}
  bind:clientHeight={room.height}
  onwheel={(event) => {
    event.preventDefault();
    const box = event.currentTarget.getBoundingClientRect();
    to(
      scale * Math.exp(-event.deltaY / 400),
      event.clientX - box.left - box.width / 2,
      event.clientY - box.top - box.height / 2,
    );
  }}
  onpointerdown={(event) => {
    holds = { x: event.clientX - at.x, y: event.clientY - at.y };
    event.currentTarget.setPointerCapture(event.pointerId);
  }}
  onpointermove={(event) => {
    if (holds) at = { x: event.clientX - holds.x, y: event.clientY - holds.y };
  }}
  onpointerup={() => (holds = null)}
  ondblclick={() => by(2)}
>
  <img
    src="/api/items/{id}/drawing"
    {alt}
    draggable="false"
    style:width="{width || 1}px"
    style:height="{height || 1}px"
    style:left="{room.width / 2 + at.x - width / 2}px"
    style:top="{room.height / 2 + at.y - height / 2}px"
    bind:naturalWidth={natural.width}
    bind:naturalHeight={natural.height}
  />
</div>

<style>
  .drawing {
    position: absolute;
    inset: 0;
    overflow: hidden;
    touch-action: none;
    cursor: grab;
  }
  img {
    position: absolute;
    max-width: none;
    background: #fff;
  }
</style>
