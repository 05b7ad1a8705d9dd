<script lang="ts">
  interface Props {
    id: string;
    picture: string;
    alt: string;
  }
  const { id, picture, alt }: Props = $props();
  let typed = $state('');
  let shown = $state('');
  let wrong = $state(false);
  let image = $state<HTMLImageElement>();
  $effect(() => {
    const fail = (): void => void (wrong = true);
    image?.addEventListener('error', fail);
    return () => image?.removeEventListener('error', fail);
  });
  $effect(() => {
    const text = typed.trim();
    const soon = setTimeout(() => {
      shown = text;
      wrong = false;
    }, 200);
    return () => clearTimeout(soon);
  });
</script>

<div class="specimen">
  <img
    src={shown ? `/api/items/${id}/specimen?text=${encodeURIComponent(shown)}` : picture}
    alt={shown ? `“${shown}” in ${alt}` : alt}
    bind:this={image}
  />
  <label
    >Words of your own <input
      aria-label="Words of your own"
      bind:value={typed}
      maxlength="300"
      placeholder="wind, sail & line"
    />
    {#if wrong}<span role="alert">These letters cannot be drawn.</span>{/if}</label
  >
</div>

<style>
  .specimen {
    position: absolute;
    inset: 0;
    display: grid;
    grid-template-rows: minmax(0, 1fr) auto;
  }
  img {
    width: 100%;
    height: 100%;
    min-height: 0;
    padding: 18px;
    object-fit: contain;
  }
  label {
    display: flex;
    gap: 12px;
    align-items: center;
    padding: 6px 18px;
    background: var(--card);
    border-top: 1px solid var(--rule);
  }
  input {
    border: 1px solid var(--rule);
    border-radius: 3px;
    background: var(--paper);
    flex: 1;
    padding: 3px 8px;
    font: 16.5px var(--book);
  }
</style>
