<script lang="ts">
  import { untrack } from 'svelte';
  import { counted } from '#core/text/quantities';
  import { api } from '../common/api';
  import Dialog from '../common/Dialog.svelte';

  interface Looked {
    path: string;
    folders: string[];
    files: number;
  }
  interface Props {
    onclose: () => void;
    onchoose: (path: string) => void;
  }
  const { onclose, onchoose }: Props = $props();
  let looked = $state<Looked | null>(null);
  let wrong = $state('');
  let typed = $state('');
  let trail = $state<string[]>([]);

  /** Only the last question is answered: an earlier answer may come later. */
  let turn = 0;

  async function look(path: string | null): Promise<void> {
    const mine = ++turn;
    const before = typed;
    wrong = '';
    try {
      const found = await api.get('/api/intake/folders', path ? { path } : {});
      if (mine !== turn) return;
      looked = found;
      // What somebody types meanwhile stays.
      if (typed === before) typed = found.path;
    } catch (error) {
      if (mine === turn) wrong = (error as Error).message;
    }
  }
  $effect(() => untrack(() => void look(null)));

  function into(path: string): void {
    trail = [...trail, looked?.path ?? ''];
    void look(path);
  }
  function up(): void {
    const to = trail.at(-1) ?? '';
    trail = trail.slice(0, -1);
    void look(to || null);
  }
</script>

<Dialog title="A folder on the server" {onclose}>
  <form onsubmit={(event) => (event.preventDefault(), into(typed))}>
    <input
      class="field mono"
      bind:value={typed}
      aria-label="Path"
      placeholder="/path/to/a/folder"
    />
    <button class="button" type="submit">Look</button>
  </form>
  {#if wrong}<p class="wrong" role="alert">{wrong}</p>{/if}
  {#if looked}
    <ul>
      {#if trail.length}<li><button type="button" onclick={up}>← back</button></li>{/if}
      {#each looked.folders as path (path)}<li>
          <button class="mono" type="button" onclick={() => into(path)}
            >{looked.path ? path.split('/').at(-1) : path}/</button
          >
        </li>{/each}
    </ul>
    {#if looked.path}<p class="pencil">
        {counted(looked.files, 'file')} here, {counted(looked.folders.length, 'folder')} below.
      </p>
    {:else}<p class="pencil">These are the folders that may be brought from.</p>{/if}
  {/if}
  {#snippet foot()}
    <button
      class="button act"
      type="button"
      disabled={!looked?.path}
      onclick={() => onchoose(looked!.path)}>Look through this folder</button
    >
  {/snippet}
</Dialog>

<style>
  form {
    display: flex;
    gap: 8px;
    margin-bottom: 8px;
  }
  ul {
    max-height: 300px;
    margin-bottom: 8px;
    overflow: auto;
  }
  li button {
    width: 100%;
    padding: 3px 6px;
    border: 0;
    background: none;
    text-align: left;
  }
  li button:hover {
    background: var(--wash);
  }
</style>
