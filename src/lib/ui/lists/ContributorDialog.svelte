<script lang="ts">
  import type { ContributorEntry } from '#core/lists/entries';
  import { FIELDS, type FieldKey } from '#core/records/fields';
  import { counted } from '#core/text/quantities';
  import { api } from '../common/api';
  import Dialog from '../common/Dialog.svelte';
  import { act } from './act';

  /** A contributor made or changed; what follows in records is counted before it is done. */
  interface Props {
    id: string | null;
    seen: ContributorEntry;
    others: readonly { name: string; also: string[] }[];
    onclose: () => void;
  }
  const { id, seen, others, onclose }: Props = $props();
  // svelte-ignore state_referenced_locally
  let entry = $state<ContributorEntry>(structuredClone(seen));
  // svelte-ignore state_referenced_locally
  let also = $state(seen.also.join('; '));
  let follow = $state(true);
  const wish = $derived<ContributorEntry>({
    ...entry,
    name: entry.name.trim(),
    also: [
      ...new Set(
        also
          .split(';')
          .map((one) => one.trim())
          .filter((one) => one !== '' && one !== entry.name.trim()),
      ),
    ],
  });
  const clash = $derived.by((): string => {
    const own = [wish.name, ...wish.also].map((one) => one.toLowerCase());
    const other = others.find((one) =>
      [one.name, ...one.also].some((name) => own.includes(name.toLowerCase())),
    );
    return other ? `${other.name} is called so already.` : '';
  });
  type Follow = { items: number; fields: { field: FieldKey; changed: number }[] };
  let told = $state.raw<Follow | null>(null);
  const LINES = [
    ['creditLine', 'Credit line'],
    ['copyrightNotice', 'Copyright notice'],
    ['usageTerms', 'Usage terms'],
    ['email', 'E-mail address'],
    ['phone', 'Telephone'],
    ['web', 'Web address'],
  ] as const;

  $effect(() => {
    const body = { id, entry: $state.snapshot(wish) };
    if (body.entry.name === '') return;
    const timer = setTimeout(() => {
      api
        .post('/api/lists/contributors/preview', body)
        .then((found) => (told = found))
        .catch(() => (told = null));
    }, 250);
    return () => clearTimeout(timer);
  });

  async function save(): Promise<void> {
    const done = await act(id ? 'Contributor changed' : 'Put on the list', () =>
      id
        ? api.patch(`/api/lists/contributors/${id}`, { entry: wish, seen, follow })
        : api.post('/api/lists/contributors', { entry: wish, follow }),
    );
    if (done) onclose();
  }
  async function drop(): Promise<void> {
    const done = await act('Taken off the list', () => api.delete(`/api/lists/contributors/${id}`));
    if (done) onclose();
  }
</script>

<Dialog title={id ? seen.name : 'Someone who is credited'} wide {onclose}>
  <div class="form">
    <label
      ><span class="label">Name</span><input
        class="field"
        bind:value={entry.name}
        maxlength="500"
      /></label
    >
    <label
      ><span class="label">Is</span>
      <select class="field" bind:value={entry.kind}>
        <option value="person">a person</option>
        <option value="agency">an agency</option>
      </select></label
    >
    <label class="all"
      ><span class="label"
        >Other spellings, parted by semicolons: records that say them say the name</span
      ><input class="field" bind:value={also} maxlength="5000" /></label
    >
    {#each LINES as [key, label] (key)}
      <label class:all={key === 'usageTerms'}
        ><span class="label">{label}</span><input
          class="field"
          bind:value={entry[key]}
          maxlength="2000"
        /></label
      >
    {/each}
    <label class="all"
      ><span class="label">Note</span><textarea class="field" rows="2" bind:value={entry.note}
      ></textarea></label
    >
    {#if id}<label class="check"
        ><input type="checkbox" bind:checked={entry.retired} /> Retired: not offered any more</label
      >{/if}
  </div>
  {#if clash}<p class="wrong" role="alert">{clash}</p>{/if}
  {#if told && told.items > 0}
    <label class="check follows"
      ><input type="checkbox" bind:checked={follow} />
      <span
        >{counted(told.items, 'record')} and their files follow: {told.fields
          .map(({ field, changed }) => `${FIELDS[field].label.toLowerCase()} of ${changed}`)
          .join(', ')}</span
      ></label
    >
  {/if}
  {#snippet foot()}
    <button
      class="button act"
      type="button"
      disabled={wish.name === '' || clash !== ''}
      onclick={() => void save()}>{id ? 'Save' : 'Put on the list'}</button
    >
    {#if id}<button class="button" type="button" onclick={() => void drop()}
        >Take off the list</button
      >{/if}
    <span class="pencil">What was written by hand otherwise stays.</span>
  {/snippet}
</Dialog>

<style>
  .form {
    display: grid;
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
    gap: 12px 16px;
  }
  .all {
    grid-column: 1 / -1;
  }
  .check {
    display: flex;
    gap: 8px;
    align-items: center;
  }
  .follows {
    margin-top: 14px;
    padding: 8px 10px;
    border: 1px solid var(--rule);
    background: var(--paper);
  }
</style>
