<script lang="ts">
  import { STAMPED, type Draft, type Stamped } from './draft';

  import { api } from '../common/api';

  interface Props {
    draft: Draft;
  }
  let { draft = $bindable() }: Props = $props();
  const LABELS: Record<Stamped, string> = {
    title: 'Title',
    creator: 'Creator',
    creditLine: 'Credit line',
    copyrightNotice: 'Copyright notice',
    caption: 'Caption',
  };
  const used = $derived(STAMPED.filter((key) => draft.stamp[key].trim() !== ''));
  // svelte-ignore state_referenced_locally
  let open = $state(used.length > 0);
  let kept = $state.raw<{ id: string; name: string; project: string }[]>([]);
  $effect(() => {
    api
      .get('/api/lists/stamps')
      .then((found) => (kept = found))
      .catch(() => undefined);
  });
  const nameOf = (id: string): string => kept.find((one) => one.id === id)?.name ?? '';
  const free = $derived(kept.filter(({ id }) => !draft.stamps.includes(id)));
</script>

<p>
  Stamp them:
  <select class="choice" aria-label="How the stamp meets what is there" bind:value={draft.way}>
    <option value="fill blanks">fill blanks</option>
    <option value="overwrite">overwrite</option>
    <option value="add">add</option>
  </select>
  <button class="link" type="button" aria-expanded={open} onclick={() => (open = !open)}
    >{used.length ? used.map((key) => LABELS[key].toLowerCase()).join(', ') : 'nothing'}</button
  >
  {#each draft.stamps.filter(nameOf) as id (id)}
    and “{nameOf(id)}”
    <button
      class="link"
      type="button"
      aria-label="Without the stamp {nameOf(id)}"
      onclick={() => (draft.stamps = draft.stamps.filter((one) => one !== id))}>×</button
    >
  {/each}
  {#if free.length > 0}
    <select
      class="choice"
      aria-label="Put a kept stamp as well"
      value=""
      onchange={(event) => {
        draft.stamps = [...draft.stamps, event.currentTarget.value];
        event.currentTarget.value = '';
      }}
    >
      <option value="" disabled>and a kept stamp …</option>
      {#each free as one (one.id)}<option value={one.id}
          >{one.project ? `${one.project}: ` : ''}{one.name}</option
        >{/each}
    </select>
  {/if}
</p>
{#if open}
  <div class="fields">
    {#each STAMPED as key (key)}
      <label
        ><span class="pencil">{LABELS[key]}</span><input
          class="field"
          aria-label="Stamp: {LABELS[key]}"
          placeholder={key === 'creator' ? 'several parted by ;' : ''}
          bind:value={draft.stamp[key]}
        /></label
      >
    {/each}
  </div>
{/if}

<style>
  p {
    font: 16.5px/1.35 var(--book);
  }
  .fields {
    display: grid;
    gap: 4px;
    margin-top: 6px;
  }
  label {
    display: grid;
    grid-template-columns: 104px minmax(0, 1fr);
    align-items: center;
  }
</style>
