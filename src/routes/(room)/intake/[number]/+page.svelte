<script lang="ts">
  import { counted, formatBytes, formatCount, formatDuration } from '#core/text/quantities';
  import { api } from '$lib/ui/common/api';
  import Dialog from '$lib/ui/common/Dialog.svelte';
  import { freshen } from '$lib/ui/common/freshen';
  import Listing from '$lib/ui/common/Listing.svelte';
  import { calmly, hear } from '$lib/ui/common/live';
  import { sayDone, sayWrong } from '$lib/ui/common/notices.svelte';
  import { formatShift } from '$lib/ui/intake/draft';
  import { instant } from '$lib/ui/wall/dates';
  import type { PageProps } from './$types';

  const { data }: PageProps = $props();
  const report = $derived(data.report);
  let empties = $state(false);
  let files = $state(false);
  const WAYS: Record<string, string> = {
    copy: 'copied and verified into',
    move: 'moved into',
    'in-place': 'kept in place in',
  };
  const shownOf = $derived(
    {
      all: report.files,
      done: report.done,
      skipped: report.skipped,
      failed: report.failed,
    }[data.shows],
  );
  const settled = $derived(report.files - report.open);
  const runs = $derived(report.open > 0 && report.state !== 'cancelled');
  const to = (changes: Record<string, string>): string => {
    const search = new URLSearchParams({ shows: data.shows, ...changes });
    return `?${search.toString()}`;
  };
  const took = $derived(
    report.startedAt && report.finishedAt
      ? (report.finishedAt.getTime() - report.startedAt.getTime()) / 1000
      : null,
  );
  const again = $derived(report.failed + report.seconds.failed + report.refused);

  $effect(() => {
    const soon = calmly(() => void freshen('mindful:accession'), 1000);
    return hear(({ about }) => {
      if (about === 'job' || about === 'items' || about === 'again') soon();
    });
  });

  async function act(run: () => Promise<unknown>, said: string): Promise<void> {
    try {
      await run();
      sayDone(said);
      await freshen('mindful:accession');
    } catch (error) {
      sayWrong(error);
    }
  }
  const retry = (): Promise<void> =>
    act(() => api.post(`/api/intake/accessions/${report.id}`), 'Trying what failed once more.');
  function empty(): void {
    empties = false;
    void act(
      () => api.post(`/api/intake/accessions/${report.id}/empty`, { confirmed: true }),
      'The source is being emptied.',
    );
  }
</script>

<svelte:head><title>Accession {report.number} · Mindful Archive</title></svelte:head>

<div class="report">
  <header>
    <p class="pencil"><a class="link" href="/intake">Intake</a> · {instant(report.createdAt)}</p>
    <h1>Accession {report.number}: {report.title}</h1>
    <p class="lead">
      {counted(report.done, 'file')} ({formatBytes(report.bytes)}) {WAYS[report.mode]}
      {report.place}{report.by ? ` by ${report.by}` : ''}, {report.skipped} left out, {report.failed}
      failed{report.open ? `, ${report.open} to come` : ''}.
    </p>
    {#if runs}<p class="progress">
        <progress
          value={settled}
          max={report.files}
          aria-label="{settled} of {report.files} files settled"
        ></progress>
        <span class="pencil" aria-live="polite"
          >{formatCount(settled)} of {formatCount(report.files)}</span
        >
      </p>{/if}
    {#if data.pictures.length}<ul class="arrived" aria-label="What came in last">
        {#each data.pictures as { number, name, picture, aspect } (number)}
          <li style="flex-grow:{aspect};width:{Math.round(74 * aspect)}px">
            <a href="/catalogue/{number}" title={name}
              ><img src="/api/pictures/{picture}/small" alt={name} loading="lazy" /></a
            >
          </li>
        {/each}
      </ul>{/if}
    {#if report.reason}<p class="wrong" role="alert">{report.reason}</p>{/if}
    <dl>
      <div>
        <dt>From</dt>
        <dd class="mono">{report.root}</dd>
      </div>
      <div>
        <dt>To</dt>
        <dd class="mono">{report.placeRoot}</dd>
      </div>
      <div>
        <dt>Checks</dt>
        <dd>
          {counted(report.checked, 'file')}
          {report.mode === 'in-place' ? 'read and hashed' : 'read back and compared'} (xxh3-128){report.secondPlace
            ? `; second copies in ${report.secondPlace}: ${report.seconds.done} verified${report.seconds.failed ? `, ${report.seconds.failed} failed` : ''}`
            : ''}
        </dd>
      </div>
      <div>
        <dt>Time</dt>
        <dd>
          {took === null ? report.state : formatDuration(took)}{report.speed
            ? `, ${formatBytes(report.speed)} a second`
            : ''}
        </dd>
      </div>
      {#if report.removed || report.refused}<div>
          <dt>Source</dt>
          <dd>
            {counted(report.removed, 'file')} deleted after verification{report.refused
              ? `, ${report.refused} left there`
              : ''}
          </dd>
        </div>{/if}
      {#if report.manifests.length}<div>
          <dt>Manifests</dt>
          <dd>
            {#each report.manifests as path, at (path)}<a
                class="link mono"
                href="/api/intake/accessions/{report.id}/manifest?at={at}"
                >{path.split('/').at(-1)}</a
              >
            {/each}
          </dd>
        </div>{/if}
    </dl>
    <p class="acts">
      <a class="button act" href="/catalogue?q={encodeURIComponent(`accession ${report.number}`)}"
        >See its items</a
      >
      {#if data.filing && report.done > 0}<button
          class="button"
          type="button"
          onclick={() => (files = true)}>File them …</button
        >{/if}
      {#if again > 0}<button class="button" type="button" onclick={() => void retry()}
          >Try again what failed</button
        >{/if}
      {#if report.mode !== 'in-place' && report.state === 'done' && data.emptying.files > 0}<button
          class="button"
          type="button"
          onclick={() => (empties = true)}>Empty the source</button
        >{/if}
      <a class="button" href="/api/intake/accessions/{report.id}/report">Save as CSV</a>
      <button class="button" type="button" onclick={() => window.print()}>Print</button>
    </p>
  </header>
  <div class="filter" role="group" aria-label="Which files">
    {#each [['all', report.files], ['done', report.done], ['skipped', report.skipped], ['failed', report.failed]] as const as [key, count] (key)}
      <a
        href={to({ shows: key })}
        data-sveltekit-replacestate
        data-sveltekit-noscroll
        aria-current={data.shows === key ? 'true' : undefined}
        >{{ all: 'All', done: 'Brought in', skipped: 'Left out', failed: 'Failed' }[key]}
        {formatCount(count)}</a
      >
    {/each}
  </div>
  <Listing>
    <thead
      ><tr
        ><th scope="col">File</th><th scope="col">Became</th><th scope="col">Bytes</th><th
          scope="col">xxh3-128</th
        ></tr
      ></thead
    >
    <tbody>
      {#each report.lines as line (line.position)}
        <tr>
          <td class="mono">{line.from}</td>
          <td>
            {#if line.number}<a class="link mono" href="/catalogue/{line.number}">{line.number}</a>
              <span class="mono">{line.to}</span>{/if}
            {#if line.reason}<span class:wrong={line.state === 'failed'}>{line.reason}</span>{/if}
            {#if line.state === 'planned' || line.state === 'placing'}<span class="pencil"
                >to come</span
              >{/if}
            {#if line.secondReason}<span class="wrong">second copy: {line.secondReason}</span>{/if}
            {#if line.sourceReason}<span class="caution"
                >left in the source: {line.sourceReason}</span
              >{/if}
            {#if line.clockShift}<span class="pencil">clock {formatShift(line.clockShift)}</span
              >{/if}
          </td>
          <td class="mono number">{formatBytes(line.size)}</td>
          <td class="mono hash">{line.xxh128 ?? ''}</td>
        </tr>
      {:else}<tr><td colspan="4" class="pencil">None.</td></tr>{/each}
    </tbody>
  </Listing>
  {#if shownOf > report.lines.length}<a
      class="link more"
      href={to({ most: String(data.most + 1000) })}
      data-sveltekit-replacestate
      data-sveltekit-noscroll>Show more of {formatCount(shownOf)}</a
    >{/if}
</div>

{#if files && data.filing}
  {#await import('$lib/ui/rename/FilingDialog.svelte') then { default: FilingDialog }}<FilingDialog
      ids={{ q: `accession ${report.number}`, except: [] }}
      count={report.done}
      remembered={data.filing}
      onclose={() => (files = false)}
    />{/await}
{/if}
{#if empties}
  <Dialog title="Empty the source" onclose={() => (empties = false)}>
    <p>
      {counted(data.emptying.files, 'file')} ({formatBytes(data.emptying.bytes)}) are deleted from
      <span class="mono">{report.root}</span>, each after its copy was read once more and found
      good.
      {#if data.emptying.stay}{counted(data.emptying.stay, 'file')} that were not brought in stay there.{/if}
    </p>
    {#if data.emptying.single}<p class="caution">
        {counted(data.emptying.single, 'item')} will have one copy only. This cannot be undone.
      </p>{/if}
    {#snippet foot()}<button class="button act" type="button" onclick={empty}
        >Delete {counted(data.emptying.files, 'file')} there</button
      >{/snippet}
  </Dialog>
{/if}

<style>
  .report {
    height: 100%;
    padding: 16px 24px;
    overflow: auto;
  }
  h1 {
    margin: 2px 0 6px;
    font: 28px/1.2 var(--book);
  }
  .lead {
    font: 16.5px/1.4 var(--book);
  }
  dl {
    margin: 12px 0;
  }
  dl div {
    display: grid;
    grid-template-columns: 88px minmax(0, 1fr);
    padding: 3px 0;
    border-top: 1px solid var(--rule);
  }
  dt {
    color: var(--pencil);
  }
  dd {
    overflow-wrap: anywhere;
  }
  .acts,
  .filter {
    display: flex;
    flex-wrap: wrap;
    gap: 8px;
  }
  .filter {
    margin-top: 16px;
  }
  .progress {
    display: flex;
    gap: 10px;
    align-items: center;
    margin-top: 6px;
  }
  progress {
    width: 320px;
    height: 6px;
    accent-color: var(--verdigris);
  }
  .arrived {
    display: flex;
    flex-wrap: wrap;
    gap: 4px;
    max-height: 156px;
    margin: 12px 0 0;
    padding: 0;
    overflow: hidden;
    list-style: none;
  }
  .arrived li {
    height: 74px;
    max-width: 180px;
    background: var(--well);
  }
  .arrived img {
    display: block;
    width: 100%;
    height: 100%;
    object-fit: cover;
  }
  .filter a {
    padding: 2px 8px;
    border-bottom: 2px solid transparent;
    color: inherit;
    text-decoration: none;
  }
  .filter [aria-current='true'] {
    border-color: var(--verdigris);
    font-weight: 600;
  }
  td span + span {
    margin-left: 6px;
  }
  .number {
    white-space: nowrap;
    text-align: right;
  }
  .hash {
    color: var(--pencil);
    font-size: 11.5px;
  }
  .more {
    margin-top: 8px;
  }
  @media print {
    .acts,
    .filter,
    .more {
      display: none;
    }
    .report {
      overflow: visible;
    }
  }
</style>
