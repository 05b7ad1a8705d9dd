<script lang="ts">
  /** Two pictures laid over each other; a line one moves parts them. */
  interface Props {
    /** Addresses of the one looked at and of the one it is held against. */
    picture: string;
    other: string;
    name: string;
    otherName: string;
  }
  const { picture, other, name, otherName }: Props = $props();
  let part = $state(50);
  let box = $state<HTMLElement>();
  function to(event: PointerEvent): void {
    if (event.buttons === 0 || !box) return;
    const { left, width } = box.getBoundingClientRect();
    part = Math.min(100, Math.max(0, ((event.clientX - left) / width) * 100));
  }
</script>

<!-- svelte-ignore a11y_no_static_element_interactions -->
<div class="wipe" bind:this={box} onpointerdown={to} onpointermove={to} data-part={part}>
  <img src={other} alt={otherName} draggable="false" />
  <img
    src={picture}
    alt={name}
    draggable="false"
    style:clip-path="inset(0 {100 - part}% 0 0)"
    class="over"
  />
  <span class="line" style:left="{part}%"></span>
  <span class="name left">{name}</span>
  <span class="name right">{otherName}</span>
  <input
    type="range"
    min="0"
    max="100"
    step="0.5"
    bind:value={part}
    aria-label="How far {name} lies over {otherName}"
  />
</div>

<style>
  .wipe {
    position: absolute;
    inset: 0;
    cursor: ew-resize;
    touch-action: none;
    user-select: none;
  }
  img {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    object-fit: contain;
  }
  .line {
    position: absolute;
    top: 0;
    bottom: 0;
    width: 2px;
    margin-left: -1px;
    background: var(--verdigris);
  }
  .name {
    position: absolute;
    top: 12px;
    padding: 1px 7px;
    border-radius: 3px;
    background: rgb(29 35 32 / 0.8);
    color: #fdfcf9;
    font: 11.5px var(--mono);
  }
  .left {
    left: 14px;
  }
  .right {
    right: 14px;
  }
  input {
    position: absolute;
    left: 20%;
    width: 60%;
    bottom: 12px;
    accent-color: var(--verdigris);
  }
</style>
