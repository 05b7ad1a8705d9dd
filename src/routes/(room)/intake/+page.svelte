<script lang="ts">
  import { goto } from '$app/navigation';
  import { can } from '#core/people/roles';
  import { api } from '$lib/ui/common/api';
  import { freshen } from '$lib/ui/common/freshen';
  import { calmly, hear } from '$lib/ui/common/live';
  import { sayWrong } from '$lib/ui/common/notices.svelte';
  import FolderDialog from '$lib/ui/intake/FolderDialog.svelte';
  import PlanPanel from '$lib/ui/intake/PlanPanel.svelte';
  import ReportDialog from '$lib/ui/intake/ReportDialog.svelte';
  import ScanWall from '$lib/ui/intake/ScanWall.svelte';
  import type { PageProps } from './$types';

  const { data }: PageProps = $props();
  let choosesFolder = $state(false);
  let report = $state<string | null>(null);
  let busy = $state('');
  /** Positions left out by hand, and held ones taken in by hand. */
  let left = $state<Record<number, boolean>>({});

  const scan = $derived(data.scan);
  const files = $derived(scan?.files ?? []);
  const chosen = $derived(files.filter((file) => left[file.position] ?? file.held === null));
  const positions = $derived(chosen.map(({ position }) => position));
  const device = $derived(
    data.devices.find(({ key }) => scan?.source.kind === 'device' && key === scan.source.name),
  );
  const name = $derived(device?.name ?? scan?.source.name.split('/').at(-1) ?? '');

  $effect(() => {
    const id = scan?.id;
    const soon = calmly(() => void freshen('mindful:intake'), 700);
    return hear((message) => {
      if (
        message.about === 'again' ||
        message.about === 'job' ||
        (message.about === 'scan' && message.id === id)
      )
        soon();
    });
  });

  async function look(source: { kind: 'device' | 'folder'; name: string }): Promise<void> {
    busy = source.name;
    try {
      const { id } = await api.post<{ id: string }>('/api/intake/scans', source);
      left = {};
      await goto(`/intake?scan=${id}`);
    } catch (error) {
      sayWrong(error);
    } finally {
      busy = '';
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
</script>

<svelte:head><title>Intake · Mindful Archive</title></svelte:head>

<div class="intake" class:planned={scan && files.length > 0}>
  <nav class="side" aria-label="Sources">
    <h2>Plugged in</h2>
    <ul>
      {#each data.devices as one (one.key)}
        <li class:chosen={device?.key === one.key}>
          <button
            type="button"
            disabled={busy === one.key}
            onclick={() => void look({ kind: 'device', name: one.key })}
          >
            <strong>{one.name}</strong><span class="mono pencil"
              >{one.kind === 'card' ? 'camera card' : 'phone'}</span
            >
          </button>
        </li>
      {:else}<li class="none">No card and no phone.</li>{/each}
    </ul>
    <h2>Bring from</h2>
    <ul>
      <li class:chosen={scan?.source.kind === 'folder'}>
        <button type="button" onclick={() => (choosesFolder = true)}>A folder on the server</button>
      </li>
    </ul>
    <h2>Past accessions</h2>
    <ul>
      {#each data.past as one (one.id)}
        <li>
          <button type="button" onclick={() => (report = one.id)}>
            <span><span class="mono">{one.number}</span> {one.title}</span>
            <span class="mono pencil"
              >{one.done} in{one.skipped ? `, ${one.skipped} left out` : ''}{#if one.failed}<em
                  >, {one.failed} failed</em
                >{/if}{states[one.state] ? ` · ${states[one.state]}` : ''}</span
            >
          </button>
        </li>
      {:else}<li class="none">Nothing was brought in yet.</li>{/each}
    </ul>
  </nav>
  {#if scan && files.length > 0}
    <ScanWall {scan} {name} {left} chosen={chosen.length} onleft={(next) => (left = next)} />
    <PlanPanel
      scanId={scan.id}
      {positions}
      {name}
      ready={scan.state === 'done'}
      places={data.places}
      canAddPlace={can(data.actor.role, 'manage')}
      remembered={data.remembered}
    />
  {:else}
    <section class="well">
      <div>
        {#if scan}
          <h1>{name}</h1>
          <p>There are no files in it that can be brought in.</p>
        {:else}
          <h1>Bring something in</h1>
          <p>
            Choose a card, a phone or a folder. You see its pictures before anything is copied, and
            what the archive holds already is left out.
          </p>
        {/if}
      </div>
    </section>
  {/if}
</div>

{#if choosesFolder}<FolderDialog
    onclose={() => (choosesFolder = false)}
    onchoose={(path) => ((choosesFolder = false), void look({ kind: 'folder', name: path }))}
  />{/if}
{#if report}<ReportDialog id={report} onclose={() => (report = null)} />{/if}

<style>
  .intake {
    display: grid;
    grid-template-columns: 206px minmax(0, 1fr);
    height: 100%;
  }
  .intake.planned {
    grid-template-columns: 206px minmax(0, 1fr) 404px;
  }
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
  li button {
    display: grid;
    width: 100%;
    padding: 4px 14px;
    border: 0;
    background: none;
    text-align: left;
  }
  li button:hover {
    background: var(--wash);
  }
  em {
    color: var(--wax);
    font-style: normal;
  }
  .none {
    padding: 2px 14px;
    color: var(--pencil);
  }
  .well {
    display: grid;
    place-items: center;
    background: var(--well);
  }
  .well div {
    max-width: 420px;
    font: 16.5px/1.45 var(--book);
  }
  h1 {
    margin-bottom: 8px;
    font-size: 28px;
  }
</style>
