<script lang="ts">
  import type { Picked } from '#core/query/picked';
  import type { RecordChange } from '#core/records/fields';
  import type { Summary } from '#core/records/merge';
  import { formatOffset } from '#core/records/taken';
  import type { Stage } from '#core/stages/stages';
  import { counted, formatBytes } from '#core/text/quantities';
  import { api, Problem } from '../common/api';
  import { calmly, hear } from '../common/live';
  import { sayDone, sayWrong } from '../common/notices.svelte';
  import Pips from '../common/Pips.svelte';
  import StageMark from '../common/StageMark.svelte';
  import { moment } from '../wall/dates';
  import EditField from './EditField.svelte';
  import RecordFiles, { type Shown } from './RecordFiles.svelte';
  import Why from '../sentence/Why.svelte';
  import Terms from './Terms.svelte';

  interface Props {
    ids: Picked;
    count: number;
    stages: Stage[];
    canDescribe: boolean;
    canOriginal: boolean;
    /** Compact text of the sentence it is looked at under, where there is one. */
    q?: string;
    onundo?: () => void;
  }
  const { ids, count, stages, canDescribe, canOriginal, q = '', onundo }: Props = $props();
  let summary = $state.raw<(Summary & { bytes: number }) | null>(null);
  let shown = $state.raw<Shown | null>(null);
  const key = $derived(JSON.stringify(ids));
  /** The one item, where it is one. */
  const only = $derived(Array.isArray(ids) && ids.length === 1 ? ids[0] : null);
  const merged = $derived(summary?.merged ?? null);
  const terms = $derived(summary?.terms ?? []);
  const stage = $derived(
    merged && !merged.stage.mixed
      ? stages.find(({ name }) => name === merged.stage.value)
      : undefined,
  );
  const original = $derived(shown?.files.find(({ role }) => role === 'original'));

  async function load(): Promise<void> {
    const asked = key;
    if (count === 0) return;
    const [found, item] = await Promise.all([
      api.post<Summary & { bytes: number }>('/api/records', { ids }),
      only ? api.get<Shown>(`/api/items/${only}`) : null,
    ]);
    if (asked !== key) return;
    summary = found;
    shown = item;
  }

  $effect(() => {
    void key;
    load().catch(sayWrong);
  });
  $effect(() => {
    const soon = calmly(() => void load().catch(() => undefined), 400);
    return hear((message) => {
      if (
        message.about === 'again' ||
        (message.about === 'items' &&
          (message.ids.length === 0 ||
            !Array.isArray(ids) ||
            message.ids.some((id) => ids.includes(id))))
      )
        soon();
    });
  });

  let last: Promise<void> = Promise.resolve();
  /** Change what is chosen. One after the other: who types fast is not in conflict with themselves. */
  export function change(values: RecordChange): Promise<void> {
    const chosen = ids;
    last = last.then(() => changeOf(chosen, values));
    return last;
  }

  /** Undo stands beside what was done. */
  async function changeOf(chosen: Picked, values: RecordChange): Promise<void> {
    try {
      const seen = summary?.versions ?? {};
      const versions = Object.fromEntries(
        (Array.isArray(chosen) ? chosen : []).flatMap((id) =>
          seen[id] === undefined ? [] : [[id, seen[id]]],
        ),
      );
      const { changed, operation } = await api.patch<{ changed: number; operation: string | null }>(
        '/api/records',
        { ids: chosen, change: values, versions },
      );
      await load();
      if (operation && changed > 1)
        sayDone(`${counted(changed, 'record')} changed.`, {
          label: 'Undo',
          run: async () => {
            await api.post(`/api/ledger/${operation}/undo`);
            onundo?.();
          },
        });
    } catch (error) {
      sayWrong(error);
      if (error instanceof Problem && error.code === 'conflict') await load();
    }
  }

  const takenText = $derived.by(() => {
    const taken = merged?.taken.value;
    if (!taken) return '';
    return /T/.test(taken.edtf)
      ? `${moment(taken.from)}${taken.offset === null ? '' : ` ${formatOffset(taken.offset)}`}`
      : taken.edtf;
  });
</script>

<aside class="card" aria-label="Record card">
  {#if count === 0}
    <p class="empty">Choose a picture to read its card, or several to describe them together.</p>
  {:else if merged}
    {#if summary?.number}
      <p class="mono pencil">{summary.number} · {original?.name ?? ''}</p>
    {:else}
      <p class="mono pencil">{counted(count, 'item')} · {formatBytes(summary?.bytes ?? 0)}</p>
    {/if}
    <EditField
      label="Title"
      book="title"
      value={merged.title.value}
      mixed={merged.title.mixed}
      missing="No title yet"
      disabled={!canDescribe}
      onsave={(title) => void change({ title })}
    />
    <EditField
      label="Caption"
      book="caption"
      long
      value={merged.caption.value}
      mixed={merged.caption.mixed}
      missing="No caption yet"
      disabled={!canDescribe}
      onsave={(caption) => void change({ caption })}
    />
    <div class="rating line">
      <span class="name">Rating</span>
      <span class="pick" role="group" aria-label="Rating">
        {#if merged.rating.mixed}<em class="caution">{merged.rating.mixed} different</em>{/if}
        {#if canDescribe}
          {@const rating = merged.rating.mixed ? 0 : merged.rating.value}
          {#each [1, 2, 3, 4, 5] as pips (pips)}
            <button
              type="button"
              aria-label="{pips} of 5"
              aria-pressed={rating === pips}
              onclick={() => void change({ rating: rating === pips ? 0 : pips })}
              ><i class:on={pips <= rating}></i></button
            >
          {/each}
          <button
            type="button"
            aria-label="N, reject"
            aria-pressed={rating === -1}
            onclick={() => void change({ rating: rating === -1 ? 0 : -1 })}>N</button
          >
        {:else if !merged.rating.mixed}<Pips rating={merged.rating.value} />{/if}
      </span>
    </div>
    <div class="line">
      <span class="name">Stage</span>
      <span class="stage">
        {#if stage}<StageMark {stage} />{/if}
        {#if canDescribe}
          <select
            aria-label="Stage"
            value={merged.stage.mixed ? 'mixed' : merged.stage.value}
            onchange={(event) => void change({ stage: event.currentTarget.value })}
          >
            {#if merged.stage.mixed}<option value="mixed" disabled
                >{merged.stage.mixed} different</option
              >{/if}
            <option value="">none yet</option>
            {#each stages as { name } (name)}<option value={name}>{name}</option>{/each}
          </select>
        {:else}{merged.stage.mixed
            ? `${merged.stage.mixed} different`
            : merged.stage.value || 'none yet'}{/if}
      </span>
    </div>
    <EditField
      label="Taken"
      value={takenText}
      mixed={merged.taken.mixed}
      missing="unknown"
      hint="2026-09-12 19:42, 2026-09 …"
      disabled={!canDescribe}
      onsave={(taken) => void change({ taken })}
    />
    <EditField
      label="Creator"
      value={merged.creator.value.join('; ')}
      mixed={merged.creator.mixed}
      missing="missing"
      hint="names, parted by semicolons"
      disabled={!canDescribe}
      onsave={(text) =>
        void change({
          creator: text
            .split(';')
            .map((name) => name.trim())
            .filter(Boolean),
        })}
    />
    <EditField
      label="Credit"
      value={merged.creditLine.value}
      mixed={merged.creditLine.mixed}
      missing="missing"
      disabled={!canDescribe}
      onsave={(creditLine) => void change({ creditLine })}
    />
    <EditField
      label="Copyright"
      value={merged.copyrightNotice.value}
      mixed={merged.copyrightNotice.mixed}
      disabled={!canDescribe}
      onsave={(copyrightNotice) => void change({ copyrightNotice })}
    />
    <h3>Terms</h3>
    <Terms
      {terms}
      many={(summary?.count ?? 0) > 1}
      disabled={!canDescribe}
      onadd={(term) => void change({ addTerms: [term] })}
      onremove={(term) => void change({ removeTerms: [term] })}
    />
    {#if q && only}<Why {q} id={only} />{/if}
    {#if shown}
      <RecordFiles {shown} />
      {#if canOriginal}<p class="take">
          <a class="link" href="/api/items/{only}/original" download>Download the original</a>
        </p>{/if}
    {/if}
  {/if}
</aside>

<style>
  .card {
    height: 100%;
    padding: 18px 16px 80px;
    overflow: auto;
    border-left: 1px solid var(--ink);
    background: var(--card);
  }
  .empty {
    color: var(--pencil);
    font: 16.5px/1.45 var(--book);
  }
  h3 {
    margin: 12px 0 6px;
    padding-top: 12px;
    border-top: 1px solid var(--rule);
    color: var(--pencil);
    font: 600 11.5px var(--plain);
  }
  .line {
    display: grid;
    grid-template-columns: 86px minmax(0, 1fr);
    gap: 4px;
    padding: 2px 0;
  }
  .name {
    color: var(--pencil);
  }
  .pick {
    display: flex;
    align-items: center;
    flex-wrap: wrap;
    margin-left: -7px;
  }
  .pick em {
    width: 100%;
    margin-left: 7px;
  }
  .pick button {
    display: grid;
    place-items: center;
    width: 24px;
    height: 24px;
    border: 0;
    border-radius: 3px;
    padding: 0;
    background: none;
    color: var(--pencil);
    font-size: 16.5px;
  }
  .pick button:hover {
    background: var(--wash);
  }
  .pick button[aria-label='Reject'][aria-pressed='true'] {
    color: var(--wax);
    font-weight: 700;
  }
  i {
    width: 9px;
    height: 9px;
    border: 1px solid var(--ink);
    border-radius: 50%;
  }
  i.on {
    background: var(--ink);
  }
  .stage {
    display: flex;
    gap: 6px;
    align-items: center;
  }
  select {
    border: 0;
    margin-left: -4px;
    padding: 0;
    background: none;
  }
  option {
    background: var(--card);
  }
  .take {
    margin-top: 12px;
  }
</style>
