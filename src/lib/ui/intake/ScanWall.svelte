<script lang="ts">
  import { counted, formatBytes, formatCount } from '#core/text/quantities';
  import { dayHeading } from '../wall/dates';
  import VirtualWall from '../wall/VirtualWall.svelte';
  import type { Scan, ScanFile } from './types';

  interface Props {
    scan: Scan;
    name: string;
    /** Choices made by hand, by position: in or out. */
    left: Record<number, boolean>;
    chosen: number;
    onleft: (next: Record<number, boolean>) => void;
  }
  const { scan, name, left, chosen, onleft }: Props = $props();
  let focus = $state(-1);
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
  const held = $derived(files.filter((file) => file.held !== null).length);
  const looked = $derived(files.filter((file) => file.lookedAt).length);
  const isIn = (file: ScanFile): boolean => left[file.position] ?? file.held === null;

  const set = (list: ScanFile[], value: boolean): void =>
    onleft({ ...left, ...Object.fromEntries(list.map(({ position }) => [position, value])) });
  const onlyNew = (): void =>
    onleft(Object.fromEntries(files.map((file) => [file.position, file.held === null])));

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
    if (event.key !== ' ' || focus < 0) return;
    event.preventDefault();
    toggle(focus, event.shiftKey);
  }
  const ofDay = (group: number): ScanFile[] =>
    files.slice(groups[group]!.first, groups[group]!.first + groups[group]!.count);
</script>

<section class="scan" aria-label="Files of {name}">
  <header>
    <h1>{name}</h1>
    <p>
      <span><strong>{formatCount(chosen)} chosen</strong> of {formatCount(files.length)}</span>
      {#if held}<span class="pencil">{formatCount(held)} already held</span>{/if}
      {#if scan.state !== 'done'}<span class="looking" aria-live="polite"
          >{looked} of {files.length} looked at</span
        >{/if}
      <span class="acts">
        Choose <button class="link" type="button" onclick={() => set(files, true)}>all</button> ·
        <button class="link" type="button" onclick={() => set(files, false)}>none</button>
        ·
        <button class="link" type="button" onclick={onlyNew}>only new</button>
      </span>
    </p>
  </header>
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
          {#if file.lookedAt && !file.problem}<img
              src="/api/intake/scans/{scan.id}/{file.position}"
              alt=""
              loading="lazy"
              draggable="false"
            />
          {:else}<p>{file.problem ?? 'looking …'}</p>{/if}
          <i class="tick" class:on={inside} aria-hidden="true">{inside ? '✓' : ''}</i>
          {#if file.held}<span class="held">already held as <b class="mono">{file.held}</b></span
            >{/if}
        </div>
        <span class="mono name" title="{file.path} · {formatBytes(file.size)}"
          >{file.path.split('/').at(-1)}</span
        >
      </div>
    {/snippet}
  </VirtualWall>
</section>

<style>
  .scan {
    display: grid;
    grid-template-rows: auto minmax(0, 1fr);
    min-width: 0;
    min-height: 0;
    background: var(--well);
  }
  header {
    padding: 10px 14px 4px;
  }
  header p {
    display: flex;
    gap: 16px;
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
