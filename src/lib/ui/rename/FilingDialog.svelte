<script lang="ts">
  import type { FolderNode } from '#core/catalogue/tile';
  import { MISSING_RULES, type FilingPreview, type MissingRule } from '#core/naming/filing';
  import { CLASH_RULES, type ClashRule } from '#core/naming/rename';
  import { CLASH_WORDS } from '#core/naming/words';
  import { filedLast, type FilingChoices } from '#core/naming/wish';
  import type { Picked } from '#core/query/picked';
  import { counted, formatBytes } from '#core/text/quantities';
  import { api } from '../common/api';
  import type { BodyOf } from '../common/wire';
  import Dialog from '../common/Dialog.svelte';
  import { sayWrong } from '../common/notices.svelte';
  import { Previewed } from '../common/previewed.svelte';
  import FilingResult from './FilingResult.svelte';
  import KeptPatterns from './KeptPatterns.svelte';
  import { sayUndoable } from '../common/undoing';
  import PatternField from './PatternField.svelte';
  import SharedWarning from './SharedWarning.svelte';

  interface Props {
    ids: Picked;
    count: number;
    remembered: Partial<FilingChoices>;
    onclose: () => void;
  }
  const { ids, count, remembered, onclose }: Props = $props();
  // svelte-ignore state_referenced_locally
  const last: Partial<FilingChoices> = remembered;
  let pattern = $state(last.pattern ?? '{taken yyyy}/{taken MM}');
  let missing = $state<MissingRule>(last.missing ?? 'fallback');
  let fallback = $state(last.fallback ?? 'undated');
  let clash = $state<ClashRule>(last.clash ?? 'refuse');
  let removeEmptied = $state(last.removeEmptied ?? true);
  let copies = $state(false);
  /** Id of a place; empty: each in its own. */
  let placeId = $state('');
  let path = $state('');
  let renames = $state(false);
  let naming = $state('{taken yyyyMMdd}-{counter 0001 by folder}');
  let nodes = $state.raw<FolderNode[]>([]);
  const places = $derived(nodes.filter(({ parentId }) => parentId === null));
  /** Folders offered for what is typed: nobody reads more. */
  const MOST_OFFERED = 200;
  const folders = $derived(
    nodes
      .filter((one) => one.placeId === placeId && one.path !== '')
      .filter((one) => one.path.toLowerCase().includes(path.trim().toLowerCase()))
      .slice(0, MOST_OFFERED),
  );
  $effect(() => {
    api
      .get('/api/catalogue/folders')
      .then((all) => (nodes = all))
      .catch(sayWrong);
  });

  const wish = $derived<FilingChoices>({
    copies,
    pattern,
    missing,
    fallback: fallback.trim(),
    clash,
    removeEmptied,
    into: placeId === '' ? null : { placeId, path: path.replace(/^\/+|\/+$/g, '').trim() },
    ...(renames ? { naming: { pattern: naming, extension: 'keep' as const } } : {}),
  });
  const seen = new Previewed<BodyOf<'POST', '/api/filing/preview'>, FilingPreview>(
    (asked) => api.post('/api/filing/preview', asked),
    () => ({
      ...wish,
      itemIds: ids,
    }),
  );
  const told = $derived('tree' in seen.told ? seen.told : null);
  const MISSING_WORDS: Record<MissingRule, string> = {
    fallback: 'they go into a folder called',
    known: 'they go as deep as is known',
    leave: 'they stay where they are',
  };

  async function file(): Promise<void> {
    const isDone = await seen.act(async (fingerprint) => {
      const { operation } = await api.post('/api/filing', {
        ...wish,
        itemIds: ids,
        fingerprint,
      });
      sayUndoable(`${copies ? 'Copying' : 'Filing'} ${counted(told!.changed, 'item')}.`, operation);
    });
    if (!isDone) return;
    void api.put('/api/remembered/filing-plan', {
      pattern,
      missing,
      fallback,
      clash,
      removeEmptied,
    });
    onclose();
  }
  function take(kept: Record<string, unknown>): void {
    ({ pattern = pattern, missing = missing, fallback = fallback } = filedLast(kept));
  }
</script>

<Dialog title="{copies ? 'Copy' : 'File'} {counted(count, 'item')}" wide {onclose}>
  <ol>
    <li class="says">
      <select
        class="choice"
        aria-label="Whether files are moved or copied"
        value={copies ? 'copied' : 'moved'}
        onchange={(event) => (copies = event.currentTarget.value === 'copied')}
        ><option value="moved">Files are moved</option><option value="copied"
          >Files stay, copies are laid</option
        ></select
      >, beginning at
      <select class="choice" aria-label="Where it begins" bind:value={placeId}>
        <option value="">the top of the place each lies in</option>
        {#each places as place (place.id)}<option value={place.placeId}>{place.name}</option>{/each}
      </select>{#if placeId !== ''}, in the folder <input
          class="field mono"
          aria-label="Folder of that place"
          bind:value={path}
          list="folders-to-file"
          placeholder="its top"
        />
        <datalist id="folders-to-file"
          >{#each folders as one (one.id)}<option value={one.path}></option>{/each}</datalist
        >{/if}
      <KeptPatterns purpose="filing" {pattern} choices={{ missing, fallback }} ontake={take} />
    </li>
    <li>
      <PatternField
        value={pattern}
        label="Filing pattern"
        folders
        onchange={(value) => (pattern = value)}
      />
    </li>
    <li class="says">
      Where a part is not known, <select
        class="choice"
        aria-label="Where a part is missing"
        bind:value={missing}
        >{#each MISSING_RULES as rule (rule)}<option value={rule}>{MISSING_WORDS[rule]}</option
          >{/each}</select
      >{#if missing === 'fallback'}&nbsp;<input
          class="field mono short"
          aria-label="Folder for what is not known"
          bind:value={fallback}
        />{/if}; where two would have one name,
      <select class="choice" aria-label="Where two would have one name" bind:value={clash}
        >{#each CLASH_RULES as rule (rule)}<option value={rule}>{CLASH_WORDS[rule]}</option
          >{/each}</select
      >{#if !copies}; folders left empty are
        <select
          class="choice"
          aria-label="Folders left empty"
          value={removeEmptied ? 'removed' : 'kept'}
          onchange={(event) => (removeEmptied = event.currentTarget.value === 'removed')}
          ><option>removed</option><option>kept</option></select
        >{/if}.
      <label class="names"
        ><input type="checkbox" bind:checked={renames} /> and give {copies ? 'the copies' : 'them'} new
        names</label
      >
    </li>
    {#if renames}<li>
        <PatternField value={naming} label="Name pattern" onchange={(value) => (naming = value)} />
      </li>{/if}
  </ol>
  <SharedWarning places={told?.shared ?? []} />
  {#if seen.wrong}<p class="wrong" role="alert">{seen.wrong}</p>{/if}
  {#if told}<FilingResult {told} {removeEmptied} />{/if}
  {#snippet foot()}
    <button
      class="button act"
      type="button"
      disabled={!seen.ready || (told?.problems ?? 0) > 0 || (told?.bytes ?? 0) > (told?.free ?? 0)}
      onclick={() => void file()}
    >
      {copies ? 'Copy' : 'File'}
      {counted(told?.changed ?? 0, 'item')}
    </button>
    <span aria-live="polite">
      {#if told && told.problems > 0}<span class="wrong"
          >{counted(told.problems, 'name')} cannot be given as they are.</span
        >
      {:else if told && told.changed === 0}<span class="pencil"
          >{copies
            ? 'Copies of all of them lie there.'
            : 'All of them lie where they belong.'}</span
        >
      {:else if copies && told}<span class={told.bytes > told.free ? 'wrong' : 'pencil'}
          >The copies take {formatBytes(told.bytes)}; {formatBytes(told.free)} are free there. Undo takes
          them away again.</span
        >
      {:else}<span class="pencil">The ledger keeps where they lay; Undo takes them back.</span>{/if}
    </span>
  {/snippet}
</Dialog>

<style>
  ol {
    display: grid;
    gap: 8px;
  }
  .says {
    font: 15px/1.9 var(--book);
  }
  select {
    max-width: 260px;
    font: inherit;
  }
  .says :global(.kept) {
    float: right;
    font: 13px/1.9 var(--plain);
  }
  .field {
    display: inline-block;
    width: 220px;
    padding: 2px 6px;
  }
  .field.short {
    width: 110px;
  }
  .names {
    display: inline-flex;
    gap: 6px;
    align-items: center;
    margin-left: 8px;
    font: 13px/1.9 var(--plain);
  }
</style>
