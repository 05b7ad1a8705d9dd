<script lang="ts">
  import type { ShownItem } from '#core/wire/shown';
  import { formatName } from '#core/kinds/kinds';
  import { formatExposure } from '#core/records/technical';
  import { counted, formatBytes, formatDuration } from '#core/text/quantities';

  const { shown }: { shown: ShownItem } = $props();
  const fileOf = (wanted: string) => shown.files.find(({ role }) => role === wanted);
  const original = $derived(fileOf('original'));
  const seconds = $derived(shown.files.filter(({ role }) => role === 'second-copy'));
  const sidecar = $derived(fileOf('sidecar'));
  const parts = $derived(shown.files.filter(({ role }) => role === 'part'));
  const technical = $derived.by((): [string, string][] => {
    const t = shown.technical;
    const lines: [string, string | null | undefined | false][] = [
      ['Camera', t.camera],
      ['Lens', t.lens],
      [
        'Exposure',
        [
          t.focalLength && `${+t.focalLength.toFixed(1)} mm`,
          t.aperture && `f/${t.aperture}`,
          t.exposure && formatExposure(t.exposure),
          t.iso && `ISO ${t.iso}`,
        ]
          .filter(Boolean)
          .join(' · '),
      ],
      ['Pixels', shown.width && shown.height ? `${shown.width} × ${shown.height}` : null],
      ['Length', shown.duration ? formatDuration(shown.duration) : null],
      ['Timecode', t.timecode],
      ['Rate', t.frameRate ? `${t.frameRate} fps` : null],
      ['Codecs', [t.videoCodec, t.audioCodec].filter(Boolean).join(', ')],
      ['Colour', t.colourSpace],
      ['File', `${formatName(shown.format)} · ${formatBytes(original?.size ?? 0)}`],
      ['Folder', original ? `${original.place}/${original.folder}` : null],
      ['Came in as', shown.originalName],
      ['Clock said', t.clockSaid?.slice(0, 19).replace('T', ' ')],
      ...seconds.map(({ state, place, folder, name }, at): [string, string] => [
        seconds.length === 1 ? 'Second copy' : `Copy ${at + 2}`,
        `${state === 'missing' ? 'missing: ' : ''}${[place, folder, name].filter(Boolean).join('/')}`,
      ]),
      [
        'Sidecar',
        sidecar && (sidecar.state === 'missing' ? `${sidecar.name} is missing` : sidecar.name),
      ],
      ['Lineage', shown.lineage.map(({ kind, number }) => `${kind} ${number}`).join(', ')],
    ];
    return lines.filter((line): line is [string, string] => Boolean(line[1]));
  });
</script>

{#if shown.collections.length}
  <h3>Collected in</h3>
  <p>{shown.collections.join(', ')}</p>
{/if}
{#if parts.length}
  <h3>{counted(parts.length, 'part')}</h3>
  <ul class="mono">
    {#each parts as part (`${part.folder}/${part.name}`)}<li>
        {part.folder.split('/').at(-1)}/{part.name}
        {#if part.state === 'missing'}<span class="wrong">missing</span>{:else}<span class="pencil"
            >{formatBytes(part.size)}</span
          >{/if}
      </li>{/each}
  </ul>
{/if}
<h3>File</h3>
<dl>
  {#each technical as [name, value] (name)}<dt>{name}</dt>
    <dd>{value}</dd>{/each}
  <dt>Written</dt>
  <dd class:wrong={shown.writing === 'failed'}>
    {#if shown.writing === 'written'}file and record agree{:else if shown.writing === 'differs'}another
      program wrote something else{:else if shown.writing === 'waiting'}waiting to be written{:else}{shown.writeProblem}{/if}
  </dd>
  {#if original?.state === 'missing'}<dt>On disk</dt>
    <dd class="wrong">missing; its record and pictures stay</dd>{/if}
  {#if shown.noPicture}<dt>Picture</dt>
    <dd class="caution">
      {shown.noPicture}
      {#if shown.noPictureDetail}<details>
          <summary>What the tool says</summary>
          <span class="mono">{shown.noPictureDetail}</span>
        </details>{/if}
    </dd>{/if}
</dl>

<style>
  h3 {
    margin: 12px 0 6px;
    padding-top: 12px;
    border-top: 1px solid var(--rule);
    color: var(--pencil);
    font: 600 11.5px var(--plain);
  }
  dt {
    color: var(--pencil);
  }
  dl {
    display: grid;
    grid-template-columns: 86px minmax(0, 1fr);
    gap: 2px 4px;
  }
  dd {
    overflow-wrap: anywhere;
  }
</style>
