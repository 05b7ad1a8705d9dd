<script lang="ts">
  import { formatName } from '#core/kinds/kinds';
  import { fieldWords } from '#core/records/takeOver';
  import { formatBytes } from '#core/text/quantities';
  import { nearest, type Decisions } from './choice';
  import type { Scan, ScanFile } from './types';

  interface Props {
    scan: Scan;
    file: ScanFile;
    inside: boolean;
    decision: Decisions[number] | undefined;
    /** Leave out, bring in, or bring in as a version of what is held. */
    ondecide: (decision: 'skip' | Decisions[number]) => void;
    /** Its folder, where that can become one item; empty where not. */
    folder: string;
    onbundle: () => void;
    onpeek: () => void;
  }
  const { scan, file, inside, decision, folder, ondecide, onbundle, onpeek }: Props = $props();
  const near = $derived(nearest(file));
  const others = $derived([
    ...(file.held
      ? [
          {
            key: file.held,
            words: file.heldDiffers.length
              ? `same picture as ${file.held}, which says other ${fieldWords(file.heldDiffers)}`
              : `held as ${file.held}`,
            position: null,
          },
        ]
      : []),
    ...file.alike.slice(0, 4).map((one) => ({
      key: `${one.number ?? one.position}`,
      words: `${one.kind === 'twin' ? 'the same as' : 'like'} ${
        one.number ??
        scan.files
          .find(({ position }) => position === one.position)
          ?.path.split('/')
          .at(-1)
      }`,
      position: one.position,
    })),
  ]);
  const isVersion = $derived(typeof decision === 'object');
  const describes = $derived(decision === 'describe');
</script>

<div class="bar" role="group" aria-label="About {file.path.split('/').at(-1)}">
  <button class="picture" type="button" aria-label="Peek" onclick={onpeek}>
    <img src="/api/intake/scans/{scan.id}/{file.position}" alt="" />
  </button>
  <p>
    <span class="mono">{file.path.split('/').at(-1)}</span>
    <span class="pencil">{formatName(file.format)} · {formatBytes(file.size)} · {file.camera}</span>
    {#if others.length}<span class="pencil">{others.map(({ words }) => words).join(' · ')}</span
      >{:else}<span class="pencil">like nothing that is held</span>{/if}
  </p>
  {#each others.filter(({ position }) => position !== null).slice(0, 2) as other (other.key)}
    <img class="other" src="/api/intake/scans/{scan.id}/{other.position}" alt={other.words} />
  {/each}
  <span class="acts">
    {#if folder}<button class="button" type="button" onclick={onbundle}
        >{folder.split('/').at(-1)} as one item</button
      >{/if}
    <button class="button" type="button" aria-pressed={!inside} onclick={() => ondecide('skip')}
      >Skip</button
    >
    <button
      class="button"
      type="button"
      aria-pressed={inside && !isVersion && !describes}
      onclick={() => ondecide('again')}>Bring in</button
    >
    {#if file.heldDiffers.length}<button
        class="button"
        type="button"
        aria-pressed={inside && describes}
        title="{file.held} takes over {fieldWords(file.heldDiffers)}; the file itself is left out"
        onclick={() => ondecide('describe')}>Take over its description</button
      >{/if}
    {#if near}<button
        class="button"
        type="button"
        aria-pressed={inside && isVersion}
        onclick={() => ondecide({ versionOf: near!.itemId })}>As a version of {near.number}</button
      >{/if}
  </span>
</div>

<style>
  .bar {
    display: flex;
    gap: 10px;
    align-items: center;
    padding: 6px 14px;
    border-top: 1px solid var(--ink);
    background: var(--card);
  }
  .picture {
    padding: 0;
    border: 0;
    background: none;
    line-height: 0;
  }
  img {
    height: 52px;
    max-width: 84px;
    object-fit: contain;
    background: var(--well);
  }
  p {
    display: grid;
    flex: 1;
    min-width: 0;
    overflow: hidden;
    white-space: nowrap;
    text-overflow: ellipsis;
  }
  .acts {
    display: flex;
    flex-wrap: wrap;
    gap: 4px;
    justify-content: flex-end;
  }
  button[aria-pressed='true'] {
    background: var(--wash);
    border-color: var(--verdigris);
  }
</style>
