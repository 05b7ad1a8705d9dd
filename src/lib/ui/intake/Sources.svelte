<script lang="ts" module>
  export type SourceDialog = 'folder' | 'zone' | 'upload' | 'web' | 'sheet';
</script>

<script lang="ts">
  import { goto } from '$app/navigation';
  import { counted, formatBytes } from '#core/text/quantities';
  import { api } from '../common/api';
  import { freshen } from '../common/freshen';
  import { sayDone, sayWrong } from '../common/notices.svelte';
  import { uploads } from '../uploads/queue.svelte';
  import type { PageData } from '../../../routes/(room)/intake/$types';
  import type { SourceKind } from './types';

  interface Props {
    data: PageData;
    /** Name of the source that is being opened. */
    busy: string;
    /** Kind and name of the source looked through. */
    chosen: string;
    onlook: (source: { kind: SourceKind; name: string }) => void;
    onopen: (dialog: SourceDialog) => void;
  }
  const { data, busy, chosen, onlook, onopen }: Props = $props();
  /** The parcel somebody is about to let go of: the second press does it. */
  let sure = $state('');

  async function plug(key: string, plugged: boolean): Promise<void> {
    try {
      await api.put(`/api/intake/devices/${key}`, { plugged });
      await freshen('mindful:intake');
    } catch (error) {
      sayWrong(error);
    }
  }

  const states: Record<string, string> = {
    planned: 'waiting',
    running: 'coming in',
    paused: 'paused',
    cancelled: 'cancelled',
    failed: 'failed',
    done: '',
  };

  async function letGo({ id, kind, title }: PageData['waiting'][number]): Promise<void> {
    if (sure !== id) {
      sure = id;
      return;
    }
    sure = '';
    try {
      await api.delete(`/api/intake/parcels/${id}`);
      sayDone(`“${title}” was let go`);
      await (chosen === `${kind} ${id}` ? goto('/intake') : freshen('mindful:intake'));
    } catch (error) {
      sayWrong(error);
    }
  }
</script>

<nav class="side" aria-label="Sources">
  <h2>Plugged in</h2>
  <ul>
    {#each data.devices as one (one.key)}
      <li class:chosen={chosen === `device ${one.key}`}>
        <button
          type="button"
          disabled={busy === one.key}
          onclick={() => onlook({ kind: 'device', name: one.key })}
        >
          <strong>{one.name}</strong><span class="mono pencil"
            >{one.kind === 'card' ? 'camera card' : 'phone'}</span
          >
        </button>
        <button class="link plug" type="button" onclick={() => void plug(one.key, false)}
          >Pull out<span class="unseen"> {one.name}</span></button
        >
      </li>
    {:else}<li class="none">No card and no phone.</li>{/each}
    {#each data.drawer as one (one.key)}
      <li class="none">
        {one.name}
        <button class="link plug" type="button" onclick={() => void plug(one.key, true)}
          >Plug in<span class="unseen"> {one.name}</span></button
        >
      </li>
    {/each}
  </ul>
  <h2>Bring from</h2>
  <ul>
    <li class:chosen={chosen.startsWith('upload')}>
      <button type="button" onclick={() => onopen('upload')}>
        <span>This computer</span>{#if uploads.busy}<span class="mono pencil"
            >sending, {Math.round((100 * uploads.sent) / Math.max(1, uploads.total))} %</span
          >{/if}
      </button>
    </li>
    <li class:chosen={chosen.startsWith('folder')}>
      <button type="button" onclick={() => onopen('folder')}>A folder on the server</button>
    </li>
    <li class:chosen={chosen.startsWith('web')}>
      <button type="button" onclick={() => onopen('web')}>A web address</button>
    </li>
    <li>
      <button type="button" onclick={() => onopen('sheet')}>A spreadsheet</button>
    </li>
    <li class:chosen={chosen.startsWith('drop-zone')}>
      <button type="button" onclick={() => onopen('zone')}>
        <span>The drop zone</span><span class="mono pencil"
          >{counted(data.zone.whole, 'file')}{data.zone.growing
            ? `, ${data.zone.growing} still arriving`
            : ''}{data.zone.rule ? ' · by itself' : ''}</span
        >
      </button>
    </li>
  </ul>
  {#if data.waiting.length}
    <h2>Arrived, not brought in</h2>
    <ul>
      {#each data.waiting as parcel (parcel.id)}
        <li data-parcel={parcel.id} class:chosen={chosen === `${parcel.kind} ${parcel.id}`}>
          <button
            type="button"
            disabled={busy === parcel.id}
            onclick={() => onlook({ kind: parcel.kind, name: parcel.id })}
          >
            <span class="title">{parcel.title}</span><span class="mono pencil"
              >{counted(parcel.files, 'file')}, {formatBytes(parcel.bytes)}</span
            >
          </button>
          <button class="link plug" type="button" onclick={() => void letGo(parcel)}
            >{sure === parcel.id ? 'Delete them?' : 'Let go'}<span class="unseen">
              {parcel.title}</span
            ></button
          >
        </li>
      {/each}
    </ul>
  {/if}
  <h2>Past accessions</h2>
  <ul>
    {#each data.past as one (one.id)}
      <li>
        <a href="/intake/{one.number}">
          <span><span class="mono">{one.number}</span> {one.title}</span>
          <span class="mono pencil"
            >{one.done} in{one.skipped ? `, ${one.skipped} left out` : ''}{#if one.failed}<em
                >, {one.failed} failed</em
              >{/if}{states[one.state] ? ` · ${states[one.state]}` : ''}</span
          >
        </a>
      </li>
    {:else}<li class="none">Nothing was brought in yet.</li>{/each}
  </ul>
</nav>

<style>
  .side {
    padding: 12px 0;
    overflow: auto;
    border-right: 1px solid var(--rule);
    background: var(--paper);
  }
  h2 {
    padding: 0 14px 4px;
    color: var(--pencil);
    font: 600 11.5px var(--plain);
  }
  ul + h2 {
    margin-top: 16px;
  }
  li.chosen {
    background: var(--wash);
  }
  li button,
  li a {
    color: inherit;
    text-decoration: none;
    display: grid;
    width: 100%;
    padding: 4px 14px;
    border: 0;
    background: none;
    text-align: left;
  }
  li button:hover,
  li a:hover {
    background: var(--wash);
  }
  em {
    color: var(--wax);
    font-style: normal;
  }
  li:has(.plug) {
    position: relative;
  }
  li[data-parcel] button:first-child {
    padding-right: 92px;
  }
  .title {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  li button.plug {
    position: absolute;
    top: 0;
    right: 6px;
    width: auto;
    padding: 5px 8px;
    color: var(--verdigris);
    font-size: 11.5px;
  }
  .none {
    padding: 2px 14px;
    color: var(--pencil);
  }
</style>
