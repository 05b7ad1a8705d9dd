<script lang="ts">
  import { counted, formatBytes } from '#core/text/quantities';
  import Dialog from '../common/Dialog.svelte';
  import { sayWrong } from '../common/notices.svelte';
  import { fromDrop, fromInput, type Gathered } from './gather';
  import { brokenUpload, uploads } from './queue.svelte';

  interface Props {
    onlook: (parcel: string) => void;
    onclose: () => void;
  }
  const { onlook, onclose }: Props = $props();
  let over = $state(false);
  let busy = $state(false);
  const broken = brokenUpload();
  const SHOWN = 60;
  const named = $derived(uploads.list.filter(({ held }) => held !== null));
  const failed = $derived(uploads.list.filter(({ state }) => state === 'failed'));
  const share = $derived(uploads.total ? Math.round((100 * uploads.sent) / uploads.total) : 0);

  async function take(gathered: Promise<Gathered[]> | Gathered[]): Promise<void> {
    busy = true;
    try {
      const files = await gathered;
      if (files.length === 0) return;
      const folder = files[0]!.path.includes('/') ? files[0]!.path.split('/')[0]! : '';
      await uploads.prepare(files, folder || counted(files.length, 'file'));
      if (uploads.list.every(({ held }) => held === null)) uploads.start();
    } catch (error) {
      sayWrong(error);
    } finally {
      busy = false;
    }
  }
  function drop(event: DragEvent): void {
    event.preventDefault();
    over = false;
    if (event.dataTransfer) void take(fromDrop(event.dataTransfer));
  }
  function wishAll(wish: 'version' | 'both' | 'skip'): void {
    for (const one of uploads.list) if (one.held) one.wish = wish;
  }
</script>

<Dialog title="From this computer" wide {onclose}>
  {#if uploads.list.length === 0}
    {#if broken}<p class="caution">
        “{broken.title}” broke off. Choose the same files again: what has arrived is not sent twice.
      </p>{/if}
    <!-- The two fields below do the same by the keyboard. -->
    <div
      class="drop"
      class:over
      role="group"
      aria-label="Drop files or folders here"
      ondragover={(event) => (event.preventDefault(), (over = true))}
      ondragleave={() => (over = false)}
      ondrop={drop}
    >
      <p>Drop files or whole folders here</p>
      <p class="choose">
        <label class="button"
          >Choose files<input
            class="unseen"
            type="file"
            multiple
            disabled={busy}
            aria-label="Choose files"
            onchange={(event) => void take(fromInput(event.currentTarget.files!))}
          /></label
        >
        <label class="button"
          >Choose a folder<input
            class="unseen"
            type="file"
            webkitdirectory
            disabled={busy}
            aria-label="Choose a folder"
            onchange={(event) => void take(fromInput(event.currentTarget.files!))}
          /></label
        >
      </p>
      <p class="pencil">Broken off, it goes on where it stopped; also tomorrow.</p>
    </div>
  {:else}
    <p aria-live="polite">
      {counted(uploads.list.length, 'file')}, {formatBytes(uploads.total)}{uploads.started
        ? `: ${share} % sent`
        : ''}
    </p>
    <progress max="100" value={share} aria-label="Sent"></progress>
    {#if named.length && !uploads.started}
      <p class="caution">
        {counted(named.length, 'file')} of these names {named.length === 1 ? 'is' : 'are'} held already.
        For all:
        <button class="link" type="button" onclick={() => wishAll('version')}
          >replace as new versions</button
        >
        · <button class="link" type="button" onclick={() => wishAll('both')}>keep both</button> ·
        <button class="link" type="button" onclick={() => wishAll('skip')}>skip</button>
      </p>
    {/if}
    <ul>
      {#each uploads.list.slice(0, SHOWN) as one (one.path)}
        <li>
          <span class="mono">{one.path}</span>
          {#if one.held && !uploads.started}
            <select class="field" aria-label="What becomes of {one.path}" bind:value={one.wish}>
              <option value="version">replace {one.held.number} as new version</option>
              <option value="both">keep both</option>
              <option value="skip">skip{one.held.sameSize ? ': same name and size' : ''}</option>
            </select>
          {:else}
            <span class="mono pencil" class:wrong={one.state === 'failed'}
              >{one.state === 'sending'
                ? `${formatBytes(one.sent)} of ${formatBytes(one.file.size)}`
                : one.state === 'failed'
                  ? one.reason
                  : one.state === 'done'
                    ? 'arrived'
                    : one.state}</span
            >
          {/if}
        </li>
      {/each}
      {#if uploads.list.length > SHOWN}<li class="pencil">
          and {uploads.list.length - SHOWN} more
        </li>{/if}
    </ul>
  {/if}
  {#snippet foot()}
    {#if uploads.list.length}
      {#if !uploads.started}<button class="button act" type="button" onclick={() => uploads.start()}
          >Send them</button
        >
      {:else if uploads.busy}
        {#if uploads.paused}<button class="button" type="button" onclick={() => uploads.retry()}
            >Go on</button
          >{:else}<button class="button" type="button" onclick={() => uploads.pause()}>Pause</button
          >{/if}
      {:else}
        <button
          class="button act"
          type="button"
          disabled={!uploads.ready}
          onclick={() => onlook(uploads.parcel)}>Look through them</button
        >
      {/if}
      {#if failed.length}<button class="button" type="button" onclick={() => uploads.retry()}
          >Try {failed.length} again</button
        >{/if}
      <button class="link" type="button" onclick={() => uploads.forget()}>Begin anew</button>
    {/if}
  {/snippet}
</Dialog>

<style>
  .drop {
    display: grid;
    gap: 10px;
    justify-items: center;
    padding: 48px 20px;
    border: 1px dashed var(--pencil);
    border-radius: 5px;
    font: 16.5px var(--book);
  }
  .over {
    background: var(--wash);
    border-color: var(--verdigris);
  }
  .choose {
    display: flex;
    gap: 8px;
  }
  label:focus-within {
    outline: 2px solid var(--ink);
    outline-offset: 1px;
  }
  progress {
    width: 100%;
    accent-color: var(--verdigris);
  }
  li {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto;
    gap: 10px;
    padding: 3px 0;
    border-top: 1px solid var(--rule);
    overflow-wrap: anywhere;
  }
</style>
