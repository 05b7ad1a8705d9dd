<script lang="ts">
  interface Item {
    id: string;
    name: string;
    kind: string;
    title: string;
    caption: string;
    creator: string;
    credit: string;
    copyright: string;
    noPicture: string | null;
    sizes: string[];
  }
  interface Props {
    item: Item;
    base: string;
    picked: boolean;
    ontoggle: () => void;
    onclose: () => void;
    onturn: (step: 1 | -1) => void;
  }
  const { item, base, picked, ontoggle, onclose, onturn }: Props = $props();
  let dialog: HTMLDialogElement;
  /** The clip or sound whose proxy is not there yet. */
  let silent = $state('');

  $effect(() => {
    dialog.showModal();
  });
  function keys(event: KeyboardEvent): void {
    if (event.key === 'ArrowRight') onturn(1);
    else if (event.key === 'ArrowLeft') onturn(-1);
    else if (event.key.toLowerCase() === 'p') ontoggle();
  }
</script>

<dialog bind:this={dialog} aria-label={item.title || item.name} {onclose} onkeydown={keys}>
  <div class="view">
    {#if silent === item.id}
      <p role="status">This is being made ready to play; look again in a while.</p>
    {:else if item.kind === 'footage'}
      <!-- svelte-ignore a11y_media_has_caption -->
      {#key item.id}<video
          src="{base}/media/{item.id}"
          poster="{base}/picture/{item.id}/large"
          controls
          onerror={() => (silent = item.id)}
        ></video>{/key}
    {:else if item.kind === 'sound'}
      {#key item.id}<audio src="{base}/media/{item.id}" controls onerror={() => (silent = item.id)}
        ></audio>{/key}
    {:else if item.noPicture}<p>{item.noPicture}</p>
    {:else}<img
        src="{base}/picture/{item.id}/large"
        alt={item.caption || item.title || item.name}
      />{/if}
  </div>
  <div class="label">
    <h2>{item.title || item.name}</h2>
    {#if item.caption}<p>{item.caption}</p>{/if}
    <p class="pencil">
      {[item.credit || item.creator, item.copyright].filter(Boolean).join(' · ')}
    </p>
    <p class="acts">
      <button
        class="button"
        class:act={picked}
        type="button"
        aria-pressed={picked}
        onclick={ontoggle}>{picked ? 'Picked' : 'Pick'}</button
      >
      {#if item.sizes.includes('2048') && !item.noPicture}<a
          class="button"
          href="{base}/file/{item.id}/2048"
          download>Download 2048 px</a
        >{/if}
      {#if item.sizes.includes('original')}<a
          class="button"
          href="{base}/file/{item.id}/original"
          download>Download the original</a
        >{/if}
    </p>
    <p class="acts">
      <button class="link" type="button" onclick={() => onturn(-1)}>← Previous</button>
      <button class="link" type="button" onclick={() => onturn(1)}>Next →</button>
      <button class="link" type="button" onclick={() => dialog.close()}>Close</button>
    </p>
  </div>
</dialog>

<style>
  dialog {
    width: 100vw;
    height: 100vh;
    max-width: none;
    max-height: none;
    padding: 0;
    border: 0;
    background: var(--well);
    color: var(--ink);
  }
  dialog[open] {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 320px;
  }
  .view {
    display: grid;
    place-items: center;
    min-height: 0;
    padding: 20px;
  }
  img,
  video {
    max-width: 100%;
    max-height: calc(100vh - 40px);
    object-fit: contain;
  }
  .label {
    display: grid;
    gap: 12px;
    align-content: start;
    padding: 28px 24px;
    overflow: auto;
    border-left: 1px solid var(--ink);
    background: var(--card);
    font: 16.5px/1.45 var(--book);
  }
  .acts {
    display: flex;
    flex-wrap: wrap;
    gap: 8px 14px;
    font: 13px var(--plain);
  }
  @media (max-width: 760px) {
    dialog[open] {
      grid-template: minmax(0, 1fr) auto / 1fr;
    }
    .view {
      padding: 0;
    }
    img,
    video {
      max-height: 56vh;
    }
    .label {
      border: 0;
      border-top: 1px solid var(--ink);
      padding: 16px;
    }
  }
</style>
