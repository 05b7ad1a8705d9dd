<script lang="ts">
  import { secondsBetween } from '#core/records/taken';
  import { counted } from '#core/text/quantities';
  import { formatShift, parseShift, type Draft } from './draft';
  import type { ScanFile } from './types';

  interface Props {
    draft: Draft;
    /** All files of the source. */
    files: ScanFile[];
  }
  let { draft = $bindable(), files }: Props = $props();
  let open = $state(false);
  let wrongAt = $state('');

  interface Camera {
    name: string;
    files: ScanFile[];
  }
  const cameras = $derived.by(() => {
    const found: Camera[] = [];
    for (const file of files) {
      if (file.takenPrecision !== 'moment' || !file.camera) continue;
      const known = found.find(({ name }) => name === file.camera);
      if (known) known.files.push(file);
      else found.push({ name: file.camera, files: [file] });
    }
    return found.sort((a, b) => b.files.length - a.files.length);
  });
  const shifted = $derived(cameras.filter(({ name }) => draft.clocks[name]));
  /** Positions of two pictures of one moment: the one whose clock is right, the one whose clock is not. */
  let right = $state('');
  let wrong = $state('');
  const at = (position: string): ScanFile | undefined =>
    files.find((file) => String(file.position) === position);
  const measured = $derived.by(() => {
    const [from, to] = [at(wrong)?.takenFrom, at(right)?.takenFrom];
    return from && to && at(wrong)!.camera !== at(right)!.camera
      ? secondsBetween({ from }, { from: to })
      : null;
  });

  function set(name: string, text: string): void {
    const shift = text.trim() === '' ? 0 : parseShift(text);
    wrongAt = shift === null ? name : '';
    if (shift !== null) draft.clocks = { ...draft.clocks, [name]: shift };
  }
  const label = (file: ScanFile): string =>
    `${file.path.split('/').at(-1)} · ${file.takenFrom?.slice(0, 19).replace('T', ' ')}`;
</script>

<p>
  Clocks:
  <button class="link" type="button" aria-expanded={open} onclick={() => (open = !open)}
    >{shifted.length
      ? shifted.map(({ name }) => `${name} ${formatShift(draft.clocks[name]!)}`).join(', ')
      : 'as the cameras told them'}</button
  >
</p>
{#if open}
  {#each cameras as { name, files: own } (name)}
    {@const shift = draft.clocks[name] ?? 0}
    <div class="camera">
      <span>{name} <span class="pencil">{counted(own.length, 'file')}</span></span>
      <input
        class="field mono"
        aria-label="Clock of {name}, hours:minutes:seconds"
        placeholder="+0:00:00"
        value={shift ? formatShift(shift) : ''}
        onchange={(event) => set(name, event.currentTarget.value)}
      />
      {#if shift}<span class="mono pencil shown"
          >{own[0]!.takenFrom?.slice(11, 19)} → {new Date(
            Date.parse(`${own[0]!.takenFrom}Z`) + shift * 1000,
          )
            .toISOString()
            .slice(0, 19)
            .replace('T', ' ')}</span
        >{/if}
    </div>
    {#if wrongAt === name}<p class="wrong" role="alert">Write +1:03:00 or -0:00:12.</p>{/if}
  {:else}<p class="pencil small">No file tells a camera and a moment.</p>{/each}
  {#if cameras.length > 1}
    <div class="same">
      <span class="pencil">Or choose one picture from each of two cameras, of the same moment:</span
      >
      <select class="field" aria-label="Picture whose clock is right" bind:value={right}>
        <option value="">clock is right …</option>
        {#each cameras as camera (camera.name)}<optgroup label={camera.name}>
            {#each camera.files as file (file.position)}<option value={String(file.position)}
                >{label(file)}</option
              >{/each}
          </optgroup>{/each}
      </select>
      <select class="field" aria-label="Picture whose clock is wrong" bind:value={wrong}>
        <option value="">clock is wrong …</option>
        {#each cameras as camera (camera.name)}<optgroup label={camera.name}>
            {#each camera.files as file (file.position)}<option value={String(file.position)}
                >{label(file)}</option
              >{/each}
          </optgroup>{/each}
      </select>
      {#if measured !== null}<button
          class="button"
          type="button"
          onclick={() => set(at(wrong)!.camera, formatShift(measured!))}
          >Shift {at(wrong)!.camera} by {formatShift(measured)}</button
        >{/if}
    </div>
  {/if}
{/if}

<style>
  p {
    font: 16.5px/1.35 var(--book);
  }
  .small {
    font: 13px var(--plain);
  }
  .camera {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 104px;
    gap: 2px 8px;
    align-items: center;
    margin-top: 6px;
  }
  .shown {
    grid-column: 1 / -1;
  }
  .same {
    display: grid;
    gap: 4px;
    margin-top: 10px;
  }
</style>
