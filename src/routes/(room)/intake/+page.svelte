<script lang="ts">
  import { counted } from '#core/text/quantities';
  import { untrack } from 'svelte';
  import { goto } from '$app/navigation';
  import { can } from '#core/people/roles';
  import { api } from '$lib/ui/common/api';
  import { freshen } from '$lib/ui/common/freshen';
  import { calmly, hear } from '$lib/ui/common/live';
  import { sayWrong } from '$lib/ui/common/notices.svelte';
  import { filesOf, give, type Decisions, type Owners } from '$lib/ui/intake/choice';
  import { draftFrom, type Draft } from '$lib/ui/intake/draft';
  import DropZoneDialog from '$lib/ui/intake/DropZoneDialog.svelte';
  import FolderDialog from '$lib/ui/intake/FolderDialog.svelte';
  import PlanPanel from '$lib/ui/intake/PlanPanel.svelte';
  import SheetDialog from '$lib/ui/intake/SheetDialog.svelte';
  import Sources, { type SourceDialog } from '$lib/ui/intake/Sources.svelte';
  import ScanWall from '$lib/ui/intake/ScanWall.svelte';
  import type { ScanFile, SourceKind } from '$lib/ui/intake/types';
  import WebDialog from '$lib/ui/intake/WebDialog.svelte';
  import { uploads } from '$lib/ui/uploads/queue.svelte';
  import UploadDialog from '$lib/ui/uploads/UploadDialog.svelte';
  import type { PageProps } from './$types';

  const { data }: PageProps = $props();
  let dialog = $state<SourceDialog | null>(null);
  let busy = $state('');
  /** Groups of one source, each with a plan of its own. */
  let drafts = $state<Draft[]>([]);
  let group = $state(0);
  let owners = $state<Owners>({});
  let decisions = $state<Decisions>({});
  /** Folders that are one item each. */
  let bundles = $state<string[]>([]);

  const scan = $derived(
    data.scan && { ...data.scan, files: JSON.parse(data.scan.files) as ScanFile[] },
  );
  const files = $derived(scan?.files ?? []);
  const chosen = $derived(filesOf(files, owners, group));
  const device = $derived(
    data.devices.find(({ key }) => scan?.source.kind === 'device' && key === scan.source.name),
  );
  const name = $derived(
    device?.name ?? data.parcelTitle ?? scan?.source.name.split('/').at(-1) ?? '',
  );
  const scanId = $derived(scan?.id);

  // Another source begins with the plan that was last used for it.
  $effect(() => {
    void scanId;
    untrack(() => {
      drafts = [draftFrom(data.lastPlan, name, data.places)];
      group = 0;
      owners = {};
      decisions = {};
      bundles = [];
      if (scan?.source.name === uploads.parcel) takeWishes();
    });
  });

  /** What was said about uploads whose names are held. */
  function takeWishes(): void {
    const wishes = new Map(uploads.list.map((one) => [one.path, one]));
    for (const file of files) {
      const one = wishes.get(file.path);
      if (!one?.held) continue;
      owners[file.position] = 0;
      decisions[file.position] = one.wish === 'version' ? { versionOf: one.held.itemId } : 'again';
    }
    uploads.forget();
  }
  function lookInto(kind: SourceKind, parcel: string): void {
    dialog = null;
    void look({ kind, name: parcel });
  }

  function addGroup(): void {
    drafts.push({ ...$state.snapshot(drafts[group]!), title: `${name} ${drafts.length + 1}` });
    group = drafts.length - 1;
  }
  function removeGroup(at: number): void {
    const back = filesOf(files, owners, at);
    owners = give(owners, back, null);
    owners = Object.fromEntries(
      Object.entries(owners).map(([position, owner]) => [
        position,
        owner !== null && owner > at ? owner - 1 : owner,
      ]),
    );
    drafts.splice(at, 1);
    group = Math.min(group, drafts.length - 1);
  }
  /** Other groups of the card still wait for their plans; after the last one the report fills. */
  async function started(number: string): Promise<void> {
    const others = drafts.length > 1;
    if (others) removeGroup(group);
    await (others ? freshen('mindful:intake') : goto(`/intake/${number}`));
  }

  $effect(() => {
    const id = scan?.id;
    const soon = calmly(() => void freshen('mindful:intake'), 700);
    return hear((message) => {
      if (
        message.about === 'again' ||
        message.about === 'job' ||
        message.about === 'places' ||
        (message.about === 'scan' && message.id === id)
      )
        soon();
    });
  });

  async function look(source: { kind: SourceKind; name: string }): Promise<void> {
    busy = source.name;
    try {
      const { id } = await api.post('/api/intake/scans', source);
      await goto(`/intake?scan=${id}`);
    } catch (error) {
      sayWrong(error);
    } finally {
      busy = '';
    }
  }
</script>

<svelte:head><title>Intake · Mindful Archive</title></svelte:head>

<div class="intake" class:planned={scan && files.length > 0}>
  <Sources
    {data}
    {busy}
    chosen={scan ? `${scan.source.kind} ${scan.source.name}` : ''}
    onlook={(source) => void look(source)}
    onopen={(one) => (dialog = one)}
  />
  {#if scan && files.length > 0}
    <div class="chosen-from">
      <div>
        {#if scan.reason}<p class="wrong away" role="alert">
            {scan.reason}
            <button class="link" type="button" onclick={() => void look(scan.source)}
              >Look again</button
            >
          </p>{/if}
        {#if scan.leftOut.length > 0}<details class="away">
            <summary
              >Left out of this source: {counted(scan.leftOut.length, 'entry', 'entries')}</summary
            >
            <ul>
              {#each scan.leftOut as { path, why } (path)}<li>
                  <span class="mono">{path}</span> <span class="pencil">{why}</span>
                </li>{/each}
            </ul>
          </details>{/if}
      </div>
      <ScanWall
        {scan}
        {name}
        {owners}
        {decisions}
        {bundles}
        onbundles={(next) => (bundles = next)}
        {group}
        chosen={chosen.length}
        onowners={(next) => (owners = next)}
        ondecisions={(next) => (decisions = next)}
      />
    </div>
    <div class="plans">
      <div class="groups" role="group" aria-label="Groups, each with its plan">
        {#each drafts as _, at (at)}
          <button class="tab" type="button" aria-pressed={group === at} onclick={() => (group = at)}
            >Plan {at + 1} <span class="pencil">{filesOf(files, owners, at).length}</span></button
          >
        {/each}
        <button class="link" type="button" onclick={addGroup}>+ another plan</button>
        {#if drafts.length > 1}<button class="link" type="button" onclick={() => removeGroup(group)}
            >without this one</button
          >{/if}
      </div>
      {#key `${scan.id} ${group} ${drafts.length}`}
        {#if drafts[group]}<PlanPanel
            {scan}
            files={chosen}
            {decisions}
            {bundles}
            bind:draft={drafts[group]!}
            ready={scan.state === 'done'}
            places={data.places}
            speed={data.speed}
            plans={data.plans}
            canAddPlace={can(data.actor.role, 'manage')}
            onstarted={(number) => void started(number).catch(sayWrong)}
          />{/if}
      {/key}
    </div>
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

{#if dialog === 'folder'}<FolderDialog
    onclose={() => (dialog = null)}
    onchoose={(path) => ((dialog = null), void look({ kind: 'folder', name: path }))}
  />{:else if dialog === 'upload'}<UploadDialog
    onclose={() => (dialog = null)}
    onlook={(parcel) => lookInto('upload', parcel)}
  />{:else if dialog === 'sheet'}<SheetDialog
    places={data.places}
    onclose={() => (dialog = null)}
  />{:else if dialog === 'web'}<WebDialog
    example={data.standIn}
    onclose={() => (dialog = null)}
    onlook={(parcel) => lookInto('web', parcel)}
  />{:else if dialog === 'zone'}<DropZoneDialog
    zone={data.zone}
    places={data.places}
    plans={data.plans}
    canRule={can(data.actor.role, 'manage')}
    onlook={() => ((dialog = null), void look({ kind: 'drop-zone', name: 'Drop zone' }))}
    onclose={() => (dialog = null)}
  />{/if}

<style>
  .intake {
    display: grid;
    grid-template-columns: 206px minmax(0, 1fr);
    height: 100%;
  }
  .intake.planned {
    grid-template-columns: 206px minmax(0, 1fr) 404px;
  }
  .chosen-from,
  .plans {
    display: grid;
    min-width: 0;
    min-height: 0;
  }
  .chosen-from {
    grid-template-rows: auto minmax(0, 1fr);
  }
  .chosen-from > :global(.scan) {
    grid-row: 2;
  }
  .away {
    padding: 6px 14px;
  }
  .away ul {
    max-height: 180px;
    margin-top: 6px;
    overflow: auto;
  }
  .plans {
    grid-template-rows: auto minmax(0, 1fr);
    background: var(--card);
  }
  .groups {
    display: flex;
    gap: 10px;
    padding: 6px 20px 0;
    border-left: 1px solid var(--ink);
  }
  .groups .tab {
    padding: 2px 4px;
    border: 0;
    border-bottom: 2px solid transparent;
    background: none;
  }
  .groups [aria-pressed='true'] {
    border-color: var(--verdigris);
    font-weight: 600;
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
  @media (max-width: 760px) {
    .intake,
    .intake.planned {
      grid-template-columns: minmax(0, 1fr);
      grid-auto-rows: auto;
      overflow: auto;
    }
    .chosen-from,
    .plans {
      min-height: 60dvh;
    }
  }
</style>
