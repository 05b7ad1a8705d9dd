<script lang="ts">
  import type { Picked } from '#core/query/picked';
  import { api } from '../common/api';
  import Dialog from '../common/Dialog.svelte';

  interface Props {
    /** Collection to show, or items that become one. */
    collection?: { id: string; name: string } | undefined;
    ids?: Picked;
    onclose: () => void;
    ondone?: () => void;
  }
  const { collection, ids = [], onclose, ondone }: Props = $props();
  const DAY_MS = 86_400_000;
  const inDays = (days: number): string =>
    new Date(Date.now() + days * DAY_MS).toISOString().slice(0, 10);
  // svelte-ignore state_referenced_locally
  let title = $state(collection?.name ?? '');
  let greeting = $state('');
  let until = $state(inDays(14));
  let original = $state(false);
  let web = $state(true);
  let link = $state('');
  let wrong = $state('');
  let copied = $state(false);

  async function open(): Promise<void> {
    wrong = '';
    try {
      const collectionId =
        collection?.id ?? (await api.post('/api/collections', { name: title, itemIds: ids })).id;
      const sizes = [...(original ? ['original' as const] : []), ...(web ? ['2048' as const] : [])];
      const expiresAt = new Date(`${until}T23:59:59`).toISOString();
      const { token } = await api.post('/api/rooms', {
        collectionId,
        title,
        greeting,
        expiresAt,
        sizes,
      });
      link = `${location.origin}/r/${token}`;
      ondone?.();
    } catch (error) {
      wrong = (error as Error).message;
    }
  }
  async function copy(): Promise<void> {
    await navigator.clipboard.writeText(link).then(
      () => (copied = true),
      () => (wrong = 'The browser does not let us copy; select the link and copy it.'),
    );
  }
</script>

<Dialog title={link ? 'The reading room is open' : 'Open a reading room'} {onclose}>
  {#if link}
    <p>Send this link. It is shown only now; the archive keeps no copy of it.</p>
    <input
      class="field mono"
      readonly
      value={link}
      aria-label="Link of the reading room"
      onfocus={(event) => event.currentTarget.select()}
    />
    {#if wrong}<p class="wrong" role="alert">{wrong}</p>{/if}
    <p class="acts">
      <button class="button act" type="button" onclick={() => void copy()}
        >{copied ? 'Copied' : 'Copy the link'}</button
      >
      <a class="button" href={link} target="_blank" rel="noreferrer">See it as a guest</a>
    </p>
  {:else}
    <form onsubmit={(event) => (event.preventDefault(), void open())}>
      <label
        ><span class="label">Title, as guests see it</span><input
          class="field"
          bind:value={title}
          required
          maxlength="200"
        /></label
      >
      <label
        ><span class="label">A few words to them</span><textarea
          class="field"
          rows="3"
          bind:value={greeting}
          maxlength="2000"></textarea></label
      >
      <label
        ><span class="label">Open until the end of</span><input
          class="field date"
          type="date"
          bind:value={until}
          min={inDays(0)}
          required
        /></label
      >
      <fieldset>
        <legend class="label">Guests may take away</legend>
        <p class="pencil">
          Without either they see pictures of 1200 px and play proxies of clips and sounds.
        </p>
        <label><input type="checkbox" bind:checked={web} /> pictures of 2048 px</label>
        <label><input type="checkbox" bind:checked={original} /> originals</label>
      </fieldset>
      {#if wrong}<p class="wrong" role="alert">{wrong}</p>{/if}
      <button class="button act" type="submit">Open it</button>
    </form>
  {/if}
</Dialog>

<style>
  form {
    display: grid;
    gap: 14px;
  }
  form .button {
    justify-self: start;
  }
  fieldset {
    display: grid;
    gap: 4px;
    margin: 0;
    border: 0;
    padding: 0;
  }
  .date {
    width: 180px;
  }
  .acts {
    display: flex;
    gap: 8px;
    margin-top: 16px;
  }
  p {
    margin-bottom: 8px;
  }
</style>
