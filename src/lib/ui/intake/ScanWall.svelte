<script lang="ts">
  import { formatName } from '#core/kinds/kinds';
  import { counted, formatBytes, formatCount } from '#core/text/quantities';
  import Dialog from '../common/Dialog.svelte';
  import { liesBelow, suggestBundles } from '#core/intake/bundles';
  import { dayHeading } from '../wall/dates';
  import VirtualWall from '../wall/VirtualWall.svelte';
  import AlikeBar from './AlikeBar.svelte';
  import { countsOf, give, isNew, ownerOf, remark, type Decisions, type Owners } from './choice';
  import type { Scan, ScanFile } from './types';

  interface Props {
    scan: Scan;
    name: string;
    owners: Owners;
    decisions: Decisions;
    /** Folders that come in as one item each. */
    bundles: string[];
    onbundles: (next: string[]) => void;
    /** The group that takes what is chosen now. */
    group: number;
    chosen: number;
    onowners: (next: Owners) => void;
    ondecisions: (next: Decisions) => void;
  }
  const {
    scan,
    name,
    owners,
    decisions,
    bundles,
    onbundles,
    group,
    chosen,
    onowners,
    ondecisions,
  }: Props = $props();
  let focus = $state(-1);
  let peeks = $state(false);
  let anchor = -1;
  const files = $derived(scan.files);
  const groups = $derived.by(() => {
    const found: { day: string; count: number; first: number }[] = [];
    files.forEach((file, index) => {
      const day = file.takenFrom?.slice(0, 10) ?? '';
      if (found.at(-1)?.day === day) found.at(-1)!.count += 1;
      else found.push({ day, count: 1, first: index });
    });
    return found;
  });
  const aspects = $derived(files.map((file) => Math.round(file.aspect * 100)));
  const counts = $derived(countsOf(files));
  const suggested = $derived(
    suggestBundles(files.map(({ path }) => path)).filter(({ folder }) => !bundles.includes(folder)),
  );
  const bundleOf = (file: ScanFile): string | undefined =>
    bundles.find((folder) => liesBelow(file.path, folder));
  const folderOf = (file: ScanFile): string => file.path.split('/').slice(0, -1).join('/');
  const focused = $derived(focus >= 0 ? files[focus] : undefined);
  const isIn = (file: ScanFile): boolean => ownerOf(file, owners) === group;

  const set = (list: ScanFile[], value: boolean): void =>
    onowners(give(owners, list, value ? group : null));
  const onlyNew = (): void =>
    onowners(
      give(
        give(owners, files.filter(isIn), null),
        files.filter((file) => isNew(file) && (ownerOf(file, owners) ?? group) === group),
        group,
      ),
    );
  /** What all lookalikes and held files of the source are to become. */
  function settleAll(what: 'skip' | 'again' | 'version' | 'describe'): void {
    if (what === 'describe') {
      const differ = files.filter(({ heldDiffers }) => heldDiffers.length > 0);
      set(differ, true);
      const wished = differ.map(({ position }) => [position, 'describe'] as const);
      return ondecisions({ ...decisions, ...Object.fromEntries(wished) });
    }
    const alike = files.filter((file) => file.held || file.alike.some(({ itemId }) => itemId));
    onowners(give(owners, alike, what === 'skip' ? null : group));
    ondecisions({
      ...decisions,
      ...Object.fromEntries(
        alike.map((file) => [
          file.position,
          what === 'version'
            ? { versionOf: file.heldItemId ?? file.alike.find(({ itemId }) => itemId)!.itemId! }
            : 'again',
        ]),
      ),
    });
  }
  function decide(file: ScanFile, decision: 'skip' | Decisions[number]): void {
    set([file], decision !== 'skip');
    if (decision !== 'skip') ondecisions({ ...decisions, [file.position]: decision });
  }

  const wished = (decision: Decisions[number] | undefined): string =>
    typeof decision === 'object'
      ? ', as a version'
      : decision === 'describe'
        ? ': to be taken over'
        : '';

  function toggle(index: number, range: boolean): void {
    const file = files[index]!;
    const value = !isIn(file);
    set(
      range && anchor >= 0
        ? files.slice(Math.min(anchor, index), Math.max(anchor, index) + 1)
        : [file],
      value,
    );
    anchor = index;
    focus = index;
  }
  function keys(event: KeyboardEvent): void {
    if (focus < 0) return;
    if (event.key === ' ') toggle(focus, event.shiftKey);
    else if (event.key === 'Enter') peeks = true;
    else return;
    event.preventDefault();
  }
  const ofDay = (at: number): ScanFile[] =>
    files.slice(groups[at]!.first, groups[at]!.first + groups[at]!.count);
</script>

<section class="scan" aria-label="Files of {name}">
  <header>
    <h1>{name}</h1>
    <p>
      <span><strong>{formatCount(chosen)} chosen</strong> of {formatCount(files.length)}</span>
      {#if counts.held}<span class="pencil">{formatCount(counts.held)} already held</span>{/if}
      {#if counts.twins}<span class="pencil">{counted(counts.twins, 'twin')}</span>{/if}
      {#if counts.alike}<span class="pencil">{counted(counts.alike, 'lookalike')}</span>{/if}
      {#if scan.state !== 'done'}<span class="looking" aria-live="polite"
          >{counts.looked} of {files.length} looked at</span
        >{/if}
      <span class="acts">
        Choose <button class="link" type="button" onclick={() => set(files, true)}>all</button> ·
        <button class="link" type="button" onclick={() => set(files, false)}>none</button>
        ·
        <button class="link" type="button" onclick={onlyNew}>only new</button>
      </span>
      {#if counts.held + counts.alike > 0 && scan.state === 'done'}
        <span class="alike"
          >Held and alike: <button class="link" type="button" onclick={() => settleAll('skip')}
            >skip</button
          >
          · <button class="link" type="button" onclick={() => settleAll('again')}>bring in</button>
          ·
          <button class="link" type="button" onclick={() => settleAll('version')}
            >as versions</button
          >{#if counts.differ}
            · <button class="link" type="button" onclick={() => settleAll('describe')}
              >take over {counted(counts.differ, 'description')}</button
            >{/if}</span
        >
      {/if}
    </p>
  </header>
  {#if suggested.length || bundles.length}
    <p class="bundles">
      {#each suggested as { folder, reason } (folder)}
        <span
          ><span class="mono">{folder}</span> looks like one item ({reason}):
          <button class="link" type="button" onclick={() => onbundles([...bundles, folder])}
            >bring it in as one</button
          ></span
        >
      {/each}
      {#each bundles as folder (folder)}
        <span
          ><span class="mono">{folder}</span> is one item:
          <button
            class="link"
            type="button"
            onclick={() => onbundles(bundles.filter((other) => other !== folder))}
            >as single files</button
          ></span
        >
      {/each}
    </p>
  {/if}
  <VirtualWall
    bind:focus
    {aspects}
    {groups}
    rowHeight={112}
    label="{counted(files.length, 'file')} of {name}"
    tileId={(index) => `file-${index}`}
    onkeys={keys}
  >
    {#snippet heading(group)}
      <h2>{dayHeading(groups[group]!.day)}</h2>
      <span class="pencil">{counted(groups[group]!.count, 'file')}</span>
      <span class="acts"
        ><button class="link" type="button" onclick={() => set(ofDay(group), true)}>all</button> ·
        <button class="link" type="button" onclick={() => set(ofDay(group), false)}>none</button
        ></span
      >
    {/snippet}
    {#snippet tile(index, width, height)}
      {@const file = files[index]!}
      {@const inside = isIn(file)}
      {@const owner = ownerOf(file, owners)}
      {@const bundle = bundleOf(file)}
      {@const said = bundle ? `in ${bundle.split('/').at(-1)}, one item` : remark(file, files)}
      <!-- svelte-ignore a11y_click_events_have_key_events -->
      <div
        id="file-{index}"
        class="file"
        class:out={!inside}
        class:focused={focus === index}
        role="option"
        tabindex="-1"
        aria-selected={inside}
        onclick={(event) => toggle(index, event.shiftKey)}
      >
        <div class="picture" style="width:{width - 2}px;height:{height}px">
          {#if !file.problem}<img
              src="/api/intake/scans/{scan.id}/{file.position}{file.lookedAt ? '' : '?glance'}"
              alt=""
              loading="lazy"
              draggable="false"
            />
          {:else}<p>{file.problem}</p>{/if}
          <i class="tick" class:on={inside} aria-hidden="true"
            >{inside ? '✓' : owner === null ? '' : owner + 1}</i
          >
          {#if said}<span class="held">{said}{inside ? wished(decisions[file.position]) : ''}</span
            >{/if}
        </div>
        <span class="mono name" title="{file.path} · {formatBytes(file.size)}"
          >{file.path.split('/').at(-1)}</span
        >
      </div>
    {/snippet}
  </VirtualWall>
  {#if focused}<AlikeBar
      {scan}
      file={focused}
      inside={isIn(focused)}
      decision={decisions[focused.position]}
      ondecide={(decision) => decide(focused, decision)}
      folder={bundleOf(focused) === undefined ? folderOf(focused) : ''}
      onbundle={() => onbundles([...bundles, folderOf(focused)])}
      onpeek={() => (peeks = true)}
    />{/if}
</section>

{#if peeks && focused}
  <Dialog title={focused.path.split('/').at(-1) ?? ''} wide onclose={() => (peeks = false)}>
    <img class="peek" src="/api/intake/scans/{scan.id}/{focused.position}" alt="" />
    <p class="pencil">
      {formatName(focused.format)} · {formatBytes(focused.size)}{focused.camera
        ? ` · ${focused.camera}`
        : ''}
      {focused.takenFrom ? ` · ${focused.takenFrom.slice(0, 19).replace('T', ' ')}` : ''}
    </p>
    <p class="mono">{focused.path}</p>
  </Dialog>
{/if}

<style>
  .scan {
    display: grid;
    grid-template-rows: auto auto minmax(0, 1fr) auto;
    min-width: 0;
    min-height: 0;
    background: var(--well);
  }
  header {
    padding: 10px 14px 4px;
  }
  header p {
    display: flex;
    flex-wrap: wrap;
    gap: 0 16px;
  }
  .alike {
    flex-basis: 100%;
  }
  .scan > :global(.wall),
  .scan > :global(:has(> [role='listbox'])) {
    grid-row: 3;
  }
  .bundles {
    display: grid;
    gap: 2px;
    padding: 2px 14px;
  }
  .peek {
    height: auto;
    max-height: 60vh;
    object-fit: contain;
    background: var(--well);
  }
  .acts {
    margin-left: auto;
  }
  h2 {
    font-size: 16.5px;
  }
  .file {
    height: 100%;
    border: 1px solid var(--rule);
    background: var(--card);
    cursor: default;
    user-select: none;
    overflow: hidden;
  }
  .file.focused {
    outline: 2px solid var(--ink);
    outline-offset: 1px;
  }
  .picture {
    position: relative;
    overflow: hidden;
    background: var(--well);
  }
  img {
    display: block;
    width: 100%;
    height: 100%;
    object-fit: cover;
  }
  .out img {
    opacity: 0.38;
  }
  .picture p {
    padding: 30px 10px 0;
    color: var(--pencil);
    font-size: 11.5px;
    text-align: center;
  }
  .tick {
    position: absolute;
    left: 5px;
    top: 5px;
    width: 16px;
    height: 16px;
    border: 1px solid #fdfcf9;
    border-radius: 3px;
    background: rgb(90 98 93 / 0.75);
    color: #fdfcf9;
    font: 700 11px/14px var(--plain);
    text-align: center;
  }
  .tick.on {
    background: #1f6b60;
  }
  .held {
    position: absolute;
    left: 0;
    right: 0;
    bottom: 0;
    padding: 3px 6px;
    background: color-mix(in srgb, var(--card) 88%, transparent);
    color: var(--ochre);
    font-size: 11.5px;
    font-weight: 600;
  }
  .name {
    display: block;
    padding: 5px 6px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
</style>
